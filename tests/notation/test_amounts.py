"""Words and sums as people type them: one grammar, read the same however it is written."""

import math
from dataclasses import replace

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.learning.noise import CARD, TEN_TO_NINETY, interval_off
from pebble_wheel.notation.amounts import plain, range_of, rate_of, read_number, read_ratio, read_terms
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.needles import US_NEEDLES, read_needle, us_number
from pebble_wheel.notation.settings import Settings, in_units, suggested_set
from pebble_wheel.notation.units import read_gauge, read_length, read_mass, read_size, read_twist

PINT = pint.UnitRegistry()
PLAIN = Settings()
WHOLE = st.integers(1, 999)
MASSES = {"g": "gram", "oz": "ounce", "lb": "pound", "kg": "kilogram", "grams": "gram", "lbs": "pound"}
LENGTHS = {"mm": "millimeter", "cm": "centimeter", "m": "meter", "in": "inch", "yd": "yard", "ft": "foot"}


@given(st.lists(WHOLE, min_size=1, max_size=5), st.sampled_from(sorted(MASSES)), st.sampled_from([" + ", "+", " and "]))
def test_a_sum_takes_the_unit_written_last(numbers, unit, joined):
    # against pint, a general library of units
    text = joined.join(map(str, numbers)) + f" {unit}"
    assert read_mass(text, "kg") == pytest.approx(PINT.Quantity(sum(numbers), MASSES[unit]).to("gram").magnitude)


@given(st.lists(st.tuples(WHOLE, st.sampled_from(sorted(LENGTHS))), min_size=1, max_size=4), st.booleans())
def test_mixed_units_stand_side_by_side(terms, plus):
    text = (" + " if plus else " ").join(f"{number} {unit}" for number, unit in terms)
    meant = sum(PINT.Quantity(number, LENGTHS[unit]).to("millimeter").magnitude for number, unit in terms)
    assert read_length(text, "m") == pytest.approx(meant)


@given(st.integers(1, 40), st.integers(1, 900), st.sampled_from(["x", "×", "*", "times", "of"]))
def test_so_many_times_an_amount(times, number, sign):
    assert read_mass(f"{times} {sign} {number} g", "oz") == times * number


@given(st.integers(0, 99), st.sampled_from([("½", 0.5), ("¼", 0.25), ("¾", 0.75), ("1/2", 0.5), ("3/8", 0.375)]))
def test_fractions_are_typed_as_people_type_them(whole, fraction):
    written, value = fraction
    text = f"{whole} {written}" if whole else written
    assert read_number(text) == pytest.approx(whole + value)
    assert read_mass(f"{text} lb", "g") == pytest.approx((whole + value) * 453.59237)


@given(st.floats(0.001, 9e5), st.booleans())
def test_a_number_is_the_same_with_a_comma_or_a_point(number, comma):
    text = f"{number:.4f}"
    value = float(text)
    assert read_number(text.replace(".", ",") if comma else text) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "grams"),
    [
        ("96+138 g", 234),
        ("3 x 100 g", 300),
        ("½ lb", 226.796),
        ("half a pound", 226.796),
        ("1 lb 4 oz", 566.990),
        ("4½ oz", 127.573),
        ("96 and 138 grams", 234),
        ("two 50 g", None),
        ("1,200 g", 1200),
        ("12,5 g", 12.5),
        ("3 x 4 oz + 50 g", 390.194),
        ("two ounces", 56.699),
        ("100", 100),
    ],
)
def test_masses(text, grams):
    if grams is None:
        with pytest.raises(InputError):
            read_mass(text, "g")
    else:
        assert read_mass(text, "g") == pytest.approx(grams, rel=1e-5)


@pytest.mark.parametrize(
    ("text", "wraps", "off"),
    [
        ("9 wraps", 9, 0),
        ("9 wpi", 9, 0),
        ("9 wraps per inch", 9, 0),
        ("worsted weight", 9.5, interval_off(8.5, 10.5)),
        ("Worsted", 9.5, interval_off(8.5, 10.5)),
        ("DK", 11.25, interval_off(10.5, 12)),
        ("dk weight", 11.25, interval_off(10.5, 12)),
        ("between aran and bulky", math.sqrt(8 * 6.5), interval_off(6.5, 8)),
        ("bulky to aran", math.sqrt(8 * 6.5), interval_off(6.5, 8)),
        ("lace", 19.8, 0),
        ("medium", 10.5, interval_off(9, 12)),  # a word of the other table is understood too
        ("24 by card", 24, CARD.off),
        ("24 on my card", 24, CARD.off),
        ("between 22 and 24 by card", math.sqrt(22 * 24), math.hypot(CARD.off, interval_off(22, 24))),
        ("22-24 wpi", math.sqrt(22 * 24), interval_off(22, 24)),
        ("23 snug", 20, 0),  # snug wraps count 15 % more: common practice, no source
        ("20 relaxed wraps", 20, 0),
    ],
)
def test_sizes_by_what_people_call_them(text, wraps, off):
    size = read_size(text, "tex")
    assert 25.4 / size.diameter_mm == pytest.approx(wraps) and size.off == pytest.approx(off)


