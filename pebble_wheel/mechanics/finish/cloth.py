"""Where to start in cloth, and what washing did to a swatch. Start here, then swatch: nothing replaces it."""

from dataclasses import dataclass

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.counts import INCH

PLAIN, TWILL = 1 / 2, 2 / 3
"""Share of the diameters that lie side by side in the warp: plain weave, 2/2 twill.

References:
    [1] Ashenhurst's rule of the sett (from memory).
"""

STITCHES = 0.46
"""Stitches to a wrap, a little under half: common practice, no source."""

NEEDLE = 1.8
"""Needle to yarn, in thickness: common practice, no source. A larger one leaves room to bloom."""


def sett(diameter: Floats, share: float) -> Floats:
    """Return the ends in 10 cm of warp for yarn of a diameter [mm]; see :data:`PLAIN`, :data:`TWILL`.

    Example:
        >>> sett(2.0, PLAIN)
        25.0
    """
    return share * 100 / diameter


def stitches(wpi: Floats) -> Floats:
    """Return the knitted stitches in 10 cm, washed, for yarn of so many finished relaxed wraps per inch."""
    return STITCHES * wpi * 100 / INCH


@dataclass(frozen=True)
class Loops:
    """How the loops of a plain knit lie: stitches ``k₃/ℓ`` and rows ``k₂/ℓ`` in a length, ℓ the yarn in one stitch.

    References:
        [1] Munden, The geometry and dimensional properties of plain-knit fabrics, 1959 (from memory).
    """

    rows: float
    """k₂."""
    stitches: float
    """k₃."""


DRY, WET = Loops(5.0, 3.8), Loops(5.3, 4.1)
"""Relaxed dry, as off the needles, and relaxed wet, as washed."""


def stitch_length(stitches_in_10_cm: Floats, loops: Loops) -> Floats:
    """Return the yarn in one stitch, ``ℓ = k₃/w`` [mm], of a plain knit with so many stitches in 10 cm.

    Example:
        >>> round(stitch_length(20.0, DRY), 1)
        19.0
    """
    return loops.stitches * 100 / stitches_in_10_cm


def rows(stitches_in_10_cm: Floats, loops: Loops) -> Floats:
    """Return the rows in 10 cm of a plain knit with so many stitches in 10 cm, ``k₂/k₃`` times as many."""
    return stitches_in_10_cm * loops.rows / loops.stitches


def swatch_yarn(side: Floats, stitches_in_10_cm: Floats) -> Floats:
    """Return the yarn [m] in a plain square swatch of a side [mm] as it comes off the needles.

    Example:
        >>> round(swatch_yarn(100.0, 20.0), 1)
        10.0
    """
    made = side * stitches_in_10_cm / 100 * side * rows(stitches_in_10_cm, DRY) / 100
    return made * stitch_length(stitches_in_10_cm, DRY) / 1000


SETTLES, ROWS_SETTLE = (0.92, 0.95, 0.98), (0.96, 0.98, 1.00)
"""Stitches and rows after the first wash over before, least, middle and most: the cloth settles whatever the yarn does,
4 to 5 % across in silk, cotton and viscose that do not bloom (common practice, no source)."""

BLOOM_SHOWS, BLOOM_SHOWS_IN_ROWS = 0.35, 0.15
"""Powers of the growth in thickness by which stitches and rows loosen beside that: so wools come out at the 4 to 13 %
across that the trade finds, rows less (assumed)."""


def settled(before: Floats, growth: Floats, settles: Floats, shows: float) -> Floats:
    """Return the stitches or rows in a length after the first wash: the cloth settles, and a thicker yarn wants room.

    Args:
        before: in the same length off the needles.
        growth: of the apparent diameter on washing.
        settles: see :data:`SETTLES`, :data:`ROWS_SETTLE`.
        shows: see :data:`BLOOM_SHOWS`.
    """
    return before * settles / growth**shows


def off_the_needles(washed: Floats, growth: Floats) -> Floats:
    """Return the stitches to knit in a length for those wanted once washed; :func:`settled` read backwards."""
    return washed / settled(1.0, growth, SETTLES[1], BLOOM_SHOWS)


def needle(diameter: Floats) -> Floats:
    """Return the needle [mm] to try first for yarn of a diameter [mm]."""
    return NEEDLE * diameter


def change(before: Floats, after: Floats) -> Floats:
    """Return by what share a gauge grew on washing; negative where it loosened: fewer stitches to the same width."""
    return after / before - 1


def width_error(width: Floats, before: Floats, after: Floats) -> Floats:
    """Return by how much cloth cast on for a width by the unwashed gauge comes out wider once washed, same unit.

    ``width · (before/after − 1)``: 100 cm at 20 stitches that wash to 19 come out 105.3 cm wide.

    Example:
        >>> round(width_error(100.0, 20.0, 19.0), 2)
        5.26
    """
    return width * (before / after - 1)
