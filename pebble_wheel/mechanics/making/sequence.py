"""A yarn that changes along its length: what its sections take, all together."""

from dataclasses import dataclass

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
