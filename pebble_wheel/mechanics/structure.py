"""The structure tree: what a yarn is made of. Values may be scalars or arrays of variants.

Twist is signed, Z positive, and counted on each strand as it comes off its own step, before anything later
changes it.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.fibres import SOFT_WOOLLEN, Fibre, Range
from pebble_wheel.mechanics.packing import TABLE, Character, Draw, Packing, Prep, character


@dataclass(frozen=True)
class Turns:
    """Twist given outright [turns/m, signed]."""

    per_m: Floats


@dataclass(frozen=True)
class OfBalanced:
    """Twist given as a multiple of the balanced twist of this very strand; 1 is balanced."""

    multiple: float
    direction: int
    """+1 for Z, −1 for S."""


Twist = Turns | OfBalanced


@dataclass(frozen=True)
class Single:
    """One drafted strand, as spun."""

    fibre: Fibre
    prep: Prep
    draw: Draw
    tex: Floats
    twist: Twist
    squeeze_factor: Floats = 1.0
    """A multiplier on Q of the packing law, for its spread."""

    @property
    def character(self) -> Character:
        """Worsted, semi or woollen."""
        return character(self.prep, self.draw)

    @property
    def packing(self) -> Packing:
        """Constants of the packing law."""
        return TABLE[self.character]

    @property
    def usual_factor(self) -> Range:
        """Usual range of the tex twist factor for this fibre, drawn this way."""
        return SOFT_WOOLLEN if self.character == "woollen" else self.fibre.factor


@dataclass(frozen=True)
class Ply:
    """Equal strands twisted together."""

    strand: "Node"
    strands: int
    twist: Twist


Node = Single | Ply


@dataclass(frozen=True)
class Rod:
    """How a single bends and twists as a rod, and how much of its twist has set.

    Bending stiffness ``B = k r⁴`` and torsional stiffness ``C = r⁴`` in arbitrary units, r on the bobbin. A fibre rod
    has k = 1 + ν, about 1.3 to 1.5; the set share is calibrated for this product.
    """

    bend_to_twist: Floats = 1.5
    """k."""
    set_share: Floats = 0.1
    """s, the share of the spun twist that has no torque left."""


def turns_of(node: Node) -> Floats:
    """Return the twist of a strand as made [turns/m, signed].

    Raises:
        ValueError: while the twist is still given as a multiple of balance; see ``balance.resolve``.
    """
    if isinstance(node.twist, OfBalanced):
        raise ValueError("twist given as a multiple of balance must be resolved first")
    return node.twist.per_m


def chain_of(node: Node) -> Iterator[Node]:
    """Yield a node and then, level by level, the strand inside it, down to the single."""
    yield node
    if isinstance(node, Ply):
        yield from chain_of(node.strand)


def ends(node: Node) -> int:
    """Return how many singles a yarn is made of in all."""
    return node.strands * ends(node.strand) if isinstance(node, Ply) else 1
