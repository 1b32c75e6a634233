"""How far a way of measuring may be off: by its own bias from spinner to spinner, by scatter, and by unevenness.

What has no source is assumed, and was tried by simulation.
"""

import math
from dataclasses import dataclass
from typing import Literal

from pebble_wheel.mechanics.learning.outcomes import Outcome

Method = Literal["card", "wraps", "photo", "eye", "count", "fold", "weighed", "laid out"]
"""How it was measured: by a gauge card, wraps, a photo, an angle by eye, turns counted at the wheel, folded on itself,
on a scale with its length, or a length before and after."""

TEN_TO_NINETY = 1.2816
"""Standard deviations from the middle of a normal band to its 10th and 90th percentile."""


@dataclass(frozen=True)
class Noise:
    """Standard deviations of the logarithm of a figure, or of the figure itself where that counts."""

    bias: float
    """Of a spinner who has not been compared with another way of measuring."""
    scatter: float
    """From one reading to the next."""

    @property
    def off(self) -> float:
        """Both together."""
        return math.hypot(self.bias, self.scatter)


CARD = Noise(0.25, 0.20)
"""A gauge card: cards err either way, by spinner and by how fine the yarn is. Assumed, after common practice."""

WRAPS = Noise(0.05, 0.062)
"""Wraps counted relaxed or snug: common practice, no source."""


def interval_off(low: float, high: float) -> float:
    """Return the standard deviation of the logarithm of what lies anywhere between two values.

    ``σ = ln(high / low) / √12``, of a uniform distribution.

    >>> round(interval_off(8.5, 10.5), 3)
    0.061
    """
    return math.log(high / low) / math.sqrt(12)


PHOTO, EYE, COUNT, FOLD = Noise(0.015, 0.037), Noise(1.5, 2.6), Noise(0.03, 0.03), Noise(0.0, 0.05)
"""A photo beside a ruler; an angle by eye [degrees]; treadles counted, of which the drive loses some; a ply-back."""

PHOTO_ANGLE = Noise(0.5, 1.5)
"""The angle in a photo [degrees]: half of those tried were within one, nine of ten within four."""

FOLD_ANGLE, LOOP = Noise(0.0, 2.6), Noise(0.0, 0.5)
"""The angle of a ply-back [degrees], and turns of a loop hung up."""

TAKE_UP, WASH_LENGTH = Noise(0.0, 0.010), Noise(0.0, 0.012)
"""Lengths laid out, before and after."""

LENGTH_OFF = 0.015
"""Of a length of yarn that is weighed, as a share."""

BY_WORD = 0.20
"""A ply-back told by a word only, of its turns (assumed)."""

OWN_ERROR: dict[Outcome, float] = {
    "thick": 0.03,
    "finished thick": 0.03,
    "fold": 0.03,
    "fold angle": 0.6,
    "angle": 0.8,
    "loop": 0.5,
    "take-up": 0.004,
    "wash length": 0.005,
    "tex": 0.0,
    "finished tex": 0.0,
    "turns": 0.0,
}
"""How far the mechanics themselves may be off in a fibre and preparation, a standard deviation."""

UNEVEN: dict[Outcome, float] = {
    "finished thick": 0.06,
    "fold": 0.10,
    "fold angle": 3.0,
    "angle": 2.5,
    "loop": 0.5,
    "tex": 0.0,
    "finished tex": 0.0,
    "turns": 0.0,
    "take-up": 0.0,
    "wash length": 0.0,
}
"""How much a figure differs from place to place along a yarn, a standard deviation."""

UNEVEN_SINGLE, UNEVEN_PLY = 0.10, 0.07
"""The same of the thickness of a single, and of a ply."""


def uneven(outcome: Outcome, single: bool) -> float:
    """Return how much an outcome differs from place to place."""
    return UNEVEN.get(outcome, UNEVEN_SINGLE if single else UNEVEN_PLY)


_BY_METHOD: dict[Method, Noise] = {
    "card": CARD,
    "wraps": WRAPS,
    "photo": PHOTO,
    "eye": EYE,
    "count": COUNT,
    "fold": FOLD,
    "weighed": Noise(0.0, LENGTH_OFF),
    "laid out": TAKE_UP,
}

_BY_OUTCOME: dict[tuple[Outcome, Method], Noise] = {
    ("fold angle", "fold"): FOLD_ANGLE,
    ("loop", "fold"): LOOP,
    ("angle", "photo"): PHOTO_ANGLE,
    ("wash length", "laid out"): WASH_LENGTH,
}
"""Where a way of measuring gives unlike figures."""


def noise_of(outcome: Outcome, method: Method) -> Noise:
    """Return the noise of an outcome measured in a way."""
    return _BY_OUTCOME.get((outcome, method), _BY_METHOD[method])


def scatter(outcome: Outcome, method: Method, places: int, single: bool, extra: float = 0.0) -> float:
    """Return how far the mean of readings may be off, apart from the bias of their method.

    ``sd² = m² + u²/n + e²``: m by the method once a session, u by the unevenness of n places, e by what else is known.

    Example:
        >>> round(scatter("thick", "wraps", 4, True), 3)
        0.08
    """
    return math.hypot(noise_of(outcome, method).scatter, uneven(outcome, single) / math.sqrt(places), extra)
