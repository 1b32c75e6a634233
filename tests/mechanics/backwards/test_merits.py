"""Merits from structure, the cut they are taken from, and the time at the wheel."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from pebble_wheel.mechanics.backwards.merits import Hands, judge
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.making import wheel
from pebble_wheel.mechanics.making.amounts import WASTE, grams_needed, metres_made
from pebble_wheel.mechanics.reading.findings import findings_of
from pebble_wheel.mechanics.reading.reading import read
from pebble_wheel.mechanics.rest.balance import resolve_made
from pebble_wheel.mechanics.strand.section import circularity, cut, groove, shown
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.single import firm_thread
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    OfBalanced,
    Rod,
    Single,
    Turns,
    Wrap,
    equal_ply,
)
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.mechanics.wash.swelling import wet_over_dry
from pebble_wheel.notation.aim import read_aim, weights_of
from pebble_wheel.notation.design import structure_of
from pebble_wheel.notation.draft import UNDYED, design_of
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.aim import candidates
from pebble_wheel.workshop.starts import STARTS, start
from tests.evaluated import EVALUATOR
from tests.yarns import TYPICAL, of_factor, ply, single

RUN = 4000.0


def judged(node, hands=None, run=RUN):
    return judge(resolve_made(node, Rod()), Finish(), TYPICAL, hands or Hands(), run)


def scores(node, **more):
    return {aspect: merit.score for aspect, merit in judged(node, **more).merits.items()}


@pytest.fixture(scope="module")
def hung():
    """Every start spun to one aim of one fibre: what differs is the structure."""
    aim = read_aim({}, (UNDYED,), Settings())
    return {each.name: each.judged.merits for each in candidates(EVALUATOR, aim, weights_of({}))}


@pytest.mark.parametrize("strands", [2, 3, 4, 5])
def test_the_hull_of_touching_circles_is_as_round_as_steiner_says(strands):
    """Steiner's formula for parallel bodies: the hull is the polygon of the centres, grown by the radius."""
    side, r = 2.0, 1.0
    polygon = strands * side**2 / (4 * math.tan(math.pi / strands)) if strands > 2 else 0.0
    perimeter = strands * side + 2 * math.pi * r
    area = polygon + strands * side * r + math.pi * r**2
    found = circularity(cut(resolve_made(ply(single(), strands, -1.0), Rod())))
    assert found == pytest.approx(4 * math.pi * area / perimeter**2, rel=2e-3)


@pytest.mark.parametrize("name", ["cable-2x2", "cable-2x3", "crepe", "coiled"])
def test_the_hull_of_any_cut_is_as_round_as_a_general_hull_finds(name):
    circles = cut(resolve_made(structure_of(design_of(start(name), Settings()).yarn), Rod()))
    round_it = np.exp(2j * np.pi * np.arange(400) / 400)
    found = []
    for x, y, r in zip(circles.x, circles.y, circles.r, strict=True):
        rim = ((x + 1j * y)[:, None] + r[:, None] * round_it).ravel()
        hull = ConvexHull(np.stack([rim.real, rim.imag], axis=1))
        found.append(4 * np.pi * hull.volume / hull.area**2)  # in the plane: its area over its perimeter
    assert circularity(circles) == pytest.approx(np.mean(found), rel=3e-3)


def test_grooves_of_a_pair_are_as_deep_as_the_integral_says():
    """Two touching circles of radius 1 seen from where they touch reach 2|cos θ|, on the mean 4/π."""
    pair = cut(resolve_made(ply(single(), 2, -1.0), Rod()))
    assert groove(pair) == pytest.approx(1 - (4 / math.pi) / 2, rel=5e-3)
    assert groove(cut(resolve_made(single(), Rod()))) == pytest.approx(0, abs=1e-9)


def test_a_wrap_is_all_that_shows_of_a_core_and_every_strand_of_a_cable():
    made = {name: resolve_made(structure_of(design_of(start(name), Settings()).yarn), Rod()) for name in STARTS}
    assert [len(shown(made[name])) for name in ("core-spun", "single", "3-ply", "cable-2x3")] == [1, 1, 3, 6]


