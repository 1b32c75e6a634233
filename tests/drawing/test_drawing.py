"""The drawings: to scale, true in direction, and plain markup."""

import re
from xml.etree import ElementTree

import numpy as np
import pytest

from pebble_wheel.drawing.loop import draw_loop
from pebble_wheel.drawing.svg import CSS_PX_PER_MM, mix, words
from pebble_wheel.drawing.yarn import Frame, Wedge, draw_small, draw_yarn, magnification, scale_for, strands_of
from pebble_wheel.mechanics.finishing import Finish
from pebble_wheel.mechanics.reading import read
from pebble_wheel.mechanics.state import make
from tests.mechanics.test_kinds import EVERY_KIND
from tests.yarns import ply, single

COLOURS = ["#dcc9a3", "#8fa3a0", "#a8704f"]
S_YARN, Z_YARN = make(ply(single(), 3, -150.0)), make(ply(single(turns=-220.0), 3, 150.0))


def test_drawings_are_well_formed_and_carry_no_style_or_script():
    for drawn in (
        draw_yarn(S_YARN, COLOURS, Wedge(0.4, True, "67°"), True, "a <b> & c"),
        draw_small(S_YARN, COLOURS, "s", "small"),
        draw_loop(-7.3, 1.5, COLOURS, "loop"),
        draw_yarn(make(single()), COLOURS, None, False, "single"),
    ):
        ElementTree.fromstring(drawn)
        assert not re.search(r"style=|<script|on\w+=|NaN|inf", drawn)


def test_text_of_people_is_escaped():
    assert words("text", "<script>&") == "<text>&lt;script&gt;&amp;</text>"


def test_the_ply_is_drawn_to_the_ruler_s_scale():
    scale = scale_for(S_YARN, Frame())
    tubes = strands_of(S_YARN, COLOURS, Frame(), scale)
    laid = tubes[0].x > 500
    assert np.ptp(tubes[0].y[laid]) == pytest.approx(2 * S_YARN.state.seats[0].radius * scale, rel=0.01)
    assert tubes[0].width[laid][0] == pytest.approx(S_YARN.state.seats[0].state.diameter * scale)
    assert tubes[0].width[0] == pytest.approx(S_YARN.members[0].state.diameter * scale)
    assert magnification(S_YARN) == pytest.approx(scale / CSS_PX_PER_MM)
    around = np.unwrap(np.arctan2(tubes[0].depth, tubes[0].y - Frame().height / 2)[laid])
    turns = abs(around[-1] - around[0]) / (2 * np.pi)
    length_mm = np.ptp(tubes[0].x[laid]) / scale
    assert turns / length_mm == pytest.approx(abs(S_YARN.state.twist_now) / 1000, rel=1e-3)


@pytest.mark.parametrize(("made", "descends"), [(Z_YARN, True), (S_YARN, False)])
def test_front_strands_lean_as_s_and_z_do(made, descends):
    # ISO 2: the slope of the letter's middle stroke with the yarn upright; laid across the page Z descends rightwards.
    tube = strands_of(made, COLOURS, Frame(), 50.0)[0]
    front = (tube.depth > 0.8 * tube.depth.max()) & (tube.x > 500)
    slope = np.gradient(tube.y, tube.x)[front]
    assert np.all(slope > 0) if descends else np.all(slope < 0)
    assert np.degrees(np.arctan(np.abs(slope).max())) == pytest.approx(np.degrees(abs(made.state.angle)), abs=1.5)


def test_the_drawn_strands_do_not_pass_through_each_other():
    tubes = strands_of(S_YARN, COLOURS, Frame(), 50.0)
    paths = [np.stack([t.x, t.y, t.depth])[:, t.x > 500] for t in tubes]
    gap = np.linalg.norm(paths[0][:, :, None] - paths[1][:, None, :], axis=0).min()
    assert gap == pytest.approx(tubes[0].width[-1], rel=0.02)


@pytest.mark.parametrize("kind", EVERY_KIND)
def test_every_kind_is_drawn_within_its_frame(kind):
    made = make(EVERY_KIND[kind])
    tubes = strands_of(made, COLOURS, Frame(), scale_for(made, Frame()))
    for tube in tubes:
        assert np.all(np.isfinite([tube.x, tube.y, tube.depth, tube.width]))
        assert np.all(tube.y - tube.width / 2 > -8) and np.all(tube.y + tube.width / 2 < Frame().height + 8)
    ElementTree.fromstring(draw_yarn(made, COLOURS, None, False, kind))


def test_strands_of_a_cable_lie_as_long_in_the_picture_as_they_are_computed():
    """Arc length of the drawn centre-lines over the yarn's, against the metres of single per metre of cable."""
    made = make(EVERY_KIND["cable"])
    expected = read(EVERY_KIND["cable"], Finish(), draws=64).levels[-1].metres_per_metre
    for tube in strands_of(made, COLOURS, Frame(), scale_for(made, Frame())):
        path = np.stack([tube.x, tube.y, tube.depth])[:, tube.x > 460]
        length = np.linalg.norm(np.diff(path, axis=1), axis=0).sum() / np.ptp(path[0])
        assert length == pytest.approx(expected, rel=0.03)


@pytest.mark.parametrize("turns", [-12.0, -0.1, 0.0, 3.3, 400.0, float("nan")])
def test_any_loop_can_be_drawn(turns):
    ElementTree.fromstring(draw_loop(turns, 1.5, COLOURS, "loop"))


def test_thicker_yarn_never_overflows_the_frame():
    for tex in (5.0, 60.0, 900.0, 20_000.0):
        for strands in (2, 5):
            made = make(ply(single(tex, 2000 / tex**0.5), strands, -900 / tex**0.5))
            outer = made.state.seats[0]
            thick = (2 * float(outer.radius) + float(outer.state.diameter)) * scale_for(made, Frame())
            assert 0 < thick <= Frame().tallest + 1e-6


def test_mixing_runs_from_one_colour_to_the_other():
    assert mix("#204060", "#ffffff", 0.0) == "#204060"
    assert mix("#204060", "#000000", 0.5) == "#102030"
