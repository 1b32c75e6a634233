"""A structure as it lies settled: what stands at every level, and what is read off it as a whole.

How it comes to lie so is worked out in ``settling``.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import LOOSEST, character, usual_draw
from pebble_wheel.mechanics.strand.helix import curvature, nested_curvature_squared, torsion
from pebble_wheel.mechanics.strand.layout import Layout
from pebble_wheel.mechanics.strand.structure import Bought, Hand, Leaf, Locks, Nest, Rod, Single, Wrap, wrap_of


@dataclass(frozen=True)
class LeafState:
    """A single or a bought thread within a settled structure. Arrays of one shape, or scalars."""

    node: Leaf
    twist_now: FloatArray
    """turns/m of its own present length."""
    turns: FloatArray
    """Present twist in turns per bobbin metre."""
    length: FloatArray
    """Present length per bobbin length."""
    packing: FloatArray
    """NaN for a bought thread, whose thickness is given."""
    diameter: FloatArray
    """mm."""
    angle: FloatArray
    """Surface fibre angle, radians, signed."""
    bobbin_diameter: FloatArray
    """mm, as spun."""
    bobbin_twist: FloatArray
    """turns/m, as spun."""


@dataclass(frozen=True)
class Seated:
    """Strands of one member that lie alike in a settled structure."""

    member: int
    count: int
    state: "State"
    angle: FloatArray
    """Helix angle, radians, signed."""
    radius: FloatArray
    """Of the centre-line, mm; 0 where it lies straight."""
    feed: FloatArray
    """Pieces of the member, one strand of it, in a piece of the whole, for the length of its helix."""
    consumption: FloatArray
    """What is used up over the length of the helix: overlaps of a chain, coils of a wrapper."""


@dataclass(frozen=True)
class NestState:
    """A strand with members within a settled structure. Arrays of one shape, or scalars."""

    node: Nest
    layout: Layout
    seats: tuple[Seated, ...]
    twist_now: FloatArray
    """turns/m of its own present length."""
    turns: FloatArray
    """Present twist in turns per thousand pieces."""
    length: FloatArray
    """Present length of a piece, mm."""
    diameter: FloatArray
    """Apparent diameter: the mean width over all views, mm."""
    angle: FloatArray
    """What the eye sees: helix angle of the outermost strands, of coils, or of a wrap's surface; radians, signed."""
    jamming: FloatArray
    """1 where no more turns can be laid in."""
    wrap_mass: FloatArray
    """Tex mm of wrapped fibre in a piece."""


State = LeafState | NestState


@dataclass(frozen=True)
class Fibres:
    """What a single has of its fibres, however it is twisted. Arrays, or scalars."""

    loose: FloatArray
    """How much they resist without twist, by the packing law."""
    squeeze: FloatArray
    """By how much more a squared turn a metre presses them."""
    solid: FloatArray
    """The diameter were there no air between them, mm."""


@dataclass(frozen=True)
class MadeLeaf:
    """A leaf as it came off the wheel or the shop's cone: the reference of all lengths."""

    node: Leaf
    inserted: FloatArray
    state: LeafState
    kept: FloatArray
    """Its length over that of its fibres untwisted."""
    fibres: Fibres | None
    """None of a bought thread, which is as thick as it came."""


@dataclass(frozen=True)
class MadeNest:
    """A strand with members as it came off its own step, with nothing above it."""

    node: Nest
    members: tuple["Made", ...]
    inserted: FloatArray
    """Own turns per thousand pieces."""
    feeds: tuple[FloatArray, ...]
    """Of each seat."""
    state: NestState

    @property
    def layout(self) -> Layout:
        """How the strands are seated."""
        return self.state.layout


Made = MadeLeaf | MadeNest


def one_of(state: NestState, index: int) -> NestState:
    """Return one along the first axis of a state; what has fewer axes than its length is the same for all."""
    axes = max(np.ndim(state.length), 1)

    def picked(values: State | Seated) -> dict[str, Any]:
        return {
            name: np.asarray(value[index]) if isinstance(value, np.ndarray) and value.ndim == axes else value
            for name, value in vars(values).items()
        }

    def within(inner: State) -> State:
        return nest(inner) if isinstance(inner, NestState) else LeafState(**picked(inner))

    def nest(whole: NestState) -> NestState:
        seats = tuple(Seated(**{**picked(each), "state": within(each.state)}) for each in whole.seats)
        return NestState(**{**picked(whole), "seats": seats})

    return nest(state)


