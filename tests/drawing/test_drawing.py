"""The drawings: to scale, true in direction, and plain markup."""

import re
from xml.etree import ElementTree

import numpy as np
import pytest

from pebble_wheel.drawing.cut import CutAt, cut_svg
from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.finish import SKEIN_TURN, Measured, axis_svg, growth_svg, skein_strands, skein_svg
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.svg import CSS_PX_PER_MM, mix, words
from pebble_wheel.drawing.unrolled import Flat, unrolled_svg
from pebble_wheel.drawing.yarn import (
    REACHES,
    Frame,
    Wedge,
    magnification,
    scale_for,
    small_svg,
    strands_of,
    yarn_svg,
)
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import Chain, Turns
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.address import WHOLE
from pebble_wheel.wording.display import Display
from tests.mechanics.strand.test_kinds import EVERY_KIND
from tests.yarns import dress, ply, read, single

COLOURS = ["#dcc9a3", "#8fa3a0", "#a8704f"]
S_YARN, Z_YARN = make(ply(single(), 3, -150.0)), make(ply(single(turns=-220.0), 3, 150.0))


def test_drawings_are_well_formed_and_carry_no_style_or_script():
    for drawn in (
        yarn_svg(S_YARN, dress(S_YARN.node), Wedge(0.4, True, "67°"), True, "a <b> & c"),
        small_svg(S_YARN, dress(S_YARN.node), "s", "small"),
        loop_svg(-7.3, 1.5, COLOURS, "loop"),
        yarn_svg(make(single()), dress(single()), None, False, "single"),
    ):
        ElementTree.fromstring(drawn)
        assert not re.search(r"style=|<script|on\w+=|NaN|inf", drawn)


def test_text_of_people_is_escaped():
    assert words("text", "<script>&") == "<text>&lt;script&gt;&amp;</text>"


def test_the_ply_is_drawn_to_the_ruler_s_scale():
    scale = scale_for(S_YARN, Frame())
    tubes = strands_of(S_YARN, dress(S_YARN.node), Frame(), scale)
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
    tube = strands_of(made, dress(made.node), Frame(), 50.0)[0]
    front = (tube.depth > 0.8 * tube.depth.max()) & (tube.x > 500)
    slope = np.gradient(tube.y, tube.x)[front]
    assert np.all(slope > 0) if descends else np.all(slope < 0)
    assert np.degrees(np.arctan(np.abs(slope).max())) == pytest.approx(np.degrees(abs(made.state.angle)), abs=1.5)


def test_the_drawn_strands_do_not_pass_through_each_other():
    tubes = strands_of(S_YARN, dress(S_YARN.node), Frame(), 50.0)
    paths = [np.stack([t.x, t.y, t.depth])[:, t.x > 500] for t in tubes]
    gap = np.linalg.norm(paths[0][:, :, None] - paths[1][:, None, :], axis=0).min()
    assert gap == pytest.approx(tubes[0].width[-1], rel=0.02)


@pytest.mark.parametrize("kind", EVERY_KIND)
def test_every_kind_is_drawn_within_its_frame(kind):
    made = make(EVERY_KIND[kind])
    tubes = strands_of(made, dress(made.node), Frame(), scale_for(made, Frame()))
    for tube in tubes:
        assert np.all(np.isfinite([tube.x, tube.y, tube.depth, tube.width]))
        assert np.all(tube.y - tube.width / 2 > -8) and np.all(tube.y + tube.width / 2 < Frame().height + 8)
    ElementTree.fromstring(yarn_svg(made, dress(made.node), None, False, kind))


def test_strands_of_a_cable_lie_as_long_in_the_picture_as_they_are_computed():
    """Arc length of the drawn centre-lines over the yarn's, against the metres of single per metre of cable."""
    made = make(EVERY_KIND["cable"])
    expected = read(EVERY_KIND["cable"], Finish(), variants=64).levels[-1].metres_per_metre
    for tube in strands_of(made, dress(made.node), Frame(), scale_for(made, Frame())):
        path = np.stack([tube.x, tube.y, tube.depth])[:, tube.x > 460]
        length = np.linalg.norm(np.diff(path, axis=1), axis=0).sum() / np.ptp(path[0])
        assert length == pytest.approx(expected, rel=0.03)


def worn(strand: Dress) -> Dress:
    return Dress(WHOLE, members=((strand,) * 3,))


def test_colours_run_along_the_strand_as_long_as_they_are_given():
    """So much single as spun is now longer by what plying gave back, and shorter in the yarn by what it winds."""
    inner = read(S_YARN.node, Finish(), variants=64).levels[1]
    striped = Dress(WHOLE.strand(0), ("#ff0000", "#0000ff"), 10.0)
    tube = strands_of(S_YARN, worn(striped), Frame(), 20.0)[0]
    changes = tube.x[np.flatnonzero(np.diff(tube.tint))]
    laid = changes[changes > 500] / 20.0
    assert len(laid) >= 3
    assert np.diff(laid) == pytest.approx(10.0 * float(inner.now.length) / inner.metres_per_metre, abs=0.35)


