"""The designs kept on the shelf."""

import sqlite3
from dataclasses import dataclass

from pebble_wheel.notation.design import Design, read_design, write_design
from pebble_wheel.notation.draft import read_draft, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store.database import now, transaction

AS_A_FILE = "{}"
"""Nothing was typed."""


class NotKeptError(LookupError):
    """No such design, or not on the shelf."""


@dataclass(frozen=True)
class Kept:
    """A design with its place on the shelf."""

    id: int
    design: Design
    typed: str
    """The draft as the person typed it, as JSON; ``{}`` for a design that came as a file."""
    changed_at: str


def keep_new(connection: sqlite3.Connection, design: Design, typed: str = AS_A_FILE) -> int:
    """Put a design on the shelf and return its number."""
    moment = now()
    with transaction(connection):
        cursor = connection.execute(
            "INSERT INTO design (name, body, typed, created_at, changed_at) VALUES (?, ?, ?, ?, ?)",
            (design.name, write_design(design), typed, moment, moment),
        )
    return int(cursor.lastrowid or 0)


def keep(connection: sqlite3.Connection, number: int, design: Design, typed: str = AS_A_FILE) -> None:
    """Overwrite a design.

    Raises:
        NotKeptError: where it is not on the shelf.
    """
    with transaction(connection):
        cursor = connection.execute(
            "UPDATE design SET name = ?, body = ?, typed = ?, changed_at = ? WHERE id = ? AND deleted_at IS NULL",
            (design.name, write_design(design), typed, now(), number),
        )
        _expect_one(cursor, number)


def rename(connection: sqlite3.Connection, number: int, name: str) -> None:
    """Rename a design.

    Raises:
        InputError: for a name that a design cannot have.
        NotKeptError: where it is not on the shelf.
    """
    kept = find(connection, number)
    renamed = read_design(write_design(kept.design.model_copy(update={"name": name})).encode())
    keep(connection, number, renamed, _typed_with(kept, name))


def duplicate(connection: sqlite3.Connection, number: int) -> int:
    """Put a copy on the shelf and return its number.

    Raises:
        NotKeptError: where the design is not on the shelf.
    """
    kept = find(connection, number)
    name = f"{kept.design.name[:110]} (copy)"
    return keep_new(connection, kept.design.model_copy(update={"name": name}), _typed_with(kept, name))


def put_away(connection: sqlite3.Connection, number: int) -> None:
    """Take a design off the shelf; :func:`bring_back` undoes it.

    Raises:
        NotKeptError: where it is not on the shelf.
    """
    with transaction(connection):
        cursor = connection.execute(
            "UPDATE design SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL", (now(), number)
        )
        _expect_one(cursor, number)


def bring_back(connection: sqlite3.Connection, number: int) -> None:
    """Put a design back on the shelf that was put away.

    Raises:
        NotKeptError: where there is none such.
    """
    with transaction(connection):
        cursor = connection.execute(
            "UPDATE design SET deleted_at = NULL WHERE id = ? AND deleted_at IS NOT NULL", (number,)
        )
        _expect_one(cursor, number)


def find(connection: sqlite3.Connection, number: int) -> Kept:
    """Return one design.

    Raises:
        NotKeptError: where it is not on the shelf.
    """
    row = connection.execute("SELECT * FROM design WHERE id = ? AND deleted_at IS NULL", (number,)).fetchone()
    if row is None:
        raise NotKeptError(f"design {number} is not on the shelf")
    return _kept(row)


def shelf(connection: sqlite3.Connection) -> list[Kept]:
    """Return the designs on the shelf, the last changed first."""
    rows = connection.execute("SELECT * FROM design WHERE deleted_at IS NULL ORDER BY changed_at DESC, id DESC")
    return [_kept(row) for row in rows]


def away(connection: sqlite3.Connection) -> list[Kept]:
    """Return the designs put away, the last first."""
    rows = connection.execute("SELECT * FROM design WHERE deleted_at IS NOT NULL ORDER BY deleted_at DESC, id DESC")
    return [_kept(row) for row in rows]


def _typed_with(kept: Kept, name: str) -> str:
    """Return what was typed, with another name; the renamed design and its draft then still agree."""
    try:
        return write_draft(read_draft(kept.typed).model_copy(update={"name": name}))
    except InputError:
        return AS_A_FILE


def _kept(row: sqlite3.Row) -> Kept:
    return Kept(row["id"], read_design(row["body"].encode()), row["typed"], row["changed_at"])


def _expect_one(cursor: sqlite3.Cursor, number: int) -> None:
    if cursor.rowcount != 1:
        raise NotKeptError(f"design {number} is not there")
