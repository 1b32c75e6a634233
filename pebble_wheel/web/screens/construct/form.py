"""What the construction screen sends: the draft with what was just typed, and what is to be done with it."""

from dataclasses import dataclass, field, replace
from typing import cast

from pebble_wheel.drawing.yarn import REACHES, Reach
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import read_design, walk, write_design
from pebble_wheel.notation.draft import (
    FIELDS,
    Draft,
    Part,
    design_of,
    draft_of,
    part_at,
    parts,
    read_draft,
    write_draft,
)
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.lots import Lot
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.forms import Fields, several, texts
from pebble_wheel.web.shared.yarn import PICTURES, Picture
from pebble_wheel.workshop.edits import done, typed_into
from pebble_wheel.workshop.match import WAYS, matched, models
from pebble_wheel.workshop.refit import moved
from pebble_wheel.workshop.settle import overplied, settled
from pebble_wheel.workshop.starts import FIRST, STARTS, start
from pebble_wheel.workshop.twists import retold

NOWHERE = Address("")
MOST_TYPED, MOST_MOVED, MOST_CHOSEN = 2000, 200, 20
"""Letters in one field, in a reading that is moved, and in a choice."""


@dataclass(frozen=True)
class Work:
    """The yarn in work, as a page sent it: the draft with what was just typed, the part in hand, what is looked at."""

    draft: Draft
    at: Address
    shown: Address
    """The part whose fields the page shows; empty where they are to be filled anew."""
    number: int | None = None
    mark: str = ""
    """Of the kept design when it was opened: another window may have changed it since."""
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
    matching: Address = NOWHERE
    """The strand that the single in hand is to match, while one is to be chosen from what comes of it either way."""
    beside: str = ""
    """The draft laid beside this one; empty for none."""
    painted: bool = True
    """Whether the yarn is to be painted, for a browser that does not draw it in relief."""
    retwisted: bool = False
    """Whether the twist of the single shown is said in another way than the page has a field for."""


def opened(draft: Draft, number: int | None = None, mark: str = "") -> Work:
    """Return the work on a draft just opened."""
    return Work(draft, WHOLE, WHOLE, number, mark)


def read_work(form: Fields, desk: Desk) -> Work:
    """Return the work that a form holds, what was typed put into the draft, and what was asked done.

    Raises:
        InputError: where its draft is none that a page could have sent.
    """
    typed = texts(form)
    colours = several(form, "colours")
    if colours:
        typed["colours"] = " ".join(colours)
    number = typed.get("id", "")
    draft = read_draft(typed["draft"]) if "draft" in typed else start(FIRST, desk.settings)
    draft = draft.model_copy(update={"name": typed.get("name", draft.name)[:MOST_TYPED]})
    shown, retwisted = Address(typed.get("of", "")), False
    known = dict(parts(draft.yarn))
    if shown in known:
        finish = {each: typed.get(each, getattr(draft, each))[:MOST_CHOSEN] for each in ("wash", "drying")}
        own = {each: value[:MOST_TYPED] for each, value in typed.items() if each in FIELDS[known[shown].kind]}
        if lot := desk.lot(own.get("fibre", "")):
            own, relotted = _of_lot(own, known[shown], lot)
            if relotted:
                typed["refill"] = "yes"
        before, draft = draft, typed_into(draft, shown, own, "together" in typed).model_copy(update=finish)
        draft = retold(desk.evaluator, before, draft, desk.settings)
        retwisted = known[shown].kind == "single" and part_at(draft, shown).of("by") != part_at(before, shown).of("by")
    work = Work(
        draft,
        _nearest(draft, Address(typed.get("at", WHOLE))),
        NOWHERE if "refill" in typed else shown,
        int(number) if number.isdecimal() and len(number) < 18 else None,
        typed.get("mark", "")[:MOST_CHOSEN],
        cast(Picture, typed["picture"]) if typed.get("picture") in PICTURES else "along",
        _reach(typed.get("reach", "")),
        typed.get("ask", typed.get("asked", "")),
        typed.get("text"),
        holding=several(form, "hold"),
        beside=_beside(typed.get("beside", "")),
        painted="relief" not in typed,
        retwisted=retwisted,
    )
    action, together = typed.get("do", ""), "together" in typed or work.shown != work.at
    moving = action if action.startswith("if-") else typed.get("move", "")
    if moving.startswith("if-"):
        work = _moved(work, moving, typed.get(moving, "")[:MOST_MOVED], desk)
    if action == "match" or action.startswith("match-"):
        return _matched(work, Address(typed.get("match", "")), action.removeprefix("match").strip("-"), desk)
    if action in ("beside", "let-beside", "take-beside"):
        return _laid_beside(work, action)
    return work if work.moved_faults or action == moving else _done(work, action, desk, together)


