"""What is kept: whole or not at all, found again, brought back."""

import re
import signal
import sqlite3
import subprocess
import sys
from dataclasses import replace

import pytest

from pebble_wheel.notation.design import Design, write_design
from pebble_wheel.notation.draft import design_of, read_draft, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.store import database, designs, settings
from pebble_wheel.workshop.starts import start

DRAFT = start("single").model_copy(update={"name": "Queen's collar"})
DRAFT = DRAFT.model_copy(update={"yarn": DRAFT.yarn.with_typed({"size": "22 wpi"})})
TYPED = write_draft(DRAFT)


def collar() -> Design:
    return design_of(DRAFT, Settings())


def test_a_design_is_found_again_as_it_was_with_what_was_typed(connection):
    number = designs.keep_new(connection, collar(), TYPED)
    found = designs.find(connection, number)
    assert found.design == collar() and found.typed == TYPED


def test_the_safety_settings_hold(connection):
    pragmas = {name: connection.execute(f"PRAGMA {name}").fetchone()[0] for name in ("foreign_keys", "synchronous")}
    assert pragmas == {"foreign_keys": 1, "synchronous": 2}
    assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    strict = connection.execute(
        "SELECT sql FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'found%'"
    ).fetchall()
    assert all("STRICT" in row[0] for row in strict)


def test_the_shelf_shows_the_last_changed_first(connection):
    first, second = (designs.keep_new(connection, collar(), TYPED) for _ in range(2))
    changed = TYPED.replace("22 wpi", "90 tex")
    designs.keep(connection, first, collar(), changed)
    assert [kept.id for kept in designs.shelf(connection)] == [first, second]
    assert designs.find(connection, first).typed == changed


def test_rename_and_duplicate(connection):
    number = designs.keep_new(connection, collar(), TYPED)
    designs.rename(connection, number, "King's collar")
    copy = designs.duplicate(connection, number)
    assert designs.find(connection, number).design.name == "King's collar"
    assert designs.find(connection, copy).design.name == "King's collar (copy)"
    assert read_draft(designs.find(connection, copy).typed).name == "King's collar (copy)"
    assert designs.find(connection, copy).design.yarn == designs.find(connection, number).design.yarn


@pytest.mark.parametrize("name", ["", "x" * 121])
def test_a_name_that_cannot_be_changes_nothing(connection, name):
    number = designs.keep_new(connection, collar(), TYPED)
    with pytest.raises(InputError, match="name"):
        designs.rename(connection, number, name)
    assert designs.find(connection, number).design.name == "Queen's collar"


def test_put_away_and_brought_back(connection):
    number = designs.keep_new(connection, collar(), TYPED)
    designs.put_away(connection, number)
    assert designs.shelf(connection) == [] and [kept.id for kept in designs.away(connection)] == [number]
    for gone in (designs.find, designs.put_away, designs.duplicate):
        with pytest.raises(designs.NotKeptError):
            gone(connection, number)
    designs.bring_back(connection, number)
    assert designs.find(connection, number).design == collar()
    with pytest.raises(designs.NotKeptError):
        designs.bring_back(connection, number)


def test_a_transaction_is_whole_or_not_at_all(connection):
    with pytest.raises(RuntimeError), database.transaction(connection):
        connection.execute("INSERT INTO setting VALUES ('length', 'inches', mark_of('length', 'inches'))")
        raise RuntimeError
    assert settings.load(connection) == Settings()


def test_settings_are_kept_and_checked(connection):
    chosen = in_units(Settings(angle_from="crosswise", wpi_method="snug", weight_table="council"), "imperial")
    settings.save(connection, chosen)
    settings.save(connection, chosen)
    assert settings.load(connection) == chosen
    for name, value in (("length", "cubits"), ("angle_from", "above"), ("wpi_method", ""), ("weight_table", "stone")):
        connection.execute(
            "UPDATE setting SET value = :value, mark = mark_of(:name, :value) WHERE name = :name",
            {"value": value, "name": name},
        )
        assert settings.load(connection) == replace(chosen, **{name: getattr(Settings(), name)})
        settings.save(connection, chosen)
    connection.execute("INSERT INTO setting VALUES ('colour_of_the_door', 'red', mark_of('colour_of_the_door', 'red'))")
    connection.execute("UPDATE setting SET value = 'metric' WHERE name = 'length'")  # without its mark
    assert settings.load(connection) == replace(chosen, length="metric")


def test_migrations_lead_forward_from_every_older_version(tmp_path):
    newest = len(database.migrations())
    for version in range(newest + 1):
        path = tmp_path / f"{version}.sqlite3"
        database.prepare(path, upto=version)
        database.prepare(path)
        database.prepare(path)
        with database.opened(path) as opened:
            assert opened.execute("PRAGMA user_version").fetchone()[0] == newest
            designs.keep_new(opened, collar(), TYPED)


