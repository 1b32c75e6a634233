"""What a project takes, and how thick a yarn a gauge asks for."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.finish.cloth import stitches, swatch_yarn
from pebble_wheel.mechanics.finish.projects import (
    LARGER,
    METRES,
    MIDDLE_GAUGE,
    metres_for,
    wraps_for_gauge,
    wraps_for_needle,
)


def test_metres_at_the_middle_gauge_are_the_trades():
    # common practice, no source
    assert METRES == {
        "mittens": (100, 150), "hat": (100, 200), "socks": (350, 400), "scarf": (300, 450), "jersey": (900, 1400),
    }  # fmt: skip
    assert metres_for("jersey", "medium", MIDDLE_GAUGE) == (900, 1400)
    assert metres_for("mittens", "large", 20.0) == (125, 187.5) and LARGER["small"] == 0.8


@given(st.floats(5, 60), st.floats(1.01, 2))
def test_metres_grow_with_the_gauge_as_a_swatch_does(gauge, times):
    # a plain swatch of one size, by Munden's loops (from memory), takes as many times more yarn
    more = swatch_yarn(100.0, gauge * times) / swatch_yarn(100.0, gauge)
    low, high = metres_for("hat", "medium", gauge)
    assert metres_for("hat", "medium", gauge * times) == pytest.approx((low * more, high * more))


@given(st.floats(3, 60))
def test_wraps_for_a_gauge_are_those_that_knit_so(wraps):
    assert wraps_for_gauge(stitches(wraps)) == pytest.approx(wraps)


def test_a_needle_suits_a_yarn_a_little_over_half_as_thick():
    # common practice, no source: 1.8 thicknesses; 4.5 mm goes with some 10 wraps, an aran to worsted yarn
    assert wraps_for_needle(4.5) == pytest.approx(10.16)
