"""What strands are made on: the speed of a motor by its dial, laps of a bobbin that leads, turns of a spindle."""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats

COUNTED = 15.0
"""Seconds that turns are counted for: long enough that one more or less is a percent or two."""


def counted_speed(turns: Floats, seconds: Floats = COUNTED) -> Floats:
    """Return turns a minute from turns that were counted.

    Example:
        >>> counted_speed(120.0)
        480.0
    """
    return 60 * turns / seconds


def dial_speed(marks: FloatArray, speeds: FloatArray, at: Floats) -> FloatArray:
    """Return turns a minute at a place of the dial, a straight line between two marks; NaN beyond the last.

    Args:
        marks: places at which turns were counted, rising, shape (n,).
        speeds: turns a minute there, shape (n,).
        at: places asked for.
    """
    return np.asarray(np.interp(at, marks, speeds, left=np.nan, right=np.nan))


def laps_per_m(build: Floats) -> Floats:
    """Return the laps that a metre of strand makes round a bobbin, ``1000 / (π D)``.

    Where the bobbin is driven and leads, the flyer makes so many turns fewer: a metre of twist T wants ``T + laps``.

    Args:
        build: D, what is wound so far [mm].
    """
    return 1000 / (np.pi * build)
