"""The whole reading: bands, levels, refusals and advice."""

import numpy as np
import pytest
from hypothesis import given

from pebble_wheel.mechanics.reading.findings import findings_of
from pebble_wheel.mechanics.reading.reading import JammedError
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import OfBalanced, equal_ply
from pebble_wheel.mechanics.wash.bloom import Finish, relaxation, strand_bloom
from pebble_wheel.wording.advice import said_of
from pebble_wheel.wording.display import Display
from tests.examples import some
from tests.yarns import of_factor, plies, ply, read, single

FREE = Finish("snap", "free")


def codes(node) -> set[str]:
    return {each.code for each in findings_of(read(node, FREE, variants=64))}


@some
@given(plies)
def test_bands_are_in_order_about_the_plain_answer(yarn):
    try:
        reading = read(yarn, FREE, variants=512)
    except JammedError:
        return
    for figure in (reading.diameter_as_plied, reading.wpi_as_plied, reading.angle_band):
        assert figure.p10 < figure.p50 < figure.p90
    plain = float(make(yarn).state.diameter)
    assert reading.diameter_as_plied.p50 == pytest.approx(plain, rel=0.02)
    assert reading.diameter_finished.p50 >= reading.diameter_as_plied.p50
    assert reading.balance.balanced_band.p10 <= reading.balance.balanced <= reading.balance.balanced_band.p90


def test_what_matters_most_is_what_one_would_think():
    matters = read(ply(single(), 3, -150.0), FREE).matters
    assert {each.cause.what for each in matters["thickness"]} <= {"size", "packing", "twist", "bloom"}
    angle = matters["angle"][0]
    assert angle.cause.what == "twist" and angle.cause.node == ply(single(), 3, -150.0) and angle.correlation > 0.5
    assert any(each.cause.what == "twist" and each.correlation < 0 for each in matters["balance"])


def test_members_weigh_what_the_yarn_weighs():
    reading = read(ply(ply(single(50.0, 320.0), 2, -290.0), 3, 120.0), FREE, variants=64)
    yarn, two_ply, strand = reading.levels
    assert 3 * two_ply.grams_per_100_m == pytest.approx(yarn.grams_per_100_m)
    assert 6 * strand.grams_per_100_m == pytest.approx(reading.resultant_tex / 10)
    assert strand.metres_per_metre > two_ply.metres_per_metre > yarn.metres_per_metre == 1


def test_a_three_ply_in_the_hand():
    """An ordinary knitting yarn, as a band (common practice, no source)."""
    reading = read(equal_ply(of_factor(20.0, 100.0), 3, OfBalanced(1.0, -1)), FREE)
    assert reading.balance.verdict == "balanced"
    assert 13 < reading.wpi_as_plied.p50 < 19
    assert 300 < reading.resultant_tex < 320
    assert reading.singles["yarn.strands[0]"].ply_back_turns_per_m < 0


def test_past_jamming_is_refused_with_the_place_and_the_most_that_fits():
    with pytest.raises(JammedError) as refused:
        read(ply(single(), 3, -600.0), FREE)
    most = refused.value.most_turns_per_m
    assert refused.value.path == "yarn" and most < 600
    assert read(ply(single(), 3, -0.9 * most), FREE, variants=64).jamming < 1


def test_a_jammed_strand_inside_is_named():
    with pytest.raises(JammedError) as refused:
        read(ply(ply(single(), 2, -900.0), 2, 50.0), FREE)
    assert refused.value.path == "yarn.strands[0]"


def test_a_bare_single_is_lively():
    reading = read(single(), FREE, variants=64)
    assert reading.balance.verdict == "energised"
    assert np.isnan(reading.balance.ratio)
    assert reading.schools == ()


@pytest.mark.parametrize(
    ("node", "code"),
    [
        (ply(single(5.0, 900.0), 2, -500.0), "too-few-fibres"),
        (ply(single(25.0, 440.0), 2, -260.0), "uneven-fibres"),
        (ply(single(600.0, 30.0), 2, -20.0), "staple-not-held"),
        (ply(of_factor(10.0), 2, -70.0), "little-twist"),
        (ply(of_factor(36.0), 2, -200.0), "much-twist"),
        (ply(single(), 2, 60.0), "same-direction"),
        (ply(single(), 2, -80.0), "underplied"),
        (ply(single(), 2, -230.0), "energised"),
        (ply(of_factor(20.0), 5, -175.0), "nearly-jammed"),
    ],
)
def test_a_teacher_would_warn(node, code):
    assert code in codes(node)


def test_a_sound_yarn_gets_no_warning():
    assert codes(equal_ply(of_factor(20.0), 3, OfBalanced(1.0, -1))) == set()


def test_every_warning_says_what_why_and_what_to_do():
    reading = read(ply(single(5.0, 900.0), 2, -200.0), FREE, variants=64)
    for each in (said_of(found, reading, Display()) for found in findings_of(reading)):
        assert all(text.endswith(".") and len(text) > 15 for text in (each.text, each.why, each.do))


def test_bloom_follows_the_trade():
    # Common practice, no source: woollen over semi over worsted, free over weighted, looser over tighter.
    semi, worsted, woollen = (strand_bloom(0.3, 0.15, kind, FREE) for kind in ("semi", "worsted", "woollen"))
    assert woollen > semi > worsted > 1
    assert strand_bloom(0.3, 0.15, "semi", Finish("snap", "heavy")) < semi
    assert strand_bloom(0.3, 0.10, "semi", FREE) > semi > strand_bloom(0.02, 0.15, "semi", FREE)
    assert strand_bloom(0.3, 0.5, "semi", FREE) == 1
    assert 0.02 <= relaxation(0.3, 0.15, FREE) <= 0.07
    assert relaxation(0.3, 0.15, Finish("none", "free")) == relaxation(0.3, 0.15, Finish("snap", "heavy")) == 0
