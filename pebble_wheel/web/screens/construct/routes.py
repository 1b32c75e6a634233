"""The construction screen: the tree of a yarn, the part in hand, and the yarn that comes of it."""

from dataclasses import dataclass, field, replace
from typing import Annotated, Any, cast

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup
from starlette.datastructures import FormData

from pebble_wheel.drawing.tree import grow
from pebble_wheel.drawing.yarn import REACHES, Reach
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.reading.spread import VARIANTS
from pebble_wheel.notation.design import read_design, write_design
from pebble_wheel.notation.draft import (
    FIELDS,
    Draft,
    design_of,
    draft_of,
    in_fields,
    part_at,
    parts,
    place_of,
    read_draft,
    write_draft,
)
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store import designs
from pebble_wheel.web.shared.base import Database, Displayed, Number, is_htmx, render, templates
from pebble_wheel.web.shared.yarn import PICTURES, Look, Picture, View, look_at
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.figures import (
    kind_figures,
    loop_figure,
    part_figures,
    rest_figures,
    size_figures,
    spinning_figures,
    what_if,
    yarn_figures,
)
from pebble_wheel.wording.names import part_hint, part_words
from pebble_wheel.wording.washing import DRYING_WORDS, WASH_WORDS
from pebble_wheel.wording.why import Why, why
from pebble_wheel.workshop.answer import read_of
from pebble_wheel.workshop.edits import done, likes, offered, typed_into
from pebble_wheel.workshop.refit import moved
from pebble_wheel.workshop.settle import overplied, settled
from pebble_wheel.workshop.starts import FIRST, STARTS, start

router = APIRouter()

templates.env.globals["posts"] = Markup(
    ' formaction="/construct/look" hx-post="/construct/look" hx-target="#yarn" hx-swap="none" hx-sync="#yarn:queue all"'
)
"""What a button needs to send the work: aimed at the form, which stays while the button itself may be redrawn."""

PICTURE_WORDS = {"along": "along", "across": "cut across", "unrolled": "unrolled"}
REACH_WORDS = {"arm": "arm’s length", "hand": "in the hand", "table": "on the table", "near": "close", "loupe": "loupe"}


@dataclass(frozen=True)
class Work:
    """The yarn in work, as a page sent it: the draft with what was just typed, the part in hand, what is looked at."""

    draft: Draft
    at: str
    shown: str
    """Path of the part whose fields the page shows; empty where they are to be filled anew."""
    number: int | None = None
    picture: Picture = "along"
    reach: Reach = "table"
    asked: str = ""
    """Key of the figure whose reason is open."""
    text: str | None = None
    """The design file, where it is open for changing."""
    text_faults: tuple[Fault, ...] = ()
    holding: tuple[str, ...] = ("size", "ratio")
    """Readings held while another is moved."""
    moved: dict[str, str] = field(default_factory=dict)
    """What was typed for a reading that could not be moved so, by its field."""
    moved_faults: tuple[Fault, ...] = ()


def fresh(draft: Draft, number: int | None = None) -> Work:
    """Return the work on a draft just opened."""
    return Work(draft, "yarn", "yarn", number)


async def sent_form(request: Request) -> FormData:
    """Return the form as it was sent; what it asks for is done off the event loop, where it may take its time."""
    return await request.form()


Sent = Annotated[FormData, Depends(sent_form)]


@router.get("/construct")
def new(request: Request, display: Displayed, start_from: str = FIRST) -> Response:
    """Begin a yarn."""
    return begin(request, display, start(start_from))


@router.get("/designs/{number}")
def open_design(
    request: Request, connection: Database, display: Displayed, number: Number, kept: bool = False
) -> Response:
    """Open a design from the shelf."""
    found = designs.find(connection, number)
    return _page(request, display, fresh(_opened(found, display), number), said="Kept." if kept else "")


@router.post("/construct/look")
def look(request: Request, display: Displayed, sent: Sent) -> Response:
    """Show the yarn of the draft as it stands: parts of the page for htmx, else the whole page."""
    work = _acted(sent, display)
    if not is_htmx(request):
        return _page(request, display, work)
    shown = _shown(work, display)
    return render(
        request, "screens/construct/follow.html", 422 if shown["faults"] or work.moved_faults else 200, **shown
    )