def leaves(
    state: State, pieces: Floats = 1.0, path: tuple[Floats, Floats] | None = None
) -> Iterator[tuple[LeafState, Floats, Floats]]:
    """Yield every leaf with how many pieces of it a piece of the whole holds, and the mean κ² of its path [1/mm²].

    Of a strand within a strand it is exact; deeper down what a strand winds round is taken to be as evenly bent as its
    mean. ``path`` is curvature and torsion of the way of a strand with members, None where it lies straight.
    """
    if isinstance(state, LeafState):
        yield state, pieces, 0.0
        return
    wound = 2 * np.pi / 1000 * state.twist_now
    for each in state.seats:
        inner = pieces * each.count * each.feed
        if path is None:
            squared = curvature(each.radius, wound) ** 2
        else:
            squared = nested_curvature_squared(*path, each.radius, wound)
        if isinstance(each.state, LeafState):
            yield each.state, inner, squared
        else:
            yield from leaves(each.state, inner, (np.sqrt(squared), torsion(each.radius, wound)))


def energy(state: State, rod: Rod) -> FloatArray:
    """Return the elastic energy stored in a piece, ``Σ ½ B κ² + ½ C (2π t)²`` over its singles per bobbin millimetre.

    t is the present twist less the set part, ``t − s·t_spun``, per bobbin millimetre; a bought thread is at rest with
    the twist it came with. ``B = k T²``, ``C = T²`` with T on the bobbin. A wrap of fibre stores none.
    """
    stored = np.asarray(0.0)
    for leaf, pieces, curvature_squared in leaves(state):
        rest = at_rest(leaf.node, rod.set_share)
        live = (leaf.turns - rest * leaf.bobbin_twist) / 1000
        stiffness = np.asarray(leaf.node.tex) ** 2
        own = rod.bend_to_twist * curvature_squared + (2 * np.pi * live) ** 2
        stored = stored + pieces * stiffness / 2 * own
    return stored


def at_rest(node: Leaf, set_share: Floats) -> Floats:
    """Return the share of a leaf's own twist that has no torque left: all of a bought thread's."""
    match node:
        case Single():
            return set_share
        case Bought():
            return 1.0


PRESSED: dict[Hand, float] = {"even": 1.0, "closed": 1.25, "open": 0.75}
"""Packing of a wrap by the hand on it, over the usual (assumed: the spread of wraps that nobody looked at)."""

STANDING: dict[Locks, float] = {"none": 1.0, "caught": 0.9, "free": 0.75}
"""The same of a wrap with locks, whose tips stand off (assumed)."""


def wrap_packing(wrap: Wrap) -> Floats:
    """Return the packing of a wrap of fibre: twice φ0 of its preparation, not the twist law (calibrated here).

    A closed hand makes it firmer, an open one and locks that stand off looser.
    """
    kind = character(wrap.prep, usual_draw(wrap.prep))
    own = PRESSED[wrap.hand] * STANDING[wrap.locks] * wrap.packing_factor
    return np.minimum(2 * LOOSEST[kind] * own, 0.6)


def wraps(state: State) -> Iterator[tuple[Wrap, NestState]]:
    """Yield every wrap of fibre with the strand that it covers."""
    for each in nests(state):
        wrap = wrap_of(each.node)
        if wrap:
            yield wrap, each


def mass(state: State) -> FloatArray:
    """Return the mass of a piece in tex mm: that of its strands with all they consume, and of a wrap."""
    if isinstance(state, LeafState):
        return np.asarray(state.node.tex, float)
    inner = (each.count * each.feed * each.consumption * mass(each.state) for each in state.seats)
    return sum(inner, state.wrap_mass)


def bobbin_length(state: State) -> FloatArray:
    """Return the mean bobbin length of the strands that run through a piece, mm, for the take-up."""
    if isinstance(state, LeafState):
        return np.ones(np.shape(state.length))
    total = sum((each.count * each.feed * bobbin_length(each.state) for each in state.seats), np.asarray(0.0))
    return total / sum(each.count for each in state.seats)


def nests(state: State) -> Iterator[NestState]:
    """Yield every strand with members, the whole first."""
    if isinstance(state, NestState):
        yield state
        for each in state.seats:
            yield from nests(each.state)
