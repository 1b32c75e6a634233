"""What stands on a wheel card."""

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.learning.correct import MOST_TREADLES
from pebble_wheel.mechanics.making.wheel import treadles
from pebble_wheel.mechanics.reading.reading import Level
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.tools import BEATS, at_words, draft_words
from pebble_wheel.workshop.verdict import DRAFT

HEADINGS = {
    "gauge": "Lay the strand on its bar",
    "angle": "It leans so",
    "fold": "Ply-back, as large as life",
    "steps": "At the wheel",
    "strips": "Lay yarn here, against dark and light",
    "tie": "Tie the sample here",
}
"""By what they stand over."""

CLOCKWISE, ANTICLOCKWISE = "turn the wheel clockwise", "turn the wheel anticlockwise"
"""As the spinner sees it: the first makes Z."""

FEWEST = 2
"""Treadles to a draft: a whorl that wants fewer is not named."""


def gauge_words(level: Level, display: Display) -> str:
    """Return what stands beside a bar."""
    return f"{level_words(level)}, {display.gauge(level.diameter)}"


def check_words(inches: bool) -> str:
    """Return what stands beside the bar by which a print is checked."""
    return "this bar is 2 in long" if inches else "this bar is 50 mm long"


def angle_words(radians: float, display: Display) -> str:
    """Return the angle in the chosen convention."""
    return f"{display.angle(radians)} {display.angle_words}"


def fold_words(turns_per_m: float, display: Display) -> str:
    """Return how a ply-back is counted."""
    over = 2 * INCH if display.settings.inches else 50.0
    bumps = 2 * abs(turns_per_m) * over / 1000
    return f"{bumps:.0f} bumps in {'2 in' if display.settings.inches else '50 mm'}, fresh"


def step_words(level: Level) -> str:
    """Return what a step makes."""
    return f"{level_words(level)} × {level.strands}" if level.strands > 1 else level_words(level)


def beat_lines(turns_per_m: float, hands: Hands, display: Display) -> tuple[str, ...]:
    """Return the treadles to a draft for each whorl with which they can be counted; of other tools, their beats."""
    inches = display.settings.inches
    length = round(DRAFT * 1000 / INCH) * INCH / 1000 if inches else DRAFT
    driven = hands.driven(turns_per_m)
    counts = [(ratio, float(np.asarray(treadles(length, driven, ratio)))) for ratio in hands.ratios]
    seen = [(ratio, count) for ratio, count in counts if FEWEST <= count <= 2 * MOST_TREADLES] or counts[-1:]
    many = "" if hands.beat == "treadle" else f" {BEATS[hands.beat][1]}"
    each = ",  ".join(f"{count:.3g}{many} {at_words(hands.beat, ratio)}" for ratio, count in seen)
    return (f"to {draft_words(DRAFT, inches)}:  {each}",)
