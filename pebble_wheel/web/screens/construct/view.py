"""What the construction screen shows: a value for each part of the page."""

import re
from contextlib import suppress
from dataclasses import dataclass, replace

from markupsafe import Markup

from pebble_wheel.drawing.tree import Branch, grow
from pebble_wheel.drawing.yarn import REACHES
from pebble_wheel.mechanics.backwards.merits import steps_of
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.draft import (
    FIELDS,
    Part,
    design_of,
    in_fields,
    part_at,
    parts,
    place_of,
    read_draft,
    write_draft,
)
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store.designs import Kept
from pebble_wheel.web.screens.construct.form import NOWHERE, Work, matches
from pebble_wheel.web.shared.base import LOT, Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.compare import Beside, Compared, side_by_side
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.web.shared.yarn import Viewpoint, YarnView, view_of
from pebble_wheel.wording.advice import Advice
from pebble_wheel.wording.figures import (
    Figure,
    Movable,
    kind_figures,
    level_columns,
    level_figures,
    loop_figure,
    part_figures,
    rest_figures,
    size_figures,
    spinning_figures,
    sure_words,
    what_if,
    yarn_figures,
)
from pebble_wheel.wording.lots import DRAW_WORDS
from pebble_wheel.wording.making import StepRow, step_rows
from pebble_wheel.wording.names import (
    DRAWN_NOTE,
    PICTURE_WORDS,
    REACH_WORDS,
    Bar,
    action_words,
    part_hint,
    part_words,
)
from pebble_wheel.wording.schools import School, schools
from pebble_wheel.wording.spinning import AS_IT_IS, LAID_BESIDE, TWIST_TYPED, TWIST_WORDS, spun_words, twist_hint
from pebble_wheel.wording.washing import DRYING_WORDS, WASH_WORDS
from pebble_wheel.wording.why import Why, why
from pebble_wheel.workshop.edits import likes, offered
from pebble_wheel.workshop.match import models
from pebble_wheel.workshop.refit import readings_to_hold
from pebble_wheel.workshop.starts import STARTS


@dataclass(frozen=True)
class Strip:
    """The row of figures above the picture: what if, or the part in hand; and the yarn."""

    part: str
    """Name of the part in hand; empty where that is the whole yarn, whose readings can be moved."""
    part_figures: list[Figure]
    movable: list[Movable]
    yarn_figures: list[Figure]


@dataclass(frozen=True)
class Caption:
    """What stands under the picture."""

    structure: str
    times_life: str
    """How much larger than life it is drawn; empty where it is not drawn to scale."""
    said: int
    """Pieces of advice."""
    angle_words: str
    wpi_words: str


@dataclass(frozen=True)
class Rest:
    """How the yarn rests."""

    verdict: str
    kind: str
    """Of the verdict, for its colour."""
    scale: Markup
    loop: Markup
    loop_figure: Figure
    figures: list[Figure]


@dataclass(frozen=True)
class Sizes:
    """How thick the yarn comes out."""

    figures: list[Figure]
    designation: str
    sure: str


@dataclass(frozen=True)
class LevelRow:
    """One strand in the table of levels."""

    path: Address
    name: str
    in_hand: bool
    figures: list[Figure]


@dataclass(frozen=True)
class Levels:
    """The table of levels, with its headings and the keys of their reasons."""

    columns: list[tuple[str, str]]
    rows: list[LevelRow]
    at: Address


@dataclass(frozen=True)
class YarnParts:
    """Everything that hangs on a yarn that can be made."""

    strip: Strip
    picture: Markup
    caption: Caption
    rest: Rest
    sizes: Sizes
    advice: tuple[Advice, ...]
    matters: list[tuple[str, list[Bar]]]
    levels: Levels
    steps: list[StepRow]
    """At the wheel, for a hundred metres or yards."""
    hundred: str
    schools: list[School]
    """Where practitioners differ over such a yarn."""
    spun: list[Figure]
    """What only the part in hand has: of a single, and of its kind."""


@dataclass(frozen=True)
class Card:
    """A part in the picture of the tree."""

    branch: Branch
    name: str
    hint: str
    in_hand: bool
    faulty: bool


@dataclass(frozen=True)
class Offer:
    """An action that fits the part in hand."""

    name: str
    words: str
    key: str


@dataclass(frozen=True)
class Tree:
    """The tree of the yarn and what can be done to the part in hand."""

    strands: Markup
    cards: list[Card]
    offers: list[Offer]


