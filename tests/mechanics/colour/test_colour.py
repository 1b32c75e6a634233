"""Colour along strands, on yarn and in cloth: fibre is kept, places are where lengths say, light mixes as it does."""

import math

import numpy as np
import pytest
from coloraide import Color
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.colour import bands, fabric, oklab, seen, showing
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.reading.reading import levels_of
from pebble_wheel.mechanics.rest.balance import resolve_made
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import mass
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Member,
    OfBalanced,
    Ply,
    Rod,
    Single,
    Turns,
    Wrap,
    Wrapped,
    equal_ply,
)

parts = st.floats(0, 1)
colours = st.tuples(parts, parts, parts).map(np.array)


@st.composite
def some_bands(draw):
    number = draw(st.integers(1, 8))
    lengths = draw(st.lists(st.floats(0.1, 50), min_size=number, max_size=number))
    own = draw(st.lists(st.integers(0, 4), min_size=number, max_size=number))
    return bands.Bands(np.array(own), np.array(lengths), draw(st.sampled_from([0.0, 0.4, 1.0])))


def in_turn(number, shares, blended=0.0):
    return bands.Bands(np.arange(number), np.asarray(shares, float), blended)


def of_each(told):
    return [told.lengths[told.colours == each].sum() for each in range(5)]


# Outside check: coloraide, a general library for colours.


@given(colours)
def test_oklab_is_that_of_a_library(srgb):
    expected = Color("srgb", srgb.tolist()).convert("oklab").coords()
    assert oklab.oklab(srgb) == pytest.approx(np.array(expected), abs=2e-4)
    assert oklab.srgb(oklab.oklab(srgb)) == pytest.approx(srgb, abs=1e-5)
    assert np.abs(oklab.srgb_bytes(oklab.oklab(srgb)) - 255 * srgb).max() < 0.7


@given(colours, colours)
def test_differences_and_chroma_are_those_of_a_library(one, other):
    a, b = (Color("srgb", each.tolist()) for each in (one, other))
    assert oklab.difference(oklab.oklab(one), oklab.oklab(other)) == pytest.approx(a.delta_e(b, method="ok"), abs=5e-4)
    assert oklab.chroma(oklab.oklab(one)) == pytest.approx(math.hypot(*a.convert("oklab").coords()[1:]), abs=2e-4)


def test_fibres_on_cards_blend_as_their_light_does():
    """Half black and half white fibre reflect half the light, which is 0.735 of sRGB; shares count."""
    both = np.array([[0.0, 0.0, 0.0], [1.0, 1.0, 1.0]])
    assert oklab.srgb(oklab.carded(both, np.array([1.0, 1.0]))) == pytest.approx(0.7354, abs=1e-3)
    assert oklab.srgb(oklab.carded(both, np.array([0.0, 3.0]))) == pytest.approx(1.0, abs=1e-6)


# Preparations.


@given(some_bands(), st.integers(1, 12), st.integers(0, 99))
def test_preparing_loses_no_colour(told, number, seed):
    for made in (
        bands.other_end(told),
        bands.strips(told, number),
        bands.broken(told, number, seed),
        bands.by_colour(told),
        bands.at_random(told, number, seed),
        told.of(told.whole),
        bands.one_after_another([told]),
    ):
        assert of_each(made) == pytest.approx(of_each(told))
        assert (made.lengths > 0).all()


@given(some_bands(), st.integers(2, 9), st.integers(0, 99))
def test_the_same_seed_shuffles_alike(told, number, seed):
    one, other = bands.broken(told, number, seed), bands.broken(told, number, seed)
    assert one.colours.tolist() == other.colours.tolist() and one.lengths == pytest.approx(other.lengths)


def test_a_fractal_runs_nine_to_three_to_one():
    """Whole, three strips, nine strips of 90 g in five colours: runs 18, 6 and 2 g."""
    braid = in_turn(5, np.ones(5)).of(90.0)
    runs = [bands.strips(braid, each).lengths[0] for each in (1, 3, 9)]
    assert runs == pytest.approx([18.0, 6.0, 2.0])
    assert len(bands.strips(braid, 9).lengths) == 45


