"""Marks laid over a photo: a scale, the line of a yarn with its edges and bumps, the lean of its strands or fibres."""

import math

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.notation.marks import Marks, Point

HANDLE, TICK, LEAN = 0.011, 0.02, 0.05
"""Radius of a handle, ticks of the scale and length of the arrow that leans, in the picture's width."""


def marks_svg(marks: Marks, width: int, height: int, title: str, dragged: bool = True, name: str = "by-hand") -> str:
    """Return marks over a picture of so many pixels, with handles to drag them by.

    Args:
        marks: as far as they were set.
        width: of the picture [pixels].
        height: likewise.
        title: what is marked, in words.
        dragged: whether they have handles.
        name: class by which they are coloured.
    """
    parts: list[str] = []
    handles: list[str] = []
    if marks.scale:
        parts.append(_scale(*marks.scale, TICK * width))
        handles += [_handle(at, width, f"{point}x", f"{point}y") for point, at in zip("ab", marks.scale, strict=True)]
    if marks.line:
        p, q = marks.line
        parts.append(tag("path", d=f"M{_at(p)}L{_at(q)}", class_="mark-axis"))
        along, across = _frame(p, q)
        handles += [_handle(at, width, f"{point}x", f"{point}y") for point, at in zip("pq", marks.line, strict=True)]
        long = math.dist(p, q)
        edges = marks.edges or (-TICK * width, TICK * width)
        if marks.edges:
            for edge in edges:
                parts.append(
                    tag("path", d=f"M{_at(_moved(p, across, edge))}L{_at(_moved(q, across, edge))}", class_="mark-edge")
                )
            middle = _moved(p, along, 0.9 * long)
            handles += [
                _handle(_moved(middle, across, edge), width, across_=field)
                for field, edge in zip(("up", "down"), edges, strict=True)
            ]
        if marks.comb:
            first, last = marks.comb
            teeth = [first + (last - first) * each / marks.bumps for each in range(marks.bumps + 1)]
            reach = 1.35 * max(abs(each) for each in edges)
            parts.append(
                tag("path", d="".join(_tooth(p, along, across, at, reach) for at in teeth), class_="mark-comb")
            )
            handles += [
                _handle(_moved(_moved(p, along, at), across, reach), width, along_=field)
                for field, at in zip(("from", "to"), marks.comb, strict=True)
            ]
        if marks.way:
            parts.append(_arrow(_moved(p, along, 0.5 * long), along, across, edges, marks.way))
    if marks.fibre:
        parts.append(tag("path", d=f"M{_at(marks.fibre[0])}L{_at(marks.fibre[1])}", class_="mark-fibre"))
        handles += [_handle(at, width, f"{point}x", f"{point}y") for point, at in zip("lm", marks.fibre, strict=True)]
    return tag(
        "svg",
        words("title", title) + group(parts) + (group(handles) if dragged else ""),
        viewBox=f"0 0 {width} {height}",
        role="img",
        class_=f"marks {name}",
    )


def _at(point: Point) -> str:
    return f"{point[0]:.1f} {point[1]:.1f}"


def _frame(p: Point, q: Point) -> tuple[Point, Point]:
    long = math.dist(p, q)
    along = ((q[0] - p[0]) / long, (q[1] - p[1]) / long)
    return along, (-along[1], along[0])


def _moved(point: Point, way: Point, far: float) -> Point:
    return point[0] + way[0] * far, point[1] + way[1] * far


def _tooth(p: Point, along: Point, across: Point, at: float, reach: float) -> str:
    middle = _moved(p, along, at)
    return f"M{_at(_moved(middle, across, -reach))}L{_at(_moved(middle, across, reach))}"


def _scale(a: Point, b: Point, tick: float) -> str:
    _, across = _frame(a, b)
    ends = "".join(f"M{_at(_moved(each, across, -tick))}L{_at(_moved(each, across, tick))}" for each in (a, b))
    return tag("path", d=f"M{_at(a)}L{_at(b)}{ends}", class_="mark-scale")


def _arrow(middle: Point, along: Point, across: Point, edges: tuple[float, float], way: str) -> str:
    """Return a stroke that leans as strands do: Z goes down to the right, S up."""
    low, high = (edges[0], edges[1]) if way == "Z" else (edges[1], edges[0])
    half = 0.8 * (edges[1] - edges[0])
    begin, end = (_moved(_moved(middle, along, side * half), across, at) for side, at in ((-1, low), (1, high)))
    return tag("path", d=f"M{_at(begin)}L{_at(end)}", class_=f"mark-way {way.lower()}")


def _handle(at: Point, width: int, x: str = "", y: str = "", along_: str = "", across_: str = "") -> str:
    own = {"data_x": x, "data_y": y} if x else {"data_along": along_} if along_ else {"data_across": across_}
    return tag("circle", cx=at[0], cy=at[1], r=HANDLE * width, tabindex="0", class_="mark-handle", **own)
