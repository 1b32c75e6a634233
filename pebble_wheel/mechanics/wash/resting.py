"""What resting on the bobbin hides of a strand's torque, until it is wetted."""

from dataclasses import replace

import numpy as np

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.strand.structure import Rod

RESTS, REST_HOURS = 0.35, 18.0
"""The most of a single's torque that resting on the bobbin hides, and its time constant; both uncertain by half
(calibrated for this product)."""

REST_OFF = 0.5
"""Share by which what rest hides may be off (assumed)."""


def hidden_by_rest(hours: Floats) -> Floats:
    """Return the share of torque that resting on the bobbin hides, ``0.35 (1 − e^(−t/18 h))``; water brings it back."""
    return RESTS * (1 - np.exp(-np.asarray(hours) / REST_HOURS))


def rested(rod: Rod, hours: Floats) -> Rod:
    """Return a rod whose twist has rested: what is still live is less by what rest hides.

    A ply-back of a rested single folded with it reads that much low.
    """
    live = (1 - rod.set_share) * (1 - hidden_by_rest(hours))
    return replace(rod, set_share=1 - live)
