"""The log as a table: it comes back as it was, with units in its header, and every fault has its line and column."""

import csv
from io import StringIO

import pytest

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.guess import Guess
from pebble_wheel.notation.log import Again, NextTime, Note, Planned, Printed, Sleep
from pebble_wheel.notation.sample import Asked, Sample
from pebble_wheel.store import database, designs, records, table
from pebble_wheel.store.records import KINDS, TYPES


@pytest.fixture
def room(connection, furnish):
    furnish(connection)
    return {each.design.name: each.id for each in designs.shelf(connection)}


def log_of(connection, number):
    return [
        (records.kind_of(each.record), each.record, each.noted_at, each.spinner, each.struck, each.reference)
        for each in records.entries(connection, number)
    ]


MORE = (
    Note('=SUM(A1), "quoted"\nand a second line; ümlaut'),
    Sleep("dry", 36.0),
    NextTime("thinner, 4-ply"),
    Again(
        "uid",
        "Old",
        "2026-01-01T00:00:00.000+00:00",
        Asked(0.1, -0.05, 0.0),
        0.9,
        0.85,
        ("thinner",),
        (),
        (("a", "b"),),
        {"yarn": "9:1"},
    ),
    Guess("growth", 0.0, None, "0 %"),
    Printed('{"name": "card"}'),
    Planned({"want": "all", "lot-1": "x"}, {"spin": "2026-01-02"}, "ply", "2026-01-03", 4.5),
    Sample("yarn.strands[0]", wet=True, photos=("a", "b"), fold_word="wide", tied="blue tin", note="[not json"),
)


def test_every_kind_of_entry_comes_back_as_it_was(connection, room, tmp_path):
    number = room["Fisher's jersey"]
    for each in MORE:
        records.note(connection, number, each, "second")
    sample = records.samples(connection, number)[0]
    records.count_out(connection, number, sample.id, frozenset({"fold", "thick"}))
    assert {records.kind_of(each[1]) for each in log_of(connection, number)} == set(KINDS)
    written = table.export(connection, number)
    before = log_of(connection, number)
    assert table.read(connection, number, written.encode(), "first") == table.TakenIn(0, len(before))
    assert log_of(connection, number) == before
    other = tmp_path / "other.sqlite3"
    database.prepare(other)
    with database.opened(other) as anew:
        fill(anew)
        anew.execute("DELETE FROM entry")
        assert table.read(anew, number, written.encode(), "first").added == len(before)
        assert log_of(anew, number) == before and table.export(anew, number) == written
        assert not records.damaged(anew, number)


def test_the_header_says_the_units(connection, room):
    head = next(csv.reader(StringIO(table.export(connection, room["Fisher's jersey"]))))
    assert head[:4] == ["uid", "noted at", "by", "kind"]
    assert {"thick [mm]", "turns per m [turns/m]", "wraps [1/in]", "stitches after [in 10 cm]", "grams [g]"} <= set(
        head
    )
    unitless = {
        "brake",
        "hand",
        "words",
        "about",
        "came",
        "hangs",
        "strand",
        "taken",
        "stage",
        "thick by",
        "fold word",
        "method",
        "note",
        "tied",
        "bloomed",
        "wet",
        "places",
    }
    assert {each for each in head[6:] if "[" not in each} <= unitless
    assert len({*map(table.header, table.UNITS)}) == len(table.UNITS)
    every = {each for kind in TYPES.values() for each in kind.__dataclass_fields__}
    assert set(table.UNITS) <= every


def test_a_table_of_ones_own_is_taken_in(connection, room):
    number = room["Moth's lace wings"]
    own = "kind;noted at;wraps [1/in];stage;method;note\nskein;2026-03-01;34,5;finished;relaxed;off the line\n;;;;;\n"
    with pytest.raises(InputError) as refused:
        table.read(connection, number, (own + "note;;12;;;\n").encode(), "second")
    assert [each.place for each in refused.value.faults] == ["line 4, wraps [1/in]"]
    done = table.read(connection, number, ("\ufeff" + own).encode(), "second")
    (skein,) = records.skeins(connection, number)
    assert done.added == 1 and skein.record.wraps == 34.5 and skein.record.metres is None
    assert skein.spinner == "second" and skein.noted_at.startswith("2026-03-01T12:00")


@pytest.mark.parametrize(
    ("text", "place", "why"),
    [
        ("", "line 1", "“kind” is missing"),
        ("kind,thick\n", "line 1", "“thick” is no column"),
        ("kind\nsheep\n", "line 2, kind", "must be one of"),
        ("kind,grams [g],strand\nsample,heavy,yarn\n", "line 2, grams [g]", "“heavy” is no number"),
        ("kind,hours [h]\nnote,3\n", "line 2, hours [h]", "a note has no such figure"),
        ("kind,words,by\nnote,hello,Nobody\n", "line 2, by", "nobody called Nobody"),
        ("kind,words,noted at\nnote,hello,yesterday\n", "line 2, noted at", "no day like"),
        ("kind,wraps [1/in],stage,method\nskein,-4,finished,relaxed\n", "line 2", "no skein can be so"),
        ("kind,words,left out\nnote,hello,thick\n", "line 2, left out", "a list of readings"),
    ],
)
def test_a_fault_has_its_line_and_column_and_nothing_is_taken_in(connection, room, text, place, why):
    number = room["Fisher's jersey"]
    before = log_of(connection, number)
    with pytest.raises(InputError) as refused:
        table.read(connection, number, text.encode(), "first")
    assert any(each.place == place and why in each.message for each in refused.value.faults)
    assert log_of(connection, number) == before


def test_what_is_no_text_is_refused(connection, room):
    for packed in (b"\xff\xfe\x00", b"kind\n" + b"x" * table.MOST_BYTES):
        with pytest.raises(InputError):
            table.read(connection, room["Fisher's jersey"], packed, "first")
