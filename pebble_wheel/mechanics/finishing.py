"""What washing and drying do to size: a simple bloom of each strand, and the relaxation of length.

Simple, because drying under weight, resting and swelling are not told apart here; a swatch is the truth.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.packing import Character, character, usual_draw
from pebble_wheel.mechanics.state import LeafState, State, leaves, wrap_packing
from pebble_wheel.mechanics.structure import CoreSpun, Single

Wash = Literal["none", "steam", "soak", "snap", "thwack", "full"]
Drying = Literal["free", "light", "heavy"]

WASH: dict[Wash, float] = {"none": 0.0, "steam": 0.4, "soak": 0.8, "snap": 1.0, "thwack": 1.15, "full": 1.35}
"""w; steam assumed at half a soak."""

DRYING: dict[Drying, float] = {"free": 1.0, "light": 0.6, "heavy": 0.3}
"""h: free, light weight, heavy weight."""

RELAXING: dict[Drying, float] = {"free": 1.0, "light": 0.5, "heavy": 0.0}
"""Share of the length relaxation that drying lets through."""

CHARACTER: dict[Character, float] = {"woollen": 1.15, "semi": 1.0, "worsted": 0.7}
"""p."""

FULLY_PACKED = 0.45


@dataclass(frozen=True)
class Finish:
    """How the yarn is washed and dried."""

    wash: Wash = "snap"
    drying: Drying = "free"


def room(packing: Floats) -> Floats:
    """Return the share of bloom that packing leaves room for, ``(1 − φ/0.45)₊``."""
    return np.maximum(1 - packing / FULLY_PACKED, 0.0)


def strand_bloom(bloom: Floats, packing: Floats, character: Character, finish: Finish) -> Floats:
    """Return the diameter after washing over that before, ``b = 1 + B (1 − φ/0.45)₊ p w h``.

    Args:
        bloom: B of the fibre.
        packing: φ as it stands in the structure, so that twist restrains bloom.
        character: of preparation and draw.
        finish: washing and drying.
    """
    return 1 + bloom * room(packing) * CHARACTER[character] * WASH[finish.wash] * DRYING[finish.drying]


def relaxation(bloom: Floats, packing: Floats, finish: Finish) -> Floats:
    """Return the share of length lost on the first wash, ``0.02 + 0.18 B (1 − φ/0.45)₊``; none if never wetted."""
    wetted = 0.0 if finish.wash == "none" else RELAXING[finish.drying]
    return (0.02 + 0.18 * bloom * room(packing)) * wetted


def growth(state: State, finish: Finish) -> FloatArray:
    """Return the growth of the apparent diameter: that of the strands, by their share of it."""
    if isinstance(state, LeafState):
        if not isinstance(state.node, Single):
            return np.asarray(1.0)
        return np.asarray(strand_bloom(state.node.fibre.bloom, state.packing, state.node.character, finish))
    sizes = [each.count * each.state.diameter for each in state.seats]
    grown = [size * growth(each.state, finish) for size, each in zip(sizes, state.seats, strict=True)]
    if isinstance(state.node, CoreSpun):
        wrap = state.node.wrap
        kind = character(wrap.prep, usual_draw(wrap.prep))
        fluff = strand_bloom(wrap.fibre.bloom, wrap_packing(wrap), kind, finish)
        sizes.append(state.diameter - sizes[0])
        grown.append(sizes[-1] * fluff)
    return sum(grown, np.asarray(0.0)) / sum(sizes, np.asarray(0.0))


def shrinkage(state: State, finish: Finish) -> FloatArray:
    """Return the share of length lost on the first wash: the mean over the singles."""
    lost, pieces = np.asarray(0.0), np.asarray(0.0)
    for leaf, share, _ in leaves(state):
        own = relaxation(leaf.node.fibre.bloom, leaf.packing, finish) if isinstance(leaf.node, Single) else 0.0
        lost, pieces = lost + share * own, pieces + share
    return lost / pieces
