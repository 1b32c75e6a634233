"""The shelf of lots: fibre in hand, kept once and used by many yarns."""

from dataclasses import dataclass, field
from typing import get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from pebble_wheel.drawing.colour import braid_svg
from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.lot import LOT_FIELDS, LotModel, read_lot
from pebble_wheel.store import lots
from pebble_wheel.store.rows import new_uid
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, render
from pebble_wheel.web.shared.choices import choices_of
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.colour import BRAID, EDGES_WORDS, ORDER_WORDS, braid_words
from pebble_wheel.wording.examples import Like, like
from pebble_wheel.wording.lots import DRAW_WORDS, fibre_words, fitness, left_words, staple_words
from pebble_wheel.wording.messages import Message
from pebble_wheel.workshop.colour import bands_of_lot, colours_of_lot

router = APIRouter(prefix="/fibre")

MOST_TYPED = 2000


@dataclass(frozen=True)
class Card:
    """One lot on the shelf."""

    id: int
    name: str
    fibre: str
    staple: str
    fit: str
    left: str
    share_left: float
    """Of what it once weighed."""
    note: str
    braid: Markup
    """Laid out."""
    uses: list[lots.Use]


@dataclass(frozen=True)
class FibreView:
    """The page."""

    cards: list[Card]
    damaged: list[lots.DamagedLot]
    typed: dict[str, str]
    faults: dict[str, str]
    like: Like
    crimps: str
    """How crimps are counted."""
    number: int | None = None
    """The lot that is being changed."""
    away: int | None = None
    """The lot just put away."""
    unkept: str = ""

    preps = get_args(Prep)

    edges = choices_of(EDGES_WORDS)
    orders = choices_of(ORDER_WORDS)
    braid: Markup = field(default_factory=Markup)
    """As it is typed; nothing of what cannot be read."""

    draws = choices_of(DRAW_WORDS)


@router.get("")
def show(
    request: Request, connection: Database, desk: AtDesk, change: int | None = None, away: int | None = None
) -> Response:
    """Show the lots, and the form for another one or for one to be changed."""
    typed = lots.find(connection, change).typed if change else {}
    return _answer(request, connection, desk, typed, number=change, away=away)


@router.post("")
def add(request: Request, writing: Writing, connection: Database, desk: AtDesk, sent: Sent) -> Response:
    """Keep a new lot, or what one has become."""
    typed = {name: value[:MOST_TYPED] for name, value in texts(sent).items()}
    number = int(typed["id"]) if typed.get("id", "").isdecimal() and len(typed["id"]) < 18 else None
    own = {name: typed[name] for name in LOT_FIELDS if name in typed}
    try:
        uid = lots.find(connection, number).uid if number else new_uid()
        lot = read_lot(own, desk.settings, uid)
    except InputError as error:
        faults = {fault.place: fault.message for fault in reversed(error.faults)}
        return _answer(request, connection, desk, own, faults, number, status=422)
    done = writing.tried(lambda to: lots.keep(to, lot, own, number))
    if isinstance(done, Message):
        return _answer(request, connection, desk, own, number=number, unkept=done.words, status=503)
    return RedirectResponse("/fibre", 303)


@router.post("/braid")
def braid(request: Request, desk: AtDesk, sent: Sent) -> Response:
    """Show the colours along a lot as they are typed."""
    typed = {name: value[:MOST_TYPED] for name, value in texts(sent).items() if name in LOT_FIELDS}
    return render(request, "screens/fibre/braid.html", _braid_of(typed, desk))


@router.post("/{number}/away")
def put_away(connection: Database, number: Number) -> Response:
    """Put a lot away; it can come back."""
    lots.put_away(connection, number)
    return RedirectResponse(f"/fibre?away={number}", 303)


@router.post("/{number}/back")
def bring_back(connection: Database, number: Number) -> Response:
    """Bring a lot back."""
    lots.bring_back(connection, number)
    return RedirectResponse("/fibre", 303)


def _answer(
    request: Request,
    connection: Database,
    desk: Desk,
    typed: dict[str, str],
    faults: dict[str, str] | None = None,
    number: int | None = None,
    away: int | None = None,
    unkept: str = "",
    status: int = 200,
) -> Response:
    kept = lots.shelf(connection)
    view = FibreView(
        [_card(connection, each, desk) for each in kept if isinstance(each, lots.Lot)],
        [each for each in kept if isinstance(each, lots.DamagedLot)],
        {**LOT_FIELDS, **typed},
        faults or {},
        like(desk.settings),
        desk.display.in_short("Crimps", 0.0)[0],
        number,
        away,
        unkept,
        braid=_braid_of(typed, desk),
    )
    return render(request, "screens/fibre/page.html", view, status)


def _braid_of(typed: dict[str, str], desk: Desk) -> Markup:
    """Return the braid of what is typed of its colours, whatever else is; nothing where they cannot be read."""
    own = {name: typed.get(name, LOT_FIELDS[name]) for name in ("colours", "lengths", "edges", "order", "seed")}
    try:
        return _laid_out(read_lot({**own, "name": BRAID}, desk.settings, "braid"), "typed")
    except InputError:
        return Markup("")


def _laid_out(lot: LotModel, name: str) -> Markup:
    own = colours_of_lot(lot)
    told = bands_of_lot(lot, {each: place for place, each in enumerate(own)})
    colours = [own[each] for each in told.colours]
    return Markup(braid_svg(told.ends / told.whole, colours, told.blended, name, braid_words(lot.name, "")))


def _card(connection: Database, kept: lots.Lot, desk: Desk) -> Card:
    lot, uses = kept.lot, lots.uses(connection, kept.uid)
    used = sum(each.grams for each in uses)
    return Card(
        kept.id,
        lot.name,
        fibre_words(lot.fibre),
        staple_words(lot.fibre, desk.display),
        fitness(lot.fibre),
        left_words(lot, used, desk.display),
        max(1 - used / lot.grams, 0.0) if lot.grams else 0.0,
        lot.note,
        _laid_out(lot, f"{kept.id}"),
        uses,
    )
