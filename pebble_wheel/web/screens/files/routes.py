"""Design files and drawings, in and out."""

import re
from typing import Annotated

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import life_size_svg
from pebble_wheel.notation.design import read_design, write_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import designs
from pebble_wheel.web.screens.shelf.routes import show_shelf
from pebble_wheel.web.shared.base import Database, Displayed, Number
from pebble_wheel.workshop.answer import read_of

router = APIRouter(prefix="/designs")


@router.post("")
def bring_in(
    request: Request, connection: Database, display: Displayed, file: Annotated[UploadFile, File()]
) -> Response:
    """Put a design file on the shelf and open it; on a fault nothing is kept."""
    try:
        design = read_design(file.file.read())
        read_of(design)
    except InputError as error:
        return show_shelf(request, connection, display, file_faults=error.faults)
    return RedirectResponse(f"/designs/{designs.keep_new(connection, design)}", 303)


@router.get("/{number}/design.json")
def design_file(connection: Database, number: Number) -> Response:
    """Give the design file."""
    design = designs.find(connection, number).design
    return _download(write_design(design), "application/json", f"{_plain(design.name)}.json")


@router.get("/{number}/yarn.svg")
def drawing(connection: Database, display: Displayed, number: Number) -> Response:
    """Give the drawing, true to scale in print."""
    design = designs.find(connection, number).design
    drawn = life_size_svg(read_of(design).made, dress_of(design.yarn), display.settings.imperial, design.name)
    return _download(drawn, "image/svg+xml", f"{_plain(design.name)}.svg")


def _download(text: str, kind: str, name: str) -> Response:
    return Response(text, media_type=kind, headers={"content-disposition": f'attachment; filename="{name}"'})


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "design"
