"""Geometry of equal strands laid in helices round a common axis: contact, jamming, width, curvature.

A ply of n strands, each of radius r, lies with its centre-lines at radius R from the axis, at the helix angle β
from the axis. Everything here depends on shape alone, so R is given as the ratio ρ = R/r.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.tables import EvenTable

STEEPEST = np.radians(75.0)
"""The tables end here, far past the angle at which any ply jams."""


NARROWINGS = 7
"""Of the search for the steepest that strands can lie: each takes a twentieth of what is left of 20 degrees."""


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
        steepness = np.asarray(np.abs(angle))
        if self.strands == 2 and steepness.max() <= np.pi / 4:
            return np.asarray(1.0)
        return self.ratio(steepness)

    def fill_at(self, angle: Floats) -> FloatArray:
        """Return how full of turns strands are that lie at β [rad]: 1 at the steepest they can, and more beyond."""
        steepness = np.abs(angle)
        fill = np.sin(steepness) / self.ratio(steepness) / self.peak_turns
        return np.where(steepness > self.peak_angle, 2 - fill, fill)

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

    low, high = np.radians(40), np.radians(60)
    for _ in range(NARROWINGS):
        angles = np.linspace(low, high, 41)
        best = int(np.argmax(np.sin(angles) / table(angles)))
        low, high = angles[max(best - 1, 0)], angles[min(best + 1, 40)]
    peak = float(low + high) / 2
    return Lay(strands, table, peak, float(np.sin(peak) / table(peak)))


def apparent_width(strands: int) -> float:
    """Return the mean width over all views of n equal touching strands, in strand diameters: ``1 + n/π``.

    By Cauchy's theorem the mean width of a convex figure is its perimeter over π; the hull of n touching circles
    of diameter d (n = 2 to 5) has the perimeter ``d (n + π)``.

    References:
        [1] Cauchy's mean-width theorem.
    """
    return 1.0 if strands == 1 else 1 + strands / np.pi


def curvature(radius: Floats, twist: Floats) -> Floats:
    """Return the curvature of a helix [1/mm], ``κ = a w²/(1 + a²w²) = sin²β/a``, signed never.

    Args:
        radius: a, of its path, mm.
        twist: w, radians per mm of its axis.
    """
    return radius * twist**2 / (1 + (radius * twist) ** 2)


def torsion(radius: Floats, twist: Floats) -> Floats:
    """Return the torsion of a helix [1/mm], ``τ = w/(1 + a²w²) = sin β cos β/a``, signed; see :func:`curvature`."""
    return twist / (1 + (radius * twist) ** 2)


_PLACES = tuple((float(np.cos(place)), float(np.sin(place))) for place in (np.arange(3) + 0.5) * np.pi / 3)
"""Of half a turn, at which the path of a strand within a strand is looked at; six change the mean by 1e-5."""


def nested_curvature_squared(bend: Floats, winding: Floats, radius: Floats, twist: Floats) -> Floats:
    """Return the mean κ² [1/mm²] of a strand that winds round a path which itself winds, by its length.

    At the place φ round a path of curvature k and torsion τ, wound at distance a with w = 2π·twist, the strand's
    velocity is ``(g, 0, aw)`` and its acceleration ``(ak(2w − τ) sin φ, gk cos φ − aw², −gk sin φ)`` in the frame of
    tangent, outward and round, ``g = 1 − ak cos φ``. Then ``κ² = |v × b|²/|v|⁶``.

    Args:
        bend: k of the path, 1/mm.
        winding: τ of the path, 1/mm, signed.
        radius: a, mm.
        twist: w, radians per mm of the path, signed.
    """
    whole = length = np.asarray(0.0)
    lag, round_, square = radius * bend, radius * twist, twist**2 * radius
    tilt = (2 * twist - winding) * round_ * radius
    for cosine, sine in _PLACES:
        on = 1 - cosine * lag
        squared = on**2 + round_**2
        inward = (cosine * on * bend - square) ** 2
        lifted = (sine * bend * (tilt + on**2)) ** 2
        speed = np.sqrt(squared)
        whole = whole + (inward + lifted / squared) * speed / squared**2
        length = length + speed
    return whole / length
