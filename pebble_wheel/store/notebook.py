"""Everything that is kept in one open file, and back again: a zip of JSON documents, described in ``docs/notebook.md``.

A row is known by its uid. Reading the same notebook twice doubles nothing; where a design is there already but
otherwise, the one changed last counts and the other becomes an earlier version of it.
"""

import hashlib
import json
import sqlite3
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
from io import BytesIO
from typing import Any, NoReturn

from pebble_wheel.notation.design import read_design, write_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.lot import check_lot
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.tool import check_tool
from pebble_wheel.notation.units import MEASURABLE
from pebble_wheel.store import photos, practice, records, runs, settings, tools
from pebble_wheel.store.before import tool_before
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import COLUMNS, Table, Value, change, insert, intact
from pebble_wheel.store.words import words_of, words_of_entry

FORMAT, VERSION = "pebble-wheel-notebook", 6
MOST_BYTES = 256_000_000
"""Of all documents, unpacked."""

TABLES: dict[Table, str] = {
    "design": "designs.json",
    "version": "versions.json",
    "lot": "lots.json",
    "tool": "tools.json",
    "spinner": "spinners.json",
    "entry": "log.json",
    "answer": "practice.json",
    "leave": "leave.json",
}
_TIMES: dict[Table, str] = {
    "design": "created_at",
    "lot": "created_at",
    "tool": "created_at",
    "version": "changed_at",
    "spinner": "created_at",
    "answer": "answered_at",
    "leave": "changed_at",
}
"""By which rows are put in order; entries of the log by when they were noted."""
_SINCE: dict[Table, int] = {"lot": 2, "spinner": 3, "entry": 3, "tool": 4, "answer": 6, "leave": 6}
"""The version of the notebook that first tells of a table."""
_BEFORE_THE_LOG = {"skein": "skeins.json", "swatch": "swatches.json"}
"""Documents that told of what was measured before there was one log, up to the version before it."""
_MANIFEST, _SETTINGS, _RUNS, _PHOTOS = "notebook.json", "settings.json", "runs.json", "photos.json"
_MORE_SINCE = {_RUNS: 4, _PHOTOS: 5}
"""Documents that tell of more than rows, and the version of the notebook that first had them."""
_JSON_COLUMNS = ("body", "typed", "struck", "plan")
_SAME_TIME = (1980, 1, 1, 0, 0, 0)
"""Of every document in the zip, so that the same notebook is the same bytes."""


@dataclass(frozen=True)
class Taken:
    """What came of reading a notebook."""

    added: int
    changed: int
    known: int
    """Rows that were there already, just so."""


def export(connection: sqlite3.Connection) -> bytes:
    """Return everything that is kept and can be read, as one file."""
    documents: dict[str, Any] = {_MANIFEST: {"format": FORMAT, "version": VERSION, "exported_at": now()}}
    connection.execute("BEGIN")  # all as of one moment
    try:
        for table, name in TABLES.items():
            documents[name] = list(_rows(connection, table))
        documents[_RUNS] = runs.told(connection)
        documents[_PHOTOS] = photos.told(connection)
        documents[_SETTINGS] = asdict(settings.load(connection))
    finally:
        connection.execute("COMMIT")
    packed = BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, document in documents.items():
            entry = zipfile.ZipInfo(name, _SAME_TIME)
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, json.dumps(document, indent=1, ensure_ascii=False) + "\n")
    return packed.getvalue()


def _rows(connection: sqlite3.Connection, table: Table) -> Iterator[dict[str, Any]]:
    """Yield the rows of a table that can be read, in an order that another store would have them in too."""
    uids = dict(connection.execute("SELECT id, uid FROM design").fetchall())
    order = f"{_TIMES.get(table, 'noted_at')}, uid"
    for row in connection.execute(f"SELECT * FROM {table} ORDER BY {order}"):
        if not intact(table, row):
            continue
        told = {name: row[name] for name in COLUMNS[table] if name != "id"}
        if "design" in told:
            told["design"] = uids[row["design"]]
        yield told | {name: _document(told[name]) for name in _JSON_COLUMNS if name in told}


def _document(text: str) -> Any:
    """Return what a column says; a plan that cannot be read any more stays a text."""
    try:
        return json.loads(text)
    except ValueError:
        return text


