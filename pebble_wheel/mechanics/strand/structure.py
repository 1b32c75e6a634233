"""The structure tree: what a yarn is made of. Values may be scalars or arrays of variants.

Twist is signed, Z positive, and counted on each strand as it comes off its own step, before anything later
changes it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.fibre.packing import LOOSEST, Character, Draw, Prep, character
from pebble_wheel.mechanics.fibre.table import SOFT_WOOLLEN, Fibre, Range
from pebble_wheel.mechanics.memory import with_kept_hash
from pebble_wheel.mechanics.strand.layout import EVEN

CHAIN_LEGS = 3

PLYING_TENSION = 20.0
"""cN, of one strand while it is plied (assumed); hands hold 10 to 50."""

BEND_TO_TWIST = 1.5
"""k of a single: bending over torsional stiffness."""


Nature = Literal["smooth", "hairy", "looped"]
Hand = Literal["even", "closed", "open"]
"""How it lies on a wrap while it is spun: a closed one presses it firm, an open one leaves it lofty."""

Locks = Literal["none", "caught", "free"]
"""Locks in a wrap: caught by their cut ends with their tips free, or laid in without."""
"""Of the surface of a strand in hand."""


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


@with_kept_hash
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
    size_off: float = 0.0
    """How far linear density may be off as it was measured, a standard deviation of its logarithm."""
    bloom_factor: Floats = 1.0
    """A multiplier on B of its fibre, as samples taught it."""
    draws_up_factor: Floats = 1.0
    """The same on the length that it loses on the first wash."""

    @property
    def character(self) -> Character:
        """Worsted, semi or woollen."""
        return character(self.prep, self.draw)

    @property
    def loosest(self) -> float:
        """φ0 of the packing law."""
        return LOOSEST[self.character]

    @property
    def usual_factor(self) -> Range:
        """Usual range of the tex twist factor for this fibre, drawn this way."""
        return SOFT_WOOLLEN if self.character == "woollen" else self.fibre.factor


@with_kept_hash
@dataclass(frozen=True)
class Bought:
    """A strand in hand that is not spun here: at rest with the twist it came with, and of a firm thickness."""

    tex: Floats
    diameter: Floats
    """mm."""
    twist: Twist
    nature: Nature = "smooth"
    fibre: Fibre | None = None
    """What it is of, where that is known."""


@dataclass(frozen=True)
class Member:
    """Strands of one kind in a ply."""

    node: "Node"
    count: int = 1


@with_kept_hash
@dataclass(frozen=True)
class Ply:
    """Strands twisted together. Members that are alike stand once, with their count."""

    members: tuple[Member, ...]
    twist: Twist
    tension_share: float = EVEN
    """0.5 even; 1 holds the first strand straight and lets the others wind round it, 0 the last."""
    tension: Floats = PLYING_TENSION
    """What each strand is held with where they are laid together [cN]; it says where unlike ones lie."""

    @property
    def strands(self) -> int:
        """How many strands are laid together."""
        return sum(member.count for member in self.members)


@with_kept_hash
@dataclass(frozen=True)
class Chain:
    """Three legs of one strand, pulled loop through loop."""

    strand: "Node"
    loop: Floats
    """Length of one leg before take-up, mm."""
    twist: Twist

    @property
    def members(self) -> tuple[Member, ...]:
        """The three legs."""
        return (Member(self.strand, CHAIN_LEGS),)


@dataclass(frozen=True)
class Wrap:
    """Drafted fibre wound round a core."""

    fibre: Fibre
    prep: Prep
    tex: Floats
    """Of the drafted strip."""
    width: Floats
    """Of the strip, mm."""
    packing_factor: Floats = 1.0
    """A multiplier on its packing, for its spread."""
    hand: Hand = "even"
    locks: Locks = "none"
    covers: Floats = 1.0
    """Share of the core that is meant to be covered."""


@with_kept_hash
@dataclass(frozen=True)
class CoreSpun:
    """Fibre wrapped round a core that passes straight through; the core takes the wheel's twist too."""

    core: "Node"
    wrap: Wrap
    twist: Twist

    @property
    def members(self) -> tuple[Member, ...]:
        """The core."""
        return (Member(self.core),)


