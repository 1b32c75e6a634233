"""Quasi-random draws of what is uneven, and percentiles and rank correlations over them."""

from dataclasses import dataclass
from functools import lru_cache
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.reading.sobol import points

VARIANTS = 8192
RANKED = 2048
"""Of them, the first: enough to say what matters."""
P90 = 1.2816
"""Standard deviations to the ninetieth percentile of a normal spread."""


@dataclass(frozen=True)
class Band:
    """The middle and the tenth and ninetieth percentiles of a figure."""

    p10: float
    p50: float
    p90: float


def band(values: Floats) -> Band:
    """Return the p10-p50-p90 of an array of variants; NaN variants are left out, and all is NaN where none is left.

    Between two variants a percentile is read in a straight line, as numpy does.
    """
    known = np.sort(np.ravel(np.asarray(values, float)))  # NaN last
    count = int(np.searchsorted(known, np.inf))
    known = known[np.searchsorted(known, -np.inf, side="right") : count]
    if not known.size:
        return Band(np.nan, np.nan, np.nan)
    place = np.array([0.1, 0.5, 0.9]) * (known.size - 1)
    below = place.astype(int)
    above = np.minimum(below + 1, known.size - 1)
    low, middle, high = known[below] + (place - below) * (known[above] - known[below])
    return Band(float(low), float(middle), float(high))


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


@lru_cache(maxsize=8)
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


@lru_cache(maxsize=8)
def normal_ranks(dimensions: int, variants: int = VARIANTS) -> FloatArray:
    """Return the ranks of :func:`normals`, each row brought to mean 0 and length 1."""
    centred = _strata(dimensions, variants) - (variants - 1) / 2
    return np.asarray(centred / np.linalg.norm(centred[0]))


def standard_ranks(values: FloatArray) -> FloatArray:
    """Return ranks brought to mean 0 and length 1, so that a product of two is Spearman's rank correlation."""
    ranks = np.empty(values.size)
    ranks[np.argsort(values)] = np.arange(values.size) - (values.size - 1) / 2
    return ranks / np.linalg.norm(ranks)


def rank_correlations(causes: int, outcome: FloatArray) -> FloatArray:
    """Return Spearman's rank correlation of an outcome with each cause; zeros where the outcome never varies.

    Variants rise with their normals, so the ranks of these serve for all. Those without an outcome count as its middle.
    """
    outcome = outcome[:RANKED]
    known = np.isfinite(outcome)
    if not known.any() or np.ptp(outcome[known]) == 0:
        return np.zeros(causes)
    filled = outcome if known.all() else np.where(known, outcome, np.median(outcome[known]))
    return normal_ranks(causes, outcome.size) @ standard_ranks(filled)