@router.post("/construct/keep")
def keep(request: Request, connection: Database, display: Displayed, sent: Sent) -> Response:
    """Keep the design; on a fault nothing is kept and everything typed stays."""
    work = _acted(sent, display)
    try:
        design = look_at(design_of(work.draft, display.settings), display).design
    except InputError:
        return _page(request, display, work)
    number = work.number
    if number is None:
        number = designs.keep_new(connection, design, write_draft(work.draft))
    else:
        designs.keep(connection, number, design, write_draft(work.draft))
    return RedirectResponse(f"/designs/{number}?kept=1", 303)


def begin(request: Request, display: Display, draft: Draft) -> Response:
    """Show a draft as a new yarn."""
    return _page(request, display, fresh(draft))


def _opened(found: designs.Kept, display: Display) -> Draft:
    """Return a kept design as it was typed, or anew where that would mean something else by today's settings."""
    try:
        typed = read_draft(found.typed)
        if design_of(typed, display.settings) == found.design:
            return typed
    except InputError:  # kept by an older version, or brought in as a file
        pass
    return draft_of(found.design)


def _acted(form: FormData, display: Display) -> Work:
    """Read a form, put what was typed into the draft, and do what was asked."""
    typed = {field: value for field, value in form.items() if isinstance(value, str)}
    colours = [colour for colour in form.getlist("colours") if isinstance(colour, str)]
    if colours:
        typed["colours"] = " ".join(colours)
    number = typed.get("id", "")
    draft = read_draft(typed["draft"]) if "draft" in typed else start(FIRST)
    draft = draft.model_copy(update={"name": typed.get("name", draft.name)[:2000]})
    shown = typed.get("of", "")
    known = dict(parts(draft.yarn))
    if shown in known:
        finish = {field: typed.get(field, getattr(draft, field))[:20] for field in ("wash", "drying")}
        own = {field: value[:2000] for field, value in typed.items() if field in FIELDS[known[shown].kind]}
        draft = typed_into(draft, shown, own, "together" in typed).model_copy(update=finish)
    work = Work(
        draft,
        _nearest(draft, typed.get("at", "yarn")),
        "" if "refill" in typed else shown,
        int(number) if number.isdecimal() and len(number) < 18 else None,
        cast(Picture, typed["picture"]) if typed.get("picture") in PICTURES else "along",
        cast(Reach, REACHES[int(typed["reach"])]) if typed.get("reach", "") in set("01234") else "table",
        typed.get("ask", typed.get("asked", "")),
        typed.get("text"),
        holding=tuple(str(each) for each in form.getlist("hold")),
    )
    action = typed.get("do", "")
    moving = action if action.startswith("if-") else typed.get("move", "")
    if moving.startswith("if-"):
        work = _moved(work, moving, typed.get(moving, "")[:200], display)
    return work if work.moved_faults or action == moving else _done(work, action, display)


def _moved(work: Work, place: str, text: str, display: Display) -> Work:
    """Return the work with one reading moved; where that cannot be, as it was, with what was typed and why not."""
    try:
        reading = read_of(design_of(work.draft, display.settings))
        draft = moved(work.draft, reading, place.removeprefix("if-"), text, work.holding, display.settings)
    except InputError as error:
        own = tuple(fault for fault in error.faults if fault.place == place)
        return replace(work, moved={place: text} if own else {}, moved_faults=own)
    return replace(work, draft=draft, shown="")


def _done(work: Work, action: str, display: Display) -> Work:
    """Return the work after what a button asked for."""
    if action.startswith("start-"):
        return replace(work, draft=_started(action.removeprefix("start-"), work.draft.name), at="yarn", shown="")
    if action == "write":
        return replace(work, text=_written(work.draft, display), shown="")
    if action == "read" and work.text is not None:
        return _read(work, work.text)
    if not action:
        return work
    built = done(work.draft, work.at, action)
    draft = overplied(built.draft, built.at) if action == "ply" else built.draft
    return replace(work, draft=settled(draft, display.settings), at=_nearest(draft, built.at), shown="")


def _started(name: str, called: str) -> Draft:
    """Return a starting point, called as the yarn was if a person has named it."""
    begun = start(name)
    own = called not in {start(each).name for each in STARTS}
    return begun.model_copy(update={"name": called}) if own else begun


