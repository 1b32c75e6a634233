"""Projects as typed."""

import pytest

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.project import read_project
from pebble_wheel.notation.settings import Settings, in_units

PLAIN = Settings()


@pytest.mark.parametrize(
    ("typed", "wraps", "by"),
    [
        ({"gauge": "22 in 4 in", "needle": "US 7", "size": "lace"}, 11.957, "gauge"),
        ({"size": "aran", "needle": "US 7"}, 8.0, "size"),
        ({"needle": "US 7"}, 10.16, "needle"),
        ({}, 9.5, ""),
    ],
)
def test_a_gauge_says_best_how_thick_then_a_size_then_a_needle(typed, wraps, by):
    wanted = read_project(typed, PLAIN)
    assert wanted.wraps == pytest.approx(wraps, rel=1e-3) and wanted.by == by
    assert wanted.stitches == pytest.approx(wraps * 46 / 25.4, rel=1e-3)  # 0.46 stitches to a wrap, common practice


def test_units_of_the_person_where_none_is_written():
    inches = in_units(PLAIN, "imperial")
    assert read_project({"gauge": "22"}, inches).stitches == pytest.approx(22 / 1.016)
    assert read_project({"gauge": "22"}, PLAIN).stitches == 22
    assert read_project({"needle": "7"}, inches).needle_mm == 4.5


def test_every_fault_stands_at_its_field():
    typed = {"gauge": "soft", "needle": "US 12", "size": "90 tex", "project": "tent", "large": "vast"}
    with pytest.raises(InputError) as refused:
        read_project(typed, PLAIN)
    assert {fault.place for fault in refused.value.faults} == set(typed)
