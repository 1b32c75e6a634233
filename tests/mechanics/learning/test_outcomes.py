"""Figures as reckoned, and how they lean on a spinner's factors, against the evaluator itself."""

import math
from dataclasses import replace

import numpy as np
import pytest

from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.learning.factors import (
    FACTORS,
    Group,
    columns_of,
    group_of,
    groups_in,
    main_group,
    put_in,
)
from pebble_wheel.mechanics.learning.noise import COUNT, FOLD_ANGLE, interval_off, noise_of, scatter
from pebble_wheel.mechanics.learning.outcomes import natural, reckon, told
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.reading import read
from pebble_wheel.mechanics.rest.balance import fold_turns, resolve
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Member,
    OfBalanced,
    Ply,
    Rod,
    Single,
    Turns,
    equal_ply,
)
from pebble_wheel.mechanics.wash.bloom import Finish, growth

SINGLE = Single(FIBRES["corriedale"], "combed", "short", 100.0, Turns(300.0))
OTHER = Single(FIBRES["merino"], "carded", "long", 60.0, Turns(300.0))
THREE = resolve(equal_ply(SINGLE, 3, OfBalanced(1.1, -1)), Rod())
MIXED = Ply((Member(SINGLE, 2), Member(OTHER)), Turns(-150.0))
EVERY = (
    "thick",
    "finished thick",
    "tex",
    "finished tex",
    "turns",
    "fold",
    "fold angle",
    "loop",
    "angle",
    "take-up",
    "wash length",
)


def test_the_middle_is_what_the_evaluator_says():
    reading = read(THREE, Finish(), Constants())
    found = reckon(THREE, Rod(), Finish(), EVERY).middle
    top = reading.levels[0]
    assert told("thick", found["thick"]) == pytest.approx(top.diameter, rel=1e-6)
    assert told("finished thick", found["finished thick"]) == pytest.approx(
        top.diameter * float(growth(reading.made.state, Finish())), rel=1e-6
    )
    assert told("tex", found["tex"]) == pytest.approx(reading.resultant_tex, rel=1e-6)
    assert told("finished tex", found["finished tex"]) == pytest.approx(reading.finished_tex, rel=1e-6)
    assert found["angle"] == pytest.approx(math.degrees(abs(top.angle)), rel=1e-6)
    assert told("take-up", found["take-up"]) == pytest.approx(1 - top.take_up, rel=1e-6)
    assert found["loop"] == pytest.approx(reading.balance.loop_turns, abs=0.02)
    single = reckon(SINGLE, Rod(), Finish(), ("fold",)).middle
    assert told("fold", single["fold"]) == pytest.approx(abs(fold_turns(SINGLE, Rod())), rel=1e-3)


@pytest.mark.parametrize("outcome", ["thick", "tex", "fold", "angle", "take-up"])
@pytest.mark.parametrize("factor", FACTORS)
def test_how_a_figure_leans_is_its_change_with_a_factor(outcome, factor):
    """Against two evaluations by themselves, a little to either side."""
    node = SINGLE if outcome == "fold" else THREE
    found = reckon(node, Rod(), Finish(), (outcome,))
    lean = found.leans[outcome][found.columns.index((factor, group_of(SINGLE)))]
    ends = []
    for side in (-0.05, 0.05):
        varied, rod = put_in(node, Rod(), {(factor, group_of(SINGLE)): side})
        rod = Rod(float(rod.bend_to_twist), float(rod.set_share))
        ends.append(reckon(varied, rod, Finish(), (outcome,)).middle[outcome])
    assert lean == pytest.approx((ends[1] - ends[0]) / 0.1, abs=0.02 * max(1, abs(lean)) + 0.004)


