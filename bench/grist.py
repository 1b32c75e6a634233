"""Grist against wraps: what the trade knows of how far a pound goes, and what the mechanics say of the same yarns.

As a program it draws the one over the other.

References:
    [1] :data:`TRADE` is common practice, no source: mill-spun knitting yarn, the middle of each class.
"""

import sys
from pathlib import Path

import numpy as np

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.backwards.solve import SOFTEST, Knobs, course
from pebble_wheel.mechanics.counts import grist_yd_per_lb, wraps_per_inch
from pebble_wheel.mechanics.fibre.packing import Character, Draw, Prep
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.strand.single import turns_for_factor
from pebble_wheel.mechanics.strand.structure import Node, OfBalanced, Rod, Single, Turns, equal_ply
from pebble_wheel.mechanics.wash.bloom import Finish

TRADE: tuple[tuple[float, float], ...] = (
    (5.5, 420),
    (7, 700),
    (8, 775),
    (9, 930),
    (11, 1150),
    (12, 1400),
    (14, 1900),
    (18, 2500),
)
"""Finished relaxed wraps per inch, and yards per pound."""

HANDSPUN: dict[Character, float] = {"worsted": 0.75, "semi": 0.85, "woollen": 1.05}
"""Of the table, what handspun yarn of a preparation goes (common practice, no source)."""

WITHIN = 0.30
"""Of that, either way: where the trade's yarns lie."""

SPUN: dict[Character, tuple[Prep, Draw]] = {
    "worsted": ("combed", "short"),
    "semi": ("semi", "short"),
    "woollen": ("carded", "long"),
}
MEDIUM_WOOL = FIBRES["corriedale"]
SOAKED = Finish("soak", "free")
BASE_TEX = 100.0


def plain(strands: int, character: Character) -> Node:
    """Return a balanced yarn of medium wool at the usual twist factor; a single is spun soft, as one to be knitted."""
    prep, draw = SPUN[character]
    factor = sum(Single(MEDIUM_WOOL, prep, draw, BASE_TEX, Turns(0.0)).usual_factor) / 2
    turns = float(turns_for_factor(factor * (SOFTEST if strands == 1 else 1.0), BASE_TEX))
    single = Single(MEDIUM_WOOL, prep, draw, BASE_TEX, Turns(turns))
    return single if strands == 1 else equal_ply(single, strands, OfBalanced(1.0, -1))


def yards_per_pound(strands: int, character: Character, wpi: FloatArray) -> FloatArray:
    """Return how far a pound of a plain yarn goes, soaked and hung to dry, by its finished relaxed wraps per inch."""
    run = course(plain(strands, character), SOAKED, Knobs(), Rod())
    size = run.size_for("finished diameter", wraps_per_inch(wpi))
    return np.asarray(grist_yd_per_lb(run.value_at(run.measures["finished tex"], size)))


WIDTH, HEIGHT, LEFT, FOOT = 900.0, 520.0, 70.0, 60.0
LOW, HIGH = (5.0, 190.0), (20.0, 3600.0)
INK = {"worsted": "#8a4b2d", "semi": "#2f6f6b", "woollen": "#6b5a9c"}
SAID = {"worsted": "combed, short draw", "semi": "between", "woollen": "carded, long draw"}


def picture() -> str:
    """Return the picture: our bands from 2- to 3-ply, the trade's points with how far its yarns lie from them."""
    wpi = np.geomspace(5.2, 18.8, 40)
    parts = [tag("rect", width=WIDTH, height=HEIGHT, fill="#fbf8f1")]
    parts += [_upright(each) for each in (5.5, 7, 8, 9, 11, 12, 14, 18)]
    parts += [_level(each) for each in (300, 500, 700, 1000, 1500, 2000, 3000)]
    for number, (character, ink) in enumerate(INK.items()):
        ends = [yards_per_pound(strands, character, wpi) for strands in (2, 3)]
        edge = [*zip(wpi, ends[0], strict=True), *zip(wpi[::-1], ends[1][::-1], strict=True)]
        outline = "M" + "L".join(f"{_x(x):.1f} {_y(y):.1f}" for x, y in edge) + "Z"
        parts.append(tag("path", d=outline, fill=ink, fill_opacity=0.45, stroke=ink))
        for x, trade in TRADE:
            mid, at = trade * HANDSPUN[character], _x(x) + 7 * (number - 1)
            reach = f"M{at:.1f} {_y(mid * (1 - WITHIN)):.1f}V{_y(mid * (1 + WITHIN)):.1f}"
            parts += [tag("path", d=reach, stroke=ink), tag("circle", cx=at, cy=_y(mid), r=4, fill=ink)]
        y = 40.0 + 24 * number
        parts += [tag("rect", x=LEFT + 20, y=y - 12, width=26, height=14, fill=ink, fill_opacity=0.45, stroke=ink)]
        parts += [words("text", SAID[character], x=LEFT + 56, y=y)]
    parts.append(words("text", "finished relaxed wraps per inch", x=WIDTH / 2, y=HEIGHT - 14, text_anchor="middle"))
    parts.append(words("text", "yards per pound", x=14, y=22))
    said = "Bands: computed, from 2- to 3-ply. Points: the trade's yarns, with 30 % either way."
    parts.append(words("text", said, x=WIDTH - 24, y=HEIGHT - FOOT - 14, text_anchor="end"))
    size = {"viewBox": f"0 0 {WIDTH:.0f} {HEIGHT:.0f}", "width": WIDTH, "height": HEIGHT}
    body = group(parts, font_family="Atkinson Hyperlegible Next, sans-serif", font_size=15)
    return tag("svg", body, xmlns="http://www.w3.org/2000/svg", **size)


def _x(wpi: float) -> float:
    return float(LEFT + (WIDTH - LEFT - 24) * np.log(wpi / LOW[0]) / np.log(HIGH[0] / LOW[0]))


def _y(yards: float) -> float:
    return float(HEIGHT - FOOT - (HEIGHT - FOOT - 20) * np.log(yards / LOW[1]) / np.log(HIGH[1] / LOW[1]))


def _upright(wpi: float) -> str:
    line = tag("path", d=f"M{_x(wpi):.1f} 20V{HEIGHT - FOOT}", stroke="#d9d0bd")
    return line + words("text", f"{wpi:g}", x=_x(wpi), y=HEIGHT - FOOT + 20, text_anchor="middle")


def _level(yards: float) -> str:
    line = tag("path", d=f"M{LEFT} {_y(yards):.1f}H{WIDTH - 24}", stroke="#d9d0bd")
    return line + words("text", f"{yards:,.0f}", x=LEFT - 8, y=_y(yards) + 5, text_anchor="end")


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(picture() + "\n", encoding="utf-8")
