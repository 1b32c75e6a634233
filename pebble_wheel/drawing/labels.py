"""Labels for skeins: sheets to be cut up, each label with a hole to hang it by and the yarn as thick as in life."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from pebble_wheel.drawing.card import INK, SOFT, Shape, Text, bar, outline, ring

Sheet = Literal["A4", "letter"]
SHEETS: dict[Sheet, tuple[float, float]] = {"A4": (210.0, 297.0), "letter": (215.9, 279.4)}
"""mm wide and high."""

WIDE, HIGH, ACROSS, DOWN = 92.0, 50.0, 2, 5
"""mm of a label, and labels on a sheet."""

BAR = 50.0
"""mm: length of the bar that is as thick as the yarn."""


@dataclass(frozen=True)
class Label:
    """What hangs on a skein."""

    name: str
    lines: tuple[str, ...]
    thick: float
    """mm of the finished yarn; 0 where that is not known."""
    life: str
    """What is said beside the bar."""


def label_sheets(labels: Sequence[Label], sheet: Sheet) -> list[list[Shape]]:
    """Return sheets of labels, as many as it takes."""
    wide, high = SHEETS[sheet]
    left, top = (wide - ACROSS * WIDE) / 2, (high - DOWN * HIGH) / 2
    many = ACROSS * DOWN
    sheets: list[list[Shape]] = []
    for first in range(0, len(labels), many):
        shapes: list[Shape] = []
        for place, label in enumerate(labels[first : first + many]):
            down, across = divmod(place, ACROSS)
            shapes += _label(label, left + across * WIDE, top + down * HIGH)
        sheets.append(shapes)
    return sheets


def _label(label: Label, x: float, y: float) -> Iterator[Shape]:
    yield outline(x, y, WIDE, HIGH)
    yield ring(x + 6, y + HIGH / 2, 2.0)
    yield Text(x + 12, y + 9, label.name, 5.0, bold=True)
    for place, each in enumerate(label.lines):
        yield Text(x + 12, y + 15.5 + 5.0 * place, each, 3.5)
    if label.thick:
        yield bar(x + 12, y + HIGH - 6 - label.thick / 2, BAR, label.thick, INK)
        yield Text(x + 12 + BAR + 2, y + HIGH - 5, label.life, 2.8, ink=SOFT)
