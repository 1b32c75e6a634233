"""How tightly fibres pack in a single: the compaction law and its table of preparations."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.interpolate import CubicSpline

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.tables import EvenTable

Prep = Literal["combed", "semi", "carded"]
Draw = Literal["short", "long"]
Character = Literal["worsted", "semi", "woollen"]

DENSEST = 0.8
"""The limit of the packing fraction in the compaction law."""


@dataclass(frozen=True)
class Packing:
    """Constants of the compaction law for one way of preparing and drawing (calibrated for this product)."""

    loosest: float
    """φ0, the packing fraction without twist."""
    squeeze: float
    """Q, per (turns/m)² tex^1.5."""


TABLE: dict[Character, Packing] = {
    "worsted": Packing(0.08, 4.4e-10),
    "semi": Packing(0.05, 1.5e-10),
    "woollen": Packing(0.03, 5e-11),
}


def usual_draw(prep: Prep) -> Draw:
    """Return the draw that goes with a preparation when none is named: long for carded, else short."""
    return "long" if prep == "carded" else "short"


def character(prep: Prep, draw: Draw) -> Character:
    """Return what preparation and draw make together.

    Combed and drawn short is worsted, carded and drawn long is woollen, all between is semi.
    """
    if prep == "combed" and draw == "short":
        return "worsted"
    if prep == "carded" and draw == "long":
        return "woollen"
    return "semi"


def compaction(fraction: Floats) -> Floats:
    """Return ``f(φ) = (φ/0.8)^2.5 / (1 − (φ/0.8)³)³``, rising without bound as φ nears 0.8.

    References:
        [1] The form is Neckář's (from memory); the constants of :data:`TABLE` are calibrated for this product.
    """
    share = fraction / DENSEST
    return share**2.5 / (1 - share**3) ** 3


@lru_cache(maxsize=1)
def _inverse() -> EvenTable:
    """Return φ over log f."""
    fraction = DENSEST * (1 - np.geomspace(0.985, 0.02, 1200))
    log_f = np.log(compaction(fraction))
    low, high = float(log_f[0]), float(log_f[-1])
    return EvenTable(low, high, CubicSpline(log_f, fraction)(np.linspace(low, high, 1200)))


@lru_cache(maxsize=16)
def _loosest(packing: Packing) -> float:
    return float(compaction(packing.loosest))


def packing_fraction(packing: Packing, twist_squared: Floats, tex: Floats, factor: Floats = 1.0) -> FloatArray:
    """Return φ where ``f(φ) = f(φ0) + Q·t²·T^1.5``.

    Args:
        packing: φ0 and Q of the preparation.
        twist_squared: t² in (turns/m)²; inside a ply the single's own plus that of every level above, since the
            ply squeezes its strands too.
        tex: T, the linear density.
        factor: a multiplier on Q, for its spread.

    Returns:
        φ, between φ0 and 0.8.
    """
    f = _loosest(packing) + packing.squeeze * factor * twist_squared * (tex * np.sqrt(tex))
    return _inverse()(np.log(f))
