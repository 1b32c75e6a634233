"""What is known of a spinner, figure by figure: how far it is learned, what it foretold, what to measure next."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.learning.factors import FACTORS, GROUP, SPINNER, YARN, Factor, Group
from pebble_wheel.mechanics.learning.model import (
    DOUBTFUL,
    NOT_KNOWN,
    Figure,
    Lessons,
    Measured,
    YarnMeasured,
    learn,
    learn_over,
)
from pebble_wheel.mechanics.learning.noise import LENGTH_OFF, Method, scatter
from pebble_wheel.mechanics.learning.outcomes import Outcome, reckon
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.mechanics.strand.structure import Node, Rod, Single
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.record import KITCHEN_SCALE

MOST_CUTS = 12
"""Numbers of yarns at which a band is shown over time."""

LATELY = 10
"""Readings that coverage is told of."""

PARTLY, LEARNED = 0.2, 0.5
"""Shares of the variance of what persists, from which a figure is partly learned, and learned."""

BEARS = 0.15
"""Correlation with a figure, from which a reading bears on it."""

FIGURES: tuple[Outcome, ...] = ("finished thick", "turns", "loop", "angle", "tex", "wash length")
"""Figures of a yarn whose bands are told of; turns of its singles."""

SKEIN = 50.0
"""Grams of a skein that is worth weighing."""

WORTH = 0.01
"""Of a band: what narrows it less is not worth the trouble."""


@dataclass(frozen=True)
class Narrowing:
    """One factor over the yarns in time, in its own unit."""

    factor: Factor
    usual: float
    """Standard deviation before anything was measured."""
    at: tuple[tuple[int, float, float], ...]
    """After so many yarns, mean and standard deviation."""


@dataclass(frozen=True)
class Foretold:
    """A reading against what was known before its yarn was spun."""

    entry: Hashable
    outcome: Outcome
    off: float
    """In standard deviations of what was foretold."""

    @property
    def inside(self) -> bool:
        """Whether it fell inside the band of eight in ten."""
        return abs(self.off) <= P90


@dataclass(frozen=True)
class KnownFigure:
    """How far a figure is learned."""

    outcome: Outcome
    share: float
    """Of the variance of what persists, learned away."""
    readings: int
    """That bear on it."""
    narrower: float
    """Its band over the usual one."""


@dataclass(frozen=True)
class Next:
    """Something to measure."""

    outcome: Outcome
    method: Method
    narrows: float
    """Share that it takes off the band of the finished thickness of the yarn it is of."""


def cuts_of(count: int) -> list[int]:
    """Return after how many yarns a band is shown."""
    return sorted({round(each) for each in np.linspace(0, count, min(count, MOST_CUTS) + 1)})


def narrowings(
    yarns: Sequence[YarnMeasured], group: Group, sure: Mapping[Method, float] = NOT_KNOWN
) -> list[Narrowing]:
    """Return every factor of what is spun of a group, over the yarns in time; ``sure`` as :func:`learn` takes it."""
    cuts = cuts_of(len(yarns))
    columns = tuple((factor, group) for factor in FACTORS)
    known = [each.of_new(columns) for each in learn_over(yarns, cuts, sure)]
    usual = np.sqrt(SPINNER**2 + GROUP**2 + YARN**2)
    return [
        Narrowing(
            factor,
            float(usual[place]),
            tuple(
                (cut, float(mean[place]), float(np.sqrt(covariance[place, place])))
                for cut, (mean, covariance) in zip(cuts, known, strict=True)
            ),
        )
        for place, factor in enumerate(FACTORS)
    ]


def foretold(yarns: Sequence[YarnMeasured], last: int, sure: Mapping[Method, float] = NOT_KNOWN) -> list[Foretold]:
    """Return the readings of the last so many yarns against what those before them foretold."""
    begin = max(len(yarns) - last, 0)
    before = learn_over(yarns, list(range(begin, len(yarns))), sure) if yarns else []
    found = []
    for lessons, yarn in zip(before, yarns[begin:], strict=True):
        for each in yarn.readings:
            mean, variance, _ = lessons.outcome(_figure(each, yarn), each.method)
            found.append(
                Foretold(each.entry, each.outcome, (each.off - mean) / float(np.hypot(variance**0.5, each.scatter)))
            )
    return found


def _figure(reading: Measured, yarn: YarnMeasured) -> Figure:
    return Figure(reading.outcome, reading.group, yarn.columns, reading.leans)


def figures_of(node: Node, rod: Rod, finish: Finish, memory: Memory | None = None) -> dict[Outcome, Figure]:
    """Return the figures of a yarn whose bands are told of."""
    reckoned = reckon(node, rod, finish, FIGURES, memory)
    columns = reckoned.columns
    leans = dict(reckoned.leans)
    leans["turns"] = np.array([float(factor == "twist" and group == columns[0][1]) for factor, group in columns])
    return {each: Figure(each, columns[0][1], columns, leans[each]) for each in FIGURES}


def known_figures(lessons: Lessons, figures: dict[Outcome, Figure]) -> list[KnownFigure]:
    """Return how far each figure is learned."""
    nothing = learn([])
    found = []
    for outcome, figure in figures.items():
        _, whole, lasting = lessons.outcome(figure, None)
        _, usual, before = nothing.outcome(figure, None)
        bearing = sum(_bears(figure, _figure(each, yarn)) for yarn in lessons.yarns for each in yarn.readings)
        share = 1 - lasting / before if before else 0.0
        found.append(KnownFigure(outcome, share, bearing, float(np.sqrt(whole / usual)) if usual else 1.0))
    return found


def _bears(figure: Figure, by: Figure) -> bool:
    """Return whether two figures lean on the same factors, by their correlation before anything was measured."""
    variances = dict(zip(FACTORS, SPINNER**2 + GROUP**2, strict=True))

    def weighed(each: Figure) -> dict[Factor, float]:
        total: dict[Factor, float] = {}
        for (factor, _), lean in zip(each.columns, each.leans, strict=True):
            total[factor] = total.get(factor, 0.0) + float(lean) * variances[factor] ** 0.5
        return total

    one, other = weighed(figure), weighed(by)
    both = sum(value * other.get(factor, 0.0) for factor, value in one.items())
    sizes = [sum(value**2 for value in each.values()) ** 0.5 for each in (one, other)]
    return sizes[0] * sizes[1] > 0 and abs(both) / (sizes[0] * sizes[1]) > BEARS


def next_to_measure(
    lessons: Lessons, node: Node, single: Single, rod: Rod, finish: Finish, memory: Memory | None = None
) -> list[Next]:
    """Return what would narrow the band of the finished thickness most, the most first."""
    whole, spun = figures_of(node, rod, finish, memory), reckon(single, rod, finish, ("thick", "fold", "turns"), memory)
    target = whole["finished thick"]

    def of_single(outcome: Outcome) -> Figure:
        return Figure(outcome, spun.columns[0][1], spun.columns, spun.leans[outcome])

    weighing = float(np.hypot(KITCHEN_SCALE / SKEIN, LENGTH_OFF))
    ways: list[tuple[Figure, Method, float]] = [
        (target, "wraps", scatter("finished thick", "wraps", 4, False)),
        (whole["tex"], "weighed", weighing),
        (whole["wash length"], "laid out", scatter("wash length", "laid out", 1, False)),
        (of_single("thick"), "wraps", scatter("thick", "wraps", 5, True)),
        (of_single("fold"), "fold", scatter("fold", "fold", 4, True)),
        (of_single("turns"), "count", scatter("turns", "count", 1, True)),
    ]
    found = [
        Next(by.outcome, method, lessons.narrowed(target, by, method, noise, same=True)) for by, method, noise in ways
    ]
    return sorted((each for each in found if each.narrows > WORTH), key=lambda each: -each.narrows)


@dataclass(frozen=True)
class Doubt:
    """A reading that lies far from what all others say."""

    entry: Hashable
    outcome: Outcome
    off: float
    """In standard deviations."""


def doubts_of(lessons: Lessons) -> list[Doubt]:
    """Return the readings to be asked about."""
    return [
        Doubt(reading.entry, reading.outcome, off)
        for place, several in lessons.doubts().items()
        for reading, off in zip(lessons.yarns[place].readings, several, strict=True)
        if abs(off) > DOUBTFUL
    ]
