"""Twist that runs along a single from its thick places into its thin ones."""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray

POWERS = (1.0, 1.5, 2.0)
"""How strongly: 1 for fibres that are free, 2 for a solid rod; what lies between is likely (assumed)."""


def runs_to(turns_per_m: float, tex: FloatArray, lengths: FloatArray, power: float = POWERS[1]) -> FloatArray:
    """Return the twist of each place, ``t_i ∝ T_i^−q``, all turns kept: ``Σ t_i ℓ_i = t Σ ℓ_i``.

    A thin place turns more easily, so twist gathers there until the torque is the same all along.

    Args:
        turns_per_m: t, put in on the whole; signed.
        tex: T, linear density of each place, above zero.
        lengths: ℓ, of each place; any unit.
        power: q.

    Example:
        >>> runs_to(100.0, np.array([200.0, 100.0]), np.array([1.0, 1.0]), 1.0).round(1).tolist()
        [66.7, 133.3]
    """
    easily = (tex / tex.mean()) ** -power
    return np.asarray(turns_per_m * easily * lengths.sum() / (easily * lengths).sum())
