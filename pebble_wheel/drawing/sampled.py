"""Samples as pictures: a strand and its ply-back at one scale, and how a ply-back may hang."""

import math
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.drawing.tubes import paint
from pebble_wheel.drawing.yarn import Frame, depth_of, strands_of, thickness
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.notation.sample import FoldWord

SCALE = 16.0
"""Pixels of the drawing to a mm; on the screen it is as large as life, or so many times that."""

LENGTH, FOLDED, APART, ROOM = 34.0, 26.0, 4.0, 1.5
"""mm of the strand and of its ply-back, between both, and above and below what is thickest."""


@dataclass(frozen=True)
class Side:
    """What is laid side by side: a strand, and folded on itself."""

    label: str
    name: str
    made: Made
    folded: Made | None


def side_svg(side: Side, dress: Dress, tallest: float) -> str:
    """Return a strand and its ply-back as large as life; ``tallest`` mm are what all side by side have room for."""
    long = LENGTH + (APART + FOLDED if side.folded else 0.0)
    high = tallest + 2 * ROOM
    parts = [_length(side.made, dress, side.name, LENGTH, high)]
    if side.folded:
        moved = f"translate({SCALE * (LENGTH + APART):.1f} 0)"
        folded = Dress(dress.part, members=((dress, dress),))
        parts.append(group([_length(side.folded, folded, f"{side.name}-fold", FOLDED, high)], transform=moved))
    return tag(
        "svg",
        words("title", side.label) + "".join(parts),
        viewBox=f"0 0 {SCALE * long:.0f} {SCALE * high:.0f}",
        role="img",
        class_="side folded" if side.folded else "side",
    )


def _length(made: Made, dress: Dress, name: str, long: float, high: float) -> str:
    frame = Frame(width=SCALE * long, height=SCALE * high, tallest=SCALE * high, join_from=-300, join_to=-200)
    clip = tag("clipPath", tag("rect", x=0, y=0, width=SCALE * long, height=SCALE * high), id=f"clip-{name}")
    tubes = paint(strands_of(made, dress, frame, SCALE), name, fibres=0, **depth_of(made))
    return clip + tag("g", tubes, clip_path=f"url(#clip-{name})")


def tallest_of(sides: list[Side]) -> float:
    """Return the thickest of what is to be laid side by side [mm]."""
    return max(thickness(each) for side in sides for each in (side.made, side.folded) if each is not None)


WIDE, HIGH = 64.0, 112.0
_HANGS: dict[FoldWord, tuple[float, float, float]] = {
    "wide": (1.0, 17.0, 0.9),
    "right": (4.0, 8.0, 0.45),
    "tight": (8.0, 5.5, 0.25),
    "kinks": (7.0, 6.0, 0.3),
}
"""Turns, how far its legs stand apart, and how much of that is left at its end."""


def hanging_fold_svg(word: FoldWord, title: str) -> str:
    """Return how a ply-back hangs: a wide loop, as it should, tight, or in kinks. A picture only."""
    turns, apart, left = _HANGS[word]
    down = np.linspace(0, 1, 120)
    y = 8 + down * (HIGH - 24)
    swing = apart * (1 - (1 - left) * down) * np.cos(2 * math.pi * turns * down / 2)
    paths = []
    for side in (1, -1):
        x = WIDE / 2 + side * swing
        points = "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x, y, strict=True))
        paths.append(tag("path", d=f"M{points}", class_="leg"))
    end = float(abs(swing[-1]))
    bottom = f"M{WIDE / 2 - end:.1f} {y[-1]:.1f}q{end:.1f} {max(10.0, 2 * end):.1f} {2 * end:.1f} 0"
    paths.append(tag("path", d=bottom, class_="leg"))
    if word == "kinks":
        for at in (0.3, 0.62):
            cx, cy = WIDE / 2 + 7, 8 + at * (HIGH - 24)
            paths.append(tag("path", d=f"M{cx} {cy}c14 -10 20 8 8 9c-10 0 -6 -14 6 -10", class_="leg"))
    return tag(
        "svg", words("title", title) + "".join(paths), viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", class_="fold"
    )