def read(connection: sqlite3.Connection, packed: bytes) -> Taken:
    """Take in a notebook, whole or not at all.

    Raises:
        InputError: where the file is no notebook, with the document and the place in it.
    """
    documents = _documents(packed)
    counts = {"added": 0, "changed": 0, "known": 0}
    with transaction(connection):
        for table, name in TABLES.items():
            for place, told in enumerate(documents[name]):
                try:
                    values = _values(connection, table, told)
                    counts[_taken(connection, table, values)] += 1
                except (KeyError, TypeError, ValueError, sqlite3.Error) as error:
                    raise InputError(Fault(f"{name}[{place}]", _why(error))) from error
        for kind, name in _BEFORE_THE_LOG.items():
            for place, told in enumerate(documents.get(name, [])):
                try:
                    values = _values(connection, "entry", _as_entry(kind, told))
                    counts[_taken(connection, "entry", values)] += 1
                except (KeyError, TypeError, ValueError, sqlite3.Error) as error:
                    raise InputError(Fault(f"{name}[{place}]", _why(error))) from error
        for name, take_in in ((_RUNS, runs.take_in), (_PHOTOS, photos.take_in)):
            for place, told in enumerate(documents[name]):
                try:
                    counts[take_in(connection, _design(connection, told), told)] += 1
                except (KeyError, TypeError, ValueError, sqlite3.Error) as error:
                    raise InputError(Fault(f"{name}[{place}]", _why(error))) from error
        _take_tools_of_old(connection, documents)
        _take_settings(connection, documents[_SETTINGS])
    return Taken(**counts)


def _why(error: Exception) -> str:
    if isinstance(error, InputError):
        return "; ".join(map(str, error.faults))
    return f"{error} is missing" if isinstance(error, KeyError) else str(error)


def _as_entry(kind: str, told: Mapping[str, Any]) -> dict[str, Any]:
    """Return what was measured as it stands in the log, told of before there was one."""
    about = ("uid", "design", "noted_at", "deleted_at")
    body = {("stage" if name == "moment" else name): value for name, value in told.items() if name not in about}
    if "wet" in body:
        body["wet"] = bool(body["wet"])
    changed = told["deleted_at"] or told["noted_at"]
    return {
        **{name: told[name] for name in about},
        **{"spinner": records.FIRST, "kind": kind, "body": body, "typed": {}, "plan": None, "struck": []},
        **{"sure": 0, "reference": 0, "changed_at": changed},
    }


def _documents(packed: bytes) -> dict[str, Any]:
    try:
        with zipfile.ZipFile(BytesIO(packed)) as archive:
            sizes = {entry.filename: entry.file_size for entry in archive.infolist()}
            if sum(sizes.values()) > MOST_BYTES:
                raise InputError(Fault("", f"it unpacks to more than {MOST_BYTES:,} bytes"))
            always = [name for table, name in TABLES.items() if table not in _SINCE]
            missing = [name for name in (_MANIFEST, *always, _SETTINGS) if name not in sizes]
            if missing:
                raise InputError(Fault("", f"it is no notebook of Pebble Wheel: {missing[0]} is not in it"))
            found = {
                name: json.loads(archive.read(name), parse_constant=_no_number)
                for name in sizes
                if name.endswith(".json")
            }
    except RecursionError as error:
        raise InputError(Fault("", "a document in it is no JSON: it is nested far too deep")) from error
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise InputError(Fault("", "this is no zip file that can be read")) from error
    except ValueError as error:
        if isinstance(error, InputError):
            raise
        raise InputError(Fault("", f"a document in it is no JSON: {error}")) from error
    _check_documents(found)
    return found


def _check_documents(found: dict[str, Any]) -> None:
    """Refuse documents that no version of this program wrote; what an older one did not tell of is empty."""
    head = found[_MANIFEST]
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise InputError(Fault(_MANIFEST, f"its format must be {FORMAT}"))
    version = head.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or not 1 <= version <= VERSION:
        raise InputError(Fault(_MANIFEST, f"this program reads up to version {VERSION}; update it for a newer one"))
    for table, name in TABLES.items():
        if version < _SINCE.get(table, 1):
            found[name] = []
    for name, since in _MORE_SINCE.items():
        if version < since:
            found[name] = []
    older = _BEFORE_THE_LOG.values() if version < _SINCE["entry"] else ()
    for name in (*TABLES.values(), *_MORE_SINCE, *older):
        if name not in found:
            raise InputError(Fault("", f"it is no notebook of Pebble Wheel: {name} is not in it"))
        if not isinstance(found[name], list):
            raise InputError(Fault(name, "must be a list"))


def _no_number(name: str) -> NoReturn:
    raise ValueError(f"{name} is no number")


