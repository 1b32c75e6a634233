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

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Protocol

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import compaction, packed, squeeze
from pebble_wheel.mechanics.patience import go_on
from pebble_wheel.mechanics.strand.helix import apparent_width, lay
from pebble_wheel.mechanics.strand.layout import LEAST_TURNS, Layout, joined, seat
from pebble_wheel.mechanics.strand.single import (
    diameter,
    flexural_rigidity,
    length_kept,
    surface_angle,
    surface_tangent,
    tex_of,
    wrapped_diameter,
)
from pebble_wheel.mechanics.strand.state import (
    Fibres,
    LeafState,
    Made,
    MadeLeaf,
    MadeNest,
    NestState,
    Seated,
    State,
    wrap_packing,
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
    Single,
    Wrap,
    Wrapped,
    coiled,
    loop_of,
    plying_tension_of,
    tension_share_of,
    turns_of,
    wrap_of,
)

TOLERANCE = 1e-6
"""Of lengths, relative, and of angles in radians."""

MOST_ROUNDS = 60

FAR = 30.0
"""Tolerances that angles move in a round that cannot be the last."""

LEFT = 0.2
"""Of the tolerance, where what is left is reckoned: the share by which it falls is known to no better."""

STANDS_OFF = 3.0
"""Of the distance it was laid at: a strand that is fed in excess stands off no further, but hangs slack (assumed)."""

FEWEST_COILS = 1.001
"""turns/m: with fewer a coil that was twisted back hangs in slack loops, as far off as with these."""

LEAST_PULL = 0.1
"""Of the plying tension: a lively strand never pushes the axis away."""

_THREAD_FIBRE = (1.31, 25.0)
"""Density [g/cm³] and µm taken of a bought thread's fibre, for its bending only (assumed)."""

_STEEPEST, _STEEPEST_COIL = float(np.radians(52)), float(np.radians(89))
_STEEPEST_SINE = float(np.sin(_STEEPEST))
"""Past the angle at which any ring jams, and where a coil all but stands: strands are held here while the fixed point
runs."""

_STEEPEST_TANGENT = 30.0
"""Of surface fibres, some 88°: where a strand is twisted beyond all sense the fixed point is held here too."""


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
        thickness = [_middle(member.state.diameter) for member in members]
        layout = seat([member.count for member in node.members], thickness, tension_share_of(node))
        work = _laying(node, members, layout, None)
    else:
        work = _laying(node, members, start.layout, None)
        work.start_from([start])
    turns = np.asarray(turns_per_m, float)
    settled = _Settling(work, tolerance)
    for _ in range(rounds):
        go_on()
        work.twist_to(turns)
        if settled():
            break
    state = work.state(sized)
    return MadeNest(node, members, state.turns, tuple(each.feed for each in state.seats), state)


def _middle(values: FloatArray) -> float:
    return float(np.median(values)) if np.ndim(values) else float(values)


def retwist(made: MadeNest, turns: Floats, tolerance: float = TOLERANCE, rounds: int = MOST_ROUNDS) -> NestState:
    """Return the settled state of the very material of a made strand with other turns per thousand pieces.

    ``turns`` may have a further axis in front: several twists of one piece. The apparent diameter of the whole is
    left NaN.
    """
    work = _laying(made.node, made.members, made.layout, made.feeds)
    work.start_from([made.state])
    turns = np.asarray(turns, float)
    settled = _Settling(work, tolerance)
    for _ in range(rounds):
        go_on()
        work.carry(turns, np.asarray(0.0))
        if settled():
            break
    return work.state(sized=False)


def _make_leaf(node: Leaf) -> MadeLeaf:
    turns = np.asarray(turns_of(node), float)
    thick, packing, fibres = _thick_and_packed(node, turns)
    angle, kept = np.asarray(surface_angle(thick, turns)), np.asarray(_kept(thick, turns))
    one = np.ones(np.broadcast(thick, turns).shape)
    state = LeafState(node, turns, turns, one, packing, thick, angle, thick, turns)
    return MadeLeaf(node, turns, state, kept, fibres)


