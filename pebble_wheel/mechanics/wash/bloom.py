"""What washing and drying do to size: bloom of each strand, and the relaxation of length.

How sure each factor is stands on the finishing screen; a washed swatch is the truth.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import Character, character, usual_draw
from pebble_wheel.mechanics.strand.state import LeafState, State, leaves, wrap_packing
from pebble_wheel.mechanics.strand.structure import Bought, Single, wrap_of

Wash = Literal["none", "steam", "soak", "swing", "snap", "thwack", "full"]
Drying = Literal["free", "light", "heavy"]
Blocking = Literal["none", "light", "severe"]

WASH: dict[Wash, float] = {
    "none": 0.0,
    "steam": 0.4,
    "soak": 0.8,
    "swing": 0.9,
    "snap": 1.0,
    "thwack": 1.15,
    "full": 1.35,
}
"""w; steam assumed at half a soak, swinging halfway to snapping."""

DRYING: dict[Drying, float] = {"free": 1.0, "light": 0.6, "heavy": 0.3}
"""h: free, light weight, heavy weight."""

RELAXING: dict[Drying, float] = {"free": 1.0, "light": 0.5, "heavy": 0.0}
"""Share of the length relaxation that drying lets through."""

CHARACTER: dict[Character, float] = {"woollen": 1.15, "semi": 1.0, "worsted": 0.7}
"""p."""

UNEVEN_LEFT: dict[Wash, float] = {
    "none": 1.0,
    "steam": 1.0,
    "soak": 1.0,
    "swing": 0.95,
    "snap": 0.9,
    "thwack": 0.75,
    "full": 0.9,
}
"""Share of the unevenness of twist along the yarn that handling leaves, apart from bloom (assumed)."""

BLOCKING: dict[Blocking, float] = {"none": 1.0, "light": 1.0, "severe": 0.4}
"""Of the bloom, in the cloth: severe blocking suppresses it, light blocking lets it come."""

IRONED, IRONED_SPREAD = 1.25, 1.5
"""m: more bloom where the mill pressed the crimp flat and the fibre has not been wet since: a plausible guess of the
trade, untested. The spread of bloom is that much wider then (assumed)."""

FULLY_PACKED = 0.45
"""Packing that leaves fibre no room to bloom."""

DRAWS_UP, DRAWS_UP_BY_BLOOM = 0.02, 0.18
"""Share of the length that any yarn loses on its first wash, and what bloom with room to act adds."""


@dataclass(frozen=True)
class Finish:
    """How the yarn is washed and dried."""

    wash: Wash = "snap"
    drying: Drying = "free"
    ironed: bool = False
    """Whether the mill pressed the crimp flat and the fibre has not been wet since."""
    blocking: Blocking = "none"
    """In the cloth."""

    @property
    def bloom_spread(self) -> float:
        """How much wider than usual the spread of bloom is."""
        return IRONED_SPREAD if self.ironed else 1.0


def room(packing: Floats) -> Floats:
    """Return the share of bloom that packing leaves room for, ``(1 − φ/0.45)₊``."""
    return np.maximum(1 - packing / FULLY_PACKED, 0.0)


def strand_bloom(bloom: Floats, packing: Floats, character: Character, finish: Finish) -> Floats:
    """Return the diameter after washing over that before, ``b = 1 + B (1 − φ/0.45)₊ p w h m``.

    Args:
        bloom: B of the fibre.
        packing: φ as it stands in the structure, so that twist restrains bloom.
        character: of preparation and draw.
        finish: washing, drying, crimp pressed flat, and blocking in the cloth.
    """
    ironed = IRONED if finish.ironed else 1.0
    handled = WASH[finish.wash] * DRYING[finish.drying] * ironed * BLOCKING[finish.blocking]
    return 1 + bloom * room(packing) * CHARACTER[character] * handled


def relaxation(bloom: Floats, packing: Floats, finish: Finish) -> Floats:
    """Return the share of length lost on the first wash, ``0.02 + 0.18 B (1 − φ/0.45)₊``; none if never wetted."""
    wetted = 0.0 if finish.wash == "none" else RELAXING[finish.drying]
    return (DRAWS_UP + DRAWS_UP_BY_BLOOM * bloom * room(packing)) * wetted


def growth(state: State, finish: Finish) -> FloatArray:
    """Return the growth of the apparent diameter: that of the strands, by their share of it."""
    if isinstance(state, LeafState):
        match state.node:
            case Single():
                node = state.node
                bloom = node.fibre.bloom * node.bloom_factor
                return np.asarray(strand_bloom(bloom, state.packing, node.character, finish))
            case Bought():
                return np.asarray(1.0)
    sizes = [each.count * each.state.diameter for each in state.seats]
    grown = [size * growth(each.state, finish) for size, each in zip(sizes, state.seats, strict=True)]
    wrap = wrap_of(state.node)
    if wrap:
        kind = character(wrap.prep, usual_draw(wrap.prep))
        fluff = strand_bloom(wrap.fibre.bloom, wrap_packing(wrap), kind, finish)
        sizes.append(state.diameter - sizes[0])
        grown.append(sizes[-1] * fluff)
    return sum(grown, np.asarray(0.0)) / sum(sizes, np.asarray(0.0))


def shrinkage(state: State, finish: Finish) -> FloatArray:
    """Return the share of length lost on the first wash: the mean over the singles."""
    lost, pieces = np.asarray(0.0), np.asarray(0.0)
    for leaf, share, _ in leaves(state):
        lost, pieces = lost + share * _relaxed(leaf, finish), pieces + share
    return lost / pieces


def _relaxed(leaf: LeafState, finish: Finish) -> Floats:
    """Return the share of length that a leaf loses on the first wash; a bought thread has been washed."""
    match leaf.node:
        case Single():
            return leaf.node.draws_up_factor * relaxation(leaf.node.fibre.bloom, leaf.packing, finish)
        case Bought():
            return 0.0
