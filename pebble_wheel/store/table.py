"""The log of a yarn as a table, CSV with its units in the header, and back again.

A row is an entry. Columns that a kind has not are empty; what holds more than one value stands as JSON. A row whose uid
is known already is left as it is, so that the same table twice doubles nothing.
"""

import csv
import json
import sqlite3
from collections.abc import Iterator, Mapping
from dataclasses import MISSING, Field, asdict, dataclass, fields
from datetime import UTC, datetime
from io import StringIO
from typing import Any

from pebble_wheel.notation.design import write_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.log import Record
from pebble_wheel.store import designs, records, spinners
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.records import KINDS, TYPES, Kind, read_record
from pebble_wheel.store.rows import DamagedError, Value, change, insert
from pebble_wheel.store.words import words_of_entry

MOST_BYTES, MOST_LINES = 900_000, 20_000

UNITS: dict[str, str] = {
    "rested_hours": "h",
    "hours": "h",
    "thick_mm": "mm",
    "aimed_mm": "mm",
    "spin_mm": "mm",
    "thick_off": "sd of ln",
    "needle_mm": "mm",
    "garment_mm": "mm",
    "fold_turns": "turns/m",
    "turns_per_m": "turns/m",
    "fold_angle": "degrees from axis",
    "angle": "degrees from axis",
    "loop_turns": "turns in 30 cm, Z positive",
    "metres": "m",
    "grams": "g",
    "spare": "g",
    "take_up": "yarn/singles",
    "wash_length": "after/before",
    "stretch": "%",
    "springs_back": "%",
    "ratio": "turns/treadle",
    "pace": "treadles/min",
    "wraps": "1/in",
    "stitches_before": "in 10 cm",
    "stitches_after": "in 10 cm",
    "rows_before": "in 10 cm",
    "rows_after": "in 10 cm",
    "figure": "wraps, %, or stitches in 10 cm",
    "asked": "ln, JSON",
}
"""Of figures, by their fields."""

ABOUT = ("uid", "noted_at", "by", "kind", "to_match", "left_out")
"""What every row begins with: by what it is known, when it was noted (UTC), whose and what it is, whether it is the
sample to match, and which of its readings do not count."""


@dataclass(frozen=True)
class TakenIn:
    """What came of reading a table."""

    added: int
    known: int
    """Rows that were there already."""


def header(name: str) -> str:
    """Return the heading of a field, with its unit.

    Example:
        >>> header("thick_mm"), header("note")
        ('thick [mm]', 'note')
    """
    unit = UNITS.get(name)
    plain = name.removesuffix("_mm").removesuffix("_hours").replace("_", " ")
    return f"{plain} [{unit}]" if unit else plain


def _columns() -> dict[str, str]:
    """Return the fields of all entries by their headings, in their order."""
    names = dict.fromkeys(each.name for kind in TYPES.values() for each in fields(kind))
    return {header(each): each for each in names}


def export(connection: sqlite3.Connection, number: int) -> str:
    """Return the log of a design as CSV; only columns in which anything stands."""
    names = {each.uid: each.name for each in spinners.spinners(connection)}
    uids = dict(connection.execute("SELECT id, uid FROM entry WHERE design = ?", (number,)).fetchall())
    rows: list[dict[str, str]] = []
    for noted in records.entries(connection, number):
        if isinstance(noted, records.Noted):
            told = {name: _cell(value) for name, value in asdict(noted.record).items()}
            about = (
                *(uids[noted.id], noted.noted_at, names.get(noted.spinner, ""), records.kind_of(noted.record)),
                *(_cell(noted.reference or None), _cell(sorted(noted.struck))),
            )
            rows.append({**dict(zip(ABOUT, about, strict=True)), **told})
    used = [name for name in _columns().values() if any(row.get(name) for row in rows)]
    written = StringIO()
    table = csv.writer(written)
    table.writerow([*map(header, ABOUT), *map(header, used)])
    table.writerows([row.get(name, "") for name in (*ABOUT, *used)] for row in rows)
    return written.getvalue()


def _cell(value: Any) -> str:
    """Return a value as a cell says it."""
    if value is None or value in ((), {}, []):
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)


def read(connection: sqlite3.Connection, number: int, packed: bytes, spinner: str) -> TakenIn:
    """Take a table into the log of a design, whole or not at all.

    Args:
        connection: to the store.
        number: of the design.
        packed: the file.
        spinner: whose the rows are that name nobody.

    Raises:
        InputError: with the line and the column of every fault.
        NotKeptError: where the design is not on the shelf.
    """
    design = designs.find(connection, number).design
    people = {each.name.casefold(): each.uid for each in spinners.spinners(connection)}
    faults: list[Fault] = []
    added = known = 0
    moment, plan = now(), write_design(design)
    with transaction(connection):
        for line, row in _rows(packed):
            try:
                kind, record = _record(row, line)
                by = _by(row, people, spinner, line)
                at = _at(row.get("noted_at", ""), line) or moment
            except InputError as error:
                faults.extend(error.faults)
                continue
            uid = row.get("uid", "").strip()
            if uid and connection.execute("SELECT 1 FROM entry WHERE uid = ?", (uid,)).fetchone():
                known += 1
                continue
            body = json.dumps(asdict(record), ensure_ascii=False, separators=(",", ":"))
            values: dict[str, Value] = {
                "design": number,
                "spinner": by,
                "kind": kind,
                "body": body,
                "typed": "{}",
                "plan": plan,
            }
            values |= {"words": words_of_entry(kind, body), "noted_at": at, "changed_at": moment}
            values |= {"struck": _struck(row.get("left_out", ""), line, faults)} | ({"uid": uid} if uid else {})
            entry = insert(connection, "entry", values)
            if row.get("to_match", "").strip().lower() == "yes" and _unmatched(connection, number, body):
                change(connection, "entry", entry, {"reference": 1})
            added += 1
        if faults:
            raise InputError(*faults[:MOST_FAULTS])
    return TakenIn(added, known)


