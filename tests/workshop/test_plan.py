"""Plans worked out: splits, bobbins, what ends first, days, and fibre that does not suffice."""

from dataclasses import replace
from datetime import date, datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.learning.model import learn
from pebble_wheel.mechanics.strand.structure import Rod
from pebble_wheel.notation.design import new_design
from pebble_wheel.notation.plan import PLAN_FIELDS, read_plan
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.settings import Settings
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.plan import (
    bobbin_advice,
    ends_first_words,
    energised_words,
    orifice_words,
    way_words,
    yarn_words,
)
from pebble_wheel.workshop.calendar import Task, scheduled, scheduled_by
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.learn import Noted, yarns_of
from pebble_wheel.workshop.plan import (
    LEFT_OVER,
    Fibre,
    accent_design,
    accent_of,
    days_of,
    minutes_for,
    needs_of,
    reckon_plan,
    tasks_of,
)
from pebble_wheel.workshop.tools import Bobbin, Tools

PLAIN, EVALUATOR = Settings(), Evaluator()
TOOLS = Tools()
HANDS = TOOLS.hands()


def single(tex=100.0, turns=240.0, fibre="corriedale", **more):
    return {
        "kind": "single",
        "fibre": fibre,
        "prep": "combed",
        "tex": tex,
        "twist": {"turns_per_m": turns, "direction": "Z"},
        **more,
    }


def plied(*strands, turns=150.0, **more):
    return {"kind": "ply", "strands": list(strands), "twist": {"turns_per_m": turns, "direction": "S"}, **more}


FOUR = new_design("Four", plied(single(count=4)))
THREE = new_design("Three", plied(single(count=3)))
CREPE = new_design(
    "Crepe",
    plied(plied(single(165.0, 280.0, count=2), turns=330.0), single(95.0, 380.0), turns=170.0)
    | {"twist": {"turns_per_m": 170, "direction": "Z"}},
)
"""A two-ply and a single that meet it, as a crepe's do."""


def alike(many, outer=100.0):
    """So many bobbins of one size, of 52 g each."""
    return tuple(Bobbin(f"b-{place}", f"b {place}", outer, 25.0, 90.0, 52.0) for place in range(many))


def worked(design, bobbins=(), wanted=None, fibres=None, **typed):
    reading = EVALUATOR.read(design)
    needs = needs_of(design, reading)
    plan, faults = read_plan({**PLAN_FIELDS, **typed}, len(needs.strands), len(needs.bobbins), PLAIN)
    assert not faults, faults
    fibres = fibres or [Fibre(f"lot {each.place}", each.grams or 0.0, each.waste or 0.0) for each in plan.lots]
    return plan, reading, reckon_plan(plan, needs, fibres, wanted, bobbins)


def test_two_lots_into_a_four_ply():
    """96 g and 138 g: four of 58.5 g, each 24 g + 34.5 g; typed as a sum they are one lot."""
    _, reading, found = worked(FOUR, **{"grams-1": "96 g", "grams-2": "138 g"})
    (strand,) = found.strands
    assert strand.strand.count == 4 and strand.each == pytest.approx(58.5)
    assert (found.parts[:, 0] / 4).tolist() == pytest.approx([24.0, 34.5])
    assert found.metres == pytest.approx(234_000 / reading.resultant_tex) and strand.metres > found.metres
    _, _, summed = worked(FOUR, **{"grams-1": "96+138 g"})
    assert summed.strands[0].each == pytest.approx(58.5) and len(summed.parts) == 1


def test_what_is_short_is_said_in_grams():
    _, reading, found = worked(FOUR, wanted=1000.0, **{"grams-1": "100 g", "waste-1": "5"})
    (strand,) = found.strands
    assert strand.wants == pytest.approx(1000 * reading.resultant_tex / 1000 * 1.05)
    assert strand.short == pytest.approx(strand.wants - 100) and strand.over == 0
    _, _, none = worked(FOUR, wanted=100.0)
    assert none.strands[0].short == pytest.approx(100 * reading.resultant_tex / 1000 * 1.02)  # combed top loses 2 %
    assert worked(FOUR)[2].metres == 0


