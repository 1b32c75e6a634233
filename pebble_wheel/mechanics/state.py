"""The settled state of a structure: twist, angle, packing and length at every level, as one fixed point.

Twisting a ply also twists every strand inside it. In signed turns per fixed piece of material

    Tw(strand) = own inserted turns + Tw(ply) · cos β(ply)

(Călugăreanu-White: link = twist + writhe, the writhe of N helical turns being N (1 − cos β)). Lengths follow from the
angles, bottom up: a single's from its retraction, a ply's from its helix. The piece of material is the one that
holds 1 mm of each single as it lay on the bobbin.

Inserted turns are known from each strand's own step, solved with nothing above it ("as made").
"""

from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.helix import Lay, apparent_width, curvature, lay
from pebble_wheel.mechanics.packing import packing_fraction
from pebble_wheel.mechanics.single import diameter, retraction, surface_angle
from pebble_wheel.mechanics.structure import Ply, Rod, Single, turns_of

TOLERANCE = 1e-6
"""Of lengths, relative. What is left is smooth in the twist, so the differences of energy that balance takes hardly
feel it: the balanced twist moves by under 1e-5 of itself."""

MOST_ROUNDS = 60


@dataclass(frozen=True)
class SingleState:
    """A single within a settled structure. Arrays of one shape, or scalars."""

    node: Single
    twist_now: FloatArray
    """turns/m of its own present length."""
    turns: FloatArray
    """Present twist in turns per bobbin metre."""
    length: FloatArray
    """Present length per bobbin length."""
    packing: FloatArray
    diameter: FloatArray
    """mm."""
    angle: FloatArray
    """Surface fibre angle, radians, signed."""
    bobbin_diameter: FloatArray
    """mm, as spun."""
    bobbin_twist: FloatArray
    """turns/m, as spun."""

    @property
    def single(self) -> "SingleState":
        """The single at the bottom of this structure: itself."""
        return self


@dataclass(frozen=True)
class PlyState:
    """A ply within a settled structure. Arrays of one shape, or scalars."""

    node: Ply
    strand: "State"
    twist_now: FloatArray
    """turns/m of its own present length."""
    turns: FloatArray
    """Present twist in turns per metre of bobbin single."""
    length: FloatArray
    """Present length per length of bobbin single."""
    diameter: FloatArray
    """Apparent diameter: the mean width over all views, mm."""
    angle: FloatArray
    """Helix angle of the strands, radians, signed."""
    radius: FloatArray
    """R of the strands' centre-lines, mm."""
    jamming: FloatArray
    """1 where no more turns can be laid in."""

    @property
    def single(self) -> SingleState:
        """The single at the bottom of this structure."""
        return self.strand.single


State = SingleState | PlyState


@dataclass(frozen=True)
class MadeSingle:
    """A single as it came off the wheel: the reference of all lengths."""

    node: Single
    inserted: Floats
    state: SingleState


@dataclass(frozen=True)
class MadePly:
    """A ply as it came off its own step, with nothing above it."""

    node: Ply
    strand: "Made"
    inserted: Floats
    """Own turns per metre of bobbin single."""
    state: PlyState


Made = MadeSingle | MadePly


def make(node: Single | Ply) -> Made:
    """Return a structure with every strand's own step solved, bottom up."""
    if isinstance(node, Single):
        turns = np.asarray(turns_of(node), float)
        packing = packing_fraction(node.packing, turns**2, node.tex, node.squeeze_factor)
        thick = np.asarray(diameter(node.tex, node.fibre.density, packing))
        angle = np.asarray(surface_angle(thick, turns))
        one = np.ones(np.broadcast(thick, turns).shape)
        return MadeSingle(node, turns, SingleState(node, turns, turns, one, packing, thick, angle, thick, turns))
    return make_ply(node, make(node.strand), turns_of(node))


def make_ply(node: Ply, strand: Made, turns_per_m: Floats) -> MadePly:
    """Return a ply laid from made strands with a twist [turns/m of the ply], counted with nothing above it."""
    state = settle(node, strand, turns_per_m)
    return MadePly(node, strand, state.turns, state)


def settle(node: Ply, strand: Made, turns_per_m: Floats, start: PlyState | None = None) -> PlyState:
    """Return the settled state of a ply with nothing above it, twisted to so many turns per metre of itself.

    The fixed point runs over all levels at once; while it runs, strands that would jam are held at the jamming angle,
    and jamming is judged on what it settles to. ``start``, a settled state close by and of one
    shape with this, saves rounds.
    """
    work = _PlyWork(node, strand)
    if start is not None:
        work.start_from(start)
    turns = np.asarray(turns_per_m, float)
    for _ in range(MOST_ROUNDS):
        before = work.length
        work.twist_to(turns)
        if np.max(np.abs(work.length - before)) < TOLERANCE:
            break
    return work.state()


