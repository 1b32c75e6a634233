"""Templates, and what every screen needs at hand: the database, the evaluator and the settings."""

import sqlite3
from collections.abc import AsyncIterator, Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path as FilePath
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Path, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.templating import Jinja2Templates
from starlette.datastructures import State

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.settings import Settings, UnitSet, suggested_set
from pebble_wheel.store import tools
from pebble_wheel.store.database import Remembering
from pebble_wheel.store.lots import Lot, usable
from pebble_wheel.store.pictures import Pictures
from pebble_wheel.store.pool import Connections
from pebble_wheel.store.records import FIRST
from pebble_wheel.store.settings import chosen, load
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.web.shared.choices import Choice
from pebble_wheel.web.shared.into import Into
from pebble_wheel.web.shared.learned import Learned
from pebble_wheel.web.shared.thread import Thread, thread_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.lots import NOT_KNOWN, OWN_FIBRE
from pebble_wheel.wording.messages import Message, said_of_fault
from pebble_wheel.wording.thread import Step
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.hands import pace_in
from pebble_wheel.workshop.tools import Tools, tools_of

Done = TypeVar("Done")

SPINNER, COUNTED = "spinner", "hands"
"""Cookies of a device: who spins at it, and whether what was learned of them counts."""

LOT = "lot:"
"""Before the uid of a lot where a fibre is chosen."""

WEB = FilePath(__file__).parent.parent

templates = Jinja2Templates(WEB)
templates.env.add_extension(Into)
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.auto_reload = False
templates.env.globals["asset"] = ASSETS.address


async def database(request: Request) -> AsyncIterator[Remembering]:
    """Lend the database for one request."""
    connections: Connections = request.app.state.connections
    with connections.lent() as connection:
        yield connection


Database = Annotated[Remembering, Depends(database)]

STORE_FAULTS = (sqlite3.DatabaseError, FileNotFoundError)
"""By which a store says that it cannot be read or written."""


class Keeping:
    """Writes for one request: a store that cannot be written to is said, and what is in work stays."""

    def __init__(self, request: Request) -> None:
        self._connections: Connections = request.app.state.connections

    def tried(self, do: Callable[[Remembering], Done]) -> Done | Message:
        """Return what was done, or what is wrong with the store."""
        try:
            with self._connections.lent() as connection:
                return do(connection)
        except STORE_FAULTS as fault:
            said = said_of_fault(fault)
            if said is None:
                raise
            return said


Writing = Annotated[Keeping, Depends(Keeping)]


async def evaluator_of(request: Request) -> Evaluator:
    """Return the evaluator of the application; at once, and not by way of a thread."""
    evaluator: Evaluator = request.app.state.evaluator
    return evaluator


Evaluating = Annotated[Evaluator, Depends(evaluator_of)]


def pictures_of(request: Request) -> Pictures:
    """Return the small pictures kept beside the database."""
    connections: Connections = request.app.state.connections
    return Pictures(connections.file)


SmallPictures = Annotated[Pictures, Depends(pictures_of)]


