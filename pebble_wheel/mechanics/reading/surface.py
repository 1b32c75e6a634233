"""What a yarn comes to in thousands of variants, read off a few that were worked out: a response surface.

A figure is worked out at few settings of its causes, the probes. Through them goes a surface by least squares: every
square and product of two causes, of many their straight lines alone, and higher powers along the way in which the
figure leans most. The draws are read off it.
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.reading.draws import normals

MOST_CROSSED = 18
"""Causes of which squares and products are taken: with more each alone has little to do with the whole."""

SPARE, SPARE_LINES, TOGETHER = 1.5, 1.25, 64
"""Probes over the coefficients to be found, at the least, of lines alone fewer, and by how many they go up."""

STEADY = 1e-9
"""Of a figure: one that varies by no more does not vary."""


@dataclass(frozen=True)
class _Plan:
    """How the surface over so many causes is found."""

    probes: FloatArray
    """Shape (causes, probes)."""
    terms: FloatArray
    """Shape (probes, coefficients): what each coefficient stands for there."""
    solve: FloatArray
    """Shape (coefficients, probes): the least squares."""
    crossed: tuple[NDArray[np.intp], NDArray[np.intp]]
    """Which causes make up each square or product."""

    @property
    def squared(self) -> bool:
        """Whether the squares of all causes are among the terms."""
        return len(self.crossed[0]) > 0

    @property
    def determined(self) -> bool:
        """Whether there are probes enough."""
        return len(self.terms) >= len(self.solve)

    def where(self, known: NDArray[np.bool_]) -> "_Plan":
        """Return how it is found by some of the probes."""
        terms = self.terms[known]
        return replace(self, probes=self.probes[:, known], terms=terms, solve=np.asarray(np.linalg.pinv(terms), float))


@lru_cache(maxsize=8)
def _plan(causes: int) -> _Plan:
    squared = causes <= MOST_CROSSED
    crossed = np.triu_indices(causes if squared else 0)
    spare = SPARE if squared else SPARE_LINES
    count = TOGETHER * int(np.ceil(spare * (1 + causes + len(crossed[0])) / TOGETHER))
    at = np.ascontiguousarray(normals(causes, 1 << (count - 1).bit_length())[:, :count])
    terms = np.concatenate([np.ones((1, at.shape[1])), at, at[crossed[0]] * at[crossed[1]]]).T
    directions, sizes = np.linalg.qr(terms)
    return _Plan(at, terms, np.linalg.solve(sizes, directions.T), crossed)


def probes(causes: int) -> FloatArray:
    """Return the settings at which figures are worked out, as standard normal numbers, one row a cause."""
    return _plan(causes).probes


def read_off(figure: Floats, draws: FloatArray) -> FloatArray:
    """Return a figure at every draw; NaN where too few probes have a value, and the others are left out.

    Args:
        figure: at every probe; any unit, and of either sign.
        draws: standard normal numbers, one row a cause.

    References:
        [1] Box & Wilson 1951, response surfaces of the second order (from memory).
    """
    causes = len(draws)
    plan = _plan(causes)
    known = np.broadcast_to(figure, plan.probes.shape[1])
    if not np.all(np.isfinite(known)):
        plan = plan.where(np.isfinite(known))
        known = known[np.isfinite(known)]
    if not plan.determined:
        return np.full(draws.shape[1], np.nan)
    if np.ptp(known) <= STEADY * np.max(np.abs(known)):
        return np.full(draws.shape[1], known[0])
    found = plan.solve @ known
    lean = found[1 : causes + 1]
    leant = float(np.linalg.norm(lean))
    if not leant:
        return _surface(found, plan, draws)
    steepest = lean / leant
    bent = _higher(steepest @ plan.probes)[plan.squared :]
    own = bent @ plan.solve.T
    left, bent = known - plan.terms @ found, bent - own @ plan.terms.T
    higher = np.linalg.solve(bent @ bent.T, bent @ left)
    along = _along(steepest @ draws, [*(plan.squared * [0.0]), *higher.tolist()])
    return _surface(found - higher @ own, plan, draws) + along


def read_off_positive(figure: Floats, draws: FloatArray) -> FloatArray:
    """Return a figure that is above zero at every draw, by its logarithm; see :func:`read_off`."""
    return np.exp(read_off(np.log(figure), draws))


def _higher(along: FloatArray) -> FloatArray:
    """Return Hermite's polynomials of the second to the fifth order, one row each."""
    square = along * along
    even, odd = [square - 1, square * (square - 6) + 3], [along * (square - 3), along * (square * (square - 10) + 15)]
    return np.stack([even[0], odd[0], even[1], odd[1]])


def _along(along: FloatArray, higher: list[float]) -> FloatArray:
    """Return the sum of these polynomials with their coefficients, quicker on many than one by one."""
    second, third, fourth, fifth = higher
    square = along * along
    odd = fifth * square
    odd += third - 10 * fifth
    odd *= square
    odd += 15 * fifth - 3 * third
    odd *= along
    even = square * (fourth * square + (second - 6 * fourth))
    even += odd
    even += 3 * fourth - second
    return np.asarray(even)


def _surface(coefficients: FloatArray, plan: _Plan, at: FloatArray) -> FloatArray:
    """Return the quadratic surface at settings."""
    causes = len(at)
    lean, bends = coefficients[1 : causes + 1], coefficients[causes + 1 :]
    if not len(bends):
        return np.asarray(coefficients[0] + lean @ at)
    square = np.zeros((causes, causes))
    square[plan.crossed] = bends
    slope = square @ at
    slope += lean[:, None]
    slope *= at
    return np.asarray(coefficients[0] + slope.sum(axis=0))