def test_a_chain_shows_each_colour_on_the_leg_that_holds_it():
    """The handbook's map of legs: 3iℓ + x, 3iℓ + 2ℓ − x, 3iℓ + 2ℓ + x; together they use every place just once."""
    loop = 40.0
    within = np.linspace(0, 6 * loop, 24_001)[:-1]
    legs = np.sort(np.concatenate(kinds.legs_at(within, loop)))
    assert np.max(np.diff(legs)) < 0.03 and legs[0] == 0 and legs[-1] == pytest.approx(18 * loop, abs=0.02)
    for place in (7.0, 55.0, 110.0, 163.0, 250.0):
        beside = kinds.legs_at(np.asarray(kinds.chain_position(place, loop)), loop)
        assert min(abs(float(leg) - place) for leg in beside) < 1e-9
    made = make(Chain(single(), 30.0, Turns(-150.0)))
    tubes = strands_of(
        made, Dress(WHOLE, members=((Dress(WHOLE.inner("strand"), ("#ff0000", "#0000ff"), 200.0),),)), Frame(), 60
    )
    shown = [set(tube.tint[tube.x > 500].tolist()) for tube in tubes[:3]]
    assert shown == [{0, 1}, {1}, {1}]


def test_a_link_stands_where_the_chain_has_one_and_is_as_thick_as_five_legs():
    loop = 12.0
    made = make(Chain(single(), loop, Turns(-150.0)))
    bare = dress(made.node)
    extra = strands_of(made, bare, Frame(), 20.0)[3:]
    middles = sorted({float(np.mean(tube.x)) for tube in extra})
    apart = np.diff(middles) / 20.0
    assert len(middles) >= 2 and apart == pytest.approx(1000 / kinds.chain(made.state).links_per_m, rel=0.02)
    seat, r = made.state.seats[0], float(made.state.seats[0].state.diameter) / 2
    reach = max(np.hypot(tube.y - Frame().height / 2, tube.depth).max() for tube in extra) / 20.0 + r
    assert reach == pytest.approx((1 + 5 / np.pi) / (1 + 3 / np.pi) * (float(seat.radius) + r), rel=0.02)


@pytest.mark.parametrize("reach", REACHES)
def test_coming_closer_shows_less_yarn_and_arm_s_length_is_life_size(reach):
    scale = scale_for(S_YARN, Frame(), reach)
    assert scale / CSS_PX_PER_MM == pytest.approx(magnification(S_YARN, reach))
    closer = REACHES[REACHES.index(reach) + 1 :]
    assert all(scale_for(S_YARN, Frame(), each) > scale for each in closer)
    assert reach != "arm" or scale == pytest.approx(CSS_PX_PER_MM)
    ElementTree.fromstring(yarn_svg(S_YARN, dress(S_YARN.node), None, False, "yarn", reach, "yarn.0"))


def test_the_part_in_hand_is_outlined_and_every_strand_can_be_picked():
    cable = make(EVERY_KIND["cable"])
    drawn = yarn_svg(cable, dress(cable.node), None, False, "cable", held="yarn.0")
    root = ElementTree.fromstring(drawn)
    groups = [each for each in root.iter() if each.get("data-part")]
    assert {each.get("data-part") for each in groups} == {"yarn.0.0"}
    assert any(inner.get("class") == "held" for each in groups for inner in each)
    assert 'class="held"' not in yarn_svg(cable, dress(cable.node), None, False, "cable", held="yarn")


def test_strands_cut_across_touch_and_lie_round_the_axis():
    """Equal strands of a ply: centres on R, neighbours 2r apart but for the lean; an ellipse 1/cos β long."""
    drawn = cut_svg(S_YARN, dress(S_YARN.node), [CutAt("as plied", 1.0, "")], "cut")
    discs = [each for each in ElementTree.fromstring(drawn).iter() if each.get("transform")]
    matrices = np.array([[float(v) for v in each.get("transform")[7:-1].split()] for each in discs])
    seat = S_YARN.state.seats[0]
    middle = matrices[:, 4:].mean(axis=0)
    reach = np.linalg.norm(matrices[:, 4:] - middle, axis=1)
    r = float(discs[0].get("r")) / np.sqrt(1 / np.cos(float(seat.angle)))
    assert reach / r == pytest.approx(float(seat.radius) / (float(seat.state.diameter) / 2), rel=0.01)
    spread = [np.linalg.svd(each[:4].reshape(2, 2).T, compute_uv=False) for each in matrices]
    assert spread[0][0] / spread[0][1] == pytest.approx(1 / np.cos(float(seat.angle)), rel=1e-3)


@pytest.mark.parametrize("kind", EVERY_KIND)
def test_every_kind_is_cut_and_unrolled_within_its_frame(kind):
    reading = read(EVERY_KIND[kind], Finish(), variants=64)
    cut = cut_svg(reading.made, dress(reading.made.node), [CutAt("a", 1.0, "x"), CutAt("b", 1.2, "y")], "t", "yarn.0")
    flats = [Flat(level, level.path, level.path) for level in reading.levels]
    for drawn in (cut, unrolled_svg(flats, Display(), "t", "yarn")):
        root = ElementTree.fromstring(drawn)
        assert "NaN" not in drawn and "nan" not in drawn
        for each in root.iter():
            y = float(each.get("y", 0))
            assert 0 <= y <= 240 and 0 <= float(each.get("x", 0)) <= 1280


