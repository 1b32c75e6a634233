"""The settled state of a structure: twist, angle, packing and length at every level, as one fixed point.

Twisting a strand also twists every strand inside it. In signed turns per fixed piece of material

    Tw(member) = own inserted turns + Tw(strand) · cos β(member)

(Călugăreanu-White: link = twist + writhe, the writhe of N helical turns being N (1 − cos β)). Lengths then follow from
the angles, bottom up: a single's from its retraction, a ply's from its helices.

Every strand has its own piece of material: of a single, 1 mm as it lay on the bobbin; of a strand with members, what
holds one such piece of each member on the average. How many pieces of each member a piece of the whole takes in is
its feed, fixed when it is made: the members fit there, and later changes of twist leave them a shade slack or tight.
Inserted turns and feeds are known from each strand's own step, solved with nothing above it ("as made").
"""

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.helix import curvature, lay
from pebble_wheel.mechanics.layout import EVEN, Layout, seat
from pebble_wheel.mechanics.packing import TABLE, character, packing_fraction, usual_draw
from pebble_wheel.mechanics.single import diameter, length_kept, surface_angle, surface_tangent
from pebble_wheel.mechanics.structure import (
    Chain,
    CoreSpun,
    Leaf,
    Nest,
    Node,
    Ply,
    Rod,
    Single,
    Wrap,
    Wrapped,
    turns_of,
)

TOLERANCE = 1e-6
"""Of lengths, relative, and of angles in radians."""

MOST_ROUNDS = 60

_STEEPEST_SINE = float(np.sin(np.radians(52)))
"""Past the angle at which any ring jams: strands are held here while the fixed point runs."""

_STEEPEST_TANGENT = 30.0
"""Of surface fibres, some 88°: where a strand is twisted beyond all sense the fixed point is held here too."""


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
class MadeLeaf:
    """A leaf as it came off the wheel or the shop's cone: the reference of all lengths."""

    node: Leaf
    inserted: FloatArray
    state: LeafState


@dataclass(frozen=True)
class MadeNest:
    """A strand with members as it came off its own step, with nothing above it."""

    node: Nest
    members: tuple["Made", ...]
    layout: Layout
    inserted: FloatArray
    """Own turns per thousand pieces."""
    feeds: tuple[FloatArray, ...]
    """Of each seat."""
    state: NestState


Made = MadeLeaf | MadeNest


def coil_radius(overfeed: Floats, turns_per_m: Floats, least: Floats) -> FloatArray:
    """Return how far a wrapper fed O times the yarn's length stands off: ``sqrt(O² − 1)/(2πt)``, at least in contact.

    Args:
        overfeed: O.
        turns_per_m: t, of either sign; without twist there is no coil.
        least: distance of the centre-lines in contact, mm.
    """
    twist = np.abs(np.asarray(turns_per_m, float)) / 1000
    loop = np.sqrt(np.asarray(overfeed) ** 2 - 1) / (2 * np.pi * np.maximum(twist, 1e-3))
    return np.maximum(np.where(twist > 1e-3, loop, 0.0), least)


def wrap_packing(wrap: Wrap) -> Floats:
    """Return the packing of a wrap of fibre: twice φ0 of its preparation, not the twist law (calibrated here)."""
    kind = character(wrap.prep, usual_draw(wrap.prep))
    return np.minimum(2 * TABLE[kind].loosest * wrap.packing_factor, 0.6)


def make(node: Node, near: Made | None = None, tolerance: float = TOLERANCE) -> Made:
    """Return a structure with every strand's own step solved, bottom up.

    ``near``, one much like it, saves rounds; so does a wider tolerance.
    """
    if isinstance(node, Leaf):
        return _make_leaf(node)
    like = near if isinstance(near, MadeNest) else None
    known = like.members if like else [None] * len(node.members)
    members = tuple(make(member.node, each, tolerance) for member, each in zip(node.members, known, strict=True))
    return make_nest(node, members, turns_of(node), like.state if like else None, tolerance)