@given(
    st.sampled_from(["2-ply", "3-ply", "chain", "single"]), st.floats(0.8, 1.3), st.sampled_from(["romney", "merino"])
)
def test_merits_lie_between_nothing_and_all_and_know_no_left_and_right(name, ratio, fibre):
    strand = single(fibre=fibre)

    def yarn(way):
        spun = replace(strand, twist=Turns(220.0 * way))
        if name == "single":
            return spun
        twist = OfBalanced(ratio, -way)
        return Chain(spun, 160.0, twist) if name == "chain" else equal_ply(spun, int(name[0]), twist)

    one, other = scores(yarn(1)), scores(yarn(-1))
    assert all(0 <= score <= 1 for score in one.values())
    assert one == pytest.approx(other, abs=2e-3)


def test_structures_come_out_in_the_order_of_the_trade(hung):
    """Common practice, no source: which structure is rounder, harder-wearing and so on than which."""
    more = {
        "round": [("3-ply", "2-ply"), ("4-ply", "3-ply"), ("single", "2-ply"), ("2-ply", "coiled")],
        "smooth": [("single", "2-ply"), ("3-ply", "2-ply"), ("3-ply", "chain"), ("2-ply", "coiled")],
        "wear": [
            ("3-ply", "2-ply"),
            ("3-ply", "chain"),
            ("cable-2x3", "3-ply"),
            ("2-ply", "single"),
            ("4-ply", "coiled"),
        ],
        "elastic": [("3-ply", "single"), ("cable-2x3", "3-ply"), ("3-ply", "core-spun"), ("2-ply", "coiled")],
        "light": [("3-ply", "single"), ("cable-2x2", "2-ply")],
        "colours": [("chain", "3-ply"), ("single", "2-ply"), ("core-spun", "2-ply"), ("2-ply", "3-ply")],
        "quick": [("single", "2-ply"), ("2-ply", "3-ply"), ("3-ply", "4-ply"), ("2-ply", "cable-2x2")],
        "forgiving": [("3-ply", "2-ply"), ("2-ply", "single"), ("4-ply", "3-ply"), ("3-ply", "core-spun")],
    }
    for aspect, pairs in more.items():
        for better, worse in pairs:
            assert hung[better][aspect].score > hung[worse][aspect].score, (aspect, better, worse)


def test_what_a_yarn_is_good_for_follows_how_it_is_spun():
    soft, firm = (scores(equal_ply(of_factor(factor), 3, OfBalanced(1.0, -1))) for factor in (14, 26))
    assert firm["wear"] > soft["wear"] and soft["light"] > firm["light"] and soft["quick"] > firm["quick"]
    quiet, lively = (scores(equal_ply(single(), 3, OfBalanced(ratio, -1))) for ratio in (1.0, 1.25))
    assert lively["elastic"] > quiet["elastic"]
    coarse, fine = (scores(equal_ply(single(fibre=fibre), 3, OfBalanced(1.0, -1))) for fibre in ("romney", "merino"))
    assert coarse["wear"] > fine["wear"] and fine["elastic"] > coarse["elastic"]
    worsted = scores(equal_ply(of_factor(17), 2, OfBalanced(1.0, -1)))
    woollen = scores(equal_ply(of_factor(17, prep="carded", draw="long"), 2, OfBalanced(1.0, -1)))
    assert woollen["light"] > worsted["light"]


def test_a_chain_keeps_colours_while_they_run_much_longer_than_its_loops():
    yarn = Chain(single(), 160.0, OfBalanced(1.0, -1))
    kept = [scores(yarn, run=run)["colours"] for run in (100.0, 500.0, 2000.0, 20000.0)]
    assert kept == sorted(kept) and kept[0] < 0.75 and kept[-1] > 0.97
    plied = [scores(equal_ply(single(), 3, OfBalanced(1.0, -1)), run=run)["colours"] for run in (100.0, 20000.0)]
    assert plied == pytest.approx([1 / 3, 1 / 3])


