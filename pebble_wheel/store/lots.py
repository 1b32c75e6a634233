"""Fibre in hand: what is on the shelf of lots, and what of each was spun."""

import json
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass, replace

from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    FibreModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    inner_of,
    walk,
)
from pebble_wheel.notation.lot import LotModel, check_lot
from pebble_wheel.store import designs, records, shelved
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import DamagedError, sound


@dataclass(frozen=True)
class Lot:
    """A lot with its place on the shelf."""

    id: int
    uid: str
    lot: LotModel
    typed: dict[str, str]
    left: float | None = None
    """Grams that no weighed skein has taken; None where the lot was not weighed, or that was not asked for."""


@dataclass(frozen=True)
class DamagedLot:
    """A lot that cannot be read, with what can be had of it."""

    id: int
    name: str
    text: str


@dataclass(frozen=True)
class Use:
    """A yarn that a lot goes into."""

    design: int
    name: str
    share: float
    """Of the yarn's mass."""
    grams: float
    """Of the lot, in the skeins that were weighed."""


def keep(connection: sqlite3.Connection, lot: LotModel, typed: dict[str, str], number: int | None = None) -> None:
    """Put a lot on the shelf, or overwrite one; its uid is the one that its fibre names.

    Raises:
        NotThereError: where the one to be overwritten is not on the shelf.
    """
    values = {"name": lot.name, "body": lot.model_dump_json(), "typed": _written(typed), "changed_at": now()}
    at_first = {"uid": lot.fibre.lot, "created_at": values["changed_at"]}
    with transaction(connection):
        shelved.keep_within(connection, "lot", number, values, at_first)


def _written(typed: dict[str, str]) -> str:
    return json.dumps(typed, separators=(",", ":"), ensure_ascii=False)


def put_away(connection: sqlite3.Connection, number: int) -> None:
    """Take a lot off the shelf; :func:`bring_back` undoes it."""
    shelved.put_away(connection, "lot", number)


def bring_back(connection: sqlite3.Connection, number: int) -> None:
    """Put a lot back that was put away."""
    shelved.bring_back(connection, "lot", number)


def find(connection: sqlite3.Connection, number: int) -> Lot:
    """Return one lot.

    Raises:
        NotThereError: where it is not on the shelf.
        DamagedError: where it cannot be read.
    """
    return _lot(shelved.row(connection, "lot", number))


def shelf(connection: sqlite3.Connection) -> list[Lot | DamagedLot]:
    """Return the lots on the shelf, by name."""
    rows = connection.execute("SELECT * FROM lot WHERE deleted_at IS NULL ORDER BY name COLLATE NOCASE, id")
    return list(_readable(rows))


def usable(connection: sqlite3.Connection) -> list[Lot]:
    """Return the lots on the shelf that can be read, by name, with what is left of each."""
    return [_with_left(connection, each) for each in shelf(connection) if isinstance(each, Lot)]


def _with_left(connection: sqlite3.Connection, kept: Lot) -> Lot:
    if kept.lot.grams is None:
        return kept
    used = sum(each.grams for each in uses(connection, kept.uid))
    return replace(kept, left=max(kept.lot.grams - used, 0.0))


def uses(connection: sqlite3.Connection, uid: str) -> list[Use]:
    """Return the yarns on the shelf that a lot goes into, with what their weighed skeins took of it.

    A skein is weighed as plied, finished, or both: of a yarn the larger of both sums counts.
    """
    rows = connection.execute(
        "SELECT id FROM design WHERE deleted_at IS NULL AND body LIKE ? ORDER BY id", (f"%{uid}%",)
    ).fetchall()
    found = []
    for (number,) in rows:
        try:
            design = designs.find(connection, number).design
        except DamagedError:
            continue
        share = _share(design, uid)
        if share:
            found.append(Use(number, design.name, share, share * _weighed(connection, number)))
    return found


def _weighed(connection: sqlite3.Connection, number: int) -> float:
    sums = {"plied": 0.0, "finished": 0.0}
    for each in records.skeins(connection, number):
        sums[each.record.stage] += each.record.grams or 0.0
    planned = records.plan(connection, number)
    return max(sums.values()) + (planned.record.spare if planned else 0.0)


def _share(design: Design, uid: str) -> float:
    """Return the share of a design's spun fibre that is of a lot, by the length and linear density laid in."""
    whole = own = 0.0
    laid: dict[Address, float] = {}
    for path, _, model in walk(design.yarn):
        times = laid.get(path, 1.0) * model.count
        for name, _ in inner_of(model):
            laid[path.inner(name)] = times * _taken(model, name)
        spun = _spun(model)
        if spun:
            fibre, tex = spun
            whole += times * tex
            own += times * tex * (not isinstance(fibre, str) and fibre.lot == uid)
    return own / whole if whole else 0.0


def _taken(model: NodeModel, name: str) -> float:
    """Return how many lengths of a strand go into one of what it is laid into, take-up apart."""
    match model:
        case ChainModel():
            return CHAIN_LEGS
        case WrappedModel():
            return model.overfeed if name == "wrapper" else 1.0
        case SingleModel() | BoughtModel() | PlyModel() | CoreSpunModel():
            return 1.0


def _spun(model: NodeModel) -> tuple[str | FibreModel, float] | None:
    """Return the fibre spun into a strand itself, and its linear density."""
    match model:
        case SingleModel():
            return model.fibre, model.tex
        case CoreSpunModel():
            return model.wrap.fibre, model.wrap.strip_tex
        case BoughtModel() | PlyModel() | ChainModel() | WrappedModel():
            return None


def _readable(rows: sqlite3.Cursor) -> Iterator[Lot | DamagedLot]:
    for row in rows:
        try:
            yield _lot(row)
        except DamagedError:
            yield DamagedLot(row["id"], str(row["name"]), str(row["body"]))


def _lot(row: sqlite3.Row) -> Lot:
    sound("lot", row)
    try:
        return Lot(row["id"], row["uid"], check_lot(row["body"]), json.loads(row["typed"]))
    except ValueError as error:
        raise DamagedError(str(error), dict(row)) from error
