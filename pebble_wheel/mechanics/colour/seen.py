"""What the eye makes of colours side by side: mixes, mud, contrast, and runs of one colour."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, IntArray
from pebble_wheel.mechanics.colour.oklab import chroma, difference

READING, ARM, ROOM = 0.3, 1.0, 3.0
"""mm over which the eye blends: reading, at arm's length, across a room; about an arc minute (assumed)."""

MUDDY, COLOURFUL = 0.55, 0.04
"""Chroma of a mix over that of its parts, below which it is mud, and the least that parts have to have (assumed)."""

POLED = 0.12
"""Difference in OKLab of what lies side by side, from which on a yarn is a barber pole (assumed)."""


def mixed(labs: FloatArray, shares: FloatArray) -> FloatArray:
    """Return the mean in OKLab of what shows at each place.

    Args:
        labs: of shape (strands, places, 3).
        shares: of what is seen, shape (strands,), or (strands, places) where they change along the yarn.
    """
    weights = _along(shares)[..., None]
    return np.asarray((weights * labs).sum(axis=0) / weights.sum(axis=0))


def _along(shares: FloatArray) -> FloatArray:
    """Return shares as they stand over places, shape (strands, 1) or (strands, places)."""
    return np.reshape(shares, (len(shares), -1))


def kept_chroma(labs: FloatArray, shares: FloatArray, mix: FloatArray) -> float:
    """Return the chroma of the mix over the mean chroma of its parts, the mean along the yarn: 1 loses nothing.

    Args:
        labs: of shape (strands, places, 3).
        shares: of what is seen.
        mix: of all of it, see :func:`mixed`.
    """
    weights = _along(shares)
    parts = (weights * chroma(labs)).sum(axis=0) / weights.sum(axis=0)
    coloured = parts > COLOURFUL
    if not coloured.any():
        return 1.0
    return float((chroma(mix)[coloured] / parts[coloured]).mean())


def contrast(labs: FloatArray) -> float:
    """Return how far apart the farthest two strands lie that show at a place, the mean along the yarn."""
    if len(labs) < 2:
        return 0.0
    apart = np.max([difference(one, other) for place, one in enumerate(labs) for other in labs[:place]], axis=0)
    return float(apart.mean())


def blended_share(across: float, strand: FloatArray, strands: IntArray) -> FloatArray:
    """Return how much of its neighbours' colour a strand takes on where the eye blends over a length, 0 to 1.

    A window laid at random over bands of one width takes in ``w/4a`` of the neighbours while it is narrower than a
    band; over a whole turn of all strands everything is one.

    Args:
        across: w, over which is blended [mm].
        strand: a, what one strand takes of the yarn's length [mm], shape (places,).
        strands: that show, shape (places,).
    """
    over = np.minimum(0.25 + 0.75 * (across / strand - 1) / np.maximum(strands - 1, 1), 1.0)
    return np.where(strands < 2, 0.0, np.where(across <= strand, across / (4 * strand), over))


def seen_at(labs: FloatArray, mix: FloatArray, share: FloatArray) -> FloatArray:
    """Return the colours of strands as they are seen where so much of their neighbours, (places,), is blended in.

    Args:
        labs: of shape (strands, places, 3).
        mix: of all of them, see :func:`mixed`.
        share: of the mix.
    """
    own = np.asarray(share)[..., None]
    return np.asarray((1 - own) * labs + own * mix)


@dataclass(frozen=True)
class Runs:
    """Lengths of yarn of one colour, one after the other."""

    colours: IntArray
    starts: FloatArray
    """mm of yarn."""
    lengths: FloatArray


def solid_runs(colours: IntArray, step: float) -> Runs:
    """Return where all that shows is of one colour.

    Args:
        colours: numbers, of shape (strands, places).
        step: mm of yarn between two places.
    """
    alike = (colours == colours[0]).all(axis=0)
    code = np.where(alike, colours[0], -1)
    edges = np.flatnonzero(np.diff(code)) + 1
    starts = np.concatenate([[0], edges])
    ends = np.concatenate([edges, [code.size]])
    solid = code[starts] >= 0
    return Runs(code[starts][solid], starts[solid] * step, (ends - starts)[solid] * step)


def begin_next(before: FloatArray, after: FloatArray, window: int) -> int:
    """Return where to begin with another skein so that its colours go on as the first one's end.

    Of all places of the other skein the one before which it looks most as the first does before its end.

    Args:
        before: OKLab along the first skein, shape (places, 3).
        after: along the other, shape (more places, 3).
        window: places that are compared.
    """
    last = before[-window:]
    many = len(after) - 2 * window
    if many <= 0:
        return 0
    both = np.sum([np.correlate(*axis, "valid") for axis in zip(after.T, last.T, strict=True)], axis=0)
    own = np.convolve((after**2).sum(axis=1), np.ones(window), "valid")
    return window + int(np.argmin((own - 2 * both)[:many]))
