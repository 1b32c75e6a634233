"""The shelf: every design kept, with a small drawing of its yarn; design files are brought in here."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.design import read_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store import designs
from pebble_wheel.web.screens.shelf.view import NameFault, view_of_shelf
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, render

router = APIRouter()


@router.get("/")
def show(request: Request, connection: Database, desk: AtDesk, away: int | None = None) -> Response:
    """Show the shelf; a first visit goes straight to a yarn."""
    if not designs.shelf(connection) and not designs.away(connection):
        return RedirectResponse("/construct", 303)
    return _answer(request, connection, desk, gone=away)


@router.post("/designs")
def bring_in(request: Request, connection: Database, desk: AtDesk, file: Annotated[UploadFile, File()]) -> Response:
    """Put a design file on the shelf and open it; on a fault nothing is kept."""
    try:
        design = read_design(file.file.read())
        desk.evaluator.read(design)
    except InputError as error:
        return _answer(request, connection, desk, file_faults=error.faults)
    return RedirectResponse(f"/designs/{designs.keep_new(connection, design)}", 303)


@router.post("/designs/{number}/rename")
def rename(
    request: Request, connection: Database, desk: AtDesk, number: Number, name: Annotated[str, Form()] = ""
) -> Response:
    """Rename a design; a name it cannot have stays in its field."""
    try:
        designs.rename(connection, number, name.strip())
    except InputError as error:
        return _answer(request, connection, desk, fault=NameFault(number, name, error.faults[0].message))
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


def _answer(
    request: Request,
    connection: Database,
    desk: Desk,
    gone: int | None = None,
    fault: NameFault | None = None,
    file_faults: tuple[Fault, ...] = (),
) -> Response:
    shelf, away = designs.shelf(connection), designs.away(connection)
    view = view_of_shelf(shelf, away, desk, gone, fault, file_faults)
    return render(request, "screens/shelf/page.html", view, 422 if fault or file_faults else 200)
