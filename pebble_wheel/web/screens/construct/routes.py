"""The construction screen: the tree of a yarn, the part in hand, and the yarn that comes of it."""

import re
import sqlite3

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.background import BackgroundTask

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import life_size_svg
from pebble_wheel.notation.design import write_design
from pebble_wheel.notation.draft import Draft, design_of, draft_of, read_draft, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import designs
from pebble_wheel.web.screens.construct.form import Work, opened, read_work
from pebble_wheel.web.screens.construct.view import page_of, parts_of
from pebble_wheel.web.shared.aimed import candidate_of
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, SmallPictures, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Sent
from pebble_wheel.web.shared.small import kept_small
from pebble_wheel.wording.messages import KEPT, Message, once
from pebble_wheel.workshop.starts import FIRST, start

router = APIRouter()


@router.get("/construct")
def new(request: Request, desk: AtDesk, start_from: str = FIRST) -> Response:
    """Begin a yarn."""
    return _page(request, desk, opened(start(start_from, desk.settings)))


@router.get("/construct/aimed")
def open_candidate(request: Request, desk: AtDesk) -> Response:
    """Open a structure spun to an aim, with everything filled in; what cannot be spun goes back to its aim."""
    query = request.url.query
    found = candidate_of(desk, query)
    if found is None or found.judged is None:
        return RedirectResponse(f"/aim?{query}", 303)
    return _page(request, desk, opened(found.filled(desk.settings)))


@router.get("/designs/{number}")
def open_design(request: Request, connection: Database, desk: AtDesk, number: Number, kept: bool = False) -> Response:
    """Open a design from the shelf."""
    found = designs.find(connection, number)
    return _page(request, desk, opened(_as_typed(found, desk), number, found.mark), KEPT if kept else "")


@router.get("/designs/{number}/versions/{which}")
def open_version(request: Request, connection: Database, desk: AtDesk, number: Number, which: Number) -> Response:
    """Open a design as it once was; kept, it is so again."""
    found = designs.version(connection, number, which)
    work = opened(_as_typed(found, desk), number, designs.mark_now(connection, number))
    return _page(request, desk, work, once(found.changed_at))


@router.post("/construct/follow")
def follow(request: Request, desk: AtDesk, sent: Sent) -> Response:
    """Show the yarn of the draft as it stands: parts of the page for htmx, else the whole page."""
    work = read_work(sent, desk)
    if not is_htmx(request):
        return _page(request, desk, work)
    view = parts_of(work, desk)
    return render(request, "screens/construct/follow.html", view, 422 if view.unmade or work.moved_faults else 200)


@router.post("/construct/keep")
def keep(request: Request, writing: Writing, desk: AtDesk, pictures: SmallPictures, sent: Sent) -> Response:
    """Keep the design; on a fault, or where another window was first, nothing is kept and everything typed stays."""
    work = read_work(sent, desk)
    try:
        design = design_of(work.draft, desk.settings)
        desk.evaluator.read(design)
    except InputError:
        return _page(request, desk, work)
    typed = write_draft(work.draft)

    def write(connection: sqlite3.Connection) -> int:
        if work.number is None:
            return designs.keep_new(connection, design, typed)
        designs.keep(connection, work.number, design, typed, work.mark or None)
        return work.number

    try:
        done = writing.tried(write)
    except designs.ChangedMeanwhileError as changed:
        return render(request, "screens/construct/page.html", page_of(work, desk, changed=changed.now_kept), 409)
    if isinstance(done, Message):
        return render(request, "screens/construct/page.html", page_of(work, desk, done.words), 503)
    later = BackgroundTask(kept_small, pictures, design, desk.evaluator)
    return RedirectResponse(f"/designs/{done}?kept=1", 303, background=later)


@router.get("/designs/{number}/design.json")
def design_file(connection: Database, number: Number) -> Response:
    """Give the design file."""
    design = designs.find(connection, number).design
    return _download(write_design(design), "application/json", f"{_file_name(design.name)}.json")


@router.get("/designs/{number}/yarn.svg")
def drawing(connection: Database, desk: AtDesk, number: Number) -> Response:
    """Give the drawing, true to scale in print."""
    design = designs.find(connection, number).design
    made = desk.evaluator.read(design).made
    svg = life_size_svg(made, dress_of(design.yarn), desk.settings.inches, design.name)
    return _download(svg, "image/svg+xml", f"{_file_name(design.name)}.svg")


def _as_typed(found: designs.Kept | designs.Version, desk: Desk) -> Draft:
    """Return a kept design as it was typed, or anew where that would mean something else by today's settings."""
    try:
        typed = read_draft(found.typed)
        if design_of(typed, desk.settings) == found.design:
            return typed
    except InputError:  # kept by an older version, or brought in as a file
        pass
    return draft_of(found.design)


def _page(request: Request, desk: Desk, work: Work, said: str = "") -> Response:
    """Return the whole page; where the draft makes no yarn it says so in the yarn's place."""
    view = page_of(work, desk, said)
    return render(request, "screens/construct/page.html", view, 422 if view.wrong else 200)


def _download(text: str, kind: str, name: str) -> Response:
    return Response(text, media_type=kind, headers={"content-disposition": f'attachment; filename="{name}"'})


def _file_name(name: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "design"
