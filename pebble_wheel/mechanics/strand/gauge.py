"""From a single's gauge back to its linear density."""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import packing_fraction
from pebble_wheel.mechanics.strand.single import diameter, turns_for_factor

ROUNDS = 40


def tex_of_diameter(wanted: Floats, turns_per_m: Floats, density: Floats, loosest: Floats) -> FloatArray:
    """Return the linear density [tex] of a single of the wanted diameter [mm] and twist [turns/m].

    The diameter rises steadily with linear density, so halving the interval of its logarithm finds it to 1e-9.

    Raises:
        ValueError: where the diameter is not between those of 0.01 and 1,000,000 tex.
    """
    wanted, turns = np.broadcast_arrays(np.asarray(wanted, float), np.asarray(turns_per_m, float))

    def thickness(log_tex: FloatArray) -> Floats:
        tex = np.exp(log_tex)
        return diameter(tex, density, packing_fraction(loosest, turns**2, tex))

    low, high = np.full(wanted.shape, np.log(0.01)), np.full(wanted.shape, np.log(1e6))
    if np.any(wanted < thickness(low)) or np.any(wanted > thickness(high)):
        raise ValueError("no single of this twist has that diameter")
    for _ in range(40):
        middle = (low + high) / 2
        thin = thickness(middle) < wanted
        low, high = np.where(thin, middle, low), np.where(thin, high, middle)
    return np.exp((low + high) / 2)


def tex_and_turns(wanted: float, factor: float, density: float, loosest: float) -> tuple[float, float]:
    """Return linear density [tex] and twist [turns/m] of a single of the wanted diameter [mm] and tex twist factor.

    Twist packs a strand and the factor asks less of a thick one, so each follows the other: ``t = 100 α / √T`` goes
    into :func:`tex_of_diameter` until nothing changes.

    Raises:
        ValueError: where no single has that diameter.
    """
    tex = float(tex_of_diameter(wanted, 0.0, density, loosest))
    for _ in range(ROUNDS):
        turns = float(turns_for_factor(factor, tex))
        before, tex = tex, float(tex_of_diameter(wanted, turns, density, loosest))
        if abs(tex / before - 1) < 1e-10:
            break
    return tex, float(turns_for_factor(factor, tex))
