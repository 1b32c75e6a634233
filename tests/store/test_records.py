"""What was measured, kept and found again."""

import sqlite3

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import database, designs, records
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.workshop.starts import start

PLAIN = Settings()


sizes = st.none() | st.floats(0.1, 5000)


@given(
    st.sampled_from(["plied", "finished"]),
    st.booleans(),
    sizes,
    sizes,
    sizes,
    st.floats(-200, 200),
    st.text("aé ñ'\"<", max_size=40),
)
def test_what_is_noted_is_found_again(moment, wet, metres, grams, wraps, loop, note):
    connection = database.connect(":memory:")
    for script in database.migrations():
        connection.executescript(script)
    number = designs.keep_new(connection, design_of(start("single"), PLAIN))
    skein = Skein(moment, wet, metres, grams, wraps, "snug", loop, note)
    swatch = Swatch(None, 20.0, 19.5, None, wraps, metres, "unsure", note)
    for record in (skein, swatch, skein):
        records.note(connection, number, record)
    assert [noted.record for noted in records.skeins(connection, number)] == [skein, skein]
    assert [noted.record for noted in records.swatches(connection, number)] == [swatch]


def test_records_are_struck_out_and_brought_back_and_belong_to_their_design(connection):
    one, other = (designs.keep_new(connection, design_of(start("single"), PLAIN)) for _ in range(2))
    number = records.note(connection, one, Skein("plied", False, None, None, 12.0, "relaxed", None, ""))
    assert records.skeins(connection, other) == []
    with pytest.raises(NotKeptError):
        records.strike_out(connection, "skein", other, number)
    records.strike_out(connection, "skein", one, number)
    assert records.skeins(connection, one) == []
    records.bring_back(connection, "skein", one, number)
    assert len(records.skeins(connection, one)) == 1


def test_the_database_refuses_what_makes_no_sense(connection):
    skein = Skein("plied", False, None, None, 12.0, "relaxed", None, "")
    with pytest.raises(NotKeptError):
        records.note(connection, 99, skein)
    number = designs.keep_new(connection, design_of(start("single"), PLAIN))
    with pytest.raises(sqlite3.IntegrityError):
        records.note(connection, number, skein, spinner="nobody")
    assert records.skeins(connection, number) == []
