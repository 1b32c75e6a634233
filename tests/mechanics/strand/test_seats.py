"""Seats: strands on unlike seats have states of their own, keep their lengths, and lie as close as circles can."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares

from pebble_wheel.mechanics.strand.helix import nested_curvature_squared
from pebble_wheel.mechanics.strand.layout import seat
from pebble_wheel.mechanics.strand.rings import rings
from pebble_wheel.mechanics.strand.settling import make, retwist
from pebble_wheel.mechanics.strand.structure import Member, Ply, Turns
from pebble_wheel.mechanics.wash.bloom import Finish
from tests.yarns import ply, read, single, singles

BEST = {2: 2, 3: 2.155, 4: 2.414, 5: 2.701, 6: 3, 7: 3, 8: 3.304, 9: 3.613, 10: 3.813, 11: 3.924, 12: 4.029}
"""Radius of the smallest circle round so many equal circles, over theirs."""


@pytest.mark.parametrize(("strands", "reach"), BEST.items())
def test_strands_lie_as_close_as_circles_are_known_to_pack(strands, reach):
    # Best packings of equal circles in a circle (Graham, from memory); rings round one axis come within 1.4 %.
    assert reach * 0.999 <= rings(strands).reach <= reach * 1.014


def test_no_strand_more_makes_a_leap_and_none_lies_in_another():
    reaches, widths = [], []
    for strands in range(6, 65):
        found = rings(strands)
        places = [
            radius * np.exp(1j * np.array(directions))
            for radius, directions in zip(found.radii, found.directions, strict=True)
        ]
        centres = np.concatenate(places)
        assert centres.size == strands == sum(found.sizes)
        apart = np.abs(centres[:, None] - centres)[~np.eye(strands, dtype=bool)]
        assert apart.min() > 2 - 2e-4
        assert np.abs(centres).max() + 1 == pytest.approx(found.reach)
        reaches.append(found.reach)
        widths.append(float(make(ply(single(20.0, 400.0), strands, -1.0)).state.diameter))
    steps, wider = np.diff(np.log(reaches)), np.diff(np.log(widths))
    assert steps.min() > -1e-4 and steps.max() < np.log(1.12)
    assert wider.min() > -0.02 and wider.max() < np.log(1.12)


def test_the_width_of_many_is_the_mean_width_of_their_hull():
    # Cauchy: perimeter over π; the reach of every strand over all directions, written out anew.
    view = 2 * np.pi * np.arange(3600) / 3600
    for strands in (7, 10, 13, 24):
        found = rings(strands)
        x, y = (
            np.concatenate([r * turn(np.array(each)) for r, each in zip(found.radii, found.directions, strict=True)])
            for turn in (np.cos, np.sin)
        )
        reach = (x[:, None] * np.cos(view) + y[:, None] * np.sin(view)).max(axis=0) + 1
        layout = seat([strands], [1.0], 0.5)
        width = float(layout.width(np.ones(len(layout.seats))))
        assert width == pytest.approx(2 * reach.mean(), rel=1e-3)


@pytest.mark.parametrize("counts", [[1, 3], [1, 4], [2, 2], [3, 1], [2, 1, 1]])
def test_a_strand_that_grows_among_thin_ones_widens_the_whole_steadily(counts):
    thick = np.geomspace(0.2, 12, 400)
    layout = seat(counts, [1.0] * len(counts), 0.5)
    wide = layout.width(np.stack([thick if each.member == 0 else np.ones(400) for each in layout.seats], axis=-1))
    grown = np.diff(wide) / np.diff(2 * thick)
    assert grown.min() > 0.05 and grown.max() < sum(counts)


def test_the_thinnest_goes_inside():
    layout = seat([1, 6], [0.4, 1.0], 0.5)
    assert layout.rings[0] == (0,) and set(layout.rings[1]) == {1}


@pytest.mark.parametrize(
    ("counts", "share", "seats"),
    [
        ([2], 0.5, [(0, 1)]),
        ([2], 1.0, [(0,), (1,)]),
        ([3], 1.0, [(0,), (1, 2)]),
        ([4], 0.0, [(0, 2), (1,), (3,)]),
        ([1, 2], 0.5, [(0,), (1, 2)]),
        ([1, 3], 0.5, [(0,), (1, 3), (2,)]),
        ([2, 2], 0.5, [(0, 2), (1, 3)]),
        ([7], 0.5, [(0,), (0, 1, 2, 3, 4, 5)]),
    ],
)
def test_strands_share_a_seat_where_a_turn_or_a_mirror_leads_from_one_to_the_other(counts, share, seats):
    assert [each.places for each in seat(counts, [1.0] * len(counts), share).seats] == seats


def test_the_first_or_the_last_strand_lies_straight_whatever_the_counts():
    for counts in ([1, 2], [2, 1], [1, 1], [3], [2, 6]):
        members = tuple(Member(single(60.0 + 20 * place), count) for place, count in enumerate(counts))
        for share, held in ((1.0, 0), (0.0, len(counts) - 1)):
            state = make(Ply(members, Turns(-80.0), share)).state
            straight = [each.member for each in state.seats if abs(float(each.angle)) < 1e-9]
            assert straight == [held], (counts, share)


def test_two_singles_held_unevenly_are_mirror_images_one_straight_and_one_wound():
    """An accidental spiral: about 1.2 m of the slack one go into a metre, 1.00 m of the tight one."""
    yarns = [read(Ply((Member(single(), 2),), Turns(-130.0), share), Finish(), variants=64) for share in (0.0, 1.0)]
    lines = [[level for level in yarn.levels if level.path != "yarn"] for yarn in yarns]
    for one, other in zip(lines[0], lines[1][::-1], strict=True):
        for figure in ("metres_per_metre", "lies", "turns_per_m_now", "diameter", "angle", "grams_per_100_m"):
            assert getattr(one, figure) == pytest.approx(getattr(other, figure), rel=1e-6), figure
    tight, slack = lines[1]
    assert tight.lies == 0 and tight.metres_per_metre == pytest.approx(1, abs=1e-6)
    assert 1.1 < slack.metres_per_metre < 1.25
    assert slack.metres_per_metre == pytest.approx(1 / np.cos(slack.lies), rel=1e-6)
    assert [level.strands for level in lines[1]] == [1, 1]
    assert yarns[0].resultant_tex == pytest.approx(yarns[1].resultant_tex, rel=1e-9)


def test_a_core_and_its_ring_are_two_lines():
    levels = read(ply(single(40.0, 350.0), 7, -90.0), Finish(), variants=64).levels[1:]
    assert [level.strands for level in levels] == [1, 6]
    assert levels[0].lies == 0 and levels[0].metres_per_metre == pytest.approx(1)
    assert levels[1].metres_per_metre == pytest.approx(1 / np.cos(levels[1].lies), rel=1e-6)
    assert {level.place for level in levels} == {"yarn.strands[0]"}


uneven = st.builds(
    lambda one, other, count, share, turns: Ply((Member(one), Member(other, count)), Turns(turns), share),
    singles,
    singles,
    st.integers(1, 3),
    st.sampled_from([0.5, 0.8, 1.0, 0.0]),
    st.floats(-150, -40),
)


@given(uneven, st.floats(0.7, 1.4))
def test_a_strand_that_is_twisted_again_keeps_the_lengths_it_was_laid_with(yarn, by):
    made = make(yarn)
    turned = retwist(made, made.inserted * by)
    if float(turned.jamming) >= 1:
        return
    own = [
        float(feed * each.state.length * np.cos(each.angle))
        for feed, each in zip(made.feeds, turned.seats, strict=True)
    ]
    assert own == pytest.approx([float(turned.length)] * len(own), rel=1e-6)
    for each in turned.seats:
        wound = 2 * np.pi * float(each.radius) * float(turned.twist_now) / 1000
        assert np.tan(float(each.angle)) == pytest.approx(wound, rel=1e-3, abs=1e-6)


@pytest.mark.parametrize("by", [0.85, 0.95, 1.1, 1.25])
def test_radii_follow_from_the_lengths_as_a_general_solver_finds_them(by):
    """Three unlike strands, the distances of their centres kept: where the axis goes, and how long the piece is."""
    members = (Member(single(60.0, 200.0)), Member(single(100.0, 200.0)), Member(single(160.0, 150.0)))
    made = make(Ply(members, Turns(-90.0), 0.7))
    turned = retwist(made, made.inserted * by)
    r = [float(each.state.diameter) / 2 for each in turned.seats]
    a, b, c = r[0] + r[1], r[0] + r[2], r[1] + r[2]
    x = (a**2 + b**2 - c**2) / (2 * a)
    centres = np.array([[0, 0], [a, 0], [x, np.sqrt(b**2 - x**2)]])
    lengths = np.array([float(feed * each.state.length) for feed, each in zip(made.feeds, turned.seats, strict=True)])
    wound = 2 * np.pi * float(turned.turns) / 1000

    def off(place):
        away = ((centres - place[:2]) ** 2).sum(axis=1)
        return lengths**2 - place[2] ** 2 - wound**2 * away

    # Contact grows by under 1 % with the angle at this twist, which the solver here leaves out.
    found = least_squares(off, [*centres.mean(axis=0), float(turned.length)], xtol=1e-14, ftol=1e-14)
    assert np.abs(found.fun).max() < 1e-9
    assert float(turned.length) == pytest.approx(found.x[2], rel=2e-3)
    radii = np.hypot(*(centres - found.x[:2]).T)
    assert [float(each.radius) for each in turned.seats] == pytest.approx(radii, rel=0.03, abs=0.005)


@pytest.mark.parametrize(
    ("bend", "winding", "radius", "twist"), [(0.3, 0.9, 0.4, 1.1), (0.5, 0.5, 0.3, -1.4), (0.2, 1.5, 0.5, 0.2)]
)
def test_curvature_of_a_strand_within_a_strand_against_the_path_in_space(bend, winding, radius, twist):
    """The path laid in space round a helix, differentiated numerically."""
    across = bend / (bend**2 + winding**2)
    slope = np.sqrt(bend**2 + winding**2)
    s = np.linspace(0, 20 * 2 * np.pi / abs(twist - winding), 400_001)  # whole turns against the path
    rise = winding / slope
    around = slope * s
    middle = np.stack([across * np.cos(around), across * np.sin(around), rise * s])
    normal = -np.stack([np.cos(around), np.sin(around), np.zeros_like(s)])
    along = np.gradient(middle, s, axis=1)
    across_it = np.cross(along, normal, axis=0)
    turned = (twist - winding) * s
    path = (middle + radius * (np.cos(turned) * normal + np.sin(turned) * across_it))[:, 5:-5]
    step = np.gradient(path, s[1] - s[0], axis=1)
    speed = np.linalg.norm(step, axis=0)
    curved = np.linalg.norm(np.cross(step, np.gradient(step, s[1] - s[0], axis=1), axis=0), axis=0) / speed**3
    direct = np.average(curved[20:-20] ** 2, weights=speed[20:-20])
    assert float(nested_curvature_squared(bend, winding, radius, twist)) == pytest.approx(direct, rel=1e-3)


def test_an_uneven_ply_within_a_cable_keeps_lines_for_every_seat():
    inner = replace(ply(single(50.0, 320.0), 2, -300.0), tension_share=1.0)
    levels = read(ply(inner, 2, 60.0), Finish(), variants=64).levels
    assert [level.path for level in levels] == [
        "yarn", "yarn.strands[0]", "yarn.strands[0].strands[0]", "yarn.strands[0].strands[0]~2",
    ]  # fmt: skip
    assert sum(level.grams_per_100_m * level.strands for level in levels[2:]) == pytest.approx(
        levels[0].grams_per_100_m
    )
