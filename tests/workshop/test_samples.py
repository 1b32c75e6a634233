"""Samples judged, and what they teach, in worked cases."""

import math
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from pebble_wheel.demo.lantern_lane import TYPED
from pebble_wheel.demo.trail import first_spinner, trail
from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.learning.correct import Deviation
from pebble_wheel.mechanics.learning.factors import FACTORS, Group, group_of
from pebble_wheel.mechanics.learning.model import learn
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.reading import read
from pebble_wheel.mechanics.rest.balance import resolve
from pebble_wheel.mechanics.strand.structure import Rod
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.design import finish_of, new_design, structure_of
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.sample import Asked, Sample
from pebble_wheel.notation.settings import Settings
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.sampling import LEAVE_IT, part_words, reading_words, verdict_words
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.known import (
    cuts_of,
    doubts_of,
    figures_of,
    foretold,
    known_figures,
    narrowings,
    next_to_measure,
)
from pebble_wheel.workshop.learn import Noted, node_of, sample_of, told_of, yarns_of
from pebble_wheel.workshop.take import taken_as_plan
from pebble_wheel.workshop.verdict import judge_sample

SINGLE = "yarn.strands[0]"
ROD, HANDS = Rod(), Hands((6.0, 9.0, 12.0), 60.0)


def three_ply(turns=216.0, ply=160.0, tex=100.0):
    """A 3-ply of corriedale: at 12:1 its single wants 9 treadles to half a metre."""
    spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": tex, "count": 3}
    spun |= {"twist": {"turns_per_m": turns, "direction": "Z"}}
    return new_design("Rope", {"kind": "ply", "strands": [spun], "twist": {"turns_per_m": ply, "direction": "S"}})


DESIGN = three_ply()


def noted(sample, design=DESIGN, entry=1, **more):
    return Noted(entry, design, f"plan of {design.name}", sample, **more)


def reckoned(outcome, path=SINGLE, design=DESIGN):
    """Return what is reckoned of a strand."""
    fields = {"thick": "thick_mm", "fold": "fold_turns", "angle": "angle"}
    told = told_of(Sample(path, **{fields[outcome]: 1.0}), node_of(design, path, ROD), ROD, finish_of(design))
    return told[0].reckoned


def judged(sample, reference=None, before=(), design=DESIGN):
    own = noted(sample, design)
    others = learn(yarns_of(before, ROD).values())
    lessons = learn(yarns_of([*before, own], ROD).values())
    to = noted(reference, design, 0) if reference else None
    return judge_sample(own, to, lessons, others, HANDS, ROD)


def words_of(sample, **more):
    return verdict_words(judged(sample, **more), sample, False, Display())


def test_a_card_between_20_and_26_where_24_were_planned_is_no_alarm():
    thick = reckoned("thick")
    around = Sample(SINGLE, thick_mm=thick * 24 / math.sqrt(20 * 26), thick_off=0.0757, thick_by="card")
    said = words_of(around)
    assert said.head == LEAVE_IT and not said.steps and not said.alarm
    assert reading_words(judged(around).told[0], Display()).within


def test_twelve_bumps_where_the_sample_to_match_has_fifteen():
    """Same gauge: about a fifth too little twist, 9 treadles become 11, or a smaller whorl."""
    thick = reckoned("thick")
    match = Sample(SINGLE, places=8, thick_mm=thick, fold_turns=15 / 2 / 0.04, ratio=12.0)
    short = replace(match, fold_turns=12 / 2 / 0.04)
    said = words_of(short, reference=match)
    assert "a fifth too little twist" in said.head and "the sample to match" in said.head and said.alarm
    assert said.steps[0].startswith("9 treadles to 50 cm at 12:1 becomes 11, or a smaller whorl")
    assert words_of(match, reference=match).head == LEAVE_IT