MOST_FAULTS = 20


def _struck(cell: str, line: int, faults: list[Fault]) -> str:
    """Return which readings do not count, as they are kept."""
    try:
        told = json.loads(cell or "[]")
    except ValueError:
        told = None
    if not isinstance(told, list) or not all(isinstance(each, str) for each in told):
        faults.append(Fault(f"line {line}, {header('left_out')}", "it must be a list of readings, as JSON"))
        return "[]"
    return json.dumps(sorted(told))


def _unmatched(connection: sqlite3.Connection, number: int, body: str) -> bool:
    """Return whether a sample's strand has none to match yet."""
    row = connection.execute(
        """SELECT 1 FROM entry WHERE design = ? AND reference = 1 AND kind = 'sample'
        AND json_extract(body, '$.strand') = json_extract(?, '$.strand')""",
        (number, body),
    ).fetchone()
    return row is None


def _rows(packed: bytes) -> Iterator[tuple[int, dict[str, str]]]:
    """Yield the rows of a table by field, each with its line.

    Raises:
        InputError: where it is no table of entries.
    """
    if len(packed) > MOST_BYTES:
        raise InputError(Fault("", f"a table has at most {MOST_BYTES:,} bytes"))
    try:
        text = packed.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise InputError(Fault("", "this is no text in UTF-8")) from None
    first = text.partition("\n")[0]
    table = csv.reader(StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    known = {**{header(each): each for each in ABOUT}, **_columns()}
    try:
        headings = [each.strip() for each in next(table, [])]
        unknown = [each for each in headings if each and each not in known]
        if unknown or "kind" not in headings:
            what = f"“{unknown[0]}” is no column of a log" if unknown else "a column “kind” is missing"
            raise InputError(Fault("line 1", f"{what}; units stand in brackets, like {header('thick_mm')}"))
        for cells in table:
            if table.line_num > MOST_LINES:
                raise InputError(Fault(f"line {table.line_num}", f"a table has at most {MOST_LINES:,} lines"))
            if any(each.strip() for each in cells):
                told = zip(headings, cells, strict=False)
                yield table.line_num, {known[heading]: cell for heading, cell in told if heading}
    except csv.Error as error:
        raise InputError(Fault(f"line {table.line_num}", f"this is no CSV: {error}")) from error


def _record(row: Mapping[str, str], line: int) -> tuple[Kind, Record]:
    kind = next((each for each in KINDS if each == row["kind"].strip()), None)
    if kind is None:
        raise InputError(Fault(f"line {line}, kind", f"it must be one of {', '.join(KINDS)}"))
    own = fields(TYPES[kind])
    told: dict[str, Any] = {}
    for each in own:
        cell = row.get(each.name, "")
        if cell.strip():
            told[each.name] = _value(cell, _type(each), f"line {line}, {header(each.name)}")
        elif each.default is MISSING and each.default_factory is MISSING:
            told[each.name] = None if "None" in _type(each) else _type(each) != "bool" and ""
    stray = [
        name for name, cell in row.items() if cell.strip() and name not in ABOUT and name not in {f.name for f in own}
    ]
    if stray:
        raise InputError(Fault(f"line {line}, {header(stray[0])}", f"a {kind} has no such figure"))
    try:
        return kind, read_record(kind, json.dumps(told))
    except DamagedError:
        raise InputError(Fault(f"line {line}", f"no {kind} can be so; compare it with one written out")) from None


def _type(field: Field[Any]) -> str:
    """Return the type of a field by name: ``bool``, ``float | None``, ``Asked``."""
    return getattr(field.type, "__name__", "") if isinstance(field.type, type) else str(field.type)


def _value(cell: str, kind: str, place: str) -> Any:
    """Return what a cell says, of a field of a kind.

    Raises:
        InputError: where it says nothing of that kind.
    """
    if kind == "bool":
        return cell.strip().lower() in ("yes", "true", "1")
    if "float" in kind or "int" in kind.split(" ", maxsplit=1)[0]:
        try:
            number = float(cell.replace(",", "."))
        except ValueError:
            raise InputError(Fault(place, f"“{cell[:40]}” is no number")) from None
        return int(number) if kind == "int" and number == int(number) else number
    if kind.startswith(("tuple", "dict", "Asked")):
        try:
            return json.loads(cell)
        except ValueError:
            raise InputError(Fault(place, "it must be JSON, as it is written out")) from None
    return cell


def _by(row: Mapping[str, str], people: Mapping[str, str], spinner: str, line: int) -> str:
    name = row.get("by", "").strip().casefold()
    if name and name not in people:
        raise InputError(Fault(f"line {line}, by", f"nobody called {row['by'].strip()} spins here; add them first"))
    return people[name] if name else spinner


def _at(text: str, line: int) -> str:
    """Return a moment; a day alone counts from its noon."""
    bare = text.strip()
    if not bare:
        return ""
    try:
        found = datetime.fromisoformat(bare if len(bare) > len("2026-01-01") else f"{bare}T12:00:00+00:00")
    except ValueError:
        raise InputError(Fault(f"line {line}, noted at", f"“{bare[:40]}” is no day like 2026-03-01")) from None
    moment = found if found.tzinfo else found.replace(tzinfo=UTC)
    return moment.astimezone(UTC).isoformat(timespec="milliseconds")
