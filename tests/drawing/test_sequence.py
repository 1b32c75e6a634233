"""Sections end to end in a drawing: as wide, as long and as they lean where they lie, and strands that go over."""

import numpy as np
import pytest

from pebble_wheel.drawing.sequence import tubes_of
from pebble_wheel.drawing.texture import Patch, patch_svg
from pebble_wheel.drawing.yarn import thickness
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.texture import Row, Texture, read_texture
from pebble_wheel.web.shared.laid import window_on
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.gestures import STARTS, sections_of, started
from tests.workshop.test_sequence import GESTURES, MANE

EVALUATOR, PLAIN = Evaluator(), Settings()


def textured(*rows, ends=300.0, times=6):
    texture = Texture(ends, ends, times, tuple(Row(*each) for each in rows))
    return MANE.model_copy(update={"version": 2, "sections": sections_of(texture, MANE)})


def outline(tubes, low, high):
    """The highest and the lowest that is drawn between two places."""
    edges = []
    for tube in tubes:
        here = (tube.x > low) & (tube.x < high)
        if here.any():
            edges += [(tube.y + tube.width / 2)[here].max(), (tube.y - tube.width / 2)[here].min()]
    return max(edges) - min(edges)


@pytest.mark.parametrize("name", STARTS)
def test_every_start_is_drawn_as_thick_as_its_sections_are(name):
    """Whatever hangs off apart: in the middle of every section the strands fill its thickest view."""
    texture = read_texture(started(name, PLAIN), GESTURES, PLAIN)
    design = MANE.model_copy(update={"version": 2, "sections": sections_of(texture, MANE)})
    window = window_on(design, EVALUATOR, 700.0, 1500.0)
    tubes = [each for each in tubes_of(window.laid, 1.0, 0.85) if len(each.x) > 20]
    for place, laid in enumerate(window.laid):
        span = laid.ends - laid.begins
        low, high = laid.begins + 0.4 * span, laid.begins + 0.6 * span
        if span < 8 * thickness(laid.made) or high < 0 or high > window.wide:
            continue
        assert outline(tubes, low, high) == pytest.approx(thickness(laid.made), rel=0.06), (name, place)


def test_sections_lie_where_they_are_told_and_strands_meet_where_they_end():
    design = textured(("plain", 100.0, None), ("coils", 60.0, 3.0))
    window = window_on(design, EVALUATOR, 400.0, 300.0)
    assert window.begins == 250.0 and [round(each.ends - each.begins) for each in window.laid][:3] == [400, 60, 100]
    laid = window.laid[:2]
    tubes = tubes_of(laid, 1.0, 4.0)
    at = laid[0].ends
    meets = [
        (each.x[end], each.y[end], each.depth[end]) for each in tubes for end in (0, -1) if abs(each.x[end] - at) < 1e-6
    ]
    assert len(meets) == 4 and len({tuple(np.round(each, 6)) for each in meets}) == 2
    wound = [each for each in tubes if each.x[0] >= at - 1e-6]
    coil = max(wound, key=lambda each: float(np.ptp(each.y)))
    crossings = np.count_nonzero(np.diff(np.sign(coil.y[(coil.x > at + 15) & (coil.x < at + 45)])) > 0)
    turns = abs(float(laid[1].made.state.twist_now)) / 1000 * 30
    assert crossings == pytest.approx(turns, abs=1.1)
    assert np.ptp(coil.y) / 2 == pytest.approx(kinds.wrapped(laid[1].made.state).coil_radius, rel=0.02)


def test_a_window_shows_the_same_yarn_wherever_it_begins():
    """Moved by 7 mm, all that is drawn of one section moves by 7 mm."""
    design = textured(("plain", 100.0, None), ("coils", 60.0, 3.0))
    one, other = (window_on(design, EVALUATOR, at, 40.0) for at in (500.0, 507.0))
    drawn = [tubes_of([each.laid[len(each.laid) // 2]], 1.0, 30.0) for each in (one, other)]
    for a, b in zip(*drawn, strict=True):
        x = np.linspace(10, 30, 50)
        assert np.interp(x, a.x, a.y) == pytest.approx(np.interp(x - 7, b.x, b.y), abs=0.02)


def test_a_core_shows_between_the_strips_of_a_wrap_with_gaps():
    """Core and strips, all along; the strips are as thick as the wrap stands on the core."""
    window = window_on(textured(("looped", 200.0, 2.5), times=1, ends=None), EVALUATOR, 100.0, 100.0)
    (laid,) = window.laid
    tubes = tubes_of([laid], 1.0, 20.0)
    core = float(laid.made.members[0].state.diameter)
    straight = [each for each in tubes if np.ptp(each.y) < 1e-9]
    strips = [each for each in tubes if np.ptp(each.y) > core / 2]
    assert len(straight) == 1 and strips and len(straight[0].x) == len(strips[0].x)
    assert straight[0].width[0] == pytest.approx(core)


def test_locks_hang_off_the_same_places_wherever_one_looks():
    design = textured(("locks", 200.0, 10.0), times=1, ends=None)
    found = []
    for at in (80.0, 90.0):
        (laid,) = window_on(design, EVALUATOR, at, 60.0).laid
        begins = window_on(design, EVALUATOR, at, 60.0).begins
        found.append({round(each.x[0] + begins, 1) for each in tubes_of([laid], 1.0, 20.0) if len(each.x) < 20})
    both = found[0] & found[1]
    assert len(both) >= 5 and len(found[0]) <= 14


def test_cloth_shows_each_stitch_as_thick_as_what_lies_in_it():
    svg = patch_svg(np.array([[0, 1], [-1, 0]]), [1.0, 2.5], ["#aa0000", "#00aa00"], Patch(4.0, 3.0, True), "cloth")
    assert 'viewBox="0 0 8.00 6.00"' in svg
    assert (
        svg.count("M0.00 4.50h4.00") == 2 and svg.count("M4.00 4.50h4.00") == 2 and svg.count("M2.00 3.00v-3.00") == 2
    )
    assert 'stroke-width="2.500"' in svg and 'stroke-width="1.000"' in svg
