"""The log of the designs: samples, skeins, swatches, notes and rests, each with the design as it was then."""

import json
import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from functools import lru_cache
from typing import Generic, Literal, TypeVar, get_args

from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.design import Design, read_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.guess import Came, Guess
from pebble_wheel.notation.log import Again, NextTime, Note, Planned, Printed, Record, Sleep
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.units import MEASURABLE
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.store.rows import DamagedError, Table, Value, change, insert, sound
from pebble_wheel.store.words import words_of_entry

R_co = TypeVar("R_co", bound=Record, covariant=True)
Kind = Literal["skein", "swatch", "sample", "note", "sleep", "card", "plan", "next", "again", "guess"]
Own = TypeVar("Own", bound=Record)
KINDS: tuple[Kind, ...] = get_args(Kind)

FIRST = "first"
"""Uid of the spinner that every notebook begins with."""

_TABLE: Table = "entry"
TYPES: dict[Kind, type[Record]] = {
    "skein": Skein,
    "swatch": Swatch,
    "sample": Sample,
    "note": Note,
    "sleep": Sleep,
    "card": Printed,
    "plan": Planned,
    "next": NextTime,
    "again": Again,
    "guess": Guess,
}
_KINDS: dict[type[Record], Kind] = {each: kind for kind, each in TYPES.items()}
_READ: dict[str, TypeAdapter[Record]] = {kind: TypeAdapter(each) for kind, each in TYPES.items()}
_SIGNED = ("loop_turns", "size", "twist", "ply")
"""Figures that may be below zero."""
_ZERO = ("figure", "thick_off", "rested_hours", "stretch", "springs_back", "spare")
"""Figures that may be nothing."""


@dataclass(frozen=True)
class Noted(Generic[R_co]):
    """An entry with its number, when it was noted, and what of it counts."""

    id: int
    record: R_co
    noted_at: str
    spinner: str = FIRST
    struck: frozenset[str] = frozenset()
    """Readings of it that do not count."""
    sure: bool = False
    """Whether the person was asked about it, and said that it is really so."""
    reference: bool = False
    """Whether it is the sample to match."""
    design: int = 0
    plan: str = ""
    """The design file as it was then."""


@dataclass(frozen=True)
class DamagedRecord:
    """An entry that cannot be read, with what can be had of it."""

    id: int
    kind: str
    text: str


def kind_of(record: Record) -> Kind:
    """Return what kind of entry a record is."""
    return _KINDS[type(record)]


def note(
    connection: sqlite3.Connection,
    design: int,
    record: Record,
    spinner: str = FIRST,
    typed: dict[str, str] | None = None,
    noted_at: str | None = None,
) -> int:
    """Keep an entry of a design and return its number."""
    moment = now()
    with transaction(connection):
        row = connection.execute("SELECT body FROM design WHERE id = ?", (design,)).fetchone()
        if row is None:
            raise NotKeptError(f"no such design {design}")
        kind, body = kind_of(record), json.dumps(asdict(record), ensure_ascii=False, separators=(",", ":"))
        values: dict[str, Value] = {
            "design": design,
            "spinner": spinner,
            "kind": kind,
            "body": body,
            "words": words_of_entry(kind, body),
            "typed": json.dumps(typed or {}, ensure_ascii=False, separators=(",", ":")),
            "plan": row["body"],
            "noted_at": noted_at or moment,
            "changed_at": moment,
        }
        return insert(connection, _TABLE, values)


def entries(connection: sqlite3.Connection, design: int) -> list[Noted[Record] | DamagedRecord]:
    """Return the log of a design, the first first."""
    rows = connection.execute(
        "SELECT * FROM entry WHERE design = ? AND deleted_at IS NULL ORDER BY noted_at, id", (design,)
    )
    return list(_read(rows))


def these(connection: sqlite3.Connection, numbers: Sequence[int]) -> list[Noted[Record]]:
    """Return entries by their numbers, in that order, as far as they can be read."""
    places = ", ".join("?" * len(numbers))
    rows = connection.execute(f"SELECT * FROM entry WHERE id IN ({places}) AND deleted_at IS NULL", (*numbers,))
    found = {each.id: each for each in _read(rows) if isinstance(each, Noted)}
    return [found[each] for each in numbers if each in found]


def years(connection: sqlite3.Connection) -> list[int]:
    """Return the years from the first in which a yarn was begun or anything noted to the last, the last first."""
    row = connection.execute(
        """SELECT (SELECT min(created_at) FROM design), (SELECT min(noted_at) FROM entry WHERE deleted_at IS NULL),
        (SELECT max(created_at) FROM design), (SELECT max(noted_at) FROM entry WHERE deleted_at IS NULL)"""
    ).fetchone()
    found = [int(each[:4]) for each in row if each and each[:4].isdecimal()]
    return list(range(max(found), max(min(found), max(found) - MOST_YEARS) - 1, -1)) if found else []


