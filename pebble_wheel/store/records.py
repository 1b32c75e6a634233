"""What was measured of the designs: skeins and swatches."""

import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, fields
from typing import Generic, Literal, TypeVar

from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.units import MEASURABLE
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.store.rows import DamagedError, change, insert, sound

Record = TypeVar("Record", Skein, Swatch)
Kind = Literal["skein", "swatch"]


@dataclass(frozen=True)
class Noted(Generic[Record]):
    """A record with its number and the time it was noted."""

    id: int
    record: Record
    noted_at: str


@dataclass(frozen=True)
class DamagedRecord:
    """A record that cannot be read, with what can be had of it."""

    id: int
    kind: Kind
    text: str


def note(connection: sqlite3.Connection, design: int, record: Skein | Swatch) -> int:
    """Keep a measurement of a design and return its number."""
    values = {**asdict(record), "design": design, "noted_at": now()}
    if "stage" in values:
        values["moment"] = values.pop("stage")
    with transaction(connection):
        return insert(connection, "skein" if isinstance(record, Skein) else "swatch", values)


def skeins(connection: sqlite3.Connection, design: int) -> list[Noted[Skein]]:
    """Return the skeins measured of a design, the first first; see :func:`damaged` for those that cannot be read."""
    return [each for each in _noted(connection, design, "skein", _skein) if isinstance(each, Noted)]


def swatches(connection: sqlite3.Connection, design: int) -> list[Noted[Swatch]]:
    """Return the swatches of a design, likewise."""
    return [each for each in _noted(connection, design, "swatch", _swatch) if isinstance(each, Noted)]


def damaged(connection: sqlite3.Connection, design: int) -> list[DamagedRecord]:
    """Return the records of a design that cannot be read."""
    found = (*_noted(connection, design, "skein", _skein), *_noted(connection, design, "swatch", _swatch))
    return [each for each in found if isinstance(each, DamagedRecord)]


def _noted(
    connection: sqlite3.Connection, design: int, kind: Kind, read: Callable[[sqlite3.Row], Record]
) -> Iterator[Noted[Record] | DamagedRecord]:
    rows = connection.execute(f"SELECT * FROM {kind} WHERE design = ? AND deleted_at IS NULL ORDER BY id", (design,))
    for row in rows:
        try:
            yield Noted(row["id"], _measured(read(sound(kind, row))), row["noted_at"])
        except DamagedError:
            told = [f"{name} {value}" for name, value in dict(row).items() if name not in _HIDDEN and value is not None]
            yield DamagedRecord(row["id"], kind, ", ".join(told))


_HIDDEN = ("id", "uid", "design", "mark", "deleted_at")


def _measured(record: Record) -> Record:
    """Return a record whose figures are such as can be measured."""
    for name, value in asdict(record).items():
        least = -MEASURABLE[1] if name == "loop_turns" else MEASURABLE[0]
        if isinstance(value, float) and not least <= value <= MEASURABLE[1]:
            raise DamagedError("a figure that nobody can measure", asdict(record))
    return record


def _skein(row: sqlite3.Row) -> Skein:
    given = [row[name] for name in ("metres", "grams", "wraps", "method", "loop_turns", "note")]
    return Skein(row["moment"], bool(row["wet"]), *given)


def _swatch(row: sqlite3.Row) -> Swatch:
    return Swatch(*(row[each.name] for each in fields(Swatch)))


def strike_out(connection: sqlite3.Connection, kind: Kind, design: int, number: int) -> None:
    """Take a record out of a design's; :func:`bring_back` undoes it.

    Raises:
        NotKeptError: where there is none such.
    """
    _strike(connection, kind, design, number, now())


def bring_back(connection: sqlite3.Connection, kind: Kind, design: int, number: int) -> None:
    """Put a struck-out record back.

    Raises:
        NotKeptError: where there is none such.
    """
    _strike(connection, kind, design, number, None)


def _strike(connection: sqlite3.Connection, kind: Kind, design: int, number: int, when: str | None) -> None:
    with transaction(connection):
        row = connection.execute(f"SELECT id FROM {kind} WHERE id = ? AND design = ?", (number, design)).fetchone()
        if row is None:
            raise NotKeptError(f"no such record {number}")
        change(connection, kind, number, {"deleted_at": when})
