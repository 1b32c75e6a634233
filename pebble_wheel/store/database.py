"""Opening the database, its migrations and its transactions."""

import sqlite3
import threading
import time
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from importlib.resources import files
from pathlib import Path
from typing import Any, TypeVar

from pebble_wheel.store.before import tool_before
from pebble_wheel.store.rows import mark_of, new_uid
from pebble_wheel.store.words import words_of, words_of_entry

Read = TypeVar("Read")

APPLICATION_ID = 0x50_65_62_57
"""Marks the file as ours, so that another program's database is never migrated by mistake."""

PATIENCE = 5.0
"""Seconds that a writer waits for another process, once it is its turn among those of its own."""

QUEUE = 20.0
"""Seconds that a writer stands in line in its own process."""

_POLL, _GAP = 0.002, 0.004
"""Seconds between two tries, and between two writers of one process: so much longer that another's try falls in."""

MOST_READ = 64
"""What a connection remembers at the most."""

QUICK = 64_000_000
"""Bytes up to which a database is looked through whole when it is opened; a larger one in its structure only."""

_MAGIC, _HEADER = b"SQLite format 3\0", 112
_USER_VERSION, _OWNER, _SCHEMA_CELLS = slice(60, 64), slice(68, 72), slice(103, 105)
"""Places in the first page (SQLite's file format): version, owner, and how many entries its schema begins with."""


_OWN: tuple[tuple[str, int, Callable[..., str | None]], ...] = (
    ("mark_of", -1, mark_of),
    ("new_uid", 0, new_uid),
    ("words_of", 2, words_of),
    ("words_of_entry", 2, words_of_entry),
    ("tool_before", 3, tool_before),
)
"""Functions that statements and migrations call, with how many values each takes."""


class DatabaseError(ValueError):
    """A file that cannot be used as the database."""


class DamagedFileError(DatabaseError):
    """A database of ours whose structure is broken."""


class Remembering(sqlite3.Connection):
    """A connection that remembers what was read off its database, as long as nothing there changes."""

    _state: tuple[int, int] | None = None
    _known: dict[Hashable, Any]

    def unchanged(self, key: Hashable, read: Callable[[], Read]) -> Read:
        """Return what was read under a key since anything last changed, else read it; outside of transactions alone."""
        if self.in_transaction:  # what is read there may never come to be
            return read()
        self._forget_changed()
        if key not in self._known:
            if len(self._known) >= MOST_READ:
                self._known.clear()
            self._known[key] = read()
        found: Read = self._known[key]
        return found

    def at_hand(self, key: Hashable) -> Any:
        """Return what was read under a key since anything last changed; None where it would have to be waited for."""
        self.execute("PRAGMA busy_timeout = 0")
        try:
            self._forget_changed()
        except sqlite3.OperationalError:
            return None
        finally:
            self.execute(f"PRAGMA busy_timeout = {1000 * PATIENCE:.0f}")
        return self._known.get(key)

    def _forget_changed(self) -> None:
        others = self.execute("PRAGMA data_version").fetchone()[0]
        if self._state != (others, self.total_changes):
            self._state, self._known = (others, self.total_changes), {}


def connect(file: Path, made: bool = True) -> Remembering:
    """Return a connection with the product's safety settings; the file is made if missing and ``made``."""
    where: str | Path = file if made else f"{file.absolute().as_uri()}?mode=rw"
    connection = sqlite3.connect(
        where, isolation_level=None, check_same_thread=False, uri=not made, factory=Remembering
    )
    connection.row_factory = sqlite3.Row
    connection.text_factory = lambda kept: kept.decode("utf-8", "surrogateescape")  # a flipped byte hides no row
    connection.execute(f"PRAGMA busy_timeout = {1000 * PATIENCE:.0f}")
    connection.execute("PRAGMA synchronous = FULL")
    connection.execute("PRAGMA foreign_keys = ON")
    for name, taken, function in _OWN:
        connection.create_function(name, taken, function)
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
    """Write whole or not at all, in turn with other threads and processes; one within another is part of that."""
    if connection.in_transaction:
        yield
        return
    with _in_turn():
        _begin(connection)
        try:
            yield
            connection.execute("COMMIT")
        except BaseException:
            if connection.in_transaction:
                connection.execute("ROLLBACK")
            raise


_turn = threading.RLock()


@contextmanager
def _in_turn() -> Iterator[None]:
    """Let one thread of this process write at a time: SQLite lets those wait longest that have waited long."""
    came = time.monotonic()
    own = _turn.acquire(timeout=QUEUE)
    stood = time.monotonic() - came > _POLL
    try:
        yield
    finally:
        if own:
            if stood:
                time.sleep(_GAP)
            _turn.release()