MOST_YEARS = 60
"""That are offered."""


def _of_kind(connection: sqlite3.Connection, design: int, kind: type[Own]) -> list[Noted[Own]]:
    """Return the entries of one kind, the first first; see :func:`damaged` for those that cannot be read."""
    rows = connection.execute(
        "SELECT * FROM entry WHERE design = ? AND kind = ? AND deleted_at IS NULL ORDER BY noted_at, id",
        (design, _KINDS[kind]),  # type: ignore[index]
    )
    return [each for each in _read(rows) if isinstance(each, Noted)]  # type: ignore[misc]


def by_spinner(connection: sqlite3.Connection, spinner: str) -> list[Noted[Record]]:
    """Return all that a spinner measured, of every design on the shelf, the first first."""
    rows = connection.execute(
        """SELECT entry.* FROM entry JOIN design ON design.id = entry.design
        WHERE entry.spinner = ? AND entry.kind IN ('sample', 'skein') AND entry.deleted_at IS NULL
        AND design.deleted_at IS NULL ORDER BY entry.noted_at, entry.id""",
        (spinner,),
    )
    return [each for each in _read(rows) if isinstance(each, Noted)]


def state_of(connection: sqlite3.Connection, spinner: str) -> tuple[int, str, int]:
    """Return what changes whenever a spinner's entries do, or a design is put away."""
    row = connection.execute(
        """SELECT count(*), coalesce(max(changed_at), ''),
        (SELECT count(*) FROM design WHERE deleted_at IS NOT NULL) FROM entry WHERE spinner = ?""",
        (spinner,),
    ).fetchone()
    return (row[0], row[1], row[2])


def samples(connection: sqlite3.Connection, design: int) -> list[Noted[Sample]]:
    """Return the samples of a design, the first first."""
    return _of_kind(connection, design, Sample)


def plan(connection: sqlite3.Connection, design: int) -> Noted[Planned] | None:
    """Return the plan of a design, the newest; None where nothing was planned."""
    found = _of_kind(connection, design, Planned)
    return found[-1] if found else None


def keep_plan(connection: sqlite3.Connection, design: int, planned: Planned, spinner: str = FIRST) -> None:
    """Keep a plan in place of the one before, which stays, struck out."""
    before = plan(connection, design)
    note(connection, design, planned, spinner)
    if before is not None:
        strike_out(connection, "plan", design, before.id)


def spun_again(connection: sqlite3.Connection, design: int) -> Again | None:
    """Return of which yarn a design is another, and with what it was begun; None where it is of none."""
    found = _of_kind(connection, design, Again)
    return found[-1].record if found else None


def skeins(connection: sqlite3.Connection, design: int) -> list[Noted[Skein]]:
    """Return the skeins measured of a design, likewise."""
    return _of_kind(connection, design, Skein)


def swatches(connection: sqlite3.Connection, design: int) -> list[Noted[Swatch]]:
    """Return the swatches of a design, likewise."""
    return _of_kind(connection, design, Swatch)


def damaged(connection: sqlite3.Connection, design: int) -> list[DamagedRecord]:
    """Return the entries of a design that cannot be read."""
    return [each for each in entries(connection, design) if isinstance(each, DamagedRecord)]


def _read(rows: sqlite3.Cursor) -> Iterator[Noted[Record] | DamagedRecord]:
    for row in rows:
        try:
            yield _noted(sound(_TABLE, row))
        except DamagedError:
            told = [f"{name} {value}" for name, value in dict(row).items() if name not in _HIDDEN and value is not None]
            yield DamagedRecord(row["id"], str(row["kind"]), ", ".join(told))


_HIDDEN = ("id", "uid", "design", "mark", "deleted_at", "plan", "typed", "changed_at", "struck", "sure", "reference")


def _noted(row: sqlite3.Row) -> Noted[Record]:
    return Noted(
        row["id"],
        read_record(row["kind"], row["body"]),
        row["noted_at"],
        row["spinner"],
        frozenset(json.loads(row["struck"])),
        bool(row["sure"]),
        bool(row["reference"]),
        row["design"],
        row["plan"],
    )


