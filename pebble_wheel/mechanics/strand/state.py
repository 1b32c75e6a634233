"""The settled state of a structure: twist, angle, packing and length at every level, as one fixed point.

Twisting a strand also twists every strand inside it. In signed turns per fixed piece of material

    Tw(member) = own inserted turns + Tw(strand) · cos β(member)

(Călugăreanu-White: link = twist + writhe, the writhe of N helical turns being N (1 − cos β)). Lengths then follow from
the angles, bottom up: a single's from its retraction, a ply's from its helices.

Every strand has its own piece of material: of a single, 1 mm as it lay on the bobbin; of a strand with members, what
holds one such piece of each member on the average. How many pieces of each member a piece of the whole takes in is
its feed, fixed when it is made: the members fit there, and when it is twisted on or back each keeps its length while
its distance from the axis follows. Strands on unlike seats have states of their own. Inserted turns and feeds are known
from each strand's own step, solved with nothing above it ("as made").
"""

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import LOOSEST, character, packing_fraction, usual_draw
from pebble_wheel.mechanics.strand.helix import curvature, lay, nested_curvature_squared, torsion
from pebble_wheel.mechanics.strand.layout import LEAST_TURNS, Layout, Seat, seat
from pebble_wheel.mechanics.strand.single import (
    diameter,
    flexural_rigidity,
    length_kept,
    surface_angle,
    surface_tangent,
    tex_of,
    wrapped_diameter,
)
from pebble_wheel.mechanics.strand.structure import (
    BEND_TO_TWIST,
    Bought,
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
    coiled,
    plying_tension_of,
    tension_share_of,
    turns_of,
    wrap_of,
)

TOLERANCE = 1e-6
"""Of lengths, relative, and of angles in radians."""

MOST_ROUNDS = 60

STANDS_OFF = 3.0
"""Of the distance it was laid at: a strand that is fed in excess stands off no further, but hangs slack (assumed)."""

FEWEST_COILS = 1.001
"""turns/m: with fewer a coil that was twisted back hangs in slack loops, as far off as with these."""

LEAST_PULL = 0.1
"""Of the plying tension: a lively strand never pushes the axis away."""

_THREAD_FIBRE = (1.31, 25.0)
"""Density [g/cm³] and µm taken of a bought thread's fibre, for its bending only (assumed)."""

_STEEPEST, _STEEPEST_COIL = float(np.radians(52)), float(np.radians(89))
"""Past the angle at which any ring jams, and where a coil all but stands: strands are held here while the fixed point
runs."""

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
    return np.minimum(2 * LOOSEST[kind] * wrap.packing_factor, 0.6)


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

    ``start``, a settled state close by, of one shape with this or of scalars, saves rounds and says how the strands
    are seated; a wider tolerance saves rounds too, and fewer at the most. Where the energy is all that is wanted, not
    ``sized`` leaves the apparent diameter of the whole NaN.
    """
    if start is None:
        thickness = [float(np.median(member.state.diameter)) for member in members]
        layout = seat([member.count for member in node.members], thickness, tension_share_of(node))
        work = _NestWork(node, members, layout, None)
    else:
        work = _NestWork(node, members, start.layout, None)
        work.start_from(start)
    turns = np.asarray(turns_per_m, float)
    for _ in range(rounds):
        before = work.shape()
        work.twist_to(turns)
        if _settled(before, work.shape(), tolerance):
            break
    state = work.state(sized)
    return MadeNest(node, members, state.turns, tuple(each.feed for each in state.seats), state)


def one_of(state: NestState, index: int) -> NestState:
    """Return one variant of a state of an array of them."""

    def picked(values: State | Seated) -> dict[str, Any]:
        own = ((each.name, getattr(values, each.name)) for each in fields(values))
        return {name: np.asarray(value[index]) for name, value in own if isinstance(value, np.ndarray) and value.ndim}

    def within(inner: State) -> State:
        return one_of(inner, index) if isinstance(inner, NestState) else replace(inner, **picked(inner))

    seats = tuple(replace(each, state=within(each.state), **picked(each)) for each in state.seats)
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


def _settled(before: tuple[FloatArray, ...], now: tuple[FloatArray, ...], tolerance: float) -> bool:
    """Whether a round changed nothing: the length alone can stand still while twist and thickness still move."""
    return all(np.abs(new - old).max() < tolerance for old, new in zip(before, now, strict=True))


def _make_leaf(node: Leaf) -> MadeLeaf:
    turns = np.asarray(turns_of(node), float)
    thick, packing = _thick_and_packed(node, turns)
    angle = np.asarray(surface_angle(thick, turns))
    one = np.ones(np.broadcast(thick, turns).shape)
    return MadeLeaf(node, turns, LeafState(node, turns, turns, one, packing, thick, angle, thick, turns))


def _thick_and_packed(node: Leaf, turns: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the diameter [mm] and the packing of a leaf on its own; how a bought thread is packed is not known."""
    match node:
        case Single():
            packing = packing_fraction(node.loosest, turns**2, node.tex, node.squeeze_factor)
            return np.asarray(diameter(node.tex, node.fibre.density, packing)), packing
        case Bought():
            return np.asarray(node.diameter, float), np.asarray(np.nan)