@dataclass(frozen=True)
class Desk:
    """What a screen works with: the evaluator, and figures as the person reads them."""

    evaluator: Evaluator
    display: Display
    load_lots: Callable[[], list[Lot]] = list
    kept_tools: Tools | None = None
    """None where none can be read."""
    offered: UnitSet | None = None
    """The set of units that the browser's language suggests, while nobody has chosen any, where it is another."""
    learned: Learned = field(default_factory=Learned)
    """What is known of the spinner at the wheel."""
    load_thread: Callable[[int, Step], Thread | None] = lambda number, here: None
    """Of a kept yarn, seen from one of its pages; None where it cannot be read just now."""

    def for_yarn(self, number: int, design: Design) -> "Desk":
        """Return the desk with what was measured of this very yarn, if anything was."""
        measured = self.learned.of_yarn(number, design)
        return replace(self, evaluator=self.learned.evaluator(self.evaluator, measured)) if measured else self

    @property
    def plain(self) -> Evaluator:
        """The evaluator as for anybody, whatever was learned."""
        return self.evaluator.taught(None, "")

    @property
    def settings(self) -> Settings:
        """What the person chose."""
        return self.display.settings

    @cached_property
    def tools(self) -> Tools:
        """What yarn is made with, and at what pace: as counted lately, else as told."""
        return self.kept_tools or tools_of((), self.learned.pace or pace_in(self.settings))

    @property
    def hands(self) -> Hands:
        """How the person spins on the tool that they use most."""
        return self.tools.hands()

    @cached_property
    def lots(self) -> list[Lot]:
        """The fibre in hand; looked up when it is first asked for."""
        return self.load_lots()

    def lot(self, value: str) -> Lot | None:
        """Return the lot that a choice of fibre names."""
        return (
            next((each for each in self.lots if value == f"{LOT}{each.uid}"), None) if value.startswith(LOT) else None
        )

    def fibre_choices(self, now: str) -> list[Choice]:
        """Return what a fibre can be chosen from, lots in hand first; one given in place if it is chosen now."""
        known = [Choice(f"{LOT}{each.uid}", each.lot.name) for each in self.lots]
        known += [Choice(fibre.id, fibre.name) for fibre in FIBRES.values()]
        if not now:
            known.insert(0, Choice("", NOT_KNOWN))
        elif now not in {each.value for each in known}:
            known.insert(0, Choice(now, OWN_FIBRE))
        return known


@dataclass(frozen=True)
class _Kept:
    """What every screen wants of the store."""

    settings: Settings
    offers: bool
    """Whether another set of units may be offered, since nobody has chosen any."""
    learned: Learned
    tools: Tools


def _kept_for(state: State, who: tuple[str, bool], at_once: bool = False) -> _Kept | None:
    """Return what is kept for a spinner; None where it cannot be read, or was not read yet and is wanted at once."""

    def read() -> _Kept:
        learned: Learned = state.learning.of(connection, str(state.connections.file), *who)
        settings = load(connection)
        owned = ((each.uid, each.model) for each in tools.usable(connection))
        return _Kept(settings, not chosen(connection), learned, tools_of(owned, learned.pace or pace_in(settings)))

    found: _Kept | None = None
    with suppress(*STORE_FAULTS), state.connections.lent() as connection:
        found = connection.at_hand(who) if at_once else connection.unchanged(who, read)
    return found


async def desk_of(request: Request) -> Desk:
    """Return the application's evaluator with the person's settings, loaded for one request.

    Where they cannot be read just now, those read last serve, so that what is in work stays on the screen.
    """
    state, evaluator = request.app.state, await evaluator_of(request)
    who = request.cookies.get(SPINNER, FIRST), request.cookies.get(COUNTED) != "no"
    known = _kept_for(state, who, at_once=True) or await run_in_threadpool(_kept_for, state, who)
    if known:
        state.settings, state.offers = known.settings, known.offers
    learned = known.learned if known else Learned()

    def load_lots() -> list[Lot]:
        with suppress(*STORE_FAULTS), state.connections.lent() as connection:
            return connection.unchanged(usable, lambda: usable(connection))
        return []

    def load_thread(number: int, here: Step) -> Thread | None:
        if is_htmx(request):  # parts of a page never hold it
            return None
        with suppress(*STORE_FAULTS), state.connections.lent() as connection:
            return thread_of(connection, number, here)
        return None

    settings = getattr(state, "settings", Settings())
    suggested = suggested_set(request.headers.get("accept-language", ""))
    offers = getattr(state, "offers", False) and suggested != settings.unit_set
    own = learned.evaluator(evaluator)
    display, offered = Display(settings, *learned.card), suggested if offers else None
    return Desk(own, display, load_lots, known.tools if known else None, offered, learned, load_thread)


AtDesk = Annotated[Desk, Depends(desk_of)]

Number = Annotated[int, Path(ge=1, le=2**53)]
"""A design's number in an address."""


def is_htmx(request: Request) -> bool:
    """Return whether htmx asks, which wants parts of a page."""
    return request.headers.get("hx-request") == "true"


def render(request: Request, name: str, view: object, status: int = 200) -> Any:
    """Return a page or parts of one: a template shows a view, and nothing else."""
    return templates.TemplateResponse(request, name, {"view": view}, status_code=status)