def read_record(kind: str, body: str) -> Record:
    """Return a record as its document tells it.

    Raises:
        DamagedError: where it cannot be read, or tells of what nobody can measure.
    """
    try:
        told = json.loads(body)
        record = _READ[kind].validate_python(told)
    except (KeyError, ValueError, ValidationError) as error:
        raise DamagedError("it cannot be read", {"body": body}) from error
    for name, value in _figures(asdict(record)):
        least = -MEASURABLE[1] if name in _SIGNED else 0.0 if name in _ZERO else MEASURABLE[0]
        if not least <= value <= MEASURABLE[1]:
            raise DamagedError("a figure that nobody can measure", {"body": body})
    return record


def _figures(told: dict[str, object]) -> Iterator[tuple[str, float]]:
    for name, value in told.items():
        if isinstance(value, dict):
            yield from _figures(value)
        elif isinstance(value, float):
            yield name, value


def plan_of(noted: Noted[Record]) -> Design | None:
    """Return the design that an entry was noted of, as it was then; None where it cannot be read."""
    return _plan(noted.plan)


@lru_cache(maxsize=512)
def _plan(text: str) -> Design | None:
    """Return the design that a text says; many entries are of one plan."""
    try:
        return read_design(text.encode())
    except (InputError, UnicodeEncodeError):
        return None


def strike_out(connection: sqlite3.Connection, kind: Kind, design: int, number: int) -> None:
    """Take an entry out of a design's log; :func:`bring_back` undoes it.

    Raises:
        NotKeptError: where there is none such.
    """
    _change(connection, kind, design, number, {"deleted_at": now(), "reference": 0})


def bring_back(connection: sqlite3.Connection, kind: Kind, design: int, number: int) -> None:
    """Put a struck-out entry back.

    Raises:
        NotKeptError: where there is none such.
    """
    _change(connection, kind, design, number, {"deleted_at": None})


def came_out(connection: sqlite3.Connection, design: int, number: int, came: Came) -> None:
    """Say how a guess in words came out.

    Raises:
        NotKeptError: where there is none such.
    """
    with transaction(connection):
        row = connection.execute("SELECT * FROM entry WHERE id = ? AND design = ?", (number, design)).fetchone()
        if row is None or row["kind"] != "guess":
            raise NotKeptError(f"no such guess {number}")
        body = json.dumps({**json.loads(row["body"]), "came": came}, ensure_ascii=False, separators=(",", ":"))
        change(connection, _TABLE, number, {"body": body, "changed_at": now()})


def with_guesses(connection: sqlite3.Connection, spinner: str) -> list[list[Noted[Record]]]:
    """Return the logs of the designs of which somebody guessed anything, each the first first."""
    rows = connection.execute(
        """SELECT DISTINCT design FROM entry WHERE kind = 'guess' AND spinner = ? AND deleted_at IS NULL
        ORDER BY design""",
        (spinner,),
    ).fetchall()
    logs = (entries(connection, row[0]) for row in rows)
    return [[each for each in log if isinstance(each, Noted)] for log in logs]


def count_out(connection: sqlite3.Connection, design: int, number: int, struck: frozenset[str]) -> None:
    """Say which readings of a sample or skein do not count.

    Raises:
        NotKeptError: where there is none such.
    """
    _change(connection, None, design, number, {"struck": json.dumps(sorted(struck))})


def make_sure(connection: sqlite3.Connection, design: int, number: int) -> None:
    """Say of an entry that was asked about that it is really so.

    Raises:
        NotKeptError: where there is none such.
    """
    _change(connection, None, design, number, {"sure": 1})


def refer_to(connection: sqlite3.Connection, design: int, number: int) -> None:
    """Make a sample the one to match of its strand, instead of what was.

    Raises:
        NotKeptError: where there is none such.
    """
    with transaction(connection):
        row = connection.execute(
            "SELECT * FROM entry WHERE id = ? AND design = ? AND kind = 'sample'", (number, design)
        ).fetchone()
        if row is None:
            raise NotKeptError(f"no such sample {number}")
        others = connection.execute(
            """SELECT id FROM entry WHERE design = ? AND reference = 1
            AND json_extract(body, '$.strand') = json_extract(?, '$.strand')""",
            (design, row["body"]),
        ).fetchall()
        for (other,) in others:
            change(connection, _TABLE, other, {"reference": 0, "changed_at": now()})
        change(connection, _TABLE, number, {"reference": 1, "changed_at": now()})


def _change(
    connection: sqlite3.Connection, kind: Kind | None, design: int, number: int, values: dict[str, Value]
) -> None:
    with transaction(connection):
        row = connection.execute("SELECT kind FROM entry WHERE id = ? AND design = ?", (number, design)).fetchone()
        if row is None or kind not in (None, row["kind"]):
            raise NotKeptError(f"no such entry {number}")
        change(connection, _TABLE, number, {**values, "changed_at": now()})