def _beside(text: str) -> str:
    """Return a draft that was laid beside, if it is one."""
    try:
        return text and write_draft(read_draft(text))
    except InputError:
        return ""


def _laid_beside(work: Work, action: str) -> Work:
    """Return the work with its draft laid beside itself, or changed for the one that lies there, or that let go."""
    own = write_draft(work.draft)
    if action == "take-beside" and work.beside:
        draft = read_draft(work.beside)
        return replace(work, draft=draft, beside=own, at=_nearest(draft, work.at), shown=NOWHERE)
    return replace(work, beside=own if action == "beside" else "")


def _matched(work: Work, model: Address, way: str, desk: Desk) -> Work:
    """Return the work with the single in hand matched to another strand, or with what comes of it to choose from."""
    if way not in WAYS:
        return replace(work, matching=model if model in {each for each, _ in models(work.draft, work.at)} else NOWHERE)
    drafts = matches(work.draft, work.at, model, desk)
    return replace(work, draft=drafts[way], shown=NOWHERE) if way in drafts else work


def _of_lot(own: dict[str, str], part: Part, lot: Lot) -> tuple[dict[str, str], bool]:
    """Return what was typed with the fibre of a lot; one just chosen brings its preparation, draw and colours along."""
    fibre = lot.lot.fibre.model_dump_json(exclude_none=True)
    if f'"lot":"{lot.uid}"' in part.of("fibre"):
        return {**own, "fibre": fibre}, False
    brought = {"prep": lot.lot.prep, "draw": lot.lot.draw, "colours": " ".join(lot.lot.colours)}
    if lot.lot.run_m:
        brought["run"] = f"{lot.lot.run_m:g} m"
    return {**own, "fibre": fibre, **brought}, True


def matches(draft: Draft, path: Address, model: Address, desk: Desk) -> dict[str, Draft]:
    """Return the draft with the single in hand matched to another strand, each way; nothing where that cannot be."""
    try:
        design = design_of(draft, desk.settings)
        reading = desk.evaluator.read(design)
        places = {own: str(place) for own, place, _ in walk(design.yarn)}
        ways = matched(draft, path, model, reading, places, desk.settings)
        return {way: settled(desk.evaluator, each, desk.settings) for way, each in ways.items()}
    except InputError:
        return {}


def _reach(text: str) -> Reach:
    """Return how near one looks, sent as its place in the row; on the table where that cannot be read."""
    return REACHES[int(text)] if text in {str(place) for place in range(len(REACHES))} else "table"


def _moved(work: Work, place: str, text: str, desk: Desk) -> Work:
    """Return the work with one reading moved; where that cannot be, as it was, with what was typed and why not."""
    try:
        draft = moved(desk.evaluator, work.draft, place.removeprefix("if-"), text, work.holding, desk.settings)
    except InputError as error:
        own = tuple(fault for fault in error.faults if fault.place == place)
        return replace(work, moved={place: text} if own else {}, moved_faults=own)
    return replace(work, draft=draft, shown=NOWHERE)


def _done(work: Work, action: str, desk: Desk, together: bool) -> Work:
    """Return the work after what a button asked for."""
    name = action.removeprefix("start-")
    if name != action and name in STARTS:
        return replace(work, draft=_started(name, work.draft.name, desk.settings), at=WHOLE, shown=NOWHERE)
    if action == "write":
        return replace(work, text=_written(work.draft, desk), shown=NOWHERE)
    if action == "read" and work.text is not None:
        return _read(work, work.text)
    if not action:
        return work
    built = done(work.draft, work.at, action, together)
    draft = overplied(built.draft, built.at) if action == "ply" else built.draft
    draft = settled(desk.evaluator, draft, desk.settings)
    return replace(work, draft=draft, at=_nearest(draft, built.at), shown=NOWHERE)


def _started(name: str, called: str, settings: Settings) -> Draft:
    """Return a starting point, called as the yarn was if a person has named it."""
    begun = start(name, settings)
    own = called not in {start(each).name for each in STARTS}
    return begun.model_copy(update={"name": called}) if own else begun


def _written(draft: Draft, desk: Desk) -> str | None:
    try:
        return write_design(design_of(draft, desk.settings))
    except InputError:  # which stands beside its field already
        return None


def _read(work: Work, text: str) -> Work:
    """Return the work with the draft that a design file says; a fault leaves draft and text as they are."""
    try:
        return replace(work, draft=draft_of(read_design(text.encode())), at=WHOLE, shown=NOWHERE, text=None)
    except InputError as error:
        return replace(work, shown=NOWHERE, text_faults=error.faults)


def _nearest(draft: Draft, path: Address) -> Address:
    """Return the address, or the nearest above it that there is."""
    known = {own for own, _ in parts(draft.yarn)}
    while path not in known:
        path = path.above or WHOLE
    return path
