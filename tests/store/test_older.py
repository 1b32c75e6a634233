"""Databases of every older version, as they were kept: they come forward whole."""

import shutil
import sqlite3
from pathlib import Path

import pytest

from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.store import database, designs, records, runs, settings, tools
from pebble_wheel.store.rows import mark_of

KEPT = Path(__file__).parent / "kept"


def test_a_wheel_and_bobbins_in_the_settings_of_old_are_tools(tmp_path):
    """Those of before the tenth version; what cannot be read is none, and a wheel nobody told of neither."""
    file = tmp_path / "old.sqlite3"
    database.prepare(file, upto=9)
    told = {"ratios": "6 9", "orifice": "10", "bobbin": "120 x 30 x 90", "bobbins": "3", "bobbin_empty": "52"}
    with database.opened(file) as connection:
        for name, value in (told | {"pace": "70"}).items():
            connection.execute("INSERT INTO setting VALUES (?, ?, ?)", (name, value, mark_of(name, value)))
        connection.execute("UPDATE setting SET mark = 'flipped' WHERE name = 'orifice'")
    database.prepare(file)
    with database.opened(file) as connection:
        bobbins, wheel = sorted((each.model for each in tools.usable(connection)), key=lambda each: each.kind)
        assert (wheel.name, wheel.ratios, wheel.orifice_mm) == ("My wheel", [6, 9], None)
        assert bobbins.empty_g == [52] * 3 and (bobbins.outer_mm, bobbins.core_mm, bobbins.width_mm) == (120, 30, 90)
        assert settings.load(connection) == Settings(pace="70")


def test_a_flipped_byte_does_not_keep_an_older_database_from_coming_forward(tmp_path):
    file = Path(shutil.copy(KEPT / "version-11.sqlite3", tmp_path / "old.sqlite3"))
    with sqlite3.connect(file) as before:
        (number, body), (design, text) = (
            before.execute(f"SELECT id, CAST(body AS BLOB) FROM {table} LIMIT 1").fetchone()
            for table in ("entry", "design")
        )
        for table, which, told in (("entry", number, body), ("design", design, text)):
            spoilt = bytearray(told)
            spoilt[told.index(b'":') - 1] = 0xFF  # within a name: no UTF-8 any more
            before.execute(f"UPDATE {table} SET body = CAST(? AS TEXT) WHERE id = ?", (bytes(spoilt), which))
    before.close()
    database.prepare(file)
    with database.opened(file) as connection:
        assert [each.id for each in designs.shelf(connection) if isinstance(each, designs.Damaged)] == [design]
        assert records.damaged(connection, design) or records.damaged(connection, design + 1)


def test_there_is_one_of_every_version_up_to_todays():
    assert {file.name for file in KEPT.glob("*.sqlite3")} == {
        f"version-{number}.sqlite3" for number in range(1, len(database.migrations()) + 1)
    }


@pytest.mark.parametrize("version", range(1, len(database.migrations()) + 1))
def test_a_database_of_an_older_version_comes_forward_whole(version, tmp_path):
    file = Path(shutil.copy(KEPT / f"version-{version}.sqlite3", tmp_path / "old.sqlite3"))
    with sqlite3.connect(file) as before:
        assert before.execute("PRAGMA user_version").fetchone() == (version,)
        assert before.execute("PRAGMA application_id").fetchone() == (0x50656257,)  # "PebW"
    before.close()
    database.prepare(file)
    with database.opened(file) as connection:
        assert connection.execute("PRAGMA user_version").fetchone()[0] == len(database.migrations())
        assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        shelf, away = designs.shelf(connection), designs.away(connection)
        assert [kept.design.name for kept in shelf] == ["Moth's lace wings", "Fisher's jersey"]
        assert [kept.name for kept in away] == ["Stage-door mittens"]
        assert shelf[1].design.yarn.strands[0].tex == 120 and shelf[1].changed_at == "2026-03-01T08:00:00.000+00:00"
        assert (shelf[0].typed == designs.AS_A_FILE) == (version < 2)
        assert settings.load(connection) == in_units(Settings(wpi_method="snug", weight_table="council"), "imperial")
        if version >= 10:
            assert [each.model.ratios for each in tools.usable(connection)] == [[6, 9, 12]]
            (run,) = runs.told(connection)
            assert len(run["lines"]) == 3 and not runs.damaged(connection)
        skeins = records.skeins(connection, shelf[1].id)
        swatches = records.swatches(connection, shelf[1].id)
        assert (len(skeins), len(swatches)) == ((1, 1) if version >= 3 else (0, 0))
        if version >= 3:
            assert (skeins[0].record.metres, skeins[0].record.wraps, skeins[0].record.loop_turns) == (262, 15, -1.5)
            assert (swatches[0].record.stitches_before, swatches[0].record.garment_mm) == (29, 900)
