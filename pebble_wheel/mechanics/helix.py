"""Geometry of equal strands laid in helices round a common axis: contact, jamming, width, curvature.

A ply of n strands, each of radius r, lies with its centre-lines at radius R from the axis, at the helix angle β
from the axis. Everything here depends on shape alone, so R is given as the ratio ρ = R/r.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import minimize_scalar

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.tables import EvenTable

MAX_RING = 5
"""More strands than this leave a hollow in the ring (handbook of the trade, section 3)."""

STEEPEST = np.radians(75.0)
"""The tables end here, far past the angle at which any ply jams."""


def contact_ratio_exact(strands: int, angle: FloatArray) -> FloatArray:
    """Return R/r at which neighbouring helices just touch.

    The squared distance of two points on neighbouring centre-lines, a turn angle θ apart, in units of R is
    ``2(1 − cos(2π/n + θ)) + θ² cot²β``; the strands touch where its least value over θ is ``4 (r/R)²``.

    Args:
        strands: n, 2 to 5.
        angle: β in radians, any shape, within (0, π/2).

    Returns:
        R/r, the shape of ``angle``. For two strands it is 1 up to 45° and grows beyond.

    References:
        [1] Olsen & Bohr, zero-twist helices and laid rope, 2010-2011 (from memory): the same contact condition.
    """
    lag = 2 * np.pi / strands
    cot_squared = 1 / np.tan(np.asarray(angle, float)[..., None]) ** 2
    theta = np.linspace(-lag, 0.0, 801)
    gap_squared = 2 * (1 - np.cos(lag + theta)) + theta**2 * cot_squared
    least = theta[np.argmin(gap_squared, axis=-1)]
    for _ in range(4):  # Newton on the slope, kept within one grid step of the minimum found
        cot2 = cot_squared[..., 0]
        slope = 2 * np.sin(lag + least) + 2 * least * cot2
        bend = 2 * np.cos(lag + least) + 2 * cot2
        step = np.where(bend > 1e-6, slope / np.where(bend > 1e-6, bend, 1.0), 0.0)
        least = np.clip(least - np.clip(step, -theta[1] + theta[0], theta[1] - theta[0]), -lag, 0.0)
    return 2 / np.sqrt(2 * (1 - np.cos(lag + least)) + least**2 * cot_squared[..., 0])


@dataclass(frozen=True)
class Lay:
    """The lay of n equal strands, tabulated once over the helix angle."""

    strands: int
    ratio: EvenTable
    """R/r over β [rad]."""
    peak_angle: float
    """β at which the turns per strand length peak; past it nothing more can be laid in."""
    peak_turns: float
    """The largest value of ``sin β / (R/r)``, which is 2π·r·turns per strand length."""

    def ratio_at(self, angle: Floats) -> FloatArray:
        """Return R/r at β [rad], of either sign; a pair that lies within 45° touches across the axis, where it is 1."""
        steepness = np.abs(angle)
        if self.strands == 2 and np.max(steepness) <= np.pi / 4:
            return np.asarray(1.0)
        return self.ratio(steepness)

    def jamming(self, angle: Floats, wanted_turns: Floats) -> FloatArray:
        """Return how full of turns the strands are: 1 where nothing more can be laid in.

        Args:
            angle: β as it came out [rad].
            wanted_turns: ``2π·r·turns per strand length`` asked for; may exceed what fits.
        """
        fill = np.abs(wanted_turns) / self.peak_turns
        return np.where(np.abs(angle) > self.peak_angle, np.maximum(2 - fill, 1.0), fill)


@lru_cache(maxsize=64)
def lay(strands: int) -> Lay:
    """Return the tabulated lay of n equal strands.

    Raises:
        ValueError: for fewer than two strands.
    """
    if strands < 2:
        raise ValueError("a ring has two strands or more")
    grid = np.linspace(0.0, STEEPEST, 601)
    upright = 1 / np.sin(np.pi / strands)
    table = EvenTable(0.0, STEEPEST, np.r_[upright, contact_ratio_exact(strands, grid[1:])])

    def fullness(angle: float) -> float:
        return -float(np.sin(angle) / table(angle))

    peak = float(minimize_scalar(fullness, bounds=(np.radians(40), np.radians(60)), options={"xatol": 1e-10}).x)
    return Lay(strands, table, peak, -fullness(peak))


def apparent_width(strands: int) -> float:
    """Return the mean width over all views of n equal touching strands, in strand diameters: ``1 + n/π``.

    By Cauchy's theorem the mean width of a convex figure is its perimeter over π; the hull of n touching circles
    of diameter d (n = 2 to 5) has the perimeter ``d (n + π)``.

    References:
        [1] Cauchy's mean-width theorem.
    """
    return 1.0 if strands == 1 else 1 + strands / np.pi


def curvature(angle: Floats, radius: Floats) -> Floats:
    """Return the curvature of a helix, ``κ = sin²β / R`` [1/mm], of the angle [rad] and radius [mm] of its path."""
    return np.sin(angle) ** 2 / radius
