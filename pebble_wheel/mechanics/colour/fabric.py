"""Where the yarn of a skein comes to lie in cloth: knit flat, knit round, woven; and whether it stripes or pools."""

from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray

Kind = TypeVar("Kind", bound=np.generic)

Pattern = Literal["even", "stripes", "pools", "mottled"]

EVEN, TELLING = 0.02, 0.5
"""Spread in OKLab below which cloth is even; share of it that stripes or pools take to be called so (assumed)."""

POOL_ROWS = 8
"""Rows over which colours that lie above each other are seen as a pool (assumed)."""

WOVEN_IN = 1.08
"""Weft to a width of cloth: it goes over and under, and draws in (common practice, no source)."""


def knitted(rows: int, stitches: int, in_a_stitch: float, begins: float = 0.0, flat: bool = True) -> FloatArray:
    """Return the place of the yarn in the middle of every stitch [mm], of shape (rows, stitches).

    Args:
        rows: from the first knitted on.
        stitches: in a row, or round.
        in_a_stitch: yarn [mm].
        begins: place of the yarn at the first stitch [mm].
        flat: turned at the end of every row; else knit round.
    """
    at = begins + (np.arange(rows * stitches, dtype=np.float64).reshape(rows, stitches) + 0.5) * in_a_stitch
    if flat:
        at[1::2] = at[1::2, ::-1]
    return at


def woven(picks: int, ends: int, between: float, begins: float = 0.0) -> FloatArray:
    """Return the place of the weft at every crossing [mm], of shape (picks, ends).

    Args:
        picks: of weft.
        ends: of warp.
        between: two ends [mm].
        begins: place of the yarn at the first crossing [mm].
    """
    return knitted(picks, ends, between * WOVEN_IN, begins, flat=True)


def woven_length(metres: float, width: float, between: float) -> float:
    """Return the length of cloth [mm] that so much weft makes, ``1000 m p / (1.08 w)``.

    Args:
        metres: m, of weft.
        width: w, of the cloth [mm].
        between: p, two picks [mm].

    Example:
        >>> round(woven_length(54.0, 500.0, 2.0), 6)
        200.0
    """
    return 1000 * metres * between / (WOVEN_IN * width)


def plain_weave(warp: NDArray[Kind], weft: NDArray[Kind]) -> NDArray[Kind]:
    """Return what shows of a plain weave, of shape (picks, ends, 3): warp and weft by turns.

    Args:
        warp: colour of each end, in any space, shape (ends, 3).
        weft: of each crossing, shape (picks, ends, 3).
    """
    picks, ends = weft.shape[:2]
    over = (np.add.outer(np.arange(picks), np.arange(ends)) % 2 == 0)[..., None]
    return np.where(over, warp[None], weft)


@dataclass(frozen=True)
class Told:
    """What cloth looks like."""

    pattern: Pattern
    spread: float
    """Of its colours: root mean square distance from their mean, in OKLab."""
    between_rows: float
    """Share of that spread that lies between rows: stripes."""
    in_columns: float
    """Share of what is left within rows that lies above itself over some rows: pools."""


def told_of(cloth: FloatArray) -> Told:
    """Return whether cloth stripes or pools, from its colours of shape (rows, stitches, 3)."""
    mean = cloth.mean(axis=(0, 1))
    spread = _variance(cloth - mean)
    if np.sqrt(spread) < EVEN:
        return Told("even", float(np.sqrt(spread)), 0.0, 0.0)
    rows = cloth.mean(axis=1)
    between = _variance(rows - mean) / spread
    within = cloth - rows[:, None]
    blocks = [within[start : start + POOL_ROWS] for start in range(0, len(cloth) - POOL_ROWS + 1, POOL_ROWS)] or [
        within
    ]
    left = _variance(within)
    columns = float(np.mean([_variance(each.mean(axis=0)) for each in blocks])) / left if left > 1e-12 else 0.0
    pattern: Pattern = "mottled"
    if between > TELLING:
        pattern = "stripes"
    elif columns > TELLING:
        pattern = "pools"
    return Told(pattern, float(np.sqrt(spread)), float(between), columns)


def _variance(off: FloatArray) -> float:
    return float((off**2).sum(axis=-1).mean())