def test_fibre_goes_where_it_is_told():
    """Of three unlike strands each takes as it wants, until shares are typed."""
    unlike = new_design("Unlike", plied(single(100.0), single(50.0), turns=150.0))
    _, _, found = worked(unlike, **{"grams-1": "90 g"})
    assert found.parts[0].tolist() == pytest.approx([60, 30], rel=0.03)
    assert all(each.over < 0.01 for each in found.strands)
    _, _, told = worked(unlike, **{"grams-1": "90 g", "share-1-0": "1", "share-1-1": "1"})
    assert told.parts[0].tolist() == pytest.approx([45, 45]) and told.first == 0
    assert told.strands[1].over > 20
    _, _, moved = worked(unlike, **{"grams-1": "90 g", "share-1-0": "0", "share-1-1": "2"})
    assert moved.parts[0].tolist() == [0, 90] and moved.metres == 0


def test_the_lightest_bobbin_ends_first_and_four_ways_use_what_is_left():
    """62, 60.5 and 58 g on bobbins of 52 g: the 58 ends first, 4 g and 2.5 g remain."""
    bobbins = alike(4)
    _, reading, found = worked(THREE, bobbins, **{"weight-0": "114", "weight-1": "112.5", "weight-2": "110"})
    assert found.weighed.first == 2 and found.weighed.left.tolist() == pytest.approx([4, 2.5, 0], abs=1e-9)
    display = Display()
    words = ends_first_words(found, list(found.needs.bobbins), 95.0, display)
    assert (
        "Bobbin 3" in words[0]
        and "bobbin 1 keeps 4.0 g" in words[1].lower()
        and "bobbin 2 keeps 2.5 g" in words[1].lower()
    )
    ways = {each.key: each for each in way_words(found, found.ways, 52.0, "", display)}
    assert set(ways) == {"accept", "even", "ball", "bracelet", "chain"}
    assert found.ways.evened == pytest.approx(6500 / reading.resultant_tex, rel=1e-6)
    assert found.ways.folded == pytest.approx(6.5 / 0.2, rel=0.06) and found.ways.chained == pytest.approx(
        6.5 / 0.3, rel=0.08
    )
    assert worked(THREE, bobbins, **{"weight-0": "114"})[2].weighed is None


def test_what_is_left_on_one_of_two_is_halved_by_the_scale():
    """14 g left on one bobbin of 52 g, the other empty: wind off until it reads 59."""
    two = new_design("Two", plied(single(count=2)))
    _, _, found = worked(two, alike(3), **{"weight-0": "86 g", "weight-1": "72 g"})
    assert found.weighed.left.tolist() == pytest.approx([14, 0])
    assert "until the scale reads 59.0 g" in way_words(found, found.ways, 52.0, "", Display())[1].words


def test_of_a_crepe_each_is_counted_by_what_it_takes():
    """64 g of two-ply and 16 g of single: the single ends first, by its own consumption."""
    _, _, found = worked(CREPE, **{"weight-0": "64", "weight-1": "16"})
    thick, thin = found.needs.bobbins
    assert found.weighed.first == 1
    assert found.weighed.metres == pytest.approx(16 / thin.per_metre)
    assert found.weighed.left[0] == pytest.approx(64 - 16 / thin.per_metre * thick.per_metre)
    assert 3 < thick.per_metre / thin.per_metre < 4.2


def test_plied_yarn_takes_more_bobbins_than_its_singles():
    """Two bobbins filled with 82 g each: three of that size for the ply."""
    outer = np.sqrt(82 * 4000 / (np.pi * 90 * 0.85 * 0.30) + 25**2)
    two = new_design("Two", plied(single(count=2)))
    _, _, found = worked(two, alike(4, float(outer)), **{"grams-1": "164 g"})
    assert found.strands[0].bobbins == 2 and found.yarn_bobbins == 3
    assert "on 3 bobbins" in yarn_words(found, Display())