def make_nest(
    node: Nest,
    members: tuple[Made, ...],
    turns_per_m: Floats,
    start: NestState | None = None,
    tolerance: float = TOLERANCE,
    rounds: int = MOST_ROUNDS,
    sized: bool = True,
) -> MadeNest:
    """Return a strand laid from made members with a twist [turns/m of itself], counted with nothing above it.

    ``start``, a settled state close by, of one shape with this or of scalars, saves rounds; so do a wider
    tolerance and fewer rounds at the most. Where the
    energy is all that is wanted, not ``sized`` leaves the apparent diameter of the whole NaN.
    """
    thickness = [float(np.median(member.state.diameter)) for member in members]
    counts = [member.count for member in node.members]
    layout = seat(counts, thickness, _tension_share(node))
    work = _NestWork(node, members, layout, None)
    if start is not None:
        work.start_from(start)
    turns = np.asarray(turns_per_m, float)
    for _ in range(rounds):
        before = work.shape()
        work.twist_to(turns)
        if _settled(before, work.shape(), tolerance):
            break
    state = work.state(sized)
    return MadeNest(node, members, layout, state.turns, tuple(each.feed for each in state.seats), state)


def one_of(state: State, index: int) -> State:
    """Return one variant of a state of an array of them."""

    def picked(values: State | Seated) -> dict[str, Any]:
        own = ((each.name, getattr(values, each.name)) for each in fields(values))
        return {name: np.asarray(value[index]) for name, value in own if isinstance(value, np.ndarray) and value.ndim}

    if isinstance(state, LeafState):
        return replace(state, **picked(state))
    seats = tuple(replace(each, state=one_of(each.state, index), **picked(each)) for each in state.seats)
    return replace(state, seats=seats, **picked(state))


def retwist(made: MadeNest, turns: Floats, tolerance: float = TOLERANCE, rounds: int = MOST_ROUNDS) -> NestState:
    """Return the settled state of the very material of a made strand with other turns per thousand pieces.

    ``turns`` may have a further axis in front: several twists of one piece. The apparent diameter of the whole is
    left NaN.
    """
    work = _NestWork(made.node, made.members, made.layout, made.feeds)
    work.start_from(made.state)
    turns = np.asarray(turns, float)
    for _ in range(rounds):
        before = work.shape()
        work.carry(turns, np.asarray(0.0))
        if _settled(before, work.shape(), tolerance):
            break
    return work.state(sized=False)


def _settled(before: tuple[FloatArray, FloatArray], now: tuple[FloatArray, FloatArray], tolerance: float) -> bool:
    """Whether a round changed nothing: the length alone can stand still while twist and thickness still move."""
    return all(np.max(np.abs(new - old)) < tolerance for old, new in zip(before, now, strict=True))


def _tension_share(node: Nest) -> float:
    if isinstance(node, Ply):
        return node.tension_share
    return 1.0 if isinstance(node, Wrapped) else EVEN


def _make_leaf(node: Leaf) -> MadeLeaf:
    turns = np.asarray(turns_of(node), float)
    if isinstance(node, Single):
        packing = packing_fraction(node.packing, turns**2, node.tex, node.squeeze_factor)
        thick = np.asarray(diameter(node.tex, node.fibre.density, packing))
    else:
        thick, packing = np.asarray(node.diameter, float), np.asarray(np.nan)
    angle = np.asarray(surface_angle(thick, turns))
    one = np.ones(np.broadcast(thick, turns).shape)
    return MadeLeaf(node, turns, LeafState(node, turns, turns, one, packing, thick, angle, thick, turns))


class _LeafWork:
    """The running values of a leaf inside the fixed point."""

    def __init__(self, made: MadeLeaf) -> None:
        self.made = made
        state = made.state
        self.inserted = made.inserted
        self.length: FloatArray = state.length
        self.contact: FloatArray = state.diameter / 2
        self.stiffness = (state.bobbin_diameter / 2) ** 4
        self.turns, self.packing = state.turns, state.packing
        self._made_kept = _kept(state.diameter, state.twist_now)

    def start_from(self, state: State) -> None:
        self.length, self.contact = state.length, state.diameter / 2

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        node = self.made.node
        twist = turns / self.length
        self.turns = turns
        if isinstance(node, Single):
            tex = node.tex / self.length
            self.packing = packing_fraction(node.packing, twist**2 + above_squared, tex, node.squeeze_factor)
            self.contact = np.asarray(diameter(tex, node.fibre.density, self.packing)) / 2
        self.length = np.asarray(_kept(2 * self.contact, twist) / self._made_kept)

    def state(self) -> LeafState:
        twist = self.turns / self.length
        return replace(
            self.made.state,
            twist_now=twist,
            turns=self.turns,
            length=self.length,
            packing=self.packing,
            diameter=2 * self.contact,
            angle=np.asarray(surface_angle(2 * self.contact, twist)),
        )


