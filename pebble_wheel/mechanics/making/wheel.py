"""At the wheel: treadles, ratios, and how long a strand takes."""

from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import Character
from pebble_wheel.mechanics.strand.structure import Bought, Chain, CoreSpun, Node, Ply, Single, Wrapped

TREADLES_PER_MINUTE = 60.0
"""A comfortable pace (assumed)."""

DRAFTING: dict[Character, float] = {"worsted": 1.5, "semi": 2.5, "woollen": 4.0}
"""The most metres a minute that hands draft: a long draw goes quicker than a short one (assumed)."""

PLYING, CHAINING, WRAPPING, COILING = 6.0, 3.0, 1.0, 0.7
"""The most metres a minute that hands feed (assumed)."""

Tool = Literal["wheel", "motor", "spindle"]
"""What a strand is made on."""

Beat = Literal["treadle", "second", "roll", "flick"]
"""What is counted into a draft: treadles of a wheel, seconds of a motor, rolls or flicks of a spindle."""

TREADLED: Beat = "treadle"

TURNS_A_MINUTE: dict[Tool, float] = {"motor": 900.0, "spindle": 250.0}
"""Of a motor spinner at ease, and of a spindle with the time it stands still taken in (assumed)."""

HANDLING = 0.15
"""Of the time, on top: joins, hooks, changing bobbins (assumed)."""


def feeding(node: Node) -> float:
    """Return the most metres a minute that hands can make of a strand; none are spent on a bought one."""
    match node:
        case Single():
            return DRAFTING[node.character]
        case Chain():
            return CHAINING
        case CoreSpun():
            return WRAPPING
        case Wrapped():
            return COILING
        case Ply() | Bought():
            return PLYING


def treadles(length: Floats, turns_per_m: Floats, ratio: Floats) -> Floats:
    """Return the treadles that twist a length [m]: twist × length over the ratio of flyer turns to treadles.

    Example:
        >>> float(treadles(0.5, 240.0, 12.0))
        10.0
    """
    return length * np.abs(turns_per_m) / ratio


def metres_per_minute(turns_per_m: Floats, ratio: Floats, pace: Floats, hands: Floats) -> FloatArray:
    """Return how fast a strand is made: as fast as the wheel twists it, at most as fast as hands feed it.

    Args:
        turns_per_m: twist to be put in.
        ratio: turns for one beat: flyer turns for a treadle.
        pace: beats a minute.
        hands: the most metres a minute, see :func:`feeding`.
    """
    return np.minimum(hands, ratio * pace / np.maximum(np.abs(turns_per_m), 1e-9))


def best_ratio(ratios: tuple[float, ...], turns_per_m: float, pace: float, hands: float) -> float:
    """Return the ratio to spin with: the slowest of those owned at which hands set the speed, else the fastest."""
    quick = [ratio for ratio in ratios if ratio * pace >= hands * abs(turns_per_m)]
    return min(quick) if quick else max(ratios)


def hours(metres: Floats, turns_per_m: Floats, ratio: Floats, pace: Floats, hands: Floats) -> FloatArray:
    """Return the hours for a length, handling included; see :func:`metres_per_minute`."""
    return metres / metres_per_minute(turns_per_m, ratio, pace, hands) / 60 * (1 + HANDLING)
