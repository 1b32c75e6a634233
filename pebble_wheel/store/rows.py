"""Rows as they are kept: a mark of what each holds, so that a flipped byte is noticed, and a name that no other has."""

import hashlib
import json
import sqlite3
import uuid
from collections.abc import Mapping
from typing import Literal

Table = Literal["design", "version", "lot", "tool", "spinner", "entry", "photo", "answer", "leave"]

COLUMNS: dict[Table, tuple[str, ...]] = {
    "design": ("id", "uid", "name", "body", "typed", "created_at", "changed_at", "deleted_at"),
    "version": ("id", "uid", "design", "name", "body", "typed", "changed_at"),
    "lot": ("id", "uid", "name", "body", "typed", "created_at", "changed_at", "deleted_at"),
    "tool": ("id", "uid", "name", "body", "typed", "created_at", "chosen_at", "changed_at", "deleted_at"),
    "spinner": ("id", "uid", "name", "created_at"),
    "photo": (
        *("id", "uid", "design", "strand", "spinner", "picture", "original", "body", "noted_at", "changed_at"),
        "deleted_at",
    ),
    "answer": ("id", "uid", "spinner", "kind", "fine", "question", "truth", "given", "answered_at"),
    "leave": ("id", "uid", "spinner", "given", "changed_at"),
    "entry": (
        *("id", "uid", "design", "spinner", "kind", "body", "typed", "plan", "noted_at", "struck", "sure", "reference"),
        *("changed_at", "deleted_at"),
    ),
}
"""What the mark of each row is taken of, in this order."""

Value = str | int | float | bytes | None


class DamagedError(ValueError):
    """A row that does not hold what was written, or that cannot be read."""

    def __init__(self, why: str, row: Mapping[str, Value]) -> None:
        self.row = row
        super().__init__(why)


def new_uid() -> str:
    """Return a name that no other row has, in this store or another."""
    return uuid.uuid4().hex


def mark_of(*values: Value) -> str:
    """Return the mark of what a row holds."""
    told = [each.hex() if isinstance(each, bytes) else each for each in values]
    return hashlib.blake2b(json.dumps(told).encode(), digest_size=8).hexdigest()


def seal(connection: sqlite3.Connection, table: Table, number: int) -> str:
    """Mark a row as it stands now, within a transaction, and return its mark."""
    connection.execute(f"UPDATE {table} SET mark = mark_of({', '.join(COLUMNS[table])}) WHERE id = ?", (number,))
    row = connection.execute(f"SELECT mark FROM {table} WHERE id = ?", (number,)).fetchone()
    return str(row[0])


def insert(connection: sqlite3.Connection, table: Table, values: Mapping[str, Value]) -> int:
    """Write a row within a transaction, and return its number; it gets a name of its own where it has none."""
    values = {"uid": new_uid(), **values}
    names = ", ".join(values)
    places = ", ".join("?" * len(values))
    cursor = connection.execute(f"INSERT INTO {table} ({names}) VALUES ({places})", tuple(values.values()))
    number = int(cursor.lastrowid or 0)
    seal(connection, table, number)
    return number


def change(connection: sqlite3.Connection, table: Table, number: int, values: Mapping[str, Value]) -> None:
    """Change a row within a transaction; one that was damaged keeps a mark that says so."""
    row = connection.execute(f"SELECT * FROM {table} WHERE id = ?", (number,)).fetchone()
    sets = ", ".join(f"{name} = ?" for name in values)
    connection.execute(f"UPDATE {table} SET {sets} WHERE id = ?", (*values.values(), number))
    if row is not None and intact(table, row):
        seal(connection, table, number)


def intact(table: Table, row: sqlite3.Row) -> bool:
    """Return whether a row holds what was written."""
    return bool(row["mark"] == mark_of(*(row[name] for name in COLUMNS[table])))


def sound(table: Table, row: sqlite3.Row) -> sqlite3.Row:
    """Return a row that holds what was written.

    Raises:
        DamagedError: with what it holds.
    """
    if not intact(table, row):
        raise DamagedError("it no longer holds what was written", dict(row))
    return row
