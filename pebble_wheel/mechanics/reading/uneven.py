"""A yarn as uneven spinning makes it: figures at thousands of quasi-random variants."""

from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import VARIANTS, Band, band, normals, scores, spearman
from pebble_wheel.mechanics.reading.spread import Cause, Spread, bloom_spread, causes_of, shift_of, spread
from pebble_wheel.mechanics.reading.surface import Surface, probes, surface, surfaces, turning
from pebble_wheel.mechanics.rest.balance import made_with_balance
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.state import Made, MadeNest
from pebble_wheel.mechanics.strand.structure import Leaf, Rod, turns_of
from pebble_wheel.mechanics.wash.bloom import Finish, growth

PROBES_TOLERANCE = 3e-4
"""Of lengths and angles at the probes, whose spread is some 300 times that; what is left over is a fifth of it."""

WIDE, MORE = 0.3, 4
"""Standard deviation of the logarithm of a ratio past which it goes far from straight, and how many times as many
variants its percentiles then take: of a cable of 24 singles they are within some 0.5 %, of 2,048 variants 1 %."""


@dataclass(frozen=True)
class Sample:
    """A figure of many quasi-random variants."""

    values: FloatArray
    draws: FloatArray
    """Standard normal numbers, one row a cause, bloom last: what made each of them so, once they are turned."""
    turn: FloatArray
    """Of all but bloom; see :func:`turning`."""

    def sized(self) -> "Sample":
        """Return the figure without its sign."""
        return replace(self, values=np.abs(self.values))

    def correlations(self) -> FloatArray:
        """Return the rank correlation with each cause, bloom last."""
        along = scores(self.draws, self.values)
        return spearman(np.append(self.turn @ along[:-1], along[-1]))


@dataclass(frozen=True)
class Variants:
    """A made structure in many quasi-random variants, read off those that were made.

    Each figure is read off draws of its own, turned towards what it hangs on most.
    """

    causes: tuple[Cause, ...]
    """What varies, row by row of the draws: bloom last."""
    draws: FloatArray
    """Standard normal numbers, shape (causes, variants)."""
    made: Made
    """The structure at the probes."""
    rests: "Rests | None"
    """None where that was not looked for, and of a bare single."""
    bloom: FloatArray
    """A multiplier on bloom in every variant of the diameter."""
    plied: Sample
    """Apparent diameter, mm."""
    finished: Sample
    """The same variants after washing and drying."""
    angle: Sample
    """Helix angle of the whole without its sign, radians."""

    def of(self, figure: Floats) -> Sample:
        """Return a figure in many variants from that at every probe; bloom has nothing to do with it."""
        return sample(surface(figure, len(self.draws) - 1), self.draws)


@dataclass(frozen=True)
class Rests:
    """How a strand in many variants is twisted, and at which twist each would rest."""

    balanced: Surface
    """Turns/m, signed; of no known height where it rests nowhere."""
    turns: Surface
    """Logarithm of turns/m, without sign."""

    def ratio(self, sense: float, least: float, draws: FloatArray) -> Sample:
        """Return the twist over that at balance; NaN of variants whose balance is less, or lies the other way.

        Args:
            sense: of the twist, +1 or −1.
            least: balanced twist that can be told from none, turns/m.
            draws: as of :class:`Variants`.
        """
        way = self.turns.lean - self.balanced.lean / self.balanced.middle
        if way @ way > WIDE**2:
            draws = normals(len(draws), MORE * draws.shape[1])
        turn = turning(way)
        top, bottom = np.exp(self.turns.turned(turn).at(draws)), sense * self.balanced.turned(turn).at(draws)
        found = np.divide(top, bottom, out=np.full(bottom.shape, np.nan), where=bottom >= least)
        return Sample(found, draws, turn)


def sample(through: Surface, draws: FloatArray) -> Sample:
    """Return a figure in many variants, of draws turned the way in which it leans."""
    turn = turning(through.lean)
    return Sample(through.turned(turn).at(draws), draws, turn)


