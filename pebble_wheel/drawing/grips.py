"""What a hand can take hold of on the picture of a yarn that is aimed for: its edge, and the arm of its angle."""

import numpy as np

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.drawing.yarn import Frame, Wedge, arm
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.wording import titles

GRIP = 22.0
"""Pixels; a fingertip covers twice as many."""

EDGE_AT = 60.0
"""Pixels from where the strands have come together."""

AIMED = Frame(width=1130, join_from=135, join_to=295)
"""The picture of what is aimed for: less of the strands, so that all grips lie within a narrow screen."""


def halo(diameter: float, scale: float) -> str:
    """Return how wide the yarn is to be [mm], as a band beneath it."""
    wide = diameter * scale
    return tag("rect", x=0, y=AIMED.height / 2 - wide / 2, width=AIMED.width, height=wide, class_="halo")


def grips(made: Made, wedge: Wedge | None, diameter: float, scale: float) -> str:
    """Return the grips, each named for what it moves.

    Args:
        made: the yarn drawn.
        wedge: the angle laid on it; without one there is no grip on it.
        diameter: that is aimed for, mm.
        scale: pixels per mm.
    """
    half = diameter * scale / 2
    lines = tag(
        "path",
        d=f"M0 {AIMED.height / 2 - half}h{AIMED.width:.0f}M0 {AIMED.height / 2 + half}h{AIMED.width:.0f}",
        class_="rim",
    )
    parts = [
        lines,
        _grip(
            "size",
            AIMED.join_to + EDGE_AT,
            AIMED.height / 2 - half,
            titles.THICKER,
            "M0 -9v18M-5 -5l5 -5l5 5M-5 5l5 5l5 -5",
        ),
    ]
    if wedge:
        x, y, length, lean = arm(float(np.asarray(made.state.angle)), wedge, AIMED)
        place = x + length * np.cos(lean), y + length * np.sin(lean)
        parts.append(_grip("firm", *place, titles.FIRMER, "M-7 -4a9 9 0 0 1 14 0M-7 4a9 9 0 0 0 14 0"))
    return group(parts, class_="grips")


def _grip(name: str, x: float, y: float, title: str, mark: str) -> str:
    disc = tag("circle", r=GRIP, class_="grip-reach") + tag("circle", r=GRIP * 0.68, class_="grip-disc")
    sign = tag("path", d=mark, class_="grip-mark")
    return group(
        [words("title", title), disc, sign], class_="grip", data_grip=name, transform=f"translate({x:.1f} {y:.1f})"
    )