def test_a_card_reads_as_a_range_and_never_as_wraps():
    # bias 0.25 and scatter 0.20 of a log diameter: eight cards of ten lie within a factor of 1.5
    assert pytest.approx(1.507, abs=1e-3) == math.exp(TEN_TO_NINETY * CARD.off)
    by_card = Settings(wpi_method="card")
    assert read_size("24 wpi", "tex", settings=by_card).off == CARD.off
    assert read_size("1 mm", "tex", settings=by_card).off == 0 == read_size("90 tex", "tex", settings=by_card).off
    assert read_size("24 snug", "tex", settings=by_card).off == 0
    assert read_size("100 tex ± 20 %", "tex").off == pytest.approx(0.2)


@pytest.mark.parametrize(
    ("text", "turns"), [("5.5 per inch", 216.535), ("22 turns in 4 in", 216.535), ("30/10 cm", 300), ("4 per cm", 400)]
)
def test_twist_as_so_many_in_a_length(text, turns):
    assert read_twist(text, "t/m") == pytest.approx(turns, rel=1e-5)


@pytest.mark.parametrize(
    ("text", "unit", "stitches"),
    [
        ("22 in 4 in", "cm", 21.6535),
        ("22 sts over 4 in", "cm", 21.6535),
        ("5.5 per inch", "cm", 21.6535),
        ("22/10 cm", "in", 22),
        ("22", "cm", 22),
        ("22", "in", 21.6535),
        ("4¾ per inch", "cm", 18.7008),
    ],
)
def test_a_gauge_is_brought_to_ten_centimetres(text, unit, stitches):
    assert read_gauge(text, unit) == pytest.approx(stitches, rel=1e-5)


@given(st.floats(1.05, 60))
def test_a_ratio_reads_the_same_from_either_end(ratio):
    text = f"{ratio:.3f}"
    assert read_ratio(f"{text}:1") == read_ratio(f"1:{text}") == read_ratio(text) == pytest.approx(float(text))


def test_needles_by_number_and_by_millimetre():
    # US 7 is 4.5 mm, US 10½ is 6.5 mm: common practice, from memory
    assert (read_needle("US 7", "mm"), read_needle("us10½", "mm"), read_needle("7", "US")) == (4.5, 6.5, 4.5)
    assert (read_needle("4", "mm"), read_needle("4.5 mm", "US"), read_needle("1/8 in", "mm")) == (
        4,
        4.5,
        pytest.approx(3.175),
    )
    assert [US_NEEDLES[each] for each in ("0", "8", "13", "19", "35", "50")] == [2, 5, 9, 15, 19, 25]
    assert all(us_number(mm) == number for number, mm in US_NEEDLES.items())
    with pytest.raises(InputError, match="nearest is US 11"):
        read_needle("US 12", "mm")


@pytest.mark.parametrize(
    ("read", "text", "hint"),
    [
        (read_mass, "5 gramms", "nearest is grams"),
        (read_size, "22 wip", "nearest is wpi"),
        (read_size, "wosted", "nearest is worsted"),
        (read_size, "arn", "nearest is aran"),
        (read_twist, "5 tpii", "nearest is tpi"),
        (read_mass, "96 g + 3 in", "cannot be added"),
        (read_size, "90 + 20 tex", "give one figure"),
        (read_size, "between 9 wpi and 90 tex", "not between two sizes"),
        (read_gauge, "22 wraps in 4 in", "not stitches"),
        (read_gauge, "soft", "is no gauge"),
        (read_gauge, "900", "at most 400"),
        (read_size, "9 wpi ± 900 %", "nobody is that unsure"),
        (read_mass, "1/0 g", "is not a number"),
    ],
)
def test_a_fault_names_the_nearest_thing_understood(read, text, hint):
    with pytest.raises(InputError, match=hint):
        read(text, "cm" if read is read_gauge else "g")


def test_a_ratio_is_of_two_numbers_above_zero():
    for text in ("0:1", "1:0", "0:0"):
        with pytest.raises(InputError, match=r"above 0|not a number"):
            read_ratio(text)


@given(st.text(max_size=70))
def test_nothing_typed_breaks_the_grammar(text):
    for read in (
        lambda: read_terms(text, "g", "here"),
        lambda: read_number(text),
        lambda: read_ratio(text),
        lambda: read_needle(text, "US"),
        lambda: read_gauge(text, "in"),
        lambda: read_size(text, "tex"),
        lambda: (rate_of(text), range_of(text), plain(text)),
    ):
        try:
            assert read() is not None
        except InputError as error:
            assert all(fault.message for fault in error.faults)


def test_units_are_chosen_by_quantity_and_in_sets():
    inches = in_units(PLAIN, "imperial")
    assert (inches.small_unit, inches.long_unit, inches.width_unit) == ("in", "yd", "in")
    assert (PLAIN.small_unit, PLAIN.long_unit, PLAIN.width_unit) == ("mm", "m", "cm")
    assert inches.unit_set == "imperial" and in_units(inches, "metric") == PLAIN and PLAIN.unit_set == "metric"
    mixed = replace(PLAIN, length="inches")
    assert mixed.unit_set is None and (mixed.small_unit, mixed.mass, mixed.twist) == ("in", "g", "t/m")
    asked = {
        "en-US,en;q=0.9": "imperial",
        "en-GB": "metric",
        "de": "metric",
        "": "metric",
        "fr-FR,en-US;q=0.5": "metric",
    }
    assert {each: suggested_set(each) for each in asked} == asked