@dataclass(frozen=True)
class Hand:
    """The part in hand with its fields."""

    part: Part
    at: Address
    name: str
    likes: int
    """How many other parts are like it."""

    models: list[Choice]
    """The strands that a single can be matched to."""
    fibres: list[Choice]
    """What can be chosen, lots in hand first; empty where the page has it already."""

    draws = choices_of(DRAW_WORDS)
    twists = choices_of(TWIST_WORDS)

    @property
    def fibre(self) -> str:
        """What is chosen: a lot, a fibre of the table, or one given in place."""
        return lot_or_fibre(self.part)

    @property
    def twist_typed(self) -> str:
        """What is typed for the twist of a single; empty where nothing is."""
        return TWIST_TYPED.get(self.part.of("by"), "")

    @property
    def twist_hint(self) -> str:
        """What becomes of the twist when the size moves."""
        return twist_hint(self.part.of("by"), self.part.of("twist"))


@dataclass(frozen=True)
class Elsewhere:
    """A fault of a part that is not in hand."""

    path: Address
    name: str
    message: str


@dataclass(frozen=True)
class ConstructView:
    """The page."""

    work: Work
    draft_text: str
    yarn: YarnParts | None
    """None where the draft makes no yarn."""
    tree: Tree
    hand: Hand
    faults: dict[str, str]
    """Of the part in hand and of the yarn's own fields, by field."""
    elsewhere: list[Elsewhere]
    reason: Why | None
    refill: bool
    """Whether the fields of the part in hand are to be filled anew."""
    fields: tuple[str, ...]
    """That a fault can stand beside."""
    said: str
    changed: Kept | None
    """The design as another window kept it meanwhile."""
    wraps: str
    """How wraps are counted where nothing else is typed."""
    offered: str
    """A set of units to change to at one touch; empty for none."""
    compared: Compared | None
    """This yarn beside another, or what comes of matching a single either way."""
    wrong: bool
    unmade: bool
    """Whether the draft makes no yarn, so that the picture is an older one."""
    thread: Thread | None
    """Of a kept yarn, where the whole page is asked for."""

    drawn_note = DRAWN_NOTE
    starts = choices_of({name: each.words for name, each in STARTS.items()})
    pictures = choices_of(PICTURE_WORDS)
    washes = choices_of(WASH_WORDS)
    dryings = choices_of(DRYING_WORDS)
    nearest, farthest = REACH_WORDS[REACHES[-1]], REACH_WORDS[REACHES[0]]

    @property
    def reach(self) -> int:
        """Place of the reach in the row, and of the last one."""
        return REACHES.index(self.work.reach)

    most_reach = len(REACHES) - 1


def page_of(work: Work, desk: Desk, said: str = "", changed: Kept | None = None) -> ConstructView:
    """Return the whole page of a work, all its fields filled."""
    return parts_of(replace(work, shown=NOWHERE), desk, said, changed)


def parts_of(work: Work, desk: Desk, said: str = "", changed: Kept | None = None) -> ConstructView:
    """Return what the page shows of a work."""
    seen: YarnView | None = None
    faults: tuple[Fault, ...] = ()
    text = write_draft(work.draft.model_copy(update={"name": ""}))  # the name has a field of its own
    try:
        meant = design_of, text, work.draft.name, desk.settings
        design = desk.evaluator.recall(meant, lambda: design_of(work.draft, desk.settings))
        if work.number is not None:
            desk = desk.for_yarn(work.number, design)
        seen = view_of(desk.evaluator, design, desk.display, Viewpoint(work.picture, work.reach, work.at, work.painted))
    except InputError as error:
        faults = in_fields(error).faults
    part, refill = part_at(work.draft, work.at), work.shown != work.at
    fibres = desk.fibre_choices(lot_or_fibre(part)) if refill else []
    strands = [Choice(path, _strand_words(path, each)) for path, each in models(work.draft, work.at)]
    return ConstructView(
        work=work,
        draft_text=text,
        yarn=_yarn(work, seen, desk) if seen else None,
        tree=_tree(work, {place_of(fault.place)[0] for fault in faults}),
        hand=Hand(
            part,
            work.at,
            part_words(part),
            likes(work.draft, work.at),
            strands,
            fibres,
        ),
        faults=_own_faults((*faults, *work.moved_faults), work.at),
        elsewhere=_elsewhere(faults, work),
        reason=why(work.asked, seen.rows, seen.reading, seen.display) if seen and work.asked else None,
        refill=refill,
        fields=(*FIELDS[part.kind], "name", "wash", "drying"),
        said=said,
        changed=changed,
        offered=desk.offered or "",
        wraps=desk.display.wpi_words,
        compared=_compared(work, seen, desk) if seen else None,
        wrong=bool(faults or work.text_faults or work.moved_faults),
        unmade=bool(faults),
        thread=desk.load_thread(work.number, "construct") if work.number is not None and refill else None,
    )


