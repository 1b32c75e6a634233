"""Linear density in the counts people use, and wraps per inch."""

from pebble_wheel.mechanics.arrays import Floats

INCH = 25.4
"""mm."""

YARD = 0.9144
"""Metres."""

OUNCE = 453.59237 / 16
"""Grams."""

YARDS_PER_POUND_TEX = 1e6 * OUNCE * 16 / (1000 * YARD)
"""tex × yd/lb: one pound in grams over one yard in kilometres, 496 055."""

COTTON_COUNT_TEX = YARDS_PER_POUND_TEX / 840
"""tex × Ne: hanks of 840 yards per pound, 590.54."""

WORSTED_COUNT_TEX = YARDS_PER_POUND_TEX / 560
"""tex × Nw: hanks of 560 yards per pound, 885.8."""

METRIC_COUNT_TEX = 1000.0
"""tex × Nm: metres per gram."""

DENIER_PER_TEX = 9.0


def grist_yd_per_lb(tex: Floats) -> Floats:
    """Return yards per pound of a linear density [tex]; the same inversion leads back.

    Example:
        >>> round(grist_yd_per_lb(496.055))
        1000
    """
    return YARDS_PER_POUND_TEX / tex


def wraps_per_inch(diameter: Floats) -> Floats:
    """Return relaxed wraps per inch, just touching, of an apparent diameter [mm]; the same inversion leads back."""
    return INCH / diameter
