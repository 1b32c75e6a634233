"""Copies, everything in one file, looking through, and saving what can be read."""

import json
import sqlite3
import threading
import zipfile
from io import BytesIO
from pathlib import Path

import pytest

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.search import Sought
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.store import check, copies, database, designs, notebook, records, runs, search, settings, tools
from pebble_wheel.store.rows import COLUMNS
from tests.store.test_damage import everything, yarn


@pytest.fixture
def file(tmp_path, furnish):
    """The invented yarn room, with something put away, changed, struck out and chosen."""
    path = tmp_path / "yarn.sqlite3"
    database.prepare(path)
    with database.opened(path) as connection:
        furnish(connection)
        designs.put_away(connection, 2)
        designs.keep(connection, 3, *yarn("3-ply", "Crest"))
        records.strike_out(connection, "skein", 9, records.skeins(connection, 9)[0].id)
        settings.save(connection, in_units(Settings(), "imperial"))
    return path


def rows(path: Path) -> dict[str, list[tuple]]:
    """All that is kept, but for the numbers that rows have in a store."""
    with database.opened(path) as connection:
        found = {}
        for table, columns in COLUMNS.items():
            names = ", ".join(each for each in columns if each not in ("id", "design"))
            found[table] = sorted(tuple(row) for row in connection.execute(f"SELECT {names} FROM {table}"))
        return found | {"setting": sorted(tuple(row) for row in connection.execute("SELECT * FROM setting"))}


def exported(path: Path) -> dict[str, str]:
    with database.opened(path) as connection, zipfile.ZipFile(BytesIO(notebook.export(connection))) as archive:
        return {name: archive.read(name).decode() for name in archive.namelist()}


def taken_in(path: Path, packed: bytes) -> notebook.Taken:
    database.prepare(path)
    with database.opened(path) as connection:
        return notebook.read(connection, packed)


def packed(path: Path) -> bytes:
    with database.opened(path) as connection:
        return notebook.export(connection)


def repacked(documents: dict[str, object]) -> bytes:
    made = BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        for name, document in documents.items():
            archive.writestr(name, document if isinstance(document, str) else json.dumps(document))
    return made.getvalue()


def test_a_notebook_taken_in_is_an_identical_store_and_doubles_nothing(file, tmp_path):
    other = tmp_path / "other.sqlite3"
    first = taken_in(other, packed(file))
    assert rows(other) == rows(file) and first.added == sum(len(rows(file)[table]) for table in COLUMNS) - 1
    assert first.changed == 1  # the spinner that every notebook begins with has another name here
    assert [each.name if hasattr(each, "name") else each.design.name for each in everything(other)[0]] == [
        each.design.name for each in everything(file)[0]
    ]
    assert taken_in(other, packed(file)) == notebook.Taken(0, 0, first.added + first.changed)
    assert rows(other) == rows(file)


def test_written_out_taken_in_and_written_out_is_the_same_but_for_the_time(file, tmp_path):
    other = tmp_path / "other.sqlite3"
    taken_in(other, packed(file))
    once, again = exported(file), exported(other)
    heads = [json.loads(each.pop("notebook.json")) for each in (once, again)]
    assert once == again and set(once) == {*notebook.TABLES.values(), "runs.json", "photos.json", "settings.json"}
    assert {head.pop("exported_at")[:4] for head in heads} == {database.now()[:4]} and heads[0] == heads[1]


def test_of_one_design_changed_on_both_sides_the_last_counts_and_the_other_stays(file, tmp_path):
    other = tmp_path / "other.sqlite3"
    taken_in(other, packed(file))
    with database.opened(file) as connection:
        designs.keep(connection, 1, *yarn("chain", "Here, first"))
    with database.opened(other) as connection:
        designs.keep(connection, 1, *yarn("3-ply", "There, later"))
    for _ in range(2):
        taken_in(file, packed(other))
        taken_in(other, packed(file))
        for path in (file, other):
            with database.opened(path) as connection:
                assert designs.find(connection, 1).design.name == "There, later"
                assert "Here, first" in [each.design.name for each in designs.versions(connection, 1)]
    assert rows(file)["design"] == rows(other)["design"]
    assert rows(file)["version"] == rows(other)["version"]


