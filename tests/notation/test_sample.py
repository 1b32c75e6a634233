"""A sample as typed, read with the place of every fault."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.log import USUAL_HOURS, Note, read_note, read_sleep
from pebble_wheel.notation.sample import SAMPLE_FIELDS, Asked, Sample, read_sample, strand_of
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.wheel import read_slots
from pebble_wheel.workshop.starts import start

PLAIN, INCHES = Settings(), in_units(Settings(), "imperial")
THREE = design_of(start("3-ply"), PLAIN)
SINGLE = "yarn.strands[0]"


def sample(settings=PLAIN, strand=SINGLE, **typed):
    return read_sample({"strand": strand, **typed}, THREE, settings)


def fault(strand=SINGLE, **typed):
    with pytest.raises(InputError) as refused:
        sample(strand=strand, **typed)
    return {each.place: each.message for each in refused.value.faults}


def test_a_card_between_two_slots_is_kept_as_an_interval():
    """Its middle, and the standard deviation of what lies anywhere between."""
    found = sample(gauge="between 20 and 26", method="card")
    assert found.thick_mm == pytest.approx(INCH / math.sqrt(20 * 26)) and found.thick_by == "card"
    assert found.thick_off == pytest.approx(math.log(26 / 20) / math.sqrt(12))


@pytest.mark.parametrize(
    ("typed", "mm", "by"),
    [
        ({"gauge": "24"}, INCH / 24, "wraps"),
        ({"gauge": "24 wpi"}, INCH / 24, "wraps"),
        ({"gauge": "23", "method": "snug"}, INCH / 20, "wraps"),  # snug wraps count 1.15 times as many
        ({"gauge": "24 by card"}, INCH / 24, "card"),
        ({"gauge": "0.9 mm"}, 0.9, "mm"),
        ({"gauge": "22-26 wpi"}, INCH / math.sqrt(22 * 26), "wraps"),
        ({"gauge": "1-1.2 mm"}, math.sqrt(1.2), "mm"),
    ],
)
def test_a_gauge_by_every_way(typed, mm, by):
    found = sample(**typed)
    assert (found.thick_mm, found.thick_by) == (pytest.approx(mm), by)


def test_bumps_and_turns_of_a_ply_back_over_a_length():
    """Two bumps to a turn of two strands."""
    assert sample(fold="12", fold_over="40 mm").fold_turns == pytest.approx(150)
    assert sample(fold="6", fold_over="40 mm", counted="turns").fold_turns == pytest.approx(150)
    assert sample(fold="20").fold_turns == pytest.approx(200)  # over 50 mm
    assert sample(INCHES, fold="20").fold_turns == pytest.approx(10_000 / (2 * INCH))


def test_angles_in_either_convention_and_loops_of_a_foot():
    assert sample(angle="28°").angle == 28
    assert sample(Settings(angle_from="crosswise"), angle="62").angle == 28
    assert sample(strand="yarn", loop="3", way="S").loop_turns == -3
    assert sample(INCHES, strand="yarn", loop="3").loop_turns == pytest.approx(3 * 300 / (12 * INCH))


def test_treadles_counted_with_the_ratio_beside_them_or_in_its_field():
    for typed in ({"treadles": "9 at 7:1 in 40 cm"}, {"treadles": "9 in 40 cm", "ratio": "7:1"}):
        assert sample(**typed).turns_per_m == pytest.approx(157.5)


def test_weights_lengths_and_all_the_rest():
    found = sample(
        strand="yarn", stage="finished", metres="180 m", grams="64 g", singles_in="1 m", yarn_out="93 cm", before="100",
        after="95", stretch="12 %", back="80", tug="held", places="5", rest="24 h", dial="second mark", note="<soft>",
    )  # fmt: skip
    assert found.tex == pytest.approx(64_000 / 180) and found.take_up == pytest.approx(0.93)
    assert found.wash_length == pytest.approx(0.95) and (found.stretch, found.springs_back) == (12, 80)
    assert (found.tug, found.places, found.rested_hours) == ("held", 5, 24)
    assert (found.dial, found.note, found.stage) == ("second mark", "<soft>", "finished")
    assert read_sample({"gauge": "9"}, THREE, PLAIN, Asked(twist=0.1)).asked.twist == 0.1


@pytest.mark.parametrize(
    ("typed", "place", "says"),
    [
        ({}, "gauge", "at least one thing"),
        ({"gauge": "90 tex"}, "gauge", "what lies across"),
        ({"gauge": "3000"}, "gauge", "no yarn is so thin"),
        ({"gauge": "a few"}, "gauge", "not a number"),
        ({"angle": "95"}, "angle", "between 1° and 89°"),
        ({"fold": "90000"}, "fold", "nobody can count that"),
        ({"fold": "9", "fold_over": "a bit"}, "fold_over", "not known"),
        ({"gauge": "9", "places": "0"}, "places", "1 to 100"),
        ({"gauge": "9", "places": "2.5"}, "places", "1 to 100"),
        ({"gauge": "9", "rest": "-2"}, "rest", "between 0"),
        ({"gauge": "9", "method": "guess"}, "method", "choose"),
        ({"fold_word": "odd"}, "fold_word", "choose one of"),
        ({"treadles": "many"}, "treadles", "not treadling"),
        ({"before": "10 cm", "after": "9 cm"}, "after", "finished yarn"),
        ({"grams": "3", "gauge": "9"}, "metres", "its length too"),
        ({"singles_in": "1 m"}, "yarn_out", "both lengths"),
        ({"strand": "yarn.strands[7]", "gauge": "9"}, "strand", "no such strand"),
    ],
)
def test_what_cannot_be_is_refused_at_its_place(typed, place, says):
    assert says in fault(**typed)[place]


def test_what_is_no_reading_of_such_a_strand_is_refused_plainly():
    assert "takes nothing up" in fault(singles_in="1 m", yarn_out="93 cm")["yarn_out"]
    assert "note its ply-back" in fault(loop="3")["loop"]
    assert "hang a loop" in fault("yarn", fold="12")["fold"]
    assert "lies in nothing" in fault("yarn", gauge="9", taken="yarn")["taken"]
    thread = design_of(start("coiled"), PLAIN)
    with pytest.raises(InputError, match="as it was made"):
        read_sample({"strand": "yarn.binder", "gauge": "9"}, thread, PLAIN)
    assert strand_of(THREE, SINGLE).kind == "single"


def test_wet_yarn_is_not_weighed_nor_its_lean_read():
    assert "water weighs" in fault("yarn", metres="3 m", grams="9 g", wet="wet")["grams"]
    assert "dry first" in fault("yarn", angle="20", wet="wet")["angle"]
    assert sample(strand="yarn", gauge="9", wet="wet").wet


def test_every_fault_of_a_form_is_told_at_once():
    assert set(fault(gauge="x", angle="200", fold="z")) == {"gauge", "angle", "fold"}


@given(st.dictionaries(st.sampled_from(sorted(SAMPLE_FIELDS)), st.text(max_size=30), max_size=6))
def test_whatever_is_typed_is_read_or_refused_with_places(typed):
    try:
        found = read_sample(typed, THREE, PLAIN)
    except InputError as error:
        assert {each.place for each in error.faults} <= set(SAMPLE_FIELDS)
    else:
        assert isinstance(found, Sample) and not found.empty


def test_slots_of_a_card_notes_and_sleep():
    assert read_slots("26, 8 12;18") == (8, 12, 18, 26)
    for text in ("8", "", "8 x", "0 9", "8 " * 3):
        with pytest.raises(InputError):
            read_slots(text)
    assert read_note({"words": " thinner next time "}) == Note("thinner next time")
    for words in ("", "x" * 501):
        with pytest.raises(InputError, match="words"):
            read_note({"words": words})
    assert read_sleep({"what": "dry"}).hours == USUAL_HOURS["dry"]
    hours = {"20 min": 1 / 3, "2 days": 48, "36": 36, "36 h": 36}
    assert [read_sleep({"what": "rest", "hours": each}).hours for each in hours] == pytest.approx(list(hours.values()))
    for typed in ({"what": "nap"}, {"what": "rest", "hours": "0"}, {"what": "rest", "hours": "long"}):
        with pytest.raises(InputError):
            read_sleep(typed)
    assert read_sleep({"what": "rest"}).until("2026-03-01T08:00:00+00:00").isoformat() == "2026-03-02T08:00:00+00:00"
