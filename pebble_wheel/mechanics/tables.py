"""A smooth curve tabulated once at even steps, then read many times."""

import numpy as np
from scipy.interpolate import CubicSpline

from pebble_wheel.mechanics.arrays import FloatArray, Floats


class EvenTable:
    """A cubic spline over evenly spaced knots; arguments beyond the ends read as the ends.

    The even spacing finds the piece by one multiplication, which makes it some three times quicker on arrays than a
    general spline; the energies of ``balance`` need its continuous slope.
    """

    def __init__(self, low: float, high: float, values: FloatArray) -> None:
        knots = np.linspace(low, high, len(values))
        self._low = low
        self._per_unit = (len(values) - 1) / (high - low)
        self._last = np.nextafter(len(values) - 1.0, 0.0)
        spline = CubicSpline(knots, values)
        scale = self._per_unit ** np.arange(-3.0, 1.0)[:, None]  # coefficients for a position within 0 to 1
        self._pieces = np.ascontiguousarray(spline.c * scale)

    def __call__(self, x: Floats) -> FloatArray:
        """Return the curve at x, of any shape."""
        place = np.asarray(np.minimum(np.maximum((x - self._low) * self._per_unit, 0.0), self._last))
        piece = place.astype(np.intp)
        within = place - piece
        cubic, square, linear, constant = self._pieces.take(piece, axis=1, mode="clip")
        return np.asarray(((cubic * within + square) * within + linear) * within + constant)