def _strand_words(path: Address, part: Part) -> str:
    """Return what a strand is called where it must be told from the others."""
    place = "" if path.place is None else f", number {path.place + 1}"
    return f"{part_words(part)}{place}, {part_hint(part)}"


def _compared(work: Work, seen: YarnView, desk: Desk) -> Compared | None:
    """Return the yarns to choose from, side by side; None where there is nothing to choose."""
    if work.matching:
        ways = matches(work.draft, work.at, work.matching, desk)
        drafts = [(f"match-{way}", spun_words(way), draft) for way, draft in ways.items()]
    elif work.beside:
        drafts = [("take-beside", LAID_BESIDE, read_draft(work.beside))]
    else:
        return None
    yarns = [] if work.matching else [Beside("", AS_IT_IS, seen, _part_in_hand(seen))]
    for key, words, draft in drafts:
        with suppress(InputError):
            other = view_of(desk.evaluator, design_of(draft, desk.settings), desk.display, Viewpoint(at=work.at))
            yarns.append(Beside(key, words, other, _part_in_hand(other)))
    return side_by_side(yarns) if yarns else None


def _part_in_hand(seen: YarnView) -> dict[str, str]:
    """Return what is to be said of the part in hand, where that is not the whole."""
    if seen.in_hand.path == WHOLE:
        return {}
    return {f"this strand: {each.label}": each.value for each in part_figures(seen.in_hand, seen.reading, seen.display)}


def lot_or_fibre(part: Part) -> str:
    """Return the fibre of a part as it is chosen: a lot by its uid; empty where a part has none."""
    fibre = part.of("fibre")
    named = re.search(r'"lot":"([^"]+)"', fibre) if fibre.startswith("{") else None
    return f"{LOT}{named[1]}" if named else fibre


def _yarn(work: Work, seen: YarnView, desk: Desk) -> YarnParts:
    reading, display, row = seen.reading, seen.display, seen.in_hand
    whole = work.at == WHOLE
    movable = what_if(readings_to_hold(desk.evaluator, reading), display) if whole else []
    return YarnParts(
        strip=Strip(
            "" if whole else row.name, part_figures(row, reading, display), movable, yarn_figures(reading, display)
        ),
        picture=seen.picture,
        caption=_caption(seen),
        rest=Rest(
            seen.verdict,
            reading.balance.verdict.replace(" ", "-"),
            seen.scale,
            seen.loop,
            loop_figure(reading, display),
            rest_figures(reading, display),
        ),
        sizes=Sizes(size_figures(reading, display), seen.designation, sure_words(reading)),
        advice=seen.advice,
        matters=seen.matters,
        levels=Levels(
            level_columns(display),
            [LevelRow(each.path, each.name, each.path == work.at, level_figures(each, display)) for each in seen.rows],
            work.at,
        ),
        steps=step_rows(steps_of(reading.levels, desk.hands), 100 * display.shorter, display),
        hundred=display.hundred,
        schools=schools(seen.design, reading.balance.verdict),
        spun=[*spinning_figures(row, reading, display), *kind_figures(row, display)],
    )


def _caption(seen: YarnView) -> Caption:
    times = ""
    if seen.viewpoint.picture == "along":
        times = f"{seen.magnification:.0f}" if seen.magnification >= 1.5 else "1"
    return Caption(seen.structure, times, len(seen.advice), seen.display.angle_words, seen.display.wpi_words)


def _tree(work: Work, faulty: set[Address]) -> Tree:
    tree = grow(work.draft)
    return Tree(
        Markup(tree.strands),
        [
            Card(each, part_words(each.part), part_hint(each.part), each.path == work.at, each.path in faulty)
            for each in tree.branches
        ],
        [Offer(each.name, action_words(each.name), each.key) for each in offered(work.draft, work.at)],
    )


def _own_faults(faults: tuple[Fault, ...], at: Address) -> dict[str, str]:
    """Return the faults of the part in hand and of the yarn's own fields, by field."""
    own: dict[str, str] = {}
    for fault in faults:
        path, field = place_of(fault.place)
        if path in ("", at):
            own.setdefault(field, fault.message)
    return own


def _elsewhere(faults: tuple[Fault, ...], work: Work) -> list[Elsewhere]:
    """Return the faults of parts not in hand."""
    found = []
    known = dict(parts(work.draft.yarn))
    for fault in faults:
        path, field = place_of(fault.place)
        if path not in ("", work.at):
            message = f"{field}: {fault.message}" if field else fault.message
            found.append(Elsewhere(path, part_words(known.get(path, work.draft.yarn)), message))
    return found
