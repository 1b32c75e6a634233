"""Counts at the wheel: every line that was answered for is on the disk, whichever process took it."""

import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from pebble_wheel.mechanics.making.wheel import TREADLED, Beat
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.store.rows import mark_of, new_uid

MOST_LINES = 500_000
"""Of one run: a long day at a counter that tells twice a second."""

BELIEVE = "believe"
"""What is kept in place of a line where a counter is to be believed from then on."""

COLUMNS = ("uid", "spinner", "strand", "ratio", "draft_mm", "aside", "begun_at", "ended_at", "tool", "beat", "laps")
"""What a run says of itself, besides its design."""


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
    tool: str = ""
    """Uid of what it is counted on."""
    beat: Beat = TREADLED
    """What a tap counts."""
    laps: float = 0.0
    """Of a bobbin that leads, in a metre."""

    def per_beat(self, turns_per_m: float) -> float:
        """Return the turns that a tap puts into a strand of so many; where the bobbin leads, its laps are none."""
        return self.ratio * turns_per_m / (turns_per_m + self.laps)


def begin(
    connection: sqlite3.Connection,
    design: int,
    strand: str,
    ratio: float,
    draft_mm: float,
    spinner: str,
    tool: str = "",
    beat: Beat = TREADLED,
    laps: float = 0.0,
) -> int:
    """Begin a run and return its number."""
    with transaction(connection):
        cursor = connection.execute(
            """INSERT INTO run (uid, design, spinner, strand, ratio, draft_mm, begun_at, tool, beat, laps)
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
            (new_uid(), design, spinner, strand, ratio, draft_mm, now(), tool, beat, laps),
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


def of_design(connection: sqlite3.Connection, design: int, strand: str) -> list[Run]:
    """Return the runs of a strand that ended, the last first."""
    rows = connection.execute(
        "SELECT * FROM run WHERE design = ? AND strand = ? AND ended_at IS NOT NULL ORDER BY id DESC", (design, strand)
    )
    return [_run(row) for row in rows]


def open_run(connection: sqlite3.Connection, design: int, strand: str) -> Run | None:
    """Return the run of a strand that goes on, the newest; None where none does."""
    row = connection.execute(
        "SELECT * FROM run WHERE design = ? AND strand = ? AND ended_at IS NULL ORDER BY id DESC LIMIT 1",
        (design, strand),
    ).fetchone()
    return None if row is None else _run(row)


def add(connection: sqlite3.Connection, run: int, texts: Iterable[str], aside: int, source: str = "") -> None:
    """Keep lines of a run as they came from a counter, and how many could not be read.

    Raises:
        NotKeptError: where it is over, or has all the lines that a run can have.
    """
    with transaction(connection):
        row = connection.execute("SELECT ended_at FROM run WHERE id = ?", (run,)).fetchone()
        if row is None or row["ended_at"] is not None:
            raise NotKeptError(f"run {run} is over")
        if _full(connection, run):
            raise NotKeptError(f"run {run} is full")
        rows = [(run, text, source) for text in texts]
        connection.executemany("INSERT INTO line (run, text, source) VALUES (?, ?, ?)", rows)
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


def lines_after(connection: sqlite3.Connection, run: int, last: int) -> list[tuple[int, str, str]]:
    """Return the lines of a run that came after one, each with its number and the counter that told it."""
    rows = connection.execute("SELECT id, text, source FROM line WHERE run = ? AND id > ? ORDER BY id", (run, last))
    return [(row[0], row[1], row[2]) for row in rows]


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
        connection.execute("UPDATE run SET mark = ? WHERE id = ?", (_mark(connection, run), run))


def _mark(connection: sqlite3.Connection, run: int) -> str:
    """Return the mark of a run with its lines; numbers of rows apart, which another store gives otherwise."""
    row = connection.execute(f"SELECT {', '.join(COLUMNS)} FROM run WHERE id = ?", (run,)).fetchone()
    told = [text for line in lines_after(connection, run, 0) for text in line[1:]]
    return mark_of(*row, *told)


def damaged(connection: sqlite3.Connection) -> list[Run]:
    """Return the runs that ended and no longer hold what was written."""
    rows = connection.execute("SELECT * FROM run WHERE mark <> '' ORDER BY id").fetchall()
    return [_run(row) for row in rows if row["mark"] != _mark(connection, row["id"])]


def told(connection: sqlite3.Connection) -> list[dict[str, Any]]:
    """Return all runs as documents, each with its design's uid and its lines."""
    columns = ", ".join(f"run.{name}" for name in COLUMNS)
    rows = connection.execute(
        f"""SELECT run.id, design.uid AS design, {columns} FROM run JOIN design ON design.id = run.design
        ORDER BY run.begun_at, run.uid"""
    ).fetchall()
    found = []
    for row in rows:
        recorded = [{"source": source, "text": text} for _, text, source in lines_after(connection, row["id"], 0)]
        found.append({"design": row["design"], **{name: row[name] for name in COLUMNS}, "lines": recorded})
    return found


def take_in(connection: sqlite3.Connection, design: int, document: Mapping[str, Any]) -> str:
    """Take in a run within a transaction, and return what became of it: the longer recording counts."""
    values = tuple(document[name] for name in COLUMNS)
    lines = [(str(each["text"]), str(each["source"])) for each in document["lines"]]
    row = connection.execute("SELECT id FROM run WHERE uid = ?", (document["uid"],)).fetchone()
    if row is None:
        places = ", ".join("?" * (1 + len(COLUMNS)))
        cursor = connection.execute(
            f"INSERT INTO run (design, {', '.join(COLUMNS)}) VALUES ({places})", (design, *values)
        )
        number, became = int(cursor.lastrowid or 0), "added"
    else:
        number, became = int(row[0]), "changed"
        if connection.execute("SELECT count(*) FROM line WHERE run = ?", (number,)).fetchone()[0] >= len(lines):
            return "known"
        connection.execute("DELETE FROM line WHERE run = ?", (number,))
        sets = ", ".join(f"{name} = ?" for name in COLUMNS)
        connection.execute(f"UPDATE run SET {sets} WHERE id = ?", (*values, number))
    connection.executemany("INSERT INTO line (run, text, source) VALUES (?, ?, ?)", [(number, *each) for each in lines])
    if document["ended_at"]:
        connection.execute("UPDATE run SET mark = ? WHERE id = ?", (_mark(connection, number), number))
    return became


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
        row["tool"],
        row["beat"],
        row["laps"],
    )
