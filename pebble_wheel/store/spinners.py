"""Who spins: people that share a shelf, each with hands of their own. Nobody needs a password."""

import sqlite3
from dataclasses import dataclass

from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.records import FIRST
from pebble_wheel.store.rows import change, insert, intact

MOST_NAME, MOST_SPINNERS = 60, 40


@dataclass(frozen=True)
class Spinner:
    """A person that spins."""

    uid: str
    name: str


def spinners(connection: sqlite3.Connection) -> list[Spinner]:
    """Return everybody, the first first; a name that cannot be read is said so."""
    rows = connection.execute("SELECT * FROM spinner ORDER BY created_at, uid")
    return [Spinner(row["uid"], row["name"] if intact("spinner", row) else UNREADABLE) for row in rows]


UNREADABLE = "?"


def add(connection: sqlite3.Connection, name: str, uid: str | None = None) -> str:
    """Add somebody and return by what they are known.

    Raises:
        InputError: for a name that nobody can have.
    """
    values = {"name": _name(name), "created_at": now(), **({"uid": uid} if uid else {})}
    with transaction(connection):
        if connection.execute("SELECT count(*) FROM spinner").fetchone()[0] >= MOST_SPINNERS:
            raise InputError(Fault("name", f"at most {MOST_SPINNERS} people share a notebook"))
        number = insert(connection, "spinner", values)
        return str(connection.execute("SELECT uid FROM spinner WHERE id = ?", (number,)).fetchone()[0])


def rename(connection: sqlite3.Connection, uid: str, name: str) -> None:
    """Give somebody another name; nothing happens where there is nobody such.

    Raises:
        InputError: for a name that nobody can have.
    """
    said = _name(name)
    with transaction(connection):
        row = connection.execute("SELECT id FROM spinner WHERE uid = ?", (uid,)).fetchone()
        if row is not None:
            change(connection, "spinner", row["id"], {"name": said})


def known(connection: sqlite3.Connection, uid: str) -> Spinner:
    """Return somebody, or the first where nobody such is there."""
    everybody = {each.uid: each for each in spinners(connection)}
    return everybody.get(uid) or everybody.get(FIRST) or next(iter(everybody.values()), Spinner(FIRST, UNREADABLE))


def _name(name: str) -> str:
    said = " ".join(name.split())
    if not said or len(said) > MOST_NAME or not said.isprintable():
        raise InputError(Fault("name", f"give a name, at most {MOST_NAME} letters"))
    return said
