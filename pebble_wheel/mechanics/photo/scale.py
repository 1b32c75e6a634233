"""How many pixels a millimetre has: by the ticks of a ruler, or by a printed black square."""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from pebble_wheel.mechanics.arrays import FloatArray

SQUARE = 10.0
"""mm: side of the square that is printed on the card."""

DARK, INK = 90.0, 60.0
"""Grey of 255 below which a square is black, and contrast that ticks have at least."""

BAND, LEAST_PERIOD, MOST_PERIOD = 6, 4.0, 120.0
"""Rows of pixels that are looked at together, and the pixels between two ticks."""

FEWEST_TICKS, UNEVEN = 7, 0.08
"""Ticks of a ruler, and how far they may lie off, be missing or stand closer, as a share, at the most."""

LEAST_SIDE = 50.0
"""Pixels of a square's side."""

PERIODIC, LIKE_SQUARE = 0.55, 0.93
"""Correlation of ticks with the next ones, and share of its box that a square fills, at least."""


@dataclass(frozen=True)
class Scale:
    """A scale found in a picture."""

    px_per_mm: float
    by: str
    """``ruler`` or ``square``."""
    ends: tuple[tuple[float, float], tuple[float, float]]
    """Two points in the picture [pixels]."""
    apart: float
    """mm between them."""


def scale_in(grey: FloatArray) -> Scale | None:
    """Return the scale of a picture by what lies in it; None where nothing does.

    Args:
        grey: 0 to 255, shape (rows, columns).
    """
    return _square(grey) or _ruler(grey)


def _square(grey: FloatArray) -> Scale | None:
    high, wide = grey.shape
    labels, _ = ndimage.label(ndimage.gaussian_filter(grey, 1.0) < DARK)
    best: Scale | None = None
    for number, box in enumerate(ndimage.find_objects(labels), 1):
        rows, columns = box[0].stop - box[0].start, box[1].stop - box[1].start
        whole = min(rows, columns)
        if whole < LEAST_SIDE or max(rows, columns) > 1.12 * whole or whole > 0.8 * high:
            continue
        if box[0].start < 2 or box[1].start < 2 or box[0].stop > high - 2 or box[1].stop > wide - 2:
            continue
        own = labels[box] == number
        if own.mean() < LIKE_SQUARE**2:
            continue
        pad = max(int(0.12 * whole), 3)
        around = grey[max(box[0].start - pad, 0) : box[0].stop + pad, max(box[1].start - pad, 0) : box[1].stop + pad]
        black, white = float(np.median(grey[box][own])), float(np.percentile(around, 95))
        area = float(np.clip((white - around) / max(white - black, 1.0), 0, 1).sum())
        side = np.sqrt(area)
        if white - black < INK or abs(side / whole - 1) > 0.12:
            continue
        left, top = float(box[1].start), float(box[0].start)
        found = Scale(side / SQUARE, "square", ((left, top), (left + side, top)), SQUARE)
        best = found if best is None or found.px_per_mm > best.px_per_mm else best
    return best


def _ruler(grey: FloatArray) -> Scale | None:
    """Return the finest comb of ticks that any band of rows has, where its ticks lie evenly."""
    found: list[tuple[float, int]] = []
    for top in range(0, grey.shape[0] - BAND, BAND):
        line = grey[top : top + BAND].mean(axis=0)
        if np.percentile(line, 97) - np.percentile(line, 3) < INK:
            continue
        period = _period(line - ndimage.gaussian_filter1d(line, MOST_PERIOD / 2))
        if period:
            found.append((period, top))
    told = (_by_ticks(grey, period, top) for period, top in sorted(found))
    return next((each for each in told if each), None)


def _by_ticks(grey: FloatArray, rough: float, top: int) -> Scale | None:
    """Return the scale by the ticks in a band of rows; None where they are too few or uneven."""
    ticks = _ticks(grey[top : top + BAND].mean(axis=0), rough)
    if len(ticks) < FEWEST_TICKS:
        return None
    count = np.round((ticks - ticks[0]) / rough)
    (period, begin), left, *_ = np.polyfit(count, ticks, 1, full=True)
    off = np.sqrt(float(left.sum()) / len(ticks)) / period
    missed = 1 - len(np.unique(count)) / (count[-1] + 1)
    if off > UNEVEN or missed > UNEVEN or abs(period / rough - 1) > UNEVEN:
        return None
    row = top + BAND / 2
    ends = ((float(begin), row), (float(begin + period * count[-1]), row))
    return Scale(float(period), "ruler", ends, float(count[-1]))


def _period(line: FloatArray) -> float | None:
    """Return the shortest length after which a line comes again."""
    own = np.fft.irfft(np.abs(np.fft.rfft(line, 2 * len(line))) ** 2)[: int(MOST_PERIOD * 2.2)]
    own = own / own[0] * len(line) / (len(line) - np.arange(len(own)))
    peaks = np.flatnonzero((own[1:-1] > own[:-2]) & (own[1:-1] >= own[2:]) & (own[1:-1] > PERIODIC)) + 1
    peaks = peaks[(peaks >= LEAST_PERIOD) & (peaks <= MOST_PERIOD)]
    if not peaks.size:
        return None
    first = int(peaks[0])
    a, b, c = own[first - 1 : first + 2]
    return float(first + 0.5 * (a - c) / (a - 2 * b + c))


def _ticks(line: FloatArray, period: float) -> FloatArray:
    """Return the places of dark ticks along a line, to a part of a pixel."""
    smooth = ndimage.gaussian_filter1d(line, max(period * 0.06, 0.7))
    low, high = np.percentile(smooth, [2, 90])
    places = np.flatnonzero(
        (smooth[1:-1] < smooth[:-2]) & (smooth[1:-1] <= smooth[2:]) & (smooth[1:-1] < (low + high) / 2)
    )
    found = []
    for each in places + 1:
        a, b, c = smooth[each - 1 : each + 2]
        found.append(each + (0.5 * (a - c) / (a - 2 * b + c) if a - 2 * b + c else 0.0))
    return np.array(found)