def test_from_the_other_end_the_last_comes_first():
    told = bands.other_end(in_turn(3, np.array([1.0, 2.0, 3.0])))
    assert told.colours.tolist() == [2, 1, 0] and told.lengths.tolist() == [3, 2, 1]
    assert bands.by_colour(bands.strips(told, 4)).lengths.tolist() == [3, 2, 1]


def test_colours_at_places_are_those_of_the_bands_and_blend_where_they_are_blended():
    palette = oklab.oklab(np.array([[1.0, 0, 0], [0, 1.0, 0], [0, 0, 1.0]]))
    sharp = in_turn(3, np.array([10.0, 20.0, 30.0]))
    at = np.array([0.0, 9.99, 10.01, 29.0, 31.0, 59.0, 99.0])
    assert bands.colour_at(sharp, at).tolist() == [0, 0, 1, 1, 2, 2, 2]
    assert bands.lab_at(sharp, palette, at) == pytest.approx(palette[[0, 0, 1, 1, 2, 2, 2]])
    soft = in_turn(3, np.array([10.0, 20.0, 30.0]), blended=0.5)
    met = bands.lab_at(soft, palette, np.array([10.0 - 1e-9, 10.0 + 1e-9, 5.0, 7.5, 12.5, 30.0]))
    assert met[0] == pytest.approx(met[1], abs=1e-6) and met[0] == pytest.approx(
        (palette[0] + palette[1]) / 2, abs=1e-6
    )
    assert (
        met[2] == pytest.approx(palette[0])
        and met[3] == pytest.approx(palette[0])
        and met[4] == pytest.approx(palette[1])
    )
    assert met[5] == pytest.approx((palette[1] + palette[2]) / 2, abs=1e-6)


# What shows.

SINGLE = Single(FIBRES["corriedale"], "combed", "short", 80.0, Turns(260.0))
THREAD = Bought(70.0, 0.3, Turns(-350.0))
THREE = equal_ply(SINGLE, 3, OfBalanced(1.0, -1))
CHAIN = Chain(SINGLE, 150.0, OfBalanced(1.0, -1))
X = np.linspace(0, 5000, 4001)


def at(node):
    return showing.showing(resolve_made(node, Rod()), X)


@pytest.mark.parametrize(
    ("node", "shows"),
    [
        (SINGLE, 1),
        (THREE, 3),
        (CHAIN, 3),
        (equal_ply(equal_ply(SINGLE, 2, Turns(-220.0)), 2, Turns(90.0)), 4),
        (equal_ply(SINGLE, 9, Turns(-80.0)), 0),
        (CoreSpun(THREAD, Wrap(FIBRES["corriedale"], "carded", 800.0, 10.0), Turns(175.0)), 1),
        (Wrapped(THREAD, SINGLE, 2.0, Turns(200.0)), 2),
        (equal_ply(CHAIN, 2, Turns(60.0)), 6),
    ],
    ids=["single", "3-ply", "chain", "cable", "ring", "core-spun", "wrapped", "plied-chains"],
)
def test_every_strand_that_shows_is_used_up_as_the_yarn_says(node, shows):
    """Its place grows as its metres to a metre of yarn, as the levels have them; shares are whole."""
    made = resolve_made(node, Rod())
    found = at(node)
    assert sum(each.share for each in found) == pytest.approx(1.0)
    assert len(found) == shows or (shows == 0 and 5 < len(found) < 9)
    levels = {level.path: level for level in levels_of(made, None)}
    for each in found:
        if each.key and each.key[-1] == showing.WRAP:
            grams = float(made.state.wrap_mass / made.state.length) / 1000
            assert each.at[-1] / 5000 == pytest.approx(grams * 1000 / 800.0, rel=1e-6)
            continue
        leaf = [level for level in levels.values() if level.node in (SINGLE, THREAD)]
        used = [level.metres_per_metre for level in leaf]
        assert min(abs(each.at[-1] / 5000 / used_up - 1) for used_up in used) < 0.1


def test_a_chain_lays_three_places_of_one_strand_side_by_side():
    """Within two links of each other, always; see legs_at."""
    legs = np.stack([each.at for each in at(CHAIN)])
    assert {each.key for each in at(CHAIN)} == {((0, 0),)}
    assert (legs.max(axis=0) - legs.min(axis=0)).max() <= 3 * 150 * 1.1
    assert legs[:, -1].mean() / 5000 == pytest.approx(3.2, abs=0.35)


# Worked by hand, after the trade.


