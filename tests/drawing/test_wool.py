"""The strands that a browser is given: what the mechanics has, small, and the same every time."""

import zlib

import numpy as np
import pytest

from pebble_wheel.drawing.look import look_of, lustre
from pebble_wheel.drawing.svg import CSS_PX_PER_MM
from pebble_wheel.drawing.wool import UNEVEN, _uneven, packed, packed_swatch
from pebble_wheel.drawing.yarn import WIDE, scale_for, strands_of
from pebble_wheel.mechanics.fibre.blend import blend
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.finish.knit import before_and_after
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import Bought, Turns
from pebble_wheel.mechanics.wash.bloom import Finish, growth, shrinkage
from tests.browser.wool import strands_in
from tests.mechanics.strand.test_kinds import EVERY_KIND
from tests.yarns import dress, ply, single

THREE = make(ply(single(), 3, -150.0))
CABLE = make(ply(ply(ply(single(50.0, 320.0), 2, -500.0), 3, 250.0), 4, -80.0))


@pytest.mark.parametrize("kind", EVERY_KIND)
@pytest.mark.parametrize("span", ["near", "far"])
def test_every_kind_is_told_as_it_lies(kind, span):
    made = make(EVERY_KIND[kind])
    head = strands_in(packed(made, dress(made.node), Finish(), span))
    farthest = min(head["table"], CSS_PX_PER_MM) if span == "far" else head["table"]
    assert max(strand["x"].max() for strand in head["strands"]) >= WIDE.width / farthest
    for strand in head["strands"]:
        path = np.stack([strand[each] for each in "xyz"])
        assert np.all(np.isfinite(path)) and np.all(strand["r"] > 0)
        assert len(path[0]) < 20 or np.linalg.norm(np.diff(path, axis=1), axis=0).max() < 0.35 * np.linalg.norm(
            path[:, -1] - path[:, 0]
        )
        assert np.abs(strand["lean"]).max() < np.pi / 2


def test_paths_are_those_of_the_painted_picture_from_the_other_side_of_the_page():
    """The painting measures y down from the top, the strands y up from the axis."""
    scale = scale_for(THREE, WIDE)
    painted = strands_of(THREE, dress(THREE.node), WIDE, scale)
    told = strands_in(packed(THREE, dress(THREE.node), Finish()))["strands"]
    for tube, strand in zip(painted, told, strict=True):
        inside = (strand["x"] > 1) & (strand["x"] < WIDE.width / scale - 1)
        for own, other in (((WIDE.height / 2 - tube.y), strand["y"]), (tube.depth, strand["z"])):
            there = np.interp(strand["x"][inside], tube.x / scale, own / scale)
            assert np.abs(there - other[inside]).max() < 0.04


def test_what_washing_does_is_told_strand_by_strand():
    head = strands_in(packed(THREE, dress(THREE.node), Finish(wash="thwack")))
    (kind,) = head["kinds"]
    assert kind["grown"] == pytest.approx(float(growth(THREE.state, Finish(wash="thwack"))))
    assert head["shorter"] == pytest.approx(float(shrinkage(THREE.state, Finish(wash="thwack"))))
    assert strands_in(packed(THREE, dress(THREE.node), Finish(wash="none")))["kinds"][0]["grown"] == 1.0


def test_it_is_small_and_the_same_every_time():
    for made, most in ((THREE, 20_000), (CABLE, 40_000)):
        data = packed(made, dress(made.node), Finish())
        assert data == packed(made, dress(made.node), Finish())
        assert len(zlib.compress(data, 1)) < most
    assert len(strands_in(packed(CABLE, dress(CABLE.node), Finish()))["strands"]) == 24


def test_a_swatch_is_a_row_of_the_yarn_itself():
    before, after = before_and_after(12.0, 1.8, 1.15)
    head = strands_in(packed_swatch(THREE, dress(THREE.node), Finish(), before))
    assert head["rows"]["apart"] == pytest.approx(before.course)
    middle = np.mean([strand["x"] for strand in head["strands"]], axis=0)
    assert np.ptp(middle) == pytest.approx(12 * before.wale, rel=0.02)
    away = np.linalg.norm(
        [head["strands"][0][each] - np.mean([strand[each] for strand in head["strands"]], axis=0) for each in "xyz"],
        axis=0,
    )
    assert np.median(away) == pytest.approx(float(THREE.state.seats[0].radius), rel=0.03)
    assert strands_in(packed_swatch(THREE, dress(THREE.node), Finish(), after))["rows"]["wale"] > before.wale


def test_looks_follow_the_fibre_its_preparation_and_a_thread_s_surface():
    """What shines most is silk, and among wools the long ones (common practice, no source)."""
    shine = {name: lustre(FIBRES[name]) for name in ("silk", "mohair", "wensleydale", "corriedale", "merino")}
    assert list(shine.values()) == sorted(shine.values(), reverse=True)
    half = lustre(blend("half and half", [(FIBRES["silk"], 1.0), (FIBRES["merino"], 1.0)]))
    assert half == pytest.approx((shine["silk"] + shine["merino"]) / 2)
    thread = {
        nature: look_of(make(Bought(60.0, 0.4, Turns(-300.0), nature)).state)
        for nature in ("smooth", "hairy", "looped")
    }
    assert [(each.hairs, each.looped) for each in thread.values()] == [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0)]
    assert look_of(make(single()).state).micron == FIBRES["corriedale"].mid_micron


def test_strands_are_as_uneven_as_said_each_in_its_own_way():
    places = np.linspace(0, 1000, 20_000)
    strands = _uneven(places, "yarn", 24)
    assert np.std(strands, axis=1) == pytest.approx(np.full(24, UNEVEN), rel=0.05)
    assert np.abs(np.corrcoef(strands) - np.eye(24)).max() < 0.999
    assert strands[:3] == pytest.approx(_uneven(places, "yarn", 24)[:3])
