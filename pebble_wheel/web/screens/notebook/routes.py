"""The notebook as a whole: copied, put back, written into one file and taken in from one, and looked through."""

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store.check import Report, check
from pebble_wheel.store.copies import Copy, copies_of, copy_beside, put_back
from pebble_wheel.store.database import DatabaseError
from pebble_wheel.store.notebook import Taken, export, read
from pebble_wheel.store.pool import Connections
from pebble_wheel.web.shared.base import Database, Writing, render
from pebble_wheel.wording.messages import NO_SUCH_COPY, Message, put_back_words, taken_words

router = APIRouter(prefix="/notebook")

LARGER = {"/notebook/import": 64_000_000}
"""Bytes that a notebook may have which is brought in."""


@dataclass(frozen=True)
class NotebookView:
    """The page."""

    database: Path
    copies: list[Copy]
    said: str = ""
    fault: str = ""
    file_faults: tuple[Fault, ...] = ()
    report: Report | None = None


@router.get("")
def show(request: Request, copied: bool = False) -> Response:
    """Show the copies and what can be done with the whole."""
    return _answer(request, said="Copied." if copied else "")


@router.post("/copies")
def copy(request: Request) -> Response:
    """Make a copy now."""
    try:
        copy_beside(_file(request))
    except DatabaseError as error:
        return _answer(request, fault=str(error), status=503)
    return RedirectResponse("/notebook?copied=1", 303)


@router.post("/restore")
def restore(request: Request, name: Annotated[str, Form()] = "") -> Response:
    """Make the notebook what one of its copies is; what it was becomes a copy too."""
    file = _file(request)
    chosen = next((each for each in copies_of(file) if each.file.name == name), None)
    if chosen is None:
        return _answer(request, fault=NO_SUCH_COPY, status=404)
    try:
        put_back(chosen.file, file)
    except DatabaseError as error:
        return _answer(request, fault=str(error), status=503)
    return _answer(request, said=put_back_words(chosen.made_at))


@router.get("/export")
def everything(connection: Database) -> Response:
    """Give everything that is kept, in one file."""
    name = f"pebble-wheel-{datetime.now(UTC):%Y-%m-%d}.zip"
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(export(connection), media_type="application/zip", headers=headers)


@router.post("/import")
def take_in(request: Request, writing: Writing, file: Annotated[UploadFile, File()]) -> Response:
    """Take in everything that a file holds, whole or not at all; a copy is made before."""
    packed = file.file.read()

    def work(connection: sqlite3.Connection) -> Taken:
        return read(connection, packed)

    try:
        copy_beside(_file(request))
        done = writing.tried(work)
    except InputError as error:
        return _answer(request, file_faults=error.faults, status=422)
    except DatabaseError as error:
        return _answer(request, fault=str(error), status=503)
    if isinstance(done, Message):
        return _answer(request, fault=done.words, status=503)
    return _answer(request, said=taken_words(done.added, done.changed, done.known))


@router.post("/check")
def look_through(request: Request) -> Response:
    """Look through the notebook whole."""
    try:
        return _answer(request, report=check(_file(request)))
    except DatabaseError as error:
        return _answer(request, fault=str(error), status=503)


def _file(request: Request) -> Path:
    connections: Connections = request.app.state.connections
    return connections.file


def _answer(
    request: Request,
    said: str = "",
    fault: str = "",
    file_faults: tuple[Fault, ...] = (),
    report: Report | None = None,
    status: int = 200,
) -> Response:
    file = _file(request)
    view = NotebookView(file, copies_of(file), said, fault, file_faults, report)
    return render(request, "screens/notebook/page.html", view, status)
