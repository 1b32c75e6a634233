"""How much yarn a project takes, and how thick a yarn a pattern's gauge asks for."""

from typing import Literal

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.finish.cloth import NEEDLE, STITCHES

Project = Literal["mittens", "hat", "socks", "scarf", "jersey"]
Large = Literal["small", "medium", "large"]

METRES: dict[Project, tuple[float, float]] = {
    "mittens": (100.0, 150.0),
    "hat": (100.0, 200.0),
    "socks": (350.0, 400.0),
    "scarf": (300.0, 450.0),
    "jersey": (900.0, 1400.0),
}
"""Metres at the middle gauge, from how much to how much: assumed, after common practice."""

LARGER: dict[Large, float] = {"small": 0.8, "medium": 1.0, "large": 1.25}
"""Of the cloth of a medium one (assumed)."""

MIDDLE_GAUGE = 20.0
"""Stitches in 10 cm for which :data:`METRES` hold (assumed)."""


def metres_for(project: Project, large: Large, stitches_in_10_cm: Floats) -> tuple[Floats, Floats]:
    """Return the metres that a project takes, from how much to how much.

    Cloth of ``w`` stitches in a length has ``w · r`` stitches of ``ℓ ∝ 1/w`` in an area, with rows ``r ∝ w``: the yarn
    in it grows as the gauge.

    Example:
        >>> metres_for("hat", "medium", 24.0)
        (120.0, 240.0)
    """
    low, high = METRES[project]
    scale = LARGER[large] * stitches_in_10_cm / MIDDLE_GAUGE
    return low * scale, high * scale


def wraps_for_gauge(stitches_in_10_cm: Floats) -> Floats:
    """Return the finished relaxed wraps per inch of a yarn that knits so; the inverse of ``cloth.stitches``."""
    return stitches_in_10_cm * INCH / (100 * STITCHES)


def wraps_for_needle(needle: Floats) -> Floats:
    """Return the finished relaxed wraps per inch of a yarn that a needle [mm] suits."""
    return INCH * NEEDLE / needle
