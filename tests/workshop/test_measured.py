"""What was measured of yarns in line: the mean of readings, and what differs by more than measuring can tell."""

import dataclasses
import math

import numpy as np
import pytest

from pebble_wheel.mechanics.learning.noise import noise_of, scatter
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.learn import Noted
from pebble_wheel.workshop.measured import apart, measured_of
from pebble_wheel.workshop.starts import start

THREE = design_of(start("3-ply"), Settings())
SINGLE = "yarn.strands[0]"
ROD = Constants().rod


def of(*samples, struck=()):
    return measured_of([Noted(n, THREE, "plan", each, frozenset(struck)) for n, each in enumerate(samples)], ROD)


def test_readings_are_weighed_by_how_sure_they_are():
    one, other = Sample(SINGLE, thick_mm=1.0, places=1), Sample(SINGLE, thick_mm=1.2, places=9)
    found = of(one, other)[("thick", True)]
    sds = np.array([scatter("thick", "wraps", n, True) for n in (1, 9)])
    mean = np.average(np.log([1.0, 1.2]), weights=1 / sds**2)
    assert found.figure == pytest.approx(math.exp(mean)) and found.readings == 2
    assert found.sd == pytest.approx((1 / sds**2).sum() ** -0.5) and found.ways == {"wraps"}


def test_the_planned_figure_is_the_core_reading():
    found = of(Sample("yarn", angle=25.0, thick_mm=1.5), Sample(SINGLE, turns_per_m=200.0))
    reading = Evaluator().read(THREE)
    top = reading.levels[0]
    assert found[("angle", False)].reckoned == pytest.approx(abs(math.degrees(top.angle)), rel=1e-6)
    assert found[("thick", False)].reckoned == pytest.approx(float(top.diameter), rel=1e-6)
    single = next(each for each in reading.levels if each.path in reading.singles)
    assert found[("turns", True)].reckoned == pytest.approx(abs(single.turns_per_m_as_made), rel=1e-6)


def test_what_was_struck_out_or_is_of_another_strand_is_left_out():
    assert not of(Sample(SINGLE, thick_mm=1.0), struck={"thick"})
    assert not of(Sample("yarn.strands[7]", thick_mm=1.0))
    assert set(of(Sample(SINGLE, thick_mm=1.0), Sample("yarn", thick_mm=1.9))) == {("thick", True), ("thick", False)}


def test_what_differs_is_what_measuring_can_tell_apart():
    """In the same way of measuring its bias cancels; in another it does not."""
    base = of(Sample(SINGLE, thick_mm=0.7, places=4))[("thick", True)]
    edge = 0.7 * math.exp(P90 * 2**0.5 * base.sd)
    near, far = (of(Sample(SINGLE, thick_mm=edge * by, places=4))[("thick", True)] for by in (0.99, 1.01))
    assert not apart(near, base) and apart(far, base) and apart(base, far)
    card = dataclasses.replace(far, ways=frozenset({"card"}))
    assert noise_of("thick", "card").bias > 0.2 and not apart(card, base)
