"""Fibre split into strands, bobbins that hold it, which of them ends first, and what the others keep.

All in grams, metres and millimetres; arrays broadcast.
"""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats

FILLED = 0.85
"""Share of a bobbin's room that is filled: common practice, no source."""

SINGLE_BULK, PLIED_BULK = 0.30, 0.22
"""g/cm³ of singles and of plied yarn as they lie on a bobbin: common practice, no source."""

OVER_FULL = 0.7
"""Share of a bobbin from which on it wants more brake and the guide moved (assumed)."""


def split(grams: FloatArray, shares: FloatArray) -> FloatArray:
    """Return how much of each lot goes into each strand, ``g_l · s_ls / Σ_s s_ls`` [g].

    Args:
        grams: of each lot, shape (lots,).
        shares: weights without a unit, shape (lots, strands); a lot of which nothing is wanted stays where it is.

    Example:
        >>> split(np.array([96.0, 138.0]), np.ones((2, 4))).sum(axis=0)
        array([58.5, 58.5, 58.5, 58.5])
    """
    whole = shares.sum(axis=1, keepdims=True)
    return np.asarray(grams[:, None] * np.divide(shares, whole, out=np.zeros_like(shares), where=whole > 0))


def spun(grams: Floats, waste: Floats) -> Floats:
    """Return what is left of fibre once it is spun, ``g / (1 + w)`` [g]; the other way round than fibre needed."""
    return grams / (1 + waste)


@dataclass(frozen=True)
class RunOut:
    """Strands laid together until the first of them ends."""

    metres: float
    """Of yarn."""
    first: int
    """Which strand ends first."""
    left: FloatArray
    """Grams that each of them keeps."""


def run_out(grams: FloatArray, per_metre: FloatArray) -> RunOut:
    """Return how far strands reach, ``min g_s / c_s``, and what is left of them, ``g_s − m c_s``.

    Args:
        grams: on the bobbin of each strand.
        per_metre: of each strand in a metre of yarn [g], above zero.
    """
    reach = grams / per_metre
    first = int(np.argmin(reach))
    metres = float(reach[first])
    left = np.maximum(grams - metres * per_metre, 0.0)
    left[first] = 0.0
    return RunOut(metres, first, left)


def capacity(outer: Floats, core: Floats, width: Floats, bulk: Floats) -> Floats:
    """Return what a bobbin holds, ``π/4 (D² − d²) w · 0.85 ρ`` [g].

    Args:
        outer: D, over the flanges [mm].
        core: d, of the shaft [mm].
        width: w, between the flanges [mm].
        bulk: ρ, of yarn as it lies [g/cm³].
    """
    return np.pi / 4 * (outer**2 - core**2) * width / 1000 * FILLED * bulk


def build_diameter(core: Floats, grams: Floats, width: Floats, bulk: Floats) -> FloatArray:
    """Return how thick a bobbin has grown, ``√(d² + 4 m / (π w ρ))`` [mm]; the inverse of volume."""
    return np.sqrt(core**2 + 4000 * grams / (np.pi * width * bulk))


def half_full(outer: Floats, core: Floats) -> FloatArray:
    """Return how thick a bobbin has grown when half its room is filled, ``√((D² + d²) / 2)`` [mm]."""
    return np.sqrt((np.asarray(outer) ** 2 + core**2) / 2)


def filled(grams: FloatArray, holds: FloatArray) -> list[list[int]]:
    """Return on which bobbins strands go, one strand after the other, the largest bobbins first.

    Bobbins that are all full are wound off, and filled again; a crumb over a full one takes none.

    Args:
        grams: of each strand.
        holds: of each bobbin [g], above zero.
    """
    order = [int(place) for place in np.argsort(-holds, kind="stable")]
    found: list[list[int]] = []
    taken = 0
    for each in grams:
        own: list[int] = []
        left = float(each)
        while not own or (left > CRUMB * holds[own[-1]] and len(own) < MOST_FILLED):
            own.append(order[taken % len(order)])
            left -= float(holds[own[-1]])
            taken += 1
        found.append(own)
    return found


MOST_FILLED = 100
"""Bobbins for one strand: beyond that nobody counts."""


CRUMB = 0.02
"""Of a bobbin, that is pressed on (assumed)."""


def reads_when_halved(grams: Floats, empty: Floats) -> Floats:
    """Return what a bobbin weighs when half of what is on it is wound off, its own weight included [g].

    Example:
        >>> reads_when_halved(14.0, 52.0)
        59.0
    """
    return empty + grams / 2


@dataclass(frozen=True)
class Ways:
    """Metres that leftovers make, each way by itself."""

    evened: float
    """Wound off so that all strands have their part, and plied as the rest."""
    folded: float
    """Each plied with itself: from both ends of a ball, or of a bracelet on the wrist."""
    chained: float
    """Each chain-plied with itself."""


def ways_with(left: FloatArray, per_metre: FloatArray, folded: FloatArray, chained: FloatArray) -> Ways:
    """Return what leftovers make.

    Args:
        left: grams of each strand.
        per_metre: of each strand in a metre of the yarn [g].
        folded: grams of yarn in a metre of two of that strand.
        chained: the same of a chain of it.
    """
    return Ways(
        float(left.sum() / per_metre.sum()),
        float((left / folded).sum()),
        float((left / chained).sum()),
    )


def skein_metres(rounds: Floats, around: Floats) -> Floats:
    """Return the length of a skein [m] from its rounds and its circumference [mm]."""
    return rounds * around / 1000
