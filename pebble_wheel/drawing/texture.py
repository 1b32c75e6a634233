"""A yarn that changes along its length as a strip to scale, and gestures as small pictures of strands and hands."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.svg import group, mix, tag, words
from pebble_wheel.mechanics.arrays import IntArray
from pebble_wheel.workshop.gestures import WINDS, Gesture

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
    """Return how strands are held: one straight, the other as it comes to it; hands closed on it, or off."""
    straight, wound = _STRANDS[gesture]
    fibre = "wound-fibre" if gesture in WINDS else "wound-round"
    hands = [_hand(x, y, open_) for x, y, open_ in _HANDS[gesture]]
    return tag(
        "svg",
        words("title", title)
        + tag("path", d=straight, class_="held-straight")
        + tag("path", d=wound, class_=fibre)
        + group(hands),
        viewBox="0 0 120 64",
        role="img",
        class_="gesture",
    )


def _hand(x: float, y: float, open_: bool) -> str:
    """Return a hand from the side: a fist with its knuckles, or a palm with its fingers off."""
    if open_:
        fingers = "".join(
            f"M{x + at:.1f} {y - 4:.1f}l{lean} -9" for at, lean in ((-5, -2), (-1.7, -0.6), (1.7, 0.6), (5, 2))
        )
        palm = tag("rect", x=x - 7, y=y - 5, width=14, height=11, rx=5, class_="hand")
        return palm + tag("path", d=f"{fingers}M{x - 6:.1f} {y + 1:.1f}l-6 -3", class_="fingers")
    fist = tag("rect", x=x - 8, y=y - 7, width=16, height=13, rx=6, class_="hand")
    knuckles = "".join(f"M{x + at:.1f} {y - 6:.1f}v6" for at in (-3.5, 0, 3.5))
    return fist + tag("path", d=knuckles, class_="knuckles")


def _wave(begin: float, end: float, high: float, step: float) -> str:
    x = np.arange(begin, end + step / 2, step)
    points = " ".join(f"L{at:.1f} {28 + (high if place % 2 else -high):.1f}" for place, at in enumerate(x))
    return f"M{begin:.1f} 28 {points}"


def _bands(begin: float, end: float, high: float, step: float) -> str:
    return "".join(f"M{at:.1f} {28 + high:.1f}l4 {-2 * high:.1f}" for at in np.arange(begin, end, step))


def _tips(begin: float, end: float, step: float) -> str:
    """Return locks whose tips hang and curl."""
    return "".join(f"M{at:.1f} 34c-3 8 5 8 1 15" for at in np.arange(begin, end, step))


_OFF, _ON = True, False
_THICK = "M4 28H30C38 28 40 16 56 16S74 28 82 28S74 40 56 40S38 28 30 28"
_FED = "L70 56"
"""Fibre that comes in square from below."""

_STRANDS: dict[Gesture, tuple[str, str]] = {
    "plain": ("M4 28H70L112 12", _wave(4, 70, 4, 6) + "L112 44"),
    "thick": ("M4 28H112", _THICK),
    "spiral": ("M4 28H112", _wave(4, 74, 7, 9) + "L108 48"),
    "turned": ("M4 28H112", _wave(4, 66, 9, 16) + "L66 52"),
    "tied": (_THICK + "M82 28H112", _wave(30, 80, 14, 11) + "L80 54"),
    "coils": ("M4 28H112", _wave(4, 66, 15, 2.6) + "L66 54"),
    "packed": ("M4 28H112", _wave(20, 60, 17, 1.6) + "L60 54"),
    "bobble": ("M4 28H112", "M34 28" + "C20 4 62 4 48 28S20 52 48 28S24 8 44 28" + "L60 50"),
    "wound": ("M4 28H112", _bands(6, 64, 9, 7) + _FED),
    "lofty": ("M4 28H112", _bands(6, 64, 15, 7) + _FED),
    "locks": ("M4 28H112", _bands(6, 64, 8, 7) + _tips(12, 66, 13) + _FED),
    "loose-locks": ("M4 28H112", _tips(8, 66, 11) + "M8 34H64" + _FED),
    "looped": ("M4 28" + "".join("q4 -16 8 0" for _ in range(8)) + "H112", _bands(12, 66, 7, 16) + _FED),
}
_HANDS: dict[Gesture, tuple[tuple[float, float, bool], ...]] = {
    "plain": ((110, 14, _ON), (110, 46, _ON)),
    "thick": ((110, 28, _ON), (14, 28, _ON)),
    "spiral": ((110, 28, _ON), (106, 52, _ON)),
    "turned": ((110, 28, _ON), (68, 54, _ON)),
    "tied": ((110, 28, _ON), (82, 56, _ON)),
    "coils": ((110, 28, _ON), (68, 54, _ON)),
    "packed": ((110, 28, _ON), (62, 54, _ON), (78, 28, _ON)),
    "bobble": ((110, 28, _ON), (64, 54, _OFF)),
    "wound": ((110, 28, _ON), (72, 34, _ON)),
    "lofty": ((110, 28, _ON), (84, 54, _OFF)),
    "locks": ((110, 28, _ON), (84, 54, _OFF)),
    "loose-locks": ((110, 28, _ON), (84, 54, _OFF)),
    "looped": ((110, 28, _ON), (84, 54, _OFF)),
}


EDGE, EDGE_SHARE, INNER = "#14201b", 0.45, 0.74
"""Of a strand in cloth: what its edges darken to, how much, and how wide it is between them."""


@dataclass(frozen=True)
class Patch:
    """Stitches of a piece of cloth [mm]."""

    across: float
    up: float
    woven: bool
    warp: int = 0
    """Which section the warp is of."""


def patch_svg(sections: IntArray, thick: Sequence[float], colours: Sequence[str], patch: Patch, title: str) -> str:
    """Return cloth of a yarn that changes, each stitch or crossing as thick as the section that lies in it.

    Args:
        sections: number of the section in every stitch from the foot up, shape (rows, stitches); −1 where warp shows.
        thick: of each section [mm].
        colours: of each.
        patch: its stitches.
        title: what it shows, in words.
    """
    rows, stitches = sections.shape
    wide, high = stitches * patch.across, rows * patch.up
    parts = []
    for number in sorted({int(each) for each in sections.ravel()}):
        up, along = np.nonzero(sections == number)
        if number < 0:
            d = "".join(
                f"M{(x + 0.5) * patch.across:.2f} {high - y * patch.up:.2f}v{-patch.up:.2f}"
                for y, x in zip(up.tolist(), along.tolist(), strict=True)
            )
            own = {"stroke": colours[patch.warp], "stroke_width": f"{thick[patch.warp]:.3f}"}
        else:
            d = "".join(_stitch(x, y, patch, high) for y, x in zip(up.tolist(), along.tolist(), strict=True))
            own = {"stroke": colours[number], "stroke_width": f"{thick[number]:.3f}"}
        edge = {"stroke": mix(own["stroke"], EDGE, EDGE_SHARE), "stroke_width": own["stroke_width"]}
        inner = {"stroke": own["stroke"], "stroke_width": f"{INNER * float(own['stroke_width']):.3f}"}
        drawn = tag("path", d=d, **edge) + tag("path", d=d, **inner)
        parts.append((0.0 if number < 0 else thick[number], drawn))
    parts.sort(key=lambda each: each[0])
    return tag(
        "svg",
        words("title", title) + group([each for _, each in parts]),
        viewBox=f"0 0 {wide:.2f} {high:.2f}",
        role="img",
        class_="texture-patch",
    )


def _stitch(x: int, y: int, patch: Patch, high: float) -> str:
    left, foot = x * patch.across, high - y * patch.up
    if patch.woven:
        return f"M{left:.2f} {foot - patch.up / 2:.2f}h{patch.across:.2f}"
    half, top = patch.across / 2, foot - patch.up
    return f"M{left + 0.12 * half:.2f} {top:.2f}L{left + half:.2f} {foot:.2f}L{left + 1.88 * half:.2f} {top:.2f}"
