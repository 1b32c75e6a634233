"""How tightly fibres pack in a single: the compaction law and its table of preparations."""

from functools import lru_cache
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.tables import EvenTable

Prep = Literal["combed", "semi", "carded"]
Draw = Literal["short", "long", "fold"]
Character = Literal["worsted", "semi", "woollen"]

DENSEST = 0.8
"""The limit of the packing fraction in the compaction law."""


LOOSEST: dict[Character, float] = {"worsted": 0.08, "semi": 0.05, "woollen": 0.03}
"""φ0, the packing fraction without twist (calibrated for this product against the trade's grist and wraps)."""

SQUEEZE = 7e-8
"""Q, per (turns/m)² tex^0.5, one for all wool-like fibre and taken for every other (calibrated likewise)."""


def usual_draw(prep: Prep) -> Draw:
    """Return the draw that goes with a preparation when none is named: long for carded, else short."""
    return "long" if prep == "carded" else "short"


def character(prep: Prep, draw: Draw) -> Character:
    """Return what preparation and draw make together.

    Combed and drawn short is worsted, carded and drawn long is woollen, all between is semi. What is drafted from the
    fold comes from the side of its fibres, and is woollen however it was prepared (common practice, no source).
    """
    if draw == "fold":
        return "woollen"
    if prep == "combed" and draw == "short":
        return "worsted"
    if prep == "carded" and draw == "long":
        return "woollen"
    return "semi"


def compaction(fraction: Floats) -> Floats:
    """Return ``f(φ) = (φ/0.8)^2.5 / (1 − (φ/0.8)³)³``, rising without bound as φ nears 0.8.

    References:
        [1] The form is Neckář's (from memory); :data:`LOOSEST` and :data:`SQUEEZE` are calibrated for this product.
    """
    share = fraction / DENSEST
    return share**2.5 / (1 - share**3) ** 3


@lru_cache(maxsize=1)
def _inverse() -> EvenTable:
    """Return φ over log f, found by halving the interval."""
    loosest, densest = 0.015 * DENSEST, 0.98 * DENSEST
    wanted = np.linspace(np.log(compaction(loosest)), np.log(compaction(densest)), 1200)
    low, high = np.full(wanted.size, loosest), np.full(wanted.size, densest)
    for _ in range(50):
        middle = (low + high) / 2
        loose = np.log(compaction(middle)) < wanted
        low, high = np.where(loose, middle, low), np.where(loose, high, middle)
    return EvenTable(float(wanted[0]), float(wanted[-1]), (low + high) / 2)


def packing_fraction(loosest: Floats, twist_squared: Floats, tex: Floats, factor: Floats = 1.0) -> FloatArray:
    """Return φ where ``f(φ) = f(φ0) + Q·t²·T^0.5``.

    So at one twist factor a thick strand is airier than a thin one, ``d ∝ T^0.6``.

    Args:
        loosest: φ0 of the preparation, see :data:`LOOSEST`.
        twist_squared: t² in (turns/m)²; inside a ply the single's own plus that of every level above, since the
            ply squeezes its strands too.
        tex: T, the linear density.
        factor: a multiplier on Q, for its spread.

    Returns:
        φ, between φ0 and 0.8.
    """
    return packed(compaction(loosest), squeeze(tex, factor) * twist_squared)


def squeeze(tex: Floats, factor: Floats = 1.0) -> Floats:
    """Return ``Q·T^0.5``, by which a turn squeezes a strand; see :func:`packing_fraction`."""
    return SQUEEZE * factor * np.sqrt(tex)


def packed(loose: Floats, squeezed: Floats) -> FloatArray:
    """Return φ where ``f(φ)`` is that without twist and what the twist squeezes; see :func:`packing_fraction`."""
    return _inverse()(np.log(loose + squeezed))
