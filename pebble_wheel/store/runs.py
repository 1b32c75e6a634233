"""Counts at the wheel: every line that was answered for is on the disk, whichever process took it."""

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.store.rows import new_uid

MOST_LINES = 500_000
"""Of one run: a long day at a counter that tells twice a second."""


@dataclass(frozen=True)
class Run:
    """One sitting at the wheel."""

    id: int
    uid: str
    design: int
    strand: str
    ratio: float
    draft_mm: float
    aside: int
    begun_at: str
    ended_at: str | None


def begin(connection: sqlite3.Connection, design: int, strand: str, ratio: float, draft_mm: float, spinner: str) -> int:
    """Begin a run and return its number."""
    with transaction(connection):
        cursor = connection.execute(
            """INSERT INTO run (uid, design, spinner, strand, ratio, draft_mm, begun_at)
            VALUES (?, ?, ?, ?, ?, ?, ?)""",
            (new_uid(), design, spinner, strand, ratio, draft_mm, now()),
        )
        return int(cursor.lastrowid or 0)


def find(connection: sqlite3.Connection, number: int) -> Run:
    """Return a run.

    Raises:
        NotKeptError: where there is none such.
    """
    row = connection.execute("SELECT * FROM run WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotKeptError(f"no such run {number}")
    return _run(row)


def open_run(connection: sqlite3.Connection, design: int, strand: str) -> Run | None:
    """Return the run of a strand that goes on, the newest; None where none does."""
    row = connection.execute(
        "SELECT * FROM run WHERE design = ? AND strand = ? AND ended_at IS NULL ORDER BY id DESC LIMIT 1",
        (design, strand),
    ).fetchone()
    return None if row is None else _run(row)


def add(connection: sqlite3.Connection, run: int, texts: Iterable[str], aside: int) -> None:
    """Keep lines of a run as they came, and how many could not be read.

    Raises:
        NotKeptError: where it is over, or has all the lines that a run can have.
    """
    with transaction(connection):
        row = connection.execute("SELECT ended_at FROM run WHERE id = ?", (run,)).fetchone()
        if row is None or row["ended_at"] is not None:
            raise NotKeptError(f"run {run} is over")
        if _full(connection, run):
            raise NotKeptError(f"run {run} is full")
        connection.executemany("INSERT INTO line (run, text) VALUES (?, ?)", [(run, text) for text in texts])
        if aside:
            connection.execute("UPDATE run SET aside = aside + ? WHERE id = ?", (aside, run))


def _full(connection: sqlite3.Connection, run: int) -> bool:
    """Return whether a run has all the lines it can have; they are only counted where it might."""
    first, last = (
        connection.execute(f"SELECT {end}(id) FROM line WHERE run = ?", (run,)).fetchone()[0]
        for end in ("min", "max")  # each by itself, since only so SQLite looks no further than the ends
    )
    if first is None or last - first < MOST_LINES - 1:
        return False
    return int(connection.execute("SELECT count(*) FROM line WHERE run = ?", (run,)).fetchone()[0]) >= MOST_LINES


def lines(connection: sqlite3.Connection, run: int) -> list[str]:
    """Return the lines of a run in the order in which they came."""
    return [text for _, text in lines_after(connection, run, 0)]


def lines_after(connection: sqlite3.Connection, run: int, last: int) -> list[tuple[int, str]]:
    """Return the lines of a run that came after one, each with its number."""
    rows = connection.execute("SELECT id, text FROM line WHERE run = ? AND id > ? ORDER BY id", (run, last))
    return [(row[0], row[1]) for row in rows]


def last_line(connection: sqlite3.Connection, run: int) -> tuple[int, int, str]:
    """Return what changes whenever a run does: its last line, what was set aside, and when it ended."""
    row = connection.execute(
        """SELECT coalesce((SELECT max(id) FROM line WHERE run = run.id), 0), aside, coalesce(ended_at, '')
        FROM run WHERE id = ?""",
        (run,),
    ).fetchone()
    return (row[0], row[1], row[2]) if row else (0, 0, "")


def end(connection: sqlite3.Connection, run: int) -> None:
    """End a run; nothing happens where it has ended."""
    with transaction(connection):
        connection.execute("UPDATE run SET ended_at = ? WHERE id = ? AND ended_at IS NULL", (now(), run))


def _run(row: sqlite3.Row) -> Run:
    return Run(
        row["id"],
        row["uid"],
        row["design"],
        row["strand"],
        row["ratio"],
        row["draft_mm"],
        row["aside"],
        row["begun_at"],
        row["ended_at"],
    )