def _thick_and_packed(node: Leaf, turns: FloatArray) -> tuple[FloatArray, FloatArray, Fibres | None]:
    """Return the diameter [mm], packing and fibres of a leaf on its own; of a bought thread only the first is known."""
    match node:
        case Single():
            solid = np.asarray(diameter(node.tex, node.fibre.density, 1.0))
            own = Fibres(
                np.asarray(compaction(node.loosest)), np.asarray(squeeze(node.tex, node.squeeze_factor)), solid
            )
            packing = packed(own.loose, own.squeeze * turns**2)
            return np.asarray(solid / np.sqrt(packing)), packing, own
        case Bought():
            return np.asarray(node.diameter, float), np.asarray(np.nan), None


def _kept(diameter: FloatArray, turns_per_m: FloatArray) -> Floats:
    return length_kept(np.minimum(np.abs(surface_tangent(diameter, turns_per_m)), _STEEPEST_TANGENT))


class _Work(Protocol):
    """The running values of strands that are carried along inside the fixed point."""

    inserted: FloatArray
    length: FloatArray

    @property
    def contact(self) -> FloatArray:
        """Half the apparent diameter."""

    @property
    def bending(self) -> Floats:
        """Bending stiffness for where unlike strands lie [N mm²]."""

    def torque(self) -> Floats:
        """Return the live torque for the same [N mm]; what has set is not looked at."""

    def start_from(self, states: Sequence[State]) -> None:
        """Take the values of settled states."""

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        """One round with given turns of given material, and Σt² of the levels above."""

    def states(self) -> list[State]:
        """Return each strand as it stands."""


_Stack = Callable[[Sequence[Floats]], FloatArray]
"""Makes one array of a value of each of several strands."""


def _only(values: Sequence[Floats]) -> FloatArray:
    return np.asarray(values[0], float)


def _side_by_side(values: Sequence[Floats]) -> FloatArray:
    return joined([np.asarray(each, float)[..., None] for each in values])


class _Singles:
    """Of one single, or of several as one array with a last axis of them."""

    def __init__(self, made: Sequence[MadeLeaf], spun: Sequence[Single], stack: _Stack) -> None:
        self._made, self._stack = made, stack
        self.inserted = stack([each.inserted for each in made])
        self.start_from([each.state for each in made])
        self.turns, self.packing = self.inserted, stack([each.state.packing for each in made])
        self._made_kept, self._spun = stack([each.kept for each in made]), spun
        fibres = [each.fibres for each in made if each.fibres]
        self._loose = stack([each.loose for each in fibres])
        self._squeeze = stack([each.squeeze for each in fibres])
        self._solid = stack([each.solid for each in fibres])

    @property
    def contact(self) -> FloatArray:
        return self._diameter / 2

    @cached_property
    def bending(self) -> Floats:
        tex, density, micron = zip(
            *((each.tex, each.fibre.density, each.fibre.mid_micron) for each in self._spun), strict=True
        )
        return flexural_rigidity(self._stack(tex), self._stack(density), self._stack(micron))

    def torque(self) -> Floats:
        return _torque(self.bending, self.turns, self.length)

    def start_from(self, states: Sequence[State]) -> None:
        self.length = self._stack([each.length for each in states])
        self._diameter = self._stack([each.diameter for each in states])

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        """The material of a strand that is shorter is thicker: tex over length, in packing and in diameter."""
        twist, root = turns / self.length, np.sqrt(self.length)
        self.turns = turns
        self.packing = packed(self._loose, self._squeeze / root * (twist**2 + above_squared))
        self._diameter = np.asarray(self._solid / (root * np.sqrt(self.packing)))
        self.length = np.asarray(_kept(self._diameter, twist) / self._made_kept)

    def states(self) -> list[State]:
        twist = self.turns / self.length
        angle = np.asarray(surface_angle(self._diameter, twist))
        values = (twist, self.turns, self.length, self.packing, self._diameter, angle)
        if self._stack is _only:
            return [_spun(self._made[0], *values)]
        return [_spun(each, *(value[..., place] for value in values)) for place, each in enumerate(self._made)]


def _spun(
    made: MadeLeaf,
    twist: FloatArray,
    turns: FloatArray,
    length: FloatArray,
    packing: FloatArray,
    thick: FloatArray,
    angle: FloatArray,
) -> LeafState:
    spun = made.state
    return LeafState(spun.node, twist, turns, length, packing, thick, angle, spun.bobbin_diameter, spun.bobbin_twist)