class _LeafWork:
    """The running values of a leaf inside the fixed point."""

    def __init__(self, made: MadeLeaf) -> None:
        self.made = made
        state = made.state
        self.inserted = made.inserted
        self.length: FloatArray = state.length
        self.diameter, self.contact = state.diameter, state.diameter / 2
        self.turns, self.packing = state.turns, state.packing
        self._made_kept = _kept(state.diameter, state.twist_now)

    @cached_property
    def bending(self) -> Floats:
        """Bending stiffness for where unlike strands lie [N mm²]."""
        node = self.made.node
        match node:
            case Single():
                return flexural_rigidity(node.tex, node.fibre.density, node.fibre.mid_micron)
            case Bought():
                return flexural_rigidity(node.tex, *_THREAD_FIBRE)

    def torque(self) -> Floats:
        """Return the live torque for the same [N mm]; a bought thread is at rest as it came."""
        rest = self.made.inserted * _at_rest(self.made.node, 0.0)
        return self.bending / BEND_TO_TWIST * 2 * np.pi / 1000 * (self.turns - rest) / self.length

    def start_from(self, state: State) -> None:
        self.length, self.diameter, self.contact = state.length, state.diameter, state.diameter / 2

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        node = self.made.node
        twist = turns / self.length
        self.turns = turns
        match node:
            case Single():
                tex = node.tex / self.length
                self.packing = packing_fraction(node.loosest, twist**2 + above_squared, tex, node.squeeze_factor)
                self.diameter = np.asarray(diameter(tex, node.fibre.density, self.packing))
                self.contact = self.diameter / 2
            case Bought():
                pass  # as thick as it came
        self.length = np.asarray(_kept(self.diameter, twist) / self._made_kept)

    def state(self) -> LeafState:
        twist = self.turns / self.length
        return replace(
            self.made.state,
            twist_now=twist,
            turns=self.turns,
            length=self.length,
            packing=self.packing,
            diameter=self.diameter,
            angle=np.asarray(surface_angle(self.diameter, twist)),
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
        self._farthest: FloatArray | None = None
        self._farthest_coil: FloatArray | None = None

    @property
    def contact(self) -> FloatArray:
        """Half the apparent diameter; worked out when asked for, which a strand on top does once."""
        if self._contact is None:
            self._contact = self._width() / 2
        return self._contact

    @cached_property
    def bending(self) -> Floats:
        """The sum over the strands within."""
        return sum((each.count * work.bending for each, work in self._seated()), np.asarray(0.0))

    def torque(self) -> Floats:
        """Return the sum over the strands within."""
        return sum((each.count * work.torque() for each, work in self._seated()), np.asarray(0.0))

    def _seated(self) -> Iterator[tuple[Seat, "_LeafWork | _NestWork"]]:
        return zip(self.seats, self.members, strict=True)

    def start_from(self, state: State) -> None:
        assert isinstance(state, NestState)
        self.turns, self.length, self._contact = state.turns, state.length, state.diameter / 2
        for place, each in enumerate(state.seats):
            self.angles[place], self.cosines[place] = each.angle, np.cos(each.angle)
            self.radii[place] = each.radius
            self.members[place].start_from(each.state)
        if self._farthest is None:  # the first state to start from is that in which it was made
            self._farthest = STANDS_OFF * np.max(np.stack(np.broadcast_arrays(*self.radii)), axis=0)
            self._farthest_coil = STANDS_OFF * self._coil()

    def shape(self) -> tuple[FloatArray, ...]:
        """Return the length and the angles, by which a round is judged."""
        return self.length, *self.angles

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
        own = [feed * work.length for feed, work in zip(self.feeds, self.members, strict=True)]
        if self.layout.plain:
            self._seat()
            sines = [2 * np.pi / 1000 * self.radii[0] * turns / own[0]]
        else:
            sines = self._kept_sines(own)
        length, steepest = np.asarray(0.0), np.sin(_STEEPEST_COIL if coiled(self.node) else _STEEPEST)
        for place, (each, sine) in enumerate(zip(self.seats, sines, strict=True)):
            held = np.maximum(np.minimum(sine, steepest), -steepest)
            self.angles[place], self.cosines[place] = np.arcsin(held), np.sqrt(1 - held**2)
            length = length + each.count * own[place] * self.cosines[place]
        self.length = length / self.strands
        self._contact = None

    def _kept_sines(self, lengths: list[FloatArray]) -> list[FloatArray]:
        """Return the sines of the angles at which strands of given lengths lie round an axis."""
        squares = [length**2 for length in lengths]
        piece = self.layout.kept([work.contact for work in self.members], self.angles, squares, self.turns / 1000)
        way = np.where(self.turns < 0, -1.0, 1.0)
        return [way * np.sqrt(np.maximum(1 - piece / square, 0.0)) for square in squares]

    def _kept_radii(self) -> list[FloatArray]:
        """Return how far strands of given lengths lie from the axis, ``R = S sin β/2πN``; see :data:`STANDS_OFF`."""
        assert self.feeds is not None and self._farthest is not None
        wound = 2 * np.pi * np.maximum(np.abs(self.turns) / 1000, LEAST_TURNS)
        away = (
            np.abs(np.sin(angle)) * feed * work.length / wound
            for angle, feed, work in zip(self.angles, self.feeds, self.members, strict=True)
        )
        return [np.minimum(each, self._farthest) for each in away]

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
        if wrap_of(self.node):
            return
        if self.layout.plain:
            self.radii[0] = self.members[0].contact * lay(self.strands).ratio_at(self.angles[0])
            return
        contacts = [work.contact for work in self.members]
        self.radii = self.layout.radii(contacts, self._pull(), self.angles)

    def _pull(self) -> list[Floats]:
        """Return what each seat's strand draws the twist axis with, ``T + B ω² − C τ ω`` [N].

        Of bending, twisting and the work against the plying tension at small angles the least; ω the twist of the whole
        and τ the live one of the strand, per mm.
        """
        tension = np.asarray(plying_tension_of(self.node)) / 100
        if self.layout.tension_share in (0.0, 1.0) or all(each.member == 0 for each in self.seats):
            return [tension] * len(self.seats)  # one lies straight, or all draw nearly alike
        wound = 2 * np.pi / 1000 * self.turns / self.length
        pulls = (tension + wound * (work.bending * wound - work.torque()) for work in self.members)
        return [np.maximum(pull, LEAST_PULL * tension) for pull in pulls]

    def _width(self) -> FloatArray:
        """Return the apparent diameter."""
        match self.node:
            case CoreSpun():
                return self._wrap(self.node.wrap)
            case Wrapped():
                return self._coiled_width()
            case Ply() | Chain():
                return self.layout.width([work.contact for work in self.members])

    def _wrap(self, wrap: Wrap) -> FloatArray:
        """Lay the wrap; return the outer diameter that its packing makes."""
        core, twist, fraction = 2 * self.members[0].contact, self.turns / self.length, wrap_packing(wrap)
        outer = wrapped_diameter(core, wrap.tex, wrap.fibre.density, fraction, twist)
        self.wrap_angle = np.asarray(surface_angle(outer, twist))
        self.wrap_mass = np.asarray(tex_of(outer, wrap.fibre.density, fraction, core) * self.length)
        return outer

    def _coiled_width(self) -> FloatArray:
        """Return the apparent diameter of binder and coils: between a lone coil's hull and, where packed, a solid tube.

        The hull of two circles at the distance D has the perimeter
        ``2 sqrt(D² − (r1 − r2)²) + π (r1 + r2) + 2 (r1 − r2) asin((r1 − r2)/D)``; its mean width is that over π. Of the
        way to the tube counts what turning adds to the share ``r2/πD`` of the girth that a straight wrapper covers.
        """
        binder, wrapper = self.members[0].contact, self.members[1].contact
        away = self._coil()
        unlike = binder - wrapper
        straight = 2 * np.sqrt(away**2 - unlike**2)
        hull = (straight + 2 * unlike * np.arcsin(unlike / away)) / np.pi + binder + wrapper
        bare = wrapper / (np.pi * away)
        packed = np.clip((self._wrapper_coverage() - bare) / (1 - bare), 0.0, 1.0)
        return hull + packed * (2 * (away + wrapper) - hull)

    def _coil(self) -> FloatArray:
        """Return how far from the axis the centre-line of coils lies, zero without any; see :data:`STANDS_OFF`."""
        match self.node:
            case Wrapped():
                return self._coil_of(self.node.overfeed)
            case Ply() | Chain() | CoreSpun():
                return np.zeros(())

    def _coil_of(self, overfeed: Floats) -> FloatArray:
        contact = self.members[0].contact + self.members[1].contact
        twist = self.turns / self.length
        if self.feeds is None or self._farthest_coil is None:
            return coil_radius(overfeed, twist, contact)
        away = coil_radius(overfeed, np.maximum(np.abs(twist), FEWEST_COILS), contact)
        return np.maximum(np.minimum(away, self._farthest_coil), contact)

    def _wrapper_coverage(self) -> FloatArray:
        """Return the share of the yarn's length that the wrapper's coils take up, ``2 r t / sin θ``; 1 is jammed.

        θ is the coil's own angle, ``atan(2π · coil radius · t)``; without twist it is the share of the girth.
        """
        away = self._coil()
        lean = 2 * np.pi / 1000 * away * self.turns / self.length
        return self.members[1].contact / (np.pi * away) * np.sqrt(1 + lean**2)

    def _jamming(self) -> FloatArray:
        """Return how full of turns the outermost ring is."""
        match self.node:
            case CoreSpun():
                return np.zeros(np.shape(self.length))
            case Wrapped():
                return self._wrapper_coverage()
            case Ply() | Chain():
                return self._ring_jamming()

    def _ring_jamming(self) -> FloatArray:
        ring = lay(len(self.layout.rings[-1]))
        if self.layout.plain:
            own = self.members[0].length if self.feeds is None else self.feeds[0] * self.members[0].length
            turns = self.turns / self.length * self.cosines[0] * own if self.feeds is None else self.turns
            return ring.jamming(self.angles[0], 2 * np.pi / 1000 * self.members[0].contact * turns / own)
        outer = [place for place, each in enumerate(self.seats) if each.ring == self.seats[-1].ring]
        full = [self.seats[place].count * ring.fill_at(self.angles[place]) for place in outer]
        fill = sum(full, np.asarray(0.0)) / ring.strands
        if self.feeds is None:
            return fill
        leant = np.max(np.stack(np.broadcast_arrays(*(np.abs(angle) for angle in self.angles))), axis=0)
        return np.where(leant >= _STEEPEST - 1e-9, np.maximum(fill, 1.0), fill)

    def _consumption(self, place: int) -> FloatArray:
        match self.node:
            case Chain():  # one overlap of a strand's girth, πd, to each loop of three legs
                overlap = np.pi * 2 * self.members[place].contact
                return np.asarray(1 + overlap / (len(self.layout.rings[0]) * np.asarray(self.node.loop)))
            case Wrapped() if self.seats[place].member == 1:
                return np.maximum(self.node.overfeed * self.cosines[place], 1.0)
            case Ply() | CoreSpun() | Wrapped():
                return np.asarray(1.0)

    def _seen_angle(self) -> FloatArray:
        """Return the angle that the eye sees: of a wrap at its surface, of coils, or of the steepest outer strand."""
        match self.node:
            case CoreSpun():
                return self.wrap_angle
            case Wrapped():
                return np.arctan(2 * np.pi / 1000 * self._coil() * self.turns / self.length)
            case Ply() | Chain():
                return self._steepest_outside()

    def _steepest_outside(self) -> FloatArray:
        seen = self.angles[-1]
        for angle, own in zip(self.angles, self.seats, strict=True):
            if own.ring == self.seats[-1].ring:
                seen = np.where(np.abs(angle) > np.abs(seen), angle, seen)
        return seen

    def state(self, sized: bool = True) -> NestState:
        wrapped = wrap_of(self.node) is not None  # whose width also says how much wrap there is
        diameter_now = 2 * self.contact if sized or wrapped else np.asarray(np.nan)
        radii = self.radii if self.feeds is None or self.layout.plain else self._kept_radii()
        seats = []
        for place, (each, work) in enumerate(zip(self.seats, self.members, strict=True)):
            feed = self.length / (work.length * self.cosines[place]) if self.feeds is None else self.feeds[place]
            seats.append(
                Seated(
                    each.member,
                    each.count,
                    work.state(),
                    self.angles[place],
                    radii[place],
                    feed,
                    self._consumption(place),
                )
            )
        return NestState(
            self.node,
            self.layout,
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
    state: State, pieces: Floats = 1.0, path: tuple[Floats, Floats] | None = None
) -> Iterator[tuple[LeafState, Floats, Floats]]:
    """Yield every leaf with how many pieces of it a piece of the whole holds, and the mean κ² of its path [1/mm²].

    Of a strand within a strand it is exact; deeper down what a strand winds round is taken to be as evenly bent as its
    mean. ``path`` is curvature and torsion of the way of this strand itself, None where it lies straight.
    """
    if isinstance(state, LeafState):
        yield state, pieces, 0.0 if path is None else path[0] ** 2
        return
    wound = 2 * np.pi / 1000 * state.twist_now
    for each in state.seats:
        if path is None:
            bent = curvature(each.radius, wound)
        else:
            bent = np.sqrt(nested_curvature_squared(*path, each.radius, wound))
        yield from leaves(each.state, pieces * each.count * each.feed, (bent, torsion(each.radius, wound)))


def energy(state: State, rod: Rod) -> FloatArray:
    """Return the elastic energy stored in a piece, ``Σ ½ B κ² + ½ C (2π t)²`` over its singles per bobbin millimetre.

    t is the present twist less the set part, ``t − s·t_spun``, per bobbin millimetre; a bought thread is at rest with
    the twist it came with. ``B = k T²``, ``C = T²`` with T on the bobbin. A wrap of fibre stores none.
    """
    stored = np.asarray(0.0)
    for leaf, pieces, curvature_squared in leaves(state):
        rest = _at_rest(leaf.node, rod.set_share)
        live = (leaf.turns - rest * leaf.bobbin_twist) / 1000
        stiffness = np.asarray(leaf.node.tex) ** 2
        own = rod.bend_to_twist * curvature_squared + (2 * np.pi * live) ** 2
        stored = stored + pieces * stiffness / 2 * own
    return stored


def _at_rest(node: Leaf, set_share: Floats) -> Floats:
    """Return the share of a leaf's own twist that has no torque left: all of a bought thread's."""
    match node:
        case Single():
            return set_share
        case Bought():
            return 1.0


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
