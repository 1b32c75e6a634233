"""A yarn that changes along its length: what its sections take, all together, and which strand ends first."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray


@dataclass(frozen=True)
class Sequence:
    """Sections laid end to end."""

    metres: float
    grams: float
    used: FloatArray
    """Metres of each strand."""
    mean_tex: float
    finest_tex: float
    stoutest_tex: float


def laid_out(lengths: FloatArray, times: FloatArray, tex: FloatArray, used: FloatArray) -> Sequence:
    """Return what sections come to, ``L = Σ n ℓ``, ``m = Σ n ℓ T``, ``u_s = Σ n ℓ c_s``.

    Args:
        lengths: ℓ of each section, metres of yarn, shape (sections,).
        times: n, how often each comes.
        tex: T, linear density of each.
        used: c, metres of each strand in a metre of each section, shape (sections, strands).
    """
    metres = lengths * times
    whole = float(metres.sum())
    grams = float((metres * tex).sum()) / 1000
    return Sequence(whole, grams, metres @ used, 1000 * grams / whole, float(tex.min()), float(tex.max()))


def ends_first(have: FloatArray, used: FloatArray) -> tuple[int, float]:
    """Return which strand ends first, and the share of the sequence that is made by then; 1 where all suffice.

    Args:
        have: metres of each strand; NaN where nobody said.
        used: metres of each in the whole sequence.
    """
    wanted = used > 0
    share = np.where(wanted, have / np.where(wanted, used, 1.0), np.inf)
    share = np.where(np.isnan(share), np.inf, share)
    first = int(np.argmin(share))
    return first, float(min(share[first], 1.0))