class _Thread:
    """Of a bought thread: as thick as it came, and at rest so."""

    def __init__(self, made: MadeLeaf) -> None:
        self._made, self.inserted = made, made.inserted
        self.length, self._turns = made.state.length, made.state.turns
        self.contact: FloatArray = made.state.diameter / 2
        self.bending: Floats = flexural_rigidity(made.node.tex, *_THREAD_FIBRE)
        self._made_kept = made.kept

    def torque(self) -> Floats:
        return _torque(self.bending, self._turns - self.inserted, self.length)

    def start_from(self, states: Sequence[State]) -> None:
        self.length = states[0].length

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        self._turns = turns
        self.length = np.asarray(_kept(2 * self.contact, turns / self.length) / self._made_kept)

    def states(self) -> list[State]:
        twist = self._turns / self.length
        lean = np.asarray(surface_angle(2 * self.contact, twist))
        return [replace(self._made.state, twist_now=twist, turns=self._turns, length=self.length, angle=lean)]


def _torque(bending: Floats, live_turns: FloatArray, length: FloatArray) -> Floats:
    return bending / BEND_TO_TWIST * 2 * np.pi / 1000 * live_turns / length


class _Laid(ABC):
    """Of a strand with members."""

    def __init__(self, node: Nest, layout: Layout, feeds: tuple[FloatArray, ...] | None) -> None:
        self.node, self.layout, self.feeds = node, layout, feeds
        self.strands = float(layout.counts.sum())
        self.turns = self.inserted = np.asarray(0.0)
        self._contact: FloatArray | None = None

    length: FloatArray
    angles: FloatArray
    """Of the seats."""

    @property
    def contact(self) -> FloatArray:
        """Worked out when asked for, which a strand on top does once."""
        if self._contact is None:
            self._contact = self._width() / 2
        return self._contact

    def shape(self) -> tuple[FloatArray, FloatArray]:
        """Return the angles and the length, by which a round is judged."""
        return self.angles, self.length

    @cached_property
    @abstractmethod
    def bending(self) -> Floats:
        """The sum over the strands within."""

    @abstractmethod
    def torque(self) -> Floats:
        """Return the sum over the strands within."""

    @abstractmethod
    def start_from(self, states: Sequence[State]) -> None:
        """Take the values of a settled state."""

    @abstractmethod
    def twist_to(self, turns_per_m: FloatArray) -> None:
        """One round with this strand on top, at turns per metre of itself: ``tan β = 2πR t``."""

    @abstractmethod
    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        """One round with given turns of given material: ``sin β = 2πR · turns / strand length``."""

    @abstractmethod
    def state(self, sized: bool = True) -> NestState:
        """Return the strand as it stands; on top its width need not be worked out."""

    @abstractmethod
    def _width(self) -> FloatArray:
        """Return the apparent diameter."""

    def states(self) -> list[State]:
        return [self.state()]