def test_unrolled_lines_lean_by_the_angle_and_a_turn_is_a_turn_long():
    level = read(S_YARN.node, Finish(), variants=64).levels[0]
    drawn = ElementTree.fromstring(unrolled_svg([Flat(level, "ply", "yarn")], Display(), "t"))
    lines = next(each for each in drawn.iter() if each.get("class") == "flat-line flat-s").get("d")
    strokes = [[float(v) for v in re.split("[ML ]", part)[1:] if v] for part in re.findall(r"M[^M]+", lines)]
    x0, y0, x1, y1 = strokes[5]
    assert y1 < y0  # S rises to the right
    assert np.arctan2(y0 - y1, x1 - x0) == pytest.approx(abs(float(level.angle)), abs=0.02)
    apart = (strokes[6][0] - x0) * 3  # three strands to a turn
    girth = y0 - y1
    assert girth / apart == pytest.approx(np.tan(abs(level.angle)), rel=0.05)


@pytest.mark.parametrize("turns", [-12.0, -0.1, 0.0, 3.3, 400.0, float("nan")])
def test_any_loop_can_be_drawn(turns):
    ElementTree.fromstring(loop_svg(turns, 1.5, COLOURS, "loop"))


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


@pytest.mark.parametrize("strands", [2, 3, 4, 5])
@pytest.mark.parametrize("turns", [-150.0, 150.0])
def test_strands_come_together_in_the_order_in_which_they_come_in(strands, turns):
    made = make(ply(single(turns=-1.5 * turns), strands, turns))
    tubes = strands_of(made, dress(made.node), Frame(), scale_for(made, Frame()))
    start = [tube.y[0] for tube in tubes]
    assert start == sorted(start)
    frame = Frame()
    middle = int(np.argmax(tubes[0].x >= (frame.join_from + frame.join_to) / 2))
    assert tubes[0].y[middle] == min(tube.y[middle] for tube in tubes)
    assert tubes[-1].y[middle] == max(tube.y[middle] for tube in tubes)


def test_plies_of_a_cable_bed_ridge_into_groove():
    """Turned against their neighbours they pass through each other less than they would turned alike."""
    made = make(EVERY_KIND["cable"])
    tubes = strands_of(made, dress(made.node), Frame(), scale_for(made, Frame()))
    paths = [np.stack([t.x, t.y, t.depth])[:, t.x > 500] for t in tubes]
    gaps = [
        np.linalg.norm(one[:, :, None] - other[:, None, :], axis=0).min()
        for place, one in enumerate(paths)
        for other in paths[place + 1 :]
    ]
    assert min(gaps) > 0.75 * float(tubes[0].width[-1])


def test_a_quiet_skein_hangs_open_and_a_lively_one_winds_as_its_loop_does():
    open_one = skein_svg(0.0, ["#aa8855"], False, "free", "skein")
    # Turning from the right towards the eye on the way down leans up to the right where it faces the eye: Z (ISO 2).
    for turns in (-8.0, -4.0, -0.5, 0.0, 0.5, 4.0, 8.0):
        strands, axis = skein_strands(turns, ["#aa8855"], False, "free")
        for strand in strands:
            around = np.unwrap(np.arctan2(strand.depth, strand.x - axis))
            assert (around[-1] - around[0]) / (2 * np.pi) == pytest.approx(SKEIN_TURN * turns, abs=1e-6)
    hung = {weight: skein_svg(0.0, ["#aa8855"], False, weight, "skein") for weight in ("free", "light", "heavy")}
    assert [picture.count('class="peg"') for picture in hung.values()] == [1, 2, 2]
    assert 'class="drip"' in skein_svg(0.0, ["#aa8855"], True, "free", "skein") and 'class="drip"' not in open_one


def test_a_measurement_lies_on_the_axis_where_its_value_says():
    band = Band(10.0, 12.0, 14.0)
    drawn = ElementTree.fromstring(axis_svg(band, [Measured(12.0, 0.5, "a"), Measured(16.0, 0.5, "b")], "wpi", "axis"))
    box = next(each for each in drawn.iter("rect"))
    left, right = float(box.get("x")), float(box.get("x")) + float(box.get("width"))
    inside, outside = (float(dot.get("cx")) for dot in drawn.iter("circle"))
    assert left < inside < right < outside < 600
    assert (inside - left) / (right - left) == pytest.approx(0.5, abs=0.01)
    assert (outside - left) / (right - left) == pytest.approx(1.5, abs=0.01)


def test_a_yarn_grows_in_its_picture_by_as_much_as_it_blooms():
    drawn = ElementTree.fromstring(growth_svg(2.0, 1.2, 1.1, 1.3, 10.0, "growth"))
    assert [float(each.get("r")) for each in drawn.iter("circle")] == pytest.approx([13, 12, 11, 10])
