"""What is damaged is noticed, hides nothing else, and comes back from an earlier version."""

import random
import shutil
import sqlite3
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from dataclasses import fields
from multiprocessing import get_context

import pytest

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.search import Sought
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.store import database, designs, records, search, settings
from pebble_wheel.store.pictures import Pictures, Small
from pebble_wheel.store.pool import MOST_IDLE, Connections
from pebble_wheel.store.rows import DamagedError, mark_of
from pebble_wheel.workshop.starts import STARTS, start

PLAIN = Settings()


def yarn(kind="2-ply", name="Mane"):
    draft = start(kind).model_copy(update={"name": name})
    return design_of(draft, PLAIN), write_draft(draft)


def test_a_mark_tells_every_value_and_its_place():
    marks = {mark_of(*values) for values in ((1, "a"), (1, "b"), ("1", "a"), ("a", 1), (1, None), (1,), (1.0, "a"))}
    assert len(marks) == 7 and all(len(mark) == 16 for mark in marks)


@pytest.mark.parametrize("column", ["name", "body", "typed", "created_at", "changed_at"])
def test_one_damaged_row_hides_no_other(connection, column):
    numbers = [designs.keep_new(connection, *yarn(name=f"yarn {place}")) for place in range(3)]
    connection.execute(f"UPDATE design SET {column} = replace({column}, '2', '3') WHERE id = ?", (numbers[1],))
    connection.execute(f"UPDATE design SET {column} = replace({column}, '1', '7') WHERE id = ?", (numbers[1],))
    found = {each.id: each for each in designs.shelf(connection)}
    assert isinstance(found[numbers[1]], designs.Damaged) and found[numbers[1]].name.startswith("yarn")
    assert [isinstance(found[each], designs.Kept) for each in (numbers[0], numbers[2])] == [True, True]
    with pytest.raises(DamagedError, match="no longer holds"):
        designs.find(connection, numbers[1])
    assert '"format"' in designs.damaged(connection, numbers[1]).text
    with pytest.raises(designs.NotKeptError):
        designs.damaged(connection, numbers[0])
    designs.put_away(connection, numbers[1])
    designs.bring_back(connection, numbers[1])
    with pytest.raises(DamagedError):  # being moved about makes it no sounder
        designs.find(connection, numbers[1])


def test_a_design_that_is_no_design_any_more_says_so(connection):
    number = designs.keep_new(connection, *yarn())
    connection.execute("UPDATE design SET body = '{\"yarn\": 3}' WHERE id = ?", (number,))
    connection.execute(
        "UPDATE design SET mark = mark_of(id, uid, name, body, typed, created_at, changed_at, deleted_at)"
    )
    (found,) = designs.shelf(connection)
    assert isinstance(found, designs.Damaged) and found.text == '{"yarn": 3}' and "yarn" in found.why


def test_what_a_design_was_stays_and_can_be_brought_back(connection):
    design, typed = yarn()
    number = designs.keep_new(connection, design, typed)
    other, retyped = yarn("3-ply", "Crest")
    designs.keep(connection, number, other, retyped)
    designs.keep(connection, number, other, retyped)  # nothing new: no version
    (before,) = designs.versions(connection, number)
    assert (before.design, before.typed) == (design, typed)
    assert designs.version(connection, number, before.id) == before
    designs.keep(connection, number, before.design, before.typed)
    assert designs.find(connection, number).design == design
    assert [each.design.name for each in designs.versions(connection, number)] == ["Crest", "Mane"]
    with pytest.raises(designs.NotKeptError):
        designs.version(connection, number + 1, before.id)


def test_a_damaged_design_is_whole_again_once_a_version_is_brought_back(connection):
    number = designs.keep_new(connection, *yarn())
    designs.keep(connection, number, *yarn("3-ply"))
    connection.execute("UPDATE design SET body = '{}' WHERE id = ?", (number,))
    (before,) = designs.versions(connection, number)
    designs.keep(connection, number, before.design, before.typed)
    assert designs.find(connection, number).design == yarn()[0]
    assert designs.versions(connection, number) == [before]  # the damaged one cannot be read, and hides no other


def test_of_two_windows_the_second_is_told(connection):
    number = designs.keep_new(connection, *yarn())
    opened = designs.find(connection, number).mark
    designs.keep(connection, number, *yarn("3-ply", "First"), opened)
    with pytest.raises(designs.ChangedMeanwhileError) as changed:
        designs.keep(connection, number, *yarn("chain", "Second"), opened)
    assert changed.value.now_kept.design.name == "First" == designs.find(connection, number).design.name
    designs.keep(connection, number, *yarn("chain", "Second"), changed.value.now_kept.mark)
    assert designs.find(connection, number).design.name == "Second"
    assert [each.design.name for each in designs.versions(connection, number)] == ["First", "Mane"]


def test_designs_are_found_by_words_whatever_their_capitals(connection):
    for kind in STARTS:
        designs.keep_new(connection, *yarn(kind, f"Ärmel {kind} 50% _"))
    found = {
        words: search.find(connection, Sought(tuple(words.split()))).count
        for words in ("ÄRMEL", "ärmel 3-PLY", "corriedale", "50% _", "%%", "q")
    }
    every = len(STARTS)
    assert found["ÄRMEL"] == every == found["50% _"] and found["ärmel 3-PLY"] == 1 and found["corriedale"] >= 3
    assert found["%%"] == found["q"] == 0
    page = search.find(connection, Sought(("ärmel",)), most=3, skip=2)
    assert list(page.ids) == [each.id for each in designs.shelf(connection)][2:5] and page.count == every