def test_a_wide_loop_alone_says_the_same_without_figures():
    said = words_of(Sample(SINGLE, fold_word="wide"))
    assert said.head == "Too little twist." and "smaller whorl" in said.steps[0]
    assert not any(letter.isdigit() for step in (said.head, *said.steps) for letter in step)
    assert words_of(Sample(SINGLE, fold_word="right")).head == LEAVE_IT
    assert "Too much" in words_of(Sample(SINGLE, fold_word="kinks")).head


def test_a_ply_that_leans_too_little_wants_more_and_one_too_much_takes_less_time():
    wanted = reckoned("angle", "yarn")
    less, more = (Sample("yarn", angle=wanted + off, places=6) for off in (-8.0, 8.0))
    short, over = judged(less), judged(more)
    (change,), (other,) = short.changes, over.changes
    assert change.verdict == other.verdict == "change"
    assert change.then.turns_per_m > 1.1 * change.now.turns_per_m and change.minutes > 0
    assert other.then.turns_per_m < 0.9 * other.now.turns_per_m and other.minutes < 0
    assert "too little ply twist" in words_of(less).head and "longer" in words_of(less).steps[0]
    assert "too much ply twist" in words_of(more).head and "min less" in words_of(more).steps[0]


def test_a_plying_sample_of_rested_singles_that_kinks_is_no_alarm():
    said = words_of(Sample("yarn", fold_word="kinks", rested_hours=24.0))
    assert not said.alarm and not said.steps and "have rested" in said.asides[0]
    assert words_of(Sample("yarn", fold_word="kinks")).alarm


def test_a_rested_ply_back_is_brought_to_fresh_before_it_is_judged():
    """ "148 t/m after a day's rest is about 200 fresh": a day hides some quarter of it."""
    fresh = reckoned("fold")
    rested = Sample(SINGLE, fold_turns=fresh * 0.75, rested_hours=24.0, places=5)
    (told,) = told_of(rested, node_of(DESIGN, SINGLE, ROD), ROD, Finish())
    assert told.measured == pytest.approx(fresh, rel=0.05) and told.as_measured == pytest.approx(0.75 * fresh)
    assert 1.25 < told.measured / told.as_measured < 1.45
    said = words_of(rested)
    assert said.head == LEAVE_IT and "do not add twist" in said.asides[0]
    (plain,) = told_of(replace(rested, rested_hours=0.0), node_of(DESIGN, SINGLE, ROD), ROD, Finish())
    assert told.scatter > 1.3 * plain.scatter  # how much rest hides is uncertain by half


def test_a_wet_gauge_is_brought_to_dry():
    node = node_of(DESIGN, "yarn", ROD)
    dry, wet = (told_of(Sample("yarn", thick_mm=1.2, wet=each), node, ROD, Finish())[0] for each in (False, True))
    assert wet.measured < dry.measured == pytest.approx(1.2) and wet.scatter > dry.scatter
    assert wet.off < dry.off


def test_a_single_picked_out_at_an_eighteenth_of_its_twist_gives_no_more():
    """Of a crepe: at 18 % of its ply-back as spun there are no further turns to take."""
    spun = reckoned("fold")
    picked = Sample(SINGLE, taken="yarn", fold_turns=0.18 * spun)
    found = judged(picked)
    assert found.spent == pytest.approx(0.18, abs=0.001) and not found.told
    said = words_of(picked)
    assert "No further turns" in said.head and "18 %" in said.head and said.alarm
    assert not words_of(replace(picked, fold_turns=0.6 * spun)).alarm


def test_size_is_not_corrected_before_anything_was_weighed():
    thick = reckoned("thick")
    found = judged(Sample(SINGLE, thick_mm=1.15 * thick, places=5))
    assert {each.what: each.verdict for each in found.changes}["size"] != "change"
    weighed = [
        noted(Sample("yarn", metres=100.0, grams=37.0), entry=place, noted_at=datetime(2026, place, 1, tzinfo=UTC))
        for place in range(1, 9)
    ]
    found = judged(Sample(SINGLE, thick_mm=1.08 * thick, places=5), before=weighed)
    change = {each.what: each for each in found.changes}["size"]
    assert change.verdict == "change" and change.asked == pytest.approx(-change.off.mean)
    assert found.asked.size < -0.05