def test_settings_chosen_here_stay(file, tmp_path):
    other = tmp_path / "other.sqlite3"
    database.prepare(other)
    with database.opened(other) as connection:
        settings.save(connection, Settings(wpi_method="snug"))
    taken_in(other, packed(file))
    assert everything(other)[3] == Settings(wpi_method="snug")


def one(told: dict[str, list[dict]], document: str, **changed: object) -> bytes:
    """The notebook with one row in a document, changed."""
    return repacked(told | {document: [told[document][0] | {"uid": "f" * 32} | changed]})


def test_a_notebook_of_before_the_log_is_still_read(file, tmp_path):
    """Skeins and swatches in documents of their own, as version 2 had them: each becomes an entry."""
    told = {name: json.loads(text) for name, text in exported(file).items()}
    older = {name: each for name, each in told.items() if name not in ("log.json", "spinners.json")}
    older["notebook.json"] = {"format": notebook.FORMAT, "version": 2, "exported_at": ""}
    about = ("uid", "design", "noted_at", "deleted_at")
    for kind, name in (("skein", "skeins.json"), ("swatch", "swatches.json")):
        own = [each for each in told["log.json"] if each["kind"] == kind]
        older[name] = [{**{each: row[each] for each in about}, **row["body"]} for row in own]
    for row in older["skeins.json"]:
        row["moment"] = row.pop("stage")
        row["wet"] = int(row["wet"])
    other = tmp_path / "other.sqlite3"
    taken_in(other, repacked(older))
    with database.opened(file) as before, database.opened(other) as after:
        for number in (1, 3, 9):
            uid = before.execute("SELECT uid FROM design WHERE id = ?", (number,)).fetchone()[0]
            same = after.execute("SELECT id FROM design WHERE uid = ?", (uid,)).fetchone()[0]
            for of in (records.skeins, records.swatches):
                assert [each.record for each in of(after, same)] == [each.record for each in of(before, number)]
    assert len(rows(other)["entry"]) == len(older["skeins.json"]) + len(older["swatches.json"]) > 4


def counted(connection, design=1):
    """A run that was counted and ended."""
    run = runs.begin(connection, design, "yarn.strands[0]", 9.0, 500.0, "first", "box", "second", 1.5)
    runs.add(connection, run, ['{"t": 0, "turns": 0}', '{"t": 5, "turns": 45}'], 2, "tap")
    runs.end(connection, run)
    return run


def test_recordings_are_written_out_taken_in_and_looked_through(file, tmp_path):
    """The longer recording of a run counts; a flipped figure in one is named, and saved all the same."""
    other, saved = tmp_path / "other.sqlite3", tmp_path / "saved.sqlite3"
    with database.opened(file) as connection:
        run = counted(connection, 3)
    taken_in(other, packed(file))
    taken_in(other, packed(file))
    with database.opened(file) as here, database.opened(other) as there:
        assert runs.told(here) == runs.told(there) and len(runs.told(here)) == 1
        assert runs.damaged(here) == runs.damaged(there) == []
        here.execute("INSERT INTO line (run, text, source) VALUES (?, ?, '')", (run, '{"t": 9, "turns": 60}'))
        assert [each.id for each in runs.damaged(here)] == [run]
    assert taken_in(other, packed(file)).changed == 1 and exported(other)["runs.json"] == exported(file)["runs.json"]
    assert f"run {run} of design 3: its recording no longer holds what was written" in check.check(file).damaged
    assert check.salvage(file, saved).lost == 0
    with database.opened(file) as here, database.opened(saved) as there:
        assert runs.told(here) == runs.told(there) and len(runs.damaged(there)) == 1