@with_kept_hash
@dataclass(frozen=True)
class Wrapped:
    """A straight binder with a wrapper fed round it, coiling where it is overfed."""

    binder: "Node"
    wrapper: "Node"
    overfeed: Floats
    """Wrapper length per yarn length, where more than the helix needs."""
    twist: Twist

    @property
    def members(self) -> tuple[Member, ...]:
        """Binder, then wrapper."""
        return (Member(self.binder), Member(self.wrapper))


Leaf = Single | Bought
Nest = Ply | Chain | CoreSpun | Wrapped
Node = Leaf | Nest


@dataclass(frozen=True)
class Rod:
    """How a single bends and twists as a rod, and how much of its twist has set.

    Torsional stiffness ``C = T²`` and bending stiffness ``B = k T²`` in arbitrary units, T the linear density on the
    bobbin: the section as if compact, so that of two singles of equal tex the fluffier one is not the stiffer. A fibre
    rod has k = 1 + ν, about 1.3 to 1.5; the set share is calibrated for this product.
    """

    bend_to_twist: Floats = BEND_TO_TWIST
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


def equal_ply(strand: Node, strands: int, twist: Twist) -> Ply:
    """Return a ply of so many equal strands."""
    return Ply((Member(strand, strands),), twist)


def with_members(node: Nest, inner: tuple[Node, ...]) -> Nest:
    """Return a strand of the same kind laid from other members, one for each of its own."""
    match node:
        case Ply():
            members = tuple(Member(new, old.count) for new, old in zip(inner, node.members, strict=True))
            return replace(node, members=members)
        case Chain():
            return replace(node, strand=inner[0])
        case CoreSpun():
            return replace(node, core=inner[0])
        case Wrapped():
            return replace(node, binder=inner[0], wrapper=inner[1])


def member_path(node: Nest, index: int) -> str:
    """Return the name of a member within its strand, as the design file has it."""
    match node:
        case Ply():
            return f"strands[{index}]"
        case Chain():
            return "strand"
        case CoreSpun():
            return "core"
        case Wrapped():
            return ("binder", "wrapper")[index]


def wrap_of(node: Node) -> Wrap | None:
    """Return the fibre that covers what a strand is laid from, so that nothing else shows; None where none does."""
    match node:
        case CoreSpun():
            return node.wrap
        case Single() | Bought() | Ply() | Chain() | Wrapped():
            return None


def loop_of(node: Node) -> Floats | None:
    """Return the length of one leg [mm] of a strand that lies side by side with itself; None of any other."""
    match node:
        case Chain():
            return node.loop
        case Single() | Bought() | Ply() | CoreSpun() | Wrapped():
            return None


def coiled(node: Node) -> bool:
    """Whether the last of its members stands off in coils of its own, at an angle of theirs."""
    match node:
        case Wrapped():
            return True
        case Single() | Bought() | Ply() | Chain() | CoreSpun():
            return False


def tension_share_of(node: Nest) -> float:
    """Return how evenly members are held, see :class:`Ply`; a binder is held straight."""
    match node:
        case Ply():
            return node.tension_share
        case Wrapped():
            return 1.0
        case Chain() | CoreSpun():
            return EVEN


def plying_tension_of(node: Nest) -> Floats:
    """Return what each member is held with where they are laid together [cN]."""
    match node:
        case Ply():
            return node.tension
        case Chain() | CoreSpun() | Wrapped():
            return PLYING_TENSION


def walk(node: Node) -> Iterator[Node]:
    """Yield a node and all within it, each member once."""
    yield node
    if not isinstance(node, Leaf):
        for member in node.members:
            yield from walk(member.node)
