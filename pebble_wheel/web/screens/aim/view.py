"""What the aiming screen shows: a value for each part of the page."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import get_args

from markupsafe import Markup

from pebble_wheel.drawing.dress import Dress, dress_of
from pebble_wheel.drawing.grips import AIMED, grips, halo
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.wool import packed
from pebble_wheel.drawing.yarn import (
    Relief,
    Wedge,
    arm,
    closely,
    hanging_scale,
    hanging_svg,
    scale_for,
    shape_of,
    yarn_svg,
)
from pebble_wheel.mechanics.backwards.merits import Judged
from pebble_wheel.mechanics.backwards.solve import firmness
from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.rest.balance import RATIO_LIMITS
from pebble_wheel.mechanics.strand.structure import Leaf, Nature
from pebble_wheel.notation.aim import (
    FIELDS,
    LEAST_RATIO,
    MOST_RATIO,
    MOST_WEIGHT,
    RANKED,
    STAGES,
    Aim,
    weights_of,
)
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.weights import WEIGHT_TABLES, middle_of
from pebble_wheel.web.screens.aim.compare import compared
from pebble_wheel.web.screens.aim.form import AimForm
from pebble_wheel.web.shared.aimed import aim_of, candidate_of
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.compare import Compared
from pebble_wheel.web.shared.drawn import strands_address
from pebble_wheel.wording import titles
from pebble_wheel.wording.advice import Advice
from pebble_wheel.wording.candidate import Cell, cells, in_the_way, steps_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.examples import Like, like
from pebble_wheel.wording.hands import behind_words
from pebble_wheel.wording.lots import DRAW_WORDS
from pebble_wheel.wording.making import StepRow
from pebble_wheel.wording.merits import COLOURING_WORDS, MERITS
from pebble_wheel.wording.names import STAGE_WORDS
from pebble_wheel.wording.tools import tool_choices
from pebble_wheel.wording.washing import DRYING_WORDS, WASH_WORDS
from pebble_wheel.wording.why import Why
from pebble_wheel.wording.why_aim import candidate_why
from pebble_wheel.workshop.aim import Candidate, candidates, usual_factor
from pebble_wheel.workshop.starts import STARTS

ADVANCED = ("draw", "thinnest", "core", "core_nature", "made_on", "run", "wash", "drying")
"""Fields that are folded away."""


@dataclass(frozen=True)
class Hung:
    """A candidate as it hangs on the rail."""

    found: Candidate
    drawing: Markup
    cells: dict[str, Cell]
    in_hand: bool
    address: str
    """Where it is opened to construct."""


@dataclass(frozen=True)
class Picture:
    """The yarn aimed for, with what a hand that takes hold of it needs to know."""

    drawing: Markup
    loop: Markup
    scale: float
    """Pixels per mm."""
    across: float
    """Thickness aimed for, mm."""
    apex: float
    middle: float
    """Where the arms of the angle meet, pixels."""
    behind: str
    """From how many samples of whom its ranges come."""


@dataclass(frozen=True)
class Good:
    """How good a candidate is for one thing."""

    aspect: str
    words: str
    score: float


@dataclass(frozen=True)
class InHand:
    """The candidate in hand."""

    hung: Hung
    way: list[Advice]
    steps: list[StepRow]
    merits: list[Good]


@dataclass(frozen=True)
class Found:
    """All that hangs on an aim that could be read."""

    rail: list[Hung]
    in_hand: InHand | None
    picture: Picture | None
    usual: tuple[float, float]
    """Where on the way from soft to firm the usual twist factors begin and end, in hundredths."""
    reason: Why | None
    compared: Compared | None


@dataclass(frozen=True)
class AimView:
    """The page."""

    form: AimForm
    found: Found | None
    """None where the aim cannot be read."""
    faults: dict[str, str]
    classes: list[Choice]
    """Weight classes, each with a size in its middle."""
    angle_words: str
    wpi_words: str
    like: Like
    fibres: list[Choice]
    """None for parts of the page, which leave the field as it is."""
    tools: tuple[Choice, ...]

    fields = tuple(FIELDS)
    washes = choices_of(WASH_WORDS)
    dryings = choices_of(DRYING_WORDS)
    colourings = choices_of(COLOURING_WORDS)
    preps = choices_of({each: each for each in get_args(Prep)})
    draws = choices_of(DRAW_WORDS)
    natures = choices_of({each: each for each in get_args(Nature)})
    stages = choices_of({each: STAGE_WORDS[each] for each in STAGES})
    faders = choices_of({aspect: MERITS[aspect].words for aspect in RANKED})
    most_weight = MOST_WEIGHT
    least_ratio, most_ratio = LEAST_RATIO, MOST_RATIO
    at_rest, over_from, lively_from = RATIO_LIMITS

    @property
    def left_out(self) -> list[Choice]:
        """The structures left out."""
        return [Choice(name, STARTS[name].words) for name in self.form.without]

    @property
    def more_open(self) -> bool:
        """Whether a fault stands beside a field that is folded away."""
        return any(field in ADVANCED for field in self.faults)


def view_of_aim(form: AimForm, desk: Desk, whole: bool = True) -> AimView:
    """Return what the page shows of a form; what fibres there are only where it is shown whole."""
    faults: tuple[Fault, ...] = ()
    found: Found | None = None
    try:
        aim = aim_of(form.aimed, desk)
        found = _found(aim, form, desk)
    except InputError as error:
        faults = error.faults
    return AimView(
        form,
        found,
        {fault.place: fault.message for fault in faults},
        _classes(desk.display),
        desk.display.angle_words,
        desk.display.wpi_words,
        like(desk.settings),
        desk.fibre_choices(form.aimed.typed["fibre"]) if whole else [],
        choices_of(tool_choices(desk.tools, form.aimed.typed["made_on"])),
    )


def _found(aim: Aim, form: AimForm, desk: Desk) -> Found:
    ranked = candidates(desk.evaluator, aim, weights_of(form.aimed.typed), frozenset(form.without))
    at = next((each.name for each in ranked if each.name == form.at), ranked[0].name if ranked else "")
    rail = _rail(ranked, at, form, desk)
    hung = next((each for each in rail if each.in_hand), None)
    aspect, _, name = form.asked.partition("@")
    about = next((each for each in ranked if each.name == name), None)
    usual = usual_factor(aim.fibre, aim.prep, aim.draw)
    low, high = (100 * float(firmness(each, usual)) for each in usual)
    return Found(
        rail,
        _in_hand(hung, aim, desk.display) if hung else None,
        _picture(hung.found, hung.found.judged, aim, form, desk) if hung and hung.found.judged else None,
        (low, high),
        candidate_why(aspect, about, aim, desk.display) if about else None,
        _compared(form.pins, desk),
    )


def _rail(ranked: Iterable[Candidate], at: str, form: AimForm, desk: Desk) -> list[Hung]:
    """Return the candidates drawn at one scale."""
    ranked = list(ranked)
    scale = hanging_scale(each.judged.made for each in ranked if each.judged)
    return [_hung(each, scale, each.name == at, form.aimed.query, desk) for each in ranked]


def _hung(found: Candidate, scale: float, in_hand: bool, query: str, desk: Desk) -> Hung:
    drawing = ""
    if found.judged:
        made, dress = found.judged.made, _dress(found, desk)
        title = titles.hanging(found.words)
        key = (hanging_svg, found.name, dress, shape_of(made, scale))
        drawing = desk.evaluator.recall(key, lambda: hanging_svg(made, dress, f"hung-{found.name}", title, scale))
    address = f"/construct/aimed?structure={found.name}" + (f"&{query}" if query else "")
    return Hung(found, Markup(drawing), cells(found, desk.display, len(desk.tools.bobbins)), in_hand, address)


def _dress(found: Candidate, desk: Desk) -> Dress:
    return desk.evaluator.recall((dress_of, found.template), lambda: dress_of(found.begun_design.yarn))


def _in_hand(hung: Hung, aim: Aim, display: Display) -> InHand:
    judged = hung.found.judged
    merits = [Good(each, MERITS[each].words, own.score) for each, own in judged.merits.items()] if judged else []
    return InHand(hung, in_the_way(hung.found, aim, display), steps_of(hung.found, display), merits)


def _picture(found: Candidate, judged: Judged, aim: Aim, form: AimForm, desk: Desk) -> Picture:
    """Return the yarn in hand with what can be taken hold of on it."""
    made, top, display = judged.made, judged.levels[0], desk.display
    plied = float(made.state.diameter)
    aimed = aim.value if aim.measure.endswith("diameter") else plied
    scale = form.scale or min(scale_for(made, AIMED), AIMED.height / max(aimed, 1e-3))
    wedge = None
    if not isinstance(made.node, Leaf):
        wedge = Wedge(abs(top.angle), display.settings.angle_from == "crosswise", display.angle(top.angle))
    dress = _dress(found, desk)
    filled = design_of(found.filled(desk.settings), desk.settings)
    drawing = yarn_svg(
        made,
        dress,
        wedge,
        display.settings.inches,
        titles.aimed(found.words),
        scale=scale,
        under=halo(aimed, scale),
        over=grips(made, wedge, aimed, scale),
        frame=AIMED,
        relief=Relief(
            strands_address(filled, desk.evaluator.constants.middle_of(made.node)),
            form.painted,
            "" if form.painted else closely(packed(made, dress, aim.finish)),
        ),
    )
    turns = desk.evaluator.loop_turns(made)
    loop = loop_svg(turns, top.diameter, list(dress.shown()), titles.loop(turns, display))
    apex, middle, *_ = arm(0.0, wedge or Wedge(0.0, False, ""), AIMED)
    behind = behind_words(desk.evaluator.constants, made.node)
    return Picture(Markup(drawing), Markup(loop), scale, aimed, apex, middle, behind)


def _classes(display: Display) -> list[Choice]:
    """Return the weight classes, thickest first, each with a size in its middle."""
    return [
        Choice(f"{display.settings.wraps(middle_of(low, high)):.3g} wpi", name)
        for name, low, high in reversed(WEIGHT_TABLES[display.settings.weight_table])
    ]


def _compared(pins: Iterable[str], desk: Desk) -> Compared | None:
    """Return the yarns that are pinned side by side, those that can be spun."""
    found = [(pin, candidate_of(desk, pin)) for pin in pins]
    spun: list[tuple[str, Candidate, Design]] = [
        (pin, each, design_of(each.filled(desk.settings), desk.settings)) for pin, each in found if each and each.judged
    ]
    return compared(spun, desk) if spun else None