def test_steps_say_how_much_of_every_strand_is_made():
    steps = judged(structure_of(design_of(start("cable-2x3"), Settings()).yarn)).steps
    assert [step.level.strands for step in steps] == [1, 3, 6]
    assert steps[0].metres == 1 and 3 < steps[1].metres < 3.6 and 6 < steps[2].metres < 8
    chained = judged(structure_of(design_of(start("chain"), Settings()).yarn)).steps
    assert [step.level.strands for step in chained] == [1, 1] and chained[1].metres > 3


@given(st.floats(50, 900), st.floats(4, 30), st.floats(20, 120), st.floats(0.3, 8))
def test_time_at_the_wheel_is_twist_over_ratio_and_treadles_but_hands_set_a_limit(turns, ratio, pace, hands):
    speed = float(wheel.metres_per_minute(turns, ratio, pace, hands))
    assert speed <= hands and speed * wheel.treadles(1.0, turns, ratio) <= pace * (1 + 1e-9)
    assert min(abs(speed - hands), abs(speed * turns / ratio - pace)) < 1e-6
    spent = float(wheel.hours(100.0, turns, ratio, pace, hands))
    assert float(wheel.hours(200.0, turns, ratio, pace, hands)) == pytest.approx(2 * spent)
    assert float(wheel.hours(100.0, turns, 2 * ratio, pace, hands)) <= spent


def test_the_ratio_to_spin_with_is_the_slowest_that_keeps_up():
    assert wheel.best_ratio((6, 9, 12), 200, 60, 1.5) == 6
    assert wheel.best_ratio((6, 9, 12), 300, 60, 1.5) == 9
    assert wheel.best_ratio((6, 9, 12), 900, 60, 1.5) == 12
    assert wheel.feeding(Single(FIBRES["romney"], "carded", "long", 100.0, Turns(100.0))) > wheel.feeding(single())


@given(st.floats(1, 3000), st.floats(20, 3000), st.sampled_from(list(WASTE)))
def test_grams_and_metres_lead_back_to_each_other_with_waste(metres, tex, prep):
    grams = grams_needed(metres, tex, WASTE[prep])
    assert grams > metres * tex / 1000
    assert metres_made(grams, tex, WASTE[prep]) == pytest.approx(metres)


def test_drape_falls_with_thickness_twist_and_a_core_of_thread():
    # common practice, no source: a soft fine yarn falls, a hard thick cord and a stiff core stand
    def drape(node):
        return scores(node)["drape"]

    def plied(tex, factor, strands=2):
        turns = 100 * factor / tex**0.5
        return equal_ply(
            Single(FIBRES["corriedale"], "combed", "short", tex, Turns(turns)), strands, Turns(-0.6 * turns)
        )

    assert drape(plied(50, 18)) > drape(plied(200, 18)) > drape(plied(600, 18))
    assert drape(plied(100, 14)) > drape(plied(100, 20)) > drape(plied(100, 30))
    strip = Wrap(FIBRES["corriedale"], "carded", 800.0, 12.0)
    thin, thick = (CoreSpun(Bought(tex, firm_thread(tex), Turns(-300.0)), strip, Turns(150.0)) for tex in (30.0, 400.0))
    assert drape(thin) > drape(thick)


def test_loops_show_through_a_wrap_and_hair_grips_it():
    def said(nature):
        core = Bought(70.0, firm_thread(70.0), Turns(-300.0), nature)
        node = CoreSpun(core, Wrap(FIBRES["corriedale"], "carded", 800.0, 12.0), Turns(150.0))
        return {each.code for each in findings_of(read(node, Finish(), TYPICAL))} & {"slick-core", "loops-show"}

    assert (said("smooth"), said("hairy"), said("looped")) == ({"slick-core"}, set(), {"loops-show"})


def test_a_bought_thread_swells_as_its_fibre_does():
    # Morton & Hearle, from memory: wool grows 15 to 17 % in water, polyester not at all
    def wet(fibre):
        return wet_over_dry(make(Bought(70.0, firm_thread(70.0), Turns(-300.0), "smooth", fibre)).state)

    assert [float(each) for each in wet(FIBRES["merino"])] == pytest.approx([1.15, 1.17])
    assert [float(each) for each in wet(None)] == [1, 1] == [float(each) for each in wet(FIBRES["polyester"])]
