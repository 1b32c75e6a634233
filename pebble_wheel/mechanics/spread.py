"""How sure a figure is: the unevenness of hand spinning as quasi-random draws, evaluated as one array.

Each strand's linear density and twist are drawn once (identical strands share the draw), every ply has its own draw of
twist, and the constants of the rod are drawn once for the yarn.
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.special import ndtri
from scipy.stats import qmc

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.structure import Node, Rod, Single, Turns, chain_of, turns_of

DRAWS = 2000
TEX_CV, TWIST_CV = 0.12, 0.10
SQUEEZE_LOG_SD = 0.35
BEND_SD, SET_SD = 0.25, 0.05
BLOOM_SD = 0.30
"""Spreads calibrated for this product."""

_SHARED = 3
_PER_SINGLE = 3


@dataclass(frozen=True)
class Band:
    """The middle and the tenth and ninetieth percentiles of a figure."""

    p10: float
    p50: float
    p90: float


@dataclass(frozen=True)
class Spread:
    """A structure and its constants as arrays of draws."""

    node: Node
    rod: Rod
    bloom: FloatArray
    """A multiplier on bloom."""


def band(values: Floats) -> Band:
    """Return the p10-p50-p90 of an array of draws; NaN draws are left out, and all is NaN where none is left."""
    known = np.asarray(values, float)
    known = known[np.isfinite(known)]
    if not known.size:
        return Band(np.nan, np.nan, np.nan)
    low, middle, high = np.percentile(known, [10, 50, 90])
    return Band(float(low), float(middle), float(high))


@lru_cache(maxsize=16)
def normals(dimensions: int, draws: int = DRAWS) -> FloatArray:
    """Return quasi-random standard normal draws, one row a dimension: scrambled Sobol points of a fixed seed."""
    points = qmc.Sobol(dimensions, seed=20).random_base2(int(np.ceil(np.log2(draws))))[:draws]
    table = np.ascontiguousarray(ndtri(points.T))
    table.setflags(write=False)
    return table


def spread(node: Node, rod: Rod, draws: int = DRAWS) -> Spread:
    """Return a structure of scalar values as arrays of draws about it.

    Linear density, twist and Q are log-normal about their values, k and s normal and kept in their physical range.
    """
    plies = sum(1 for _ in chain_of(node)) - 1
    table = normals(_SHARED + _PER_SINGLE + plies, draws)
    bend, set_share, bloom = table[:_SHARED]
    return Spread(
        _spread_node(node, table[_SHARED:]),
        Rod(
            np.maximum(rod.bend_to_twist + BEND_SD * bend, 0.5),
            np.clip(rod.set_share + SET_SD * set_share, 0.0, 0.5),
        ),
        np.maximum(1 + BLOOM_SD * bloom, 0.0),
    )


def _spread_node(node: Node, table: FloatArray) -> Node:
    if isinstance(node, Single):
        tex, twist, squeeze = table
        return replace(
            node,
            tex=node.tex * _log_normal(TEX_CV, tex),
            twist=Turns(turns_of(node) * _log_normal(TWIST_CV, twist)),
            squeeze_factor=node.squeeze_factor * np.exp(SQUEEZE_LOG_SD * squeeze),
        )
    return replace(
        node,
        strand=_spread_node(node.strand, table[1:]),
        twist=Turns(turns_of(node) * _log_normal(TWIST_CV, table[0])),
    )


def _log_normal(cv: float, normal: FloatArray) -> FloatArray:
    return np.exp(np.sqrt(np.log1p(cv**2)) * normal)
