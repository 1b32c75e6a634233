"""Tools as they are reckoned with: treadles, seconds and rolls, laps of a bobbin that leads, a dial between marks."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.backwards.merits import Hands, steps_of
from pebble_wheel.mechanics.making.tools import laps_per_m
from pebble_wheel.mechanics.making.wheel import treadles
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.tool import read_tool
from pebble_wheel.wording.tools import beats_words, choices_on, way_words
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.starts import start
from pebble_wheel.workshop.tools import speed_at, tools_of

WHEEL = {"kind": "wheel", "name": "Oak", "ratios": "6 9"}
MOTOR = {"kind": "motor", "name": "Box", **{f"mark-{at}": f"{at}" for at in (1, 2, 3)}}
MOTOR |= {"count-1": "75", "count-2": "120", "count-3": "190"}
SPINDLE = {"kind": "spindle", "name": "Thigh", "roll": "14", "flick": "9"}
BOBBINS = {"kind": "bobbins", "name": "Lace", "size": "100 x 40 x 90", "many": "2", "empty": "50 52"}


def tools(*typed, pace=60.0):
    return tools_of([(each["name"], read_tool(each, Settings())) for each in typed], pace)


def test_three_seconds_at_the_second_mark_put_two_hundred_turns_into_a_metre():
    """480 turns a minute, 3 s, 12 cm: 24 turns, 200 t/m."""
    motor = tools(MOTOR).owned[0].model
    assert speed_at(motor, 2.0) == 480.0
    hands = tools(MOTOR).hands()
    assert hands.beat == "second" and treadles(0.12, 200.0, hands.ratios[1]) == pytest.approx(3.0)
    assert beats_words(3.0, "second") == "3.0 seconds" and beats_words(12.4, "second") == "12 seconds"


def test_nine_rolls_of_fourteen_turns():
    """210 t/m over 0.6 m; which way depends on the end one looks from."""
    own = tools(SPINDLE)
    assert treadles(0.6, 210.0, own.hands().ratios[0]) == pytest.approx(9.0) and own.hands().beat == "roll"
    assert beats_words(1.0, "roll") == "1 roll"
    assert way_words("Z", own.owned[0]) == "clockwise, the spindle seen from above"
    below = tools(SPINDLE | {"seen": "below"}).owned[0]
    assert way_words("Z", below).startswith("anticlockwise") and way_words("S", below).startswith("clockwise")
    assert way_words("S", None) == "anticlockwise, as you see the wheel"


@given(st.floats(1, 3))
def test_a_dial_is_a_straight_line_between_two_marks_and_no_guess_beyond(at):
    motor = tools(MOTOR).owned[0].model
    low, high, begins = (300, 480, 1) if at < 2 else (480, 760, 2)
    assert speed_at(motor, at) == pytest.approx(low + (high - low) * (at - begins), rel=1e-9)
    assert math.isnan(speed_at(motor, 3.01)) and math.isnan(speed_at(motor, 0.99))


def test_halfway_between_two_marks_can_be_chosen():
    own = tools(MOTOR).owned[0]
    found = choices_on(own, "second", ())
    assert [words for _, words in found][1] == "at 1.5: 390 a minute" and found[1][0] == pytest.approx(6.5)
    assert len(found) == 5


def test_where_the_bobbin_leads_its_laps_are_driven_too():
    """Bobbin turns are flyer turns and laps; a lap is π times what is wound: of 40 to 100 mm, 76 mm half full."""
    led = tools(WHEEL | {"drive": "bobbin-lead"}, BOBBINS)
    build = math.sqrt((100**2 + 40**2) / 2)
    assert led.hands().laps == pytest.approx(1000 / (math.pi * build)) == pytest.approx(float(laps_per_m(build)))
    level = Evaluator().read(design_of(start("3-ply"), Settings())).levels[:1]
    (with_laps,), (without,) = steps_of(level, led.hands()), steps_of(level, tools(WHEEL).hands())
    assert with_laps.driven - without.driven == pytest.approx(led.hands().laps) and tools(WHEEL).hands().laps == 0


def test_what_nobody_told_of_is_as_usual():
    assert tools().hands() == Hands((6.0, 9.0, 12.0), 60.0) and tools(pace=40.0).hands().pace == 40.0
    assert tools(WHEEL).hands("motor").ratios == (15.0,) and tools(WHEEL).hands("gone") == Hands((6.0, 9.0, 12.0))
    own = tools(WHEEL, MOTOR, BOBBINS)
    assert own.hands().ratios == (6, 9) and own.hands("Box").beat == "second"
    assert [each.name for each in own.bobbins] == ["Lace 1", "Lace 2"] and own.bobbins[1].empty == 52