class _Ring(_Laid):
    """Of one ring of equal strands, or of a core."""

    def __init__(
        self, node: Nest, members: tuple[Made, ...], layout: Layout, feeds: tuple[FloatArray, ...] | None
    ) -> None:
        super().__init__(node, layout, feeds)
        self._member = _work(members[0])
        self._cored = wrap_of(node)
        self.angles, self._cosine, self._radius = np.asarray(0.0), np.asarray(1.0), np.asarray(0.0)
        self._wrap_mass = self._wrap_angle = np.asarray(0.0)
        self.length = self._member.length

    @cached_property
    def bending(self) -> Floats:
        return self.strands * self._member.bending

    def torque(self) -> Floats:
        return self.strands * self._member.torque()

    def start_from(self, states: Sequence[State]) -> None:
        state = _nest(states[0])
        seated = state.seats[0]
        self.turns, self.length, self._contact = state.turns, state.length, state.diameter / 2
        self.angles, self._cosine, self._radius = seated.angle, np.cos(seated.angle), seated.radius
        self._member.start_from([seated.state])

    def twist_to(self, turns_per_m: FloatArray) -> None:
        turned = turns_per_m * self._member.length * self._cosine**2
        self._member.carry(self._member.inserted + turned, turns_per_m**2)
        self._seat()
        tangent = 2 * np.pi / 1000 * self._radius * turns_per_m
        self.angles, self._cosine = np.arctan(tangent), 1 / np.sqrt(1 + tangent**2)
        self.length = self._member.length * self._cosine
        self.turns = turns_per_m * self.length
        self._contact = None

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        assert self.feeds is not None
        member, (feed,) = self._member, self.feeds
        twist = turns / self.length
        self.turns = turns
        member.carry(member.inserted + turns / feed * self._cosine, above_squared + twist**2)
        own = feed * member.length
        self._seat()
        sine = 2 * np.pi / 1000 * self._radius * turns / own
        held = np.maximum(np.minimum(sine, _STEEPEST_SINE), -_STEEPEST_SINE)
        self.angles, self._cosine = np.arcsin(held), np.sqrt(1 - held**2)
        self.length = own * self._cosine
        self._contact = None

    def _seat(self) -> None:
        if self._cored is None:
            self._radius = self._member.contact * lay(int(self.strands)).ratio_at(self.angles)

    def _width(self) -> FloatArray:
        if self._cored is None:
            return 2 * self._member.contact * apparent_width(int(self.strands))
        return self._wrap(self._cored)

    def _wrap(self, wrap: Wrap) -> FloatArray:
        """Lay the wrap; return the outer diameter that its packing makes."""
        core, twist, fraction = 2 * self._member.contact, self.turns / self.length, wrap_packing(wrap)
        outer = wrapped_diameter(core, wrap.tex, wrap.fibre.density, fraction, twist)
        self._wrap_angle = np.asarray(surface_angle(outer, twist))
        self._wrap_mass = np.asarray(tex_of(outer, wrap.fibre.density, fraction, core) * self.length)
        return outer

    def _jamming(self) -> FloatArray:
        """Return how full of turns the ring is; a core never is."""
        if self._cored is not None:
            return np.zeros(np.shape(self.length))
        contact, length = self._member.contact, self._member.length
        if self.feeds is None:
            wanted = self.turns / self.length * self._cosine
        else:
            wanted = self.turns / (self.feeds[0] * length)
        return lay(int(self.strands)).jamming(self.angles, 2 * np.pi / 1000 * contact * wanted)

    def _consumption(self) -> FloatArray:
        loop = loop_of(self.node)
        if loop is None:
            return np.asarray(1.0)
        overlap = np.pi * 2 * self._member.contact  # one of a strand's girth, πd, to each loop of three legs
        return np.asarray(1 + overlap / (self.strands * np.asarray(loop)))

    def state(self, sized: bool = True) -> NestState:
        cored = self._cored is not None  # whose width also says how much wrap there is
        diameter_now = 2 * self.contact if sized or cored else np.asarray(np.nan)
        feed = self.length / (self._member.length * self._cosine) if self.feeds is None else self.feeds[0]
        seat, (inner,) = self.layout.seats[0], self._member.states()
        seated = Seated(seat.member, seat.count, inner, self.angles, self._radius, feed, self._consumption())
        return NestState(
            self.node,
            self.layout,
            (seated,),
            self.turns / self.length,
            self.turns,
            self.length,
            diameter_now,
            self._wrap_angle if cored else self.angles,
            self._jamming(),
            self._wrap_mass,
        )


class _Settling:
    """Whether rounds have come to an end.

    What is left of a ring of equal strands falls from each round to the next by about the same share, so that it is
    reckoned and not waited for. Other strands move by fits.
    """

    def __init__(self, work: _Laid, tolerance: float) -> None:
        self._work, self._tolerance = work, tolerance
        self._steady = work.layout.plain and wrap_of(work.node) is None
        self._shape, self._change = work.shape(), 0.0

    def __call__(self) -> bool:
        """Return whether the round just done changed nothing, or left next to nothing to come.

        The length alone can stand still while twist and thickness still move, so the angles count too.
        """
        (angles, length), self._shape, last = self._shape, self._work.shape(), self._change
        self._change = change = float(np.abs(self._shape[0] - angles).max())
        if change > FAR * self._tolerance:
            return False
        self._change = change = max(change, float(np.abs(self._shape[1] - length).max()))
        if change < self._tolerance:
            return True
        share = change / last if last and self._steady else 1.0
        return share < 1 and change * share / (1 - share) < LEFT * self._tolerance


