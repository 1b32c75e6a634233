"""What to practise: what one is worst at, and what is due, spaced over days.

How badly a skill goes is the mean miss of its answers, the late ones counting most; what went well comes again after a
day, then after twice as long each time. Half-lives and intervals are assumed.
"""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

Skill = TypeVar("Skill", bound=Hashable)

UNTRIED, UNTRIED_WEIGHS = 0.35, 2.0
"""Miss that is taken of what was not tried yet, and the answers that this counts as."""

LATE = 8.0
"""Answers after which an earlier one counts half."""

GOOD = 0.25
"""Miss of a day at most, for it to have gone well."""

MOST_DAYS, MOST_OVERDUE = 64.0, 3.0
"""Longest interval; and times an interval beyond which waiting longer makes nothing more urgent."""

MOST_ALIKE, FEWEST_KINDS = 5, 3
"""Of a round that are of one skill, and skills in a round."""


@dataclass(frozen=True)
class Answered:
    """An answer."""

    day: float
    """When, in days on any clock."""
    miss: float
    """0 of a right answer to 1 of one that is all wrong."""


@dataclass(frozen=True)
class Standing:
    """How a skill stands."""

    miss: float
    """As it goes lately."""
    interval: float
    """Days after which it is due again; 0 where it went badly or was never tried."""
    waited: float
    """Days since it was tried; endless where it never was."""

    @property
    def due(self) -> bool:
        """Whether it is due."""
        return self.waited >= self.interval

    @property
    def need(self) -> float:
        """How much it calls for practice."""
        overdue = MOST_OVERDUE if self.interval == 0 else min(self.waited / self.interval, MOST_OVERDUE)
        return self.miss * (0.1 + overdue) if self.due else 0.05 * self.miss * overdue


def standing_of(answers: Sequence[Answered], now: float) -> Standing:
    """Return how a skill stands by its answers, the first first.

    Example:
        >>> standing_of([Answered(0, 0), Answered(1, 0), Answered(3, 0)], 4.0).interval
        4.0
    """
    if not answers:
        return Standing(UNTRIED, 0.0, np.inf)
    weights = 0.5 ** (np.arange(len(answers))[::-1] / LATE)
    misses = np.array([each.miss for each in answers])
    miss = float((weights @ misses + UNTRIED * UNTRIED_WEIGHS) / (weights.sum() + UNTRIED_WEIGHS))
    by_day: dict[int, list[float]] = {}
    for each in answers:
        by_day.setdefault(int(np.floor(each.day)), []).append(each.miss)
    well = 0
    for day in sorted(by_day):
        well = well + 1 if np.mean(by_day[day]) <= GOOD else 0
    interval = min(2.0 ** (well - 1), MOST_DAYS) if well else 0.0
    return Standing(miss, interval, now - answers[-1].day)


def round_of(standings: Mapping[Skill, Standing], count: int, rng: np.random.Generator) -> list[Skill]:
    """Return what a round asks: by how much each skill calls for it, several skills, none over and over.

    Args:
        standings: of every skill, at least :data:`FEWEST_KINDS`.
        count: questions.
        rng: by which they are mixed, and which decides between equals.
    """
    skills = list(standings)
    needs = {each: standings[each].need * float(rng.uniform(0.9, 1.1)) for each in skills}
    chosen = sorted(skills, key=lambda each: -needs[each])[:FEWEST_KINDS]
    while len(chosen) < count:  # whoever calls loudest for its next, each the fainter the oftener it was asked
        open_ = [each for each in skills if chosen.count(each) < max(MOST_ALIKE, -(-count // len(skills)))]
        chosen.append(max(open_, key=lambda each: needs[each] / (1 + chosen.count(each))))
    mixed = [chosen[place] for place in rng.permutation(len(chosen))]
    return mixed[:count]
