"""Widths, turns and lean of a yarn in a picture, as far as they can be told.

Edges lie where the picture goes over from ground to yarn, in logarithms, in which shadow and shading add up. Turns are
the shear of the pattern of strands on the yarn unrolled: rows round it see the same pattern shifted along by their
angle, one way for S and the other for Z.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy import ndimage

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.photo.geometry import centre_angle, centre_radius, envelope_over_silhouette, turns_of_fibre
from pebble_wheel.mechanics.photo.seen import Line, line_in, strip_of

Refusal = Literal["no-yarn", "too-small", "low-contrast", "halo", "either-way", "halves-differ", "no-lean"]
"""Why something cannot be told."""

LEAST_WIDE, LEAST_STRAND, LEAST_CONTRAST = 10.0, 5.0, 2.0
"""Pixels across a yarn and a strand, and contrast in deviations of the ground, at the least."""

EDGE_DARK, EDGE_LIGHT = 0.55, 0.35
"""Share of the step from ground to yarn at which its edge is set: of a yarn darker than its ground, and lighter."""

MOVES, MOVED_PX, RAGGED = 0.12, 2.0, 0.2
"""By how much a width may change between edges set low and high, as a share and in pixels besides, and how much it may
vary along the yarn; beyond, a halo hides the edge."""

EITHER, DIFFER = 1.25, 0.09
"""Times that the better way of turning must be the likelier, and share by which both halves may differ."""

SHALLOWEST, STEEPEST = np.radians(6.0), np.radians(57.0)
"""Angles of centre-lines between which turns are looked for."""

UNLIKE, AGAIN = 1.0, 0.6
"""What patterns count that come once a turn, as strands of unlike colours make them, and twice for every strand."""

ROUND, ROWS = np.radians(62.0), 41
"""How far round the yarn it is looked at, and in how many rows."""

LEAN, LEAST_LEAN, LEANS_DIFFER = 0.55, 18.0, 0.2
"""Coherence of a single's fibres and pixels across it at the least, and share by which its halves may differ."""


@dataclass(frozen=True)
class Widths:
    """A yarn's edges."""

    apparent: float
    """Mean width of its silhouette [pixels]."""
    enveloping: float
    top: FloatArray
    """Edges from the middle row of the strip [pixels], along it."""
    foot: FloatArray
    uneven: float
    """Standard deviation of its width along it, over a turn or so, as a share."""


@dataclass(frozen=True)
class Turns:
    """A yarn's turns."""

    per_px: float
    """Signed, Z above zero."""
    surer: float
    """Times that this way of turning is the likelier."""


@dataclass(frozen=True)
class Measured:
    """What a picture tells of a yarn, and why it does not tell more."""

    line: Line | None
    widths: Widths | None
    turns: Turns | None
    refused: tuple[Refusal, ...]

    def angle(self, strands: int) -> float | None:
        """Return the angle of the strands' centre-lines, or of a single's fibres [radians, signed]."""
        if self.turns is None or self.widths is None:
            return None
        if strands == 1:
            return float(np.arctan(np.pi * self.widths.apparent * self.turns.per_px))
        return float(centre_angle(1000 * self.turns.per_px, self.widths.enveloping, strands))


def measure(image: FloatArray, strands: int, line: Line | None = None) -> Measured:
    """Return what can be told of a yarn in a picture.

    Args:
        image: sRGB 0 to 255, shape (rows, columns, 3).
        strands: of its last step; 1 of a single.
        line: along which it lies, where somebody drew that.
    """
    found = line or line_in(image)
    if found is None:
        return Measured(None, None, None, ("no-yarn",))
    if found.contrast < LEAST_CONTRAST:
        return Measured(found, None, None, ("low-contrast",))
    strip = _clear(strip_of(image, found))
    refused: list[Refusal] = []
    widths, why = _widths(strip, strands)
    if why:
        refused.append(why)
    if widths is None:
        return Measured(found, None, None, tuple(refused))
    turns, why = _turns(strip, widths, strands)
    if why:
        refused.append(why)
    return Measured(found, None if "halo" in refused else widths, turns, tuple(refused))


def _clear(strip: FloatArray) -> FloatArray:
    """Return the longest stretch of a strip in which nothing but ground lies beside the yarn."""
    logs = _logs(strip)
    rim = max(len(logs) // 5, 3)
    clear = np.ones(logs.shape[1], bool)
    for side in (logs[:rim], logs[-rim:]):
        own = ndimage.gaussian_filter1d(side.mean(axis=0), 3, axis=0)
        typical = np.median(own, axis=0)
        far = np.abs(own - typical).max(axis=1)
        uneven = side.std(axis=0).max(axis=1)
        clear &= (far < OTHER) & (uneven < OTHER + 3 * np.median(uneven))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], clear.astype(int), [0]])))
    if not edges.size:
        return strip
    begins, ends = edges[::2], edges[1::2]
    longest = int(np.argmax(ends - begins))
    begin, end = int(begins[longest]), int(ends[longest])
    return strip[:, begin:end] if end - begin > LEAST_CLEAR * strip.shape[1] else strip


