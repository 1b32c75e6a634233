"""What My hands shows: each factor over time, readings against what was foretold, and every sample behind them."""

from dataclasses import dataclass
from datetime import datetime

from markupsafe import Markup

from pebble_wheel.drawing.hands import Dot, foretold_svg, narrowing_svg
from pebble_wheel.mechanics.learning.factors import Group
from pebble_wheel.mechanics.learning.model import Lessons, YarnMeasured
from pebble_wheel.mechanics.learning.outcomes import Outcome
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.mechanics.strand.structure import Single, walk
from pebble_wheel.notation.design import Design, finish_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.log import Record
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.sample import Sample
from pebble_wheel.store.records import Noted, plan_of
from pebble_wheel.store.spinners import Spinner
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.hands import (
    CARD_ONLY,
    ENDS,
    FIGURE_WORDS,
    FORETOLD,
    NO_SAMPLES,
    STEADIER,
    WIDER,
    YARN_TO_YARN,
    band_ends,
    coverage_words,
    doubt_words,
    factor_title,
    factor_words,
    group_words,
    next_words,
    share_words,
    width_words,
)
from pebble_wheel.wording.practice import leave_words
from pebble_wheel.wording.sampling import OUTCOME_WORDS, sample_words
from pebble_wheel.wording.thread import day_words
from pebble_wheel.workshop.known import (
    LATELY,
    Foretold,
    doubts_of,
    figures_of,
    foretold,
    known_figures,
    narrowings,
    next_to_measure,
)
from pebble_wheel.workshop.learn import node_of, sample_of

STEADY, UNSTEADY = 0.8, 1.25
"""Of the usual difference from yarn to yarn, below and above which it is told."""

MOST_LINES = 60
"""Samples that are listed, the newest."""

FORETOLD_YARNS = 16
"""Of the last, whose readings stand against what was foretold."""


@dataclass(frozen=True)
class FactorPart:
    """A factor over the yarns."""

    name: str
    words: str
    picture: Markup


@dataclass(frozen=True)
class FigurePart:
    """A figure, and how far it is learned."""

    name: str
    words: str
    width: str


@dataclass(frozen=True)
class Chip:
    """A reading of a sample."""

    outcome: Outcome
    words: str
    counts: bool
    doubt: str
    """What is asked about it; empty where nothing is."""


@dataclass(frozen=True)
class Line:
    """A sample."""

    id: int
    design: int
    name: str
    day: str
    words: str
    chips: tuple[Chip, ...]


@dataclass(frozen=True)
class GroupChoice:
    """A fibre and preparation that can be looked at."""

    place: int
    words: str
    here: bool


@dataclass(frozen=True)
class Learnt:
    """What was learned."""

    groups: list[GroupChoice]
    factors: list[FactorPart]
    figures: list[FigurePart]
    axis: Markup
    coverage: str
    nexts: list[str]
    steadiness: str
    card: str


@dataclass(frozen=True)
class HandsView:
    """The page."""

    spinner: Spinner
    spinners: list[Spinner]
    counted: bool
    learnt: Learnt | None
    """None where nothing was sampled."""
    lines: list[Line]
    more: int
    """Samples that are not listed."""
    fault: str
    typed: str
    eye: str
    """How practice puts right what is judged by eye; empty where it does not."""

    no_samples = NO_SAMPLES
    yarn_to_yarn = YARN_TO_YARN


def view_of_hands(desk: Desk, everybody: list[Spinner], group: int, fault: str = "", typed: str = "") -> HandsView:
    """Return what the page shows, of one fibre and preparation."""
    learned = desk.learned
    lessons, yarns = learned.lessons, list(learned.yarns.values())
    lines = _lines(learned.entries, lessons, desk.display)
    return HandsView(
        learned.spinner,
        everybody,
        learned.counted,
        _remembered(lessons, yarns, group, desk) if lessons else None,
        lines[:MOST_LINES],
        max(len(lines) - MOST_LINES, 0),
        fault,
        typed,
        leave_words(learned.eye) if learned.eye else "",
    )


def _remembered(lessons: Lessons, yarns: list[YarnMeasured], place: int, desk: Desk) -> Learnt:
    """Return what was learned, worked out once for as long as nothing more is noted."""
    entries, memory = desk.learned.entries, desk.learned.reckoned
    return desk.learned.remembered.recall((_learnt, place), lambda: _learnt(lessons, yarns, entries, place, memory))


