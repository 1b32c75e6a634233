"""The shelf: every design kept, with a small drawing of its yarn."""

import sqlite3
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import small_svg
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import read_design, write_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store import designs
from pebble_wheel.store.designs import Kept
from pebble_wheel.web.shared.base import Database, Displayed, Number, render
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import structure_words, verdict_words
from pebble_wheel.workshop.answer import designation_of, read_of

router = APIRouter()


@dataclass(frozen=True)
class Card:
    """One design on the shelf."""

    id: int
    name: str
    drawing: Markup
    structure: str
    verdict: str
    size: str
    designation: str


@router.get("/")
def show(request: Request, connection: Database, display: Displayed, away: int | None = None) -> Response:
    """Show the shelf; a first visit goes straight to a yarn."""
    if not designs.shelf(connection) and not designs.away(connection):
        return RedirectResponse("/construct", 303)
    return show_shelf(request, connection, display, gone=away)


def show_shelf(
    request: Request,
    connection: sqlite3.Connection,
    display: Display,
    gone: int | None = None,
    fault: dict[str, object] | None = None,
    file_faults: tuple[Fault, ...] = (),
) -> Response:
    """Return the shelf, with the way back for a design just put away or with what was wrong."""
    put_away = designs.away(connection)
    return render(
        request,
        "screens/shelf/page.html",
        422 if fault or file_faults else 200,
        cards=[_card(each, display) for each in designs.shelf(connection)],
        put_away=put_away,
        gone=next((each for each in put_away if each.id == gone), None),
        fault=fault,
        file_faults=file_faults,
    )


@router.post("/designs/{number}/rename")
def rename(
    request: Request, connection: Database, display: Displayed, number: Number, name: Annotated[str, Form()] = ""
) -> Response:
    """Rename a design; a name it cannot have stays in its field."""
    try:
        designs.rename(connection, number, name.strip())
    except InputError as error:
        fault = {"id": number, "typed": name, "message": error.faults[0].message}
        return show_shelf(request, connection, display, fault=fault)
    return RedirectResponse("/", 303)


@router.post("/designs/{number}/duplicate")
def duplicate(connection: Database, number: Number) -> Response:
    """Copy a design and open the copy."""
    return RedirectResponse(f"/designs/{designs.duplicate(connection, number)}", 303)


@router.post("/designs/{number}/delete")
def delete(connection: Database, number: Number) -> Response:
    """Put a design away, with the way back on the next page."""
    designs.put_away(connection, number)
    return RedirectResponse(f"/?away={number}", 303)


@router.post("/designs/{number}/restore")
def restore(connection: Database, number: Number) -> Response:
    """Bring a design back to the shelf."""
    designs.bring_back(connection, number)
    return RedirectResponse("/", 303)


def _card(kept: Kept, display: Display) -> Card:
    reading = _reading(write_design(kept.design))
    drawing = small_svg(reading.made, dress_of(kept.design.yarn), f"small{kept.id}", f"Drawing of {kept.design.name}")
    return Card(
        id=kept.id,
        name=kept.design.name,
        drawing=Markup(drawing),
        structure=structure_words(kept.design.yarn),
        verdict=verdict_words(reading.balance.verdict, kept.design.yarn),
        size=display.wpi_range(reading.wpi_finished),
        designation=designation_of(kept.design, reading),
    )


@lru_cache(maxsize=256)
def _reading(body: str) -> Reading:
    """Return the reading of a design file; equal files read alike."""
    return read_of(read_design(body.encode()))