def test_what_nobody_can_measure_is_shown_as_damaged(connection):
    number = designs.keep_new(connection, *yarn())
    good = records.note(connection, number, Skein("plied", False, 3.0, 2.0, 12.0, "relaxed", None, ""))
    for metres in (1e300, 1e-320):
        records.note(connection, number, Skein("plied", False, metres, 2.0, 12.0, "relaxed", None, "too long"))
    records.note(connection, number, Swatch(3.0, 1e300, 20.0, None, None, None, "yes", ""))
    assert [each.id for each in records.skeins(connection, number)] == [good]
    damaged = records.damaged(connection, number)
    assert [each.kind for each in damaged] == ["skein", "skein", "swatch"] and "too long" in damaged[0].text
    records.strike_out(connection, "skein", number, damaged[0].id)
    assert len(records.damaged(connection, number)) == 2


def everything(file):
    with database.opened(file) as connection:
        shelf = designs.shelf(connection)
        measured = [
            (
                records.skeins(connection, each.id),
                records.swatches(connection, each.id),
                records.damaged(connection, each.id),
            )
            for each in shelf
        ]
        return shelf, designs.away(connection), measured, settings.load(connection)


def fallen_back(found, true):
    """Whether settings differ, each that does by having its usual value."""
    names = [each.name for each in fields(Settings) if getattr(found, each.name) != getattr(true, each.name)]
    return bool(names) and all(getattr(found, name) == getattr(Settings(), name) for name in names)


def test_no_flipped_byte_goes_unnoticed(tmp_path):
    """Of 60 places all over the file: the file is refused, the row is shown as damaged, or nothing of it is other."""
    whole = tmp_path / "whole.sqlite3"
    database.prepare(whole)
    with database.opened(whole) as connection:
        fill(connection)
        designs.put_away(connection, 2)
        settings.save(connection, in_units(Settings(), "imperial"))
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    true, size, chance, seen = everything(whole), whole.stat().st_size, random.Random(61), {"refused": 0, "shown": 0}
    for _ in range(60):
        file = tmp_path / "flipped.sqlite3"
        shutil.copy(whole, file)
        with file.open("r+b") as raw:
            byte = 0
            while not byte:  # what holds nothing is lost on nobody
                raw.seek(chance.randrange(size))
                byte = raw.read(1)[0]
            raw.seek(-1, 1)
            raw.write(bytes([byte ^ 1 << chance.randrange(8)]))
        try:
            database.prepare(file)
            found = everything(file)
        except (database.DatabaseError, sqlite3.DatabaseError):
            seen["refused"] += 1
            continue
        if found == true:
            continue
        damaged = [each for each in found[0] if isinstance(each, designs.Damaged)]
        others = [each for each in found[0] if isinstance(each, designs.Kept)]
        told = bool(damaged) or any(each[2] for each in found[2]) or fallen_back(found[3], true[3])
        told |= not all(each.whole for each in found[1])
        assert told and all(each in true[0] for each in others)
        seen["shown"] += 1
    assert seen["refused"] > 3 and seen["shown"] > 3, seen


def test_a_file_of_another_program_is_refused_before_anything_of_it_is_touched(tmp_path):
    for owner, made in ((0, "CREATE TABLE song (title)"), (77, "")):
        foreign = tmp_path / f"foreign-{owner}.sqlite3"
        with sqlite3.connect(foreign) as other:
            other.execute(f"PRAGMA application_id = {owner}")
            other.execute(made)
        other.close()
        before = foreign.read_bytes()
        with pytest.raises(database.DatabaseError, match="another program"):
            database.prepare(foreign)
        assert foreign.read_bytes() == before and len(list(tmp_path.glob(f"{foreign.name}*"))) == 1


def prepared(file):
    database.prepare(file)
    return True


def test_several_processes_open_one_new_database_at_once(tmp_path):
    with ProcessPoolExecutor(4, mp_context=get_context("spawn")) as pool:
        for round_ in range(3):
            assert all(pool.map(prepared, [tmp_path / f"{round_}.sqlite3"] * 4))
    with database.opened(tmp_path / "0.sqlite3") as connection:
        assert connection.execute("PRAGMA user_version").fetchone()[0] == len(database.migrations())


def test_lent_connections_are_used_again_and_left_where_the_file_is_another(file):
    pool = Connections(file)
    with pool.lent() as first:
        designs.keep_new(first, *yarn())
    with pool.lent() as again:
        assert again is first
    with pytest.raises(RuntimeError), pool.lent() as left:
        left.execute("BEGIN IMMEDIATE")
        raise RuntimeError
    with pytest.raises(sqlite3.ProgrammingError):  # what was half done was let go with its connection
        left.execute("SELECT 1")
    moved = file.rename(file.with_name("moved.sqlite3"))
    with pytest.raises(FileNotFoundError), pool.lent():
        pass
    database.prepare(file)
    with pool.lent() as anew:
        assert designs.shelf(anew) == []
    assert moved.exists()

    def lent(_: int) -> int:
        with pool.lent() as own:
            return len(designs.shelf(own))

    with ThreadPoolExecutor(MOST_IDLE + 4) as many:
        assert set(many.map(lent, range(60))) == {0}
    pool.close()


def test_small_pictures_are_kept_beside_the_database_and_no_fault_of_theirs_shows(file, tmp_path):
    pictures, small = Pictures(file), Small("<svg/>", Band(1.0, 2.0, 3.0), "balanced", "R 3 tex")
    assert pictures.find(["a"]) == {}
    pictures.keep("a", small)
    assert pictures.find(["b", "a"]) == {"a": small} and pictures.find([]) == {}
    assert pictures.file == tmp_path / "yarn-pictures.sqlite3"
    pictures.file.write_bytes(b"not a database at all, but long enough to look like something" * 20)
    assert pictures.find(["a"]) == {}
    pictures.keep("a", small)