def test_how_it_was_asked_for_counts():
    """Who aims a tenth finer, as told, and still comes out thick, spins by so much thicker than they aim."""
    told = [
        noted(
            Sample("yarn", metres=100.0, grams=each, asked=Asked(size=-0.1)),
            entry=place,
            noted_at=datetime(2026, place, 1, tzinfo=UTC),
        )
        for place, each in enumerate((34.0, 34.2, 33.9, 34.1), 1)
    ]
    plan = told_of(Sample("yarn", metres=100.0, grams=34.0), node_of(DESIGN, "yarn", ROD), ROD, Finish())[0]
    lessons = learn(yarns_of(told, ROD).values())
    mean, _ = lessons.kept((("size", Group("corriedale", "combed")),))
    assert plan.off == pytest.approx(0.08, abs=0.02) and plan.off + 0.02 < mean[0] < plan.off + 0.1


def test_samples_of_one_plan_are_of_one_yarn_until_one_is_taken_anew():
    day = datetime(2026, 1, 5, tzinfo=UTC)
    single, skein = Sample(SINGLE, thick_mm=0.9), Sample("yarn", thick_mm=1.5)

    def at(sample, days, entry, whole=False):
        return noted(sample, entry=entry, noted_at=day + timedelta(days=days), whole=whole)

    several = [
        at(single, 0, 1),
        at(skein, 9, 2, True),
        at(skein, 10, 3, True),
        at(single, 12, 4),
        at(skein, 60, 5, True),
    ]
    several.append(at(replace(single, asked=Asked(twist=0.1)), 61, 6))
    found = [sorted(each.entry for each in yarn.readings) for yarn in yarns_of(several, ROD).values()]
    assert found == [[1, 2, 3], [4], [5], [6]]
    struck = yarns_of([replace(several[0], struck=frozenset({"thick"}))], ROD)
    assert struck == {}


def test_a_skein_counts_as_a_sample_of_the_yarn():
    found = sample_of(Skein("finished", False, 262.0, 91.0, 15.0, "snug", -1.5, "blue"))
    assert found.thick_mm == pytest.approx(25.4 / (15 / 1.15)) and found.tex == pytest.approx(91_000 / 262)
    assert (found.loop_turns, found.stage, found.strand) == (-1.5, "finished", "yarn")
    wet = sample_of(Skein("finished", True, 262.0, 91.0, 15.0, "card", None, ""))
    assert wet.tex is None and wet.thick_by == "card"


def test_a_strand_that_is_no_more_teaches_nothing():
    gone = noted(Sample("yarn.strands[4]", thick_mm=1.0))
    assert yarns_of([gone], ROD) == {}
    still = {
        "kind": "single",
        "fibre": "bfl",
        "prep": "semi",
        "tex": 90,
        "twist": {"turns_per_m": 0.001, "direction": "Z"},
    }
    quiet = new_design(
        "Quiet", {"kind": "ply", "strands": [still, still], "twist": {"of_balanced": 1, "direction": "S"}}
    )
    assert yarns_of([noted(Sample("yarn", thick_mm=1.0), quiet)], ROD) == {}


def test_the_sample_taken_as_the_plan_has_its_size_and_twist():
    group = Group("corriedale", "combed")
    found = {("size", group): Deviation(0.1, 0.02), ("twist", group): Deviation(-0.2, 0.02)}
    strand = taken_as_plan(DESIGN, SINGLE, found).design.yarn.strands[0]
    assert strand.tex == pytest.approx(100 * math.exp(0.1), rel=1e-3)
    assert strand.twist.turns_per_m == pytest.approx(216 * math.exp(-0.2), rel=1e-3)
    ply = taken_as_plan(DESIGN, "yarn", {("ply", group): Deviation(0.1, 0.02)}).design.yarn
    assert ply.twist.turns_per_m == pytest.approx(160 * math.exp(0.1), rel=1e-3)
    assert ply.strands[0] == DESIGN.yarn.strands[0]


