"""Splits, bobbins and leftovers: grams are neither made nor lost, whatever is split into whatever."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.making.amounts import grams_needed
from pebble_wheel.mechanics.making.splitting import (
    FILLED,
    PLIED_BULK,
    SINGLE_BULK,
    build_diameter,
    capacity,
    filled,
    half_full,
    reads_when_halved,
    run_out,
    skein_metres,
    split,
    spun,
    ways_with,
)

grams = st.floats(0.1, 5000)


@st.composite
def lots(draw):
    several, strands = draw(st.integers(1, 6)), draw(st.integers(1, 12))
    weights = np.array(draw(st.lists(grams, min_size=several, max_size=several)))
    each = st.lists(st.floats(0, 10), min_size=strands, max_size=strands)
    return weights, np.array(draw(st.lists(each, min_size=several, max_size=several)))


@given(lots())
def test_what_goes_in_comes_out_as_strands(given_lots):
    weights, shares = given_lots
    parts = split(weights, shares)
    wanted = shares.sum(axis=1) > 0
    assert (parts >= 0).all()
    np.testing.assert_allclose(parts.sum(axis=1), np.where(wanted, weights, 0), rtol=1e-12)
    turned = split(weights[::-1], shares[::-1])
    np.testing.assert_allclose(turned.sum(axis=0), parts.sum(axis=0), rtol=1e-9, atol=1e-12)
    np.testing.assert_allclose(split(weights, 3 * shares), parts, rtol=1e-12)


@given(st.lists(st.tuples(grams, st.floats(0.01, 3)), min_size=1, max_size=12), st.floats(0, 0.5))
def test_grams_are_yarn_leftovers_and_waste(strands, waste):
    fibre, per_metre = (np.array(each) for each in zip(*strands, strict=True))
    on = spun(fibre, waste)
    found = run_out(on, per_metre)
    yarn = found.metres * per_metre
    assert (found.left >= 0).all() and found.left[found.first] == 0
    np.testing.assert_allclose(yarn + found.left + (fibre - on), fibre, rtol=1e-9)
    assert run_out(spun(fibre, waste + 0.1), per_metre).metres < found.metres
    assert grams_needed(found.metres, 1000 * per_metre[found.first], waste) == pytest.approx(fibre[found.first])


def test_two_lots_into_four_strands():
    """96 g and 138 g: four of 58.5 g, each 24 g and 34.5 g."""
    parts = split(np.array([96.0, 138.0]), np.ones((2, 4)))
    assert parts.tolist() == [[24.0] * 4, [34.5] * 4]


def test_of_three_singles_the_lightest_ends_first():
    """62, 60.5 and 58 g: the 58 ends, 4 and 2.5 g remain."""
    found = run_out(np.array([62.0, 60.5, 58.0]), np.full(3, 0.1))
    assert (
        found.first == 2
        and found.left.tolist() == pytest.approx([4.0, 2.5, 0.0])
        and found.metres == pytest.approx(580)
    )
    ways = ways_with(found.left, np.full(3, 0.1), np.full(3, 0.2), np.full(3, 0.31))
    assert ways.evened == pytest.approx(6.5 / 0.3) and ways.folded == pytest.approx(6.5 / 0.2)
    assert ways.chained == pytest.approx(6.5 / 0.31)


def test_a_bobbin_holds_less_of_plied_yarn():
    """Two bobbins filled with 82 g of singles each: three of that size for the ply, some 60 g on a full one."""
    core, width = 30.0, 70.0
    outer = math.sqrt(82 * 4000 / (math.pi * width * FILLED * SINGLE_BULK) + core**2)
    assert capacity(outer, core, width, SINGLE_BULK) == pytest.approx(82)
    plied = capacity(outer, core, width, PLIED_BULK)
    assert plied == pytest.approx(60.1, abs=0.1)

    def many(grams, holds):
        return len(filled(np.array([grams]), np.array([holds]))[0])

    assert many(164.0, plied) == 3 and many(82.0, 82.0) == 1 and many(82.5, 82.0) == 1
    assert many(90.0, 82.0) == 2 and many(0.0, 82.0) == 1


def test_strands_fill_the_largest_bobbins_first_and_each_begins_one_of_its_own():
    """Three of 90 g on bobbins of 60, 100 and 80 g: the last of them on what is wound off again."""
    assert filled(np.array([90.0, 90.0, 90.0]), np.array([60.0, 100.0, 80.0])) == [[1], [2, 0], [1]]
    assert filled(np.array([1.0, 1.0]), np.array([50.0, 50.0, 50.0])) == [[0], [1]]
    assert half_full(100.0, 25.0) == pytest.approx(math.sqrt((100**2 + 25**2) / 2))
    half = float(capacity(100.0, 25.0, 90.0, SINGLE_BULK)) / 2
    assert build_diameter(25.0, half, 90.0, FILLED * SINGLE_BULK) == pytest.approx(half_full(100.0, 25.0))


@given(st.floats(10, 60), st.floats(1, 300), st.floats(30, 200), st.floats(0.1, 0.6))
def test_a_bobbin_has_grown_by_the_volume_of_what_is_on_it(core, on, width, bulk):
    thick = float(build_diameter(core, on, width, bulk))
    assert math.pi / 4 * (thick**2 - core**2) * width / 1000 * bulk == pytest.approx(on, rel=1e-9)
    assert capacity(thick, core, width, bulk) == pytest.approx(FILLED * on, rel=1e-9)


def test_half_of_what_is_left_is_wound_off():
    """14 g on a bobbin of 52 g: until it reads 59."""
    assert reads_when_halved(14.0, 52.0) == 59.0
    assert skein_metres(120, 1500.0) == 180.0
