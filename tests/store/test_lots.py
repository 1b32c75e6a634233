"""Lots on their shelf: kept, used, damaged and brought back."""

import pytest

from pebble_wheel.notation.design import new_design
from pebble_wheel.notation.log import Planned
from pebble_wheel.notation.lot import read_lot
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import check, database, designs, lots, records
from pebble_wheel.store.shelved import NotThereError


def lot_of(name="Grey", uid="grey-uid", **typed):
    return read_lot({"name": name, "fibres": "shetland", "grams": "200 g", **typed}, Settings(), uid)


def single(fibre, tex=100.0, **more):
    return {
        "kind": "single",
        "fibre": fibre,
        "prep": "combed",
        "tex": tex,
        "twist": {"turns_per_m": 220, "direction": "Z"},
        **more,
    }


def test_a_lot_is_kept_changed_put_away_and_brought_back(connection):
    lots.keep(connection, lot_of(), {"name": "Grey"})
    (kept,) = lots.usable(connection)
    assert (kept.uid, kept.lot, kept.typed) == ("grey-uid", lot_of(), {"name": "Grey"})
    lots.keep(connection, lot_of("Darker"), {"name": "Darker"}, kept.id)
    assert lots.find(connection, kept.id).lot.name == "Darker" and len(lots.usable(connection)) == 1
    lots.put_away(connection, kept.id)
    assert lots.shelf(connection) == []
    for call in (lambda: lots.find(connection, kept.id), lambda: lots.keep(connection, lot_of(), {}, kept.id)):
        with pytest.raises(NotThereError):
            call()
    lots.bring_back(connection, kept.id)
    assert [each.id for each in lots.usable(connection)] == [kept.id]
    with pytest.raises(NotThereError):
        lots.put_away(connection, 99)


def test_grams_go_down_by_what_was_weighed(connection):
    lot = lot_of()
    lots.keep(connection, lot, {})
    fibre = lot.fibre.model_dump(exclude_none=True)
    laid = {"kind": "ply", "twist": {"of_balanced": 1.0, "direction": "S"}}
    half = new_design("Half", {**laid, "strands": [single(fibre), single("merino")]})
    chain = {"kind": "chain", "strand": single(fibre), "loop_mm": 160, "twist": {"of_balanced": 1.0, "direction": "S"}}
    mixed = new_design("Crepe", {**laid, "strands": [chain, single("merino", 300.0)]})
    number, other = designs.keep_new(connection, half), designs.keep_new(connection, mixed)
    designs.keep_new(connection, new_design("None of it", {**laid, "strands": [single("merino", count=2)]}))
    for stage, grams in (("plied", 50.0), ("plied", 30.0), ("finished", 60.0)):
        records.note(connection, number, Skein(stage, False, None, grams, None, "relaxed", None, ""))
    used = {each.name: (each.design, each.share, each.grams) for each in lots.uses(connection, "grey-uid")}
    assert used == {"Half": (number, 0.5, 40.0), "Crepe": (other, 0.5, 0.0)}
    assert lots.uses(connection, "another") == []


def test_a_damaged_lot_is_shown_and_hides_nothing(connection, file):
    lots.keep(connection, lot_of(), {})
    lots.keep(connection, lot_of("White", "white-uid"), {})
    connection.execute("UPDATE lot SET body = '{}' WHERE name = 'Grey'")
    shown = lots.shelf(connection)
    assert [type(each) for each in shown] == [lots.DamagedLot, lots.Lot] and shown[0].name == "Grey"
    assert [each.lot.name for each in lots.usable(connection)] == ["White"]
    assert any("lot 1" in line for line in check.check(file).damaged)
    saved = check.salvage(file, file.with_name("saved.sqlite3"))
    assert saved.lost == 0
    with database.opened(file.with_name("saved.sqlite3")) as other:
        assert [type(each) for each in lots.shelf(other)] == [lots.DamagedLot, lots.Lot]


def test_singles_left_over_and_kept_come_off_the_lot(connection):
    """6.5 g of it are in no skein, and in nobody's bag of fibre any more."""
    lots.keep(connection, lot_of(), {})
    fibre = lot_of().fibre.model_dump(exclude_none=True)
    number = designs.keep_new(connection, new_design("Grey", single(fibre)))
    records.note(connection, number, Skein("finished", False, 400.0, 60.0, None, "relaxed", None, ""))
    records.keep_plan(connection, number, Planned({}, {}, spare=6.5))
    assert lots.usable(connection)[0].left == pytest.approx(133.5)
    records.keep_plan(connection, number, Planned({}, {}))
    assert lots.usable(connection)[0].left == pytest.approx(140)
