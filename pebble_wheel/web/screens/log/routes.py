"""The log of a yarn: what happened by its date, notes, and what is put to sleep."""

from typing import get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.guess import Came, read_guess
from pebble_wheel.notation.log import Record, read_next, read_note, read_sleep
from pebble_wheel.store import designs, photos, records
from pebble_wheel.store.again import anew
from pebble_wheel.store.records import KINDS, Kind
from pebble_wheel.store.spinners import spinners
from pebble_wheel.web.screens.log.view import Noting, view_of_log
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.thread import thread_of
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}/log")


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number) -> Response:
    """Show the log."""
    kind, _, entry = request.query_params.get("struck", "").partition("-")
    known = kind in KINDS and entry.isdecimal() and len(entry) < 18
    return _page(request, connection, desk, number, Noting({}, struck=(kind, int(entry)) if known else None))


@router.post("")
def write(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep a note, or put something to sleep; on a fault nothing is kept and what was typed stays."""
    typed = texts(sent)
    designs.find(connection, number)
    try:
        record = _read(typed, desk)
    except InputError as error:
        return _page(request, connection, desk, number, Noting(typed, error.faults))
    spinner = desk.learned.spinner.uid
    done = writing.tried(lambda own: records.note(own, number, record, spinner, typed))
    if isinstance(done, Message):
        return _page(request, connection, desk, number, Noting(typed, unkept=done.words))
    return RedirectResponse(f"/designs/{number}/log", 303)


@router.post("/{kind}/{entry}/{what}")
def strike(connection: Database, number: Number, kind: Kind, entry: Number, what: str) -> Response:
    """Strike an entry out, or bring it back; of a guess in words say how it came out."""
    came = next((each for each in get_args(Came) if each and each == what), None)
    if kind == "guess" and came:
        records.came_out(connection, number, entry, came)
        return RedirectResponse(f"/designs/{number}/log", 303)
    if what == "strike":
        records.strike_out(connection, kind, number, entry)
        return RedirectResponse(f"/designs/{number}/log?struck={kind}-{entry}", 303)
    records.bring_back(connection, kind, number, entry)
    return RedirectResponse(f"/designs/{number}/log", 303)


def _read(typed: dict[str, str], desk: Desk) -> Record:
    if "about" in typed:
        return read_guess(typed, desk.settings)
    return (read_sleep if "what" in typed else read_next if "next" in typed else read_note)(typed)


def _page(request: Request, connection: Database, desk: Desk, number: int, noting: Noting) -> Response:
    kept = designs.find(connection, number)
    names = {each.uid: each.name for each in spinners(connection)}
    thread, log = thread_of(connection, number, "log"), records.entries(connection, number)
    shown, again = photos.numbers_of(connection, number), anew(connection, number)
    view = view_of_log(number, kept.design, log, names, thread, noting, shown, again, desk)
    return render(request, "screens/log/page.html", view, 422 if noting.faults else 503 if noting.unkept else 200)
