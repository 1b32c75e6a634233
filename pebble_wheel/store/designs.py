"""The designs kept on the shelf, and what each of them was before."""

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pebble_wheel.notation.design import Design, Sections, read_design, write_design
from pebble_wheel.notation.draft import read_draft, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import DamagedError, Value, change, insert, intact, seal, sound
from pebble_wheel.store.words import folded, words_of_design

AS_A_FILE = "{}"
"""Nothing was typed."""


class NotKeptError(LookupError):
    """No such design, or not on the shelf."""


@dataclass(frozen=True)
class Kept:
    """A design with its place on the shelf."""

    id: int
    design: Design
    typed: str
    """The draft as the person typed it, as JSON; ``{}`` for a design that came as a file."""
    changed_at: str
    mark: str
    """Of what it holds: another mark is another state of it."""


@dataclass(frozen=True)
class Damaged:
    """A design that cannot be read, with what can be had of it."""

    id: int
    name: str
    text: str
    """The design file as it stands."""
    why: str


@dataclass(frozen=True)
class PutAway:
    """A design that is not on the shelf."""

    id: int
    name: str
    whole: bool = True
    """Whether it holds what was written."""


@dataclass(frozen=True)
class Version:
    """What a design was before."""

    id: int
    design: Design
    typed: str
    changed_at: str
    """When it was made so."""


class ChangedMeanwhileError(Exception):
    """A design was changed since it was opened."""

    def __init__(self, now_kept: Kept) -> None:
        self.now_kept = now_kept
        super().__init__(f"design {now_kept.id} was changed meanwhile")


def keep_new(connection: sqlite3.Connection, design: Design, typed: str = AS_A_FILE) -> int:
    """Put a design on the shelf and return its number."""
    moment = now()
    values = {**_values(design, typed), "created_at": moment, "changed_at": moment}
    with transaction(connection):
        return insert(connection, "design", values)


def keep(
    connection: sqlite3.Connection, number: int, design: Design, typed: str = AS_A_FILE, opened: str | None = None
) -> None:
    """Overwrite a design; what it was stays as an earlier version.

    Args:
        connection: to the store.
        number: of the design.
        design: what it is to be.
        typed: the draft as the person typed it.
        opened: the mark that it had when it was opened; None to overwrite whatever is there.

    Raises:
        NotKeptError: where it is not on the shelf.
        ChangedMeanwhileError: where it has another mark than when it was opened, and would lose what was changed.
    """
    with transaction(connection):
        row = _row(connection, number)
        values = _values(design if typed == AS_A_FILE else _along_its_length(design, row), typed)
        if opened is not None and opened != row["mark"] and row["body"] != values["body"]:
            raise ChangedMeanwhileError(_kept(sound("design", row)))
        if (row["body"], row["typed"]) == (values["body"], typed):
            return
        before = {name: row[name] for name in ("name", "body", "typed", "changed_at")}
        insert(connection, "version", {"design": number, **before})
        change(connection, "design", number, {**values, "changed_at": now()})
        seal(connection, "design", number)  # one that was damaged is whole again


def rename(connection: sqlite3.Connection, number: int, name: str) -> None:
    """Rename a design.

    Raises:
        InputError: for a name that a design cannot have.
        NotKeptError: where it is not on the shelf.
        DamagedError: where it cannot be read.
    """
    kept = find(connection, number)
    renamed = read_design(write_design(kept.design.model_copy(update={"name": name})).encode())
    keep(connection, number, renamed, _typed_with(kept, name), kept.mark)


def duplicate(connection: sqlite3.Connection, number: int) -> int:
    """Put a copy on the shelf and return its number.

    Raises:
        NotKeptError: where the design is not on the shelf.
        DamagedError: where it cannot be read.
    """
    kept = find(connection, number)
    name = f"{kept.design.name[:110]} (copy)"
    return keep_new(connection, kept.design.model_copy(update={"name": name}), _typed_with(kept, name))


def put_away(connection: sqlite3.Connection, number: int) -> None:
    """Take a design off the shelf; :func:`bring_back` undoes it.

    Raises:
        NotKeptError: where it is not on the shelf.
    """
    with transaction(connection):
        _row(connection, number)
        change(connection, "design", number, {"deleted_at": now()})


def bring_back(connection: sqlite3.Connection, number: int) -> None:
    """Put a design back on the shelf that was put away.

    Raises:
        NotKeptError: where there is none such.
    """
    with transaction(connection):
        _row(connection, number, away=True)
        change(connection, "design", number, {"deleted_at": None})


def find(connection: sqlite3.Connection, number: int) -> Kept:
    """Return one design.

    Raises:
        NotKeptError: where it is not on the shelf.
        DamagedError: where it cannot be read.
    """
    return _kept(sound("design", _row(connection, number)))


def damaged(connection: sqlite3.Connection, number: int) -> Damaged:
    """Return what can be had of a design that cannot be read.

    Raises:
        NotKeptError: where it is not on the shelf, or can be read.
    """
    found = _kept_or_damaged(_row(connection, number))
    if isinstance(found, Damaged):
        return found
    raise NotKeptError(f"design {number} is not damaged")


def shelf(connection: sqlite3.Connection) -> list[Kept | Damaged]:
    """Return the designs on the shelf, the last changed first; ``search.find`` finds some of them."""
    rows = connection.execute("SELECT * FROM design WHERE deleted_at IS NULL ORDER BY changed_at DESC, id DESC")
    return [_kept_or_damaged(row) for row in rows]


