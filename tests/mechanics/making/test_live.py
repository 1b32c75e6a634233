"""Twist watched draft by draft, on runs whose truth is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.making.live import SMOOTHED, spreads_of, watch

HALF = 0.5 / 8
"""Half a treadle of eight."""


def first_alarm(twists, wanted=140.0):
    for count in range(1, len(twists) + 1):
        found = watch(twists[:count], wanted, HALF)
        if found.alarm:
            return count, found
    return None, None


def drafts(rng, several, spread=0.1, wanted=140.0):
    return wanted * np.exp(rng.normal(0, spread, several))


def test_honest_runs_are_hardly_ever_alarmed():
    """200 runs of 100 drafts that scatter by a tenth: under one in twenty."""
    rng = np.random.default_rng(1)
    assert sum(first_alarm(drafts(rng, 100))[0] is not None for _ in range(200)) < 10


@pytest.mark.parametrize(("share", "remedy"), [(6.5 / 8, "more"), (9.6 / 8, "less")])
def test_a_drift_is_told_within_six_drafts_and_which_way(share, remedy):
    """From draft 20 on 6½ of 8 treadles: by draft 26, nearly always, with the right remedy."""
    rng, told = np.random.default_rng(2), []
    for _ in range(100):
        twists = drafts(rng, 60, 0.07)
        twists[20:] *= share
        at, found = first_alarm(twists)
        told.append(at is not None and 20 < at <= 26 and found.alarm == remedy and abs(found.since - 20) <= 4)
    assert np.mean(told) > 0.9


def test_a_small_drift_within_half_a_treadle_is_left_alone():
    rng = np.random.default_rng(3)
    twists = drafts(rng, 100, 0.02)
    twists[20:] *= 1.04
    assert first_alarm(twists)[0] is None


@given(st.lists(st.floats(20, 900), min_size=1, max_size=30), st.floats(50, 500))
def test_a_watch_is_the_same_in_any_unit_and_mirrored_by_its_inverse(twists, wanted):
    own = watch(np.array(twists), wanted, HALF)
    scaled = watch(2 * np.array(twists), 2 * wanted, HALF)
    assert scaled.alarm == own.alarm and scaled.twist == pytest.approx(2 * own.twist)
    assert own.low <= wanted * np.exp(own.off) <= own.high
    turned = watch(wanted**2 / np.array(twists), wanted, HALF)
    assert turned.off == pytest.approx(-own.off) and {own.alarm, turned.alarm} in ({""}, {"more", "less"})


def test_the_running_mean_and_its_spread():
    found = watch(np.array([140.0, 154.0]), 140.0, HALF)
    assert found.twist == pytest.approx(140 * 1.1**SMOOTHED)
    assert np.isnan(watch(np.array([]), 140.0, HALF).twist) and watch(np.array([]), 140.0, HALF).alarm == ""
    steady = np.zeros(300)
    assert spreads_of(steady)[[0, -1]] == pytest.approx([0.1, 0.1 * np.sqrt(15 / 314)])
    shifted = np.concatenate([steady, steady + 0.3])
    assert spreads_of(shifted)[-1] < 0.03  # one step, whatever comes after
