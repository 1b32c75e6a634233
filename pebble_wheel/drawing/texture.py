"""A yarn that changes along its length as a strip to scale, and gestures as small pictures of strands and hands."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.workshop.gestures import Gesture

WIDE, HIGH, LEAST, TALLEST = 1000.0, 90.0, 1.5, 74.0
"""Of the strip; how wide a section is drawn at the least, and how high the thickest."""

TOLD = 24
"""Sections of a repeat beyond which the rest is only told of."""


@dataclass(frozen=True)
class Piece:
    """One section of the strip."""

    length: float
    """mm."""
    thickness: float
    """mm."""
    colour: str
    coiled: bool
    """Whether strands wind round it in coils."""
    field: str
    """In which its length is typed; dragged, it changes."""


def strip_svg(sections: Sequence[Piece], title: str) -> str:
    """Return sections end to end, as long as they are, and as thick to each other.

    Args:
        sections: in their order.
        title: what it shows, in words.
    """
    scale, thick = WIDE / sum(each.length for each in sections), max(each.thickness for each in sections)
    parts, x = [], 0.0
    for each in sections:
        span, high = max(each.length * scale, LEAST), max(TALLEST * each.thickness / thick, 3.0)
        top = (HIGH - high) / 2
        own = {"fill": each.colour, "data_field": each.field}
        parts.append(tag("rect", x=x, y=top, width=span, height=high, rx=min(high / 2, span / 2, 8), **own))
        if each.coiled and span > 4:
            turns = "".join(f"M{at:.1f} {top + high:.1f}l3 {-high:.1f}" for at in np.arange(x + 1.5, x + span - 2, 5.0))
            parts.append(tag("path", d=turns, class_="coil-line"))
        x += span
    return tag(
        "svg",
        words("title", title) + group(parts),
        viewBox=f"0 0 {max(x, WIDE):.0f} {HIGH:.0f}",
        preserveAspectRatio="none",
        role="img",
        class_="texture-strip",
    )


def gesture_svg(gesture: Gesture, title: str) -> str:
    """Return how strands are held: one straight, the other as it comes to it."""
    straight, wound = _STRANDS[gesture]
    hands = [tag("circle", cx=x, cy=y, r=5, class_="hand") for x, y in _HANDS[gesture]]
    return tag(
        "svg",
        words("title", title)
        + tag("path", d=straight, class_="held-straight")
        + tag("path", d=wound, class_="wound-round")
        + group(hands),
        viewBox="0 0 120 56",
        role="img",
        class_="gesture",
    )


def _wave(begin: float, end: float, high: float, step: float) -> str:
    x = np.arange(begin, end + step / 2, step)
    points = " ".join(f"L{at:.1f} {28 + (high if place % 2 else -high):.1f}" for place, at in enumerate(x))
    return f"M{begin:.1f} 28 {points}"


_STRANDS: dict[Gesture, tuple[str, str]] = {
    "plain": ("M4 28H70L112 12", _wave(4, 70, 4, 6) + "L112 44"),
    "thick": ("M4 28H112", "M4 28H30C38 28 40 16 56 16S74 28 82 28S74 40 56 40S38 28 30 28"),
    "spiral": ("M4 28H112", _wave(4, 74, 7, 9) + "L108 48"),
    "turned": ("M4 28H112", _wave(4, 66, 9, 16) + "L66 52"),
    "coils": ("M4 28H112", _wave(4, 66, 15, 2.6) + "L66 54"),
    "packed": ("M4 28H112", _wave(20, 60, 17, 1.6) + "L60 54"),
    "bobble": ("M4 28H112", "M34 28" + "C20 4 62 4 48 28S20 52 48 28S24 8 44 28" + "L60 50"),
}
_HANDS: dict[Gesture, tuple[tuple[float, float], ...]] = {
    "plain": ((112, 12), (112, 44)),
    "thick": ((112, 28), (16, 28)),
    "spiral": ((112, 28), (108, 48)),
    "turned": ((112, 28), (66, 50)),
    "coils": ((112, 28), (66, 50), (74, 28)),
    "packed": ((112, 28), (60, 50), (68, 28)),
    "bobble": ((112, 28), (60, 50)),
}