@dataclass(frozen=True)
class Thickness:
    """How thick a yarn is as uneven spinning makes it."""

    plied: Band
    finished: Band
    correlations: FloatArray
    """Of the finished diameter, by ranks, with each cause."""

    def times(self, plied: float, finished: float) -> "Thickness":
        """Return it of a yarn so many times as thick."""
        return Thickness(self.plied.times(plied), self.finished.times(finished), self.correlations)

    def towards(self, other: "Thickness", share: float) -> "Thickness":
        """Return what lies a share of the way to another of the same structure."""
        return Thickness(
            self.plied.towards(other.plied, share),
            self.finished.towards(other.finished, share),
            self.correlations + share * (other.correlations - self.correlations),
        )


def vary(
    made: Made, finish: Finish, constants: Constants, variants: int = VARIANTS, balanced: float | None = None
) -> Variants:
    """Return a structure of scalar values in many quasi-random variants.

    Args:
        made: the structure.
        finish: washing and drying.
        constants: of the rod and of the spreads.
        variants: how many, a power of two.
        balanced: its balanced twist [turns/m, signed], where that of the variants is wanted too.
    """
    causes = causes_of(made.node)
    draws = normals(len(causes), variants)
    at = probes(len(causes) - 1)
    with_bloom = np.concatenate([at, np.zeros((1, at.shape[1]))])  # to which nothing before it leans
    shift = shift_of(made.node, constants)
    varied = spread(made.node, constants, shift.of(with_bloom)[:-1])
    each, resting = _made(varied, made, constants.rod_for(made.node), balanced)
    figures = [np.log(each.state.diameter), np.log(growth(each.state, finish)), each.state.angle]
    if resting is not None:
        turns = np.abs(np.asarray(turns_of(varied.node), float))
        figures += [resting, np.log(turns, out=np.full(turns.shape, np.nan), where=turns > 0)]
    thick, grown, leans, *rests = surfaces(figures, len(at))
    turn = turning(thick.lean)
    plied = Sample(np.exp(thick.turned(turn).at(draws)), draws, turn)
    bloom = bloom_spread(constants, shift.last(draws, turn))
    finished = _washed(plied, grown, bloom, finish)
    own = Rests(*rests) if rests else None
    return Variants(causes, draws, each, own, bloom, plied, finished, sample(leans, draws).sized())


def _made(varied: Spread, nominal: Made, usual: Rod, balanced: float | None) -> tuple[Made, FloatArray | None]:
    """Return a structure made at the probes, and its balanced twist there, where it is wanted and can have one."""
    if balanced is None or isinstance(varied.node, Leaf) or not isinstance(nominal, MadeNest):
        return make(varied.node, nominal, PROBES_TOLERANCE), None
    return made_with_balance(varied.node, varied.rod, nominal, usual, balanced, PROBES_TOLERANCE)


def thickness(made: Made, finish: Finish, constants: Constants) -> Thickness:
    """Return how thick uneven spinning makes a structure of scalar values."""
    varied = vary(made, finish, constants)
    finished = varied.finished
    return Thickness(band(varied.plied.values), band(finished.values), finished.correlations())


def bloomed(varied: Variants, finish: Finish) -> Sample:
    """Return the apparent diameter of every variant after washing and drying otherwise [mm]."""
    grown = surface(np.log(growth(varied.made.state, finish)), len(varied.draws) - 1)
    return _washed(varied.plied, grown, varied.bloom, finish)


def _washed(plied: Sample, grown: Surface, bloom: FloatArray, finish: Finish) -> Sample:
    uncertain = np.maximum(1 + (bloom - 1) * finish.bloom_spread, 0.0)
    swollen = np.exp(grown.turned(plied.turn).at(plied.draws))
    return replace(plied, values=plied.values * (1 + (swollen - 1) * uncertain))
