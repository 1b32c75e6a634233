"""Whether a database is whole, what in it is damaged, and saving of it what can be read."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from pebble_wheel.store import designs, lots, photos, practice, records, runs, tools
from pebble_wheel.store.database import DatabaseError, connect, now, prepare, refuse_foreign, transaction
from pebble_wheel.store.notebook import TABLES
from pebble_wheel.store.records import FIRST
from pebble_wheel.store.rows import COLUMNS, Table, Value, insert, intact
from pebble_wheel.store.spinners import UNREADABLE
from pebble_wheel.store.words import words_of_entry

MOST_ROWS = 100_000
"""Numbers that are tried where a broken table does not say how far it goes."""


@dataclass(frozen=True)
class Report:
    """What was found of a database."""

    faults: tuple[str, ...]
    """Of its structure, as SQLite says them; none where it is whole."""
    damaged: tuple[str, ...]
    """Rows that cannot be read, each by what can be had of it."""
    count: int
    """Designs on the shelf and put away."""

    @property
    def whole(self) -> bool:
        """Whether nothing is wrong."""
        return not self.faults and not self.damaged


@dataclass(frozen=True)
class Salvage:
    """What was saved of a database."""

    saved: int
    lost: int
    """Rows that were there, and could not be read at all."""


def check(database: Path) -> Report:
    """Look through a database whole; nothing of it is changed.

    Raises:
        DatabaseError: where it is no database of ours, or cannot be opened at all.
    """
    refuse_foreign(database)
    if not database.exists():
        raise DatabaseError("there is no such file")
    try:
        with closing(connect(database, made=False)) as connection:
            told = [row[0] for row in connection.execute("PRAGMA integrity_check(20)")]
            faults = tuple(line for each in told for line in str(each).splitlines() if line != "ok")
            try:
                damaged = tuple(_damaged(connection))
                count = designs.how_many(connection) + designs.how_many(connection, away=True)
            except sqlite3.DatabaseError as error:
                return Report((*faults, str(error)), (), 0)
            return Report(faults, damaged, count)
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        return Report((str(error),), (), 0)


def _damaged(connection: sqlite3.Connection) -> Iterator[str]:
    for each in designs.shelf(connection):
        if isinstance(each, designs.Damaged):
            yield f"design {each.id}, “{each.name}”: {each.why}"
    for away in designs.away(connection):
        if not away.whole:
            yield f"design {away.id}, “{away.name}”, put away"
    for lot in lots.shelf(connection):
        if isinstance(lot, lots.DamagedLot):
            yield f"lot {lot.id}, “{lot.name}”: {lot.text}"
    for number in photos.damaged(connection):
        yield f"photo {number}"
    for tool in tools.shelf(connection):
        if isinstance(tool, tools.DamagedTool):
            yield f"tool {tool.id}, “{tool.name}”: {tool.text}"
    yield from practice.damaged(connection)
    for run in runs.damaged(connection):
        yield f"run {run.id} of design {run.design}: its recording no longer holds what was written"
    for (number,) in connection.execute("SELECT id FROM design ORDER BY id").fetchall():
        for record in records.damaged(connection, number):
            yield f"{record.kind} {record.id} of design {number}: {record.text}"


def salvage(database: Path, to: Path) -> Salvage:
    """Save into a new database what can be read of one, however broken; what is damaged stays marked so.

    Raises:
        DatabaseError: where the new one exists already, or cannot be made.
    """
    refuse_foreign(database)
    if to.exists():
        raise DatabaseError(f"{to} exists already; name a new file")
    prepare(to)
    saved = lost = 0
    with closing(connect(to)) as target:
        target.execute("PRAGMA foreign_keys = OFF")  # a record whose design is lost is kept
        with closing(connect(database, made=False)) as source, transaction(target):
            target.execute("DELETE FROM spinner")
            for table in TABLES:
                for row in _rows(source, table):
                    done = row is not None and _saved(target, table, row)
                    saved, lost = saved + done, lost + (not done)
            runs_saved, runs_lost = _runs(source, target)
            saved, lost = saved + runs_saved, lost + runs_lost
            if target.execute("SELECT 1 FROM spinner").fetchone() is None:
                insert(target, "spinner", {"uid": FIRST, "name": UNREADABLE, "created_at": now()})
            for name, value, mark in _settings(source):
                target.execute("INSERT OR IGNORE INTO setting VALUES (?, ?, ?)", (name, value, mark))
    return Salvage(saved, lost)


def _rows(source: sqlite3.Connection, table: Table) -> Iterator[sqlite3.Row | None]:
    """Yield every row of a table that can be read, and None for one that cannot; each is asked for by itself."""
    try:
        last = source.execute(f"SELECT max(id) FROM {table}").fetchone()[0] or 0
    except sqlite3.DatabaseError:
        last = MOST_ROWS
    broken = 0
    for number in range(1, min(last, MOST_ROWS) + 1):
        try:
            row = source.execute(f"SELECT * FROM {table} NOT INDEXED WHERE id = ?", (number,)).fetchone()
        except (sqlite3.DatabaseError, UnicodeDecodeError):
            broken += 1
            if last < MOST_ROWS or broken == 1:
                yield None
            continue
        if row is not None:
            yield row


def _saved(target: sqlite3.Connection, table: Table, row: sqlite3.Row) -> bool:
    names = [*COLUMNS[table], "mark", *(("words",) if table == "design" else ())]
    known = set(row.keys())
    values: dict[str, Value] = {name: row[name] for name in names if name in known}
    if not intact(table, row):
        values["mark"] = ""
    if table == "entry":
        values["words"] = words_of_entry(str(row["kind"]), str(row["body"]))
    places = ", ".join("?" * len(values))
    try:
        target.execute(f"INSERT INTO {table} ({', '.join(values)}) VALUES ({places})", tuple(values.values()))
    except (sqlite3.DatabaseError, UnicodeEncodeError):
        return False
    return True


def _runs(source: sqlite3.Connection, target: sqlite3.Connection) -> tuple[int, int]:
    """Save runs with as many of their lines as can be read; return how many runs were saved, and how many lost."""
    saved = lost = 0
    try:
        numbers = [row[0] for row in source.execute("SELECT id FROM run NOT INDEXED ORDER BY id")]
    except sqlite3.OperationalError:
        return 0, 0  # a store of before there were any
    except sqlite3.DatabaseError:
        return 0, 1
    for number in numbers:
        try:
            row = source.execute("SELECT * FROM run WHERE id = ?", (number,)).fetchone()
            _copied(target, "run", row, ("id", "design", *runs.COLUMNS, "mark"))
            saved += 1
            for line in source.execute("SELECT * FROM line WHERE run = ? ORDER BY id", (number,)):
                _copied(target, "line", line, ("run", "text", "source"))
        except (sqlite3.DatabaseError, UnicodeError):
            lost += 1
    return saved, lost


def _copied(target: sqlite3.Connection, table: str, row: sqlite3.Row, names: tuple[str, ...]) -> None:
    """Write what a row has of some columns; a store of old may have fewer."""
    own = [each for each in names if each in row.keys()]  # noqa: SIM118 - a row is no mapping
    places = ", ".join("?" * len(own))
    target.execute(f"INSERT INTO {table} ({', '.join(own)}) VALUES ({places})", tuple(row[each] for each in own))


def _settings(source: sqlite3.Connection) -> list[tuple[str, str, str]]:
    try:
        return [tuple(row) for row in source.execute("SELECT name, value, mark FROM setting")]
    except (sqlite3.DatabaseError, UnicodeDecodeError):
        return []
