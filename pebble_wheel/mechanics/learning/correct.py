"""What to change at the wheel, by what is known of a spinner's hands and not by one reading.

A reading that is off may be so by its method, by its place, or by this very yarn. Only what persists, ``u + v`` of size
and twist, is corrected, and only where it is more than can be explained: so it closes in where the naive rule, which
takes every reading for the truth, chases its own errors.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.learning.factors import YARN, Column, Factor, Group, squares
from pebble_wheel.mechanics.learning.model import Figure, Lessons, YarnMeasured
from pebble_wheel.mechanics.learning.noise import OWN_ERROR, noise_of
from pebble_wheel.mechanics.making.wheel import treadles

TWIST_NEAR, SIZE_NEAR = 0.03, 0.05
"""Of what is wanted: closer is near enough."""

FEWEST_TREADLES, MOST_TREADLES = 5, 16
"""To a draft, between which a whorl is kept."""

ANYHOW = 0.2
"""Standard deviation of the logarithm of size and twist of a strand of which nothing is known but what it was meant to
be (assumed)."""

Verdict = Literal["near", "not sure", "change"]


@dataclass(frozen=True)
class Deviation:
    """By how much what a spinner makes now differs from what is wanted, as a logarithm."""

    mean: float
    sd: float

    def verdict(self, near: float) -> Verdict:
        """Return what it calls for: within ``near`` it is near enough, within its own sd it may be nothing."""
        if abs(self.mean) <= near:
            return "near"
        return "not sure" if abs(self.mean) <= self.sd else "change"

    @property
    def times(self) -> float:
        """By what to multiply what is done now."""
        return math.exp(-self.mean)


def deviation(lessons: Lessons, factor: Factor, group: Group, asked: float) -> Deviation:
    """Return how far a spinner is off in size or twist, with what they do now.

    Args:
        lessons: what was learned of them.
        factor: of size or of twist.
        group: of what is spun.
        asked: by how much they already aim otherwise than wanted, as a logarithm.
    """
    mean, covariance = lessons.kept(((factor, group),))
    return Deviation(float(mean[0]) + asked, float(math.sqrt(covariance[0, 0])))


HANDS: tuple[Factor, Factor, Factor] = ("size", "twist", "ply")
"""What a spinner can be asked to do otherwise."""

WORTH = 0.015
"""Logarithm below which nothing is asked for: nobody spins so fine a difference (assumed)."""

MOST_ASKED = 0.35
"""That is asked for; a spinner further off would rather plan anew (assumed)."""


def aim_for(
    thick: Figure, now: Lessons, then: Lessons, piece: YarnMeasured | None = None
) -> tuple[float, float, float]:
    """Return by how much to aim otherwise than planned in size, twist and ply twist, as logarithms.

    With m the mean of what is other than reckoned, J the lean of the finished thickness on each factor, and the twists
    asked for at ``a = −m``, the size asked for solves ``J_size·a_size + Σ J·a + m_thick(now) = m_thick(then, hands
    apart)``: what was known of the fibre when it was planned stood in the plan, habits of the hands did not.

    Args:
        thick: the finished thickness of the yarn.
        now: what is learned of its spinner.
        then: what was when it was planned.
        piece: what was measured of the very yarn that is being spun; its own factors then count, and not only habits.
    """
    columns = thick.columns
    habits = dict(zip(columns, (float(each) for each in now.kept(columns)[0]), strict=True))
    own = habits | {column: each.mean for column, each in (in_hand(now, piece) if piece else {}).items()}
    twist, ply = (_worth(-own[(factor, thick.group)]) for factor in HANDS[1:])
    wanted, comes = then.outcome(hands_apart(thick), None)[0], now.outcome(thick, None)[0]
    comes += sum(float(lean) * (own[each] - habits[each]) for each, lean in zip(columns, thick.leans, strict=True))
    size = (wanted - comes - lean_on(thick, "twist") * twist - lean_on(thick, "ply") * ply) / lean_on(thick, "size")
    return _worth(size), twist, ply


def lean_on(figure: Figure, factor: Factor) -> float:
    """Return how a figure leans on a factor of all that is spun, whatever its group."""
    return float(sum(lean for (own, _), lean in zip(figure.columns, figure.leans, strict=True) if own == factor))


def hands_apart(figure: Figure) -> Figure:
    """Return a figure as if it did not hang on what the hands do."""
    return replace(figure, leans=np.where([factor in HANDS for factor, _ in figure.columns], 0.0, figure.leans))


def _worth(asked: float) -> float:
    return 0.0 if abs(asked) < WORTH else max(-MOST_ASKED, min(MOST_ASKED, asked))


@dataclass(frozen=True)
class Treadling:
    """Whole treadles to a draft on a whorl."""

    ratio: float
    count: int
    draft: float
    """Metres."""
    between: bool
    """Whether as often one more, so that the mean lies halfway."""

    @property
    def turns_per_m(self) -> float:
        """The twist that comes of it."""
        return (self.count + (0.5 if self.between else 0.0)) * self.ratio / self.draft


def treadling(turns_per_m: float, draft: float, ratio: float, ratios: tuple[float, ...]) -> Treadling:
    """Return how to treadle for a twist: on the same whorl while 5 to 16 treadles go to a draft, else on another.

    Args:
        turns_per_m: without sign.
        draft: metres.
        ratio: of the whorl in use.
        ratios: of all whorls owned.
    """

    def count(each: float) -> float:
        return float(treadles(draft, turns_per_m, each))

    def strain(each: float) -> tuple[float, float]:
        outside = max(FEWEST_TREADLES - count(each), count(each) - MOST_TREADLES, 0.0)
        return outside, abs(math.log(each / ratio))

    chosen = min((ratio, *ratios), key=strain)
    halves = max(round(2 * count(chosen)), 2)
    return Treadling(chosen, halves // 2, draft, halves % 2 == 1)


def half_a_treadle(turns_per_m: float, draft: float, ratio: float) -> float:
    """Return half a treadle to a draft, as a share of the twist."""
    return 0.5 / max(float(treadles(draft, turns_per_m, ratio)), 1.0)


def let_back(length: float, excess: float) -> float:
    """Return over how much more length to let twist back that has run into a short piece.

    ``length × (excess − 1)``: 12 cm with double the twist want 12 cm more to share it with.

    Args:
        length: of the piece with too much twist; any unit, which the answer has too.
        excess: its twist over that wanted, above 1.
    """
    return length * (excess - 1)


@dataclass(frozen=True)
class Compared:
    """One reading of a strand against another of the same outcome, or against what was reckoned."""

    off: float
    """A logarithm, or degrees or turns; see ``outcomes.natural``."""
    scatter: float
    leans: FloatArray


def in_hand(lessons: Lessons, yarn: YarnMeasured) -> dict[Column, Deviation]:
    """Return how far a strand just made is off, by its own readings and what all others have taught of their maker.

    How it was treadled, drafted and plied may have been anything: :data:`ANYHOW`.

    Args:
        lessons: of other yarns.
        yarn: the readings.
    """
    kept, covariance = lessons.kept(yarn.columns)
    own = np.diag(_anyhow(yarn.columns, squares(YARN, yarn.columns)))
    readings = yarn.readings
    biases = [lessons.bias(each.method, noise_of(each.outcome, each.method).bias) for each in readings]
    alike = np.array([[float(one.method == other.method) for one in readings] for other in readings])
    noise = np.diag(yarn.scatter + [OWN_ERROR[each.outcome] ** 2 for each in readings])
    noise = noise + alike * np.outer([sd for _, sd in biases], [sd for _, sd in biases])
    off = yarn.off - np.array([mean for mean, _ in biases])
    return _weighed(yarn.columns, kept, covariance + own, yarn.leans, off, noise)


def against(columns: tuple[Column, ...], compared: Sequence[Compared]) -> dict[Column, Deviation]:
    """Return how far a strand is off another of the same spinner: what both have in common cancels.

    Args:
        columns: of the strand.
        compared: differences of the readings that both have.
    """
    own = _anyhow(columns, 2 * squares(YARN, columns))
    leans = np.array([each.leans for each in compared]).reshape(len(compared), len(columns))
    off, noise = np.array([each.off for each in compared]), np.diag([each.scatter**2 for each in compared])
    return _weighed(columns, np.zeros(len(columns)), np.diag(own), leans, off, noise)


def _anyhow(columns: tuple[Column, ...], variances: FloatArray) -> FloatArray:
    hands = np.array([factor in ("size", "twist", "ply") for factor, _ in columns])
    return np.where(hands, ANYHOW**2, variances)


def _weighed(
    columns: tuple[Column, ...],
    mean: FloatArray,
    prior: FloatArray,
    leans: FloatArray,
    off: FloatArray,
    noise: FloatArray,
) -> dict[Column, Deviation]:
    """Return the posterior of each column: ``m + P Jᵀ (J P Jᵀ + R)⁻¹ (y − J m)``."""
    within = leans @ prior @ leans.T + noise
    gain = np.linalg.solve(within, leans @ prior).T
    found, spread = mean + gain @ (off - leans @ mean), np.diag(prior - gain @ leans @ prior)
    return {
        column: Deviation(float(found[place]), float(np.sqrt(spread[place]))) for place, column in enumerate(columns)
    }