def _kept(diameter: FloatArray, turns_per_m: FloatArray) -> Floats:
    return length_kept(np.minimum(np.abs(surface_tangent(diameter, turns_per_m)), _STEEPEST_TANGENT))


class _NestWork:
    """The running values of a strand with members inside the fixed point."""

    def __init__(
        self, node: Nest, members: tuple[Made, ...], layout: Layout, feeds: tuple[FloatArray, ...] | None
    ) -> None:
        self.node, self.layout, self.feeds = node, layout, feeds
        self.seats = layout.seats
        self.members = [_work(members[each.member]) for each in self.seats]
        self.strands = sum(each.count for each in self.seats)
        straight, zero = np.asarray(1.0), np.asarray(0.0)
        self.angles, self.cosines, self.radii = ([v] * len(self.seats) for v in (zero, straight, zero))
        self.turns = self.inserted = zero
        self.wrap_mass = self.wrap_angle = zero
        self.length: FloatArray = self._mean_length()
        self._contact: FloatArray | None = None

    @property
    def contact(self) -> FloatArray:
        """Half the apparent diameter; worked out when asked for, which a strand on top does once."""
        if self._contact is None:
            self._contact = self._width() / 2
        return self._contact

    @property
    def stiffness(self) -> FloatArray:
        """Bending stiffness of a composite: the sum over its singles."""
        return sum(
            (each.count * work.stiffness for each, work in zip(self.seats, self.members, strict=True)), np.asarray(0.0)
        )

    def start_from(self, state: State) -> None:
        assert isinstance(state, NestState)
        self.turns, self.length, self._contact = state.turns, state.length, state.diameter / 2
        for place, each in enumerate(state.seats):
            self.angles[place], self.cosines[place] = each.angle, np.cos(each.angle)
            self.radii[place] = each.radius
            self.members[place].start_from(each.state)

    def shape(self) -> tuple[FloatArray, FloatArray]:
        """Return the length and the outermost angle, by which a round is judged."""
        return self.length, self.angles[-1]

    def twist_to(self, turns_per_m: FloatArray) -> None:
        """One round with this strand on top, at turns per metre of itself: ``tan β = 2πR t``."""
        for place, work in enumerate(self.members):
            turned = turns_per_m * work.length * self.cosines[place] ** 2
            work.carry(work.inserted + turned, turns_per_m**2)
        self._seat()
        for place, radius in enumerate(self.radii):
            tangent = 2 * np.pi / 1000 * radius * turns_per_m
            self.angles[place], self.cosines[place] = np.arctan(tangent), 1 / np.sqrt(1 + tangent**2)
        self.length = self._mean_length()
        self.turns = turns_per_m * self.length
        self._contact = None

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        """One round with given turns of given material: ``sin β = 2πR · turns / strand length``."""
        assert self.feeds is not None
        self.turns = turns
        twist = turns / self.length
        for place, work in enumerate(self.members):
            turned = turns / self.feeds[place] * self.cosines[place]
            work.carry(work.inserted + turned, above_squared + twist**2)
        self._seat()
        length = np.asarray(0.0)
        for place, (each, radius, work) in enumerate(zip(self.seats, self.radii, self.members, strict=True)):
            own = self.feeds[place] * work.length
            sine = np.maximum(np.minimum(2 * np.pi / 1000 * radius * turns / own, _STEEPEST_SINE), -_STEEPEST_SINE)
            self.angles[place], self.cosines[place] = np.arcsin(sine), np.sqrt(1 - sine**2)
            length = length + each.count * own * self.cosines[place]
        self.length = length / self.strands
        self._contact = None

    def _mean_length(self) -> FloatArray:
        """Return the length of a piece that holds one piece of a member on the average."""
        if len(self.seats) == 1:
            return self.members[0].length * self.cosines[0]
        taken = sum(
            (
                each.count / (work.length * cosine)
                for each, work, cosine in zip(self.seats, self.members, self.cosines, strict=True)
            ),
            np.asarray(0.0),
        )
        return np.asarray(self.strands / taken)

    def _seat(self) -> None:
        if isinstance(self.node, CoreSpun):
            return
        if self.layout.plain:
            self.radii[0] = self.members[0].contact * lay(self.strands).ratio_at(self.angles[0])
            return
        self.radii = self.layout.radii(*self._by_member(), self.angles)

    def _by_member(self) -> tuple[list[FloatArray], list[Floats]]:
        found = {each.member: work for each, work in zip(self.seats, self.members, strict=True)}
        ordered = [found[member] for member in sorted(found)]
        return [work.contact for work in ordered], [work.stiffness for work in ordered]

    def _width(self) -> FloatArray:
        """Return the apparent diameter."""
        if isinstance(self.node, CoreSpun):
            return self._wrap(self.node)
        if isinstance(self.node, Wrapped):
            return self._coiled_width(self.node)
        return self.layout.width(*self._by_member())

    def _wrap(self, node: CoreSpun) -> FloatArray:
        """Lay the wrap: its mass over the helix at its middle; return the outer diameter that its packing makes."""
        core = 2 * self.members[0].contact
        twist = self.turns / self.length / 1000
        fraction = wrap_packing(node.wrap)
        outer = core * 1.5
        for _ in range(12):
            middle = (core + outer) / 4
            mass = node.wrap.tex * np.sqrt(1 + (2 * np.pi * middle * twist) ** 2)
            outer = np.sqrt(core**2 + diameter(mass, node.wrap.fibre.density, fraction) ** 2)
        self.wrap_angle = np.arctan(np.pi * outer * twist)
        self.wrap_mass = np.asarray(mass * self.length)
        return np.asarray(outer)

    def _coiled_width(self, node: Wrapped) -> FloatArray:
        """Return the apparent diameter of binder and coils: between a lone coil's hull and, where packed, a solid tube.

        The hull of two circles at the distance D has the perimeter
        ``2 sqrt(D² − (r1 − r2)²) + π (r1 + r2) + 2 (r1 − r2) asin((r1 − r2)/D)``; its mean width is that over π.
        """
        binder, wrapper = self.members[0].contact, self.members[1].contact
        away = coil_radius(node.overfeed, self.turns / self.length, binder + wrapper)
        unlike = binder - wrapper
        straight = 2 * np.sqrt(away**2 - unlike**2)
        hull = (straight + 2 * unlike * np.arcsin(unlike / away)) / np.pi + binder + wrapper
        packed = np.minimum(self._wrapper_coverage(), 1.0)
        return hull + packed * np.maximum(2 * (away + wrapper) - hull, 0.0)

    def _wrapper_coverage(self) -> FloatArray:
        """Return the share of the yarn's surface that the wrapper's coils take up; 1 is jammed."""
        assert isinstance(self.node, Wrapped)
        twist = np.abs(self.turns / self.length) / 1000
        sine = np.maximum(np.sin(np.abs(self.angles[1])), 1e-9)
        return np.where(twist > 0, 2 * self.members[1].contact * twist / sine, 0.0)

    def _jamming(self) -> FloatArray:
        """Return how full of turns the outermost ring is."""
        if isinstance(self.node, CoreSpun):
            return np.zeros(np.shape(self.length))
        if isinstance(self.node, Wrapped):
            return self._wrapper_coverage()
        strands = len(self.layout.rings[-1])
        last = [place for place, each in enumerate(self.seats) if each.ring == self.seats[-1].ring]
        fill = np.asarray(0.0)
        for place in last:
            work, share = self.members[place], self.seats[place].count / strands
            own = work.length if self.feeds is None else self.feeds[place] * work.length
            turns = self.turns / self.length * self.cosines[place] * own if self.feeds is None else self.turns
            wanted = 2 * np.pi / 1000 * work.contact * turns / own
            fill = fill + share * lay(strands).jamming(self.angles[place], wanted)
        return fill

    def _consumption(self, place: int) -> FloatArray:
        if isinstance(self.node, Chain):
            # One overlap of a strand's girth, πd, to each loop of three legs.
            overlap = np.pi * 2 * self.members[place].contact
            return np.asarray(1 + overlap / (len(self.layout.rings[0]) * np.asarray(self.node.loop)))
        if isinstance(self.node, Wrapped) and self.seats[place].member == 1:
            return np.maximum(self.node.overfeed * self.cosines[place], 1.0)
        return np.asarray(1.0)

    def _seen_angle(self) -> FloatArray:
        """Return the angle that the eye sees: of a wrap at its surface, of coils, or of the steepest outer strand."""
        if isinstance(self.node, CoreSpun):
            return self.wrap_angle
        if isinstance(self.node, Wrapped):
            twist = self.turns / self.length
            least = self.members[0].contact + self.members[1].contact
            return np.arctan(2 * np.pi / 1000 * coil_radius(self.node.overfeed, twist, least) * twist)
        seen = self.angles[-1]
        for angle, own in zip(self.angles, self.seats, strict=True):
            if own.ring == self.seats[-1].ring:
                seen = np.where(np.abs(angle) > np.abs(seen), angle, seen)
        return seen

    def state(self, sized: bool = True) -> NestState:
        wrapped = isinstance(self.node, CoreSpun)  # whose width also says how much wrap there is
        diameter_now = 2 * self.contact if sized or wrapped else np.asarray(np.nan)
        seats = []
        for place, (each, work) in enumerate(zip(self.seats, self.members, strict=True)):
            feed = self.length / (work.length * self.cosines[place]) if self.feeds is None else self.feeds[place]
            seats.append(
                Seated(
                    each.member,
                    each.count,
                    work.state(),
                    self.angles[place],
                    self.radii[place],
                    feed,
                    self._consumption(place),
                )
            )
        return NestState(
            self.node,
            tuple(seats),
            self.turns / self.length,
            self.turns,
            self.length,
            diameter_now,
            self._seen_angle(),
            self._jamming(),
            self.wrap_mass,
        )


