"""What was answered when the eye was practised, by whom, and whether they let it count as how their eye reads."""

import math
import sqlite3
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import get_args

from pebble_wheel.notation.practice import CHOICES, MEASURED, Asked, Practised, read_asked
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import Value, change, insert, intact, seal

MOST_ANSWERS = 2000
"""The last, that are looked at."""


@dataclass(frozen=True)
class Answer:
    """An answer as it is kept."""

    id: int
    asked: Asked
    truth: str
    given: str
    answered_at: str


def keep(connection: sqlite3.Connection, spinner: str, asked: Asked, truth: str, given: str, at: str = "") -> int:
    """Keep an answer and return its number."""
    values: dict[str, Value] = {
        "spinner": spinner,
        "kind": asked.kind,
        "fine": int(asked.fine),
        "question": asked.written(),
        "truth": truth,
        "given": given,
        "answered_at": at or now(),
    }
    with transaction(connection):
        return insert(connection, "answer", values)


def answers(connection: sqlite3.Connection, spinner: str) -> list[Answer]:
    """Return what somebody answered, the first first; what cannot be read is left out."""
    rows = connection.execute(
        "SELECT * FROM answer WHERE spinner = ? ORDER BY answered_at DESC, id DESC LIMIT ?", (spinner, MOST_ANSWERS)
    )
    whole = [row for row in rows if intact("answer", row)]
    return [
        Answer(row["id"], read_asked(row["question"]), row["truth"], row["given"], row["answered_at"])
        for row in reversed(whole)
    ]


def state_of(connection: sqlite3.Connection, spinner: str) -> tuple[int, str] | None:
    """Return what changes whenever somebody answers, as long as that counts; None where it does not."""
    if not counts(connection, spinner):
        return None
    row = connection.execute(
        "SELECT count(*), coalesce(max(answered_at), '') FROM answer WHERE spinner = ?", (spinner,)
    ).fetchone()
    return (row[0], row[1])


def given_to(connection: sqlite3.Connection, spinner: str, asked: Asked) -> int | None:
    """Return the number of the answer that somebody gave to a question; None where they gave none."""
    row = connection.execute(
        "SELECT id FROM answer WHERE spinner = ? AND question = ? ORDER BY id LIMIT 1", (spinner, asked.written())
    ).fetchone()
    return int(row[0]) if row else None


def counts(connection: sqlite3.Connection, spinner: str) -> bool:
    """Return whether somebody lets their answers count as how their eye reads."""
    row = connection.execute("SELECT * FROM leave WHERE spinner = ?", (spinner,)).fetchone()
    return row is not None and intact("leave", row) and bool(row["given"])


def let_count(connection: sqlite3.Connection, spinner: str, given: bool) -> None:
    """Keep whether somebody lets their answers count."""
    values: dict[str, Value] = {"given": int(given), "changed_at": now()}
    with transaction(connection):
        row = connection.execute("SELECT id FROM leave WHERE spinner = ?", (spinner,)).fetchone()
        if row is None:
            insert(connection, "leave", {"uid": f"leave-{spinner}", "spinner": spinner, **values})
            return
        change(connection, "leave", row["id"], values)
        seal(connection, "leave", row["id"])


def damaged(connection: sqlite3.Connection) -> Iterator[str]:
    """Yield what of it no longer holds what was written."""
    for row in connection.execute("SELECT * FROM answer ORDER BY id"):
        if not intact("answer", row):
            yield f"answer {row['id']}"
    for row in connection.execute("SELECT * FROM leave ORDER BY id"):
        if not intact("leave", row):
            yield f"leave {row['id']}"


def check(values: Mapping[str, Value]) -> None:
    """Check an answer that a notebook tells of.

    Raises:
        ValueError: where nobody can have answered so.
    """
    kind, truth, given = (str(values[name]) for name in ("kind", "truth", "given"))
    asked = read_asked(str(values["question"]))
    if kind not in get_args(Practised) or asked.kind != kind or values["fine"] not in (0, 1):
        raise ValueError("it is no answer to its question")
    if kind in MEASURED:
        if not all(math.isfinite(float(each)) and 0 < float(each) < 1000 for each in (truth, given)):
            raise ValueError("a figure that nobody can see")
    elif not {truth, given} <= set(CHOICES[asked.kind]):
        raise ValueError("it is none of the choices")
