"""What is practised: the worst most, the mastered ever more rarely, several skills in each round."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.learning.practice import (
    FEWEST_KINDS,
    GOOD,
    LATE,
    MOST_ALIKE,
    MOST_DAYS,
    UNTRIED,
    UNTRIED_WEIGHS,
    Answered,
    Standing,
    round_of,
    standing_of,
)

SKILLS = ("way", "angle", "balance", "wraps", "plies")


def standings(misses, days=1):
    answers = {skill: [Answered(day, miss) for day in range(days) for _ in range(4)] for skill, miss in misses.items()}
    return {skill: standing_of(own, float(days)) for skill, own in answers.items()}


def test_the_worst_is_asked_most():
    found = standings({"way": 0.9, "angle": 0.1, "balance": 0.5, "wraps": 0.0, "plies": 0.0})
    counts = dict.fromkeys(SKILLS, 0)
    for seed in range(40):
        for each in round_of(found, 10, np.random.default_rng(seed)):
            counts[each] += 1
    assert counts["way"] == max(counts.values()) and counts["way"] > counts["balance"] > counts["angle"]
    assert counts["way"] <= 40 * MOST_ALIKE


def test_what_goes_well_comes_again_after_a_day_then_after_twice_as_long():
    days, day, gaps = [], 0.0, []
    for _ in range(8):
        days.append(Answered(day, 0.0))
        interval = standing_of(days, day).interval
        gaps.append(interval)
        assert not standing_of(days, day + 0.99 * interval).due and standing_of(days, day + interval).due
        day += interval
    assert gaps == [1, 2, 4, 8, 16, 32, 64, MOST_DAYS]
    assert standing_of([*days, Answered(day, 1.0)], day).interval == 0  # once wrong, it is due at once


def test_what_was_never_tried_is_due_and_what_is_not_due_hardly_asked():
    new = standing_of([], 5.0)
    assert new == Standing(UNTRIED, 0.0, np.inf) and new.due
    rested = {"way": standing_of([Answered(0, 0.2)] * 6, 0.3), **dict.fromkeys(SKILLS[1:], new)}
    assert "way" not in round_of(rested, 10, np.random.default_rng(1))
    assert rested["way"].need < 0.05 * new.need


def test_a_simulated_learner_gets_the_round_it_needs_and_mastery_frees_it():
    """Sixty days: one is bad at one thing and gets better by each answer; it is asked often first, seldom at last."""
    rng, chance = np.random.default_rng(4), dict.fromkeys(SKILLS, 0.05) | {"balance": 0.9}
    answers = {each: [] for each in SKILLS}
    asked = []
    for day in range(60):
        now = {each: standing_of(own, float(day)) for each, own in answers.items()}
        chosen = round_of(now, 10, rng)
        asked.append(chosen.count("balance"))
        for each in chosen:
            answers[each].append(Answered(float(day), float(rng.random() < chance[each])))
            chance[each] *= 0.96 if each == "balance" else 1.0
    assert np.mean(asked[2:12]) > 1.5 * np.mean(asked[-20:])
    assert chance["balance"] < 0.15


@given(st.dictionaries(st.sampled_from("abcdefgh"), st.floats(0, 1), min_size=3), st.integers(0, 99))
def test_a_round_is_whole_mixed_and_of_several_skills(misses, seed):
    found = standings(misses)
    chosen = round_of(found, 10, np.random.default_rng(seed))
    assert len(chosen) == 10 and len(set(chosen)) >= FEWEST_KINDS
    assert max(chosen.count(each) for each in chosen) <= max(MOST_ALIKE, -(-10 // len(found)))
    assert chosen == round_of(found, 10, np.random.default_rng(seed))


def test_late_answers_count_most():
    better = standing_of([Answered(0, 1.0)] * 20 + [Answered(1, 0.0)] * 20, 2.0)
    worse = standing_of([Answered(0, 0.0)] * 20 + [Answered(1, 1.0)] * 20, 2.0)
    assert better.miss < 0.3 and worse.miss > 0.7
    assert standing_of([Answered(0, 0.5)] * 100, 1.0).miss == pytest.approx(0.5, abs=0.03)


def test_the_need_is_miss_times_how_far_it_is_overdue():
    assert Standing(0.4, 2.0, 3.0).need == pytest.approx(0.4 * (0.1 + 3.0 / 2.0))
    assert Standing(0.4, 4.0, 1.0).need == pytest.approx(0.05 * 0.4 * 1.0 / 4.0)
    assert Standing(0.4, 1.0, 50.0).need == Standing(0.4, 1.0, 500.0).need == pytest.approx(0.4 * 3.1)
    assert Standing(0.4, 0.0, 0.1).need == pytest.approx(0.4 * 3.1)  # what went badly is due at once
    well, ill = ([Answered(0, miss)] * 4 for miss in (GOOD, GOOD + 0.01))
    assert GOOD == 0.25 and standing_of(well, 1.0).interval == 1 and standing_of(ill, 1.0).interval == 0
    assert (LATE, UNTRIED, UNTRIED_WEIGHS) == (8.0, 0.35, 2.0)
    assert standing_of([Answered(0, 1.0)], 0.0).miss == pytest.approx((1 + 2 * 0.35) / 3)
