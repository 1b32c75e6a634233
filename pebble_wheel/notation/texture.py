"""A yarn that changes along its length, as typed: how it begins, what comes again and again, how it ends."""

from collections.abc import Mapping
from dataclasses import dataclass

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length, read_mass

MOST_ROWS = 8
"""Sections that come again and again."""

HELD, MOST_HELD = "have-", 6
"""Fields of what is on the bobbins of the strands, and how many of them."""

LEAST_FED, MOST_FED, MOST_TIMES = 1.0, 30.0, 10_000

TEXTURE_FIELDS: dict[str, str] = {
    "begins": "",
    "ends": "",
    "times": "1",
    **{f"gesture-{place}": "" for place in range(MOST_ROWS)},
    **{f"length-{place}": "" for place in range(MOST_ROWS)},
    **{f"fed-{place}": "" for place in range(MOST_ROWS)},
    **{f"{HELD}{place}": "" for place in range(MOST_HELD)},
}
"""What can be typed, and what a yarn that is the same all along holds."""


@dataclass(frozen=True)
class Row:
    """One section of what comes again and again."""

    gesture: str
    length: float
    """mm."""
    fed: float | None
    """Metres laid round to one of yarn; None for the usual."""


@dataclass(frozen=True)
class Texture:
    """A sequence as typed."""

    begins: float | None
    """Plain, mm."""
    ends: float | None
    times: int
    rows: tuple[Row, ...]
    held: tuple[float | None, ...] = ()
    """Grams on the bobbin of each strand; None where nobody said."""


def is_held(field: str) -> bool:
    """Return whether a field tells what is on a bobbin: it is kept with the plan, and not with the yarn."""
    return field.startswith(HELD)


def read_texture(typed: Mapping[str, str], gestures: tuple[str, ...], settings: Settings) -> Texture:
    """Return a sequence as it was typed.

    Raises:
        InputError: with every fault at its field.
    """
    form = Form(typed, TEXTURE_FIELDS)

    def length(field: str) -> float | None:
        return form.read(
            field, lambda text, place: _within(1.0, 1e7, read_length(text, settings.width_unit, place), place)
        )

    rows = []
    for place in range(MOST_ROWS):
        gesture, long = form.text(f"gesture-{place}"), length(f"length-{place}")
        fed = form.read(
            f"fed-{place}", lambda text, field: _within(LEAST_FED, MOST_FED, read_number(text, field), field)
        )
        if not gesture:
            continue
        form.one_of(f"gesture-{place}", gestures)
        if long is None and not any(each.place == f"length-{place}" for each in form.faults):
            form.faults.append(Fault(f"length-{place}", "say how long it is, like 10 cm"))
        rows.append(Row(gesture, long or 0.0, fed))
    begins, ends = length("begins"), length("ends")
    times = form.read("times", lambda text, place: int(_within(1, MOST_TIMES, read_number(text, place), place))) or 1
    held = tuple(
        form.read(f"{HELD}{place}", lambda text, field: read_mass(text, settings.mass, field))
        for place in range(MOST_HELD)
    )
    form.refuse()
    return Texture(begins, ends, times, tuple(rows), held)


def with_row_copied(typed: Mapping[str, str], row: int) -> dict[str, str]:
    """Return fields with a section once more behind itself, where there is room."""
    return _moved(typed, row + 1, 1) if not typed.get(f"gesture-{MOST_ROWS - 1}") else dict(typed)


def with_row_dropped(typed: Mapping[str, str], row: int) -> dict[str, str]:
    """Return fields without a section."""
    return _moved(typed, row, -1)


def _moved(typed: Mapping[str, str], first: int, by: int) -> dict[str, str]:
    """Return fields with all sections from one on moved by a row; where one comes free it is as the one before."""
    moved = dict(typed)
    for name in ("gesture", "length", "fed"):
        for place in range(first, MOST_ROWS):
            moved[f"{name}-{place}"] = typed.get(f"{name}-{place - by}", "") if place - by < MOST_ROWS else ""
    return moved


def _within(low: float, high: float, number: float, place: str) -> float:
    if not low <= number <= high:
        raise InputError(Fault(place, f"must lie between {low:g} and {high:g}, not {number:g}"))
    return number
