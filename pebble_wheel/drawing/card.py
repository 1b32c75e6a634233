"""The wheel card: what hangs at the wheel while a yarn is made, true to scale, as shapes in mm on one page.

The same shapes are written as SVG and, at the edge, as PDF.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.drawing.svg import tag, words
from pebble_wheel.mechanics.photo.scale import SQUARE
from pebble_wheel.mechanics.reading.draws import Band

Paper = Literal["A5", "half letter"]
PAPERS: dict[Paper, tuple[float, float]] = {"A5": (148.0, 210.0), "half letter": (139.7, 215.9)}
"""mm wide and high."""

MARGIN = 8.0
CHECK = {"metric": 50.0, "inches": 50.8}
"""The bar by which a print is checked, mm: 50 mm or 2 in."""

INK, SOFT, PALE = "#111111", "#555555", "#cccccc"
Z_INK, S_INK = "#1f4f94", "#a02d1c"
POINT = 25.4 / 72


@dataclass(frozen=True)
class Line:
    """A line through points, mm from the upper left corner."""

    points: tuple[tuple[float, float], ...]
    width: float = 0.25
    ink: str = INK
    closed: bool = False
    fill: str = ""


@dataclass(frozen=True)
class Text:
    """A line of words; x and y are where it begins, or its middle."""

    x: float
    y: float
    words: str
    size: float = 3.2
    """mm."""
    bold: bool = False
    ink: str = INK
    middle: bool = False


Shape = Line | Text


@dataclass(frozen=True)
class Gauge:
    """A bar as thick as a strand, with its band."""

    label: str
    diameter: Band
    """mm."""


@dataclass(frozen=True)
class Angle:
    """A lean, drawn from the axis."""

    label: str
    radians: float
    """Signed, Z above zero."""


@dataclass(frozen=True)
class Fold:
    """A ply-back at life size: so thick, and with so many turns."""

    label: str
    strand: float
    """mm across."""
    turns_per_m: float
    """Of the fold, signed."""


@dataclass(frozen=True)
class Step:
    """One step of making: which way the wheel turns, and how many treadles."""

    what: str
    direction: Literal["Z", "S"]
    wheel: str
    """Which way it turns, in words."""
    treadles: tuple[str, ...]
    """For each whorl owned."""


@dataclass(frozen=True)
class Card:
    """All that a card says."""

    name: str
    date: str
    structure: str
    gauges: tuple[Gauge, ...]
    angle: Angle | None
    fold: Fold | None
    steps: tuple[Step, ...]
    check: tuple[str, float]
    """The bar to check the print by: its words and its length [mm]."""
    said: dict[str, str]
    """Headings, by what they stand over."""
    paper: Paper = "A5"
    label: tuple[str, ...] = ()
    """What hangs on the skein, to be cut out."""


def card_shapes(card: Card) -> list[Shape]:
    """Return everything on the page."""
    wide, _ = PAPERS[card.paper]
    shapes: list[Shape] = [
        Text(MARGIN, 13, card.name, 6, bold=True),
        Text(MARGIN, 18.5, f"{card.structure} · {card.date}", 3.4, ink=SOFT),
    ]
    y = 26.0
    shapes.append(Text(MARGIN, y, card.said["gauge"], 3.6, bold=True))
    for each in card.gauges:
        y += max(each.diameter.p90, 4.0) + 4
        shapes += _gauge(each, y)
    y += 8
    shapes += _angle_and_fold(card, y)
    y += 40
    shapes.append(Text(MARGIN, y, card.said["steps"], 3.6, bold=True))
    for step in card.steps:
        y += 7
        shapes += _step(step, y)
        y += 5.2 * len(step.treadles)
    return [*shapes, *_foot(card, wide)]


def _gauge(gauge: Gauge, y: float) -> Iterator[Shape]:
    """Yield a bar as thick as a strand, between lines at its band."""
    low, middle, high = gauge.diameter.p10, gauge.diameter.p50, gauge.diameter.p90
    x, long = MARGIN + 68, 54.0
    yield Text(MARGIN, y + 1, gauge.label, 3.4)
    yield bar(x, y - middle / 2, long, middle, INK)
    for edge in (low, high):
        for side in (-1, 1):
            at = y + side * edge / 2
            yield Line(((x - 6, at), (x - 1, at)), 0.12)
            yield Line(((x + long + 1, at), (x + long + 6, at)), 0.12)


def bar(x: float, y: float, wide: float, high: float, fill: str) -> Line:
    """Return a filled bar."""
    corners = ((x, y), (x + wide, y), (x + wide, y + high), (x, y + high))
    return Line(corners, 0.0, fill, closed=True, fill=fill)


def _angle_and_fold(card: Card, y: float) -> Iterator[Shape]:
    if card.angle:
        yield Text(MARGIN, y, card.said["angle"], 3.6, bold=True)
        centre, reach = (MARGIN + 2.0, y + (22.0 if card.angle.radians < 0 else 9.0)), 40.0
        lean = card.angle.radians
        yield Line(((centre[0], centre[1]), (centre[0] + reach, centre[1])), 0.3, SOFT)
        end = (centre[0] + reach * math.cos(lean), centre[1] + reach * math.sin(lean))
        yield Line((centre, end), 0.5)
        arc = tuple(
            (centre[0] + 14 * math.cos(a), centre[1] + 14 * math.sin(a)) for a in np.linspace(0, lean, 24).tolist()
        )
        yield Line(arc, 0.3)
        yield Text(MARGIN, y + 30 if lean < 0 else y + 5, card.angle.label, 4.2, bold=True)
    if card.fold:
        x = MARGIN + 68
        yield Text(x, y, card.said["fold"], 3.6, bold=True)
        yield from _fold(card.fold, x, y + 14)
        yield Text(x, y + 30, card.fold.label, 3.2, ink=SOFT)


def _fold(fold: Fold, x: float, y: float) -> Iterator[Shape]:
    """Yield two strands winding round each other over 50 mm, at life size."""
    down = np.linspace(0, 50.0, 500)
    phase = 2 * math.pi * fold.turns_per_m * down / 1000
    for behind, side, ink in ((True, 1, INK), (True, -1, SOFT), (False, 1, INK), (False, -1, SOFT)):
        swing = side * fold.strand / 2 * np.cos(phase)
        front = (side * np.sin(phase) > 0) != behind
        points = list(zip((x + down).tolist(), (y + swing).tolist(), strict=True))
        run: list[tuple[float, float]] = []
        for point, seen in zip(points, front.tolist(), strict=True):
            if seen:
                run.append(point)
            elif run:
                yield Line(tuple(run), fold.strand * 0.85, ink)
                run = []
        if run:
            yield Line(tuple(run), fold.strand * 0.85, ink)


def _step(step: Step, y: float) -> Iterator[Shape]:
    ink = Z_INK if step.direction == "Z" else S_INK
    x, lean = MARGIN + 2.0, 1 if step.direction == "Z" else -1
    for place in range(3):
        middle = x + 1.6 * place
        yield Line(((middle - lean * 1.1, y), (middle + lean * 1.1, y - 3.6)), 0.6, ink)
    yield Text(MARGIN + 10, y, f"{step.what}: {step.direction}", 4.2, bold=True, ink=ink)
    yield Text(MARGIN + 84, y, step.wheel, 3.6)
    for place, each in enumerate(step.treadles, 1):
        yield Text(MARGIN + 10, y + 5.2 * place, each, 4.2)


def _foot(card: Card, wide: float) -> Iterator[Shape]:
    """Yield the strips to lay yarn on, the place to tie the sample, and the bar to check the print by."""
    high = PAPERS[card.paper][1]
    top = high - 52
    if card.label:
        yield from _label(card.label, wide, top - 8)
    yield Text(MARGIN, top, card.said["strips"], 3.4, ink=SOFT)
    yield bar(MARGIN, top + 2, wide - 2 * MARGIN, 9, "#1b1b1b")
    yield outline(MARGIN, top + 12, wide - 2 * MARGIN, 9)
    yield Text(MARGIN, top + 27, card.said["tie"], 3.4, ink=SOFT)
    for x in (MARGIN + 52, MARGIN + 62, wide - MARGIN - 8):
        yield ring(x, top + 26, 2.2)
    label, length = card.check
    yield Line(((MARGIN, high - 12), (MARGIN + length, high - 12)), 0.4)
    for x in (MARGIN, MARGIN + length):
        yield Line(((x, high - 14.5), (x, high - 9.5)), 0.4)
    yield Text(MARGIN + length + 4, high - 11, label, 3.2)
    yield bar(wide - MARGIN - SQUARE, high - 11 - SQUARE, SQUARE, SQUARE, "#1b1b1b")  # for photos


def _label(label: tuple[str, ...], wide: float, bottom: float) -> Iterator[Shape]:
    """Yield the label of the skein, with a hole to hang it by."""
    long, high = 62.0, 6.0 + 5.2 * len(label)
    x, y = wide - MARGIN - long, bottom - high
    yield outline(x, y, long, high)
    yield ring(x + 5, y + high / 2, 1.8)
    for place, each in enumerate(label):
        yield Text(x + 10, y + 6.2 + 5.2 * place, each, 4.0 if place == 0 else 3.4, bold=place == 0)


def outline(x: float, y: float, wide: float, high: float) -> Line:
    """Return a thin frame."""
    return Line(((x, y), (x + wide, y), (x + wide, y + high), (x, y + high)), 0.2, SOFT, closed=True)


def ring(x: float, y: float, radius: float) -> Line:
    """Return a hole to be punched."""
    around = np.linspace(0, 2 * math.pi, 33)[:-1].tolist()
    return Line(tuple((x + radius * math.cos(a), y + radius * math.sin(a)) for a in around), 0.25, SOFT, closed=True)


def card_svg(card: Card) -> str:
    """Return the card as a drawing of its own, as large in print as it says."""
    wide, high = PAPERS[card.paper]
    return tag(
        "svg",
        words("title", card.name) + "".join(_svg(each) for each in card_shapes(card)),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {wide:g} {high:g}",
        width=f"{wide:g}mm",
        height=f"{high:g}mm",
        font_family="Helvetica, Arial, sans-serif",
    )


def _svg(shape: Shape) -> str:
    match shape:
        case Text():
            told: dict[str, str | float] = {"x": shape.x, "y": shape.y, "font_size": shape.size, "fill": shape.ink}
            if shape.bold:
                told["font_weight"] = "bold"
            if shape.middle:
                told["text_anchor"] = "middle"
            return words("text", shape.words, **told)
        case Line():
            path = "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in shape.points) + ("Z" if shape.closed else "")
            stroke = {"stroke": shape.ink, "stroke_width": f"{shape.width:g}"} if shape.width else {}
            return tag("path", d=path, fill=shape.fill or "none", **stroke)