def laid(node, told, palette=None):
    """Colours of all that shows, each strand going through the same bands from its beginning."""
    found = at(node)
    return np.stack([bands.colour_at(told, each.at) for each in found]), np.array([each.share for each in found])


def kept(labs, shares=None):
    shares = np.ones(len(labs)) if shares is None else shares
    return seen.kept_chroma(labs, shares, seen.mixed(labs, shares))


RED, GREEN, BLUE = (oklab.oklab(np.array(each)) for each in ((0.8, 0.1, 0.1), (0.1, 0.6, 0.15), (0.1, 0.2, 0.8)))


def test_colours_across_the_circle_turn_to_mud_as_a_ply_and_not_as_a_chain():
    """Red, green and blue: as 2-ply, a third along, chroma falls far more than as a chain; three blues do not."""
    palette = np.stack([RED, GREEN, BLUE])
    braid = in_turn(3, np.ones(3)).of(15_000.0)
    turned = bands.Bands(np.array([1, 2, 0]), braid.lengths)
    places = at(equal_ply(SINGLE, 2, OfBalanced(1.0, -1)))
    plied = np.stack(
        [bands.lab_at(each, palette, place.at) for each, place in zip((braid, turned), places, strict=True)]
    )
    chained = np.stack([bands.lab_at(braid, palette, place.at) for place in at(CHAIN)])
    assert kept(plied) < 0.6 and kept(chained) > 0.9
    blues = oklab.oklab(np.array([[0.1, 0.2, 0.8], [0.2, 0.35, 0.7], [0.15, 0.3, 0.9]]))
    analogous = np.stack(
        [bands.lab_at(each, blues, place.at) for each, place in zip((braid, turned), places, strict=True)]
    )
    assert kept(analogous) > 0.95
    assert seen.contrast(plied) > seen.POLED > seen.contrast(analogous)


def test_a_chain_keeps_blocks_that_plies_from_both_ends_do_not():
    braid = in_turn(5, np.ones(5)).of(15_000.0)
    chained = seen.solid_runs(laid(CHAIN, braid)[0], X[1])
    assert chained.lengths.sum() > 0.8 * 4000 and chained.colours[0] == 0
    places = at(THREE)
    both = np.stack(
        [
            bands.colour_at(each.of(4500.0), place.at)
            for each, place in zip((braid, bands.other_end(braid), braid), places, strict=True)
        ]
    )
    solid = seen.solid_runs(both, X[1])
    assert solid.lengths.sum() < 0.25 * 5000


