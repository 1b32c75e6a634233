"""Finding yarns by their words, those of their logs, and by what was worked out of them."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.log import Note, Sleep
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.search import Sought, read_search
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import designs, records, search, spinners
from pebble_wheel.store.search import Facts, find
from pebble_wheel.workshop.colour import Palette
from pebble_wheel.workshop.starts import STARTS, start

TEAL, NAVY, MADDER = (tuple(Palette((each,)).labs[0]) for each in ("#0f7a78", "#1d2c5e", "#b5462f"))


def kept(connection, name, kind="3-ply"):
    design = design_of(start(kind), Settings()).model_copy(update={"name": name})
    return designs.keep_new(connection, design)


def ids(connection, q="", near=(), **chosen):
    sought, faults = read_search({"q": q, **chosen}, Settings())
    assert not faults
    return list(find(connection, sought, near).ids)


def test_words_are_found_in_the_design_and_in_its_log_together(connection):
    mane, scarf = kept(connection, "Lion's mane"), kept(connection, "Dragon scarf", "chain")
    note = records.note(connection, mane, Note("Spun by the stage door, madder from the garden"))
    assert ids(connection, "madder") == ids(connection, "MANE madd") == ids(connection, "lion's 3-ply garden") == [mane]
    assert ids(connection, "madder dragon") == [] and ids(connection, "chain") == [scarf]
    assert ids(connection, "corrie") == [scarf, mane] and ids(connection, "orriedale") == []  # as a word begins
    assert find(connection, Sought(("madder", "lion"))).hits == {mane: (note,)}
    assert find(connection, Sought(("lion",))).hits == {}
    records.strike_out(connection, "note", mane, note)
    assert ids(connection, "madder") == []
    records.bring_back(connection, "note", mane, note)
    assert ids(connection, "madder") == [mane]


def test_structures_are_found_by_their_names_in_the_trade(connection):
    numbers = {kind: kept(connection, f"Yarn {place}", kind) for place, kind in enumerate(STARTS)}
    assert set(ids(connection, "cable")) == {numbers[kind] for kind in numbers if "cable" in kind}
    assert ids(connection, "crepe") == [numbers["crepe"]] and ids(connection, "coiled") == [numbers["coiled"]]
    assert ids(connection, "core-spun") == [numbers["core-spun"]]
    assert numbers["chain"] in ids(connection, "chain ply") and ids(connection, "4-ply") == [numbers["4-ply"]]


def test_a_renamed_yarn_is_found_by_its_new_name_and_one_put_away_by_none(connection):
    number = kept(connection, "Moth's wing")
    designs.rename(connection, number, "Öl-Lampe")
    assert ids(connection, "moth") == [] and ids(connection, "ol lampe") == ids(connection, "öl") == [number]
    designs.put_away(connection, number)
    assert ids(connection, "lampe") == []
    designs.bring_back(connection, number)
    assert ids(connection, "lampe") == [number]


def test_who_spun_when_and_what_sleeps(connection):
    one, other = kept(connection, "One"), kept(connection, "Other")
    mara = spinners.add(connection, "Mara 50%_")
    records.note(connection, one, Note("by her"), mara, noted_at="2019-05-01T08:00:00.000+00:00")
    now = datetime.now(UTC)
    for hours_ago, what in ((1, "rest"), (50, "dry")):
        moment = (now - timedelta(hours=hours_ago)).isoformat()
        records.note(connection, other, Sleep(what, 36.0), noted_at=moment)
    assert ids(connection, "by mar") == ids(connection, who=mara) == ids(connection, "2019") == [one]
    assert ids(connection, "by %") == ids(connection, "1999") == []
    assert ids(connection, year=str(now.year)) == [other, one]  # both were begun this year
    assert ids(connection, state="asleep") == [other] and ids(connection, state="drying") == []
    assert records.years(connection)[0] == now.year and records.years(connection)[-1] == 2019


def test_wraps_classes_fibre_and_colours_are_found_by_what_was_worked_out(connection):
    thin, thick = kept(connection, "Thin"), kept(connection, "Thick")
    assert search.unknown(connection, 9) == [thick, thin] and search.how_many_unknown(connection) == 2
    search.keep_facts(
        connection,
        {
            thin: Facts(18.0, 20.0, 22.0, 0.0, (TEAL, NAVY), ("lot-a",)),
            thick: Facts(6.0, 7.0, 8.0, 12.0, (MADDER,)),
        },
    )
    assert search.how_many_unknown(connection) == 0
    assert ids(connection, "21 wpi") == ids(connection, "19-30 wraps") == ids(connection, weight="lace") == [thin]
    assert ids(connection, "bulky weight") == [thick] and ids(connection, "12 wpi") == []
    assert ids(connection, state="short") == [thick]
    assert ids(connection, near=TEAL) == [thin] and ids(connection, near=MADDER) == [thick]
    between = tuple(0.8 * one + 0.2 * other for one, other in zip(TEAL, NAVY, strict=True))
    search.keep_facts(connection, {thick: Facts(6.0, 7.0, 8.0, 0.0, (between,))})
    assert ids(connection, near=between) == [thick, thin]  # the nearest first
    records.note(connection, thick, Skein("finished", False, None, None, 12.1, "relaxed", None, ""))
    assert ids(connection, "12 wpi") == ids(connection, "12.4 wpi") == [thick]  # as it was measured, within 3 %
    assert ids(connection, "11.6 wpi") == ids(connection, "12.6 wpi") == []


def test_what_was_worked_out_falls_away_with_what_it_rests_on(connection):
    number = kept(connection, "Thin")
    search.keep_facts(connection, {number: Facts(18.0, 20.0, 22.0, 0.0, (TEAL,), ("lot-a",))})
    records.note(connection, number, Note("nothing to do with it"))
    assert search.unknown(connection, 9) == []
    records.note(connection, number, Skein("finished", False, 90.0, 30.0, 12.1, "relaxed", None, ""))
    assert search.unknown(connection, 9) == [number]  # less of the lot is left
    search.keep_facts(connection, {number: Facts(18.0, 20.0, 22.0, 0.0, ())})
    designs.keep(connection, number, design_of(start("chain"), Settings()))
    assert search.unknown(connection, 9) == [number]
    assert connection.execute("SELECT count(*) FROM hue").fetchone()[0] == 0


@given(st.text(max_size=30), st.sampled_from(["", "DK", "no such"]), st.sampled_from(["", "teal", "#12zz34", "2"]))
def test_whatever_is_typed_is_read_or_said_to_be_wrong(q, weight, colour):
    sought, faults = read_search({"q": q, "weight": weight, "colour": colour}, Settings())
    assert (weight == "no such") == any(each.place == "weight" for each in faults)
    assert bool(sought.colour) == (colour == "teal" or "near" in q.lower().split())


@pytest.mark.parametrize("words", ['"', "a*b", "NEAR(x y)", "words:drop", "-mane", "50%", "'; DROP TABLE found; --"])
def test_signs_in_words_are_no_commands(connection, words):
    kept(connection, "Mane 50 words drop table found a b near x y")
    assert find(connection, Sought(tuple(words.split()))).count == (words != '"')


def test_a_search_goes_by_indexes(connection):
    """No word, person, year or state has the whole log read through."""
    told = []
    connection.set_trace_callback(told.append)
    sought = Sought(("mane",), (9.0, 9.0), (8.0, 9.0), "drying", 2024, "Mara", "#0f7a78")
    find(connection, sought, TEAL)
    connection.set_trace_callback(None)
    (asked,) = [each for each in told if each.startswith("SELECT id, count")]
    steps = [row["detail"] for row in connection.execute(f"EXPLAIN QUERY PLAN {asked}")]
    assert not [each for each in steps if each.startswith("SCAN entry")] and any(
        "USING INDEX" in each for each in steps
    )


def test_a_year_is_one_of_ours():
    for year, fine in (("1900", True), ("2999", True), ("1899", False), ("3000", False), ("2025.5", False)):
        sought, faults = read_search({"year": year}, Settings())
        assert bool(faults) != fine and (sought.year == (int(year) if fine else None))
    assert read_search({"q": "2025", "year": "2024"}, Settings())[0].year == 2024  # what is chosen goes before