def test_a_wheel_that_stood_in_the_settings_of_an_older_notebook_is_a_tool(file, tmp_path):
    told = {name: json.loads(text) for name, text in exported(file).items()}
    older = {name: each for name, each in told.items() if name not in ("tools.json", "runs.json")}
    older["notebook.json"] = {"format": notebook.FORMAT, "version": 3, "exported_at": ""}
    of_old = {"ratios": "5:1 8:1", "orifice": "3/8", "bobbin": "4 x 1 x 3.5", "bobbins": "2", "bobbin_empty": "2"}
    older["settings.json"] |= of_old
    other = tmp_path / "other.sqlite3"
    for _ in range(2):
        taken_in(other, repacked(older))
    with database.opened(other) as connection:
        bobbins, wheel = sorted((each.model for each in tools.usable(connection)), key=lambda each: each.kind)
    assert wheel.ratios == [5, 8] and wheel.orifice_mm == pytest.approx(9.525)
    assert bobbins.outer_mm == pytest.approx(101.6) and bobbins.empty_g == pytest.approx([56.699] * 2, rel=1e-4)


def bodied(told: dict[str, list[dict]], **changed: object) -> dict[str, object]:
    """What the first entry of the log says, changed."""
    return told["log.json"][0]["body"] | changed


@pytest.mark.parametrize(
    ("spoil", "place"),
    [
        (lambda _: b"no zip at all", "no zip file"),
        (lambda told: repacked({"designs.json": told["designs.json"]}), "notebook.json is not in it"),
        (lambda told: repacked(told | {"notebook.json": {"format": "another", "version": 1}}), "format"),
        (lambda told: repacked(told | {"notebook.json": {"format": notebook.FORMAT, "version": 7}}), "version 6"),
        (lambda told: repacked(told | {"designs.json": "["}), "no JSON"),
        (lambda told: repacked(told | {"designs.json": "[" * 100_000}), "no JSON"),
        (lambda told: repacked(told | {"designs.json": {}}), "must be a list"),
        (lambda told: repacked(told | {"log.json": '[{"metres": NaN}]'}), "NaN is no number"),
        (lambda told: repacked(told | {"log.json": [{"uid": "1"}]}), r"log.json\[0\].* is missing"),
        (lambda told: repacked(told | {"log.json": [3]}), r"log.json\[0\]"),
        (lambda told: one(told, "log.json", body={"metres": 1e300}), "cannot be read"),
        (lambda told: one(told, "log.json", body=bodied(told, metres=-1.0)), r"log.json\[0\].*nobody can measure"),
        (lambda told: one(told, "log.json", design="0" * 32), "is not there"),
        (lambda told: one(told, "log.json", spinner="nobody"), r"log.json\[0\]"),
        (lambda told: one(told, "log.json", body=bodied(told, note="\ud800")), r"log.json\[0\]"),
        (lambda told: one(told, "designs.json", name=[7]), r"designs.json\[0\]"),
        (lambda told: one(told, "designs.json", body={"yarn": 1}), r"designs.json\[0\]"),
        (lambda told: one(told, "versions.json", body=None), r"versions.json\[0\]"),
        (lambda told: one(told, "tools.json", body={"kind": "broom"}), r"tools.json\[0\]"),
        (lambda told: repacked(told | {"runs.json": [{"uid": "1"}]}), r"runs.json\[0\].* is missing"),
        (lambda told: repacked(told | {"runs.json": {}}), "must be a list"),
    ],
)
def test_what_is_no_notebook_is_refused_with_its_place_and_nothing_is_taken_in(file, tmp_path, spoil, place):
    other = tmp_path / "other.sqlite3"
    database.prepare(other)
    told = {name: json.loads(text) for name, text in exported(file).items()}
    with pytest.raises(InputError, match=place):
        taken_in(other, spoil(told))
    assert everything(other)[:2] == ([], [])


def test_a_copy_is_whole_as_of_one_moment_while_others_write(file, tmp_path):
    going = threading.Event()

    def write() -> None:
        with database.opened(file) as connection:
            while not going.is_set():
                designs.keep_new(connection, *yarn())

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for number in range(5):
            copies.copy_to(file, tmp_path / f"{number}.sqlite3")
    finally:
        going.set()
        writer.join()
    for number in range(5):
        assert check.check(tmp_path / f"{number}.sqlite3").whole


def test_copies_beside_are_made_once_a_day_and_the_last_seven_stay(file, monkeypatch):
    assert copies.copy_daily(file) is not None and copies.copy_daily(file) is None
    days = iter(f"2026-05-{day:02d}-101500" for day in range(10, 20))
    monkeypatch.setattr(copies, "_STAMP", "")
    for stamp in days:
        monkeypatch.setattr(copies, "_STAMP", stamp)
        copies.copy_beside(file)
    kept = copies.copies_of(file)
    assert len(kept) == copies.MOST_COPIES == 7
    assert [each.made_at for each in kept][1:3] == ["2026-05-19, 10:15", "2026-05-18, 10:15"]
    assert all(each.file.parent.name == "yarn-copies" and each.size > 0 for each in kept)


