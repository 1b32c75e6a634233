"""Finding yarns: by words of theirs and of their logs, and by what was worked out of them."""

import re
import sqlite3
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from pebble_wheel.notation.log import MOST_HOURS
from pebble_wheel.notation.search import Sought, State
from pebble_wheel.store.database import transaction
from pebble_wheel.store.rows import Value

HITS = 2
"""Entries of a log that are told of one yarn."""

NEAR = 0.12
"""In OKLab: colours nearer than that count as near (assumed; 0.02 is just seen)."""


@dataclass(frozen=True)
class Found:
    """What was found."""

    ids: tuple[int, ...]
    """Designs of the page asked for, in their order."""
    count: int
    """In all."""
    hits: dict[int, tuple[int, ...]]
    """Entries of their logs in which a word was found, by design."""


@dataclass(frozen=True)
class Facts:
    """What was worked out of a design."""

    low: float
    """Relaxed wraps per inch of eight in ten of the finished yarn: the least, the middle, the most."""
    middle: float
    high: float
    short: float
    """Grams of fibre that its plan wants and has not."""
    colours: tuple[tuple[float, float, float], ...]
    """OKLab."""
    lots: tuple[str, ...] = ()
    """Uids of the lots that it rests on."""


def find(
    connection: sqlite3.Connection,
    sought: Sought,
    near: Sequence[float] = (),
    most: int = -1,
    skip: int = 0,
) -> Found:
    """Return the designs on the shelf that have all that is sought, the last changed first; near a colour the nearest.

    Args:
        connection: to the store.
        sought: what they are to have.
        near: OKLab of the colour that is sought, if one is.
        most: designs to return.
        skip: designs before them.
    """
    words = [each for each in sought.words if plain(each)]
    if sought.words and not words:
        return Found((), 0, {})
    conditions, values = _conditions(sought, [_asked(each) for each in words])
    order = "changed_at DESC, id DESC"
    if near:
        apart = "(light - ?) * (light - ?) + (a - ?) * (a - ?) + (b - ?) * (b - ?)"
        twice = [each for each in near for _ in range(2)]
        conditions.append(f"id IN (SELECT design FROM hue WHERE {apart} <= ?)")
        values += [*twice, NEAR**2]
        order = f"(SELECT min({apart}) FROM hue WHERE hue.design = design.id), {order}"
        ordered: list[Value] = [*twice]
    else:
        ordered = []
    rows = connection.execute(
        f"SELECT id, count(*) OVER () AS many FROM design WHERE {' AND '.join(conditions)} "
        f"ORDER BY {order} LIMIT ? OFFSET ?",
        (*values, *ordered, most, skip),
    ).fetchall()
    ids = tuple(row["id"] for row in rows)
    return Found(ids, rows[0]["many"] if rows else 0, _hits(connection, ids, words))


def _asked(word: str) -> str:
    """Return a word as the index is asked for it: whatever begins so."""
    return f'"{plain(word)}" *'


def _conditions(sought: Sought, words: Sequence[str]) -> tuple[list[str], list[Value]]:
    conditions, values = ["deleted_at IS NULL"], list[Value]()

    def that(condition: str, *asked: Value) -> None:
        conditions.append(condition)
        values.extend(asked)

    if words:
        that("id IN (SELECT rowid FROM found WHERE found MATCH ?)", " AND ".join(words))
    if sought.wraps:
        low, high = sought.wraps
        that(
            """id IN (SELECT design FROM fact WHERE low <= ? AND high >= ? UNION
            SELECT design FROM entry WHERE kind = 'skein' AND deleted_at IS NULL
            AND json_extract(body, '$.stage') = 'finished' AND json_extract(body, '$.wraps') BETWEEN ? AND ?)""",
            *(high, low, low * 0.97, high * 1.03),
        )
    if sought.weight:
        low, high = sought.weight
        that("id IN (SELECT design FROM fact WHERE middle >= ? AND middle < ?)", low, min(high, 1e9))
    if sought.year:
        first, after = f"{sought.year:04}", f"{sought.year + 1:04}"
        that(
            """id IN (SELECT id FROM design WHERE created_at >= ? AND created_at < ? UNION
            SELECT design FROM entry WHERE noted_at >= ? AND noted_at < ? AND deleted_at IS NULL)""",
            *(first, after, first, after),
        )
    if sought.who:
        that(
            """EXISTS (SELECT 1 FROM entry WHERE entry.design = design.id AND entry.deleted_at IS NULL
            AND entry.spinner IN (SELECT uid FROM spinner WHERE uid = ? OR name LIKE ? ESCAPE '\\'))""",
            *(sought.who, f"{sought.who.translate(_AS_IT_STANDS)}%"),
        )
    if sought.state:
        that(_IN_STATE[sought.state])
    return conditions, values


