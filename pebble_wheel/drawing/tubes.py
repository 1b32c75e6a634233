"""Strands as shaded tubes along any path, with the nearer over the farther.

The outline of a tube seen from afar is exactly that of a line of its width along its projected centre, so each strand
is stroked. Its path is cut into short pieces, sorted into layers of depth and painted from the back.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from itertools import groupby
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.drawing.svg import group, mix
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand.state import State

LAYERS, NESTED_LAYERS, CROWDED_LAYERS, HANGING_LAYERS = 25, 81, 11, 21
"""Of depth: for one ring of strands, for strands within strands, for so many that each is thin, for many yarns."""

OUTLINE = 3.5
"""Pixels round the strand in hand."""

PIECE = 3
"""Samples in a piece."""

WOUND = 2
"""Times as many fibres are drawn on a wrap."""

FINE = 10
"""Steps to a pixel: coordinates are whole numbers of them."""

FAR_SHADE = 0.24
"""How much darker what lies farthest is; all that faces the eye has one tone, so that nothing bands it."""

THIN = 15.0
"""Pixels: on thinner strands neither fibres nor fine shading can be seen."""

LONG = 150
"""Characters of a line from which on it is worth writing once."""

_ROUND_THIN = ((1.0, 0.4, 0.0), (0.72, 0.08, 0.0), (0.3, 0.0, 0.16))

_ROUND = (
    (1.0, 0.45, 0.0),
    (0.9, 0.28, 0.0),
    (0.76, 0.12, 0.0),
    (0.58, 0.0, 0.0),
    (0.36, 0.0, 0.1),
    (0.15, 0.0, 0.2),
)
"""Strokes that make a line look round: share of the width, darkening, lightening. They lie middle upon middle, so that
no end of a piece shows across the strand."""


@dataclass(frozen=True)
class Tube:
    """One strand in pixels: its centre-line, its width along it, and the fibres on its surface."""

    x: FloatArray
    y: FloatArray
    """Down the page."""
    depth: FloatArray
    """Towards the eye."""
    width: FloatArray
    colours: tuple[str, ...]
    fibre_turn: FloatArray
    """Angle of a surface fibre about the centre-line, measured in the frame of the path, radians."""
    tint: NDArray[np.int_] | None = None
    """Which of the colours it has along it; None for the first throughout."""
    part: str = ""
    """Path of the strand in the design, so that it can be picked in the picture."""
    held: bool = False
    """Whether it is outlined as the one in hand."""
    wound: bool = False
    """Whether it is a wrap of fibre, whose winding shows more than that of a single."""
    lean: FloatArray | None = None
    """Surface fibre angle along it, radians, signed."""
    shade: FloatArray | None = None
    """Which colours it has along it, between two of them where one runs into the next; None for the first alone."""
    now: State | None = None
    """What it is, as it lies in the yarn; with members where it is a wrap, or drawn as one."""

    def until(self, count: int | None) -> "Tube":
        """Return so many samples of it from the left; all of it for None."""
        if count is None:
            return self
        arrays = {each.name: getattr(self, each.name) for each in fields(self)}
        cut: dict[str, Any] = {name: value[:count] for name, value in arrays.items() if isinstance(value, np.ndarray)}
        return replace(self, **cut)


def paint(
    tubes: list[Tube],
    name: str,
    fibres: int = 6,
    layers: int = LAYERS,
    hidden: float = 1.0,
    fine_from: float = THIN,
) -> str:
    """Return the tubes as one group.

    Args:
        tubes: in any order.
        name: a prefix for ids, unique in the page.
        fibres: how many surface fibres to draw on each strand; 0 for none.
        layers: of depth, an odd number.
        hidden: what lies farther back than this share of the depth is left out, where nearer strands always cover it.
        fine_from: width in pixels from which on a strand is shaded finely.
    """
    reach = max(float(np.max(np.abs(_lifted(tube)))) for tube in tubes) or 1.0
    half = layers // 2
    painted: dict[int, list[str]] = defaultdict(list)
    for number, tube in enumerate(tubes):
        own: dict[int, list[str]] = defaultdict(list)
        for (layer, width, tint), (body, hairs) in _pieces(tube, reach, fibres, half, -hidden * half).items():
            ident = f"{name}-{number}-{layer}-{width:.0f}-{tint}"
            shade = FAR_SHADE * max(0.0, -layer / half)
            outlined = tube.held and layer >= 0
            rounding = _ROUND if width >= fine_from else _ROUND_THIN
            strokes = _strokes(
                ident, "".join(body), "".join(hairs), width, tube.colours[tint], shade, outlined, rounding
            )
            own[layer].append(strokes)
        for layer, strokes_here in own.items():
            painted[layer].append(group(strokes_here, data_part=tube.part) if tube.part else "".join(strokes_here))
    layered = (part for layer in sorted(painted) for part in painted[layer])
    return group(layered, fill="none", stroke_linejoin="round", transform=f"scale({1 / FINE})")


def _lifted(tube: Tube) -> FloatArray:
    """Return its depth; a wrap lies over all that it covers."""
    return tube.depth + tube.width if tube.wound else tube.depth


Pieces = dict[tuple[int, float, int], tuple[list[str], list[str]]]
"""Paths of the body and of the fibres by layer, width and tint."""


def _pieces(tube: Tube, reach: float, fibres: int, half: int, lowest: float) -> Pieces:
    pieces: Pieces = defaultdict(lambda: ([], []))
    line = _Line(tube.x, tube.y)
    fibres *= WOUND if tube.wound else 1
    hairs = _hairs(tube, fibres if float(np.max(tube.width)) >= THIN else 0)
    middles = np.minimum(np.arange(0, len(tube.x) - 1, PIECE) + PIECE // 2, len(tube.x) - 1)
    tint = np.zeros(len(middles), int) if tube.tint is None else tube.tint[middles]
    like = np.stack([np.rint(_lifted(tube)[middles] / reach * half), np.rint(tube.width[middles]), tint])
    begins = np.flatnonzero(np.any(np.diff(like, axis=1, prepend=np.nan), axis=0))
    ends = np.append(begins[1:], len(middles))
    runs = zip(*like[:, begins].astype(int).tolist(), (PIECE * begins).tolist(), (PIECE * ends).tolist(), strict=True)
    for layer, width, colour, start, end in runs:
        if layer >= lowest:
            body, over = pieces[layer, width, colour]
            body.append(line.between(max(start - 1, 0), end + 1))
            if layer >= 0:
                over += [hair.between(*span) for hair, seen in hairs for span in _spans(seen, start, end)]
    return pieces


def _spans(seen: list[bool], start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield from where to where all of a line is seen, between two points."""
    place = start
    for shown, alike in groupby(seen[start : end + 1]):
        count = sum(1 for _ in alike)
        if shown and count > 1:
            yield place, place + count - 1
        place += count


