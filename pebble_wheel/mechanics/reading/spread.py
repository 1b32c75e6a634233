"""How sure a figure is: the unevenness of hand spinning as quasi-random variants, evaluated as one array.

Each strand's linear density and twist vary once (identical strands vary alike), every ply has its own
twist, and the constants of the rod vary once for the yarn.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from statistics import NormalDist

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.reading.constants import Constants, Spreads
from pebble_wheel.mechanics.reading.sobol import points
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Node,
    Ply,
    Rod,
    Single,
    Turns,
    Wrapped,
    turns_of,
    walk,
    with_members,
)

VARIANTS = 2000
P90 = 1.2816
"""Standard deviations to the ninetieth percentile of a normal spread."""


def _sizes(node: Node) -> tuple[str, str]:
    """Return what else is varied of a strand besides its twist."""
    match node:
        case Single():
            return "size", "packing"
        case Ply():
            return "tension", ""
        case Chain():
            return "loop", ""
        case CoreSpun():
            return "strip", "wrap packing"
        case Bought() | Wrapped():
            return "", ""


_SHARED = 3
_PER_NODE = 3


@dataclass(frozen=True)
class Band:
    """The middle and the tenth and ninetieth percentiles of a figure."""

    p10: float
    p50: float
    p90: float


@dataclass(frozen=True)
class Spread:
    """A structure and its constants as arrays of variants."""

    node: Node
    rod: Rod
    bloom: FloatArray
    """A multiplier on bloom."""
    causes: tuple["Cause", ...]
    """What was varied, row by row of :func:`normal_ranks`."""


@dataclass(frozen=True)
class Cause:
    """One thing that is uneven or uncertain."""

    what: str
    node: Node | None
    """The strand it belongs to; None for what the whole yarn shares."""


def band(values: Floats) -> Band:
    """Return the p10-p50-p90 of an array of variants; NaN variants are left out, and all is NaN where none is left."""
    known = np.asarray(values, float)
    known = known[np.isfinite(known)]
    if not known.size:
        return Band(np.nan, np.nan, np.nan)
    low, middle, high = np.percentile(known, [10, 50, 90])
    return Band(float(low), float(middle), float(high))


_quantile = np.frompyfunc(NormalDist().inv_cdf, 1, 1)


@lru_cache(maxsize=16)
def normals(dimensions: int, variants: int = VARIANTS) -> FloatArray:
    """Return quasi-random standard normal numbers, one row a dimension: scrambled Sobol points of a fixed seed."""
    even = points(dimensions, int(np.ceil(np.log2(variants))), seed=20)[:, :variants]
    table = np.ascontiguousarray(np.asarray(_quantile(even), float))
    table.setflags(write=False)
    return table


@lru_cache(maxsize=16)
def normal_ranks(dimensions: int, variants: int = VARIANTS) -> FloatArray:
    """Return the ranks of :func:`normals`, each row brought to mean 0 and length 1."""
    return np.stack([standard_ranks(row) for row in normals(dimensions, variants)])


def standard_ranks(values: FloatArray) -> FloatArray:
    """Return ranks brought to mean 0 and length 1, so that a product of two is Spearman's rank correlation."""
    ranks = np.empty(values.size)
    ranks[np.argsort(values)] = np.arange(values.size) - (values.size - 1) / 2
    return ranks / np.linalg.norm(ranks)


def rank_correlations(varied: Spread, outcome: FloatArray) -> FloatArray:
    """Return Spearman's rank correlation of an outcome with each cause; zeros where the outcome never varies.

    Variants rise with their normals, so the ranks of these serve for all. Those without an outcome count as its middle.
    """
    known = np.isfinite(outcome)
    if not known.any() or np.ptp(outcome[known]) == 0:
        return np.zeros(len(varied.causes))
    filled = np.where(known, outcome, np.median(outcome[known]))
    return normal_ranks(len(varied.causes), outcome.size) @ standard_ranks(filled)


def spread(node: Node, constants: Constants, variants: int = VARIANTS) -> Spread:
    """Return a structure of scalar values as arrays of variants about it.

    Linear density, twist, Q and plying tension are log-normal about their values, k and s normal and kept in their
    physical range.
    Strands that are alike vary alike.
    """
    rod, spreads = constants.rod, constants.spreads
    distinct = list(dict.fromkeys(walk(node)))
    table = normals(_SHARED + _PER_NODE * len(distinct), variants)
    bend, set_share, bloom = table[:_SHARED]
    rows = {each: table[_SHARED + _PER_NODE * place :][:_PER_NODE] for place, each in enumerate(distinct)}
    own = [Cause(what, each) for each in distinct for what in ("twist", *_sizes(each))]
    return Spread(
        _varied(node, rows, spreads),
        Rod(
            np.maximum(rod.bend_to_twist + spreads.bend * bend, 0.5),
            np.clip(rod.set_share + spreads.set_share * set_share, 0.0, 0.5),
        ),
        np.maximum(1 + spreads.bloom * bloom, 0.0),
        (Cause("bending", None), Cause("setting", None), Cause("bloom", None), *own),
    )


def _varied(node: Node, rows: dict[Node, FloatArray], spreads: Spreads) -> Node:
    """Return a node with variants of its own: of twist, then of what else is uneven in its kind."""
    twist, size, other = rows[node]
    turned = Turns(turns_of(node) * _log_normal(spreads.twist, twist))
    match node:
        case Bought():
            return node
        case Single():
            return replace(
                node,
                tex=node.tex * _log_normal(spreads.tex, size),
                twist=turned,
                squeeze_factor=node.squeeze_factor * np.exp(spreads.squeeze * other),
            )
        case Ply() | Chain() | CoreSpun() | Wrapped():
            pass
    inner = with_members(node, tuple(_varied(member.node, rows, spreads) for member in node.members))
    match inner:
        case Ply():
            inner = replace(inner, tension=inner.tension * np.exp(spreads.tension * size))
        case Chain():
            inner = replace(inner, loop=inner.loop * _log_normal(spreads.loop, size))
        case CoreSpun():
            wrap = replace(
                inner.wrap,
                tex=inner.wrap.tex * _log_normal(spreads.strip, size),
                packing_factor=inner.wrap.packing_factor * _log_normal(spreads.wrap_packing, other),
            )
            inner = replace(inner, wrap=wrap)
        case Wrapped():
            pass  # its overfeed is one feeding for the whole length
    return replace(inner, twist=turned)


def _log_normal(cv: float, normal: FloatArray) -> FloatArray:
    return np.exp(np.sqrt(np.log1p(cv**2)) * normal)
