"""From a single's gauge back to its linear density."""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import packing_fraction
from pebble_wheel.mechanics.strand.single import diameter


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
