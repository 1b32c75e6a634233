"""Skeins and swatches as typed."""

import pytest

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.record import read_skein, read_swatch
from pebble_wheel.notation.settings import Settings, in_units

PLAIN, IMPERIAL = Settings(), in_units(Settings(), "imperial")


def test_a_skein_is_read_in_the_units_of_the_person():
    typed = {"metres": "180", "grams": "64", "wraps": "12 wpi", "loop": "2,5", "way": "S", "wet": "wet"}
    skein = read_skein(typed, PLAIN)
    assert (skein.metres, skein.grams, skein.wraps, skein.loop_turns, skein.wet) == (180, 64, 12, -2.5, True)
    assert skein.tex == pytest.approx(355.6, abs=0.1)
    imperial = read_skein({**typed, "metres": "200", "grams": "2.25"}, IMPERIAL)
    assert imperial.metres == pytest.approx(182.88) and imperial.grams == pytest.approx(63.79, abs=0.01)


def test_a_swatch_counted_over_four_inches_is_kept_in_ten_centimetres():
    typed = {"stitches_before": "20", "stitches_after": "19", "garment": "40", "needle": "4 mm", "bloomed": "no"}
    swatch = read_swatch(typed, IMPERIAL)
    assert swatch.stitches_before == pytest.approx(20 / 1.016) and swatch.garment_mm == pytest.approx(1016)
    assert read_swatch({**typed, "garment": "100 cm"}, PLAIN).garment_mm == pytest.approx(1000)


@pytest.mark.parametrize(
    ("typed", "place", "message"),
    [
        ({}, "wraps", "at least"),
        ({"metres": "12 g"}, "metres", "is not a length"),
        ({"wraps": "-3"}, "wraps", "more than 0"),
        ({"wraps": "12", "loop": "-2"}, "loop", "which way stands beside it"),
        ({"wraps": "12", "method": "guess"}, "method", "choose one of"),
        ({"wraps": "12", "note": "x" * 501}, "note", "at most 500"),
        ({"metres": "120 m"}, "wraps", "at least"),
    ],
)
def test_a_skein_that_cannot_be_read_says_where(typed, place, message):
    with pytest.raises(InputError) as refused:
        read_skein(typed, PLAIN)
    assert [(fault.place, message in fault.message) for fault in refused.value.faults] == [(place, True)]


@pytest.mark.parametrize(
    ("typed", "places"),
    [
        ({}, ["stitches_before", "stitches_after"]),
        ({"stitches_before": "20"}, ["stitches_after"]),
        ({"stitches_before": "many", "stitches_after": "19"}, ["stitches_before"]),
        (
            {"stitches_before": "20", "stitches_after": "19", "needle": "thick", "bloomed": "maybe"},
            ["needle", "bloomed"],
        ),
    ],
)
def test_a_swatch_that_cannot_be_read_says_where(typed, places):
    with pytest.raises(InputError) as refused:
        read_swatch(typed, PLAIN)
    assert [fault.place for fault in refused.value.faults] == places