_AS_IT_STANDS = str.maketrans({"%": r"\%", "_": r"\_", "\\": r"\\"})

_SLEEPS = f"""id IN (SELECT design FROM entry WHERE kind = 'sleep' AND deleted_at IS NULL
    AND noted_at > strftime('%Y-%m-%dT%H:%M', 'now', '-{MOST_HOURS:.0f} hours') AND json_extract(body, '$.what') {{}}
    AND julianday(noted_at) + json_extract(body, '$.hours') / 24 > julianday('now'))"""
_IN_STATE: dict[State, str] = {
    "asleep": _SLEEPS.format("= 'rest'"),
    "drying": _SLEEPS.format("IN ('soak', 'dry')"),
    "short": "id IN (SELECT design FROM fact WHERE short > 0)",
}


def _hits(connection: sqlite3.Connection, ids: Sequence[int], words: Sequence[str]) -> dict[int, tuple[int, ...]]:
    """Return the newest entries of designs in which any of some words is found."""
    patterns = [re.compile(rf"\b{re.escape(plain(word))}") for word in words]
    found: dict[int, list[int]] = {}
    for number in ids if patterns else ():
        rows = connection.execute(
            "SELECT id, words FROM entry WHERE design = ? AND deleted_at IS NULL ORDER BY noted_at DESC, id DESC",
            (number,),
        )
        hits = (row["id"] for row in rows if any(each.search(plain(row["words"])) for each in patterns))
        found[number] = list(islice(hits, HITS))
    return {number: tuple(entries) for number, entries in found.items() if entries}


def plain(text: str) -> str:
    """Return text as the index has it: its letters and figures, small and without accents, a space between words."""
    bare = "".join(each for each in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(each))
    return " ".join(re.findall(r"[^\W_]+", bare))


def unknown(connection: sqlite3.Connection, most: int) -> list[int]:
    """Return designs on the shelf of which nothing was worked out yet, the last changed first."""
    rows = connection.execute(
        """SELECT id FROM design WHERE deleted_at IS NULL AND NOT EXISTS (SELECT 1 FROM fact WHERE design = design.id)
        ORDER BY changed_at DESC LIMIT ?""",
        (most,),
    )
    return [row[0] for row in rows]


def how_many_unknown(connection: sqlite3.Connection) -> int:
    """Return of how many designs on the shelf nothing was worked out yet."""
    row = connection.execute(
        """SELECT count(*) FROM design WHERE deleted_at IS NULL
        AND NOT EXISTS (SELECT 1 FROM fact WHERE fact.design = design.id)"""
    ).fetchone()
    return int(row[0])


def keep_facts(connection: sqlite3.Connection, found: dict[int, Facts]) -> None:
    """Keep what was worked out of designs."""
    with transaction(connection):
        for number, each in found.items():
            connection.execute("DELETE FROM fact WHERE design = ?", (number,))
            connection.execute(
                "INSERT INTO fact VALUES (?, ?, ?, ?, ?, ?)",
                (number, each.low, each.middle, each.high, each.short, " ".join(each.lots)),
            )
            connection.executemany("INSERT INTO hue VALUES (?, ?, ?, ?)", [(number, *lab) for lab in each.colours])