def test_a_step_takes_as_long_as_what_it_is_made_on():
    plan, reading, found = worked(THREE, **{"grams-1": "100 g"})
    on_spindle, *_ = worked(THREE, **{"grams-1": "100 g", "tool-make-yarn.strands[0]": "spindle"})
    on_motor, *_ = worked(THREE, **{"grams-1": "100 g", "tool-make-yarn.strands[0]": "motor"})
    spun = [tasks_of(each, reading, THREE, found, TOOLS)[0].hours for each in (on_motor, plan, on_spindle)]
    assert spun[0] <= spun[1] < spun[2]
    level = reading.levels[1]
    length = found.metres * level.metres_per_metre * 3
    assert spun[2] == pytest.approx(length * level.turns_per_m_as_made / 250 / 60 * 1.15)
    assert minutes_for(reading, 100.0, HANDS) == pytest.approx(100 / (12 * 60 / 150) * 1.15)  # as fast as 12:1 twists


def test_hands_that_spin_heavy_need_more_fibre():
    heavy = [
        Noted(place, THREE, "plan", Sample("yarn", metres=100.0, grams=35.0), noted_at=datetime(2026, place, 1))
        for place in range(1, 7)
    ]
    lessons = learn(yarns_of(heavy, Rod()).values())
    plain = needs_of(THREE, EVALUATOR.read(THREE))
    own = needs_of(THREE, EVALUATOR.taught(lessons, "Wick").read(THREE))
    assert 1.03 < own.strands[0].per_metre / plain.strands[0].per_metre < 1.12
    assert own.tex / plain.tex == pytest.approx(own.strands[0].per_metre / plain.strands[0].per_metre)


def test_bobbins_owned_limit_what_can_be_plied():
    bobbins = alike(2)
    _, reading, found = worked(THREE, bobbins, **{"grams-1": "100 g"})
    assert found.at_once == 4
    said = bobbin_advice(found, bobbins, reading, Display())
    assert (
        "wants 4 bobbins at once, and you own 2" in said[0]
        and "ball" in said[0]
        and "by grams, never by eye" in said[1]
    )
    assert bobbin_advice(found, (), reading, Display()) == []


def test_each_bobbin_has_its_own_size_and_weight():
    """Three of 60 g singles weighed on bobbins of 52, 60 and 71 g, as they stand, and as they were chosen."""
    bobbins = tuple(
        Bobbin(f"b-{place}", f"b {place}", outer, 25, 90, empty)
        for place, (outer, empty) in enumerate(((100, 52.0), (110, 60.0), (90, 71.0)))
    )
    weighed = {"weight-0": "112", "weight-1": "120", "weight-2": "131"}
    _, reading, found = worked(THREE, bobbins, **weighed)
    assert found.weighed.left.tolist() == pytest.approx([0, 0, 0], abs=1e-9)
    assert found.metres == found.weighed.metres == pytest.approx(180_000 / reading.resultant_tex)
    _, _, other = worked(THREE, bobbins, **weighed, **{"on-0": "b-2", "on-2": "b-0"})  # 41, 60 and 79 g
    assert other.weighed.first == 0 and other.weighed.left.tolist() == pytest.approx([0, 19, 38])
    holds = [f"{each.holds(0.30):.0f}" for each in bobbins]
    assert f"{holds[2]}–{holds[1]} g of singles" in bobbin_advice(found, bobbins, reading, Display())[-1]


def test_what_is_plied_is_done_and_what_is_wanted_is_not_exceeded():
    weighed = {"weight-0": "30", "weight-1": "31", "weight-2": "30"}
    plan, reading, half = worked(THREE, **weighed, **{"weight-yarn": "45"})
    assert half.done == pytest.approx(45_000 / reading.resultant_tex)
    assert half.metres == pytest.approx(half.done + half.weighed.metres)
    to_go = next(each for each in tasks_of(plan, reading, THREE, half, TOOLS) if each.doing == "ply").hours
    whole = [each for each in tasks_of(plan, reading, THREE, replace(half, done=0.0), TOOLS) if each.doing == "ply"]
    assert to_go / whole[0].hours == pytest.approx(half.weighed.metres / half.metres)
    _, _, less = worked(THREE, wanted=50.0, **weighed, **{"weight-yarn": "15"})
    assert less.metres == 50.0 and worked(THREE, wanted=1000.0, **weighed)[2].metres < 1000