def test_a_design_of_the_first_version_opens_after_the_migration(tmp_path):
    path = tmp_path / "old.sqlite3"
    database.prepare(path, upto=1)
    with database.opened(path) as opened:
        old = (collar().name, write_design(collar()), '{"size": "22 wpi"}', "2026-01-01", "2026-01-01")
        opened.execute("INSERT INTO design (name, body, typed, created_at, changed_at) VALUES (?, ?, ?, ?, ?)", old)
    database.prepare(path)
    with database.opened(path) as opened:
        assert designs.find(opened, 1).design == collar() and designs.find(opened, 1).typed == designs.AS_A_FILE


def test_files_that_are_not_ours_are_left_alone(tmp_path):
    text = tmp_path / "notes.txt"
    text.write_text("not a database, but a good long note about a fleece\n" * 9)
    with pytest.raises(database.DatabaseError):
        database.prepare(text)
    foreign = tmp_path / "foreign.sqlite3"
    with sqlite3.connect(foreign) as other:
        other.execute("CREATE TABLE song (title)")
    other.close()
    with pytest.raises(database.DatabaseError, match="another program"):
        database.prepare(foreign)
    newer = tmp_path / "newer.sqlite3"
    database.prepare(newer)
    with database.opened(newer) as opened:
        opened.execute("PRAGMA user_version = 999")
    with pytest.raises(database.DatabaseError, match="newer"):
        database.prepare(newer)


KEEP_AND_DIE = """
import os, signal, sys
from pathlib import Path
from pebble_wheel.store import database, designs
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.workshop.starts import start
connection = database.connect(Path(sys.argv[1]))
for number in range(5):
    draft = start("2-ply").model_copy(update={"name": f"yarn {number}"})
    designs.keep_new(connection, design_of(draft, Settings()), write_draft(draft))
    print(number, flush=True)
connection.execute("BEGIN IMMEDIATE")
connection.execute("UPDATE design SET name = 'half written'")
os.kill(os.getpid(), signal.SIGKILL)
"""


def test_a_killed_process_loses_nothing_it_answered_as_kept(file):
    done = subprocess.run([sys.executable, "-c", KEEP_AND_DIE, file], capture_output=True, text=True, check=False)
    assert done.returncode == -signal.SIGKILL, done.stderr
    with database.opened(file) as opened:
        names = sorted(kept.design.name for kept in designs.shelf(opened))
    assert names == [f"yarn {number}" for number in done.stdout.split()] and len(names) == 5


def test_a_writer_waits_five_seconds_and_the_time_is_utc_to_the_millisecond(connection):
    assert connection.execute("PRAGMA busy_timeout").fetchone()[0] == 5000
    assert database.APPLICATION_ID.to_bytes(4, "big") == b"PebW"
    assert connection.execute("PRAGMA application_id").fetchone()[0] == database.APPLICATION_ID
    moment = database.now()
    assert re.fullmatch(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}\+00:00", moment)
    number = designs.keep_new(connection, collar(), TYPED)
    assert designs.find(connection, number).changed_at >= moment


def test_a_copy_of_a_long_name_still_fits(connection):
    long = collar().model_copy(update={"name": "x" * 120})
    copied = designs.find(connection, designs.duplicate(connection, designs.keep_new(connection, long, TYPED)))
    assert copied.design.name == "x" * 110 + " (copy)" and read_draft(copied.typed).name == copied.design.name


def test_a_file_without_tables_may_become_ours_and_an_older_one_is_not_taken_for_newer(tmp_path):
    empty = tmp_path / "empty.sqlite3"
    sqlite3.connect(empty).close()
    database.prepare(empty)
    newest = len(database.migrations())
    with database.opened(empty) as opened:
        assert opened.execute("PRAGMA user_version").fetchone()[0] == newest
        opened.execute(f"PRAGMA user_version = {newest + 1}")
    with pytest.raises(database.DatabaseError, match=f"version {newest + 1}, newer"):
        database.prepare(empty)


def test_a_script_that_fails_half_way_leaves_the_version_before(tmp_path, monkeypatch):
    path = tmp_path / "half.sqlite3"
    database.prepare(path)
    scripts = database.migrations()
    broken = [*scripts, "CREATE TABLE more (x TEXT) STRICT;\nCREATE TABLE more (x TEXT) STRICT;\n"]
    monkeypatch.setattr(database, "migrations", lambda: broken)
    with pytest.raises(database.DatabaseError, match="already exists"):
        database.prepare(path)
    with database.opened(path) as opened:
        assert opened.execute("PRAGMA user_version").fetchone()[0] == len(scripts)
        assert opened.execute("SELECT count(*) FROM sqlite_schema WHERE name = 'more'").fetchone()[0] == 0
