"""The constants of a reading as one value: of the rod, of how uneven hands are, and the samples behind them."""

from dataclasses import dataclass, field, replace

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.learning.factors import Column, group_of, main_group, with_rod
from pebble_wheel.mechanics.learning.model import Lessons, YarnMeasured
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
class Constants:
    """What a yarn is read by: those for typical hand spinning until samples of one's own teach others."""

    rod: Rod = field(default_factory=Rod)
    spreads: Spreads = field(default_factory=Spreads)
    lessons: Lessons | None = None
    """What samples of one's own have taught; None where there are none, or where they are not to count."""
    measured: YarnMeasured | None = None
    """Of the readings learned from, those of the very yarn that is read."""

    @property
    def own_samples(self) -> int:
        """Samples that these were learned from."""
        return len(self.lessons.entries) if self.lessons else 0

    def rod_for(self, node: Node) -> Rod:
        """Return the rod of a strand, as far as samples have taught it."""
        if self.lessons is None:
            return self.rod
        main = main_group(node)
        (stiffness, set_share), _ = self.known((("stiffness", main), ("set", main)))
        rod = with_rod(self.rod, float(stiffness), float(set_share))
        return Rod(float(rod.bend_to_twist), float(rod.set_share))

    def as_learned(self, node: Node) -> Node:
        """Return a structure whose singles pack, bloom and draw up as samples have taught."""
        if self.lessons is None:
            return node
        match node:
            case Bought():
                return node
            case Single():
                group = group_of(node)
                means, _ = self.known((("packing", group), ("bloom", group), ("draws up", group)))
                packing, bloom, draws_up = (float(each) for each in np.exp(means))
                return replace(node, squeeze_factor=packing, bloom_factor=bloom, draws_up_factor=draws_up)
            case Ply() | Chain() | CoreSpun() | Wrapped():
                return with_members(node, tuple(self.as_learned(member.node) for member in node.members))

    def known(self, columns: tuple[Column, ...]) -> tuple[FloatArray, FloatArray]:
        """Return mean and covariance of factors of a yarn, as samples have taught them.

        Raises:
            ValueError: where nothing was learned.
        """
        if self.lessons is None:
            raise ValueError("nothing was learned")
        return self.lessons.of_yarn(columns, self.measured) if self.measured else self.lessons.of_new(columns)
