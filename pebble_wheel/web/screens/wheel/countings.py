"""Counts that go on, kept at hand by each process: what a look costs does not grow with the run."""

import sqlite3
from threading import Lock

from pebble_wheel.devices.protocol import Count, Counting, Line, read_line
from pebble_wheel.store import runs

MOST_AT_HAND = 16


class Countings:
    """The runs that were looked at last, as far as they were counted."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[Counting | None, int]] = {}
        self._lock = Lock()

    def of(self, connection: sqlite3.Connection, run: runs.Run) -> Count:
        """Return what all lines of a run come to; only those that are new are read."""
        with self._lock:
            counting, last = self._known.pop(run.uid, (None, 0))
            newest = runs.last_line(connection, run.id)[0]
            if counting is None or newest < last:  # as it is in a store that was put back to what it was before
                counting, last = Counting(), 0
            for number, text, _ in runs.lines_after(connection, run.id, last):
                line = read_line(text)
                if isinstance(line, Line):
                    counting.take(line)
                last = number
            self._known[run.uid] = counting, last
            if len(self._known) > MOST_AT_HAND:
                del self._known[next(iter(self._known))]
            return counting.count()
