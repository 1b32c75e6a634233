"""Where to start in cloth, and what washing did to a swatch. Start here, then swatch: nothing replaces it."""

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
    """Return the knitted stitches in 10 cm for yarn of so many relaxed wraps per inch."""
    return STITCHES * wpi * 100 / INCH


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