def _written(draft: Draft, display: Display) -> str | None:
    try:
        return write_design(design_of(draft, display.settings))
    except InputError:  # which stands beside its field already
        return None


def _read(work: Work, text: str) -> Work:
    """Return the work with the draft that a design file says; a fault leaves draft and text as they are."""
    try:
        return replace(work, draft=draft_of(read_design(text.encode())), at="yarn", shown="", text=None)
    except InputError as error:
        return replace(work, shown="", text_faults=error.faults)


def _nearest(draft: Draft, path: str) -> str:
    """Return the path, or the nearest above it that there is."""
    known = {own for own, _ in parts(draft.yarn)}
    while path not in known:
        path = path.rpartition(".")[0] or "yarn"
    return path


def _page(request: Request, display: Display, work: Work, said: str = "") -> Response:
    """Return the whole page; where the draft makes no yarn it says so in the yarn's place."""
    shown = _shown(replace(work, shown=""), display)
    wrong = shown["faults"] or work.text_faults or work.moved_faults
    return render(request, "screens/construct/page.html", 422 if wrong else 200, said=said, starts=STARTS, **shown)


def _shown(work: Work, display: Display) -> dict[str, Any]:
    """Return all that the templates show of the work."""
    seen: Look | None = None
    faults: tuple[Fault, ...] = ()
    try:
        view = View(work.picture, work.reach, work.at)
        seen = look_at(design_of(work.draft, display.settings), display, view)
    except InputError as error:
        faults = in_fields(error).faults
    part = part_at(work.draft, work.at)
    return {
        "work": work,
        "draft_text": write_draft(work.draft.model_copy(update={"name": ""})),  # the name has a field of its own
        "part": part,
        "part_words": part_words,
        "part_hint": part_hint,
        "tree": grow(work.draft),
        "actions": offered(work.draft, work.at),
        "likes": likes(work.draft, work.at),
        "refill": work.shown != work.at,
        "look": seen,
        "figures": _figures(seen, display) if seen else {},
        "reason": _reason(work, seen),
        "faults": faults,
        "own_faults": _own_faults((*faults, *work.moved_faults), work.at),
        "what_if": what_if(seen.reading, display) if seen and work.at == "yarn" else [],
        "other_faults": _other_faults(faults, work),
        "faulty": {place_of(fault.place)[0] for fault in faults},
        "fields": (*FIELDS[part.kind], "name", "wash", "drying"),
        "display": display,
        "variants": VARIANTS,
        "fibre_options": [(fibre.id, fibre.name) for fibre in FIBRES.values()],
        "wash_words": WASH_WORDS,
        "drying_words": DRYING_WORDS,
        "picture_words": PICTURE_WORDS,
        "reach_words": REACH_WORDS,
        "reaches": REACHES,
    }


def _figures(seen: Look, display: Display) -> dict[str, Any]:
    reading, held = seen.reading, seen.held
    return {
        "part": part_figures(held, reading, display),
        "loop": loop_figure(reading),
        "rest": rest_figures(reading, display),
        "yarn": yarn_figures(reading, display),
        "size": size_figures(reading, display),
        "spinning": spinning_figures(held, reading, display),
        "kind": kind_figures(held),
    }


def _reason(work: Work, seen: Look | None) -> Why | None:
    return why(work.asked, seen.rows, seen.reading, seen.display) if seen and work.asked else None


def _own_faults(faults: tuple[Fault, ...], at: str) -> dict[str, str]:
    """Return the faults of the part in hand and of the yarn's own fields, by field."""
    own: dict[str, str] = {}
    for fault in faults:
        path, field = place_of(fault.place)
        if path in ("", at):
            own.setdefault(field, fault.message)
    return own


def _other_faults(faults: tuple[Fault, ...], work: Work) -> list[tuple[str, str, str]]:
    """Return the faults of parts not in hand: path, part in words, message."""
    found = []
    known = dict(parts(work.draft.yarn))
    for fault in faults:
        path, field = place_of(fault.place)
        if path not in ("", work.at):
            message = f"{field}: {fault.message}" if field else fault.message
            found.append((path, part_words(known.get(path, work.draft.yarn)), message))
    return found