def test_factors_put_in_are_those_that_were_meant():
    group = group_of(SINGLE)
    offsets = {("size", group): 0.1, ("twist", group): -0.2, ("packing", group): 0.3, ("bloom", group): 0.4}
    (node, rod) = put_in(
        THREE, Rod(1.5, 0.1), {**offsets, ("ply", group): 0.05, ("stiffness", group): 0.1, ("set", group): 0.02}
    )
    inner = node.members[0].node
    assert inner.tex == pytest.approx(100 * math.exp(0.1))
    assert inner.twist.per_m == pytest.approx(300 * math.exp(-0.2))
    assert inner.squeeze_factor == pytest.approx(math.exp(0.3)) and inner.bloom_factor == pytest.approx(math.exp(0.4))
    assert node.twist.per_m == pytest.approx(THREE.twist.per_m * math.exp(0.05))
    assert float(rod.bend_to_twist) == pytest.approx(1.5 * math.exp(0.1)) and float(rod.set_share) == pytest.approx(
        0.12
    )
    assert put_in(THREE, Rod(), {})[0] == THREE


def test_of_two_fibres_each_has_factors_of_its_own():
    assert main_group(MIXED) == Group("corriedale", "combed")
    assert groups_in(MIXED) == (Group("corriedale", "combed"), Group("merino", "carded"))
    assert len(columns_of(MIXED)) == 8 + 5
    group = Group("merino", "carded")
    varied, _ = put_in(MIXED, Rod(), {("size", group): 0.2})
    assert [float(each.node.tex) for each in varied.members] == pytest.approx([100, 60 * math.exp(0.2)])
    own = replace(FIBRES["merino"], id="own", name="Attic fleece")
    assert group_of(replace(OTHER, fibre=own)) == Group("Attic fleece", "carded")
    thread = Bought(50.0, 0.3, Turns(100.0))
    assert main_group(thread).prep is None and groups_in(thread) == (main_group(thread),)


def test_a_bloom_learned_changes_the_wash_and_nothing_else():
    more, _ = put_in(THREE, Rod(), {("bloom", group_of(SINGLE)): 0.5, ("draws up", group_of(SINGLE)): 0.5})
    before, after = (reckon(each, Rod(), Finish(), EVERY).middle for each in (THREE, more))
    assert after["finished thick"] > before["finished thick"] + 0.02
    assert after["wash length"] < before["wash length"] - 0.015
    assert after["thick"] == before["thick"] and after["loop"] == pytest.approx(before["loop"], abs=1e-9)
    plain = make(THREE).state
    assert float(growth(make(more).state, Finish())) - 1 == pytest.approx(
        math.exp(0.5) * (float(growth(plain, Finish())) - 1), rel=1e-9
    )


def test_figures_are_told_and_taken_in_alike():
    for outcome in EVERY:
        assert told(outcome, natural(outcome, 0.7)) == pytest.approx(0.7)
    assert natural("angle", 24.0) == 24.0 and natural("thick", math.e) == pytest.approx(1.0)


def test_the_noise_of_each_way_of_measuring():
    """Values that were tried by simulation, and must not drift."""
    assert (noise_of("thick", "card").bias, noise_of("thick", "card").scatter) == (0.25, 0.20)
    assert (noise_of("thick", "wraps").bias, noise_of("thick", "wraps").scatter) == (0.05, 0.062)
    assert (noise_of("angle", "eye").bias, noise_of("angle", "eye").scatter) == (1.5, 2.6)
    assert (COUNT.bias, COUNT.scatter) == (0.03, 0.03) and noise_of("fold angle", "fold") == FOLD_ANGLE
    assert noise_of("wash length", "laid out").scatter == 0.012 and noise_of("take-up", "laid out").scatter == 0.010
    assert scatter("thick", "wraps", 1, True) == pytest.approx(math.hypot(0.062, 0.10))
    assert scatter("thick", "wraps", 4, False) == pytest.approx(math.hypot(0.062, 0.035))
    assert scatter("angle", "eye", 25, False, 3.0) == pytest.approx(math.sqrt(2.6**2 + 0.5**2 + 9))
    assert interval_off(20, 26) == pytest.approx(np.log(1.3) / np.sqrt(12))
