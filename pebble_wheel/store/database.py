"""Opening the database, its migrations and its transactions."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib.resources import files
from pathlib import Path

APPLICATION_ID = 0x50_65_62_57
"""Marks the file as ours, so that another program's database is never migrated by mistake."""


class DatabaseError(ValueError):
    """A file that cannot be used as the database."""


def connect(file: Path) -> sqlite3.Connection:
    """Return a connection with the product's safety settings; the file is made if missing."""
    connection = sqlite3.connect(file, isolation_level=None, check_same_thread=False)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA busy_timeout = 5000")
    connection.execute("PRAGMA synchronous = FULL")
    connection.execute("PRAGMA foreign_keys = ON")
    return connection


@contextmanager
def opened(file: Path) -> Iterator[sqlite3.Connection]:
    """Open a connection for one piece of work and close it."""
    connection = connect(file)
    try:
        yield connection
    finally:
        connection.close()


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """Write whole or not at all."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")


def migrations() -> list[str]:
    """Return the numbered migrations in order."""
    folder = files("pebble_wheel.store") / "migrations"
    scripts = sorted(
        (entry.name, entry.read_text("utf-8")) for entry in folder.iterdir() if entry.name.endswith(".sql")
    )
    return [text for _, text in scripts]


def prepare(file: Path, upto: int | None = None) -> None:
    """Bring the database forward to the newest version, or to one asked for.

    Raises:
        DatabaseError: for a file that is no database, belongs to another program, or was written by a newer version.
    """
    scripts = migrations()
    wanted = len(scripts) if upto is None else upto
    try:
        with opened(file) as connection:
            connection.execute("PRAGMA journal_mode = WAL")
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            owner = connection.execute("PRAGMA application_id").fetchone()[0]
            tables = connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()[0]
            if owner != APPLICATION_ID and tables:
                raise DatabaseError("it belongs to another program")
            if version > len(scripts):
                raise DatabaseError(f"it is of version {version}, newer than this program knows; update the program")
            for number in range(version, wanted):
                with transaction(connection):
                    for statement in _statements(scripts[number]):
                        connection.execute(statement)
                    connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
                    connection.execute(f"PRAGMA user_version = {number + 1}")
    except sqlite3.DatabaseError as error:
        raise DatabaseError(str(error)) from error


def now() -> str:
    """Return the time for a record, UTC to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def _statements(script: str) -> Iterator[str]:
    """Yield the statements of a script one by one, since executescript would commit midway."""
    statement = ""
    for line in script.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
