"""What a yarn comes to in thousands of variants, read off a few that were worked out: a response surface.

A figure is worked out at few settings of its causes, the probes. Through them goes a surface by least squares: every
square and product of two causes, of many their straight lines alone, and higher powers along the way in which the
figure leans most. The draws are read off it.
"""

from collections.abc import Sequence
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

LEFT_OVER = 8
"""Probes over the coefficients that have to have a value: the higher powers find their four in what is left."""

STEADY = 1e-9
"""Of a figure: one that varies by no more does not vary."""

FLIPPED = -0.5
"""Part of a way along the first cause: past it the way back is taken, since there is no turning by half a circle."""


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
        return len(self.terms) >= len(self.solve) + LEFT_OVER

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


@dataclass(frozen=True)
class Surface:
    """A figure as it hangs on its causes."""

    middle: float
    """NaN where it is not known."""
    lean: FloatArray
    """Shape (causes)."""
    square: FloatArray | None
    """Shape (causes, causes): of squares and products; None without any."""
    way: FloatArray
    """Of length 1, shape (causes): about that in which it leans."""
    higher: list[float] | None
    """Coefficients of Hermite's polynomials along it, of the second to the fifth order; None of what never varies."""

    def turned(self, turn: FloatArray) -> "Surface":
        """Return it as it hangs on draws that are still to be turned."""
        square = None if self.square is None else turn.T @ self.square @ turn
        return Surface(self.middle, self.lean @ turn, square, self.way @ turn, self.higher)

    def at(self, draws: FloatArray) -> FloatArray:
        """Return the figure at every draw; rows beyond those of its causes are not looked at."""
        at = draws[: len(self.lean)]
        if self.square is None:
            found = self.lean @ at
        else:
            slope = self.square @ at
            slope += self.lean[:, None]
            found = np.einsum("cv,cv->v", slope, at)
        found += self.middle
        if self.higher is not None:
            found += _along(self.way @ at, self.higher)
        return np.asarray(found)


def turning(way: FloatArray) -> FloatArray:
    """Return the turn that brings the first cause into a way, shape (causes, causes); none where the way is no way.

    Standard normal draws that are turned are so still, and percentiles of a figure that leans this way then hang for
    the most part on the one row that fills its line evenly: a quarter of the draws find them as closely.

    References:
        [1] Imai & Tan 2006, turning quasi-random draws towards what counts most (from memory).
    """
    turn = np.eye(len(way))
    length = float(np.sqrt(way @ way))
    if length > 0 and np.isfinite(length):
        along = way / (-length if way[0] < FLIPPED * length else length)
        between = along + turn[0]
        turn -= np.outer(between / between[0], between)
        turn[:, 0] += 2 * along
    return turn


def surface(figure: Floats, causes: int) -> Surface:
    """Return the surface through a figure; see :func:`surfaces`."""
    return surfaces([figure], causes)[0]


def surfaces(figures: Sequence[Floats], causes: int) -> list[Surface]:
    """Return the surfaces through figures; of no known height where too few probes have a value.

    Probes without one are left out.

    Args:
        figures: at every probe; any unit, and of either sign.
        causes: how many the probes are of.

    References:
        [1] Box & Wilson 1951, response surfaces of the second order (from memory).
    """
    plan = _plan(causes)
    known = np.stack([np.broadcast_to(each, plan.probes.shape[1]) for each in figures])
    finite = np.isfinite(known)
    whole = finite.all(axis=1)
    together = iter(_through(known[whole], plan) if whole.any() else ())
    return [
        next(together) if all_known else _through(each[None, own], plan.where(own))[0]
        for each, own, all_known in zip(known, finite, whole, strict=True)
    ]


def _through(figures: FloatArray, plan: _Plan) -> list[Surface]:
    causes = len(plan.probes)
    if not plan.determined:
        return [_level(np.nan, causes) for _ in figures]
    found = figures @ plan.solve.T
    lean = found[:, 1 : causes + 1]
    leant = np.sqrt(np.einsum("fc,fc->f", lean, lean))[:, None]
    way = (
        lean / leant if leant.all() else np.where(leant > 0, lean / np.where(leant > 0, leant, 1.0), np.eye(1, causes))
    )
    powers = _higher(way @ plan.probes)[plan.squared :].transpose(1, 0, 2)
    own = powers @ plan.solve.T
    left, powers = (figures - found @ plan.terms.T)[..., None], powers - own @ plan.terms.T
    higher = np.linalg.solve(powers @ powers.transpose(0, 2, 1), powers @ left)
    found -= (higher * own).sum(axis=1)
    low, high = figures.min(axis=1), figures.max(axis=1)
    steady = high - low <= STEADY * np.maximum(high, -low)
    return [
        _level(float(figures[place, 0]), causes)
        if steady[place]
        else _surface(found[place], plan, way[place], np.asarray(higher[place, :, 0], float))
        for place in range(len(figures))
    ]


def _level(height: float, causes: int) -> Surface:
    return Surface(height, np.zeros(causes), None, np.zeros(causes), None)


def _surface(coefficients: FloatArray, plan: _Plan, way: FloatArray, higher: FloatArray) -> Surface:
    causes = len(plan.probes)
    square = None
    if plan.squared:
        square = np.zeros((causes, causes))
        square[plan.crossed] = coefficients[causes + 1 :]
    powers = [*(plan.squared * [0.0]), *higher.tolist()]
    return Surface(float(coefficients[0]), coefficients[1 : causes + 1], square, way, powers)


def _higher(along: FloatArray) -> FloatArray:
    """Return Hermite's polynomials of the second to the fifth order, one row each."""
    square, found = along * along, np.empty((4, *along.shape))
    found[0] = square - 1
    found[1] = along * (square - 3)
    found[2] = square * (square - 6) + 3
    found[3] = along * (square * (square - 10) + 15)
    return found


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
