"""Where the yarn of a skein comes to lie in cloth: knit flat, knit round, woven; and whether it stripes or pools."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray

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


def warp_over(picks: int, ends: int) -> NDArray[np.bool_]:
    """Return where the warp shows in a plain weave, of shape (picks, ends): warp and weft by turns."""
    return np.asarray(np.add.outer(np.arange(picks), np.arange(ends)) % 2 == 0)


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
    rows = cloth.mean(axis=1)
    mean = rows.mean(axis=0)
    spread = _power(cloth) - _power(mean)
    if spread < EVEN**2:
        return Told("even", float(np.sqrt(max(spread, 0.0))), 0.0, 0.0)
    in_rows = _power(rows)
    between, left = (in_rows - _power(mean)) / spread, _power(cloth) - in_rows
    high = min(POOL_ROWS, len(cloth))
    many = len(cloth) // high * high
    blocks = (cloth[:many] - rows[:many, None]).reshape(-1, high, *cloth.shape[1:]).mean(axis=1)
    columns = _power(blocks) / left if left > 1e-12 else 0.0
    pattern: Pattern = "mottled"
    if between > TELLING:
        pattern = "stripes"
    elif columns > TELLING:
        pattern = "pools"
    return Told(pattern, float(np.sqrt(spread)), between, columns)


def _power(off: FloatArray) -> float:
    """Return the mean square of vectors, of shape (…, 3)."""
    return float(np.vdot(off, off)) / (off.size / off.shape[-1])