def _values(connection: sqlite3.Connection, table: Table, told: Mapping[str, Any]) -> dict[str, Value]:
    """Return a row of this store as a document tells it."""
    values = {name: told[name] for name in COLUMNS[table] if name != "id"}
    for name, value in values.items():
        if isinstance(value, float) and not abs(value) <= MEASURABLE[1]:
            raise ValueError(f"{name} is beyond any yarn")
    if table in ("design", "version"):  # reading it says what is wrong with it
        values["body"] = write_design(read_design(_compact(values["body"]).encode()))
        values["typed"] = _compact(values["typed"])
    if table == "lot":
        values["body"] = check_lot(_compact(values["body"])).model_dump_json()
        values["typed"] = _compact(values["typed"])
    if table == "tool":
        values["body"] = check_tool(_compact(values["body"])).model_dump_json()
        values["typed"] = _compact(values["typed"])
    if "design" in values:
        values["design"] = _design(connection, values)
    if table == "entry":
        records.read_record(str(values["kind"]), _compact(values["body"]))
        values |= {name: _compact(values[name]) for name in ("body", "typed", "struck")}
        values["words"] = words_of_entry(str(values["kind"]), str(values["body"]))
        values["plan"] = _plan(connection, values)
    if table == "answer":
        practice.check(values)
    if table == "design":
        values["words"] = words_of(str(values["name"]), str(values["body"]))
    return values


def _design(connection: sqlite3.Connection, told: Mapping[str, Any]) -> int:
    """Return the number here of the design that a document names."""
    row = connection.execute("SELECT id FROM design WHERE uid = ?", (told["design"],)).fetchone()
    if row is None:
        raise ValueError(f"its design {str(told['design'])[:40]} is not there")
    return int(row[0])


def _plan(connection: sqlite3.Connection, values: Mapping[str, Any]) -> str:
    """Return the design file that an entry was noted of: the design as it is, where that was not told."""
    told = values["plan"]
    if told is None:
        row = connection.execute("SELECT body FROM design WHERE id = ?", (values["design"],)).fetchone()
        return str(row[0])
    if isinstance(told, str):
        return told
    return write_design(read_design(_compact(told).encode()))


def _compact(value: Any) -> str:
    return json.dumps(value, separators=(",", ":"), ensure_ascii=False)


def _taken(connection: sqlite3.Connection, table: Table, values: dict[str, Value]) -> str:
    """Take in a row; return what became of it."""
    row = connection.execute(f"SELECT * FROM {table} WHERE uid = ?", (values["uid"],)).fetchone()
    if row is None:
        insert(connection, table, values)
        return "added"
    here = {name: row[name] for name in values}
    if _plain(here) == _plain(values) or table == "version":
        return "known"
    if table != "design":
        change(connection, table, row["id"], values)
        return "changed"
    older, newer = sorted((here, values), key=lambda each: str(each["changed_at"]))
    if here["body"] != values["body"]:
        _keep_older(connection, row["id"], older)
    change(connection, "design", row["id"], newer)
    return "changed" if newer is values else "known"


def _keep_older(connection: sqlite3.Connection, number: int, older: Mapping[str, Value]) -> None:
    """Keep the older of two states of a design as an earlier version, once."""
    told = {name: older[name] for name in ("name", "body", "typed", "changed_at")}
    uid = hashlib.blake2b(json.dumps([older["uid"], *told.values()]).encode(), digest_size=16).hexdigest()
    if connection.execute("SELECT 1 FROM version WHERE uid = ?", (uid,)).fetchone() is None:
        insert(connection, "version", {"uid": uid, "design": number, **told})


def _plain(values: Mapping[str, Value]) -> dict[str, Any]:
    """Return what a row says, however its documents are laid out; the words it is found by are not told."""
    read_too = {name: _document(str(values[name])) for name in _JSON_COLUMNS if name in values}
    return {**values, **read_too, "words": ""}


def _take_tools_of_old(connection: sqlite3.Connection, documents: Mapping[str, Any]) -> None:
    """Take in a wheel and bobbins that stand in settings of old, where none are here."""
    if documents[_MANIFEST]["version"] >= _SINCE["tool"] or connection.execute("SELECT 1 FROM tool").fetchone():
        return
    told = json.dumps(documents[_SETTINGS])
    for kind in ("wheel", "bobbins"):
        body, typed = (tool_before(kind, told, what) for what in ("body", "typed"))
        if body and typed:
            tools.keep_within(connection, check_tool(body), json.loads(typed))


def _take_settings(connection: sqlite3.Connection, told: Any) -> None:
    """Take in settings where none were chosen here."""
    if isinstance(told, dict) and settings.load(connection) == Settings():
        settings.save_within(connection, settings.usable({str(name): value for name, value in told.items()}))