def _learnt(
    lessons: Lessons, yarns: list[YarnMeasured], entries: tuple[Noted[Record], ...], place: int, memory: Memory
) -> Learnt:
    groups = list(dict.fromkeys(yarn.columns[0][1] for yarn in reversed(yarns)))
    place = place if 0 <= place < len(groups) else 0
    group, told = groups[place], foretold(yarns, FORETOLD_YARNS, lessons.known)
    figures, nexts = _figures(lessons, entries, group, memory)
    methods = {each.method for yarn in yarns for each in yarn.readings}
    steadiness = WIDER if lessons.steadiness > UNSTEADY else STEADIER if lessons.steadiness < STEADY else ""
    return Learnt(
        [GroupChoice(at, group_words(each), at == place) for at, each in enumerate(groups)],
        [
            FactorPart(
                factor_title(each).partition(" over ")[0],
                factor_words(each),
                Markup(narrowing_svg(each.usual, each.at, factor_title(each), band_ends(each))),
            )
            for each in narrowings(yarns, group, lessons.known)
        ],
        figures,
        Markup(_axis(told)),
        coverage_words(told[-LATELY:]),
        nexts,
        steadiness,
        CARD_ONLY if "card" in methods and not methods & {"wraps", "photo", "weighed"} else "",
    )


def _axis(told: list[Foretold]) -> str:
    rows: dict[Outcome, list[Dot]] = {}
    for each in told:
        rows.setdefault(each.outcome, []).append(Dot(each.off, OUTCOME_WORDS[each.outcome]))
    return foretold_svg([(OUTCOME_WORDS[outcome], dots) for outcome, dots in rows.items()], FORETOLD, ENDS)


def _figures(
    lessons: Lessons, entries: tuple[Noted[Record], ...], group: Group, memory: Memory
) -> tuple[list[FigurePart], list[str]]:
    """Return how far the figures of the last yarn of a group are learned, and what to measure next."""
    for noted in reversed(entries):
        plan = plan_of(noted)
        found = _of_plan(lessons, plan, group, memory) if plan else None
        if found:
            return found
    return [], []


def _of_plan(lessons: Lessons, plan: Design, group: Group, memory: Memory) -> tuple[list[FigurePart], list[str]] | None:
    rod = Constants().rod
    try:
        node = node_of(plan, "yarn", rod, memory)
    except (InputError, NoBalanceError):
        return None
    finish = finish_of(plan)
    single = next((each for each in walk(node) if isinstance(each, Single)), None)
    figures = figures_of(node, rod, finish, memory)
    if single is None or next(iter(figures.values())).group != group:
        return None
    known = known_figures(lessons, figures)
    parts = [FigurePart(FIGURE_WORDS[each.outcome], share_words(each), width_words(each)) for each in known]
    return parts, [next_words(each) for each in next_to_measure(lessons, node, single, rod, finish, memory)]


def _lines(entries: tuple[Noted[Record], ...], lessons: Lessons | None, display: Display) -> list[Line]:
    readings: dict[int, list[Outcome]] = {}
    for yarn in lessons.yarns if lessons else ():
        for each in yarn.readings:
            assert isinstance(each.entry, int)
            readings.setdefault(each.entry, []).append(each.outcome)
    doubts = {(each.entry, each.outcome): doubt_words(each) for each in (doubts_of(lessons) if lessons else ())}
    found = []
    for noted in reversed(entries):
        record, plan = noted.record, plan_of(noted)
        sample = sample_of(record) if isinstance(record, Skein) else record
        if not isinstance(sample, Sample) or plan is None:
            continue
        chips = [
            Chip(each, OUTCOME_WORDS[each], True, "" if noted.sure else doubts.get((noted.id, each), ""))
            for each in readings.get(noted.id, [])
        ]
        chips += [Chip(each, words, False, "") for each, words in OUTCOME_WORDS.items() if each in noted.struck]
        day = day_words(datetime.fromisoformat(noted.noted_at).astimezone())
        found.append(Line(noted.id, noted.design, plan.name, day, sample_words(sample, display), tuple(chips)))
    return sorted(found, key=lambda each: not any(chip.doubt for chip in each.chips))
