"""What a sample says of its strand, and what to change at the wheel because of it."""

from collections.abc import Hashable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.learning.correct import (
    SIZE_NEAR,
    TWIST_NEAR,
    Compared,
    Deviation,
    Treadling,
    Verdict,
    against,
    deviation,
    half_a_treadle,
    in_hand,
    treadling,
)
from pebble_wheel.mechanics.learning.factors import Column, Factor, main_group
from pebble_wheel.mechanics.learning.model import Lessons
from pebble_wheel.mechanics.making.wheel import best_ratio, feeding, hours
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.strand.structure import Bought, Node, Rod, Single, turns_of
from pebble_wheel.notation.design import Design, finish_of
from pebble_wheel.notation.sample import Asked, Sample
from pebble_wheel.workshop.learn import Noted, Told, node_of, told_of, yarns_of

DRAFT = 0.5
"""Metres that treadles are counted for, where nothing else is said (assumed)."""

NEAR = 1.28
"""Standard deviations of measuring within which a reading is as planned: eight of ten would be."""

SPENT = 0.3
"""Share of its spun ply-back under which a single picked out of a yarn has no turns to give (assumed)."""

Changed = Literal["twist", "ply", "size"]


@dataclass(frozen=True)
class Change:
    """What a sample says of one thing that hands do."""

    what: Changed
    off: Deviation
    verdict: Verdict
    now: Treadling | None
    """How it is treadled now; None of a size."""
    then: Treadling | None
    """How to treadle; as now where nothing is to change."""
    minutes: float
    """By how much longer 100 m take then."""
    asked: float
    """By how much to aim otherwise than planned from now on, as a logarithm."""


@dataclass(frozen=True)
class Judged:
    """A sample judged."""

    told: tuple[Told, ...]
    changes: tuple[Change, ...]
    to: Hashable | None
    """The sample it was held against; None of the plan."""
    spent: float | None
    """Of a single picked out of a yarn, the share of its spun ply-back that is left."""

    @property
    def within(self) -> bool:
        """Whether every reading is as planned, within what measuring can tell."""
        return all(abs(each.off) <= NEAR * each.sd for each in self.told)

    @property
    def asked(self) -> Asked:
        """How to spin from now on."""
        by = {each.what: each.asked for each in self.changes}
        return Asked(by.get("size", 0.0), by.get("twist", 0.0), by.get("ply", 0.0))


def judge_sample(
    noted: Noted,
    reference: Noted | None,
    lessons: Lessons,
    others: Lessons,
    hands: Hands,
    rod: Rod,
    memory: Memory | None = None,
) -> Judged:
    """Return what a sample says.

    Args:
        noted: the sample.
        reference: the sample to match, where there is another.
        lessons: all that was learned of its spinner.
        others: the same without this yarn.
        hands: the wheel.
        rod: of the energy model.
        memory: of what was reckoned lately.

    Raises:
        InputError: where its strand is not there any more.
        NoBalanceError: where it cannot be made.
    """
    sample, design = noted.sample, noted.design
    node = node_of(design, sample.strand, rod, memory)
    told = told_of(sample, node, rod, finish_of(design), memory)
    spent = _spent(sample, node, design, rod, memory)
    found = _found(noted, reference, told, node, lessons, others, rod, memory)
    changes = [_change(what, found[what], sample, node, hands) for what in found] if told else []
    return Judged(tuple(told), tuple(changes), reference.entry if reference else None, spent)


def _spent(sample: Sample, node: Node, design: Design, rod: Rod, memory: Memory | None) -> float | None:
    if sample.taken != "yarn" or sample.fold_turns is None or not isinstance(node, Single):
        return None
    whole = told_of(Sample(sample.strand, fold_turns=sample.fold_turns), node, rod, finish_of(design), memory)
    return sample.fold_turns / whole[0].reckoned


def _found(
    noted: Noted,
    reference: Noted | None,
    told: list[Told],
    node: Node,
    lessons: Lessons,
    others: Lessons,
    rod: Rod,
    memory: Memory | None,
) -> dict[Changed, Deviation]:
    """Return how far each thing that hands do is off."""
    group, asked = main_group(node), noted.sample.asked
    wanted: tuple[Changed, ...] = ("twist", "size") if isinstance(node, Single) else ("ply",)
    if isinstance(node, Bought) or not told:
        return {}
    if reference is not None:
        plain = told_of(reference.sample, node, rod, finish_of(noted.design), memory)
        compared = _compared(told, plain)
        if compared:
            return _only(against(told[0].columns, compared), wanted)
    if isinstance(node, Single):
        by = {"size": asked.size, "twist": asked.twist}
        return {what: deviation(lessons, what, group, by[what]) for what in ("twist", "size")}
    (yarn,) = yarns_of([Noted(noted.entry, noted.design, noted.plan, noted.sample)], rod, memory).values()
    found = _only(in_hand(others, yarn), wanted)
    return {what: Deviation(each.mean + asked.ply, each.sd) for what, each in found.items()}


def _compared(new: list[Told], old: list[Told]) -> list[Compared]:
    known = {(each.outcome, each.method): each for each in old}
    return [
        Compared(each.off - other.off, float(np.hypot(each.scatter, other.scatter)), each.leans)
        for each in new
        if (other := known.get((each.outcome, each.method)))
    ]


def _only(found: dict[Column, Deviation], wanted: tuple[Changed, ...]) -> dict[Changed, Deviation]:
    by: dict[Factor, Deviation] = {}
    for (factor, _), each in found.items():
        by.setdefault(factor, each)
    return {what: by[what] for what in wanted if what in by}


def _change(what: Changed, off: Deviation, sample: Sample, node: Node, hands: Hands) -> Change:
    asked = {"size": sample.asked.size, "twist": sample.asked.twist, "ply": sample.asked.ply}[what]
    if what == "size":
        verdict = off.verdict(SIZE_NEAR)
        return Change(what, off, verdict, None, None, 0.0, asked - off.mean if verdict == "change" else asked)
    planned = abs(float(turns_of(node)))
    turns, feed = hands.driven(planned * float(np.exp(asked))), feeding(node)
    ratio = sample.ratio or best_ratio(hands.ratios, turns, hands.pace, feed)
    now = treadling(turns, DRAFT, ratio, (ratio,))
    verdict = off.verdict(max(TWIST_NEAR, half_a_treadle(turns, DRAFT, ratio)))
    if verdict != "change":
        return Change(what, off, verdict, now, now, 0.0, asked)
    anew = hands.driven(planned * float(np.exp(asked)) * off.times)
    then = treadling(anew, DRAFT, ratio, hands.ratios)
    times = [60 * float(hours(100.0, each, ratio, hands.pace, feed)) for each in (turns, anew)]
    return Change(what, off, verdict, now, then, times[1] - times[0], asked - off.mean)