def these(connection: sqlite3.Connection, numbers: Sequence[int]) -> list[Kept | Damaged]:
    """Return designs of the shelf by their numbers, in that order."""
    places = ", ".join("?" * len(numbers))
    rows = connection.execute(f"SELECT * FROM design WHERE deleted_at IS NULL AND id IN ({places})", (*numbers,))
    found = {row["id"]: _kept_or_damaged(row) for row in rows}
    return [found[each] for each in numbers if each in found]


def how_many(connection: sqlite3.Connection, away: bool = False) -> int:
    """Return how many designs are on the shelf, or put away."""
    kept = "NOT NULL" if away else "NULL"
    return int(connection.execute(f"SELECT count(*) FROM design WHERE deleted_at IS {kept}").fetchone()[0])


def away(connection: sqlite3.Connection, words: str = "", most: int = -1) -> list[PutAway]:
    """Return the designs put away in which all words are found, the last first."""
    wanted = [f"%{each.translate(_AS_THEY_STAND)}%" for each in folded(words).split()]
    where = " AND words LIKE ? ESCAPE '\\'" * len(wanted)
    rows = connection.execute(
        f"SELECT * FROM design WHERE deleted_at IS NOT NULL{where} ORDER BY deleted_at DESC, id DESC LIMIT ?",
        (*wanted, most),
    )
    return [PutAway(row["id"], _text(row["name"]), intact("design", row)) for row in rows]


def name_of(connection: sqlite3.Connection, number: int) -> str:
    """Return what a design is called, be it damaged or not.

    Raises:
        NotKeptError: where it is not on the shelf.
    """
    return _text(_row(connection, number)["name"])


def begun_at(connection: sqlite3.Connection, number: int) -> str:
    """Return when a design was put on the shelf.

    Raises:
        NotKeptError: where it is not there.
    """
    return str(_row(connection, number)["created_at"])


def mark_now(connection: sqlite3.Connection, number: int) -> str:
    """Return the mark that a design has, be it damaged or not.

    Raises:
        NotKeptError: where it is not on the shelf.
    """
    return str(_row(connection, number)["mark"])


def versions(connection: sqlite3.Connection, number: int) -> list[Version]:
    """Return what a design was before, the last first; one that cannot be read any more is left out."""
    rows = connection.execute("SELECT * FROM version WHERE design = ? ORDER BY id DESC", (number,))
    return list(_readable(rows))


def version(connection: sqlite3.Connection, number: int, which: int) -> Version:
    """Return what a design once was.

    Raises:
        NotKeptError: where there is no such version of it.
    """
    rows = connection.execute("SELECT * FROM version WHERE design = ? AND id = ?", (number, which))
    found = next(_readable(rows), None)
    if found is None:
        raise NotKeptError(f"design {number} has no version {which}")
    return found


def _readable(rows: sqlite3.Cursor) -> Iterator[Version]:
    for row in rows:
        try:
            kept = _kept(sound("version", row))
        except DamagedError:
            continue
        yield Version(kept.id, kept.design, kept.typed, kept.changed_at)


def _along_its_length(design: Design, row: sqlite3.Row) -> Design:
    """Return a design as it was typed with the sections that it has: those are typed on a page of their own."""
    try:
        sections = read_design(row["body"].encode()).sections
    except (InputError, UnicodeEncodeError):
        return design
    return design.model_copy(update={"version": 2, "sections": sections}) if sections else design


def change_along(connection: sqlite3.Connection, number: int, sections: Sections | None) -> None:
    """Change how a design changes along its length; what was typed of its yarn stays.

    Raises:
        NotKeptError: where it is not on the shelf.
        InputError: where the sections cannot be.
    """
    kept = find(connection, number)
    told = kept.design.model_copy(update={"version": 2 if sections else 1, "sections": sections})
    design = read_design(write_design(told).encode())
    values = _values(design, kept.typed)
    with transaction(connection):
        row = _row(connection, number)
        if row["body"] == values["body"]:
            return
        before = {name: row[name] for name in ("name", "body", "typed", "changed_at")}
        insert(connection, "version", {"design": number, **before})
        change(connection, "design", number, {**values, "changed_at": now()})


def _values(design: Design, typed: str) -> dict[str, Value]:
    body = write_design(design)
    return {"name": design.name, "body": body, "typed": typed, "words": words_of_design(design)}


_AS_THEY_STAND = str.maketrans({"%": r"\%", "_": r"\_", "\\": r"\\"})


def _typed_with(kept: Kept, name: str) -> str:
    """Return what was typed, with another name; the renamed design and its draft then still agree."""
    try:
        return write_draft(read_draft(kept.typed).model_copy(update={"name": name}))
    except InputError:
        return AS_A_FILE


def _row(connection: sqlite3.Connection, number: int, away: bool = False) -> sqlite3.Row:
    kept = "NOT NULL" if away else "NULL"
    row = connection.execute(f"SELECT * FROM design WHERE id = ? AND deleted_at IS {kept}", (number,)).fetchone()
    if row is None:
        raise NotKeptError(f"design {number} is not there")
    found: sqlite3.Row = row
    return found


def _kept(row: sqlite3.Row) -> Kept:
    try:
        return Kept(row["id"], read_design(row["body"].encode()), row["typed"], row["changed_at"], row["mark"])
    except InputError as error:
        raise DamagedError(str(error), dict(row)) from error


def _kept_or_damaged(row: sqlite3.Row) -> Kept | Damaged:
    try:
        return _kept(sound("design", row))
    except DamagedError as error:
        return Damaged(row["id"], _text(row["name"]), _text(row["body"]), str(error))


def _text(value: Value) -> str:
    """Return text as far as it can be read."""
    return str(value).encode("utf-8", "surrogateescape").decode("utf-8", "replace")
