"""Small pictures of yarns with what stands beside them, made once and kept by content.

They stand in a file of their own beside the database, which may be thrown away at any time: what it holds can be made
again, so it is neither copied nor exported.
"""

import sqlite3
import zlib
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from pebble_wheel.mechanics.reading.draws import Band


@dataclass(frozen=True)
class Small:
    """A small picture of a yarn, and what stands beside it."""

    svg: str
    wpi: Band
    """Relaxed, finished."""
    verdict: str
    designation: str


class Pictures:
    """The small pictures kept beside a database."""

    def __init__(self, database: Path) -> None:
        self.file = database.with_name(f"{database.stem}-pictures.sqlite3")

    def find(self, contents: list[str]) -> dict[str, Small]:
        """Return what is kept, by content; where nothing can be read, nothing is."""
        if not contents or not self.file.exists():
            return {}
        places = ", ".join("?" * len(contents))
        try:
            with closing(self._opened()) as connection:
                rows = connection.execute(f"SELECT * FROM small WHERE content IN ({places})", contents).fetchall()
                return {row[0]: _small(row) for row in rows}
        except (sqlite3.DatabaseError, zlib.error, UnicodeDecodeError):
            return {}

    def keep(self, content: str, small: Small) -> None:
        """Keep a picture, where there is room for it."""
        packed = zlib.compress(small.svg.encode(), 9)
        values = (content, packed, small.wpi.p10, small.wpi.p50, small.wpi.p90, small.verdict, small.designation)
        try:
            with closing(self._opened()) as connection, connection:
                connection.execute("INSERT OR REPLACE INTO small VALUES (?, ?, ?, ?, ?, ?, ?)", values)
        except sqlite3.DatabaseError:
            return

    def _opened(self) -> sqlite3.Connection:
        connection = sqlite3.connect(self.file, timeout=1.0)
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = OFF")
        connection.execute(
            """CREATE TABLE IF NOT EXISTS small (
                content TEXT PRIMARY KEY, svg BLOB NOT NULL, p10 REAL NOT NULL, p50 REAL NOT NULL, p90 REAL NOT NULL,
                verdict TEXT NOT NULL, designation TEXT NOT NULL
            ) STRICT, WITHOUT ROWID"""
        )
        return connection


def _small(row: tuple[str, bytes, float, float, float, str, str]) -> Small:
    _, packed, p10, p50, p90, verdict, designation = row
    return Small(zlib.decompress(packed).decode(), Band(p10, p50, p90), verdict, designation)
