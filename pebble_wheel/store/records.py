"""What was measured of the designs: skeins and swatches."""

import sqlite3
from dataclasses import asdict, dataclass
from typing import Generic, Literal, TypeVar

from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.designs import NotKeptError

Record = TypeVar("Record", Skein, Swatch)
Kind = Literal["skein", "swatch"]


@dataclass(frozen=True)
class Noted(Generic[Record]):
    """A record with its number and the time it was noted."""

    id: int
    record: Record
    noted_at: str


_INSERT: dict[type, str] = {
    Skein: """
        INSERT INTO skein (design, moment, wet, metres, grams, wraps, method, loop_turns, note, noted_at)
        VALUES (:design, :stage, :wet, :metres, :grams, :wraps, :method, :loop_turns, :note, :noted_at)""",
    Swatch: """
        INSERT INTO swatch (design, needle_mm, stitches_before, stitches_after, rows_before, rows_after, garment_mm,
            bloomed, note, noted_at)
        VALUES (:design, :needle_mm, :stitches_before, :stitches_after, :rows_before, :rows_after, :garment_mm,
            :bloomed, :note, :noted_at)""",
}
_STRIKE: dict[Kind, str] = {
    "skein": "UPDATE skein SET deleted_at = ? WHERE id = ? AND design = ?",
    "swatch": "UPDATE swatch SET deleted_at = ? WHERE id = ? AND design = ?",
}


def note(connection: sqlite3.Connection, design: int, record: Skein | Swatch) -> int:
    """Keep a measurement of a design and return its number."""
    values = {**asdict(record), "design": design, "noted_at": now()}
    with transaction(connection):
        cursor = connection.execute(_INSERT[type(record)], values)
    return int(cursor.lastrowid or 0)


def skeins(connection: sqlite3.Connection, design: int) -> list[Noted[Skein]]:
    """Return the skeins measured of a design, the first first."""
    rows = connection.execute("SELECT * FROM skein WHERE design = ? AND deleted_at IS NULL ORDER BY id", (design,))
    return [
        Noted(
            row["id"],
            Skein(
                row["moment"],
                bool(row["wet"]),
                row["metres"],
                row["grams"],
                row["wraps"],
                row["method"],
                row["loop_turns"],
                row["note"],
            ),
            row["noted_at"],
        )
        for row in rows
    ]


def swatches(connection: sqlite3.Connection, design: int) -> list[Noted[Swatch]]:
    """Return the swatches of a design, the first first."""
    rows = connection.execute("SELECT * FROM swatch WHERE design = ? AND deleted_at IS NULL ORDER BY id", (design,))
    return [
        Noted(
            row["id"],
            Swatch(
                row["needle_mm"],
                row["stitches_before"],
                row["stitches_after"],
                row["rows_before"],
                row["rows_after"],
                row["garment_mm"],
                row["bloomed"],
                row["note"],
            ),
            row["noted_at"],
        )
        for row in rows
    ]


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
        cursor = connection.execute(_STRIKE[kind], (when, number, design))
        if cursor.rowcount != 1:
            raise NotKeptError(f"no such record {number}")
