"""Copies of the database: on demand, once a day and before each migration, and put back again.

Each is a consistent copy as of one moment, made while others write. Those made of themselves stand in a folder beside
the database, the last few of them (`MOST_COPIES`).
"""

import os
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from pebble_wheel.store.database import DatabaseError, connect, prepare, refuse_foreign

MOST_COPIES = 7
_STAMP = "%Y-%m-%d-%H%M%S"


@dataclass(frozen=True)
class Copy:
    """A copy that was made of itself."""

    file: Path
    made_at: str
    """UTC, as people write it."""
    size: int


def folder_of(database: Path) -> Path:
    """Return where the copies of a database stand."""
    return database.with_name(f"{database.stem}-copies")


def copies_of(database: Path) -> list[Copy]:
    """Return the copies of a database that were made of themselves, the last first."""
    found = sorted(folder_of(database).glob("*.sqlite3"), key=lambda each: each.name, reverse=True)
    return [Copy(each, _moment(each.stem), each.stat().st_size) for each in found]


def _moment(stamp: str) -> str:
    return f"{stamp[:10]}, {stamp[11:13]}:{stamp[13:15]}"


def copy_to(database: Path, to: Path) -> None:
    """Write a consistent copy of a database, whole or not at all.

    Raises:
        DatabaseError: where it cannot be read, or the copy cannot be written.
    """
    refuse_foreign(database)
    if not database.exists():
        raise DatabaseError("there is no such file")
    half = to.with_name(f".{to.name}.{os.getpid()}.half")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        with closing(connect(database, made=False)) as source, closing(sqlite3.connect(half)) as target:
            source.backup(target)
            target.execute("PRAGMA journal_mode = DELETE")
        with half.open("rb") as written:
            os.fsync(written.fileno())
        half.replace(to)
    except OSError as error:
        raise DatabaseError(f"the copy cannot be written: {error.strerror or error}") from error
    except sqlite3.DatabaseError as error:
        raise DatabaseError(f"the copy cannot be made: {error}") from error
    finally:
        with suppress(OSError):
            half.unlink(missing_ok=True)


def copy_beside(database: Path) -> Path:
    """Copy a database into the folder beside it, and clear away all but the last `MOST_COPIES` there."""
    to = folder_of(database) / f"{datetime.now(UTC).strftime(_STAMP)}.sqlite3"
    copy_to(database, to)
    for old in copies_of(database)[MOST_COPIES:]:
        with suppress(OSError):
            old.file.unlink()
    return to


def copy_daily(database: Path) -> Path | None:
    """Copy a database beside it where that was not done today; where it cannot be done it is tried again later."""
    today = datetime.now(UTC).strftime("%Y-%m-%d")
    if any(each.file.name.startswith(today) for each in copies_of(database)):
        return None
    try:
        return copy_beside(database)
    except DatabaseError:
        return None


def put_back(copy: Path, database: Path) -> Path | None:
    """Make a database what a copy of it is; what it was is copied beside it first.

    Returns:
        The copy of what it was; None where there was nothing.

    Raises:
        DatabaseError: where the copy is none of ours, is damaged, or cannot be put there. Nothing is changed then.
    """
    if not copy.is_file():
        raise DatabaseError("there is no such copy")
    half = database.with_name(f".{database.name}.{os.getpid()}.half")
    try:
        database.parent.mkdir(parents=True, exist_ok=True)
        copy_to(copy, half)
        prepare(half)  # so that what cannot be used is not put there
        with closing(connect(half)) as settled:
            settled.execute("PRAGMA journal_mode = DELETE")
        before = copy_beside(database) if database.exists() else None
        with closing(connect(half, made=False)) as source, closing(connect(database)) as target:
            source.backup(target)  # within the file, so that a program that has it open goes on with what was put back
            target.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        return before
    except OSError as error:
        raise DatabaseError(f"it cannot be put back: {error.strerror or error}") from error
    except sqlite3.DatabaseError as error:
        raise DatabaseError(f"it cannot be put back: {error}") from error
    finally:
        for left in database.parent.glob(f"{half.name}*"):
            left.unlink(missing_ok=True)
