"""What a hand can take hold of on the picture of a yarn that is aimed for: its edge, and the arm of its angle."""

import numpy as np

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.drawing.yarn import Frame, Wedge, arm
from pebble_wheel.mechanics.state import Made

GRIP = 22.0
"""Pixels; a fingertip covers twice as many."""

EDGE_AT = 1040.0


def halo(diameter: float, scale: float) -> str:
    """Return how wide the yarn is to be [mm], as a band beneath it."""
    frame = Frame()
    wide = diameter * scale
    return tag("rect", x=0, y=frame.height / 2 - wide / 2, width=frame.width, height=wide, class_="halo")


def grips(made: Made, wedge: Wedge | None, diameter: float, scale: float) -> str:
    """Return the grips, each named for what it moves.

    Args:
        made: the yarn drawn.
        wedge: the angle laid on it; without one there is no grip on it.
        diameter: that is aimed for, mm.
        scale: pixels per mm.
    """
    frame = Frame()
    half = diameter * scale / 2
    lines = tag(
        "path", d=f"M0 {frame.height / 2 - half}h{frame.width:.0f}M0 {frame.height / 2 + half}h1280", class_="rim"
    )
    parts = [
        lines,
        _grip("size", EDGE_AT, frame.height / 2 - half, "thicker or thinner", "M0 -9v18M-5 -5l5 -5l5 5M-5 5l5 5l5 -5"),
    ]
    if wedge:
        x, y, length, lean = arm(float(np.asarray(made.state.angle)), wedge, frame)
        place = x + length * np.cos(lean), y + length * np.sin(lean)
        parts.append(_grip("firm", *place, "firmer or softer", "M-7 -4a9 9 0 0 1 14 0M-7 4a9 9 0 0 0 14 0"))
    return group(parts, class_="grips")


def _grip(name: str, x: float, y: float, title: str, mark: str) -> str:
    disc = tag("circle", r=GRIP, class_="grip-reach") + tag("circle", r=GRIP * 0.68, class_="grip-disc")
    sign = tag("path", d=mark, class_="grip-mark")
    return group(
        [words("title", title), disc, sign], class_="grip", data_grip=name, transform=f"translate({x:.1f} {y:.1f})"
    )
