"""What stands beside the wheel."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

import numpy as np

from pebble_wheel.devices.protocol import Count
from pebble_wheel.mechanics.backwards.merits import Step, steps_of
from pebble_wheel.mechanics.making.splitting import PLIED_BULK, SINGLE_BULK
from pebble_wheel.mechanics.making.wheel import treadles
from pebble_wheel.mechanics.strand.structure import Bought, Single
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.log import Planned
from pebble_wheel.store.runs import Run
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice
from pebble_wheel.web.shared.planned import metres_of, ticked, worked_out
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.wheel import (
    BEFORE,
    CARE,
    CLOCKWISE,
    alarm_words,
    bobbin_words,
    chant,
    left_words,
    twist_words,
)
from pebble_wheel.workshop.hands import owned_by
from pebble_wheel.workshop.standing import Drafted, Standing, draft_for_whole_treadles, standing_of

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
    ratio: float
    ratios: list[float]
    draft_mm: float
    draft: str
    count: int
    exact: str
    chant: str
    wanted: str
    pace: float
    run: Run | None
    live: Live | None
    address: str
    """To which a counter sends its lines."""

    before = BEFORE
    care = CARE


@dataclass(frozen=True)
class Made:
    """One step of a yarn at the wheel."""

    step: Step
    design: Design
    metres: float = 0.0
    """Planned of one such strand; 0 where nothing is."""

    @property
    def wanted(self) -> float:
        """Turns/m, without sign."""
        return abs(self.step.level.turns_per_m_as_made)

    @property
    def direction(self) -> Literal["Z", "S"]:
        """Of its twist."""
        return "Z" if self.step.level.turns_per_m_as_made > 0 else "S"


def steps_in(design: Design, desk: Desk) -> list[Made]:
    """Return the steps of a yarn, the singles first.

    Raises:
        InputError: where it cannot be made.
    """
    reading = desk.evaluator.read(design, desk.settings)
    made = list({each.node: each for each in reading.levels if not isinstance(each.node, Bought)}.values())
    return [Made(each, design) for each in reversed(steps_of(made, desk.hands))]


def step_at(design: Design, desk: Desk, strand: str, planned: Planned | None = None) -> Made:
    """Return a step by its strand; the first where there is none such.

    Raises:
        InputError: where nothing is made, or the yarn cannot be.
    """
    steps = steps_in(design, desk)
    if not steps:
        raise InputError(Fault("strand", "nothing of this yarn is spun or plied here"))
    found = next((each for each in steps if each.step.level.path == strand), steps[0])
    if planned is None:
        return found
    worked = worked_out(design, planned.typed, ticked(planned), desk, date.today())
    return replace(found, metres=metres_of(worked, found.step.level.path))


def standing(run: Run, count: Count, made: Made) -> Standing:
    """Return how a run stands that was counted so far."""
    drafts = [Drafted(each.turns, each.mm, each.way) for each in count.drafts]
    return standing_of(
        drafts, count.in_hand, count.way, count.turns, made.wanted, made.direction, run.draft_mm, run.ratio
    )


def live_of(run: Run, found: Count, made: Made, desk: Desk) -> Live:
    """Return what changes while the wheel turns."""
    told, aside = standing(run, found, made), run.aside + found.aside
    display, level = desk.display, made.step.level
    count, _ = draft_for_whole_treadles(made.wanted, run.draft_mm / 1000, run.ratio)
    grams = told.metres * level.grams_per_100_m / max(level.metres_per_metre, 1e-9) / 100
    bobbins = owned_by(desk.settings).bobbins
    bulk = SINGLE_BULK if isinstance(level.node, Single) else PLIED_BULK
    full = float(np.clip(grams / bobbins.holds(bulk), 0, 1)) if bobbins else 0.0
    left = ""
    if made.metres > told.metres > 0 and found.seconds:
        share = made.metres / told.metres - 1
        left = left_words(made.metres - told.metres, share * grams, share * found.seconds, display)
    return Live(
        f"{told.drafts}",
        f"{told.in_hand / run.ratio:.0f} of {count}",
        twist_words(told.watched, display),
        f"{display.metres(told.metres)}, {display.light(grams)}" if told.metres else "–",
        left,
        alarm_words(told, count) if found.running else "",
        bobbin_words(full),
        full,
        f"{aside}",
        found.running,
        run.ended_at is not None,
    )


def view_of_wheel(
    number: int,
    design: Design,
    strand: str,
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
    made, display = step_at(design, desk, strand), desk.display
    ratio = run.ratio if run else ratio or made.step.ratio
    draft_mm = run.draft_mm if run else draft_mm or DRAFT_MM
    count, exact = draft_for_whole_treadles(made.wanted, draft_mm / 1000, ratio)
    plain = float(treadles(draft_mm / 1000, made.wanted, ratio))
    return WheelView(
        number,
        design.name,
        desk.load_thread(number, "wheel"),
        [Choice(each.step.level.path, level_words(each.step.level)) for each in steps_in(design, desk)],
        made.step.level.path,
        level_words(made.step.level),
        made.direction,
        CLOCKWISE[made.direction],
        ratio,
        sorted({*desk.hands.ratios, ratio}),
        draft_mm,
        display.width(draft_mm),
        count,
        "" if abs(plain - count) < 0.05 else display.width(1000 * exact, fine=True),
        chant(count),
        display.twist(made.wanted),
        desk.hands.pace,
        run,
        live,
        f"/designs/{number}/wheel/runs/{run.id}/lines" if run else "",
    )
