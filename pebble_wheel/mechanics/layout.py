"""Where the strands of a ply lie: seats in rings round the twist axis, for equal and unlike strands of any number.

Up to five strands touch in one ring; 6 to 8 lie as a ring round a straight core; more in rings round a bundle, the
thinnest inside. The twist axis is the centroid weighted by bending stiffness, so that a limp strand goes outside; a
tension share moves it towards the first or the last strand, which then lies straight while the others wind round it.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.helix import MAX_RING, apparent_width, lay

ONE_CORE = 8
"""Up to this many, a ring round one core; beyond, rings round a bundle."""

EVEN = 0.5
"""The tension share at which every strand carries alike."""

VIEWS = 72
"""Directions of view for the mean width of a hull."""


@dataclass(frozen=True)
class Seat:
    """Strands of one member that lie alike."""

    member: int
    ring: int
    """0 is innermost."""
    places: tuple[int, ...]
    """In the order round the ring."""

    @property
    def count(self) -> int:
        """How many strands lie so."""
        return len(self.places)


@dataclass(frozen=True)
class Layout:
    """The seating of a ply. Members are numbered as in their ply."""

    rings: tuple[tuple[int, ...], ...]
    """Members in their order round each ring, the innermost first; a ring of one is a straight core."""
    seats: tuple[Seat, ...]
    tension_share: float

    @property
    def plain(self) -> bool:
        """Whether all is one ring of equal strands under even tension."""
        return len(self.seats) == 1

    def radii(self, r: list[FloatArray], stiffness: list[Floats], angles: list[FloatArray]) -> list[FloatArray]:
        """Return the distance of each seat's centre-line from the twist axis [mm].

        Args:
            r: contact radius of each member, mm.
            stiffness: bending stiffness of each member, any unit.
            angles: helix angle of each seat, for the growth of the contact radius with it, radians.
        """
        upright = [r[0] * unit for unit in _unit_radii(self)] if self.alike else self._upright_radii(r, stiffness)
        return [radius * self._growth(seat.ring, angles) for seat, radius in zip(self.seats, upright, strict=True)]

    @property
    def alike(self) -> bool:
        """Whether all strands are of one member: the shape is then fixed and only its size varies."""
        return all(seat.member == 0 for seat in self.seats)

    def _upright_radii(self, r: list[FloatArray], stiffness: list[Floats]) -> list[FloatArray]:
        """Return the distances of the seats from the axis where the strands lie straight."""
        rings = self._rings(r, stiffness)
        found = []
        for seat in self.seats:
            x, y = rings[seat.ring]
            squared = sum((x[place] ** 2 + y[place] ** 2 for place in seat.places), np.asarray(0.0)) / seat.count
            found.append(np.sqrt(squared))
        return found

    def azimuths(self, r: list[FloatArray], stiffness: list[Floats]) -> list[list[FloatArray]]:
        """Return for each seat the directions of its strands from the twist axis [radians]."""
        rings = self._rings(r, stiffness)
        return [
            [np.arctan2(rings[seat.ring][1][place], rings[seat.ring][0][place]) for place in seat.places]
            for seat in self.seats
        ]

    def width(self, r: list[FloatArray], stiffness: list[Floats]) -> FloatArray:
        """Return the apparent diameter: the mean over all views of the width of the hull [mm] (Cauchy)."""
        if len(self.seats) == 1:
            return 2 * r[0] * apparent_width(len(self.rings[0]))
        if self.alike:
            return r[0] * _unit_width(self)
        return self._hull_width(r, stiffness)

    def _hull_width(self, r: list[FloatArray], stiffness: list[Floats]) -> FloatArray:
        """Return twice the mean reach of the outer ring over all directions."""
        view = 2 * np.pi * np.arange(VIEWS) / VIEWS
        reach = None
        for member, x, y in zip(self.rings[-1], *self._rings(r, stiffness)[-1], strict=True):
            own = (
                np.asarray(r[member])[..., None]
                + np.asarray(x)[..., None] * np.cos(view)
                + np.asarray(y)[..., None] * np.sin(view)
            )
            reach = own if reach is None else np.maximum(reach, own)
        assert reach is not None
        return 2 * np.mean(reach, axis=-1)

    def _growth(self, ring: int, angles: list[FloatArray]) -> FloatArray:
        """Return by how much contact widens a ring at its mean helix angle, as it does for equal strands.

        Round a strand that lies straight nothing widens: the shortest way to it stays square to the axis.
        """
        strands = len(self.rings[ring])
        if strands == 1:
            return np.asarray(1.0)
        own = [seat.count * np.abs(angle) for seat, angle in zip(self.seats, angles, strict=True) if seat.ring == ring]
        growth = lay(strands).ratio_at(sum(own, np.asarray(0.0)) / strands) * np.sin(np.pi / strands)
        return 1 + (growth - 1) * (1 - abs(2 * self.tension_share - 1))

    def _rings(self, r: list[FloatArray], stiffness: list[Floats]) -> list[tuple[list[FloatArray], list[FloatArray]]]:
        """Return the centres of each ring from the twist axis."""
        placed: list[tuple[list[FloatArray], list[FloatArray]]] = []
        envelope: FloatArray = np.asarray(0.0)
        for number, ring in enumerate(self.rings):
            own = [r[member] for member in ring]
            if number == 0:
                x, y = _touching(own)
                x, y = self._about_axis(x, y, [stiffness[member] for member in ring])
            else:
                x, y = _around(own, envelope)
            placed.append((x, y))
            reaches = [np.hypot(a, b) + each for a, b, each in zip(x, y, own, strict=True)]
            envelope = np.max(np.stack(np.broadcast_arrays(*reaches)), axis=0)
        return placed

    def _about_axis(
        self, x: list[FloatArray], y: list[FloatArray], stiffness: list[Floats]
    ) -> tuple[list[FloatArray], list[FloatArray]]:
        weight = sum(stiffness, np.asarray(0.0))
        pull = 2 * self.tension_share - 1
        straight = 0 if pull > 0 else -1
        about = []
        for places in (x, y):
            centre = sum((s * p for s, p in zip(stiffness, places, strict=True)), np.asarray(0.0)) / weight
            about.append(centre + abs(pull) * (places[straight] - centre))
        return [place - about[0] for place in x], [place - about[1] for place in y]


@lru_cache(maxsize=256)
def _unit_radii(layout: Layout) -> tuple[float, ...]:
    """Return the distances of like strands of radius 1 from the axis, lying straight."""
    one = np.asarray(1.0)
    return tuple(float(radius) for radius in layout._upright_radii([one], [one]))


@lru_cache(maxsize=256)
def _unit_width(layout: Layout) -> float:
    """Return the apparent diameter of like strands of radius 1."""
    one = np.asarray(1.0)
    return float(layout._hull_width([one], [one]))


def seat(counts: list[int], thickness: list[float], tension_share: float) -> Layout:
    """Return the seating of so many strands of each member, of about these thicknesses."""
    order = _interleaved(counts)
    if len(order) > MAX_RING:
        order = sorted(order, key=lambda member: thickness[member])
    rings: list[tuple[int, ...]] = []
    place = 0
    for size in _ring_sizes(len(order)):
        taken = order[place : place + size]
        rings.append(tuple(taken) if len(order) <= MAX_RING else tuple(_spread(taken)))
        place += size
    seats = []
    for number, ring in enumerate(rings):
        alike = [[place for place, own in enumerate(ring) if own == member] for member in dict.fromkeys(ring)]
        if tension_share != EVEN:  # even like strands then lie at their own distances from the axis
            alike = [[place] for place in range(len(ring))]
        seats += [Seat(ring[places[0]], number, tuple(places)) for places in alike]
    return Layout(tuple(rings), tuple(seats), tension_share)


@lru_cache(maxsize=64)
def _ring_sizes(strands: int) -> tuple[int, ...]:
    """Return how many strands lie in each ring, from the inside."""
    if strands <= MAX_RING:
        return (strands,)
    if strands <= ONE_CORE:
        return (1, strands - 1)
    options = []
    for inside in range(2, strands - MAX_RING):
        inner = _ring_sizes(inside)
        reach = _reach(inner) + 1
        outside = strands - inside
        options.append((max(reach, 1 / np.sin(np.pi / outside)), (*inner, outside)))
    return min(options)[1]


def _reach(sizes: tuple[int, ...]) -> float:
    """Return the outer radius of rings of equal strands of radius 1."""
    reach = 0.0
    for size in sizes:
        touching = 0.0 if size == 1 else 1 / np.sin(np.pi / size)
        reach = max(touching, reach + 1 if reach else 0.0) + 1
    return reach


def _interleaved(counts: list[int]) -> list[int]:
    """Return the members in turn, spread evenly round."""
    places = [((turn + 0.5) / count, member) for member, count in enumerate(counts) for turn in range(count)]
    return [member for _, member in sorted(places)]


def _spread(ring: list[int]) -> list[int]:
    members = list(dict.fromkeys(ring))
    return [members[place] for place in _interleaved([ring.count(member) for member in members])]


def _touching(r: list[FloatArray]) -> tuple[list[FloatArray], list[FloatArray]]:
    """Return centres of circles that touch: one, two, three mutually, or more round a ring."""
    zero = np.asarray(0.0)
    if len(r) == 1:
        return [zero], [zero]
    if len(r) == 2:
        return [zero, r[0] + r[1]], [zero, zero]
    if len(r) == 3:
        a, b, c = r[0] + r[1], r[0] + r[2], r[1] + r[2]
        across = (a**2 + b**2 - c**2) / (2 * a)
        return [zero, a, across], [zero, zero, np.sqrt(b**2 - across**2)]
    return _around(r, zero)


def _around(r: list[FloatArray], envelope: FloatArray) -> tuple[list[FloatArray], list[FloatArray]]:
    """Return centres of circles round a ring: touching each other, or outside an envelope and spread evenly.

    A touching ring has ``Σ 2 asin((r_i + r_j)/2R) = 2π``, solved by Newton.
    """
    pairs = [(own + r[(place + 1) % len(r)]) / 2 for place, own in enumerate(r)]
    mean = sum(pairs, np.asarray(0.0)) / len(r)
    radius = mean / np.sin(np.pi / len(r))
    for _ in range(6):
        share = [np.clip(half / radius, -0.999999, 0.999999) for half in pairs]
        off = sum((np.arcsin(each) for each in share), np.asarray(0.0)) - np.pi
        slope = -sum((each / np.sqrt(1 - each**2) for each in share), np.asarray(0.0)) / radius
        radius = radius - off / slope
    outside = envelope + sum(r, np.asarray(0.0)) / len(r)
    ring = np.maximum(radius, np.where(envelope > 0, outside, 0.0))
    steps = [2 * np.arcsin(np.clip(half / ring, -1, 1)) for half in pairs]
    spare = (2 * np.pi - sum(steps, np.asarray(0.0))) / len(r)
    x, y, angle = [], [], np.asarray(0.0)
    for step in steps:
        x.append(ring * np.cos(angle))
        y.append(ring * np.sin(angle))
        angle = angle + step + spare
    return x, y
