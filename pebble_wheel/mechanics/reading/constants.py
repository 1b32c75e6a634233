"""The constants of a reading as one value: of the rod, of how uneven hands are, and the samples behind them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.learning.factors import Column, Factor, Group, group_of, groups_in, with_rod
from pebble_wheel.mechanics.learning.model import Lessons, YarnMeasured
from pebble_wheel.mechanics.memory import with_kept_hash
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Node,
    Ply,
    Rod,
    Single,
    Wrapped,
    with_members,
)


@dataclass(frozen=True)
class Spreads:
    """How uneven hand spinning is and how uncertain the rest, calibrated for this product."""

    tex: float = 0.12
    """Coefficient of variation of linear density along a single."""
    twist: float = 0.10
    """The same of twist, of a single and of a ply."""
    bend: float = 0.25
    """Standard deviation of k of the rod."""
    set_share: float = 0.05
    """Standard deviation of s of the rod."""
    bloom: float = 0.30
    """Standard deviation of bloom, as a share of it."""
    squeeze: float = 0.35
    """Standard deviation of the logarithm of Q of the packing law."""
    tension: float = 0.63
    """The same of plying tension: eight of ten lie between 10 and 50 cN about 20 (assumed)."""
    loop: float = 0.15
    """Coefficient of variation of the loops of a chain (assumed)."""
    wrap_packing: float = 0.30
    """The same of how firmly a wrap is laid."""
    strip: float = 0.12
    """The same of a drafted strip, which is drafted like a single."""


@dataclass(frozen=True)
class Middle:
    """About what a yarn is reckoned, as samples have taught it."""

    bend_to_twist: float
    set_share: float
    singles: tuple[tuple[Group, float, float, float], ...]
    """Of each group, over what is usual: Q of the packing law, bloom, and the length lost on the first wash."""


@lru_cache(maxsize=256)
def _middle(constants: "Constants", groups: tuple[Group, ...]) -> Middle:
    """Return about what a yarn of fibres and preparations is reckoned, the main one first."""
    (stiffness, set_share), _ = constants.known((("stiffness", groups[0]), ("set", groups[0])))
    rod = with_rod(constants.rod, float(stiffness), float(set_share))
    means = {group: constants.known(tuple((each, group) for each in _CENTRED))[0] for group in groups}
    factors = tuple((group, _times(mean[0]), _times(mean[1]), _times(mean[2])) for group, mean in means.items())
    return Middle(round(float(rod.bend_to_twist), 4), round(float(rod.set_share), 4), factors)


def _times(mean: float) -> float:
    return round(float(np.exp(mean)), 4)


_CENTRED: tuple[Factor, ...] = ("packing", "bloom", "draws up")


def _with(node: Node, factors: Mapping[Group, Sequence[float]]) -> Node:
    match node:
        case Bought():
            return node
        case Single():
            packing, bloom, draws_up = factors.get(group_of(node), (1.0, 1.0, 1.0))
            return replace(node, squeeze_factor=packing, bloom_factor=bloom, draws_up_factor=draws_up)
        case Ply() | Chain() | CoreSpun() | Wrapped():
            return with_members(node, tuple(_with(member.node, factors) for member in node.members))


@with_kept_hash
@dataclass(frozen=True)
class Constants:
    """What a yarn is read by: those for typical hand spinning until samples of one's own teach others."""

    rod: Rod = field(default_factory=Rod)
    spreads: Spreads = field(default_factory=Spreads)
    lessons: Lessons | None = None
    """What samples of one's own have taught; None where there are none, or where they are not to count."""
    whose: str = ""
    """Name of the spinner whose samples they are."""
    middle: Middle | None = None
    """About what is reckoned, where only that is known of what was learned."""
    measured: YarnMeasured | None = None
    """Of the readings learned from, those of the very yarn that is read."""

    @property
    def own_samples(self) -> int:
        """Samples that these were learned from."""
        return len(self.lessons.entries) if self.lessons else 0

    def middle_of(self, node: Node) -> Middle | None:
        """Return about what a yarn is reckoned, to four digits; None where nothing was learned."""
        if self.middle is not None or self.lessons is None:
            return self.middle
        return _middle(self, groups_in(node))

    @property
    def known_by(self) -> str:
        """By what is told whether two are of the same lessons; empty of none."""
        return (
            "" if self.lessons is None else f"{self.whose} {self.own_samples} {float(self.lessons.evidences.sum()):.9g}"
        )

    def rod_for(self, node: Node) -> Rod:
        """Return the rod of a strand, as far as samples have taught it."""
        middle = self.middle_of(node)
        return self.rod if middle is None else Rod(middle.bend_to_twist, middle.set_share)

    def as_learned(self, node: Node) -> Node:
        """Return a structure whose singles pack, bloom and draw up as samples have taught."""
        middle = self.middle_of(node)
        return node if middle is None else _with(node, {group: factors for group, *factors in middle.singles})

    def known(self, columns: tuple[Column, ...]) -> tuple[FloatArray, FloatArray]:
        """Return mean and covariance of factors of a yarn, as samples have taught them.

        Raises:
            ValueError: where nothing was learned.
        """
        if self.lessons is None:
            raise ValueError("nothing was learned")
        return self.lessons.of_yarn(columns, self.measured) if self.measured else self.lessons.of_new(columns)