class _Line:
    """A line through points, written once, of which pieces are taken as path data in tenths of a pixel."""

    def __init__(self, x: FloatArray, y: FloatArray) -> None:
        fine = np.rint(np.stack([x, y]) * FINE).astype(int)
        self._points = fine.T.ravel().tolist()
        self._steps = np.diff(fine).T.ravel().tolist()

    def between(self, first: int, last: int) -> str:
        """Return the path from one point to another, or to the end."""
        x, y = self._points[2 * first : 2 * first + 2]
        steps = self._steps[2 * first : 2 * last]
        return f"M{x} {y}l" + ("%d %d " * (len(steps) // 2) % tuple(steps))[:-1]


def _hairs(tube: Tube, fibres: int) -> list[tuple[_Line, list[bool]]]:
    """Return the projected surface fibres and where they face the eye.

    A point of the surface lies at ``c + r (cos ψ N + sin ψ B)``, N towards the eye where the path runs across it.
    """
    if fibres == 0:
        return []
    along_x, along_y = np.gradient(tube.x), np.gradient(tube.y)
    length = np.hypot(along_x, along_y)
    across_x, across_y = -along_y / length, along_x / length
    lines = []
    for fibre in range(fibres):
        turn = tube.fibre_turn + 2 * np.pi * fibre / fibres
        off = 0.47 * tube.width * np.sin(turn)
        lines.append((_Line(tube.x + off * across_x, tube.y + off * across_y), (np.cos(turn) > 0.1).tolist()))
    return lines


Rounding = tuple[tuple[float, float, float], ...]


def _strokes(
    ident: str, body: str, hairs: str, width: float, colour: str, shade: float, held: bool, rounding: Rounding
) -> str:
    """Return one strand's pieces of one layer: opaque strokes of falling width, darker towards the back.

    Written out by hand: a picture has thousands of these, all of numbers and checked colours. A long line is written
    once and used again; a browser is quicker with a short one written each time.
    """
    shade = round(shade, 3)
    again = len(body) > LONG
    parts = [f'<defs><path id="{ident}" d="{body}"/></defs>'] if again else []
    line = f'<use href="#{ident}"' if again else f'<path d="{body}"'
    if held:
        parts.append(f'{line} stroke-width="{FINE * (width + 2 * OUTLINE):.0f}" class="held"/>')
    for share, dark, light in rounding:
        tone = mix(mix(mix(colour, "#000000", dark), "#ffffff", light), "#0b1310", shade)
        parts.append(f'{line} stroke="{tone}" stroke-width="{FINE * share * width:.0f}"/>')
    if hairs:
        tone = mix(colour, "#000000", 0.6)
        parts.append(f'<path d="{hairs}" stroke="{tone}" stroke-width="{0.8 * FINE:.0f}" stroke-opacity=".4"/>')
    return "".join(parts)
