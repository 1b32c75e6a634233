"""Yarns side by side: every reading of each in one line, and where they differ."""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from pebble_wheel.drawing.yarn import hanging_scale, hanging_svg
from pebble_wheel.web.shared.yarn import YarnView
from pebble_wheel.wording.advice import TEACHER
from pebble_wheel.wording.figures import Figure, loop_figure, rest_figures, size_figures, spinning_figures, yarn_figures
from pebble_wheel.wording.names import verdict_words

CLOSE = 0.02
"""Of each other: readings nearer than that are called the same."""


@dataclass(frozen=True)
class Column:
    """One yarn."""

    key: str
    """By which it is taken, opened or let go."""
    name: str
    drawing: Markup


@dataclass(frozen=True)
class Line:
    """One reading of every yarn, in their order; empty where a yarn has no such reading."""

    label: str
    values: tuple[str, ...]
    differs: tuple[bool, ...]
    """Whether each differs from the first by more than figures are good for."""


_NUMBER = re.compile(r"\d[\d,]*\.?\d*")


def _alike(value: str, other: str) -> bool:
    """Whether two readings say the same, their numbers within :data:`CLOSE` of each other."""
    if _NUMBER.sub("", value) != _NUMBER.sub("", other):
        return False
    pairs = zip(_NUMBER.findall(value), _NUMBER.findall(other), strict=True)
    return all(
        math.isclose(float(own.replace(",", "")), float(each.replace(",", "")), rel_tol=CLOSE) for own, each in pairs
    )


@dataclass(frozen=True)
class Compared:
    """Yarns side by side."""

    columns: tuple[Column, ...]
    lines: tuple[Line, ...]


@dataclass(frozen=True)
class Beside:
    """One yarn to be laid beside others."""

    key: str
    name: str
    seen: YarnView
    more: Mapping[str, str]
    """Figures beyond those of every yarn, by their labels."""


def side_by_side(yarns: Sequence[Beside]) -> Compared:
    """Return yarns side by side, drawn at one scale."""
    scale = hanging_scale(each.seen.reading.made for each in yarns)
    columns = [
        Column(
            each.key,
            each.name,
            Markup(hanging_svg(each.seen.reading.made, each.seen.dress, f"pin{place}", each.name, scale, fine=True)),
        )
        for place, each in enumerate(yarns)
    ]
    figures = [_figures(each) for each in yarns]
    labels = list(dict.fromkeys(label for each in figures for label in each))
    lines = [line_of(label, tuple(each.get(label, "–") for each in figures)) for label in labels]
    return Compared(tuple(columns), tuple(lines))


def line_of(label: str, values: tuple[str, ...]) -> Line:
    """Return one reading of several yarns, marked where it differs by what is said."""
    return Line(label, values, tuple(not _alike(value, values[0]) for value in values))


def _figures(yarn: Beside) -> dict[str, str]:
    """Return every reading of a yarn by its label."""
    seen = yarn.seen
    reading, display = seen.reading, seen.display
    whole = [*yarn_figures(reading, display), *size_figures(reading, display)]
    values = {"structure": seen.structure, **_said(whole)}
    values["how it rests"] = verdict_words(reading.balance.verdict, seen.design.yarn)
    values |= _said([loop_figure(reading, display), *rest_figures(reading, display)])
    single = next((row for row in seen.rows if row.level.path in reading.singles), None)
    if single:
        spun = _said(spinning_figures(single, reading, display))
        values |= {f"single: {label}": value for label, value in spun.items()}
    values |= yarn.more
    values[TEACHER] = "; ".join(each.text for each in seen.advice) or "nothing"
    return values


def _said(figures: list[Figure]) -> dict[str, str]:
    return {each.label.split(", usual")[0]: each.value for each in figures}
