"""How far a way of measuring thickness may be off, by its own bias from spinner to spinner and by scatter."""

import math
from dataclasses import dataclass

TEN_TO_NINETY = 1.2816
"""Standard deviations from the middle of a normal band to its 10th and 90th percentile."""


@dataclass(frozen=True)
class Noise:
    """Standard deviations of the logarithm of a diameter."""

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
