"""Bias and spread of a simulated eye, and how often it takes one thing for another."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, stats

from pebble_wheel.mechanics.learning.eye import HALF_LIFE, SPREAD_OFF, eye_of, taken_for


def test_the_bias_and_spread_of_a_simulated_eye_are_found():
    """Over 300 eyes drawn as they usually are, the bands of eight in ten hold eight in ten, whatever the count."""
    rng = np.random.default_rng(3)
    for count in (3, 10, 40):
        inside, off = [], []
        for _ in range(300):
            bias, spread = rng.normal(0, 3.0), 2.6 * np.exp(rng.normal(0, SPREAD_OFF))
            eye = eye_of(list(rng.normal(bias, spread, count)), 3.0, 2.6)
            inside.append(abs(eye.bias - bias) <= 1.2816 * eye.bias_sd)
            off.append(np.log(eye.spread / spread))
        assert 0.74 <= np.mean(inside) <= 0.86, count
        assert abs(np.mean(off)) < 0.12 and np.std(off) < SPREAD_OFF
    steep = eye_of(list(rng.normal(6.0, 3.0, 60)), 3.0, 2.6)
    assert steep.bias == pytest.approx(6.0, abs=1.2) and steep.spread == pytest.approx(3.0, rel=0.25)


def test_it_is_what_integration_over_bias_and_spread_says():
    """scipy's Simpson rule over the joint density, general-purpose."""
    errors, tau, usual = np.array([4.0, 7.5, 2.0, 6.0]), 3.0, 2.6
    biases, logs = np.linspace(-15, 25, 1601), np.linspace(-2, 2, 401)
    bias, spread = np.meshgrid(biases, usual * np.exp(logs), indexing="ij")
    density = stats.norm(bias[..., None], spread[..., None]).pdf(errors).prod(axis=-1)
    density *= stats.norm(0, tau).pdf(bias) * stats.norm(0, SPREAD_OFF).pdf(logs)

    def moment(of):
        return integrate.simpson(integrate.simpson(of * density, x=logs), x=biases)

    whole = moment(np.ones_like(bias))
    mean = moment(bias) / whole
    eye = eye_of(list(errors), tau, usual)
    assert eye.bias == pytest.approx(mean, rel=2e-3)
    assert eye.spread == pytest.approx(moment(spread) / whole, rel=2e-3)
    assert eye.bias_sd == pytest.approx((moment((bias - mean) ** 2) / whole) ** 0.5, rel=2e-3)


def test_without_answers_an_eye_is_as_usual_and_old_answers_count_less():
    nothing = eye_of([], 3.0, 2.6)
    assert (nothing.bias, nothing.bias_sd, nothing.count) == (0.0, pytest.approx(3.0), 0)
    old = eye_of([8.0] * 10 + [0.0] * 10, 3.0, 2.6, [4 * HALF_LIFE] * 10 + [0.0] * 10)
    assert abs(old.bias) < 1.2 < abs(eye_of([8.0] * 10 + [0.0] * 10, 3.0, 2.6).bias)


@given(st.lists(st.floats(-40, 40), min_size=1, max_size=12), st.floats(-20, 20), st.floats(0.1, 10))
def test_mirrored_errors_mirror_the_bias_and_a_larger_unit_scales_it(errors, shift, scale):
    eye, mirrored = eye_of(errors, 3.0, 2.6), eye_of([-each for each in errors], 3.0, 2.6)
    assert mirrored.bias == pytest.approx(-eye.bias, abs=1e-9) and mirrored.spread == pytest.approx(eye.spread)
    scaled = eye_of([scale * each for each in errors], 3.0 * scale, 2.6 * scale)
    assert scaled.bias == pytest.approx(scale * eye.bias, rel=1e-6, abs=1e-9)


def test_how_often_one_is_taken_for_another():
    """Against scipy's beta distribution; a few answers say little, many all."""
    few, many = taken_for(2, 4), taken_for(200, 400)
    assert few.low < 0.25 and few.high > 0.6 and 0.45 < many.low < many.share < many.high < 0.55
    assert (few.low, few.high) == pytest.approx(stats.beta(2 + 0.3, 2 + 1.7).ppf([0.1, 0.9]))


def test_half_lives_and_priors_do_not_drift():
    assert (HALF_LIFE, SPREAD_OFF) == (60.0, 0.5)
    one = eye_of([6.0, 0.0], 3.0, 2.6, [60.0, 0.0])  # the old one counts half
    assert one.bias == pytest.approx(eye_of([6.0, 0.0, 0.0], 3.0, 2.6, [60.0, 60.0, 60.0]).bias)
