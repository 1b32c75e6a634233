"""What is marked in a photo, as typed or dragged: a scale, a line along the yarn, its edges, bumps, a fibre."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, cast, get_args

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length

Way = Literal["S", "Z"]
Point = tuple[float, float]

POINTS: dict[str, str] = {
    "a": "scale, one end",
    "b": "scale, other end",
    "p": "yarn, left",
    "q": "yarn, right",
    "l": "fibre, one end",
    "m": "fibre, other end",
}
"""Points that are marked, by the first letter of their fields: ``ax`` and ``ay``."""

ALONG: dict[str, str] = {
    "up": "upper edge",
    "down": "lower edge",
    "from": "first bump",
    "to": "last bump",
}
"""Figures along and across the yarn [pixels]."""

MARK_FIELDS: dict[str, str] = {
    **{f"{point}{axis}": "" for point in POINTS for axis in "xy"},
    **dict.fromkeys(ALONG, ""),
    "apart": "10 mm",
    "bumps": "10",
    "way": "",
    "wet": "dry",
}
"""What can be typed, and what an empty form holds."""

FURTHEST, MOST_BUMPS = 20_000.0, 400


@dataclass(frozen=True)
class Marks:
    """Marks in a photo, as far as they were set [pixels]."""

    scale: tuple[Point, Point] | None
    apart: float
    """mm between the ends of the scale."""
    line: tuple[Point, Point] | None
    edges: tuple[float, float] | None
    """Of the line, above it below zero."""
    comb: tuple[float, float] | None
    """First and last bump, from the left end of the line."""
    bumps: int
    """From the first to the last."""
    fibre: tuple[Point, Point] | None
    way: Way | None
    wet: bool


def read_marks(typed: Mapping[str, str], settings: Settings) -> Marks:
    """Return what is marked.

    Raises:
        InputError: with every fault at its field.
    """
    form = Form(typed, MARK_FIELDS)

    def number(field: str) -> float | None:
        return form.read(field, lambda text, place: _within(read_number(text, place), -FURTHEST, FURTHEST, place))

    def point(name: str) -> Point | None:
        x, y = number(f"{name}x"), number(f"{name}y")
        return None if x is None or y is None else (x, y)

    def both(one: Point | None, other: Point | None) -> tuple[Point, Point] | None:
        return None if one is None or other is None or one == other else (one, other)

    def pair(low: float | None, high: float | None) -> tuple[float, float] | None:
        return None if low is None or high is None or low == high else (min(low, high), max(low, high))

    apart = form.read(
        "apart", lambda text, place: _within(read_length(text, settings.small_unit, place), 0.1, 1000, place)
    )
    bumps = form.read("bumps", lambda text, place: _within(read_number(text, place), 1, MOST_BUMPS, place))
    marks = Marks(
        both(point("a"), point("b")),
        apart or 10.0,
        both(point("p"), point("q")),
        pair(number("up"), number("down")),
        pair(number("from"), number("to")),
        int(bumps or 10),
        both(point("l"), point("m")),
        cast(Way | None, form.one_of("way", ("", *get_args(Way))) or None),
        form.one_of("wet", ("dry", "wet")) == "wet",
    )
    form.refuse()
    return marks


def _within(number: float, low: float, high: float, place: str) -> float:
    if not low <= number <= high:
        raise InputError(Fault(place, f"must lie between {low:g} and {high:g}, not {number:g}"))
    return number


def starting_marks(width: int, height: int, strands: int) -> dict[str, str]:
    """Return marks that lie in the middle of a picture, to be dragged from there.

    Args:
        width: of the picture [pixels].
        height: likewise.
        strands: of the yarn's last step; a single has a fibre marked, and no bumps.
    """
    across, down = height * 0.4, height * 0.85
    own = {
        **{"ax": 0.2 * width, "ay": down, "bx": 0.6 * width, "by": down},
        **{"px": 0.05 * width, "py": across, "qx": 0.95 * width, "qy": across},
        **{"up": -0.04 * height, "down": 0.04 * height},
    }
    if strands > 1:
        own |= {"from": 0.2 * width, "to": 0.7 * width}
    else:
        own |= {"lx": 0.47 * width, "ly": across - 0.02 * height, "mx": 0.53 * width, "my": across + 0.02 * height}
    return {**MARK_FIELDS, **{name: f"{value:.1f}" for name, value in own.items()}}