def test_a_copy_is_made_before_every_migration(tmp_path):
    old = tmp_path / "old.sqlite3"
    database.prepare(old, upto=2)
    database.prepare(old, before=lambda path, version: copies.copy_beside(path))
    (kept,) = copies.copies_of(old)
    with sqlite3.connect(kept.file) as connection:
        assert connection.execute("PRAGMA user_version").fetchone()[0] == 2
    connection.close()
    database.prepare(old, before=lambda *_: pytest.fail("it is of today's version"))


def test_a_copy_is_put_back_under_those_who_have_the_store_open_and_can_be_undone(file, tmp_path):
    copy, before = tmp_path / "copy.sqlite3", rows(file)
    copies.copy_to(file, copy)
    with database.opened(file) as connection:
        designs.keep_new(connection, *yarn(name="Later"))
        later = rows(file)
        undo = copies.put_back(copy, file)
        assert search.find(connection, Sought(("later",))).count == 0  # seen by the connection that was open
    assert rows(file) == before and check.check(file).whole
    assert copies.put_back(undo, file) and rows(file) == later
    assert not list(tmp_path.glob("*.half*")) and not list(tmp_path.glob(".*half*"))


def test_what_is_no_copy_is_not_put_back(file, tmp_path):
    before = rows(file)
    notes, foreign = tmp_path / "notes.txt", tmp_path / "foreign.sqlite3"
    notes.write_text("a fleece, washed twice\n" * 60)
    with sqlite3.connect(foreign) as other:
        other.execute("CREATE TABLE song (title)")
    other.close()
    for wrong in (notes, foreign, tmp_path / "nothing.sqlite3"):
        with pytest.raises(database.DatabaseError):
            copies.put_back(wrong, file)
    with pytest.raises(database.DatabaseError, match="no such file"):
        copies.copy_to(tmp_path / "nothing.sqlite3", tmp_path / "a")
    with pytest.raises(database.DatabaseError, match="cannot be written"):
        copies.copy_to(file, Path("/dev/null/a"))
    assert rows(file) == before


def test_looking_through_says_what_is_damaged(file, tmp_path):
    assert check.check(file) == check.Report((), (), 11)
    with database.opened(file) as connection:
        connection.execute("UPDATE design SET name = 'Other' WHERE id = 1")
        connection.execute("UPDATE entry SET noted_at = '2' WHERE id = 2")
    report = check.check(file)
    assert not report.whole and report.faults == () and report.count == 11
    assert report.damaged[0].startswith("design 1, “Other”") and "skein 2 of design 8" in report.damaged[1]
    with pytest.raises(database.DatabaseError):
        check.check(tmp_path / "nothing.sqlite3")


def test_of_a_broken_file_is_saved_what_can_be_read(file, tmp_path):
    with database.opened(file) as connection:
        connection.execute("UPDATE design SET name = 'Other' WHERE id = 1")
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        page = connection.execute("PRAGMA page_size").fetchone()[0]
        body = connection.execute("SELECT body FROM design WHERE id = 4").fetchone()[0]
    raw = bytearray(file.read_bytes())
    at = bytes(raw).rindex(body.encode()[:40]) // page * page
    raw[at : at + 100] = b"\xff" * 100  # the head of a page with rows
    file.write_bytes(raw)
    assert check.check(file).faults
    with pytest.raises(database.DamagedFileError):
        database.prepare(file)
    saved = tmp_path / "saved.sqlite3"
    done = check.salvage(file, saved)
    assert done.saved > 5 and done.lost >= 1
    shelf = everything(saved)[0]
    assert any(isinstance(each, designs.Damaged) for each in shelf) or done.lost > 1
    assert len([each for each in shelf if isinstance(each, designs.Kept)]) >= 3
    with pytest.raises(database.DatabaseError, match="exists already"):
        check.salvage(file, saved)