class _SingleWork:
    """The running values of a single inside the fixed point."""

    def __init__(self, made: MadeSingle) -> None:
        self.made = made
        state = made.state
        self.length: FloatArray = state.length
        self.contact: FloatArray = state.diameter / 2
        self.turns, self.packing, self.angle = state.turns, state.packing, state.angle
        self._made_retraction = 1 - retraction(state.angle)

    def start_from(self, state: SingleState) -> None:
        self.length, self.contact = state.length, state.diameter / 2

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        node = self.made.node
        twist, tex = turns / self.length, node.tex / self.length
        self.turns = turns
        self.packing = packing_fraction(node.packing, twist**2 + above_squared, tex, node.squeeze_factor)
        thick = np.asarray(diameter(tex, node.fibre.density, self.packing))
        self.angle = np.asarray(surface_angle(thick, twist))
        self.contact = thick / 2
        self.length = np.asarray((1 - retraction(self.angle)) / self._made_retraction)

    def state(self) -> SingleState:
        twist = self.turns / self.length
        return replace(
            self.made.state,
            twist_now=twist,
            turns=self.turns,
            length=self.length,
            packing=self.packing,
            diameter=2 * self.contact,
            angle=self.angle,
        )


class _PlyWork:
    """The running values of a ply inside the fixed point."""

    def __init__(self, node: Ply, strand: Made) -> None:
        self.node = node
        self.lay: Lay = lay(node.strands)
        self.width = apparent_width(node.strands)
        self.strand: _SingleWork | _PlyWork
        if isinstance(strand, MadePly):
            self.strand = _PlyWork(strand.node, strand.strand)
            self.strand.start_from(strand.state)
        else:
            self.strand = _SingleWork(strand)
        self.strand_inserted = np.asarray(strand.inserted, float)
        self.turns = np.asarray(0.0)
        self.angle, self.cosine = np.asarray(0.0), np.asarray(1.0)
        self.length: FloatArray = self.strand.length
        self.wanted = np.asarray(0.0)
        self.contact: FloatArray = self.strand.contact * self.width

    def start_from(self, state: PlyState) -> None:
        self.turns, self.angle, self.length = state.turns, state.angle, state.length
        self.cosine = np.cos(state.angle)
        self.contact = state.diameter / 2
        if isinstance(self.strand, _PlyWork):
            assert isinstance(state.strand, PlyState)
            self.strand.start_from(state.strand)
        else:
            assert isinstance(state.strand, SingleState)
            self.strand.start_from(state.strand)

    def twist_to(self, turns_per_m: FloatArray) -> None:
        """One round with this ply on top, at turns per metre of itself: ``tan β = 2πR t``."""
        self.strand.carry(self.strand_inserted + turns_per_m * self.length * self.cosine, turns_per_m**2)
        pitch = 2 * np.pi / 1000 * self.strand.contact * turns_per_m
        tangent = pitch * self.lay.ratio_at(self.angle)
        self._lie(np.arctan(tangent), 1 / np.sqrt(1 + tangent**2))
        self.turns = turns_per_m * self.length
        self.wanted = pitch * self.cosine

    def carry(self, turns: FloatArray, above_squared: FloatArray) -> None:
        """One round inside a larger structure, at turns per piece: ``sin β = 2πR·turns / strand length``."""
        self.turns = turns
        self.strand.carry(self.strand_inserted + turns * self.cosine, above_squared + (turns / self.length) ** 2)
        self.wanted = 2 * np.pi / 1000 * self.strand.contact * turns / self.strand.length
        most = np.sin(self.lay.peak_angle)
        sine = np.clip(self.wanted * self.lay.ratio_at(self.angle), -most, most)
        self._lie(np.arcsin(sine), np.sqrt(1 - sine**2))

    def _lie(self, angle: FloatArray, cosine: FloatArray) -> None:
        """Lay the strands at an angle: the length and the size that follow."""
        self.angle, self.cosine = angle, cosine
        self.length = self.strand.length * cosine
        self.contact = self.strand.contact * self.width

    def state(self) -> PlyState:
        radius = self.strand.contact * self.lay.ratio_at(self.angle)
        return PlyState(
            self.node,
            self.strand.state(),
            self.turns / self.length,
            self.turns,
            self.length,
            2 * self.contact,
            self.angle,
            radius,
            self.lay.jamming(self.angle, self.wanted),
        )


def energy(state: State, rod: Rod) -> FloatArray:
    """Return the elastic energy stored per bobbin millimetre of one single, ``½ B κ² + ½ C (2π t)²``.

    κ² is the sum over all levels above of ``(sin²β/R)²``; t is the present twist less the set part, ``t − s·t_spun``,
    both per bobbin millimetre. ``B = k r⁴``, ``C = r⁴`` with r on the bobbin. Summing κ² over levels overstates the
    curvature of a nested path by up to 6 % (opposite twists) or 20 % (same direction, steep).
    """
    single = state.single
    curvature_squared = np.asarray(0.0)
    level = state
    while isinstance(level, PlyState):
        curvature_squared = curvature_squared + curvature(level.angle, level.radius) ** 2
        level = level.strand
    live = (single.turns - rod.set_share * single.bobbin_twist) / 1000
    stiffness = (single.bobbin_diameter / 2) ** 4
    return stiffness / 2 * (rod.bend_to_twist * curvature_squared + (2 * np.pi * live) ** 2)
