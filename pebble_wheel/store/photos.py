"""Photos of yarn, each with what was measured in it."""

import json
import sqlite3
from base64 import b64decode, b64encode
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.picture import read_picture
from pebble_wheel.store import shelved
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.records import FIRST
from pebble_wheel.store.rows import COLUMNS, DamagedError, change, insert, intact, sound


@dataclass(frozen=True)
class Body:
    """What is known of a photo."""

    width: int
    height: int
    strands: int
    """Of the last step of what it shows; 1 of a single."""
    typed: dict[str, str] = field(default_factory=dict)
    """Marks by hand, by field."""
    found: dict[str, str] = field(default_factory=dict)
    """Marks that looking found, likewise; they stay as they were found."""
    refused: tuple[str, ...] = ()
    """Why looking could not tell more."""
    uneven: float | None = None
    """How much its width varies along it, as looking found, a share."""
    marked: bool = False
    """Whether its marks are the person's: kept by hand, or taken from what was found."""
    looked: bool = False
    accepted: bool = False
    """Whether the person took what was found."""


_BODY = TypeAdapter(Body)


@dataclass(frozen=True)
class Photo:
    """A photo as it is kept, apart from its pixels."""

    id: int
    uid: str
    design: int
    strand: str
    noted_at: str
    body: Body
    original: bool
    """Whether the original is kept too."""


def keep_new(
    connection: sqlite3.Connection,
    design: int,
    strand: str,
    picture: bytes,
    body: Body,
    original: bytes | None = None,
    spinner: str = FIRST,
    noted_at: str | None = None,
) -> int:
    """Keep a photo of a strand of a design and return its number."""
    moment = now()
    with transaction(connection):
        return insert(
            connection,
            "photo",
            {
                "design": design,
                "strand": strand,
                "spinner": spinner,
                "picture": picture,
                "original": original,
                "body": _written(body),
                "noted_at": noted_at or moment,
                "changed_at": moment,
            },
        )


def keep(connection: sqlite3.Connection, number: int, body: Body) -> None:
    """Keep what was measured in a photo.

    Raises:
        NotThereError: where it is not there.
    """
    with transaction(connection):
        shelved.row(connection, "photo", number)
        change(connection, "photo", number, {"body": _written(body), "changed_at": now()})


def put_away(connection: sqlite3.Connection, number: int) -> None:
    """Put a photo away; what was noted by it stays as it is."""
    shelved.put_away(connection, "photo", number)


def bring_back(connection: sqlite3.Connection, number: int) -> None:
    """Bring a photo back that was put away."""
    shelved.bring_back(connection, "photo", number)


def delete(connection: sqlite3.Connection, number: int) -> None:
    """Delete a photo that was put away for good, pixels and all; what was noted by it stays as it is."""
    with transaction(connection):
        connection.execute("DELETE FROM photo WHERE id = ? AND deleted_at IS NOT NULL", (number,))


def find(connection: sqlite3.Connection, number: int) -> Photo:
    """Return one photo.

    Raises:
        NotThereError: where it is not there.
        DamagedError: where it cannot be read.
    """
    return _photo(shelved.row(connection, "photo", number))


def picture(connection: sqlite3.Connection, uid: str) -> bytes:
    """Return the pixels of a photo as a file, put away or not: by a name that no other photo ever has.

    Raises:
        NotThereError: where it is not there.
    """
    row = connection.execute("SELECT picture FROM photo WHERE uid = ?", (uid,)).fetchone()
    if row is None:
        raise shelved.NotThereError(f"no such photo {uid}")
    return bytes(row[0])


def of_design(connection: sqlite3.Connection, design: int) -> list[Photo]:
    """Return the photos of a design that can be read, the first first."""
    rows = connection.execute(
        "SELECT * FROM photo WHERE design = ? AND deleted_at IS NULL ORDER BY noted_at, id", (design,)
    )
    found = []
    for row in rows:
        try:
            found.append(_photo(row))
        except DamagedError:
            continue
    return found


def marked(connection: sqlite3.Connection, most: int) -> list[Photo]:
    """Return photos in which a person's marks stand, the newest first."""
    rows = connection.execute(
        """SELECT * FROM photo WHERE deleted_at IS NULL AND json_extract(body, '$.marked')
        ORDER BY noted_at DESC, id DESC LIMIT ?""",
        (most,),
    )
    return [_photo(row) for row in rows if intact("photo", row)]


def numbers_of(connection: sqlite3.Connection, design: int) -> dict[str, int]:
    """Return the photos of a design that were not put away: their numbers by uid."""
    rows = connection.execute("SELECT uid, id FROM photo WHERE design = ? AND deleted_at IS NULL", (design,))
    return {str(uid): int(number) for uid, number in rows}


def damaged(connection: sqlite3.Connection, design: int | None = None) -> list[int]:
    """Return the numbers of photos that cannot be read, of a design or of all."""
    rows = connection.execute(
        "SELECT * FROM photo WHERE deleted_at IS NULL AND design = coalesce(?, design)", (design,)
    )
    return [int(row["id"]) for row in rows if not intact("photo", row)]


def _photo(row: sqlite3.Row) -> Photo:
    sound("photo", row)
    try:
        body = _BODY.validate_json(row["body"])
    except ValidationError as error:
        raise DamagedError(str(error), dict(row)) from error
    return Photo(
        row["id"], row["uid"], row["design"], row["strand"], row["noted_at"], body, row["original"] is not None
    )


def _written(body: Body) -> str:
    return json.dumps(asdict(body), separators=(",", ":"), ensure_ascii=False)


_PIXELS = ("picture", "original")


def told(connection: sqlite3.Connection) -> list[dict[str, Any]]:
    """Return all photos that can be read as documents, their pixels in base 64."""
    uids = dict(connection.execute("SELECT id, uid FROM design").fetchall())
    found = []
    for row in connection.execute("SELECT * FROM photo ORDER BY noted_at, uid"):
        if not intact("photo", row):
            continue
        document = {name: row[name] for name in COLUMNS["photo"] if name != "id"}
        document |= {name: b64encode(row[name]).decode() if row[name] else None for name in _PIXELS}
        found.append(document | {"design": uids[row["design"]], "body": json.loads(row["body"])})
    return found


def take_in(connection: sqlite3.Connection, design: int, document: Mapping[str, Any]) -> str:
    """Take in a photo within a transaction, and return what became of it.

    Raises:
        ValueError: where it is none.
    """
    values = {name: document[name] for name in COLUMNS["photo"] if name != "id"} | {"design": design}
    values |= {name: b64decode(values[name], validate=True) if values[name] else None for name in _PIXELS}
    values["body"] = _written(_BODY.validate_python(values["body"]))
    read_picture(values["picture"] or b"")
    row = connection.execute("SELECT * FROM photo WHERE uid = ?", (values["uid"],)).fetchone()
    if row is None:
        insert(connection, "photo", values)
        return "added"
    if all(row[name] == value for name, value in values.items()):
        return "known"
    change(connection, "photo", row["id"], values)
    return "changed"
