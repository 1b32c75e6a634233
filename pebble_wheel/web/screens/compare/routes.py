"""Two to four yarns side by side: as planned, and as they were measured."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import designs, records
from pebble_wheel.store.measured import noted_of, yarn_key
from pebble_wheel.store.rows import DamagedError
from pebble_wheel.web.screens.compare.view import FEWEST, MOST, CompareView, Laid, view_of_compare
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, render
from pebble_wheel.wording.messages import day_and_time
from pebble_wheel.workshop.learn import Noted as Learnable

router = APIRouter(prefix="/compare")

MOST_KEY = 40


@router.get("")
def show(
    request: Request, connection: Database, desk: AtDesk, y: Annotated[list[str] | None, Query(max_length=60)] = None
) -> Response:
    """Lay yarns side by side: of the shelf by number, ``9``, or versions of one, ``9v3``."""
    keys = list(dict.fromkeys(each for each in y or [] if len(each) <= MOST_KEY))
    laid = [found for each in keys[:MOST] if (found := _laid(connection, desk, each)) is not None]
    view = view_of_compare(laid, len(keys) > MOST, desk) if len(laid) >= FEWEST else CompareView()
    return render(request, "screens/compare/page.html", view)


def _laid(connection: Database, desk: Desk, key: str) -> Laid | None:
    """Return a yarn to be laid beside others; None where there is none such, or it cannot be made."""
    number, _, which = key.partition("v")
    if not (number.isascii() and number.isdecimal() and (which.isdecimal() or not which)):
        return None
    try:
        kept = designs.find(connection, int(number))
        design, name = kept.design, kept.design.name
        if which:
            version = designs.version(connection, int(number), int(which))
            design, name = version.design, f"{name}, {day_and_time(version.changed_at)}"
        desk.evaluator.read(design)
    except (designs.NotKeptError, DamagedError, InputError):
        return None
    return Laid(key, name, design, _samples(connection, desk, int(number), design))


def _samples(connection: Database, desk: Desk, number: int, design: Design) -> list[Learnable]:
    """Return what was measured of a design as it is planned there."""
    own = yarn_key(number, design)
    noted = (each for each in records.entries(connection, number) if isinstance(each, records.Noted))
    found = (noted_of(each, desk.learned.steep) for each in noted)
    return [each for each in found if each and each.plan == own]
