"""A cut square across a yarn as circles, how round their hull is and how deep the grooves between them are.

Plies turn against each other along the yarn, so a cut is taken at many places and the mean counts.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import Made, MadeNest, NestState, State
from pebble_wheel.mechanics.strand.structure import wrap_of

CUTS = 12
"""Places along the yarn."""

SHALLOW = 1e-6
"""A groove that is none."""

VIEWS, FEWER_VIEWS = 720, 360
"""Directions round each cut, and for how deep grooves are, which takes no differences."""


@dataclass(frozen=True)
class Circles:
    """Strands in a cut; arrays of shape (cuts, strands) in mm from the axis of the yarn."""

    x: FloatArray
    y: FloatArray
    r: FloatArray


def cut(made: Made) -> Circles:
    """Return the circles in which a yarn of scalar values is cut, at places where its plies stand every way.

    One place serves where it has none.
    """
    cuts = CUTS if isinstance(made, MadeNest) and any(isinstance(each, MadeNest) for each in made.members) else 1
    turns = 2 * np.pi * np.arange(cuts) / cuts
    found = list(_circles(made, made.state, np.zeros(cuts, complex), np.zeros(cuts), turns))
    centres = np.stack([centre for centre, _ in found], axis=1)
    r = np.broadcast_to(np.array([radius for _, radius in found]), centres.shape)
    return Circles(centres.real, centres.imag, r)


def _circles(
    made: Made, now: State, centre: FloatArray, turned: FloatArray, turns: FloatArray
) -> Iterator[tuple[FloatArray, float]]:
    """Yield centres and radius of every strand within; inner plies turn once for every cut, each level faster."""
    if not isinstance(made, MadeNest) or not isinstance(now, NestState) or wrap_of(made.node):
        yield centre, float(now.diameter) / 2
        return
    around = made.layout.azimuths(np.array([float(seat.state.diameter) / 2 for seat in now.seats]))
    strands, drawn = sum(seat.count for seat in now.seats), 0
    for place, seat in enumerate(now.seats):
        inner = made.members[seat.member]
        for direction in around[place]:
            lean = np.exp(1j * (float(direction) + turned))
            own = turned + turns + bedded(drawn, strands, inner)
            drawn += 1
            yield from _circles(inner, seat.state, centre + kinds.away(now, place) * lean, own, turns)


def bedded(place: int, strands: int, member: Made) -> float:
    """Return how far a plied strand is turned against its neighbour, so that ridges bed into grooves as in hand.

    Half a strand's share of the turn; round an odd ring as near to it as comes out even all round.
    """
    if not isinstance(member, MadeNest):
        return 0.0
    even = 1.0 if strands % 2 == 0 else (strands - 1) / strands
    return place * even * np.pi / len(member.layout.rings[-1])


def circularity(circles: Circles) -> float:
    """Return how round the hull is, ``4πA/P²`` of its area and perimeter, 1 for a circle; the mean over the cuts.

    By the support function h over the direction of view, ``P = ∫h`` and ``A = ½ ∫(h² − h′²)``.
    """
    view = 2 * np.pi * np.arange(VIEWS) / VIEWS
    reach = circles.x[..., None] * np.cos(view) + circles.y[..., None] * np.sin(view) + circles.r[..., None]
    support = reach.max(axis=1)
    slope = np.diff(support, axis=1, append=support[:, :1]) / (2 * np.pi / VIEWS)
    perimeter = 2 * np.pi * support.mean(axis=1)
    area = np.pi * (support**2 - slope**2).mean(axis=1)
    return float(np.mean(4 * np.pi * area / perimeter**2))


def groove(circles: Circles) -> float:
    """Return how far the surface lies below the circle round the yarn on the mean, over that circle's radius."""
    view = 2 * np.pi * np.arange(FEWER_VIEWS) / FEWER_VIEWS
    along = circles.x[..., None] * np.cos(view) + circles.y[..., None] * np.sin(view)
    beside = circles.y[..., None] * np.cos(view) - circles.x[..., None] * np.sin(view)
    hit = circles.r[..., None] ** 2 - beside**2
    surface = np.where(hit >= 0, along + np.sqrt(np.maximum(hit, 0.0)), 0.0).max(axis=1)
    widest = surface.max(axis=1)
    return float(np.mean(1 - surface.mean(axis=1) / widest))


@dataclass(frozen=True)
class Shape:
    """What a cut across a yarn looks like; nothing of its size."""

    circularity: float
    groove: float

    def towards(self, other: "Shape", share: float) -> "Shape":
        """Return what lies a share of the way to another."""
        pairs = (self.circularity, other.circularity), (self.groove, other.groove)
        return Shape(*(one + share * (another - one) for one, another in pairs))


def shape_of(made: Made) -> Shape:
    """Return :func:`circularity` and :func:`groove` of a yarn of scalar values."""
    circles = cut(made)
    return Shape(circularity(circles), groove(circles))


def shown(made: Made) -> tuple[float, ...]:
    """Return the thickness [mm] of every strand that shows: of rings the outermost, of a core its wrap alone."""
    if not isinstance(made, MadeNest) or wrap_of(made.node):
        return (float(made.state.diameter),)
    last = made.layout.seats[-1].ring
    seats = zip(made.layout.seats, made.state.seats, strict=True)
    outside = [seated for seat, seated in seats if seat.ring == last]
    return tuple(thick for seat in outside for thick in seat.count * shown(made.members[seat.member]))


def definition(made: Made, growth: float) -> float:
    """Return the share of a yarn's grooves that its bloom leaves open: strands grow where they lie, and fill them.

    A single has no grooves; what is left of its crispness is taken as one over its growth.
    """
    circles = cut(made)
    before = groove(circles)
    if before < SHALLOW:
        return 1 / growth
    return groove(Circles(circles.x, circles.y, circles.r * growth)) / before
