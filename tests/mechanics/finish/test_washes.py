"""What a wash would do to the same yarn in other fibres, preparations and finishes, and to its grooves."""

from dataclasses import replace
from typing import get_args

import pytest

from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.finish.alternatives import Over, washed_over
from pebble_wheel.mechanics.rest.balance import resolve_made
from pebble_wheel.mechanics.strand.section import definition
from pebble_wheel.mechanics.strand.structure import Bought, CoreSpun, OfBalanced, Rod, Turns, Wrap, equal_ply
from pebble_wheel.mechanics.wash.bloom import Drying, Finish, Wash
from tests.yarns import TYPICAL, mirrored, ply, single

ROD = Rod()
THREE = equal_ply(single(), 3, OfBalanced(1.0, -1))


@pytest.mark.parametrize("over", get_args(Over))
def test_what_blooms_most_comes_first_with_its_band_about_it(over):
    found = washed_over(THREE, Finish(), over, TYPICAL)
    growths = [each.growth for each in found]
    assert growths == sorted(growths, reverse=True) and len(found) > 5
    for each in found:
        assert 1 <= each.low <= each.growth <= each.high and 0 < each.definition <= 1
    bands = {(each.growth, each.high - each.low) for each in found}
    assert all(a[1] <= b[1] for a in bands for b in bands if a[0] < b[0])


def test_every_finish_that_can_be_chosen_is_there_once():
    found = [
        (each.finish.wash, each.finish.drying) for each in washed_over(THREE, Finish(ironed=True), "finish", TYPICAL)
    ]
    assert len(found) == len(set(found)) == 1 + (len(get_args(Wash)) - 1) * len(get_args(Drying))
    assert found[0] == ("full", "free") and found[-1] == ("none", "free")


def test_the_design_itself_is_among_its_likes_and_the_other_way_round_nothing_changes():
    own = next(each for each in washed_over(THREE, Finish(), "fibre", TYPICAL) if each.fibre == FIBRES["corriedale"])
    prepared = next(
        each
        for each in washed_over(THREE, Finish(), "preparation", TYPICAL)
        if (each.prep, each.draw) == ("combed", "short")
    )
    assert own.growth == pytest.approx(prepared.growth) and own.diameter == pytest.approx(prepared.diameter)
    other = washed_over(mirrored(THREE), Finish(), "fibre", TYPICAL)
    assert [each.fibre for each in other] == [each.fibre for each in washed_over(THREE, Finish(), "fibre", TYPICAL)]


def test_only_what_is_spun_changes_its_fibre():
    thread = Bought(60.0, 0.3, Turns(300.0))
    wrap = Wrap(FIBRES["bfl"], "combed", 400.0, 6.0)
    cored = CoreSpun(equal_ply(single(60.0, 280.0), 2, OfBalanced(1.0, -1)), wrap, Turns(-80.0))
    assert len({round(each.growth, 6) for each in washed_over(ply(thread, 2, -150.0), Finish(), "fibre", TYPICAL)}) == 1
    assert len({round(each.growth, 6) for each in washed_over(cored, Finish(), "fibre", TYPICAL)}) > 5


def test_variants_without_room_for_their_twist_are_left_out():
    tight = equal_ply(single(turns=420.0), 4, Turns(-345.0))
    left = {each.fibre.id for each in washed_over(tight, Finish(), "fibre", TYPICAL)}
    assert 0 < len(left) < len(FIBRES)


@pytest.mark.parametrize("strands", [2, 3, 4])
def test_bloom_fills_the_grooves_bit_by_bit(strands):
    made = resolve_made(replace(THREE, members=(replace(THREE.members[0], count=strands),)), TYPICAL.rod)
    left = [definition(made, growth) for growth in (1.0, 1.1, 1.2, 1.4, 2.0)]
    assert left[0] == pytest.approx(1) and left == sorted(left, reverse=True) and left[-1] > 0
    assert definition(resolve_made(single(), TYPICAL.rod), 1.25) == pytest.approx(0.8)