class _Seats(_Laid):
    """Of unlike strands, or of more than one ring: seats along the last axis of what each has of its own."""

    def __init__(
        self, node: Nest, members: tuple[Made, ...], layout: Layout, feeds: tuple[FloatArray, ...] | None
    ) -> None:
        super().__init__(node, layout, feeds)
        self._feed = None if feeds is None else _side_by_side(feeds)
        self._members = _Members([members[each.member] for each in layout.seats])
        self.angles, self._cosines, self._radii = (np.full(len(layout.seats), value) for value in (0.0, 1.0, 0.0))
        self._farthest: FloatArray | None = None
        self._farthest_coil: FloatArray | None = None
        self._steepest = np.sin(_STEEPEST_COIL) if coiled(node) else _STEEPEST_SINE
        self.length = self._mean_length()

    @cached_property
    def bending(self) -> Floats:
        return np.asarray((self.layout.counts * self._members.bending).sum(axis=-1))

    def torque(self) -> Floats:
        return np.asarray((self.layout.counts * self._members.torque()).sum(axis=-1))

    def start_from(self, states: Sequence[State]) -> None:
        state = _nest(states[0])
        self.turns, self.length, self._contact = state.turns, state.length, state.diameter / 2
        self.angles = _side_by_side([each.angle for each in state.seats])
        self._cosines = np.cos(self.angles)
        self._radii = _side_by_side([each.radius for each in state.seats])
        self._members.start_from([each.state for each in state.seats])
        if self._farthest is None:  # the first state to start from is that in which it was made
            self._farthest = STANDS_OFF * self._radii.max(axis=-1)
            self._farthest_coil = STANDS_OFF * self._coil()

    def twist_to(self, turns_per_m: FloatArray) -> None:
        turned = turns_per_m[..., None] * self._members.length * self._cosines**2
        self._members.carry(turned, turns_per_m**2)
        contact = self._members.contact
        self._radii = self.layout.radii(contact, self._pull(contact), self.angles)
        tangent = 2 * np.pi / 1000 * self._radii * turns_per_m[..., None]
        self.angles, self._cosines = np.arctan(tangent), 1 / np.sqrt(1 + tangent**2)
        self.length = self._mean_length()
        self.turns = turns_per_m * self.length
        self._contact = None

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        assert self._feed is not None
        twist = turns / self.length
        self.turns = turns
        self._members.carry(turns[..., None] / self._feed * self._cosines, above_squared + twist**2)
        own = self._feed * self._members.length
        held = np.maximum(np.minimum(self._kept_sines(own), self._steepest), -self._steepest)
        self.angles, self._cosines = np.arcsin(held), np.sqrt(1 - held**2)
        self.length = (self.layout.counts * own * self._cosines).sum(axis=-1) / self.strands
        self._contact = None

    def _kept_sines(self, lengths: FloatArray) -> FloatArray:
        """Return the sines of the angles at which strands of given lengths lie round an axis."""
        squares = lengths**2
        piece = self.layout.kept(self._members.contact, self.angles, squares, self.turns / 1000)
        way = np.where(self.turns < 0, -1.0, 1.0)
        return way[..., None] * np.sqrt(np.maximum(1 - piece[..., None] / squares, 0.0))

    def _kept_radii(self) -> FloatArray:
        """Return how far strands of given lengths lie from the axis, ``R = S sin β/2πN``; see :data:`STANDS_OFF`."""
        assert self._feed is not None and self._farthest is not None
        wound = 2 * np.pi * np.maximum(np.abs(self.turns) / 1000, LEAST_TURNS)
        away = np.abs(np.sin(self.angles)) * self._feed * self._members.length / wound[..., None]
        return np.minimum(away, self._farthest[..., None])

    def _mean_length(self) -> FloatArray:
        """Return the length of a piece that holds one piece of a member on the average."""
        taken = (self.layout.counts / (self._members.length * self._cosines)).sum(axis=-1)
        return np.asarray(self.strands / taken)

    def _pull(self, contact: FloatArray) -> FloatArray:
        """Return what each seat's strand draws the twist axis with, ``T + B ω² − C τ ω`` [N].

        Of bending, twisting and the work against the plying tension at small angles the least; ω the twist of the whole
        and τ the live one of the strand, per mm.
        """
        tension = np.asarray(plying_tension_of(self.node))[..., None] / 100
        if self.layout.tension_share in (0.0, 1.0) or all(each.member == 0 for each in self.layout.seats):
            return tension * np.ones(len(self.layout.seats))  # one lies straight, or all draw nearly alike
        wound = 2 * np.pi / 1000 * (self.turns / self.length)[..., None]
        pull = tension + wound * (self._members.bending * wound - self._members.torque())
        return np.maximum(pull, LEAST_PULL * tension)

    def _width(self) -> FloatArray:
        return self._coiled_width() if coiled(self.node) else self.layout.width(self._members.contact)

    def _coiled_width(self) -> FloatArray:
        """Return the apparent diameter of binder and coils: between a lone coil's hull and, where packed, a solid tube.

        The hull of two circles at the distance D has the perimeter
        ``2 sqrt(D² − (r1 − r2)²) + π (r1 + r2) + 2 (r1 − r2) asin((r1 − r2)/D)``; its mean width is that over π. Of the
        way to the tube counts what turning adds to the share ``r2/πD`` of the girth that a straight wrapper covers.
        """
        contact = self._members.contact
        binder, wrapper = contact[..., 0], contact[..., 1]
        away = self._coil()
        unlike = binder - wrapper
        straight = 2 * np.sqrt(away**2 - unlike**2)
        hull = (straight + 2 * unlike * np.arcsin(unlike / away)) / np.pi + binder + wrapper
        bare = wrapper / (np.pi * away)
        packed = np.clip((self._wrapper_coverage() - bare) / (1 - bare), 0.0, 1.0)
        return np.asarray(hull + packed * (2 * (away + wrapper) - hull))

    def _coil(self) -> FloatArray:
        """Return how far from the axis the centre-line of coils lies, zero without any; see :data:`STANDS_OFF`."""
        match self.node:
            case Wrapped():
                return self._coil_of(self.node.overfeed)
            case Ply() | Chain() | CoreSpun():
                return np.zeros(())

    def _coil_of(self, overfeed: Floats) -> FloatArray:
        contact, twist = self._members.contact.sum(axis=-1), self.turns / self.length
        if self._feed is None or self._farthest_coil is None:
            return coil_radius(overfeed, twist, contact)
        away = coil_radius(overfeed, np.maximum(np.abs(twist), FEWEST_COILS), contact)
        return np.maximum(np.minimum(away, self._farthest_coil), contact)

    def _wrapper_coverage(self) -> FloatArray:
        """Return the share of the yarn's length that the wrapper's coils take up, ``2 r t / sin θ``; 1 is jammed.

        θ is the coil's own angle, ``atan(2π · coil radius · t)``; without twist it is the share of the girth.
        """
        away = self._coil()
        lean = 2 * np.pi / 1000 * away * self.turns / self.length
        return np.asarray(self._members.contact[..., 1] / (np.pi * away) * np.sqrt(1 + lean**2))

    def _jamming(self) -> FloatArray:
        """Return how full of turns the outermost ring is."""
        if coiled(self.node):
            return self._wrapper_coverage()
        outside, ring = self.layout.outside, lay(len(self.layout.rings[-1]))
        fill = (self.layout.counts[outside] * ring.fill_at(self.angles[..., outside])).sum(axis=-1) / ring.strands
        if self._feed is None:
            return np.asarray(fill)
        leant = np.abs(self.angles).max(axis=-1)
        return np.where(leant >= _STEEPEST - 1e-9, np.maximum(fill, 1.0), fill)

    def _consumption(self, place: int) -> FloatArray:
        match self.node:
            case Wrapped() if self.layout.seats[place].member == 1:
                return np.maximum(self.node.overfeed * self._cosines[..., place], 1.0)
            case Ply() | Chain() | CoreSpun() | Wrapped():
                return np.asarray(1.0)

    def _seen_angle(self) -> FloatArray:
        """Return the angle that the eye sees: of coils, or of the steepest outer strand."""
        if coiled(self.node):
            return np.arctan(2 * np.pi / 1000 * self._coil() * self.turns / self.length)
        outer = self.angles[..., self.layout.outside]
        steepest = np.abs(outer).argmax(axis=-1)
        return np.take_along_axis(outer, np.asarray(steepest)[..., None], axis=-1)[..., 0]

    def state(self, sized: bool = True) -> NestState:
        diameter_now = 2 * self.contact if sized else np.asarray(np.nan)
        feed = self._feed
        if feed is None:
            feed = self.length[..., None] / (self._members.length * self._cosines)
        radii = self._radii if self._feed is None else self._kept_radii()
        seats = tuple(
            Seated(
                each.member,
                each.count,
                inner,
                self.angles[..., place],
                radii[..., place],
                feed[..., place],
                self._consumption(place),
            )
            for place, (each, inner) in enumerate(zip(self.layout.seats, self._members.states(), strict=True))
        )
        return NestState(
            self.node,
            self.layout,
            seats,
            self.turns / self.length,
            self.turns,
            self.length,
            diameter_now,
            self._seen_angle(),
            self._jamming(),
            np.asarray(0.0),
        )


