"""The yarn cut square across: every strand where it lies, as plied and as it comes out finished.

A strand that runs at the angle β to the axis is cut as an ellipse, ``1/cos β`` as long round the axis as it is thick.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.svg import group, mix, tag, words
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import Made, MadeNest, NestState, State
from pebble_wheel.mechanics.strand.structure import coiled, wrap_of

WIDTH, HEIGHT = 1280.0, 240.0
WIDEST = 212.0
"""Pixels that the thickest may take."""

LONGEST = 2.5
"""A strand so much longer than thick bends round the axis to be seen: it is drawn as an arc."""


@dataclass(frozen=True)
class CutAt:
    """The yarn at one time."""

    label: str
    growth: float
    """Of every strand's thickness over that as plied."""
    size: str


def cut_svg(made: Made, dress: Dress, sizes: list[CutAt], title: str, held: str = "") -> str:
    """Return the cut at each size, side by side and to one scale."""
    most = max(size.growth for size in sizes)
    scale = WIDEST / (2 * _outermost(made.state) * most)
    parts = [words("title", title)]
    for number, size in enumerate(sizes):
        x = WIDTH * (number + 0.5) / len(sizes) - 60
        place = np.array([[scale, 0.0, x], [0.0, scale, HEIGHT / 2]])
        held_here = held if held != "yarn" else ""
        parts += _cut(made, made.state, dress, place, size.growth, held_here)
        hull = float(made.state.diameter) / 2 * size.growth * scale
        parts.append(tag("circle", cx=x, cy=HEIGHT / 2, r=hull, class_="cut-width"))
        parts.append(tag("path", d=f"M{x - 5} {HEIGHT / 2}h10M{x} {HEIGHT / 2 - 5}v10", class_="cut-axis"))
        beside = x + _outermost(made.state) * most * scale + 18
        parts.append(words("text", size.label, x=beside, y=HEIGHT / 2 - 4, class_="cut-label"))
        parts.append(words("text", size.size, x=beside, y=HEIGHT / 2 + 20, class_="cut-size"))
    return tag("svg", "".join(parts), viewBox=f"0 0 {WIDTH:.0f} {HEIGHT:.0f}", role="img", class_="yarn cut")


def _outermost(state: State) -> float:
    """Return how far from the axis anything reaches [mm]."""
    if not isinstance(state, NestState):
        return float(state.diameter) / 2
    reach = max(kinds.away(state, place) + float(each.state.diameter) / 2 for place, each in enumerate(state.seats))
    return max(reach, float(state.diameter) / 2)


def _cut(made: Made, now: State, dress: Dress, place: FloatArray, growth: float, held: str) -> Iterator[str]:
    """Yield the strands of a part, laid on the page by an affine placing [[a, c, x], [b, d, y]]."""
    own = bool(held) and dress.part.lies_in(held)
    if not isinstance(made, MadeNest) or not isinstance(now, NestState):
        yield _disc(float(now.diameter) / 2 * growth, dress, place, own)
        return
    if wrap_of(made.node):
        yield _disc(float(now.diameter) / 2 * growth, dress, place, own)
    around = made.layout.azimuths(np.array([float(each.state.diameter) / 2 for each in now.seats]))
    drawn: Counter[int] = Counter()
    for number, each in enumerate(now.seats):
        angle = float(now.angle if coiled(made.node) and number == len(now.seats) - 1 else each.angle)
        for direction in around[number]:
            worn = dress.members[each.member]
            strand = worn[drawn[each.member] % len(worn)]
            drawn[each.member] += 1
            c, s = np.cos(float(direction) - np.pi / 2), np.sin(float(direction) - np.pi / 2)
            stretch, away = 1 / np.cos(angle), kinds.away(now, number)
            if stretch > LONGEST and away > 0:
                turned = place @ np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
                yield _arc(float(each.state.diameter) / 2 * growth, away, stretch, strand, turned, held)
                continue
            local = np.array([[c, -s * stretch, away * c], [s, c * stretch, away * s], [0.0, 0.0, 1.0]])
            yield from _cut(made.members[each.member], each.state, strand, place @ local, growth, held)


def _arc(radius: float, away: float, stretch: float, dress: Dress, place: FloatArray, held: str) -> str:
    """Return a steeply winding strand: an arc as long as its cut, round the axis at its distance from it."""
    half = min(radius * stretch / away, 0.97 * np.pi)
    ends = [place @ np.array([away * np.cos(turn), away * np.sin(turn), 1.0]) for turn in (-half, half)]
    scale = float(np.sqrt(abs(np.linalg.det(place[:, :2]))))
    far = int(half > np.pi / 2)
    (x0, y0), (x1, y1) = ends
    path = f"M{x0:.1f} {y0:.1f}A{away * scale:.1f} {away * scale:.1f} 0 {far} 1 {x1:.1f} {y1:.1f}"
    width, colour = 2 * radius * scale, next(dress.shown())
    strokes = [(width, mix(colour, "#000000", 0.5), ""), (width - 4, colour, "")]
    if held and dress.part.lies_in(held):
        strokes.insert(0, (width + 7, "", "held"))
    lines = (tag("path", d=path, stroke=c or "none", stroke_width=w, class_=k or "cut-arc") for w, c, k in strokes)
    return group(lines, data_part=dress.part, fill="none")


def _disc(radius: float, dress: Dress, place: FloatArray, held: bool) -> str:
    (a, c, x), (b, d, y) = place
    scale = float(np.sqrt(abs(a * d - b * c)))
    colour = dress.colours[0]
    matrix = f"matrix({a / scale:.4f} {b / scale:.4f} {c / scale:.4f} {d / scale:.4f} {x:.2f} {y:.2f})"
    r = radius * scale
    parts = [tag("circle", r=r, transform=matrix, fill=colour, stroke=mix(colour, "#000000", 0.5), stroke_width=2)]
    if held:
        parts.insert(0, tag("circle", r=r + 3.5, transform=matrix, class_="held-disc"))
    return group(parts, data_part=dress.part)
