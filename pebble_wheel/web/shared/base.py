"""Templates, and what every screen needs at hand: the database, the evaluator and the settings."""

import sqlite3
from collections.abc import AsyncIterator, Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path as FilePath
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Path, Request
from fastapi.templating import Jinja2Templates

from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.pictures import Pictures
from pebble_wheel.store.pool import Connections
from pebble_wheel.store.settings import load
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.messages import Message, said_of_fault
from pebble_wheel.workshop.evaluator import Evaluator

Done = TypeVar("Done")

WEB = FilePath(__file__).parent.parent

templates = Jinja2Templates(WEB)
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.globals["asset"] = ASSETS.address


async def database(request: Request) -> AsyncIterator[sqlite3.Connection]:
    """Lend the database for one request."""
    connections: Connections = request.app.state.connections
    with connections.lent() as connection:
        yield connection


Database = Annotated[sqlite3.Connection, Depends(database)]

STORE_FAULTS = (sqlite3.DatabaseError, FileNotFoundError)
"""By which a store says that it cannot be read or written."""


class Keeping:
    """Writes for one request: a store that cannot be written to is said, and what is in work stays."""

    def __init__(self, request: Request) -> None:
        self._connections: Connections = request.app.state.connections

    def tried(self, do: Callable[[sqlite3.Connection], Done]) -> Done | Message:
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

    @property
    def settings(self) -> Settings:
        """What the person chose."""
        return self.display.settings


def desk_of(request: Request, evaluator: Evaluating) -> Desk:
    """Return the application's evaluator with the person's settings, loaded for one request.

    Where they cannot be read just now, those read last serve, so that what is in work stays on the screen.
    """
    state = request.app.state
    with suppress(*STORE_FAULTS), state.connections.lent() as connection:
        state.settings = load(connection)
    return Desk(evaluator, Display(getattr(state, "settings", Settings())))


AtDesk = Annotated[Desk, Depends(desk_of)]

Number = Annotated[int, Path(ge=1, le=2**53)]
"""A design's number in an address."""


def is_htmx(request: Request) -> bool:
    """Return whether htmx asks, which wants parts of a page."""
    return request.headers.get("hx-request") == "true"


def render(request: Request, name: str, view: object, status: int = 200) -> Any:
    """Return a page or parts of one: a template shows a view, and nothing else."""
    return templates.TemplateResponse(request, name, {"view": view}, status_code=status)
