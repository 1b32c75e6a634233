"""Turns, widths and angles of a yarn in a picture: against the helix, circles that touch, and each other."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.photo import geometry


@given(st.integers(2, 6), st.floats(0.2, 8))
def test_touching_circles_fill_the_cylinder_and_touch(strands, wide):
    """n equal circles round an axis: neighbours a chord apart, each reaching the cylinder."""
    out = float(geometry.centre_radius(wide, strands))
    each = wide / 2 - out
    chord = 2 * out * math.sin(math.pi / strands)
    assert chord == pytest.approx(2 * each) and out + each == pytest.approx(wide / 2)


@given(st.floats(10, 600), st.floats(0.2, 8), st.integers(1, 5))
def test_angles_are_those_of_the_helix(turns, wide, strands):
    """Of a helix unrolled: once round 2πR in a lead of 1000/T. Its centre-lines lean less than its outside."""
    lead = 1000 / turns
    out = float(geometry.centre_radius(wide, strands))
    assert math.tan(float(geometry.centre_angle(turns, wide, strands))) == pytest.approx(2 * math.pi * out / lead)
    outside = float(geometry.surface_angle(turns, wide))
    assert math.tan(outside) == pytest.approx(math.pi * wide / lead) and outside > geometry.centre_angle(
        turns, wide, strands
    )
    assert float(geometry.turns_of_fibre(outside, wide)) == pytest.approx(turns)
    assert float(geometry.surface_angle(-turns, wide)) == pytest.approx(-outside)


def test_a_protractor_on_a_ply_reads_between_the_two_angles():
    """Three strands, 2 mm over all, 150 t/m: 26.8° of the middle lines, 43.3° outside; sixteen apart, as was tried."""
    inner, outer = (
        math.degrees(float(each)) for each in (geometry.centre_angle(150, 2, 3), geometry.surface_angle(150, 2))
    )
    assert inner == pytest.approx(26.8, abs=0.1) and outer == pytest.approx(43.3, abs=0.1)
    assert [geometry.envelope_over_silhouette(each) for each in (1, 2, 3, 4, 9)] == [1.0, 1.20, 1.10, 1.06, 1.06]


@given(st.integers(1, 40), st.floats(1, 400), st.integers(1, 6))
def test_bumps_over_strands_and_length_are_turns(bumps, length, strands):
    assert float(geometry.turns_by_bumps(bumps, length, strands)) * length / 1000 * strands == pytest.approx(bumps)


def test_pointing_is_off_as_dice_say():
    """Against 200,000 pairs of points, each a pixel off: √2 over the length between them."""
    dice = np.random.default_rng(3).normal(0, 1, (2, 200_000))
    assert np.std(100 + dice[0] - dice[1]) / 100 == pytest.approx(float(geometry.off_by_pointing(1.0, 100.0)), rel=0.01)
