"""The loop test as a picture: 30 cm of yarn hung by both ends, turning as its balance makes it.

The number and the direction of the turns and the length of the legs are computed; how wide the loop gapes is a
picture.
"""

from functools import lru_cache

import numpy as np

from pebble_wheel.drawing.svg import tag, words
from pebble_wheel.drawing.tubes import Tube, paint
from pebble_wheel.mechanics.rest.balance import LOOP_LEG

WIDTH, HEIGHT, TOP = 150.0, 220.0, 14.0
PX_PER_MM = (HEIGHT - TOP - 12) / (1000 * LOOP_LEG)
LEGS_APART = 9
"""Layers of depth that tell two legs apart."""

THINNEST = 9.0
"""Pixels; a true thickness could not be seen at this scale."""


def loop_svg(turns: float, diameter: float, colours: list[str], title: str) -> str:
    """Return the hanging loop.

    Args:
        turns: of the two legs about each other, signed, Z positive; drawn up to 30, to a tenth.
        diameter: apparent, mm; drawn to a tenth of a pixel.
        colours: of its strands; the legs take the first and the last, so that they can be told apart.
        title: what the picture says, in words.
    """
    turns = round(float(np.clip(np.nan_to_num(turns), -30, 30)), 1)
    width = round(max(THINNEST, diameter * PX_PER_MM), 1)
    knot = tag("rect", x=WIDTH / 2 - 34, y=3, width=68, height=10, rx=5, class_="peg")
    return tag(
        "svg",
        words("title", title) + _legs(turns, width, colours[0], colours[-1]) + knot,
        viewBox=f"0 0 {WIDTH:.0f} {HEIGHT:.0f}",
        role="img",
        class_="loop",
    )


@lru_cache(maxsize=64)
def _legs(turns: float, width: float, first: str, last: str) -> str:
    down = np.linspace(0, 1, 45 + int(32 * abs(turns)))
    open_loop = 40 * np.sqrt(np.clip(1 - down**5, 0, 1)) * (0.55 + 0.45 * down)
    eye = 0.5 * width * np.exp(-(((down - 0.93) / 0.05) ** 2))
    twisted = (26 * np.exp(-8 * down) + 0.6 * width + eye) * np.sqrt(np.clip(1 - down**40, 0, 1))
    openness = np.exp(-1.6 * abs(turns))
    apart = openness * open_loop + (1 - openness) * twisted
    around = 2 * np.pi * turns * down
    y = TOP + down * (HEIGHT - TOP - 12)
    tubes = []
    for side, colour in ((1, first), (-1, last)):
        # The axis runs down the page: Z turns lean up to the right where they face the eye.
        x = WIDTH / 2 + side * apart * np.cos(around)
        depth = side * apart * np.sin(around)
        flat = np.zeros_like(x)
        tubes.append(Tube(x, y, depth, flat + width, (colour,), flat))
    return paint(tubes, "loop", fibres=0, layers=LEGS_APART)
