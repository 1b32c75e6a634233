"""Connections that are lent for one request each and used again."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from pebble_wheel.store.database import Remembering, connect

MOST_IDLE = 8


class Connections:
    """Connections to one database. One that saw a fault, or whose file is no longer the one at its place, is closed."""

    def __init__(self, file: Path) -> None:
        self.file = file
        self._idle: list[tuple[Remembering, tuple[int, int]]] = []

    @contextmanager
    def lent(self) -> Iterator[Remembering]:
        """Lend a connection.

        Raises:
            FileNotFoundError: where the database has vanished.
        """
        connection, known = self._taken()
        try:
            yield connection
        except sqlite3.DatabaseError:
            connection.close()
            raise
        except BaseException:
            self._back(connection, known)
            raise
        else:
            self._back(connection, known)

    def _taken(self) -> tuple[Remembering, tuple[int, int]]:
        now = self._which()
        while self._idle:
            connection, known = self._idle.pop()
            if known == now:
                return connection, known
            connection.close()
        return connect(self.file, made=False), now

    def _back(self, connection: Remembering, known: tuple[int, int]) -> None:
        if connection.in_transaction or len(self._idle) >= MOST_IDLE:
            connection.close()
        else:
            self._idle.append((connection, known))

    def _which(self) -> tuple[int, int]:
        found = self.file.stat()
        return found.st_dev, found.st_ino

    def close(self) -> None:
        """Close all that are not lent."""
        while self._idle:
            self._idle.pop()[0].close()