@pytest.mark.parametrize(
    ("off", "said"), [(-0.223, "a fifth"), (0.05, "5 %"), (0.4, "half"), (0.75, "2.1 times"), (-0.29, "a quarter")]
)
def test_how_large_a_difference_is_said(off, said):
    assert part_words(off) == said


# What the whole trail of the demo teaches.


def demo_designs():
    return {draft.name: design_of(draft, Settings()) for draft in TYPED}


@pytest.fixture(scope="module")
def first():
    """What the first spinner of the demo measured."""
    designs = demo_designs()
    found = []
    for entry, event in enumerate(sorted(trail(designs), key=lambda each: each.at)):
        if not event.second:
            sample = event.record if isinstance(event.record, Sample) else sample_of(event.record)
            whole, when = isinstance(event.record, Skein), datetime.fromisoformat(event.at)
            found.append(Noted(entry, designs[event.design], event.design, sample, frozenset(), when, whole))
    return found


def test_the_trail_is_long_enough_and_always_the_same(first):
    assert len(first) >= 20 and (first[-1].noted_at - first[0].noted_at).days > 500
    again = [event.record for event in trail(demo_designs())]
    assert again == [event.record for event in trail(demo_designs())]
    assert len({group_of(structure_of(each.design.yarn).members[0].node) for each in first}) == 3


def test_both_slips_are_asked_about_and_nothing_else(first):
    yarns = yarns_of(first, ROD)
    doubts = doubts_of(learn(yarns.values()))
    slips = {each.entry: each.outcome for each in doubts}
    assert sorted(slips.values()) == ["fold", "thick"]
    honest = [replace(each, struck=frozenset({slips[each.entry]} if each.entry in slips else ())) for each in first]
    assert doubts_of(learn(yarns_of(honest, ROD).values())) == []


def test_the_spinner_of_the_trail_is_found_again(first):
    """Their own truth, kept apart, lies within what was learned of what they always do; what was struck out is out."""
    yarns = yarns_of(first, ROD)
    slips = {each.entry: each.outcome for each in doubts_of(learn(yarns.values()))}
    honest = [replace(each, struck=frozenset({slips[each.entry]} if each.entry in slips else ())) for each in first]
    lessons = learn(yarns_of(honest, ROD).values())
    hand, _ = first_spinner(demo_designs())
    usual = learn([])
    for group, own in hand.groups.items():
        columns = tuple((factor, group) for factor in FACTORS)
        mean, covariance = lessons.kept(columns)
        sd = np.sqrt(np.diag(covariance))
        assert (np.abs(mean - hand.own - own) < 2.6 * sd).all()
        before = np.sqrt(np.diag(usual.kept(columns)[1]))
        assert (sd[:3] < 0.65 * before[:3]).all()  # size and twists are learned


def test_one_struck_out_everything_moves_back(first):
    """Of two samples one is left out: all figures are as with the other alone."""
    two = first[:2]
    evaluator, design = Evaluator(), two[0].design
    alone = learn(yarns_of(two[:1], ROD).values())
    outcomes = frozenset(each.outcome for yarn in yarns_of(two[1:], ROD).values() for each in yarn.readings)
    both = learn(yarns_of(two, ROD).values())
    struck = learn(yarns_of([two[0], replace(two[1], struck=outcomes)], ROD).values())
    readings = [evaluator.taught(each, "Wick").read(design) for each in (alone, both, struck)]
    assert readings[0].wpi_finished == readings[2].wpi_finished != readings[1].wpi_finished
    assert readings[0].balance.balanced == readings[2].balance.balanced


