"""What stands beside the wheel."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

import numpy as np
from markupsafe import Markup

from pebble_wheel.devices.protocol import Count
from pebble_wheel.drawing.draft import draft_svg
from pebble_wheel.drawing.yarn import thickness
from pebble_wheel.mechanics.backwards.merits import Hands, Step, steps_of
from pebble_wheel.mechanics.making.splitting import FILLED, PLIED_BULK, SINGLE_BULK, build_diameter
from pebble_wheel.mechanics.making.wheel import treadles
from pebble_wheel.mechanics.reading.reading import Level, Reading
from pebble_wheel.mechanics.strand.structure import Bought, Single
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.log import Planned
from pebble_wheel.store.runs import Run
from pebble_wheel.web.screens.wheel.countings import Told
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.bench import Bench, SideBySide, to_match
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.planned import bobbins_of, metres_of, ticked, worked_out
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.texture import sections_words
from pebble_wheel.wording.thread import day_words
from pebble_wheel.wording.tools import BEATS, NO_COUNT, at_words, choices_on, notes_on, tool_choices, way_words
from pebble_wheel.wording.wheel import (
    CARE,
    DRAFT_TITLE,
    GO_AND_STAND,
    Trouble,
    alarm_words,
    before_words,
    bobbin_words,
    chant,
    counters_words,
    intake_words,
    left_words,
    parked_words,
    steps_for,
    troubles_for,
    twist_words,
    which_words,
)
from pebble_wheel.workshop.plan import bobbin_for
from pebble_wheel.workshop.standing import Drafted, Standing, draft_for_whole_beats, standing_of
from pebble_wheel.workshop.tools import Bobbin, Owned

MOST_SHOWN = 12
"""Runs that can be played again."""

DRAFT_MM = 500.0
"""Of a draft where nothing else was said (assumed)."""


@dataclass(frozen=True)
class Live:
    """What changes while the wheel turns; every value is words."""

    drafts: str
    treadles: str
    """In the draft in hand, of how many."""
    twist: str
    metres: str
    left: str
    """Metres, grams and time until what was planned is made; empty where nothing is planned."""
    alarm: str
    bobbin: str
    full: float
    """How far the bobbin has grown from its shaft to its flange, 0 to 1."""
    aside: str
    share: float
    """Of the turns that the draft in hand wants, 0 to 1."""
    counters: str
    """Of several counters; empty of one."""
    believed: str
    """The counter whose turns count."""
    parked: str
    """Where it stands, to be found again; empty while it turns."""
    running: bool
    ended: bool


@dataclass(frozen=True)
class Played:
    """A run that ended and can be played again."""

    id: int
    day: str


@dataclass(frozen=True)
class WheelView:
    """The page."""

    number: int
    name: str
    thread: Thread | None
    steps: tuple[Choice, ...]
    strand: str
    what: str
    direction: Literal["Z", "S"]
    way: str
    beat: tuple[str, str]
    """What is counted: one, and several."""
    on: str
    """Choice of what it is made on."""
    tools: tuple[Choice, ...]
    at: str
    """How fast that turns."""
    ratio: float
    per_beat: float
    """Turns that one beat puts in."""
    ratios: list[tuple[float, str]]
    notes: list[str]
    draft_mm: float
    draft: str
    count: int
    exact: str
    chant: str
    wanted: str
    pace: float
    counted: bool
    """Whether the turns of what it is made on were ever counted."""
    run: Run | None
    live: Live | None
    address: str
    """Of the run; a counter sends its lines to ``lines`` under it."""
    played: bool
    """Whether a run that ended is played again."""
    drawn: Markup
    """The draft to scale."""
    beside: SideBySide | None
    """What is to be matched, with its ply-back."""
    before: list[str]
    which: str
    """Which of how many this is."""
    stages: list[str]
    """From leader to tied skein."""
    troubles: list[Trouble]
    runs: list[Played]
    """That ended, the last first."""
    sections: list[str]
    """What comes one after the other of a yarn that changes along its length."""

    @property
    def tapped(self) -> str:
        """What the large button says: what is counted, or that a motor goes and stands."""
        return GO_AND_STAND if self.beat == BEATS["second"] else self.beat[0]

    care = CARE


@dataclass(frozen=True)
class Made:
    """One step of a yarn at the wheel."""

    step: Step
    design: Design
    steps: tuple[Choice, ...]
    """All of the yarn."""
    thickest: float
    """mm."""
    hands: Hands
    """On what it is made on."""
    owned: Owned | None = None
    """That; None of any other than those owned."""
    on: str = ""
    """How it was chosen."""
    metres: float = 0.0
    """Planned of one such strand; 0 where nothing is."""
    bobbin: Bobbin | None = None
    """That it is wound on, where that is known."""
    many: int = 1
    """Such strands, or their bobbins where those are more."""

    @property
    def counted(self) -> bool:
        """Whether turns of what it is made on are known; of a spinner or spindle nobody counted they are not."""
        return self.owned is not None or not self.on

    @property
    def wanted(self) -> float:
        """Turns/m, without sign."""
        return abs(self.step.level.turns_per_m_as_made)

    @property
    def direction(self) -> Literal["Z", "S"]:
        """Of its twist."""
        return "Z" if self.step.level.turns_per_m_as_made > 0 else "S"


def levels_in(reading: Reading) -> list[Level]:
    """Return what is made of a yarn, the singles first."""
    made = {each.node: each for each in reading.levels if not isinstance(each.node, Bought)}
    return list(reversed(made.values()))


def step_at(design: Design, desk: Desk, strand: str, planned: Planned | None = None, on: str | None = None) -> Made:
    """Return a step by its strand; the first where there is none such.

    Args:
        design: the yarn.
        desk: tools and units.
        strand: address of what is made.
        planned: what is planned of the yarn, tools and metres too.
        on: what it is made on; None as it is planned.

    Raises:
        InputError: where nothing is made, or the yarn cannot be.
    """
    reading = desk.evaluator.read(design, desk.settings)
    levels = levels_in(reading)
    if not levels:
        raise InputError(Fault("strand", "nothing of this yarn is spun or plied here"))
    level = next((each for each in levels if each.path == strand), levels[0])
    worked = worked_out(design, planned.typed, ticked(planned), desk, date.today()) if planned else None
    if on is None:
        on = worked.plan.tools.get(f"make-{level.path}", "") if worked else ""
    hands, bobbins = desk.tools.hands(on), desk.tools.bobbins
    bobbin = bobbin_for(worked.plan, 0, bobbins) if worked else next(iter(bobbins), None)
    metres = metres_of(worked, level.path) if worked else 0.0
    many = max([level.strands, *(bobbins_of(worked, level.path) if worked else ())])
    thickest = thickness(reading.made) if level is reading.levels[0] else float(level.made.diameter)
    choices = tuple(Choice(each.path, level_words(each)) for each in levels)
    step = steps_of([level], hands)[0]
    return Made(step, design, choices, thickest, hands, desk.tools.named(on), on, metres, bobbin, many)


def standing(run: Run, count: Count, made: Made) -> Standing:
    """Return how a run stands that was counted so far."""
    drafts = [Drafted(each.turns, each.mm, each.way) for each in count.drafts]
    per_beat = run.per_beat(made.wanted)
    return standing_of(
        drafts, count.in_hand, count.way, count.turns, made.wanted, made.direction, run.draft_mm, per_beat
    )


def live_of(run: Run, counters: Told, made: Made, desk: Desk) -> Live:
    """Return what changes while the wheel turns."""
    found = counters.count
    told, aside = standing(run, found, made), run.aside + found.aside
    display, level = desk.display, made.step.level
    per_beat = run.per_beat(made.wanted)
    count, _ = draft_for_whole_beats(made.wanted, run.draft_mm / 1000, per_beat)
    grams = told.metres * level.grams_per_100_m / max(level.metres_per_metre, 1e-9) / 100
    bulk = SINGLE_BULK if isinstance(level.node, Single) else PLIED_BULK
    full = grown = 0.0
    if made.bobbin:
        full = float(np.clip(grams / made.bobbin.holds(bulk), 0, 1))
        thick = float(build_diameter(made.bobbin.core, grams, made.bobbin.width, FILLED * bulk))
        grown = float(np.clip((thick - made.bobbin.core) / (made.bobbin.outer - made.bobbin.core), 0, 1))
    left = ""
    if made.metres > told.metres > 0 and found.seconds:
        share = made.metres / told.metres - 1
        left = left_words(made.metres - told.metres, share * grams, share * found.seconds, display)
    return Live(
        f"{told.drafts}",
        f"{told.in_hand / per_beat:.0f} of {count}",
        twist_words(told.watched, display),
        f"{display.metres(told.metres)}, {display.light(grams)}" if told.metres else "–",
        left,
        alarm_words(told, count, run.beat) if found.running else "",
        bobbin_words(full),
        grown,
        f"{aside}",
        min(told.in_hand / told.wants, 1.0) if told.wants else 0.0,
        counters_words(counters.believed, counters.others),
        counters.believed,
        "" if found.running else parked_words(told, count, per_beat, run.beat),
        found.running,
        run.ended_at is not None,
    )


@dataclass(frozen=True)
class At:
    """Where one stands with a step."""

    run: Run | None
    """That goes on, or is played again."""
    live: Live | None
    played: bool
    before: list[Run]
    """That ended, the last first."""
    bench: Bench
    again: list[str]
    """What to aim for, of a yarn that is spun again."""


def view_of_wheel(
    number: int,
    made: Made,
    at: At,
    desk: Desk,
    ratio: float | None,
    draft_mm: float | None,
) -> WheelView:
    """Return what the page shows.

    Raises:
        InputError: where the yarn cannot be made.
    """
    display, hands, level, run = desk.display, made.hands, made.step.level, at.run
    address = f"/designs/{number}/wheel/runs/{run.id}" if run else ""
    ratio = run.ratio if run else ratio or made.step.ratio
    draft_mm = run.draft_mm if run else draft_mm or DRAFT_MM
    per_beat = run.per_beat(made.wanted) if run else ratio * made.wanted / hands.driven(made.wanted)
    beat = run.beat if run else hands.beat
    count, exact = draft_for_whole_beats(made.wanted, draft_mm / 1000, per_beat)
    plain = float(treadles(draft_mm / 1000, made.wanted, per_beat))
    choices = choices_on(made.owned, beat, hands.ratios)
    others = [] if any(abs(each - ratio) < 1e-9 for each, _ in choices) else [(ratio, at_words(beat, ratio))]
    return WheelView(
        number,
        made.design.name,
        desk.load_thread(number, "wheel"),
        made.steps,
        level.path,
        level_words(level),
        made.direction,
        way_words(made.direction, made.owned),
        BEATS[beat],
        made.on,
        choices_of(tool_choices(desk.tools, made.on)),
        at_words(beat, ratio),
        ratio,
        per_beat,
        [*choices, *others],
        [intake_words(level.node, 10 * level.grams_per_100_m), *notes_on(made.owned), *at.again]
        if made.counted
        else [NO_COUNT],
        draft_mm,
        display.width(draft_mm),
        count,
        "" if abs(plain - count) < 0.05 else display.width(1000 * exact, fine=True),
        chant(count, beat),
        display.twist(made.wanted),
        hands.pace,
        made.counted,
        run,
        at.live,
        address,
        at.played,
        Markup(draft_svg(draft_mm, count, DRAFT_TITLE)),
        to_match(at.bench),
        before_words(made.thickest, made.owned.orifice if made.owned else None, display),
        which_words(len(at.before), made.many, level_words(level)) if not at.played else "",
        steps_for(level.node),
        troubles_for(level.node),
        [
            Played(each.id, day_words(datetime.fromisoformat(each.begun_at).astimezone()))
            for each in at.before[:MOST_SHOWN]
        ],
        sections_words(made.design, display) if level.path == made.steps[-1].value else [],
    )
