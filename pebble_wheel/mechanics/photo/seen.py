"""Where a yarn lies in a picture, and the strip of it laid straight.

The ground is a smooth surface of colours; what differs from it along a line, with ground on both sides, is the yarn.
"""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.colour.oklab import oklab

SMALL = 320
"""Pixels across the picture in which a yarn is looked for."""

STEEPEST, STEP, FINE = 40.0, 2.0, 0.25
"""Degrees by which it may lie aslant, and steps in which that is tried."""

WIDTHS = (2, 3, 4, 6, 8, 11, 15, 20, 27)
"""Pixels of the small picture that a yarn may be wide."""

TRIMMED, ROUNDS = 2.5, 6
"""Deviations beyond which a point is not ground, and rounds in which that is found out."""

BESIDE = 2.4
"""Half of a strip's height, in the width of its yarn."""


@dataclass(frozen=True)
class Line:
    """A yarn found in a picture."""

    x: float
    """A point on it [pixels]."""
    y: float
    tilt: float
    """Radians; y points down."""
    wide: float
    """About how wide it is [pixels]."""
    contrast: float
    """Of what lies in it to what lies beside it, in deviations of the ground."""


def line_in(image: FloatArray) -> Line | None:
    """Return the line along which a yarn lies; None where nothing lies across the picture.

    Args:
        image: sRGB 0 to 255, shape (rows, columns, 3).
    """
    factor = max(image.shape[1] // SMALL, 1)
    high, wide = (each // factor for each in image.shape[:2])
    small = image[: high * factor, : wide * factor].reshape(high, factor, wide, factor, 3).mean(axis=(1, 3))
    off = _unlike_ground(oklab(small / 255))
    y, x = np.mgrid[:high, :wide]
    best: tuple[float, float, float, int, float] | None = None
    coarse = np.radians(np.arange(-STEEPEST, STEEPEST + 1e-9, STEP))
    for tilt in coarse:
        best = _better(best, off, x, y, float(tilt))
    if best is None:
        return None
    for tilt in best[1] + np.radians(np.arange(-STEP, STEP + 1e-9, FINE)):
        best = _better(best, off, x, y, float(tilt))
    assert best is not None
    _, tilt, offset, width, contrast = best
    px, py = (wide - 1) / 2, (high - 1) / 2
    at = offset * np.array([-np.sin(tilt), np.cos(tilt)]) + np.array([px, py])
    shift = factor / 2 - 0.5
    return Line(float(at[0]) * factor + shift, float(at[1]) * factor + shift, tilt, float(width * factor), contrast)


def _unlike_ground(lab: FloatArray) -> FloatArray:
    """Return how far every point is from the ground, in its deviations; the ground a surface of second order."""
    high, wide = lab.shape[:2]
    y, x = np.mgrid[-1 : 1 : high * 1j, -1 : 1 : wide * 1j]
    terms = np.stack([np.ones_like(x), x, y, x * y, x**2, y**2], axis=-1).reshape(-1, 6)
    points = lab.reshape(-1, 3)
    ground = np.ones(len(points), bool)
    off = np.zeros(len(points))
    for _ in range(ROUNDS):
        fitted, *_ = np.linalg.lstsq(terms[ground], points[ground], rcond=None)
        left = points - terms @ fitted
        spread = np.cov(left[ground].T) + 1e-5 * np.eye(3)
        off = np.sqrt(np.einsum("pi,ij,pj->p", left, np.linalg.inv(spread), left))
        middle = float(np.median(off[ground]))
        ground = off < TRIMMED * max(middle, 1e-9)
    return np.minimum(off, 12.0).reshape(high, wide)


def _better(
    best: tuple[float, float, float, int, float] | None, off: FloatArray, x: FloatArray, y: FloatArray, tilt: float
) -> tuple[float, float, float, int, float] | None:
    """Return the better of a line and the best one of a tilt: score, tilt, offset, width and contrast."""
    v = (y - (off.shape[0] - 1) / 2) * np.cos(tilt) - (x - (off.shape[1] - 1) / 2) * np.sin(tilt)
    place = np.rint(v).astype(int)
    least = int(place.min())
    count = np.bincount((place - least).ravel())
    profile = np.bincount((place - least).ravel(), off.ravel()) / np.maximum(count, 1)
    enough = count > 0.55 * off.shape[1]
    summed = np.concatenate([[0.0], np.cumsum(profile)])
    for width in WIDTHS:
        side = max(width // 2 + 1, 2)
        gap = max(width // 4, 1)
        first = np.arange(side + gap, len(profile) - width - side - gap)
        if not first.size:
            continue
        own = (summed[first + width] - summed[first]) / width
        before = (summed[first - gap] - summed[first - gap - side]) / side
        after = (summed[first + width + gap + side] - summed[first + width + gap]) / side
        whole = enough[first - gap - side] & enough[first + width + gap + side - 1]
        contrast = np.where(whole, own - np.maximum(before, after), -np.inf)
        score = contrast * width**0.25
        at = int(np.argmax(score))
        if np.isfinite(score[at]) and (best is None or score[at] > best[0]):
            best = (float(score[at]), tilt, float(first[at] + (width - 1) / 2 + least), width, float(contrast[at]))
    return best


def strip_of(image: FloatArray, line: Line) -> FloatArray:
    """Return the picture along a line laid straight, shape (rows, columns, 3); the yarn in its middle row."""
    cos, sin = np.cos(line.tilt), np.sin(line.tilt)
    wide = image.shape[1]
    half = int(np.ceil(BESIDE * line.wide)) + 6
    begin, end = _within(line, wide, half)
    u = np.arange(np.ceil(begin), np.floor(end))
    v = np.arange(-half, half + 1.0)
    x = line.x + u[None] * cos - v[:, None] * sin
    y = line.y + u[None] * sin + v[:, None] * cos
    return sampled(image, y, x)


def sampled(image: FloatArray, y: FloatArray, x: FloatArray) -> FloatArray:
    """Return a picture at places between its pixels, of their shape and its channels."""
    own = [ndimage.map_coordinates(image[..., each], [y, x], order=1, mode="nearest") for each in range(image.shape[2])]
    return np.stack(own, axis=-1)


def _within(line: Line, wide: int, half: int) -> tuple[float, float]:
    """Return from where to where along a line all of its strip lies in the picture."""
    cos, sin = np.cos(line.tilt), np.sin(line.tilt)
    room = half * abs(sin)
    return (-line.x + room) / cos + 1, (wide - 1 - line.x - room) / cos - 1
