"""The log of a yarn: what happened by its date, notes, and what is put to sleep."""

from typing import Annotated, get_args

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.drawing.labels import SHEETS, Sheet, label_sheets
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.guess import Came, read_guess
from pebble_wheel.notation.log import Record, read_next, read_note, read_sleep
from pebble_wheel.store import designs, photos, records, table
from pebble_wheel.store.again import anew
from pebble_wheel.store.records import KINDS, Kind
from pebble_wheel.store.spinners import spinners
from pebble_wheel.web.screens.log.labels import labels_of
from pebble_wheel.web.screens.log.view import Noting, Told, view_of_log
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.pdf import pages_pdf
from pebble_wheel.web.shared.thread import thread_of
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}/log")


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number) -> Response:
    """Show the log."""
    asked = request.query_params
    kind, _, entry = asked.get("struck", "").partition("-")
    known = kind in KINDS and entry.isdecimal() and len(entry) < 18
    counts = [asked.get(each, "") for each in ("added", "known")]
    taken = (int(counts[0]), int(counts[1])) if all(each.isdecimal() and len(each) < 9 for each in counts) else None
    struck = (kind, int(entry)) if known else None
    return _page(request, connection, desk, number, Noting({}, struck=struck, taken=taken))


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


@router.get("/table.csv")
def give_table(connection: Database, number: Number) -> Response:
    """Give the log as a table, with its units in the header."""
    designs.name_of(connection, number)
    return _file(table.export(connection, number).encode(), "text/csv; charset=utf-8", f"log-{number}.csv")


@router.post("/table")
def take_table(
    request: Request, connection: Database, desk: AtDesk, number: Number, file: Annotated[UploadFile, File()]
) -> Response:
    """Take a table into the log, whole or not at all."""
    try:
        done = table.read(connection, number, file.file.read(), desk.learned.spinner.uid)
    except InputError as error:
        return _page(request, connection, desk, number, Noting({}, table_faults=error.faults))
    return RedirectResponse(f"/designs/{number}/log?added={done.added}&known={done.known}", 303)


@router.get("/labels.pdf")
def give_labels(connection: Database, desk: AtDesk, number: Number, sheet: Sheet = "A4") -> Response:
    """Give labels for the skeins of the yarn, as sheets to be cut up."""
    kept = designs.find(connection, number)
    names = {each.uid: each.name for each in spinners(connection)}
    labels = labels_of(kept.design, records.skeins(connection, number), names, desk.for_yarn(number, kept.design))
    return _file(
        pages_pdf(kept.design.name, SHEETS[sheet], label_sheets(labels, sheet)), "application/pdf", "labels.pdf"
    )


def _file(content: bytes, kind: str, name: str) -> Response:
    return Response(content, media_type=kind, headers={"content-disposition": f'inline; filename="{name}"'})


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
    told = Told(photos.of_design(connection, number), anew(connection, number))
    view = view_of_log(number, kept.design, log, names, thread, noting, told, desk.for_yarn(number, kept.design))
    wrong = bool(noting.faults or noting.table_faults)
    return render(request, "screens/log/page.html", view, 422 if wrong else 503 if noting.unkept else 200)
