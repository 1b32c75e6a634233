"""The finishing screen of a design: bobbin to dry skein, what to do, what was measured, what would bloom."""

from contextlib import suppress
from typing import cast, get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.draft import read_draft, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.record import read_skein, read_swatch
from pebble_wheel.store import designs, records
from pebble_wheel.web.screens.finish.form import FinishForm, finished_as, read_form
from pebble_wheel.web.screens.finish.view import Noting, Records, Struck, view_of_finish
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Keeping, Number, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}")


@router.get("/finish")
def show(request: Request, connection: Database, desk: AtDesk, number: Number) -> Response:
    """Show how a design is finished."""
    kept = designs.find(connection, number)
    query = request.query_params
    kind, _, record = query.get("struck", "").partition("-")
    struck = Struck(cast(records.Kind, kind), int(record)) if _is_record(kind, record) else None
    noting = Noting({}, noted="noted" in query, struck=struck)
    return _answer(request, connection, desk, kept, read_form(dict(query), kept.design, desk.settings), noting)


@router.post("/finish/follow")
def follow(request: Request, connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Show the same while the wash or the moment is changed: parts of the page for htmx, else the whole page."""
    kept = connection.unchanged((designs.find, number), lambda: designs.find(connection, number))
    return _answer(request, connection, desk, kept, read_form(texts(sent), kept.design, desk.settings), Noting({}))


@router.post("/finish")
def keep(connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Keep the wash and the drying with the design."""
    kept = designs.find(connection, number)
    form = read_form(texts(sent), kept.design, desk.settings)
    design = finished_as(kept.design, form.model)
    typed = kept.typed
    with suppress(InputError):  # of a design that came as a file
        typed = write_draft(read_draft(typed).model_copy(update=design.finish.model_dump()))
    designs.keep(connection, number, design, typed)
    return RedirectResponse(f"/designs/{number}/finish?at={form.at}", 303)


@router.post("/skeins")
def note_skein(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep a measured skein; on a fault nothing is kept and what was typed stays."""
    return _note(request, connection, writing, desk, number, texts(sent), "skein")


@router.post("/swatches")
def note_swatch(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep a swatch, likewise."""
    return _note(request, connection, writing, desk, number, texts(sent), "swatch")


@router.post("/records/{kind}/{record}/{what}")
def strike(connection: Database, number: Number, kind: records.Kind, record: Number, what: str) -> Response:
    """Strike a record out, or bring it back."""
    designs.find(connection, number)
    if what == "strike":
        records.strike_out(connection, kind, number, record)
        return RedirectResponse(f"/designs/{number}/finish?struck={kind}-{record}#records", 303)
    records.bring_back(connection, kind, number, record)
    return RedirectResponse(f"/designs/{number}/finish#records", 303)


def _is_record(kind: str, record: str) -> bool:
    return kind in get_args(records.Kind) and record.isdecimal() and len(record) < 18


def _note(
    request: Request,
    connection: Database,
    writing: Keeping,
    desk: Desk,
    number: int,
    typed: dict[str, str],
    kind: records.Kind,
) -> Response:
    kept = designs.find(connection, number)
    try:
        record = read_skein(typed, desk.settings) if kind == "skein" else read_swatch(typed, desk.settings)
    except InputError as error:
        noting = Noting(typed, error.faults)
        return _answer(request, connection, desk, kept, read_form({}, kept.design, desk.settings), noting)
    done = writing.tried(lambda own: records.note(own, number, record, desk.learned.spinner.uid, typed))
    if isinstance(done, Message):
        noting = Noting(typed, unkept=done.words)
        return _answer(request, connection, desk, kept, read_form({}, kept.design, desk.settings), noting)
    return RedirectResponse(f"/designs/{number}/finish?noted={kind}#records", 303)


def _measured(connection: Database, number: int) -> Records:
    skeins, swatches = records.skeins(connection, number), records.swatches(connection, number)
    return Records(skeins, swatches, records.damaged(connection, number))


def _answer(
    request: Request, connection: Database, desk: Desk, kept: designs.Kept, form: FinishForm, noting: Noting
) -> Response:
    measured = connection.unchanged((Records, kept.id), lambda: _measured(connection, kept.id))
    view = view_of_finish(kept, form, measured, noting, desk)
    name = "follow" if is_htmx(request) else "page"
    return render(request, f"screens/finish/{name}.html", view, 422 if noting.faults else 503 if noting.unkept else 200)