def _work(made: Made) -> "_LeafWork | _NestWork":
    if isinstance(made, MadeLeaf):
        return _LeafWork(made)
    work = _NestWork(made.node, made.members, made.layout, made.feeds)
    work.inserted = made.inserted
    work.start_from(made.state)
    return work


def leaves(
    state: State, pieces: Floats = 1.0, curvature_squared: Floats = 0.0
) -> Iterator[tuple[LeafState, Floats, Floats]]:
    """Yield every leaf with how many pieces of it a piece of the whole holds, and the curvature² of its path [1/mm²].

    κ² is the sum over all levels above of ``(sin²β/R)²``, which overstates that of a nested path by up to 6 % (opposite
    twists) or 20 % (same direction, steep).
    """
    if isinstance(state, LeafState):
        yield state, pieces, curvature_squared
        return
    for each in state.seats:
        safe = np.where(each.radius > 0, each.radius, 1.0)
        bent = np.where(each.radius > 0, curvature(each.angle, safe), 0.0)
        yield from leaves(each.state, pieces * each.count * each.feed, curvature_squared + bent**2)


def energy(state: State, rod: Rod) -> FloatArray:
    """Return the elastic energy stored in a piece, ``Σ ½ B κ² + ½ C (2π t)²`` over its singles per bobbin millimetre.

    t is the present twist less the set part, ``t − s·t_spun``, per bobbin millimetre; a bought thread is at rest with
    the twist it came with. ``B = k r⁴``, ``C = r⁴`` with r on the bobbin. A wrap of fibre stores none.
    """
    stored = np.asarray(0.0)
    for leaf, pieces, curvature_squared in leaves(state):
        rest = rod.set_share if isinstance(leaf.node, Single) else 1.0
        live = (leaf.turns - rest * leaf.bobbin_twist) / 1000
        stiffness = (leaf.bobbin_diameter / 2) ** 4
        own = rod.bend_to_twist * curvature_squared + (2 * np.pi * live) ** 2
        stored = stored + pieces * stiffness / 2 * own
    return stored


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
