"""A weight hung in a drying skein: what each strand carries, and how much of the torque it hides."""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.finish.moments import WEIGHT_HIDES
from pebble_wheel.mechanics.wash.bloom import Drying

LIGHT = 5.0
"""Grams on a strand from which on a weight is heavy (assumed)."""

_HALFWAY = 2.5
"""Grams on a strand at which it hides what a light weight does."""


def per_strand(grams: Floats, rounds: Floats) -> Floats:
    """Return what each strand of a skein carries [g]: of every round two strands hang side by side.

    Example:
        >>> per_strand(500.0, 100.0)
        2.5
    """
    return grams / (2 * rounds)


def drying_under(on_a_strand: float) -> Drying:
    """Return how a skein dries under so much on a strand [g]."""
    return "light" if on_a_strand < LIGHT else "heavy"


def hides(on_a_strand: Floats) -> FloatArray:
    """Return the share of the torque that a weight hides until the next wetting, ``0.85 (1 − e^(−p/p₀))``.

    It passes through what a light weight hides at half of :data:`LIGHT` and never beyond a heavy one's (assumed).
    """
    most, some = WEIGHT_HIDES["heavy"], WEIGHT_HIDES["light"]
    scale = -_HALFWAY / np.log(1 - some / most)
    return np.asarray(most * (1 - np.exp(-on_a_strand / scale)))