class _Members:
    """What lies on the seats of a strand: singles together as one array, all else by itself."""

    def __init__(self, seated: Sequence[Made]) -> None:
        singles = [place for place, each in enumerate(seated) if isinstance(each.node, Single)]
        self._parts: list[tuple[list[int], _Work]] = [
            ([place], _work(each)) for place, each in enumerate(seated) if place not in singles
        ]
        if singles:
            made = [each for each in seated if isinstance(each, MadeLeaf)]
            spun = [(each, each.node) for each in made if isinstance(each.node, Single)]
            together = _Singles([each for each, _ in spun], [node for _, node in spun], _side_by_side)
            self._parts.insert(0, (singles, together))
        self._order = np.argsort([place for places, _ in self._parts for place in places])
        self._together = bool(singles)

    def _of(self, value: Callable[[_Work], Floats]) -> FloatArray:
        """Return a value of every seat."""
        found = [np.asarray(value(work)) for _, work in self._parts]
        apart = [each[..., None] for each in found[self._together :]]
        parts = [*found[: self._together], *apart]
        return parts[0] if len(parts) == 1 else joined(parts)[..., self._order]

    @property
    def length(self) -> FloatArray:
        """Present length."""
        return self._of(lambda work: work.length)

    @property
    def contact(self) -> FloatArray:
        """Half the apparent diameter."""
        return self._of(lambda work: work.contact)

    @cached_property
    def bending(self) -> FloatArray:
        """Bending stiffness."""
        return self._of(lambda work: work.bending)

    def torque(self) -> FloatArray:
        """Return the live torque."""
        return self._of(lambda work: work.torque())

    def start_from(self, states: Sequence[State]) -> None:
        """Take the values of settled states, one a seat."""
        for places, work in self._parts:
            work.start_from([states[place] for place in places])

    def carry(self, turned: FloatArray, above_squared: FloatArray) -> None:
        """One round: each seat is turned by so much beyond its own inserted turns."""
        for number, (places, work) in enumerate(self._parts):
            if number == 0 and self._together:
                work.carry(work.inserted + turned[..., places], above_squared[..., None])
            else:
                work.carry(work.inserted + turned[..., places[0]], above_squared)

    def states(self) -> list[State]:
        """Return each seat's strand as it stands."""
        found: dict[int, State] = {}
        for places, work in self._parts:
            found |= dict(zip(places, work.states(), strict=True))
        return [found[place] for place in sorted(found)]


def _nest(state: State) -> NestState:
    if isinstance(state, NestState):
        return state
    raise ValueError("this is not the state of a strand with members")


def _laying(node: Nest, members: tuple[Made, ...], layout: Layout, feeds: tuple[FloatArray, ...] | None) -> _Laid:
    return _Ring(node, members, layout, feeds) if layout.plain else _Seats(node, members, layout, feeds)


def _work(made: Made) -> _Work:
    if isinstance(made, MadeLeaf):
        match made.node:
            case Single():
                return _Singles([made], [made.node], _only)
            case Bought():
                return _Thread(made)
    work = _laying(made.node, made.members, made.layout, made.feeds)
    work.inserted = made.inserted
    work.start_from([made.state])
    return work
