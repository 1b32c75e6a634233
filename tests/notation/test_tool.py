"""Wheels, spinners, spindles and bobbins as typed: taken up to their limits, refused at their field."""

import pytest

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.tool import check_tool, read_tool

PLAIN, INCHES = Settings(), in_units(Settings(), "imperial")
WHEEL = {"kind": "wheel", "name": "Oak", "ratios": "6"}
MOTOR = {"kind": "motor", "name": "Box", "mark-1": "1", "count-1": "75", "mark-2": "3", "count-2": "120"}
SPINDLE = {"kind": "spindle", "name": "Thigh", "roll": "13 14 15"}
BOBBINS = {"kind": "bobbins", "name": "Lace", "size": "120 x 30 x 90"}


def read(typed, settings=PLAIN, **more):
    return read_tool(typed | {name.replace("_", "-"): text for name, text in more.items()}, settings)


def test_ratios_are_read_as_they_are_said_and_each_once():
    assert read(WHEEL, ratios="9:1, 6; 9 12:1").ratios == [6, 9, 12] and read(WHEEL, ratios="1:6").ratios == [6]
    assert read(WHEEL, INCHES, orifice="3/8").orifice_mm == pytest.approx(9.525)
    assert len(read(WHEEL, ratios=" ".join(str(each) for each in range(1, 21))).ratios) == 20


def test_a_dial_is_calibrated_by_turns_in_fifteen_seconds():
    """120 turns in 15 s are 480 a minute; the marks in the order of the dial, one counted twice as counted last."""
    motor = read(MOTOR, mark_3="2", count_3="100", mark_4="2", count_4="110")
    assert [(each.at, each.turns_per_min) for each in motor.marks] == [(1, 300), (2, 440), (3, 480)]
    assert [each.at for each in read(MOTOR, mark_1="", mark_2="").marks] == [1, 2]  # as they stand


def test_turns_counted_several_times_are_one_mean():
    assert read(SPINDLE).roll == pytest.approx(14) and read(SPINDLE).flick is None
    assert read(SPINDLE, roll="", flick="8,9").flick == pytest.approx(8.5)


def test_bobbins_weigh_alike_or_each_by_itself():
    alike, each = read(BOBBINS, many="3", empty="52"), read(BOBBINS, many="3", empty="52 54 51 g")
    assert alike.empty_g == [52] * 3 and each.empty_g == [52, 54, 51] and read(BOBBINS).empty_g == [0]
    inches = read(BOBBINS, INCHES, size="4 x 1 x 3.5", empty="2")
    assert (inches.outer_mm, inches.core_mm, inches.width_mm) == pytest.approx((101.6, 25.4, 88.9))
    assert inches.empty_g == pytest.approx([56.7], abs=0.01)


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        (WHEEL | {"name": ""}, "name"),
        (WHEEL | {"kind": "broom"}, "kind"),
        (WHEEL | {"ratios": ""}, "ratios"),
        (WHEEL | {"ratios": "six"}, "ratios"),
        (WHEEL | {"ratios": "0.4"}, "ratios"),
        (WHEEL | {"ratios": "61"}, "ratios"),
        (WHEEL | {"ratios": " ".join(str(each) for each in range(1, 22))}, "ratios"),
        (WHEEL | {"treadles": "three"}, "treadles"),
        (WHEEL | {"drive": "sideways"}, "drive"),
        (WHEEL | {"orifice": "3 g"}, "orifice"),
        (WHEEL | {"orifice": "2 m"}, "orifice"),
        (MOTOR | {"count-2": ""}, "count-1"),
        (MOTOR | {"count-2": "0"}, "count-2"),
        (MOTOR | {"mark-2": "-1"}, "mark-2"),
        (SPINDLE | {"roll": ""}, "roll"),
        (SPINDLE | {"roll": "some"}, "roll"),
        (SPINDLE | {"roll": "201"}, "roll"),
        (SPINDLE | {"seen": "sideways"}, "seen"),
        (BOBBINS | {"size": ""}, "size"),
        (BOBBINS | {"size": "wide"}, "size"),
        (BOBBINS | {"size": "20 x 25 x 90"}, "size"),
        (BOBBINS | {"size": "600 x 25 x 90"}, "size"),
        (BOBBINS | {"many": "201"}, "many"),
        (BOBBINS | {"many": "3", "empty": "52 54"}, "empty"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(typed, place):
    with pytest.raises(InputError) as caught:
        read(typed)
    assert [each.place for each in caught.value.faults] == [place]


@pytest.mark.parametrize("typed", [WHEEL, MOTOR, SPINDLE, BOBBINS])
def test_a_tool_is_kept_as_it_is(typed):
    tool = read(typed)
    assert check_tool(tool.model_dump_json()) == tool
    with pytest.raises(InputError):
        check_tool(tool.model_dump_json().replace(tool.kind, "broom"))
