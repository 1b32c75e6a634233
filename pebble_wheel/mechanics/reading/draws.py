"""Quasi-random draws of what is uneven, and percentiles and rank correlations over them."""

from dataclasses import dataclass
from functools import lru_cache
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.reading.sobol import points

VARIANTS = 2048
RANKED = 1024
"""Of them, the first: enough to say what matters."""
P90 = 1.2816
"""Standard deviations to the ninetieth percentile of a normal spread."""


@dataclass(frozen=True)
class Band:
    """The middle and the tenth and ninetieth percentiles of a figure."""

    p10: float
    p50: float
    p90: float

    def times(self, factor: float) -> "Band":
        """Return the band of a figure so many times as large."""
        return Band(self.p10 * factor, self.p50 * factor, self.p90 * factor)

    def towards(self, other: "Band", share: float) -> "Band":
        """Return what lies a share of the way to another."""
        pairs = ((self.p10, other.p10), (self.p50, other.p50), (self.p90, other.p90))
        return Band(*(own + share * (theirs - own) for own, theirs in pairs))


def band(values: Floats) -> Band:
    """Return the p10-p50-p90 of an array of variants; NaN variants are left out, and all is NaN where none is left.

    Between two variants a percentile is read in a straight line, as numpy does.
    """
    known = np.sort(np.ravel(np.asarray(values, float)))  # NaN last
    if known.size and not (np.isfinite(known[0]) and np.isfinite(known[-1])):
        known = known[np.isfinite(known)]
    if not known.size:
        return Band(np.nan, np.nan, np.nan)
    return Band(*(_part(known, share * (known.size - 1)) for share in (0.1, 0.5, 0.9)))


def _part(known: FloatArray, place: float) -> float:
    """Return what lies at a place, between two where it is between them."""
    below = int(place)
    low, high = known.item(below), known.item(min(below + 1, known.size - 1))
    return float(low + (place - below) * (high - low))


def wraps_band(thick: Band) -> Band:
    """Return the band of wraps per inch of a band of diameters [mm]: the thickest tenth has the fewest."""
    return Band(*(float(wraps_per_inch(each)) for each in (thick.p90, thick.p50, thick.p10)))


@lru_cache(maxsize=16)
def _strata(dimensions: int, variants: int) -> NDArray[np.int32]:
    """Return in which of so many equal parts each point lies, one row a dimension: in each part lies one."""
    doublings = variants.bit_length() - 1
    if variants != 1 << doublings:
        raise ValueError("as many variants as a power of two")
    if variants < VARIANTS:  # the first of more are the very same points
        return _strata(dimensions, VARIANTS)[:, :variants] // (VARIANTS // variants)
    return (points(dimensions, doublings, seed=20) * variants).astype(np.int32)


@lru_cache(maxsize=16)
def normals(dimensions: int, variants: int = VARIANTS) -> FloatArray:
    """Return quasi-random standard normal numbers, one row a dimension: scrambled Sobol points of a fixed seed.

    Each is the middle of its part of the distribution, so that every row is one and the same set of numbers.

    Raises:
        ValueError: for variants that are no power of two.
    """
    quantile = NormalDist().inv_cdf
    middles = np.array([quantile((part + 0.5) / variants) for part in range(variants)])
    table = middles[_strata(dimensions, variants)]
    table.setflags(write=False)
    return table


def scores(draws: FloatArray, outcome: FloatArray) -> FloatArray:
    """Return Pearson's correlation of each row of draws with the ranks of an outcome; zeros where it never varies.

    Variants without an outcome count as its middle.

    Args:
        draws: standard normal numbers, shape (rows, variants).
        outcome: of each variant.
    """
    filled = outcome[:RANKED]
    known = np.isfinite(filled)
    if not known.all():
        filled = np.where(known, filled, np.median(filled[known])) if known.any() else np.zeros(filled.size)
    count, order = filled.size, np.argsort(filled)
    if filled[order[0]] == filled[order[-1]]:
        return np.zeros(len(draws))
    ranks = np.empty(count)
    ranks[order] = np.arange(count) - (count - 1) / 2
    return np.asarray(draws[:, :count] @ ranks / (count * np.sqrt((count**2 - 1) / 12)))


def spearman(score: FloatArray) -> FloatArray:
    """Return Spearman's rank correlation with a normal cause, ``ρ = 6/π asin(r/2)``.

    r is that of the pair were both normal, whose one member goes with the ranks of the other by ``√(3/π) r``.

    Args:
        score: of :func:`scores`.

    References:
        [1] Pearson 1907, on further methods of determining correlation (from memory).
    """
    together = np.clip(np.sqrt(np.pi / 3) * score, -1.0, 1.0)
    return np.asarray(6 / np.pi * np.arcsin(together / 2))
