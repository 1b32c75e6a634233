"""Counts that go on, kept at hand by each process: what a look costs does not grow with the run."""

import sqlite3
from dataclasses import dataclass
from threading import Lock

from pebble_wheel.devices.protocol import Count, Line, Together, read_line, write_line
from pebble_wheel.store import runs

MOST_AT_HAND = 16


@dataclass(frozen=True)
class Told:
    """What all counters of a run told so far."""

    count: Count
    believed: str
    """The counter whose turns count; empty before any was."""
    others: int
    """Lines of other counters whose turns do not."""


class Countings:
    """The runs that were looked at last, as far as they were counted."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[Together | None, int]] = {}
        self._lock = Lock()

    def of(self, connection: sqlite3.Connection, run: runs.Run) -> Told:
        """Return what all lines of a run come to; only those that are new are read."""
        with self._lock:
            together, last = self._known.pop(run.uid, (None, 0))
            newest = runs.last_line(connection, run.id)[0]
            if together is None or newest < last:  # as it is in a store that was put back to what it was before
                together, last = Together(), 0
            for number, text, source in runs.lines_after(connection, run.id, last):
                take(together, text, source)
                last = number
            self._known[run.uid] = together, last
            if len(self._known) > MOST_AT_HAND:
                del self._known[next(iter(self._known))]
            return told_by(together)


def take(together: Together, text: str, source: str) -> str:
    """Take a line as it is kept, and return what a recording says of it; nothing of one that does not count."""
    if text == runs.BELIEVE:
        together.believe(source)
        return ""
    line = read_line(text)
    told = together.take(line, source) if isinstance(line, Line) else None
    return "" if told is None else text if told == line else write_line(told)


def told_by(together: Together) -> Told:
    """Return how counters stand."""
    return Told(together.counting.count(), together.believed or "", together.others)
