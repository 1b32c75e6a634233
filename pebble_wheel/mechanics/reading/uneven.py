"""A yarn as uneven spinning makes it: figures at thousands of quasi-random variants."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import VARIANTS, normals
from pebble_wheel.mechanics.reading.spread import (
    TOP,
    Cause,
    Spread,
    bloom_spread,
    causes_of,
    chosen_turns,
    shift_of,
    spread,
)
from pebble_wheel.mechanics.reading.surface import probes, read_off, read_off_positive
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.mechanics.wash.bloom import Finish, growth

PROBES_TOLERANCE = 1e-5
"""Of lengths and angles at the probes, whose spread is some 10,000 times that."""


@dataclass(frozen=True)
class Variants:
    """A made structure in many quasi-random variants, read off those that were made."""

    causes: tuple[Cause, ...]
    """What varies, row by row of the draws: bloom last."""
    draws: FloatArray
    """Standard normal numbers, shape (causes, variants)."""
    spread: Spread
    """The structure at the probes."""
    made: Made
    """The same made."""
    bloom: FloatArray
    """A multiplier on bloom in every variant."""
    turns: FloatArray
    """Twist of the whole in every variant, turns/m, signed."""
    plied: FloatArray
    """Apparent diameter of every variant, mm."""
    finished: FloatArray
    """The same after washing and drying."""

    def of(self, figure: Floats) -> FloatArray:
        """Return a figure in every variant from that at every probe; bloom has nothing to do with it."""
        return read_off(figure, self.draws[:-1])

    def of_positive(self, figure: Floats) -> FloatArray:
        """Return a figure that is above zero in the same way, by its logarithm."""
        return read_off_positive(figure, self.draws[:-1])


@dataclass(frozen=True)
class Thicknesses:
    """How thick a yarn is in many quasi-random variants."""

    causes: tuple[Cause, ...]
    """What varies, row by row of the draws: bloom last."""
    plied: FloatArray
    finished: FloatArray

    def towards(self, other: "Thicknesses", share: float) -> "Thicknesses":
        """Return what lies a share of the way to another."""
        plied = self.plied + share * (other.plied - self.plied)
        return Thicknesses(self.causes, plied, self.finished + share * (other.finished - self.finished))


def vary(made: Made, finish: Finish, constants: Constants, variants: int = VARIANTS) -> Variants:
    """Return a structure of scalar values in so many quasi-random variants, a power of two."""
    causes = causes_of(made.node)
    draws = normals(len(causes), variants)
    at = probes(len(causes) - 1)
    with_bloom = np.concatenate([at, np.zeros((1, at.shape[1]))])  # to which nothing before it leans
    shift = shift_of(made.node, constants)
    varied = spread(made.node, constants, shift.of(with_bloom)[:-1])
    each = make(varied.node, made, PROBES_TOLERANCE)
    turned, bloomed_as = shift.of(draws, (TOP, len(causes) - 1))
    plied, bloom = read_off_positive(each.state.diameter, draws[:-1]), bloom_spread(constants, bloomed_as)
    finished = _washed(each, plied, draws, bloom, finish)
    turns = chosen_turns(made.node, constants, turned)
    return Variants(causes, draws, varied, each, bloom, turns, plied, finished)


def bloomed(varied: Variants, finish: Finish) -> FloatArray:
    """Return the apparent diameter of every variant after washing and drying otherwise [mm]."""
    return _washed(varied.made, varied.plied, varied.draws, varied.bloom, finish)


def _washed(made: Made, plied: FloatArray, draws: FloatArray, bloom: FloatArray, finish: Finish) -> FloatArray:
    uncertain = np.maximum(1 + (bloom - 1) * finish.bloom_spread, 0.0)
    return plied * (1 + (read_off_positive(growth(made.state, finish), draws[:-1]) - 1) * uncertain)
