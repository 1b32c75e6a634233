"""A smooth curve tabulated once at even steps, then read many times."""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats

FINER = 32
"""Steps between two knots, read in straight lines: they leave the splines tabulated here by under 1e-8."""

FEW = 128
"""Arguments up to which numpy's own reading is the quicker."""


class EvenTable:
    """A cubic spline over evenly spaced knots; arguments beyond the ends read as the ends.

    It is worked out once at fine steps. The energies of ``balance`` take differences over steps a thousand times as
    wide, and do not notice the corners.
    """

    def __init__(self, low: float, high: float, values: FloatArray) -> None:
        cubic, square, linear, constant = _pieces(np.asarray(values, float))[..., None]
        within = np.arange(FINER) / FINER
        fine = ((cubic * within + square) * within + linear) * within + constant
        self._values = np.append(fine.ravel(), values[-1])
        self._steps = np.append(np.diff(self._values), 0.0)
        self._at = np.linspace(low, high, self._values.size)
        self._low, self._per_unit = low, (self._values.size - 1) / (high - low)

    def __call__(self, x: Floats) -> FloatArray:
        """Return the curve at x, of any shape."""
        if np.size(x) <= FEW:
            return np.asarray(np.interp(x, self._at, self._values))
        place = np.minimum(np.maximum((x - self._low) * self._per_unit, 0.0), self._steps.size - 1.0)
        piece = place.astype(np.intp)  # anything where place is NaN
        start, rise = (each.take(piece, mode="clip") for each in (self._values, self._steps))
        return np.asarray(start + rise * (place - piece))


def _pieces(values: FloatArray) -> FloatArray:
    """Return the coefficients of each piece for a position within 0 to 1, the cubic one first.

    Bends M at the knots follow from ``M₋ + 4M + M₊ = 6(y₋ − 2y + y₊)``; the outer two pieces at each end are one cubic.
    """
    wanted = 6 * (values[:-2] - 2 * values[1:-1] + values[2:])
    bends = np.empty(values.size)
    bends[1], bends[-2] = wanted[0] / 6, wanted[-1] / 6
    below = np.zeros(values.size)  # of the elimination: what a bend owes to the next
    for knot in range(2, values.size - 2):
        pivot = 4 - below[knot - 1]
        below[knot] = 1 / pivot
        bends[knot] = (wanted[knot - 1] - bends[knot - 1]) / pivot
    for knot in range(values.size - 3, 1, -1):
        bends[knot] -= below[knot] * bends[knot + 1]
    bends[0], bends[-1] = 2 * bends[1] - bends[2], 2 * bends[-2] - bends[-3]
    start, end = bends[:-1], bends[1:]
    slope = np.diff(values) - (2 * start + end) / 6
    return np.ascontiguousarray(np.stack([(end - start) / 6, start / 2, slope, values[:-1]]))