def test_what_is_known_figure_by_figure(first):
    yarns = list(yarns_of(first, ROD).values())
    lessons, design = learn(yarns), first[0].design
    node = node_of(design, "yarn", ROD)
    figures = figures_of(node, ROD, finish_of(design))
    known = {each.outcome: each for each in known_figures(lessons, figures)}
    assert known["tex"].share > known["wash length"].share and known["tex"].readings > 20
    assert all(0 <= each.share < 1 for each in known.values())
    nothing = {each.outcome: each for each in known_figures(learn([]), figures)}
    assert all(each.share == pytest.approx(0) and each.narrower == pytest.approx(1) for each in nothing.values())
    single = node.members[0].node
    nexts = next_to_measure(learn([]), node, single, ROD, finish_of(design))
    assert nexts[0].outcome == "finished thick" and nexts[0].narrows > 0.05
    assert [each.narrows for each in nexts] == sorted((each.narrows for each in nexts), reverse=True)
    assert len(foretold(yarns, 5)) == sum(len(each.readings) for each in yarns[-5:])
    over = narrowings(yarns, group_of(single))
    assert [each.factor for each in over] == list(FACTORS) and over[0].at[0][1:] == (0.0, pytest.approx(over[0].usual))
    assert cuts_of(0) == [0] and cuts_of(3) == [0, 1, 2, 3] and len(cuts_of(500)) == 13


# What was learned, in every figure of a reading.


def taught(first, **more):
    return replace(Constants(), lessons=learn(yarns_of(first, ROD).values()), whose="Wick", **more)


def test_without_lessons_a_reading_is_as_for_anybody():
    node = resolve(structure_of(DESIGN.yarn), ROD)
    assert Constants().as_learned(node) is node and Constants().rod_for(node) == Rod()
    none = read(node, Finish(), replace(Constants(), lessons=learn([])))
    plain = read(node, Finish(), Constants())
    for band in ("diameter_as_plied", "diameter_finished", "angle_band"):
        ends = [getattr(each, band) for each in (none, plain)]
        for end in ("p10", "p50", "p90"):
            assert getattr(ends[0], end) == pytest.approx(getattr(ends[1], end), rel=0.006)
    assert none.balance.balanced == pytest.approx(plain.balance.balanced, rel=1e-3)


def test_hands_that_spin_thick_move_the_bands_and_learning_narrows_them():
    design = three_ply()
    plan = told_of(Sample("yarn", metres=100.0, grams=30.0), node_of(design, "yarn", ROD), ROD, Finish())[0].reckoned
    heavy = [
        noted(
            Sample("yarn", metres=100.0, grams=plan * 1.12 / 10, places=3, thick_mm=reckoned_thick(design) * 1.05),
            design, place, noted_at=datetime(2026, place, 1, tzinfo=UTC),
        )
        for place in range(1, 11)
    ]  # fmt: skip
    node = resolve(structure_of(design.yarn), ROD)
    plain, own = (read(node, Finish(), each) for each in (Constants(), taught(heavy)))
    assert own.diameter_as_plied.p50 > 1.03 * plain.diameter_as_plied.p50

    def width(band):
        return math.log(band.p90 / band.p10)

    assert width(own.diameter_as_plied) < 0.9 * width(plain.diameter_as_plied)
    assert own.constants.own_samples == 10
    assert own.levels[0].turns_per_m_as_made == plain.levels[0].turns_per_m_as_made  # the plan itself stays


def reckoned_thick(design):
    return told_of(Sample("yarn", thick_mm=1.0), node_of(design, "yarn", ROD), ROD, Finish())[0].reckoned


def test_a_yarn_that_was_measured_itself_has_the_narrowest_band():
    several = [noted(Sample("yarn", thick_mm=reckoned_thick(DESIGN) * 1.06, places=9, metres=200.0, grams=70.0))]
    yarns = yarns_of(several, ROD)
    constants = replace(Constants(), lessons=learn(yarns.values()))
    node = resolve(structure_of(DESIGN.yarn), ROD)
    new = read(node, Finish(), constants)
    own = read(node, Finish(), replace(constants, measured=next(iter(yarns.values()))))
    ends = [each.diameter_as_plied for each in (new, own)]
    widths = [math.log(each.p90 / each.p10) for each in ends]
    assert widths[1] < 0.8 * widths[0]
    assert ends[1].p50 > ends[0].p50 > 0