@pytest.mark.parametrize("way", ["accept", "even", "ball", "bracelet", "chain"])
def test_leftovers_that_are_planned_become_yarn_and_a_step(way):
    weighed = {"weight-0": "62", "weight-1": "60.5", "weight-2": "58"}
    plan, reading, found = worked(THREE, **weighed, leftover=way)
    plain = worked(THREE, **weighed)[2]
    ways = {"accept": 0, "even": plain.ways.evened, "ball": plain.ways.folded, "chain": plain.ways.chained}
    more = ways.get(way, plain.ways.folded)
    assert found.metres + found.extra == pytest.approx(plain.metres + more)
    steps = [each.key for each in tasks_of(plan, reading, THREE, found, TOOLS)]
    assert (LEFT_OVER in steps) == (way in ("ball", "bracelet", "chain"))


def test_a_thickness_that_does_not_pass_the_orifice_is_said():
    assert "will not pass" in orifice_words(6.0, 5.0, Display())
    assert orifice_words(4.0, 5.0, Display()) == orifice_words(9.0, None, Display()) == ""


def test_an_accent_of_the_same_single_is_as_thick():
    """Half as 3-ply, a quarter chained of the same single: of one gauge within a wrap."""
    plan, reading, found = worked(THREE, **{"grams-1": "200 g", "accent": "25"})
    chain = EVALUATOR.read(accent_design(THREE, reading))
    accent = accent_of(plan, found, chain)
    assert abs(chain.wpi_finished.p50 - reading.wpi_finished.p50) < 1.2
    assert found.metres == pytest.approx(0.75 * 200_000 / reading.resultant_tex)
    assert accent.metres == pytest.approx(50_000 / 1.02 / chain.resultant_tex)
    assert accent_design(CREPE, EVALUATOR.read(CREPE)) is None


def test_six_lots_into_a_cable_of_twelve_singles():
    """Grams in are grams out, whatever the order of the lots."""
    cable = new_design(
        "Cable",
        plied(plied(single(50.0, 320.0, count=4), turns=260.0, count=3), turns=120.0)
        | {"twist": {"turns_per_m": 120, "direction": "Z"}},
    )
    typed = {f"grams-{place}": f"{10 * place} g" for place in range(1, 7)}
    _, reading, found = worked(cable, **typed)
    (strand,) = found.strands
    assert strand.strand.count == 12 and found.parts.sum() == pytest.approx(210)
    back = {f"grams-{place}": f"{10 * (7 - place)} g" for place in range(1, 7)}
    assert worked(cable, **back)[2].metres == pytest.approx(found.metres)
    assert found.metres * reading.resultant_tex / 1000 == pytest.approx(210)
    assert len(found.needs.bobbins) == 3 and found.at_once == 4


@given(st.lists(st.floats(1, 400), min_size=1, max_size=6), st.floats(0, 30))
def test_more_waste_is_never_more_yarn(grams, waste):
    def metres(lost):
        typed = {f"grams-{place}": f"{each:.3f} g" for place, each in enumerate(grams, 1)}
        typed |= {f"waste-{place}": f"{lost:.2f}" for place in range(1, len(grams) + 1)}
        return worked(FOUR, **typed)[2].metres

    assert metres(waste + 5) < metres(waste)


# The days.


def tasks(rest=24.0):
    waits = [Task("rest", "rest", "", rest)] if rest else []
    soaks = [Task(f"soak-{place}", "soak", "", 1 / 3) for place in (1, 2)]
    spin, ply = Task("spin", "spin", "yarn.strands[0]", 9.0), Task("ply", "ply", "yarn", 3.0)
    return [spin, *waits, ply, *soaks, Task("dry", "dry", "", 36.0)]


