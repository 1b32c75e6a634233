"""How to make a yarn at the wheel, in short: step by step, the singles first."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Step
from pebble_wheel.mechanics.counts import YARD
from pebble_wheel.mechanics.making.wheel import treadles
from pebble_wheel.mechanics.strand.structure import Leaf
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.tools import at_words, beats_words

DRAFT_LENGTH = 0.5
"""Metres or yards: a draft that treadles are counted for."""

_REST = "rest overnight, so that it stops kinking"
_REST_AGAIN = "rest again before it is laid"


@dataclass(frozen=True)
class StepRow:
    """One step of making in words."""

    what: str
    twist: str
    sense: str
    count: str
    length: str
    weight: str
    time: str
    rest: str


def step_rows(steps: Iterable[Step], metres: float, display: Display) -> list[StepRow]:
    """Return how to make so many metres of a yarn, the singles first.

    Args:
        steps: the last first.
        metres: of the yarn.
        display: units.
    """
    rows = list(steps)
    return [_row(step, metres, place == 0, display) for place, step in reversed(list(enumerate(rows)))]


def _row(step: Step, metres: float, last: bool, display: Display) -> StepRow:
    level = step.level
    turns = level.turns_per_m_as_made
    many = f" × {level.strands}" if level.strands > 1 else ""
    draft = DRAFT_LENGTH * (YARD if display.settings.inches else 1.0)
    count = float(np.asarray(treadles(draft, step.driven, step.ratio)))
    grams = level.grams_per_100_m * level.strands * metres / 100
    each = f", {display.grams(grams / level.strands)} a bobbin" if level.strands > 1 else ""
    return StepRow(
        level_words(level) + many,
        display.turned(turns),
        "z" if turns > 0 else "s",
        f"{beats_words(count, step.beat)} to {display.metres(draft)}, {at_words(step.beat, step.ratio)}",
        display.metres(step.metres * metres),
        display.grams(grams) + each,
        hours_words(step.hours * metres),
        "" if last else _REST if isinstance(level.node, Leaf) else _REST_AGAIN,
    )


def hours_words(hours: float) -> str:
    """Return a time as a person would say it."""
    if hours < 1:
        return f"{max(5 * round(hours * 12), 5)} min"
    return f"{hours:.1f} h" if hours < 10 else f"{hours:.0f} h"