OTHER, LEAST_CLEAR = 22.0, 0.3
"""Of the logarithms, from which on what lies beside a yarn is something else, and share of a strip that is clear."""


def _logs(strip: FloatArray) -> FloatArray:
    return np.asarray(100 * np.log((strip + 12) / 267))


def _widths(strip: FloatArray, strands: int) -> tuple[Widths | None, Refusal | None]:
    logs = ndimage.gaussian_filter(_logs(strip), (0.6, 1.0, 0))
    high, long = logs.shape[:2]
    half = high // 2
    rim = max(high // 8, 3)
    ground = np.concatenate([logs[:rim], logs[-rim:]]).reshape(-1, 3)
    core = logs[half - max(high // 24, 1) : half + max(high // 24, 1) + 1].reshape(-1, 3)
    within = np.cov(ground.T) + 0.5 * np.cov(core.T) + np.eye(3)
    way = np.linalg.solve(within, core.mean(axis=0) - ground.mean(axis=0))
    told = logs @ way
    levels = np.median(told[:rim], axis=0), np.median(told[-rim:], axis=0)
    rows = np.linspace(0, 1, high)[:, None]
    below = (1 - rows) * ndimage.gaussian_filter1d(levels[0], long / 8) + rows * ndimage.gaussian_filter1d(
        levels[1], long / 8
    )
    inside = np.median(told[half - rim // 2 : half + rim // 2 + 1])
    step = inside - below
    if float(np.median(step)) <= 0:
        return None, "low-contrast"
    share = (told - below) / np.maximum(step, 1e-6)
    spread = float(np.std(np.concatenate([share[:rim], share[-rim:]])))
    if spread > 0.3:
        return None, "low-contrast"
    darker = float(core.mean()) < float(ground.mean())
    at = EDGE_DARK if darker else EDGE_LIGHT
    own, low, more = (_edges(share, each) for each in (at, 0.6 * at, min(1.35 * at, 0.8)))
    wide = own[1] - own[0]
    apparent = float(np.mean(wide))
    if apparent < LEAST_WIDE or apparent < LEAST_STRAND * min(strands, 3):
        return None, "too-small"
    moved = float(np.mean(low[1] - low[0]) - np.mean(more[1] - more[0])) / apparent
    middle = ndimage.gaussian_filter1d((own[0] + own[1]) / 2, 3 * apparent)
    top, foot = own[0] - middle, own[1] - middle
    plain = envelope_over_silhouette(strands) * apparent
    told_by_edges = float(np.percentile(foot, 97) - np.percentile(top, 3))
    enveloping = plain if strands == 1 else float(np.clip(told_by_edges, 0.94 * plain, 1.08 * plain))
    slow = ndimage.gaussian_filter1d(wide, apparent)
    widths = Widths(apparent, enveloping, own[0], own[1], float(np.std(slow)) / apparent)
    ragged = float(np.std(wide)) / apparent > RAGGED
    return widths, "halo" if ragged or moved > MOVES + MOVED_PX / apparent else None


def _edges(share: FloatArray, at: float) -> tuple[FloatArray, FloatArray]:
    """Return both edges along a strip, from outside inwards the first place from which on the share stays above."""
    high, long = share.shape
    half = high // 2
    found = []
    for part in (share[: half + 1], share[half:][::-1]):
        over = part > at
        run = over[:-2] & over[1:-1] & over[2:]
        first = np.where(run.any(axis=0), run.argmax(axis=0), len(part) - 1)
        before = np.maximum(first - 1, 0)
        columns = np.arange(long)
        a, b = part[before, columns], part[first, columns]
        place = np.where(b > a, before + np.clip((at - a) / np.maximum(b - a, 1e-9), 0, 1), first)
        found.append(ndimage.median_filter(place, 5, mode="nearest"))
    return found[0] - half, (high - 1 - found[1]) - half


def _turns(strip: FloatArray, widths: Widths, strands: int) -> tuple[Turns | None, Refusal | None]:
    logs = _logs(strip)
    radius = float(centre_radius(widths.enveloping, strands)) if strands > 1 else widths.enveloping / 2
    middle = ndimage.gaussian_filter1d((widths.top + widths.foot) / 2, 2 * widths.apparent)
    rows = np.linspace(-ROUND, ROUND, ROWS)
    long = logs.shape[1]
    y = logs.shape[0] // 2 + middle[None] + radius * np.sin(rows)[:, None]
    x = np.broadcast_to(np.arange(long, dtype=float), y.shape)
    unrolled = np.stack(
        [ndimage.map_coordinates(logs[..., each], [y, x], order=1, mode="nearest") for each in range(3)]
    )
    unrolled -= ndimage.gaussian_filter1d(unrolled, 2.5 * widths.apparent, axis=2)
    if strands == 1:
        return _single(unrolled, rows, radius)
    whole = _sheared(unrolled, rows, widths.enveloping, strands)
    if whole is None:
        return None, "too-small"
    if whole.surer < EITHER:
        return None, "either-way"
    halves = [_sheared(each, rows, widths.enveloping, strands) for each in np.array_split(unrolled, 2, axis=2)]
    for half in halves:
        if half is None or half.per_px * whole.per_px < 0 or abs(half.per_px / whole.per_px - 1) > DIFFER:
            return None, "halves-differ"
    return whole, None


def _sheared(unrolled: FloatArray, rows: FloatArray, enveloping: float, strands: int) -> Turns | None:
    """Return the turns by which the pattern of strands is sheared most alike, over both ways.

    Strands are seen where their centre-lines lie, ``y = R sin ψ``: they are unrolled at that radius.
    """
    long = unrolled.shape[2]
    padded = 8 * long
    spectrum = np.fft.rfft(unrolled * np.hanning(long), padded, axis=2)
    radius = float(centre_radius(enveloping, strands))
    low, high = (np.tan(each) / (2 * np.pi * radius) for each in (SHALLOWEST, STEEPEST))
    low = max(low, 2.0 / (strands * long))
    if high <= 1.5 * low:
        return None
    turns = np.geomspace(low, high, 600)
    weight = np.cos(rows) ** 0.5
    scores = {sign: np.zeros(len(turns)) for sign in (1, -1)}
    power = (np.abs(spectrum) ** 2).sum(axis=(0, 1))
    halves = ((strands // 2, UNLIKE),) if strands % 2 == 0 and strands > 2 else ()
    for order, counts in ((1, UNLIKE), *halves, (strands, 1.0), (2 * strands, AGAIN)):
        place = np.clip(turns * order * padded, 0, spectrum.shape[2] - 1).round().astype(int)
        own = spectrum[:, :, place] * weight[None, :, None]
        for sign in (1, -1):
            turned = np.exp(1j * sign * order * rows)[None, :, None]
            scores[sign] += counts * (np.abs((own * turned).sum(axis=1)) ** 2).sum(axis=0)
    scores = {sign: each / power.sum() for sign, each in scores.items()}
    best = {sign: int(np.argmax(each)) for sign, each in scores.items()}
    sign = max((1, -1), key=lambda each: scores[each][best[each]])
    at, peak, log = best[sign], scores[sign], np.log(turns)
    if 0 < at < len(turns) - 1:
        a, b, c = peak[at - 1 : at + 2]
        shift = 0.5 * (a - c) / (a - 2 * b + c) if a - 2 * b + c else 0.0
        found = float(np.exp(log[at] + shift * (log[1] - log[0])))
    else:
        found = float(turns[at])
    near = np.abs(log - log[at]) < 0.25
    other = float(scores[-sign][near].max())
    return Turns(sign * found, float(peak[at] / max(other, 1e-12)))


def _single(unrolled: FloatArray, rows: FloatArray, radius: float) -> tuple[Turns | None, Refusal | None]:
    """Return the turns of a single, where both its halves lean alike."""
    if 2 * radius < LEAST_LEAN:
        return None, "too-small"
    whole, why = _lean(unrolled, rows, radius)
    if whole is None:
        return None, why
    for each in np.array_split(unrolled, 2, axis=2):
        half, _ = _lean(each, rows, radius)
        if half is None or abs(half.per_px / whole.per_px - 1) > LEANS_DIFFER:
            return None, "halves-differ"
    return whole, None


def _lean(unrolled: FloatArray, rows: FloatArray, radius: float) -> tuple[Turns | None, Refusal | None]:
    """Return the turns of a single by the lean of its surface fibres: the way along which the picture changes least."""
    front = np.abs(rows) < np.radians(42)
    smooth = ndimage.gaussian_filter(unrolled, (0, 0.8, 0.8))[:, front]
    along = np.gradient(smooth, axis=2)
    across = np.gradient(smooth, rows[front] * radius, axis=1)
    a, b, c = (float((p * q).sum()) for p, q in ((along, along), (along, across), (across, across)))
    coherence = float(np.hypot(a - c, 2 * b) / max(a + c, 1e-9))
    angle = 0.5 * np.arctan2(2 * b, a - c) + np.pi / 2
    angle = (angle + np.pi / 2) % np.pi - np.pi / 2
    if coherence < LEAN or abs(angle) > STEEPEST:
        return None, "no-lean"
    return Turns(float(turns_of_fibre(angle, 2 * radius)) / 1000, 1 + coherence), None
