"""Yarns that change along their length: sections conserve metres and mass, coils lock, plain ends are ordinary yarn."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.finish.cloth import needle
from pebble_wheel.mechanics.making.sequence import laid_out
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.running import POWERS, runs_to
from pebble_wheel.mechanics.strand.state import PRESSED, wrap_packing, wraps
from pebble_wheel.notation.design import check_design, new_design, read_design, sections_in, write_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.texture import MOST_ROWS, Row, Texture, read_texture, with_row_copied, with_row_dropped
from pebble_wheel.wording.advice import advice_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.texture import (
    GESTURE_DO,
    GESTURE_HOLDS,
    along_advice,
    amount_words,
    ends_words,
    part_words,
    weft_words,
    whole_words,
)
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.gestures import (
    OVERFEED,
    SHOWING,
    STARTS,
    plain_ends,
    sections_of,
    single_of,
    started,
    texture_in,
    texture_typed,
    tree_of,
)
from pebble_wheel.workshop.plan import needs_of
from pebble_wheel.workshop.sequence import ends_first, read_along

EVALUATOR, PLAIN, DISPLAY, HANDS = Evaluator(), Settings(), Display(), Hands((6.0, 9.0))
SPUN = {"kind": "single", "fibre": "mohair", "prep": "semi", "tex": 240, "twist": {"turns_per_m": 90, "direction": "Z"}}
THREAD = {"kind": "bought", "tex": 70, "twist": {"turns_per_m": 350, "direction": "S"}}
MANE = new_design("Mane", {"kind": "ply", "strands": [SPUN, THREAD], "twist": {"turns_per_m": 120, "direction": "S"}})
GESTURES = tuple(OVERFEED)


def along(texture, design=MANE):
    sections = sections_of(texture, design)
    return read_along(design.model_copy(update={"version": 2, "sections": sections}), EVALUATOR, PLAIN, HANDS)


def rows(*told):
    return tuple(Row(gesture, length, fed) for gesture, length, fed in told)


def of(found, kind):
    return next(each for each in found.members if each.model.kind == kind)


def test_thirty_coils_locked_by_bobbles():
    """30 × (25 cm plain, 10 cm coils at overfeed 3, two bobbles of 2 cm at 5), plain ends of 30 cm: 12.3 m.

    9 m of single in the coils, 6 m of thread in the bobbles; the plain rest by the mechanics. Counted as it was spun a
    single is 5 % more: it is twisted up in the coil, and so shorter there.
    """
    told = rows(("plain", 250, None), ("bobble", 20, 5.0), ("coils", 100, 3.0), ("bobble", 20, 5.0))
    found = along(Texture(300, 300, 30, told))
    assert found.whole.metres == pytest.approx(12.3)
    parts = [(each.section.yarn.overfeed if each.section.yarn else 1.0, each.metres) for each in found.parts]
    assert sum(metres for fed, metres in parts if fed == 3.0) * 3 == pytest.approx(9.0)
    assert sum(metres for fed, metres in parts if fed == 5.0) * 5 == pytest.approx(6.0)
    plain = along(Texture(None, None, 1, rows(("plain", 1000, None))))
    each = {kind: of(plain, kind).metres for kind in ("single", "bought")}
    coils = along(Texture(None, None, 1, rows(("coils", 1000, 3.0))))
    assert of(coils, "single").metres == pytest.approx(3.0, rel=0.06)
    assert of(found, "single").metres == pytest.approx(9.0 + 8.1 * each["single"] + 1.2, rel=0.05)
    assert of(found, "bought").metres == pytest.approx(6.0 + 8.1 * each["bought"] + 3.0, rel=0.05)


def test_thread_straight_and_single_straight_swap_what_they_take():
    """What is held straight is as long as the yarn, what is laid round it half as long again."""
    thread, single = (along(Texture(None, None, 1, rows((each, 1000, 1.5)))) for each in ("spiral", "turned"))
    assert 0.9 < of(thread, "bought").metres < 1.2 and 0.9 < of(single, "single").metres < 1.2
    assert 1.4 < of(thread, "single").metres < 1.7 and 1.4 < of(single, "bought").metres < 1.7
    wide = [float(each.parts[0].reading.made.state.diameter) for each in (thread, single)]
    assert wide[0] != pytest.approx(wide[1], rel=0.02)


def test_coils_slide_until_bobbles_lock_them_at_both_ends():
    bare = along(Texture(300, 300, 5, rows(("plain", 100, None), ("coils", 100, 4.0))))
    one = along(Texture(300, 300, 5, rows(("plain", 100, None), ("coils", 100, 4.0), ("bobble", 20, 5.0))))
    both = along(Texture(300, 300, 5, rows(("bobble", 20, 5.0), ("coils", 100, 4.0), ("bobble", 20, 5.0))))
    assert [all(each.locked for each in found.parts) for found in (bare, one, both)] == [False, False, True]
    assert any("Coils slide" in each for each in along_advice(bare, 3.0, None, DISPLAY))
    assert not any("Coils slide" in each for each in along_advice(both, 3.0, None, DISPLAY))
    tight = along(Texture(None, None, 1, rows(("packed", 100, None))))
    assert of(tight, "single").metres > 0.2
    assert tight.parts[0].packed and not tight.parts[0].locked and "coils touch" in part_words(tight.parts[0], DISPLAY)
    assert not along(Texture(None, None, 1, rows(("spiral", 100, 1.2)))).parts[0].packed


def test_what_stands_off_snags_even_where_it_is_the_yarn_as_constructed():
    """Coils between bobbles are locked and snag; without bobbles they slide; a thread that lies square does not."""
    coiled = new_design("Coils", tree_of("coils", 3.0, MANE))
    locked = along(Texture(None, None, 4, rows(("bobble", 20, 5.0), ("plain", 80, None), ("bobble", 20, 5.0))), coiled)
    loose = along(Texture(None, None, 4, rows(("turned", 90, 1.3), ("plain", 80, None))), coiled)
    flat = along(Texture(300, 300, 4, rows(("turned", 90, 1.3), ("plain", 80, None))))
    assert all(each.locked for each in locked.parts) and not all(each.locked for each in loose.parts)
    for found, snags in ((locked, True), (loose, True), (flat, False)):
        assert any(each.startswith("It snags") for each in along_advice(found, 3.0, None, DISPLAY)) == snags


def test_what_does_not_pass_the_orifice_is_refused_with_a_remedy():
    found = along(Texture(300, 300, 5, rows(("coils", 100, 4.0))))
    said = along_advice(found, 6.0, 5.0, DISPLAY)
    assert said[0].startswith("Refused") and "wider orifice" in said[0]
    assert not any(each.startswith("Refused") for each in along_advice(found, 4.9, 5.0, DISPLAY))


def test_plain_ends_read_as_ordinary_yarn_and_give_the_needle():
    found = along(Texture(300, 300, 5, rows(("coils", 100, 4.0))))
    alone = EVALUATOR.read(MANE, PLAIN)
    assert found.parts[0].reading.wpi_finished == alone.wpi_finished
    size = DISPLAY.needle(float(needle(alone.diameter_finished.p50)))
    assert any(size in each for each in along_advice(found, 1.0, None, DISPLAY))
    bare = along(Texture(None, None, 5, rows(("coils", 100, 4.0), ("plain", 100, None))))
    assert any("Begin and end plain" in each for each in along_advice(bare, 1.0, None, DISPLAY))
    short = along(Texture(100, 300, 5, rows(("coils", 100, 4.0))))
    assert any("is short to cast on" in each for each in along_advice(short, 1.0, None, DISPLAY))


def test_a_sequence_of_one_plain_section_is_the_plain_yarn():
    one, alone = along(Texture(None, None, 1, rows(("plain", 1000, None)))), EVALUATOR.read(MANE, PLAIN)
    assert one.whole.mean_tex == pytest.approx(alone.resultant_tex)
    assert one.whole.grams == pytest.approx(alone.resultant_tex / 1000)
    assert sum(each.grams for each in one.members) == pytest.approx(one.whole.grams, rel=1e-6)
    assert "5.00 mm at its thickest" in whole_words(one, 5.0, DISPLAY)


@settings(max_examples=12, deadline=None)
@given(
    st.lists(st.tuples(st.sampled_from(GESTURES), st.floats(10, 400)), min_size=1, max_size=4),
    st.integers(1, 40),
    st.sampled_from([None, 300.0]),
)
def test_grams_of_all_strands_are_those_of_the_yarn(told, times, begins):
    """Mass is neither made nor lost: what strands weigh is what sections weigh, at the mean linear density."""
    found = along(Texture(begins, None, times, rows(*((each, long, None) for each, long in told))))
    assert sum(each.grams for each in found.members) == pytest.approx(found.whole.grams, rel=1e-6)
    assert found.whole.metres == pytest.approx((begins or 0) / 1000 + times * sum(long for _, long in told) / 1000)
    near = 1 + 1e-9
    assert found.whole.finest_tex <= near * found.whole.mean_tex <= near**2 * found.whole.stoutest_tex


def test_hours_and_grams_of_sections_are_those_of_the_whole():
    found = along(Texture(300, 300, 9, rows(("plain", 100, None), ("thick", 60, 2.0), ("coils", 80, 3.0))))
    assert sum(each.hours for each in found.parts) == pytest.approx(found.hours) and found.hours > 0
    assert sum(each.grams for each in found.parts) == pytest.approx(found.whole.grams)
    coils = found.parts[3]
    assert amount_words(coils, DISPLAY).startswith("0.72 m, ") and coils.times == 9


def test_sections_take_of_each_strand_as_often_as_they_come():
    used = laid_out(
        np.array([2.0, 1.0]), np.array([10.0, 10.0]), np.array([100.0, 300.0]), np.array([[1.0, 1.0], [3.0, 0.5]])
    )
    assert used.used.tolist() == [50.0, 25.0] and used.mean_tex == pytest.approx(5000 / 30)


# The file.


def told(sections, version=2):
    return json.loads(write_design(MANE)) | {"version": version, "sections": sections}


def test_a_file_of_version_two_is_read_and_written_the_same():
    coils = tree_of("coils", 3.0, MANE)
    file = told(
        [
            {"length_mm": 300.0},
            {"repeat": 30, "of": [{"length_mm": 250.0}, {"length_mm": 100.0, "yarn": coils, "join": "new"}]},
        ]
    )
    design = check_design(file)
    assert [place for place, _ in sections_in(design)] == ["sections[0]", "sections[1].of[0]", "sections[1].of[1]"]
    assert read_design(write_design(design).encode()) == design
    assert '"sections"' not in write_design(MANE) and json.loads(write_design(MANE))["version"] == 1


@pytest.mark.parametrize(
    ("sections", "version", "place"),
    [
        ([{"length_mm": 300.0}], 1, "sections"),
        ([], 2, "sections"),
        ([{"length_mm": 0}], 2, "sections[0].length_mm"),
        ([{"length": 300}], 2, "sections[0].length_mm"),
        ([{"repeat": 0, "of": [{"length_mm": 3}]}], 2, "sections[0].repeat"),
        ([{"repeat": 2, "of": []}], 2, "sections[0].of"),
        ([{"length_mm": 3, "yarn": {**SPUN, "tex": -1}}], 2, "sections[0].yarn.tex"),
        (
            [{"repeat": 2, "of": [{"length_mm": 3, "yarn": {**SPUN, "fibre": "unicorn"}}]}],
            2,
            "sections[0].of[0].yarn.fibre",
        ),
        ([{"length_mm": 3, "join": "glued"}], 2, "sections[0].join"),
        ([{"length_mm": 3, "yarn": {**SPUN, "count": 2}}], 2, "sections[0].yarn.count"),
    ],
)
def test_what_is_wrong_in_a_section_has_its_place(sections, version, place):
    with pytest.raises(InputError) as caught:
        check_design(told(sections, version))
    assert place in [each.place for each in caught.value.faults]


# As typed.


@pytest.mark.parametrize("name", [*STARTS, "none"])
@pytest.mark.parametrize("units", ["metric", "imperial"])
def test_ready_textures_are_typed_read_and_found_again(name, units):
    own = in_units(PLAIN, units)
    typed = started(name, own)
    texture = read_texture(typed, GESTURES, own)
    sections = sections_of(texture, MANE)
    again = texture_in(MANE.model_copy(update={"version": 2 if sections else 1, "sections": sections}))
    assert texture_typed(again, own) == typed
    assert (sections is None) == (name == "none")


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        ({"gesture-0": "wave", "length-0": "3 cm"}, "gesture-0"),
        ({"gesture-0": "coils"}, "length-0"),
        ({"gesture-0": "coils", "length-0": "long"}, "length-0"),
        ({"gesture-0": "coils", "length-0": "3 cm", "fed-0": "0.5"}, "fed-0"),
        ({"times": "0"}, "times"),
        ({"begins": "3 g"}, "begins"),
    ],
)
def test_what_cannot_be_read_stands_at_its_field(typed, place):
    with pytest.raises(InputError) as caught:
        read_texture(typed, GESTURES, PLAIN)
    assert [each.place for each in caught.value.faults] == [place]


def test_texture_is_made_of_the_stoutest_single():
    assert single_of(MANE).tex == 240 and tree_of("plain", 1.0, MANE) is None
    assert tree_of("coils", 3.0, MANE)["binder"]["tex"] == 70 and tree_of("bobble", 5.0, MANE)["wrapper"]["tex"] == 70
    alone = new_design("Alone", SPUN)
    assert tree_of("coils", 3.0, alone)["binder"]["kind"] == "bought"


def test_a_plan_reckons_with_what_all_sections_take():
    """Of 12.3 m of the mane each strand weighs in the plan what the sequence takes of it, and metres likewise."""
    sections = sections_of(read_texture(started("coils", PLAIN), GESTURES, PLAIN), MANE)
    design = MANE.model_copy(update={"version": 2, "sections": sections})
    found, reading = read_along(design, EVALUATOR, PLAIN, HANDS), EVALUATOR.read(MANE, PLAIN)
    needs, plain = needs_of(design, reading, found), needs_of(MANE, reading)
    (strand,) = needs.strands
    assert strand.per_metre * found.whole.metres == pytest.approx(of(found, "single").grams)
    assert strand.times > 1.2 and plain.strands[0].times == 1.0
    laid = {each.level.node.__class__.__name__: each.per_metre * found.whole.metres for each in needs.bobbins}
    assert laid["Bought"] == pytest.approx(of(found, "bought").grams) and needs.tex == found.whole.mean_tex
    assert sum(laid.values()) == pytest.approx(found.whole.grams)


# Thick and thin.


@settings(max_examples=50)
@given(
    st.lists(st.tuples(st.floats(20, 2000), st.floats(1, 500)), min_size=1, max_size=8),
    st.floats(-400, 400).filter(bool),
    st.floats(0, 2),
)
def test_twist_that_runs_is_neither_made_nor_lost(places, turns, power):
    tex, lengths = (np.array(each) for each in zip(*places, strict=True))
    found = runs_to(turns, tex, lengths, power)
    assert (found * lengths).sum() == pytest.approx(turns * lengths.sum())
    assert np.argmax(np.abs(found)) == np.argmin(tex) or power < 1e-3 or np.ptp(tex) / tex.max() < 1e-6
    assert runs_to(turns, 3 * tex, 2 * lengths, power) == pytest.approx(found)
    assert found * tex**power == pytest.approx(np.full(tex.shape, found[0] * tex[0] ** power))


def test_a_place_twice_as_thick_has_a_third_of_the_twist_of_the_thin():
    """2 to the power of 1.5 is 2.83; of free fibres 2, of a solid rod 4: worked by hand."""
    thick, thin = runs_to(100.0, np.array([2.0, 1.0]), np.array([1.0, 1.0]))
    assert thin / thick == pytest.approx(2**1.5) and thick + thin == pytest.approx(200.0)
    ratios = [float(np.divide(*runs_to(1.0, np.array([1.0, 2.0]), np.ones(2), each))) for each in POWERS]
    assert ratios == pytest.approx([2.0, 2**1.5, 4.0])


def test_thick_places_of_a_single_turn_less_may_fall_apart_and_are_of_one_bobbin():
    spun = new_design(
        "Single", {**SPUN, "fibre": "corriedale", "tex": 150, "twist": {"turns_per_m": 150, "direction": "Z"}}
    )
    found = along(Texture(None, None, 10, rows(("thick", 60, 4.0), ("plain", 140, None))), spun)
    twists = [abs(each.reading.levels[0].turns_per_m_as_made) for each in found.parts]
    assert (twists[0] * 60 + twists[1] * 140) / 200 == pytest.approx(150) and twists[1] / twists[0] == pytest.approx(
        8.0
    )
    assert len(found.members) == 1 and found.members[0].grams == pytest.approx(found.whole.grams, rel=1e-6)
    assert any("staple" in each for each in along_advice(found, 1.0, None, DISPLAY))
    even = along(Texture(None, None, 10, rows(("thick", 60, 1.0), ("plain", 140, None))), spun)
    assert even.parts[0].reading.resultant_tex == pytest.approx(even.parts[1].reading.resultant_tex)
    assert not any("staple" in each for each in along_advice(even, 1.0, None, DISPLAY))


def test_as_weft_it_makes_so_much_cloth():
    """Picks as the sett of plain weave, half the diameters: of 2 mm yarn 2.5 in a cm."""
    found = along(Texture(None, None, 10, rows(("plain", 1000, None))))
    thick = found.parts[0].reading.diameter_finished.p50
    words = weft_words(found, DISPLAY)
    assert f"{10 / (2 * thick):.1f} picks in a cm" in words and "50 cm wide" in words
    long = 1000 * 10 * 2 * thick / (1.08 * 500) / 10
    assert f"{DISPLAY.width(10 * long)} of cloth" in words


# Wound, looped, locked; what ends first; where twist gathers.


def test_a_looped_core_that_is_left_to_show_is_not_called_bare():
    """Six tenths covered, on purpose: as much is covered, and no warning comes; meant whole, it does."""
    looped = along(Texture(None, None, 1, rows(("looped", 1000, None))))
    (part,) = looped.parts
    covered = kinds.core_spun(part.reading.made.state).coverage
    assert covered == pytest.approx(SHOWING, rel=0.02) and part.section.yarn.core.nature == "looped"
    said = {each.code for each in advice_of(part.design, part.reading, DISPLAY)}
    assert not said & {"bare-core", "loops-show"}
    whole = part.design.yarn.model_copy(update={"wrap": part.design.yarn.wrap.model_copy(update={"covers": None})})
    meant = part.design.model_copy(update={"yarn": whole})
    assert {"bare-core", "loops-show"} <= {
        each.code for each in advice_of(meant, EVALUATOR.read(meant, PLAIN), DISPLAY)
    }


def test_a_closed_hand_makes_a_wrap_firmer_and_an_open_one_loftier():
    """As heavy, and so wide: packings of 1.25 and 0.75, of which the section goes by the root."""
    wide = {}
    for gesture in ("wound", "lofty"):
        (part,) = along(Texture(None, None, 1, rows((gesture, 1000, 8.0)))).parts
        (wrap, _), *_ = wraps(part.reading.made.state)
        wide[gesture] = (float(part.reading.made.state.diameter), float(wrap_packing(wrap)))
        assert part.section.yarn.wrap.strip_tex == pytest.approx(8 * 70)
    assert wide["lofty"][1] / wide["wound"][1] == pytest.approx(PRESSED["open"] / PRESSED["closed"])
    assert 1.1 < wide["lofty"][0] / wide["wound"][0] < 1.25 / 0.75


def test_locks_hold_by_their_ends_and_pull_out_where_they_are_laid_in_free():
    caught, free = (along(Texture(300, 300, 1, rows((each, 500, None)))) for each in ("locks", "loose-locks"))
    assert all(each.locked for each in caught.parts) and not all(each.locked for each in free.parts)
    assert "pulls out" in part_words(free.parts[1], DISPLAY) and "pulls out" not in part_words(caught.parts[1], DISPLAY)
    for found, says in ((caught, False), (free, True)):
        codes = {each.code for each in advice_of(found.parts[1].design, found.parts[1].reading, DISPLAY)}
        assert ("locks-slip" in codes) == says
    assert any("cut the core" in each for each in along_advice(caught, 3.0, None, DISPLAY))


def test_the_member_of_which_there_is_least_for_what_it_takes_ends_first():
    """Worked by hand: of thread half as much as the sequence takes ends it half way; half of the single is left."""
    found = along(Texture(None, None, 10, rows(("turned", 300, 1.3), ("coils", 100, 3.0))))
    single, thread = found.members
    assert ends_first(found, ()) is None and ends_first(found, (None, None)) is None
    ends = ends_first(found, (2 * single.grams, thread.grams / 2))
    assert ends.first == 1 and ends.metres == pytest.approx(found.whole.metres / 2)
    assert ends.left[0] == pytest.approx(1.5 * single.grams)
    said = ends_words(found, ends, DISPLAY)
    assert said.startswith("thread, 70 tex ends first, after 2 m of 4 m") and "of single of Mohair" in said
    lasts = ends_first(found, (3 * single.grams, None))
    assert lasts.first == 0 and ends_words(found, lasts, DISPLAY).startswith("All of them last")


def test_how_strongly_twist_runs_is_told_as_a_range_about_what_is_reckoned():
    """Two places as long, one twice as heavy: powers of 1 and 2 hold 4/3 and 8/5, 2/3 and 2/5 of the turns."""
    found = along(Texture(None, None, 4, rows(("plain", 100, None), ("thick", 100, 2.0))))
    thin, thick = (each.turned for each in found.parts)
    middle = runs_to(1.0, np.array([1.0, 2.0]), np.ones(2))
    assert thin == pytest.approx((4 / 3 / middle[0], 8 / 5 / middle[0]))
    assert thick == pytest.approx((2 / 5 / middle[1], 2 / 3 / middle[1]))
    assert "turns to a staple" in part_words(found.parts[1], DISPLAY)
    assert all(each.turned is None for each in along(Texture(None, None, 4, rows(("plain", 100, None)))).parts)


def test_a_thick_place_that_is_tied_is_of_the_same_single():
    """Mass and members: one single and one thread, whatever is thick and tied."""
    found = along(Texture(300, 300, 5, rows(("tied", 60, 2.5), ("turned", 140, 1.3))))
    assert [each.model.kind for each in found.members] == ["single", "bought"]
    heavy = [single_of(each.design).tex for each in found.parts]
    assert heavy == pytest.approx([240, 600, 240, 240]) and sum(each.grams for each in found.members) == pytest.approx(
        found.whole.grams, rel=1e-6
    )


def test_rows_are_copied_and_left_out_as_they_stand():
    typed = started("slubs", PLAIN)
    copied = with_row_copied(typed, 0)
    assert [copied[f"gesture-{place}"] for place in range(4)] == ["tied", "tied", "turned", ""]
    assert copied["length-1"] == copied["length-0"] == typed["length-0"] and copied["length-2"] == typed["length-1"]
    assert with_row_dropped(copied, 1) == typed
    full = {**typed, **{f"gesture-{place}": "plain" for place in range(MOST_ROWS)}}
    assert with_row_copied(full, 0) == full
    assert plain_ends({**typed, "begins": "", "ends": "12 cm"}, PLAIN)["begins"] == "30 cm"
    assert plain_ends({**typed, "begins": "", "ends": "12 cm"}, PLAIN)["ends"] == "12 cm"


@pytest.mark.parametrize("gesture", GESTURES)
def test_every_gesture_is_found_again_in_what_it_made(gesture):
    fed = (
        None if gesture in ("plain", "packed") else 2.5 if gesture in ("looped", "tied", "thick") else OVERFEED[gesture]
    )
    told = rows((gesture, 100, fed), ("plain", 100, None))
    sections = sections_of(Texture(None, None, 2, told), MANE)
    again = texture_in(MANE.model_copy(update={"version": 2, "sections": sections}))
    assert [each.gesture for each in again.rows] == [gesture, "plain"]
    assert again.rows[0].fed == (pytest.approx(fed) if fed else None)
    assert GESTURE_DO[gesture] and GESTURE_HOLDS[gesture]