def _begin(connection: sqlite3.Connection) -> None:
    """Take the lock of the database, trying often: SQLite itself tries ten times a second, and may miss every gap."""
    last = time.monotonic() + PATIENCE
    connection.execute("PRAGMA busy_timeout = 0")
    try:
        while True:
            try:
                connection.execute("BEGIN IMMEDIATE")
                return
            except sqlite3.OperationalError as error:
                if error.sqlite_errorname != "SQLITE_BUSY" or time.monotonic() > last:
                    raise
                time.sleep(_POLL)
    finally:
        connection.execute(f"PRAGMA busy_timeout = {1000 * PATIENCE:.0f}")


def migrations() -> list[str]:
    """Return the numbered migrations in order."""
    folder = files("pebble_wheel.store") / "migrations"
    scripts = sorted(
        (entry.name, entry.read_text("utf-8")) for entry in folder.iterdir() if entry.name.endswith(".sql")
    )
    return [text for _, text in scripts]


def prepare(file: Path, upto: int | None = None, before: Callable[[Path, int], object] | None = None) -> None:
    """Bring the database forward to the newest version, or to one asked for.

    Several processes may do so at once. A file of another program is refused before anything of it is touched.

    Args:
        file: the database, made if missing.
        upto: the version asked for.
        before: called with the file and its version before it is brought forward from an older one.

    Raises:
        DatabaseError: for a file that is no database, belongs to another program, or was written by a newer version.
        DamagedFileError: for one whose structure is broken.
    """
    scripts = migrations()
    wanted = len(scripts) if upto is None else upto
    refuse_foreign(file)
    try:
        with opened(file) as connection:
            _refuse(connection, len(scripts))
            _look_through(connection, file)
            _write_ahead(connection)
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            if before and 0 < version < wanted:
                before(file, version)
            _bring_forward(connection, scripts, wanted)
    except UnicodeDecodeError as error:  # of what SQLite would say of a name in its schema
        raise DamagedFileError("its structure is broken") from error
    except sqlite3.DatabaseError as error:
        if error.sqlite_errorname in ("SQLITE_CORRUPT", "SQLITE_NOTADB"):
            raise DamagedFileError(str(error)) from error
        raise DatabaseError(str(error)) from error


def _bring_forward(connection: sqlite3.Connection, scripts: list[str], wanted: int) -> None:
    while True:
        with transaction(connection):  # the version is read with the write lock held: another process may be at it too
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            if version >= wanted:
                return
            for statement in _statements(scripts[version]):
                connection.execute(statement)
            connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            connection.execute(f"PRAGMA user_version = {version + 1}")


def refuse_foreign(file: Path) -> None:
    """Refuse a file that is no database or is another program's, by its first bytes, which are only read.

    Raises:
        DatabaseError: with what it is.
    """
    try:
        with file.open("rb") as opened_file:
            head = opened_file.read(_HEADER)
    except FileNotFoundError:
        return
    except OSError as error:
        raise DatabaseError(error.strerror or str(error)) from error
    if not head:
        return
    if not head.startswith(_MAGIC):
        raise DatabaseError("it is no database")
    owner, schema = (int.from_bytes(head[place], "big") for place in (_OWNER, _SCHEMA_CELLS))
    if owner != APPLICATION_ID and (owner or schema):
        raise DatabaseError("it belongs to another program")


def _refuse(connection: sqlite3.Connection, newest: int) -> None:
    """Refuse by what the database itself says, which may not have come to its first bytes yet."""
    connection.execute("BEGIN")  # all as of one moment: another process may be making it
    tables = connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()[0]
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    owner = connection.execute("PRAGMA application_id").fetchone()[0]
    connection.execute("COMMIT")
    if owner != APPLICATION_ID and tables:
        raise DatabaseError("it belongs to another program")
    if version > newest:
        raise DatabaseError(f"it is of version {version}, newer than this program knows; update the program")


def _look_through(connection: sqlite3.Connection, file: Path) -> None:
    whole = file.stat().st_size <= QUICK
    found = connection.execute("PRAGMA integrity_check(1)" if whole else "PRAGMA quick_check(1)").fetchone()[0]
    if found != "ok":
        raise DamagedFileError(str(found).partition("\n")[0])


def _write_ahead(connection: sqlite3.Connection) -> None:
    """Turn to writing ahead, for which another process may have to be waited for."""
    begin = time.monotonic()
    while True:
        try:
            connection.execute("PRAGMA journal_mode = WAL")
            return
        except sqlite3.OperationalError as error:
            if error.sqlite_errorname != "SQLITE_BUSY" or time.monotonic() - begin > PATIENCE:
                raise
            time.sleep(0.02)


def now() -> str:
    """Return the time for a record, UTC to the millisecond; later than any that this process was told before."""
    global _told  # noqa: PLW0603
    with _telling:
        _told = max(datetime.now(UTC), _told + timedelta(milliseconds=1))
        return _told.isoformat(timespec="milliseconds")


_told, _telling = datetime.min.replace(tzinfo=UTC), threading.Lock()


def _statements(script: str) -> Iterator[str]:
    """Yield the statements of a script one by one, since executescript would commit midway."""
    statement = ""
    for line in script.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
