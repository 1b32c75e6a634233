"""What stands beside the wheel."""

from dataclasses import dataclass
from datetime import date
from typing import Literal

import numpy as np

from pebble_wheel.devices.protocol import Count
from pebble_wheel.mechanics.backwards.merits import Hands, Step, steps_of
from pebble_wheel.mechanics.making.splitting import PLIED_BULK, SINGLE_BULK
from pebble_wheel.mechanics.making.wheel import treadles
from pebble_wheel.mechanics.reading.reading import Level
from pebble_wheel.mechanics.strand.structure import Bought, Single
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.log import Planned
from pebble_wheel.store.runs import Run
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.planned import metres_of, ticked, worked_out
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.tools import BEATS, NO_COUNT, at_words, choices_on, notes_on, tool_choices, way_words
from pebble_wheel.wording.wheel import (
    BEFORE,
    CARE,
    GO_AND_STAND,
    alarm_words,
    bobbin_words,
    chant,
    left_words,
    twist_words,
)
from pebble_wheel.workshop.plan import bobbin_for
from pebble_wheel.workshop.standing import Drafted, Standing, draft_for_whole_beats, standing_of
from pebble_wheel.workshop.tools import Bobbin, Owned

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
    """Of the bobbin, 0 to 1."""
    aside: str
    running: bool
    ended: bool


@dataclass(frozen=True)
class WheelView:
    """The page."""

    number: int
    name: str
    thread: Thread | None
    steps: list[Choice]
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
    """To which a counter sends its lines."""

    @property
    def tapped(self) -> str:
        """What the large button says: what is counted, or that a motor goes and stands."""
        return GO_AND_STAND if self.beat == BEATS["second"] else self.beat[0]

    before = BEFORE
    care = CARE


@dataclass(frozen=True)
class Made:
    """One step of a yarn at the wheel."""

    step: Step
    design: Design
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


def levels_in(design: Design, desk: Desk) -> list[Level]:
    """Return what is made of a yarn, the singles first.

    Raises:
        InputError: where it cannot be made.
    """
    reading = desk.evaluator.read(design, desk.settings)
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
    levels = levels_in(design, desk)
    if not levels:
        raise InputError(Fault("strand", "nothing of this yarn is spun or plied here"))
    level = next((each for each in levels if each.path == strand), levels[0])
    worked = worked_out(design, planned.typed, ticked(planned), desk, date.today()) if planned else None
    if on is None:
        on = worked.plan.tools.get(f"make-{level.path}", "") if worked else ""
    hands, bobbins = desk.tools.hands(on), desk.tools.bobbins
    bobbin = bobbin_for(worked.plan, 0, bobbins) if worked else next(iter(bobbins), None)
    metres = metres_of(worked, level.path) if worked else 0.0
    return Made(steps_of([level], hands)[0], design, hands, desk.tools.named(on), on, metres, bobbin)


def standing(run: Run, count: Count, made: Made) -> Standing:
    """Return how a run stands that was counted so far."""
    drafts = [Drafted(each.turns, each.mm, each.way) for each in count.drafts]
    per_beat = run.per_beat(made.wanted)
    return standing_of(
        drafts, count.in_hand, count.way, count.turns, made.wanted, made.direction, run.draft_mm, per_beat
    )


def live_of(run: Run, found: Count, made: Made, desk: Desk) -> Live:
    """Return what changes while the wheel turns."""
    told, aside = standing(run, found, made), run.aside + found.aside
    display, level = desk.display, made.step.level
    per_beat = run.per_beat(made.wanted)
    count, _ = draft_for_whole_beats(made.wanted, run.draft_mm / 1000, per_beat)
    grams = told.metres * level.grams_per_100_m / max(level.metres_per_metre, 1e-9) / 100
    bulk = SINGLE_BULK if isinstance(level.node, Single) else PLIED_BULK
    full = float(np.clip(grams / made.bobbin.holds(bulk), 0, 1)) if made.bobbin else 0.0
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
        full,
        f"{aside}",
        found.running,
        run.ended_at is not None,
    )


def view_of_wheel(
    number: int,
    made: Made,
    run: Run | None,
    live: Live | None,
    desk: Desk,
    ratio: float | None,
    draft_mm: float | None,
) -> WheelView:
    """Return what the page shows.

    Raises:
        InputError: where the yarn cannot be made.
    """
    display, hands, level = desk.display, made.hands, made.step.level
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
        [Choice(each.path, level_words(each)) for each in levels_in(made.design, desk)],
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
        notes_on(made.owned) if made.counted else [NO_COUNT],
        draft_mm,
        display.width(draft_mm),
        count,
        "" if abs(plain - count) < 0.05 else display.width(1000 * exact, fine=True),
        chant(count, beat),
        display.twist(made.wanted),
        hands.pace,
        made.counted,
        run,
        live,
        f"/designs/{number}/wheel/runs/{run.id}/lines" if run else "",
    )
