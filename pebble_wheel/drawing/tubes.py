"""Strands as shaded tubes along any path, with the nearer over the farther.

The outline of a tube seen from afar is exactly that of a line of its width along its projected centre, so each strand
is stroked. Its path is cut into short pieces, sorted into layers of depth and painted from the back.
"""

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.drawing.svg import group, mix, polyline, tag
from pebble_wheel.mechanics.arrays import FloatArray

LAYERS, NESTED_LAYERS = 17, 41
"""Of depth: for one ring of strands, and for strands within strands."""

PIECE = 3
"""Samples in a piece."""

_ROUND = (
    (1.0, 0.45, 0.0, 0.0),
    (0.9, 0.28, 0.0, 0.01),
    (0.76, 0.12, 0.0, 0.03),
    (0.58, 0.0, 0.0, 0.05),
    (0.36, 0.0, 0.12, 0.09),
    (0.15, 0.0, 0.26, 0.12),
)
"""Strokes that make a line look round: share of the width, darkening, lightening, lift towards the light."""


@dataclass(frozen=True)
class Tube:
    """One strand in pixels: its centre-line, its width along it, and the fibres on its surface."""

    x: FloatArray
    y: FloatArray
    """Down the page."""
    depth: FloatArray
    """Towards the eye."""
    width: FloatArray
    colour: str
    fibre_turn: FloatArray
    """Angle of a surface fibre about the centre-line, measured in the frame of the path, radians."""


def paint(tubes: list[Tube], name: str, fibres: int = 6, layers: int = LAYERS, hidden: float = 0.75) -> str:
    """Return the tubes as one group.

    Args:
        tubes: in any order.
        name: a prefix for ids, unique in the page.
        fibres: how many surface fibres to draw on each strand; 0 for none.
        layers: of depth, an odd number.
        hidden: what lies farther back than this share of the depth is left out, where nearer strands always cover it.
    """
    reach = max(float(np.max(np.abs(tube.depth))) for tube in tubes) or 1.0
    half = layers // 2
    painted: dict[int, list[str]] = defaultdict(list)
    for number, tube in enumerate(tubes):
        for (layer, width), (body, hairs) in _pieces(tube, reach, fibres, half).items():
            if layer >= -hidden * half:
                ident = f"{name}-{number}-{layer}-{width:.0f}"
                shade = 0.25 * (1 - layer / half)
                painted[layer].append(_strokes(ident, "".join(body), "".join(hairs), width, tube.colour, shade))
    return group((part for layer in sorted(painted) for part in painted[layer]), fill="none", stroke_linejoin="round")


def _pieces(tube: Tube, reach: float, fibres: int, half: int) -> dict[tuple[int, float], tuple[list[str], list[str]]]:
    pieces: dict[tuple[int, float], tuple[list[str], list[str]]] = defaultdict(lambda: ([], []))
    hairs = _hairs(tube, fibres)
    last = len(tube.x) - 1
    starts = np.arange(0, last, PIECE)
    middles = np.minimum(starts + PIECE // 2, last)
    layers = np.rint(tube.depth[middles] / reach * half).astype(int).tolist()
    widths = np.rint(tube.width[middles]).tolist()
    for start, layer, width in zip(starts.tolist(), layers, widths, strict=True):
        body, over = pieces[layer, width]
        span = slice(max(start - 1, 0), start + PIECE + 2)
        body.append(polyline(tube.x[span], tube.y[span]))
        if layer >= 0:
            own = slice(start, start + PIECE + 1)
            over += [polyline(x[own], y[own]) for x, y, seen in hairs if seen[own].all()]
    return pieces


def _hairs(tube: Tube, fibres: int) -> list[tuple[FloatArray, FloatArray, NDArray[np.bool_]]]:
    """Return the projected surface fibres and where they face the eye.

    A point of the surface lies at ``c + r (cos ψ N + sin ψ B)``, N towards the eye where the path runs across it.
    """
    along_x, along_y = np.gradient(tube.x), np.gradient(tube.y)
    length = np.hypot(along_x, along_y)
    across_x, across_y = -along_y / length, along_x / length
    lines = []
    for fibre in range(fibres):
        turn = tube.fibre_turn + 2 * np.pi * fibre / fibres
        off = 0.47 * tube.width * np.sin(turn)
        lines.append((tube.x + off * across_x, tube.y + off * across_y, np.cos(turn) > 0.1))
    return lines


def _strokes(ident: str, body: str, hairs: str, width: float, colour: str, shade: float) -> str:
    """Return one strand's pieces of one layer: opaque strokes of falling width, darker towards the back."""
    shade = round(shade, 3)
    parts = [tag("defs", tag("path", id=ident, d=body))]
    for share, dark, light, lift in _ROUND:
        tone = mix(mix(mix(colour, "#000000", dark), "#ffffff", light), "#0b1310", shade)
        lifted = {"transform": f"translate(0 {-lift * width:.1f})"} if lift else {}
        parts.append(tag("use", href=f"#{ident}", stroke=tone, stroke_width=share * width, **lifted))
    if hairs:
        parts.append(tag("path", d=hairs, stroke=mix(colour, "#000000", 0.6), stroke_width=0.8, stroke_opacity=0.4))
    return "".join(parts)
