"""Twist level by level: the surface of every strand slit open and laid flat, as made, now, and at balance.

Unrolled from the cylinder on which it lies, a helix is a straight line that leans by its angle: the girth over the
length of a turn. Each level has a scale of its own, its three rows have the same.
"""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.mechanics.reading.reading import Level
from pebble_wheel.mechanics.strand.state import NestState, State
from pebble_wheel.mechanics.strand.structure import wrap_of
from pebble_wheel.wording.display import Display

WIDTH, HEIGHT, TOP, ROW, GAP = 1280.0, 240.0, 30.0, 54.0, 14.0
LINES_OF_FIBRE = 6
STRAIGHT = 0.5
"""turns/m: what turns less is drawn straight."""
MOST_LEVELS = 6


@dataclass(frozen=True)
class Flat:
    """A level to lay flat, with its name and its path in the design."""

    level: Level
    name: str
    part: str


def unrolled_svg(levels: list[Flat], display: Display, title: str, held: str = "") -> str:
    """Return the levels side by side, the yarn first."""
    shown = levels[:MOST_LEVELS]
    width = min((WIDTH - 20) / len(shown), 420.0)
    parts = [words("title", title)]
    for number, flat in enumerate(shown):
        parts.append(_level(flat, 10 + number * width, width - 16, display, flat.part == held))
    return tag("svg", "".join(parts), viewBox=f"0 0 {WIDTH:.0f} {HEIGHT:.0f}", role="img", class_="yarn unrolled")


def _level(flat: Flat, x: float, width: float, display: Display, held: bool) -> str:
    level = flat.level
    rows: list[tuple[str, State | None]] = [("as made", level.made), ("now", level.now), ("at rest", level.at_balance)]
    scale = (ROW - 18) / max(_girth(state) for _, state in rows if state is not None)
    parts = [words("text", flat.name, x=x, y=20, class_="flat-name" + (" held-name" if held else ""))]
    for number, (label, state) in enumerate(rows):
        y = TOP + number * (ROW + GAP)
        text = "no rest" if state is None else f"{label} {_turns(state, display)}"
        parts.append(words("text", text, x=x, y=y + 12, class_="flat-label"))
        if state is not None:
            parts.append(_sheet(state, scale, x, y + 17, width))
    return group(parts, data_part=flat.part)


def _turns(state: State, display: Display) -> str:
    twist = float(state.twist_now)
    return f"{display.twist(twist)} {'Z' if twist > 0 else 'S'}" if abs(twist) > STRAIGHT else "no twist"


def _girth(state: State) -> float:
    """Return the girth of the cylinder on which the strands or the surface fibres lie [mm]."""
    twist = abs(float(state.twist_now))
    return 1000 / twist * abs(float(np.tan(state.angle))) if twist > STRAIGHT else np.pi * float(state.diameter)


def _sheet(state: State, scale: float, x: float, y: float, width: float) -> str:
    """Return one unrolled surface: its height is the girth, its lines lean as the strands or fibres do."""
    girth = _girth(state) * scale
    twist = float(state.twist_now)
    lines = _strands(state)
    sheet = tag("rect", x=x, y=y, width=width, height=girth, class_="flat-sheet")
    if abs(twist) <= STRAIGHT:
        data = "".join(f"M{x:.1f} {y + girth * (each + 0.5) / lines:.1f}h{width:.1f}" for each in range(lines))
        return group([sheet, tag("path", d=data, class_="flat-line")])
    turn = 1000 / abs(twist) * scale
    starts = np.arange(-turn, width, turn / lines)
    # Z descends to the right, as in the drawing of the yarn.
    before, after = (y, y + girth) if twist > 0 else (y + girth, y)
    data = "".join(_clipped(x, x + width, x + start, before, x + start + turn, after) for start in starts.tolist())
    return group([sheet, tag("path", d=data, class_=f"flat-line flat-{'z' if twist > 0 else 's'}")])


def _strands(state: State) -> int:
    if isinstance(state, NestState) and not wrap_of(state.node):
        ring = state.seats[-1]
        return max(sum(each.count for each in state.seats if float(each.radius) > 0), ring.count)
    return LINES_OF_FIBRE


def _clipped(low: float, high: float, x0: float, y0: float, x1: float, y1: float) -> str:
    """Return a stroke between two points, kept between two uprights."""
    if x1 <= low or x0 >= high:
        return ""
    lean = (y1 - y0) / (x1 - x0)
    left, right = max(x0, low), min(x1, high)
    return f"M{left:.1f} {y0 + lean * (left - x0):.1f}L{right:.1f} {y0 + lean * (right - x0):.1f}"
