"""What is kept on a shelf of its own, such as lots and tools: written, overwritten, put away and brought back."""

import sqlite3
from collections.abc import Mapping
from typing import Literal

from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import Value, change, insert, seal

Shelf = Literal["lot", "tool", "photo"]


class NotThereError(LookupError):
    """No such thing, or it was put away."""


def keep_within(
    connection: sqlite3.Connection,
    shelf: Shelf,
    number: int | None,
    values: Mapping[str, Value],
    at_first: Mapping[str, Value],
) -> None:
    """Put something on a shelf, or overwrite it, within a transaction.

    Args:
        connection: to the store.
        shelf: which.
        number: of what is overwritten; None of what is new.
        values: that it has from now on.
        at_first: values that only what is new gets.

    Raises:
        NotThereError: where what is to be overwritten is not on the shelf.
    """
    if number is None:
        insert(connection, shelf, {**at_first, **values})
        return
    row(connection, shelf, number)
    change(connection, shelf, number, values)
    seal(connection, shelf, number)


def put_away(connection: sqlite3.Connection, shelf: Shelf, number: int) -> None:
    """Take something off its shelf; :func:`bring_back` undoes it."""
    _move(connection, shelf, number, now())


def bring_back(connection: sqlite3.Connection, shelf: Shelf, number: int) -> None:
    """Put something back that was put away."""
    _move(connection, shelf, number, None)


def _move(connection: sqlite3.Connection, shelf: Shelf, number: int, when: str | None) -> None:
    with transaction(connection):
        if connection.execute(f"SELECT 1 FROM {shelf} WHERE id = ?", (number,)).fetchone() is None:
            raise NotThereError(f"no {shelf} {number}")
        change(connection, shelf, number, {"deleted_at": when})


def row(connection: sqlite3.Connection, shelf: Shelf, number: int) -> sqlite3.Row:
    """Return the row of something on its shelf.

    Raises:
        NotThereError: where it is not there.
    """
    found = connection.execute(f"SELECT * FROM {shelf} WHERE id = ? AND deleted_at IS NULL", (number,)).fetchone()
    if found is None:
        raise NotThereError(f"no {shelf} {number}")
    told: sqlite3.Row = found
    return told