def test_work_falls_into_the_hours_of_a_day_and_waits_run_through_the_night():
    """12 h at 1½ h a day from a given day, rest 24 h, two soaks, 36 h of drying."""
    found = scheduled(tasks(), date(2026, 12, 1), 1.5)
    spin, rest, ply, one, two, dry = found
    assert spin.begins == datetime(2026, 12, 1, 18) and spin.ends == datetime(2026, 12, 6, 19, 30)  # six evenings
    assert rest.ends == datetime(2026, 12, 7, 19, 30)
    assert ply.begins == datetime(2026, 12, 8, 18) and ply.ends == datetime(2026, 12, 9, 19, 30)  # two evenings
    assert (two.ends - one.begins) == timedelta(minutes=40) and dry.ends - two.ends == timedelta(hours=36)
    at_once = scheduled(tasks(rest=0.0), date(2026, 12, 1), 1.5)
    assert at_once[1].begins == datetime(2026, 12, 7, 18)  # the gap is closed
    assert all(before.ends <= after.begins for before, after in pairwise(found))


def test_it_is_ready_when_it_is_due():
    found = scheduled_by(tasks(), date(2026, 12, 24), 1.5)
    assert found[-1].ends.date() <= date(2026, 12, 24)
    later = scheduled(tasks(), found[0].begins.date() + timedelta(days=1), 1.5)
    assert later[-1].ends.date() > date(2026, 12, 24)


def test_a_step_ticked_off_moves_what_follows():
    plain = scheduled(tasks(), date(2026, 12, 1), 1.5)
    early = scheduled(tasks(), date(2026, 12, 1), 1.5, {"spin": datetime(2026, 12, 3, 20)})
    assert early[0].ends == datetime(2026, 12, 3, 20) and early[1].begins == early[0].ends
    assert early[-1].ends < plain[-1].ends


def test_singles_rest_before_each_step_that_lays_them():
    cable = new_design(
        "Cable",
        plied(plied(single(50.0, 320.0, count=2), turns=260.0, count=2), turns=120.0)
        | {"twist": {"turns_per_m": 120, "direction": "Z"}},
    )
    plan, reading, found = worked(cable, **{"grams-1": "100 g"})
    doings = [each.doing for each in tasks_of(plan, reading, cable, found, TOOLS)]
    assert doings == [
        "spin",
        "rest",
        "ply",
        "rest",
        "ply",
        "skein",
        "soak",
        "dry",
        "measure",
    ]  # rests again before a cable
    once, *_ = worked(cable, **{"grams-1": "100 g", "rests": "no"})
    assert "rest" not in [each.doing for each in tasks_of(once, reading, cable, found, TOOLS)]
    days = days_of(plan, tasks_of(plan, reading, cable, found, TOOLS), date(2026, 12, 1), {})
    assert days.tasks[0].begins.date() == date(2026, 12, 1) and days.hours > 1
    due, *_ = worked(cable, due="2027-02-01", **{"grams-1": "100 g"})
    assert days_of(due, tasks_of(due, reading, cable, found, TOOLS), date(2026, 12, 1), {}).tasks[
        -1
    ].ends.date() <= date(2027, 2, 1)


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        ({"want": "metres"}, "metres"),
        ({"want": "metres", "metres": "much"}, "metres"),
        ({"want": "heaps"}, "want"),
        ({"grams-1": "a lot"}, "grams-1"),
        ({"grams-1": "9", "waste-1": "80"}, "waste-1"),
        ({"grams-1": "9", "share-1-0": "-1"}, "share-1-0"),
        ({"hours": "25"}, "hours"),
        ({"start": "tomorrow"}, "start"),
        ({"weight-0": "3 m"}, "weight-0"),
        ({"rounds": "1.5"}, "rounds"),
        ({"rests": "maybe"}, "rests"),
        ({"accent": "x"}, "accent"),
        ({"thing": "tent"}, "thing"),
    ],
)
def test_what_cannot_be_read_has_its_place_and_the_rest_is_planned(typed, place):
    plan, faults = read_plan({**PLAN_FIELDS, "grams-2": "50 g", **typed}, 1, 3, PLAIN)
    assert [each.place for each in faults] == [place]
    assert any(each.grams == 50 for each in plan.lots)


def test_a_label_says_what_to_do_with_a_lively_yarn():
    lively = EVALUATOR.read(new_design("Lively", plied(single(count=3), turns=260.0)))
    quiet = EVALUATOR.read(
        new_design("Quiet", plied(single(count=3)) | {"twist": {"of_balanced": 1, "direction": "S"}})
    )
    assert energised_words(lively) == "energised: wet a bit first" and energised_words(quiet) == "balanced"
