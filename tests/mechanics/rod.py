"""An energy solver written apart from the product: n equal singles, one level, the plainest methods there are."""

from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq, minimize_scalar

DENSITY, SQUEEZE, K, SET = 1.31, 7e-8, 1.5, 0.1
"""Of wool; constants as the handbook of the trade states them."""


def compaction(fraction: float) -> float:
    return (fraction / 0.8) ** 2.5 / (1 - (fraction / 0.8) ** 3) ** 3


def packed(loosest: float, twist_squared: float, tex: float) -> float:
    wanted = compaction(loosest) + SQUEEZE * twist_squared * tex**0.5
    return brentq(lambda each: compaction(each) - wanted, 0.999 * loosest, 0.7999, xtol=1e-13)


def thick(tex: float, fraction: float) -> float:
    return np.sqrt(4 * tex / (1000 * np.pi * fraction * DENSITY))


def kept(diameter: float, turns: float) -> float:
    """Hearle's 1 − tan²(α/2)."""
    return 1 - np.tan(np.arctan(np.pi * diameter * turns / 1000) / 2) ** 2


def contact(strands: int, angle: float) -> float:
    """R/r at which the least distance of two neighbouring helices is two radii, by a general minimiser."""
    lag = 2 * np.pi / strands
    apart = minimize_scalar(
        lambda turn: 2 * (1 - np.cos(lag + turn)) + turn**2 / np.tan(angle) ** 2,
        bounds=(-lag, 0),
        method="bounded",
        options={"xatol": 1e-10},
    ).fun
    return 2 / np.sqrt(apart)


@dataclass(frozen=True)
class Laid:
    """One ply settled."""

    angle: float
    radius: float
    turns: float
    """In a strand, per thousand bobbin mm."""
    length: float


def laid(strands: int, tex: float, spun: float, loosest: float, plied: float) -> Laid:
    bobbin = kept(thick(tex, packed(loosest, spun**2, tex)), spun)
    length, angle = 1.0, 0.3 * np.sign(plied)
    for _ in range(300):
        turns = spun + plied * length * np.cos(angle) ** 2
        twist = turns / length
        diameter = thick(tex / length, packed(loosest, twist**2 + plied**2, tex / length))
        radius = contact(strands, max(abs(angle), 1e-4)) * diameter / 2
        found = kept(diameter, twist) / bobbin, np.arctan(2 * np.pi * radius * plied / 1000)
        off = abs(found[0] - length) + abs(found[1] - angle)
        length, angle = found
        if off < 1e-13:
            break
    return Laid(angle, radius, turns, length)


def stored(strand: Laid, spun: float) -> float:
    """Energy per bobbin mm over C."""
    live = 2 * np.pi * (strand.turns - SET * spun) / 1000
    return 0.5 * K * (np.sin(strand.angle) ** 2 / strand.radius) ** 2 + 0.5 * live**2


def balanced(strands: int, tex: float, spun: float, loosest: float) -> float:
    return minimize_scalar(
        lambda plied: stored(laid(strands, tex, spun, loosest, plied), spun),
        bounds=(-0.95 * spun, -0.2 * spun),
        method="bounded",
        options={"xatol": 1e-6},
    ).x