def test_blending_grows_with_distance_to_the_mean():
    """A quarter of a band that is as wide as the window; everything over a whole turn. Worked by hand."""
    one, three = np.array([1.0]), np.array([3])
    shares = [float(seen.blended_share(across, one, three)[0]) for across in (0.0, 0.4, 1.0, 2.0, 3.0, 9.0)]
    assert shares == pytest.approx([0.0, 0.1, 0.25, 0.625, 1.0, 1.0]) and seen.blended_share(3.0, one, three // 3) == 0
    assert float(seen.blended_share(1.0, 2 * one, three)[0]) == pytest.approx(1 / 8)
    labs = np.stack([[RED], [GREEN]])
    assert seen.seen_at(labs, seen.mixed(labs, np.ones(2)), np.ones(1))[0] == pytest.approx(
        seen.seen_at(labs, seen.mixed(labs, np.ones(2)), np.ones(1))[1]
    )
    assert seen.seen_at(labs, seen.mixed(labs, np.ones(2)), np.zeros(1)) == pytest.approx(labs)


def test_a_window_over_bands_takes_in_what_is_said():
    """Against a simulation: windows laid at random over bands of two colours by turns."""
    x = np.random.default_rng(1).uniform(0.2, 0.8, 200_000)
    for across in (0.1, 0.5, 1.0):
        fine = x[:, None] * 0 + np.random.default_rng(2).uniform(-across / 2, across / 2, (200_000, 1)) + x[:, None]
        middle = np.random.default_rng(3).uniform(0, 1, 200_000)
        other = np.floor(middle[:, None] + (fine - x[:, None])) != 0
        assert other.mean() == pytest.approx(
            float(seen.blended_share(across, np.array([1.0]), np.array([9]))[0]), abs=0.005
        )


# Cloth.


def test_a_row_turns_round_and_a_round_goes_on():
    flat = fabric.knitted(3, 4, 10.0)
    assert flat.tolist() == [[5, 15, 25, 35], [75, 65, 55, 45], [85, 95, 105, 115]]
    tube = fabric.knitted(2, 4, 10.0, begins=100.0, flat=False)
    assert tube.tolist() == [[105, 115, 125, 135], [145, 155, 165, 175]]
    assert fabric.woven(2, 5, 1.0)[1, 0] == pytest.approx(9.5 * fabric.WOVEN_IN)


@given(st.integers(1, 30), st.integers(1, 60), st.floats(1, 40), st.booleans())
def test_every_bit_of_yarn_is_knitted_once(rows, stitches, in_a_stitch, flat):
    at = np.sort(fabric.knitted(rows, stitches, in_a_stitch, flat=flat).ravel())
    assert at == pytest.approx((np.arange(rows * stitches) + 0.5) * in_a_stitch)


def cloth(period_in_rows, rows=64, stitches=44, flat=False):
    """Two colours by turns, each for half of so many rows of yarn."""
    where = fabric.knitted(rows, stitches, 1.0, flat=flat) / stitches
    return np.where(((where / period_in_rows) % 1 < 0.5)[..., None], RED, BLUE)


def test_long_runs_stripe_and_those_of_a_row_pool():
    """44 stitches round: eight rows a repeat stripe; a repeat of exactly a round stacks; a third and a bit scatters."""
    assert fabric.told_of(cloth(8.0)).pattern == "stripes"
    assert fabric.told_of(cloth(1.0)).pattern == "pools"
    assert fabric.told_of(cloth(0.37)).pattern == "mottled"
    assert fabric.told_of(np.tile(RED, (20, 44, 1))).pattern == "even"


def test_plain_weave_shows_warp_and_weft_by_turns():
    assert fabric.warp_over(2, 4).tolist() == [[True, False, True, False], [False, True, False, True]]


def test_the_next_skein_goes_on_where_the_first_ended():
    """A skein cut out of the middle of the same colours: the place where the cut was is found."""
    x = np.linspace(0, 40, 4000)
    along = oklab.oklab(np.stack([0.5 + 0.4 * np.sin(x), 0.5 + 0.4 * np.cos(0.37 * x), 0.3 + 0 * x], axis=1))
    first, other = along[:1500], along[900:]
    assert seen.begin_next(first, other, 100) == 600
    assert seen.begin_next(first, other[:150], 100) == 0


@given(st.lists(st.floats(1, 30), min_size=2, max_size=6), st.integers(1, 9))
def test_as_much_of_every_colour_lies_in_the_yarn_as_went_in(lengths, number):
    """To a thousandth of the strand, along a single, strand by strand of a ply, and leg by leg of a chain."""
    told = bands.strips(in_turn(len(lengths), np.array(lengths)), number).of(1.0)
    for node, legs in ((SINGLE, 1), (THREE, 1), (CHAIN, 3)):
        far = showing.showing(resolve_made(node, Rod()), np.array([0.0, 1e7]))[0].at
        reach = 1e7 * 1.2e6 / float(far[1] - far[0])
        x = (np.arange(40_000) + 0.5) / 40_000 * reach
        shows = showing.showing(resolve_made(node, Rod()), x)
        numbers = np.stack([bands.colour_at(told.of(1.2e6), each.at) for each in shows])
        for colour, length in enumerate(lengths):
            own = numbers == colour
            share = own.mean() if legs == 3 else own[0].mean()
            assert share == pytest.approx(length / sum(lengths), abs=1e-3)


def test_two_strands_and_a_chain_worked_by_hand():
    """Bands of 3 and 1 along one strand, 1 and 3 along the other: alike over the first and the last quarter.

    Of a chain with loops of 100 mm: at 30 mm into the second link legs lie at 330, 470 and 530 mm of its strand.
    """
    one, other = (
        bands.colour_at(in_turn(2, np.array(each)), np.arange(0.05, 4, 0.1)) for each in ([3.0, 1.0], [1.0, 3.0])
    )
    runs = seen.solid_runs(np.stack([one, other]), 0.1)
    assert (
        runs.colours.tolist() == [0, 1]
        and runs.lengths == pytest.approx([1.0, 1.0])
        and runs.starts[1] == pytest.approx(3.0)
    )
    legs = kinds.legs_at(np.array([130.0]), 100.0)
    assert [float(each[0]) for each in legs] == [330.0, 470.0, 530.0]


@given(colours, colours)
def test_mixes_are_those_that_a_library_interpolates(one, other):
    told = Color.interpolate([Color("srgb", each.tolist()) for each in (one, other)], space="oklab")(0.5)
    mixed = seen.mixed(np.stack([oklab.oklab(one)[None], oklab.oklab(other)[None]]), np.ones(2))[0]
    assert mixed == pytest.approx(np.array(told.convert("oklab").coords()), abs=2e-4)


def test_unlike_strands_show_as_thick_as_they_are_each_at_its_own_place():
    """Two thin and one thick: every strand by itself, shares as their widths, each used up as far as it is laid in."""
    stout = Single(FIBRES["corriedale"], "combed", "short", 240.0, Turns(150.0))
    made = resolve_made(Ply((Member(SINGLE, 2), Member(stout, 1)), Turns(-150.0)), Rod())
    found = showing.showing(made, X)
    assert sorted(each.key for each in found) == [((0, 0),), ((0, 1),), ((1, 0),)]
    shares = {each.key[0]: each.share for each in found}
    wide = {each.member: float(each.state.diameter) for each in made.state.seats}
    assert shares[0, 0] == shares[0, 1] and shares[1, 0] / shares[0, 0] == pytest.approx(wide[1] / wide[0])
    for each in found:
        seat = next(own for own in made.state.seats if own.member == each.key[0][0])
        laid = float(seat.feed) * float(seat.consumption) / float(made.state.length)
        assert each.at[-1] == pytest.approx(5000 * laid) and each.at[0] == 0


# Sections.

COILS = Wrapped(THREAD, SINGLE, 3.0, Turns(160.0))
TWO = equal_ply(SINGLE, 2, OfBalanced(1.0, -1))


def course(nodes, order, lengths, own=None):
    """Sections of structures; strands of one number go on from one to the next."""
    made = [resolve_made(node, Rod()) for node in nodes]
    alike = [{key: (key, 1.0) for key in showing.used(each)} for each in made]
    stretches = [showing.Stretch(each, ways) for each, ways in zip(made, own or alike, strict=True)]
    return showing.Course(stretches, np.array(order), np.array(lengths, float))


@pytest.mark.parametrize("node", [SINGLE, THREE, CHAIN, COILS], ids=["single", "3-ply", "chain", "coils"])
def test_sections_of_one_structure_show_what_the_yarn_does(node):
    """However it is cut; x is chosen off the cuts. Core and rings too are used up as the yarn says."""
    x = np.linspace(3, 4997, 777)
    ((here, shows),) = showing.showing_along(course([node], [0, 0, 0], [120.0, 40.0, 77.0]), x)
    assert here.tolist() == list(range(777))
    for one, other in zip(shows, at_places(node, x), strict=True):
        assert one.key == other.key and one.share == pytest.approx(other.share)
        assert one.at == pytest.approx(other.at, rel=1e-9)


def at_places(node, x):
    return showing.showing(resolve_made(node, Rod()), x)


def test_a_strand_goes_on_where_the_section_before_left_it():
    """20 cm of 2-ply, 10 cm of coils: the single runs on without a jump, three times as fast in the coils.

    Worked by hand from what a metre of each uses up: after a course the second strand has lost 20 cm of ply only.
    """
    ply, coils = (showing.used(resolve_made(each, Rod())) for each in (TWO, COILS))
    own = [
        {((0, 0),): (((0, 0),), 1.0), ((0, 1),): (((0, 1),), 1.0)},
        {((0, 0),): (((-2, 0),), 1.0), ((1, 0),): (((0, 0),), 1.0)},
    ]
    told = course([TWO, COILS], [0, 1], [200.0, 100.0], own)
    ends = told.places(np.array([200.0, 300.0, 600.0]))
    assert ends[(0, 0),] == pytest.approx(
        np.array(
            [
                200 * ply[(0, 0),],
                200 * ply[(0, 0),] + 100 * coils[(1, 0),],
                2 * (200 * ply[(0, 0),] + 100 * coils[(1, 0),]),
            ]
        )
    )
    assert ends[(0, 1),] == pytest.approx(np.array([200.0, 200.0, 400.0]) * ply[(0, 1),])
    assert ends[(-2, 0),] == pytest.approx(np.array([0.0, 100.0, 200.0]) * coils[(0, 0),])
    assert coils[(1, 0),] == pytest.approx(3 * coils[(0, 0),], rel=0.1)
    assert told.used == pytest.approx({key: each[2] / 600 for key, each in ends.items()})
    x = np.linspace(1, 1199, 1199)
    shown = {
        here[0] > 100: (here, {each.key: each for each in shows}) for here, shows in showing.showing_along(told, x)
    }
    (in_ply, plied), (in_coils, coiled) = shown[False], shown[True]
    assert sorted([*in_ply, *in_coils]) == list(range(1199)) and ((x[in_coils] - 1e-9) % 300 > 199).all()
    along = np.empty(1199)
    along[in_ply], along[in_coils] = plied[(0, 0),].at, coiled[(0, 0),].at
    assert along == pytest.approx(told.places(x)[(0, 0),]) and (np.diff(along) > 0).all()
    assert sum(each.share for each in coiled.values()) == pytest.approx(1)


def test_a_thick_place_takes_so_much_more_of_its_strand():
    """Twice as heavy, a quarter of the way: five quarters of the thin yarn, on the whole."""
    own = [{(): ((), 1.0)}, {(): ((), 2.0)}]
    told = course([SINGLE, SINGLE], [0, 1], [75.0, 25.0], own)
    thin = showing.used(resolve_made(SINGLE, Rod()))[()]
    assert told.used[()] == pytest.approx(1.25 * thin) and told.sections_at(
        np.array([10.0, 80.0, 110.0, 199.9])
    ).tolist() == [0, 1, 0, 1]
    (_, (thin_one,)), (_, (thick,)) = showing.showing_along(told, np.array([50.0, 90.0]))
    assert thin_one.at == pytest.approx([50 * thin]) and thick.at == pytest.approx([(75 + 2 * 15) * thin])


def test_a_core_that_is_covered_is_used_up_though_nothing_shows_of_it():
    shows = {each.key: each for each in at(HALF_BARE)}
    covered = float(kinds.core_spun(resolve_made(HALF_BARE, Rod()).state).coverage)
    assert 0 < covered < 1 and shows[showing.WRAP,].share == pytest.approx(covered)
    assert shows[(0, 0),].share == pytest.approx(1 - covered) and shows[(0, 0),].at[-1] == pytest.approx(5000, rel=0.05)
    full = CoreSpun(THREAD, Wrap(FIBRES["corriedale"], "carded", 800.0, 10.0), Turns(400.0))
    assert [each.key for each in at(full)] == [(showing.WRAP,)] and showing.used(resolve_made(full, Rod()))[
        (0, 0),
    ] > 0.9


def test_coils_show_as_long_as_they_are_and_their_thread_where_it_is_bare():
    """Of standing coils mostly the single, thrice as long as the thread; of packed ones nothing else."""
    for fed, turns in ((1.15, 150.0), (3.0, 160.0)):
        made = resolve_made(Wrapped(THREAD, SINGLE, fed, Turns(turns)), Rod())
        binder, wrapper = made.state.seats
        bare = (1 - min(float(kinds.wrapped(made.state).coverage), 1)) * float(binder.state.diameter)
        laid = fed * float(wrapper.state.diameter)
        shares = {each.key: each.share for each in showing.showing(made, X)}
        assert shares[(1, 0),] / shares[(0, 0),] == pytest.approx(laid / bare, rel=1e-6)
    packed = resolve_made(Wrapped(THREAD, SINGLE, 1.0, Turns(3000.0)), Rod())
    assert [each.key for each in showing.showing(packed, X)] == [((1, 0),)]


@given(some_bands(), parts)
def test_what_lies_beyond_a_place_is_what_came_after_it(told, share):
    start = share * told.whole * 0.999
    left = bands.beyond(told, start, 99)
    assert left.whole == pytest.approx(told.whole - start)
    at_most = bands.beyond(told, start, 2)
    assert len(at_most.lengths) <= 2 and at_most.lengths[0] == left.lengths[0]
    x = (np.arange(40) + 0.5) / 40 * left.whole
    assert (bands.colour_at(left, x) == bands.colour_at(told, start + x)).mean() > 0.9
    assert bands.beyond(told, 2 * told.whole, 9).colours.tolist() == [told.colours[-1]]


def test_shares_may_change_along_the_yarn():
    """At one place even, at the other the second strand alone; worked by hand."""
    labs = np.stack([np.tile(RED, (2, 1)), np.tile(GREEN, (2, 1))])
    mixed = seen.mixed(labs, np.array([[0.5, 0.0], [0.5, 1.0]]))
    assert mixed[0] == pytest.approx((RED + GREEN) / 2) and mixed[1] == pytest.approx(GREEN)
    assert kept(labs[:, 1:], np.array([[0.0], [1.0]])) == pytest.approx(1)
    assert seen.mixed(labs, np.array([1.0, 3.0]))[0] == pytest.approx(0.25 * RED + 0.75 * GREEN)


def test_broken_pieces_have_the_colour_that_their_middle_had():
    """Two bands in four pieces: two of each colour, whole, whatever the shuffle; three pieces have a mixed one."""
    for seed in range(9):
        four = bands.broken(in_turn(2, np.ones(2)), 4, seed)
        assert set(four.lengths.round(9)) <= {0.5, 1.0} and of_each(four)[:2] == pytest.approx([1, 1])
        three = bands.broken(in_turn(2, np.array([1.0, 2.0])), 3, seed)
        assert of_each(three)[:2] == pytest.approx([1, 2]) and three.lengths.max() in (
            pytest.approx(1),
            pytest.approx(2),
        )


def test_pieces_are_shuffled_as_they_are_drawn():
    """Five bands in five pieces: those of numpy's own permutation of a seed, each once."""
    for seed in range(5):
        shuffled = bands.broken(in_turn(5, np.ones(5)), 5, seed).colours.tolist()
        assert shuffled == np.argsort(np.random.default_rng(seed).permutation(5)).tolist()


HALF_BARE = CoreSpun(THREAD, Wrap(FIBRES["corriedale"], "carded", 300.0, 3.0), Turns(60.0))


@pytest.mark.parametrize("node", [SINGLE, THREE, CHAIN, COILS, equal_ply(CHAIN, 2, Turns(60.0)), HALF_BARE])
def test_what_is_used_up_is_as_heavy_as_the_yarn(node):
    """Mass is kept: metres of every strand as spun times its tex, all of them, are the tex of the yarn."""
    made = resolve_made(node, Rod())
    heavy = 0.0
    for key, each in showing.used(made).items():
        inner = made
        for member, _ in key:
            inner = inner.members[member] if member >= 0 else None
        heavy += each * (300.0 if inner is None else {SINGLE: 80.0, THREAD: 70.0}[inner.node])
    assert heavy == pytest.approx(float(mass(made.state) / made.state.length), rel=1e-4)


def test_columns_are_told_by_their_mean_over_rows():
    """Stripes upright, half of a cloth wide: all of the spread within rows lies in columns; turned by 90° in none."""
    upright = np.where((np.arange(40) < 20)[None, :, None], RED, BLUE) * np.ones((32, 1, 1))
    told = fabric.told_of(upright)
    assert told.between_rows == pytest.approx(0, abs=1e-12) and told.in_columns == pytest.approx(1)
    assert told.spread == pytest.approx(np.linalg.norm(RED - BLUE) / 2)
    across = fabric.told_of(upright.swapaxes(0, 1))
    assert across.between_rows == pytest.approx(1) and across.pattern == "stripes"


def test_figures_that_are_assumed_do_not_drift():
    assert (seen.READING, seen.ARM, seen.ROOM) == (0.3, 1.0, 3.0)
    assert (seen.MUDDY, seen.COLOURFUL, seen.POLED) == (0.55, 0.04, 0.12)
    assert (fabric.EVEN, fabric.TELLING, fabric.POOL_ROWS, fabric.WOVEN_IN) == (0.02, 0.5, 8, 1.08)


def test_weft_makes_cloth_by_its_length():
    """54 m in cloth of half a metre: 100 picks of 0.54 m, 2 mm apart."""
    assert fabric.woven_length(54.0, 500.0, 2.0) == pytest.approx(200.0)
    assert fabric.woven_length(108.0, 250.0, 1.0) == pytest.approx(400.0)
