"""How fibre is prepared for its colours, strand by strand, and the cloth that it is for, as typed with a plan."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, cast, get_args

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colour import Eyes
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length

Way = Literal["whole", "other-end", "strips", "broken", "by-colour"]
Cloth = Literal["flat", "round", "weave"]
Distance = Literal["reading", "arm", "room"]

WAY, PARTS, SEED = "way-", "parts-", "seed-"
"""Before the place of a strand, in its fields."""

MOST_PARTS, MOST_STITCHES, MOST_SEED = 60, 600, 999_999

COLOURING_FIELDS: dict[str, str] = {
    "cloth": "round",
    "stitches": "44",
    "rows": "66",
    "distance": "arm",
    "eyes": "own",
    "at": "",
}
"""What can be typed besides what each strand has, and what an empty one holds."""


@dataclass(frozen=True)
class Prepared:
    """How fibre is prepared for one strand."""

    way: Way = "whole"
    parts: int = 3
    """Strips or pieces."""
    seed: int = 1


@dataclass(frozen=True)
class Colouring:
    """Preparations, and what is looked at."""

    strands: tuple[Prepared, ...]
    cloth: Cloth
    stitches: int
    """In a row, or ends of warp."""
    rows: int
    distance: Distance
    eyes: Eyes
    at: float | None
    """Place of the yarn that is seen close [mm]; None for where colours change first."""


def read_colouring(typed: Mapping[str, str], strands: int, settings: Settings) -> tuple[Colouring, tuple[Fault, ...]]:
    """Return a colouring with what in it cannot be read, each at its field; what cannot counts as not said."""
    own = {
        f"{name}{place}": usual for place in range(strands) for name, usual in ((WAY, "whole"), (PARTS, ""), (SEED, ""))
    }
    form = Form(typed, {**COLOURING_FIELDS, **own})
    prepared = tuple(
        Prepared(
            cast(Way, form.one_of(f"{WAY}{place}", get_args(Way))),
            form.read(f"{PARTS}{place}", lambda text, field: _whole(text, field, 1, MOST_PARTS)) or 3,
            form.read(f"{SEED}{place}", lambda text, field: _whole(text, field, 0, MOST_SEED)) or 1,
        )
        for place in range(strands)
    )
    colouring = Colouring(
        tuple(each if each.way in get_args(Way) else Prepared() for each in prepared),
        cast(Cloth, form.one_of("cloth", get_args(Cloth))),
        form.read("stitches", lambda text, field: _whole(text, field, 4, MOST_STITCHES)) or 44,
        form.read("rows", lambda text, field: _whole(text, field, 4, MOST_STITCHES)) or 66,
        cast(Distance, form.one_of("distance", get_args(Distance))),
        cast(Eyes, form.one_of("eyes", get_args(Eyes))),
        form.read("at", lambda text, field: read_length(text, settings.long_unit, field)),
    )
    return colouring, tuple(form.faults)


def _whole(text: str, place: str, low: int, high: int) -> int:
    number = read_number(text, place)
    if number != int(number) or not low <= number <= high:
        raise InputError(Fault(place, f"a whole number between {low} and {high}"))
    return int(number)


def is_colouring(field: str) -> bool:
    """Return whether a field is one of a colouring."""
    return field in COLOURING_FIELDS or field.startswith((WAY, PARTS, SEED))
