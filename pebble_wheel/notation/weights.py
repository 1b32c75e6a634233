"""The weight classes of yarn, by relaxed wraps per inch of the finished yarn."""

import math

from pebble_wheel.notation.settings import WeightTable

_COUNCIL = (
    ("lace", 30, math.inf),
    ("super fine", 14, 30),
    ("fine", 12, 18),
    ("light", 11, 15),
    ("medium", 9, 12),
    ("bulky", 6, 9),
    ("super bulky", 5, 6),
    ("jumbo", 0, 5),
)
"""From memory; the ranges overlap by design."""

_RELAXED_WRAPS = (
    ("lace", 18, math.inf),
    ("fingering", 14, 18),
    ("sport", 12, 14),
    ("DK", 10.5, 12),
    ("worsted weight", 8.5, 10.5),
    ("aran", 7.5, 8.5),
    ("bulky", 5.5, 7.5),
    ("super bulky", 0, 5.5),
)
"""Common practice, no source; single numbers widened half a wrap each way."""

WEIGHT_TABLES: dict[WeightTable, tuple[tuple[str, float, float], ...]] = {
    "council": _COUNCIL,
    "relaxed-wraps": _RELAXED_WRAPS,
}

_ALSO_SAID = {
    "worsted": "worsted weight",
    "double knitting": "DK",
    "chunky": "bulky",
    "sock": "fingering",
    "super chunky": "super bulky",
}
"""Other words for a class: common practice, no source."""


def middle_of(low: float, high: float) -> float:
    """Return relaxed wraps well inside a class: its middle, or near its end where it is open on the other side."""
    if math.isinf(high):
        return 1.1 * low
    return (low + high) / 2 if low else 0.825 * high


def class_named(text: str, table: WeightTable) -> tuple[float, float] | None:
    """Return the relaxed wraps of a class by its name, in the table chosen first; None where no table has it.

    >>> class_named("DK weight", "relaxed-wraps")
    (10.5, 12)
    """
    name = " ".join(text.lower().split()).strip(". ")
    names = [name, name.removesuffix(" weight"), name.removesuffix(" yarn"), f"{name} weight"]
    names += [_ALSO_SAID[each].lower() for each in names if each in _ALSO_SAID]
    for classes in (WEIGHT_TABLES[table], *WEIGHT_TABLES.values()):
        for own, low, high in classes:
            if own.lower() in names:
                return low, high
    return None


def class_names(table: WeightTable) -> list[str]:
    """Return the names that classes are known by, those of one table first."""
    every = [name for classes in (WEIGHT_TABLES[table], *WEIGHT_TABLES.values()) for name, _, _ in classes]
    return list(dict.fromkeys([*every, *_ALSO_SAID]))
