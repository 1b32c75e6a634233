"""Colours as pictures: strips, skeins and cloth, point by point."""

import base64
import io
import re

import numpy as np
import pytest
from PIL import Image

from pebble_wheel.drawing.colour import ARCS, ROUNDS, cloth_svg, strip_svg, wound_svg


def points_of(svg):
    """The picture in an SVG, as red, green, blue and how clear it is, shape (rows, points, 4)."""
    data = base64.b64decode(re.search(r"data:image/png;base64,([^\"]+)", svg)[1])
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGBA"))


def test_a_strip_lays_strands_as_wide_as_they_show_line_under_line():
    """Red shows a third and green two thirds of it, then half and half; eight lines with clear ground between them."""
    red, green = (200, 0, 0), (0, 180, 0)
    colours = np.array([[red] * 16, [green] * 16], dtype=np.uint8)
    shares = np.array([[1 / 3] * 8 + [0.5] * 8, [2 / 3] * 8 + [0.5] * 8])
    points = points_of(strip_svg(colours, shares, -1, "strip"))
    assert points.shape == (8 * 17 + 7 * 6, 2, 4)
    lines = points[:17], points[7 * 23 : 7 * 23 + 17]
    reds = [(line[:, 0, :3] == red).all(axis=1).sum() for line in lines]
    assert reds == [pytest.approx(17 / 3, abs=1), pytest.approx(17 / 2, abs=1)]
    assert (points[17:23, :, 3] == 0).all() and (lines[0][..., 3] == 255).all()


def test_a_skein_has_every_piece_of_the_yarn_and_is_clear_inside():
    """Blue for its first half, yellow for the second: rounds outside are blue, those inside yellow, and a hole."""
    half = ROUNDS * ARCS // 2
    colours = np.array([[20, 40, 200]] * half + [[230, 210, 20]] * half, dtype=np.uint8)
    points = points_of(wound_svg(colours, "skein"))
    middle = points[:, points.shape[1] // 2]
    drawn = middle[middle[:, 3] > 0]
    assert (drawn[0, 2] > 150) and (drawn[len(drawn) // 2 - 1, 0] > 150) and (middle[len(middle) // 2, 3] == 0)
    opaque = points[points[..., 3] > 0]
    assert 0.5 < (opaque[:, 2] > 150).sum() / (opaque[:, 0] > 150).sum() < 2


def test_cloth_shows_the_place_of_the_yarn_that_lies_in_each_stitch():
    """Two rows of two stitches, of two strands at three places; the first row lies at the foot."""
    tones = np.arange(18, dtype=np.uint8).reshape(2, 3, 3) * 12
    shown = np.array([[[0, 3], [1, 4]], [[2, 5], [0, 3]]])
    points = points_of(cloth_svg(tones, shown, 4.0, 3.0, False, "cloth"))[..., :3]
    expected = tones.reshape(-1, 3)[[[2, 5, 0, 3], [0, 3, 1, 4]]]
    assert np.abs(points.astype(int) - expected).max() <= 8
