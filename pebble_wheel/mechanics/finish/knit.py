"""The loops of a plain knit as paths in space: arcs that run into each other, legs in front, heads and feet behind.

References:
    [1] Leaf & Glaskin, The geometry of a plain knitted loop, 1955: a loop of equal circular arcs (from memory).
    [2] Munden, The geometry and dimensional properties of plain-knit fabrics, 1959 (from memory); see ``cloth``.
"""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.finish.cloth import DRY, WET, Loops, off_the_needles, rows, stitch_length, stitches

FINE = 2000
"""Points by which a loop is measured."""

TURNS = (0.3 * np.pi, 0.95 * np.pi)
"""Least and most that an arc can turn."""

OUT = 0.5
"""How far legs stand in front, and heads and feet behind, in diameters of the yarn (assumed). Round yarns of this gauge
would pass through each other: real ones are pressed flat where they cross."""

SHARP = 0.6
"""A power that lets the yarn change from front to back within the places where rows cross (assumed)."""


@dataclass(frozen=True)
class Knit:
    """A plain knit, all mm."""

    wale: float
    """Width of a stitch."""
    course: float
    """Height of a row."""
    length: float
    """Yarn in a stitch."""
    diameter: float
    """Of the yarn."""


def knit(stitches_in_10_cm: float, loops: Loops, diameter: float) -> Knit:
    """Return the plain knit of so many stitches in 10 cm from yarn of a diameter [mm]."""
    courses = float(rows(stitches_in_10_cm, loops))
    length = float(stitch_length(stitches_in_10_cm, loops))
    return Knit(100 / stitches_in_10_cm, 100 / courses, length, diameter)


def before_and_after(wpi: float, diameter: float, growth: float) -> tuple[Knit, Knit]:
    """Return the plain knit to start from off the needles and once washed, for yarn of so many finished wraps per inch.

    Args:
        wpi: finished relaxed wraps per inch.
        diameter: as plied, mm.
        growth: of the diameter on washing.
    """
    washed = float(stitches(wpi))
    return knit(float(off_the_needles(washed, growth)), DRY, diameter), knit(washed, WET, diameter * growth)


def row(cloth: Knit, stitches: int, samples: int) -> FloatArray:
    """Return the way of the yarn through a row, from the middle of a foot: x along the row, y up, z to the eye [mm].

    A quarter of a loop is two arcs of one radius R, that turn by φ and back: the stitch is ``4 R sin φ`` wide,
    ``2 R (1 − cos φ)`` high, and φ is such that the yarn in it is as long as it is.

    Args:
        cloth: the knit.
        stitches: in the row.
        samples: in a stitch, at even lengths of yarn; one more closes the row.

    Returns:
        of shape (3, stitches · samples + 1).
    """
    low, high = TURNS
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if _length(_loop(cloth, middle)) < cloth.length else (low, middle)
    one = _loop(cloth, (low + high) / 2)
    gone = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(one, axis=1), axis=0))])
    places = np.linspace(0, gone[-1], samples, endpoint=False)
    even = np.stack([np.interp(places, gone, axis) for axis in one])
    shift = np.array([[cloth.wale], [0.0], [0.0]])
    return np.concatenate(
        [even + number * shift for number in range(stitches)] + [even[:, :1] + stitches * shift], axis=1
    )


def _loop(cloth: Knit, turn: float) -> FloatArray:
    """Return one stitch whose arcs turn by an angle, at even places along it; its middle height is 0."""
    radius = cloth.wale / (4 * np.sin(turn))
    share = np.linspace(0, 4, FINE + 1)
    heading = turn * (1 - np.abs((share % 2) - 1)) * np.where(share < 2, 1, -1)
    step = radius * turn * 4 / FINE
    middle = (heading[1:] + heading[:-1]) / 2
    x, y = (np.concatenate([[0.0], np.cumsum(step * each)]) for each in (np.cos(middle), np.sin(middle)))
    wave = np.cos(np.pi * share)
    z = -OUT * cloth.diameter * np.sign(wave) * np.abs(wave) ** SHARP
    return np.stack([x, y - (y.max() + y.min()) / 2, z])


def _length(path: FloatArray) -> float:
    return float(np.linalg.norm(np.diff(path, axis=1), axis=0).sum())
