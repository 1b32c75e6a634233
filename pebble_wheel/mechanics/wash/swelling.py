"""Wet is not dry: how much thicker and longer fibres are when they have drunk their fill.

References:
    [1] Morton & Hearle, Physical Properties of Textile Fibres (from memory): wool 15-17 % thicker and 1-2 % longer,
        cotton 20 % and more, silk about 17 %, viscose 25-50 %, nylon 2-3 %, polyester none. Other hair is taken as
        wool, flax, hemp and ramie as cotton, acrylic as polyester; lengths but wool's are assumed.
"""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.fibre.table import Fibre, Range
from pebble_wheel.mechanics.strand.state import LeafState, State
from pebble_wheel.mechanics.strand.structure import Bought, Leaf, Single, wrap_of


@dataclass(frozen=True)
class Swelling:
    """Shares by which a fibre grows in water."""

    across: Range
    along: Range


_WOOL = Swelling((0.15, 0.17), (0.01, 0.02))
_PLANT = Swelling((0.20, 0.26), (0.0, 0.01))
_NONE = Swelling((0.0, 0.0), (0.0, 0.0))

BY_FAMILY: dict[str, Swelling] = {
    "wool": _WOOL,
    "hair": _WOOL,
    "down": _WOOL,
    "silk": Swelling((0.16, 0.18), (0.01, 0.02)),
    "plant": _PLANT,
    "regenerated": Swelling((0.25, 0.50), (0.02, 0.05)),
    "synthetic": _NONE,
}
BY_FIBRE: dict[str, Swelling] = {"nylon": Swelling((0.02, 0.03), (0.01, 0.03))}


def swelling(fibre: Fibre) -> Swelling:
    """Return how much a fibre grows in water; a blend by the shares of what it is of (assumed)."""
    if fibre.shares:
        parts = [(swelling(each), share) for each, share in fibre.shares]
        ways = [[(grown.across, grown.along)[way] for grown, _ in parts] for way in (0, 1)]
        ends = [[sum(w * r[end] for (_, w), r in zip(parts, way, strict=True)) for end in (0, 1)] for way in ways]
        return Swelling((ends[0][0], ends[0][1]), (ends[1][0], ends[1][1]))
    return BY_FIBRE.get(fibre.id, BY_FAMILY[fibre.family])


def _grows(node: Leaf) -> Swelling:
    match node:
        case Single():
            return swelling(node.fibre)
        case Bought():
            return swelling(node.fibre) if node.fibre else _NONE


def wet_over_dry(state: State) -> tuple[FloatArray, FloatArray]:
    """Return the thickness of a yarn wet over dry, the least and the most: that of its strands, by their share of it.

    A strand is taken to grow as its fibres do; how far the air between them gives way is not known. A bought thread
    of unknown fibre is taken not to swell.
    """
    if isinstance(state, LeafState):
        low, high = _grows(state.node).across
        return np.asarray(1 + low), np.asarray(1 + high)
    sizes = [each.count * each.state.diameter for each in state.seats]
    inner = [wet_over_dry(each.state) for each in state.seats]
    wrap = wrap_of(state.node)
    if wrap:
        low, high = swelling(wrap.fibre).across
        sizes.append(state.diameter - sizes[0])
        inner.append((np.asarray(1 + low), np.asarray(1 + high)))
    whole = sum(sizes, np.asarray(0.0))
    ends = [
        sum((size * grown[end] for size, grown in zip(sizes, inner, strict=True)), np.asarray(0.0)) / whole
        for end in (0, 1)
    ]
    return ends[0], ends[1]


def wet_length(state: State) -> float:
    """Return the length of a yarn wet over dry, at the middle of what its fibres do."""
    if isinstance(state, LeafState):
        return 1 + sum(_grows(state.node).along) / 2
    strands = sum(each.count for each in state.seats)
    return sum(each.count * wet_length(each.state) for each in state.seats) / strands
