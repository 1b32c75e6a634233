"""What washing and drying do to size: a simple bloom of each strand, and the relaxation of length.

Simple, because drying under weight, resting and swelling are not told apart here; a swatch is the truth.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.packing import Character

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
