"""What was measured of several yarns, in line: each figure with how far it may be off, and what differs beyond that."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.learning.noise import Method, noise_of
from pebble_wheel.mechanics.learning.outcomes import Outcome, natural, told
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.mechanics.strand.structure import Rod, Single
from pebble_wheel.notation.design import finish_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.workshop.learn import Noted, Told, node_of, told_of


@dataclass(frozen=True)
class Measured:
    """A figure as it was measured, dry and fresh: the mean of all readings, the surer ones counting more."""

    outcome: Outcome
    single: bool
    """Whether of a single, and not of the yarn."""
    value: float
    """As it is reckoned with; see ``outcomes.natural``."""
    sd: float
    """By scatter and unevenness, apart from the bias of its ways of measuring."""
    ways: frozenset[Method]
    readings: int
    reckoned: float
    """In its own unit."""

    @property
    def figure(self) -> float:
        """In its own unit; see ``outcomes.told``."""
        return told(self.outcome, self.value)


Of = tuple[Outcome, bool]


def measured_of(samples: Iterable[Noted], rod: Rod, memory: Memory | None = None) -> dict[Of, Measured]:
    """Return what samples of one yarn say of it and of its singles, less what cannot be made or was struck out.

    Args:
        samples: of one design as it is planned now.
        rod: of the energy model, untaught.
        memory: of what was reckoned lately.
    """
    readings: dict[Of, list[Told]] = {}
    for noted in samples:
        try:
            node = node_of(noted.design, noted.sample.strand, rod, memory)
            found = told_of(noted.sample, node, rod, finish_of(noted.design), memory)
        except (InputError, NoBalanceError):
            continue
        single = isinstance(node, Single)
        if not single and noted.sample.strand != "yarn":
            continue
        for each in found:
            if each.outcome not in noted.struck:
                readings.setdefault((each.outcome, single), []).append(each)
    return {of: _together(of, several) for of, several in readings.items()}


def _together(of: Of, several: Sequence[Told]) -> Measured:
    outcome, single = of
    weights = np.array([1 / each.scatter**2 for each in several])
    values = np.array([natural(outcome, each.measured) for each in several])
    ways = frozenset(each.method for each in several)
    return Measured(
        outcome,
        single,
        float(weights @ values / weights.sum()),
        float(weights.sum() ** -0.5),
        ways,
        len(several),
        several[-1].reckoned,
    )


def apart(one: Measured, other: Measured) -> bool:
    """Return whether two figures differ by more than measuring can tell: where ways differ, their biases count too."""
    biases = (
        [noise_of(each.outcome, way).bias for each in (one, other) for way in each.ways]
        if one.ways != other.ways
        else []
    )
    off = float(np.sqrt(one.sd**2 + other.sd**2 + sum(each**2 for each in biases)))
    return abs(one.value - other.value) > P90 * off
