"""What to change at the wheel: the rule against doing nothing and against taking every reading for the truth."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.learning.correct import (
    FEWEST_TREADLES,
    MOST_TREADLES,
    Compared,
    Deviation,
    against,
    deviation,
    half_a_treadle,
    in_hand,
    let_back,
    treadling,
)
from pebble_wheel.mechanics.learning.factors import FACTORS
from pebble_wheel.mechanics.learning.model import Measured, YarnMeasured, learn
from tests.mechanics.learning.simulated import LEANS, MERINO, Spinner

WEIGHED = (("thick", "wraps"), ("fold", "fold"), ("turns", "count"), ("tex", "weighed"))
OF_MERINO = tuple((factor, MERINO) for factor in FACTORS)
FOLLOWED = 0.7
"""Of what it is told, the share that a hand does."""


def within_after(rule, measured=WEIGHED, spinners=60, samples=6):
    """Return the share of spinners that spin within 5 % of size and twist after six samples."""
    rng, near = np.random.default_rng(1), []
    for _ in range(spinners):
        spinner, asked, yarns = Spinner(rng, (MERINO,)), np.zeros(8), []
        for _ in range(samples):
            yarn = spinner.yarn(MERINO, measured, spinner.factors(MERINO) + FOLLOWED * asked)
            readings = tuple(
                Measured(each.off - each.leans @ asked, each.leans, each.scatter, each.outcome, MERINO, each.method)
                for each in yarn.readings
            )
            yarns.append(YarnMeasured(yarn.columns, readings))
            rule(asked, yarns, {each.outcome: each.off for each in yarn.readings})
        kept = spinner.own + spinner.by_group[MERINO] + FOLLOWED * asked
        near.append((abs(kept[:2]) < 0.05).all())
    return np.mean(near)


def by_the_posterior(asked, yarns, _):
    lessons = learn(yarns)
    for place, factor in enumerate(("size", "twist")):
        off = deviation(lessons, factor, MERINO, asked[place])
        if off.verdict(0.05) == "change":
            asked[place] -= off.mean


def naively(asked, _, off):
    asked[0] -= 2 * off["thick"]  # thickness goes with the root of linear density
    asked[1] -= off["fold"]


def test_the_rule_closes_in_where_the_naive_one_chases_its_own_errors():
    ours, nothing, naive = (within_after(rule) for rule in (by_the_posterior, lambda *_: None, naively))
    assert ours > 0.42
    assert naive < nothing - 0.05 < ours - 0.2


def test_without_a_weighing_size_is_hardly_ever_touched():
    """Thickness alone does not tell linear density from packing."""
    changes = []

    def watched(asked, yarns, off):
        by_the_posterior(asked, yarns, off)
        changes.append(asked[0] != 0)

    within_after(watched, WEIGHED[:3], spinners=15, samples=2)
    assert np.mean(changes) < 0.2


@pytest.mark.parametrize(
    ("mean", "sd", "near", "verdict"),
    [
        (0.02, 0.001, 0.03, "near"),
        (-0.06, 0.07, 0.03, "not sure"),
        (-0.06, 0.05, 0.03, "change"),
        (0.2, 0.1, 0.05, "change"),
    ],
)
def test_what_a_deviation_calls_for(mean, sd, near, verdict):
    assert Deviation(mean, sd).verdict(near) == verdict
    assert Deviation(mean, sd).times == pytest.approx(math.exp(-mean))


def test_nine_treadles_that_must_become_eleven():
    """At 12:1 in 0.5 m, 9 treadles give 216 t/m; a fifth and more on top wants 11 on the same whorl."""
    assert treadling(216, 0.5, 12, (6, 9, 12)).count == 9
    more = treadling(216 * 15 / 12, 0.5, 12, (6, 9, 12))
    assert (more.ratio, more.count, more.between) == (12, 11, False)


def test_a_whorl_is_changed_only_where_its_treadles_cannot_be_counted():
    assert treadling(600, 0.5, 12, (6, 9, 12, 20)).ratio == 20  # 25 treadles are too many, 15 are not
    assert treadling(100, 0.5, 20, (6, 9, 12, 20)).ratio == 9  # 2½ are too few; 5.6 on the nearest that will do


@given(st.floats(20, 1500), st.floats(0.2, 1.5), st.sampled_from([4.0, 6.0, 9.0, 12.0, 20.0]))
def test_treadles_come_to_the_twist_within_a_quarter_of_one(turns, draft, ratio):
    found = treadling(turns, draft, ratio, (4.0, 6.0, 9.0, 12.0, 20.0))
    wanted = turns * draft / found.ratio
    said = found.count + (0.5 if found.between else 0)
    assert abs(said - wanted) <= 0.2501 or said == 1
    if FEWEST_TREADLES <= turns * draft / ratio <= MOST_TREADLES:
        assert found.ratio == ratio
    assert found.turns_per_m == pytest.approx(said * found.ratio / draft)
    assert half_a_treadle(turns, draft, ratio) == pytest.approx(0.5 / max(turns * draft / ratio, 1))


def test_twist_that_got_away_is_let_back():
    """12 cm with double the twist hold that of 24 cm: over 12 cm more it is as it should be."""
    length, excess = 12.0, 2.0
    more = let_back(length, excess)
    assert more == 12.0
    assert length * excess / (length + more) == 1.0  # turns are conserved


def test_of_two_samples_of_one_spinner_what_both_have_in_common_cancels():
    """Ply-backs counted at four places, a fifth apart: nearly all of it is twist, whatever k, s and packing are."""
    leans = LEANS["fold"]
    both = [Compared(math.log(12 / 15), math.hypot(0.07, 0.07), leans)]
    off = against(OF_MERINO, both)[("twist", MERINO)]
    assert math.exp(off.mean) == pytest.approx(0.81, abs=0.03)
    assert 0.08 < off.sd < 0.15
    none = against(OF_MERINO, [Compared(0.0, 0.1, leans)])[("twist", MERINO)]
    assert none.mean == 0 and none.verdict(0.03) == "near"


def test_a_strand_in_hand_is_told_by_its_own_readings():
    """An angle 8° short of what was meant is ply twist, as far as the eye can tell; counted turns are all but sure."""
    angle = Measured(-8.0, LEANS["angle"], 2.9, "angle", MERINO, "eye")
    off = in_hand(learn([]), YarnMeasured(OF_MERINO, (angle,)))[("ply", MERINO)]
    assert -0.3 < off.mean < -0.15 and off.sd < 0.17
    counted = Measured(-0.2, np.array([0, 1.0, 0, 0, 0, 0, 0, 0]), 0.03, "turns", MERINO, "count")
    off = in_hand(learn([]), YarnMeasured(OF_MERINO, (counted,)))[("twist", MERINO)]
    assert off.mean == pytest.approx(-0.19, abs=0.01) and off.sd < 0.05
