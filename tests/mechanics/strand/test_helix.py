"""Helical contact, width and writhe against published geometry."""

import numpy as np
import pytest
from scipy.spatial import ConvexHull

from pebble_wheel.mechanics.strand.helix import apparent_width, contact_ratio_exact, lay


@pytest.mark.parametrize(("strands", "crosswise"), [(2, 39.4), (3, 42.8), (4, 43.8)])
def test_turns_per_strand_length_peak_where_laid_rope_is_known_to_lock(strands, crosswise):
    # Olsen & Bohr, zero-twist helices and laid rope, 2010-2011 (from memory); pitch angle from crosswise.
    assert 90 - np.degrees(lay(strands).peak_angle) == pytest.approx(crosswise, abs=0.06)


@pytest.mark.parametrize(("angle", "low_by"), [(10, 0.000), (25, 0.004), (40, 0.04)])
def test_three_strand_contact_departs_from_costello_as_known(angle, low_by):
    # Costello, Theory of Wire Rope (from memory): equal at 10°, 0.4 % low at 25°, 4 % low at 40°.
    exact = float(lay(3).ratio_at(np.radians(angle)))
    costello = np.sqrt(1 + np.tan(np.pi / 2 - np.pi / 3) ** 2 / np.cos(np.radians(angle)) ** 2)
    assert costello / exact == pytest.approx(1 - low_by, abs=0.003)


@pytest.mark.parametrize("strands", [2, 3, 4, 5])
@pytest.mark.parametrize("angle", [8, 20, 33, 44])
def test_strands_at_the_contact_radius_just_touch(strands, angle):
    """The least distance between two neighbouring centre-lines, found by brute force in space, is one diameter."""
    radius = float(lay(strands).ratio_at(np.radians(angle)))
    pitch = 2 * np.pi * radius / np.tan(np.radians(angle))
    turn = np.linspace(-np.pi, np.pi, 20_001)
    neighbour = turn + 2 * np.pi / strands
    points = np.stack([radius * np.cos(neighbour), radius * np.sin(neighbour), pitch * turn / (2 * np.pi)])
    assert np.min(np.linalg.norm(points - np.array([[radius], [0], [0]]), axis=0)) == pytest.approx(2, rel=2e-4)


def test_two_strands_touch_on_the_axis_until_45_degrees():
    assert lay(2).ratio_at(np.radians([5.0, 25.0, 44.0])) == pytest.approx(1, abs=1e-6)
    assert lay(2).ratio_at(np.radians(55.0)) > 1.02


def test_the_table_agrees_with_the_solution_it_was_made_from():
    angle = np.radians(np.linspace(1, 60, 173))
    for strands in (3, 4, 5):
        assert lay(strands).ratio_at(angle) == pytest.approx(contact_ratio_exact(strands, angle), rel=1e-5)


@pytest.mark.parametrize("strands", [2, 3, 4, 5])
def test_apparent_width_is_the_mean_width_of_the_hull(strands):
    # Cauchy's mean-width theorem: perimeter over π, of a numerical convex hull.
    around = np.linspace(0, 2 * np.pi, 1500)
    centre = 2 * np.pi * np.arange(strands)[:, None] / strands
    radius = 0.5 / np.sin(np.pi / strands)
    x = (radius * np.cos(centre) + 0.5 * np.cos(around)).ravel()
    y = (radius * np.sin(centre) + 0.5 * np.sin(around)).ravel()
    perimeter = ConvexHull(np.column_stack([x, y])).area  # in the plane, "area" is the perimeter
    assert apparent_width(strands) == pytest.approx(perimeter / np.pi, rel=1e-4)


@pytest.mark.parametrize("angle", [15, 30, 50])
def test_a_turn_of_a_helix_writhes_by_one_less_the_cosine(angle):
    """So of N turns put into a ply, N cos β twist each strand: what the settled state passes down."""

    # Călugăreanu-White; the double integral of a long open helix, ends trimmed by taking a difference of lengths.
    def gauss(turns: int) -> float:
        s = (np.arange(turns * 60) + 0.5) / 60 * 2 * np.pi
        rise = 1 / np.tan(np.radians(angle))
        path = np.stack([np.cos(s), np.sin(s), rise * s], axis=1)
        along = np.stack([-np.sin(s), np.cos(s), np.full_like(s, rise)], axis=1) * (s[1] - s[0])
        apart = path[:, None] - path[None]
        far = np.linalg.norm(apart, axis=2)
        np.fill_diagonal(far, np.inf)
        return float(np.sum(np.sum(np.cross(along[:, None], along[None]) * apart, axis=2) / far**3)) / (4 * np.pi)

    per_turn = (gauss(16) - gauss(8)) / 8
    assert per_turn == pytest.approx(1 - np.cos(np.radians(angle)), abs=0.015)


def test_a_ring_wants_two_strands():
    with pytest.raises(ValueError, match="two strands"):
        lay(1)
