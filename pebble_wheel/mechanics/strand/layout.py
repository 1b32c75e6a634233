"""Where the strands of a ply lie: seats in rings round the twist axis, for equal and unlike strands of any number.

Up to five strands touch in one ring; more lie in rings round a bundle, the thinnest inside (``rings``). The twist axis
is their centroid weighted by the tension each is held with and a little by its stiffness; a tension share moves it
towards the first or the last strand, which then lies straight while the others wind round it. Strands on one seat lie
alike; each seat has a state of its own.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import reduce

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.strand.helix import apparent_width, lay
from pebble_wheel.mechanics.strand.rings import MAX_RING, Rings, rings

EVEN = 0.5
"""The tension share at which every strand carries alike."""

VIEWS = 72
"""Directions of view for the mean width of a hull."""

FARTHEST_AXIS = 1.25
"""How far the axis of a strand that is twisted on or back may leave the middle, in distances of its strands from there:
beyond, the tight strand lies straight and the slack ones stand off."""

NEWTON_ROUNDS = 6

WIDEST_ACROSS = np.pi / 2 - 1e-6
"""Half the angle, seen from the axis, between the two widest neighbours of a ring that stand across each other."""

LEAST_TURNS = 1e-5
"""turns/mm: with fewer what is fed in excess cannot be told from a straight strand."""

Places = tuple[list[FloatArray], list[FloatArray]]
"""Centres of the strands of a ring, x and y [mm]."""


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
    """The seating of a ply. Members are numbered as in their ply, and what is given by seat stands in their order."""

    rings: tuple[tuple[int, ...], ...]
    """Members in their order round each ring, the innermost first; a ring of one is a straight core."""
    seats: tuple[Seat, ...]
    tension_share: float
    straight: int
    """Place in the innermost ring of the strand that lies straight where tension is not even."""

    @property
    def plain(self) -> bool:
        """Whether all is one ring of equal strands under even tension."""
        return len(self.seats) == 1

    @property
    def shape(self) -> Rings:
        """The rings of so many strands were they equal."""
        return rings(sum(len(ring) for ring in self.rings))

    def radii(self, r: list[FloatArray], pull: list[Floats], angles: list[FloatArray]) -> list[FloatArray]:
        """Return the distance of each seat's centre-line from the twist axis [mm].

        Args:
            r: contact radius by seat, mm.
            pull: what each seat's strand draws the axis with, any unit.
            angles: helix angle by seat, for the growth of the contact radius with it, radians.
        """
        found: list[FloatArray] = []
        for number, places, radius in self._rings(r, angles):
            x, y = self._from_axis(places, pull) if number == 0 and places else ([], [])
            for each in self.seats:
                if each.ring == number:
                    place = each.places[0]
                    found.append(np.hypot(x[place], y[place]) if x else np.asarray(radius))
        return found

    def kept(
        self, r: list[FloatArray], angles: list[FloatArray], squares: list[FloatArray], turns: FloatArray
    ) -> FloatArray:
        """Return the squared length of a piece in which every strand keeps its own, distances of the centres kept.

        ``S_i² = z² + (2πN R_i)²``. The axis moves until the radii agree with the lengths; of strands in one ring of
        centres c_i about their centroid that is ``x`` of least squares in ``2 c_i·x = |c_i|² − h_i² − mean``, h_i =
        S_i/2πN, exact for two and three. Then ``z² = mean S² − (2πN)²(mean |c|² + |x|²)``, at most the shortest.

        Args:
            r: contact radius by seat, mm.
            angles: helix angle by seat, radians.
            squares: S² of one strand of each seat, mm².
            turns: N in the piece.

        Returns:
            z², mm²; each radius follows from it.
        """
        wound = (2 * np.pi) ** 2 * np.maximum(turns**2, LEAST_TURNS**2)
        *_, (last, places, radius) = self._rings(r, angles)
        outer = [(each, square) for each, square in zip(self.seats, squares, strict=True) if each.ring == last]
        mean = outer[0][1]
        if len(outer) > 1:
            count = sum(each.count for each, _ in outer)
            mean = sum((each.count * square for each, square in outer), np.asarray(0.0)) / count
        about = radius**2
        if places and last == 0:
            about = self._moved(places, outer, wound)
        return np.maximum(reduce(np.minimum, [mean - wound * about, *squares]), 0.0)

    def _moved(self, places: Places, outer: list[tuple[Seat, FloatArray]], wound: FloatArray) -> FloatArray:
        """Return the mean squared distance of the centres of a ring from where the axis goes for the strands to keep
        their lengths; ``wound`` is (2πN)²."""
        count = len(places[0])
        x, y = ([each - sum(axis, np.asarray(0.0)) / count for each in axis] for axis in places)
        square = [a**2 + b**2 for a, b in zip(x, y, strict=True)]
        spans = {place: squared / wound for each, squared in outer for place in each.places}
        off = [square[place] - spans[place] for place in range(count)]
        xx, yy, xy, xo, yo = (
            sum((a * b for a, b in zip(one, other, strict=True)), np.asarray(0.0))
            for one, other in ((x, x), (y, y), (x, y), (x, off), (y, off))
        )
        if count == 2:
            squared = (xo / xx) ** 2 / 4
        else:
            squared = ((yy * xo - xy * yo) ** 2 + (xx * yo - xy * xo) ** 2) / (xx * yy - xy**2) ** 2 / 4
        mean = sum(square, np.asarray(0.0)) / count
        return mean + np.minimum(squared, FARTHEST_AXIS**2 * mean)

    def azimuths(self, r: list[FloatArray]) -> list[list[FloatArray]]:
        """Return for each seat the directions of its strands from the twist axis, all drawing alike [radians]."""
        angles: list[FloatArray] = [np.asarray(0.0)] * len(self.seats)
        pull: list[Floats] = [1.0] * len(self.seats)
        found: list[list[FloatArray]] = []
        for number, places, _ in self._rings(r, angles):
            if places:
                x, y = self._from_axis(places, pull) if number == 0 else places
                around = [np.arctan2(b, a) for a, b in zip(x, y, strict=True)]
            else:
                around = [np.asarray(each) for each in self.shape.directions[number]]
            found += [[around[place] for place in each.places] for each in self.seats if each.ring == number]
        return found

    def width(self, r: list[FloatArray]) -> FloatArray:
        """Return the apparent diameter: the mean over all views of the width of the hull [mm] (Cauchy)."""
        if self.plain:
            return 2 * r[0] * apparent_width(len(self.rings[0]))
        angles = [np.asarray(0.0)] * len(self.seats)
        *_, (last, places, radius) = self._rings(r, angles)
        own = {place: r[number] for number, each in enumerate(self.seats) if each.ring == last for place in each.places}
        if not places:
            gaps = np.diff(np.sort(self.shape.directions[last]), append=2 * np.pi + min(self.shape.directions[last]))
            return 2 * own[0] + radius * float(np.sum(2 * np.sin(gaps / 2))) / np.pi
        view = 2 * np.pi * np.arange(VIEWS) / VIEWS
        reach: FloatArray = np.asarray(0.0)  # which every strand reaches past, seen from within the ring
        for place, (x, y) in enumerate(zip(*places, strict=True)):
            along = np.asarray(x)[..., None] * np.cos(view) + np.asarray(y)[..., None] * np.sin(view)
            one = np.asarray(own[place])[..., None] + along
            reach = np.maximum(reach, one)
        return 2 * np.mean(reach, axis=-1)

    def _rings(self, r: list[FloatArray], angles: list[FloatArray]) -> Iterator[tuple[int, Places | None, FloatArray]]:
        """Yield each ring: its number, the centres of its strands where they are not all alike, and their distance from
        the axis, where it is one.

        A ring lies on what is inside it, or is as wide as its strands touch, whichever is more.
        """
        within: FloatArray = np.asarray(0.0)
        for number, ring in enumerate(self.rings):
            seats = [place for place, each in enumerate(self.seats) if each.ring == number]
            growth = self._growth(number, angles)
            if len(seats) == 1:
                own = r[seats[0]]
                touch = own / np.sin(np.pi / len(ring)) * growth if len(ring) > 1 else np.asarray(0.0)
                radius = np.maximum(touch, (within + own) * self._bedded(number)) if number else touch
                yield number, None, radius
                within = radius + own
                continue
            by_place = {place: r[each] for each in seats for place in self.seats[each].places}
            around = [by_place[place] for place in range(len(ring))]
            places = (
                _touching(around, growth) if number == 0 else _around(around, within * self._bedded(number), growth)
            )
            yield number, places, np.hypot(places[0][0], places[1][0])
            reaches = [np.hypot(a, b) + each for a, b, each in zip(*places, around, strict=True)]
            within = np.max(np.stack(np.broadcast_arrays(*reaches)), axis=0)

    def _bedded(self, ring: int) -> float:
        """Return how near a ring lies to what is inside it, over strands that lie on a smooth round."""
        if ring == 0:
            return 1.0
        return self.shape.radii[ring] / max(self.shape.radii[ring - 1] + 2, self.shape.radii[ring])

    def _growth(self, ring: int, angles: list[FloatArray]) -> FloatArray:
        """Return by how much contact widens a ring at its mean helix angle, as it does for equal strands.

        Round a strand that lies straight nothing widens: the shortest way to it stays square to the axis.
        """
        strands = len(self.rings[ring])
        if strands == 1:
            return np.asarray(1.0)
        own = [(each.count, angle) for each, angle in zip(self.seats, angles, strict=True) if each.ring == ring]
        mean = own[0][1]
        if len(own) > 1:
            mean = sum((count * np.abs(angle) for count, angle in own), np.asarray(0.0)) / strands
        growth = lay(strands).ratio_at(mean) * np.sin(np.pi / strands)
        return 1 + (growth - 1) * (1 - abs(2 * self.tension_share - 1))

    def _from_axis(self, places: Places, pull: list[Floats]) -> Places:
        """Return the centres of the innermost ring from the twist axis."""
        by_place = {
            place: pull[number] for number, each in enumerate(self.seats) if not each.ring for place in each.places
        }
        weight = sum(by_place.values(), np.asarray(0.0))
        share = abs(2 * self.tension_share - 1)
        about = []
        for axis in places:
            centre = sum((by_place[place] * axis[place] for place in by_place), np.asarray(0.0)) / weight
            centre = centre + share * (axis[self.straight] - centre)
            about.append([each - centre for each in axis])
        return about[0], about[1]


def seat(counts: list[int], thickness: list[float], tension_share: float) -> Layout:
    """Return the seating of so many strands of each member, of about these thicknesses.

    Args:
        counts: strands of each member.
        thickness: of each, any unit; of more than five strands the thinnest lie inside.
        tension_share: 0.5 even; 1 holds the first strand of the first member straight, 0 the last of the last.
    """
    order = _interleaved(counts)
    held = 0 if tension_share > EVEN else len(counts) - 1
    if len(order) > MAX_RING:
        order = sorted(order, key=lambda member: thickness[member])
        if tension_share != EVEN:  # the one that is held tight lies in the middle
            order.remove(held)
            order.insert(0, held)
    laid: list[tuple[int, ...]] = []
    place = 0
    for size in rings(len(order)).sizes:
        taken = order[place : place + size]
        laid.append(tuple(taken) if len(order) <= MAX_RING else tuple(_spread(taken)))
        place += size
    own = [place for place, member in enumerate(laid[0]) if member == held] or [0]
    straight = own[0] if tension_share > EVEN else own[-1]
    seats = []
    for number, ring in enumerate(laid):
        alike = _alike(ring, straight if number == 0 and tension_share != EVEN else None, number == 0)
        seats += [Seat(ring[places[0]], number, places) for places in alike]
    return Layout(tuple(laid), tuple(seats), tension_share, straight)


def _alike(ring: tuple[int, ...], straight: int | None, touching: bool) -> list[tuple[int, ...]]:
    """Return the places of a ring that lie alike: those that a turn or a mirror image of the ring leads to each other.

    Strands of an outer ring all lie at one distance from the axis.
    """
    size = len(ring)
    if not touching:
        return [tuple(place for place in range(size) if ring[place] == member) for member in dict.fromkeys(ring)]
    marked = [(member, place == straight) for place, member in enumerate(ring)]
    moves = [[(way * place + by) % size for place in range(size)] for by in range(size) for way in (1, -1)]
    kept = [move for move in moves if all(marked[move[place]] == marked[place] for place in range(size))]
    return list(dict.fromkeys(tuple(sorted({move[place] for move in kept})) for place in range(size)))


def _interleaved(counts: list[int]) -> list[int]:
    """Return the members in turn, spread evenly round, beginning with the first."""
    places = [((turn + 0.5) / count, member) for member, count in enumerate(counts) for turn in range(count)]
    found = [member for _, member in sorted(places)]
    first = found.index(0)
    return found[first:] + found[:first]


def _spread(ring: list[int]) -> list[int]:
    members = list(dict.fromkeys(ring))
    return [members[place] for place in _interleaved([ring.count(member) for member in members])]


def _touching(r: list[FloatArray], growth: FloatArray) -> Places:
    """Return centres of circles that touch: two, three mutually, or more round a ring, moved apart by a growth."""
    zero = np.asarray(0.0)
    if len(r) == 2:
        x, y = [zero, r[0] + r[1]], [zero, zero]
    elif len(r) == 3:
        a, b, c = r[0] + r[1], r[0] + r[2], r[1] + r[2]
        across = (a**2 + b**2 - c**2) / (2 * a)
        x, y = [zero, a, across], [zero, zero, np.sqrt(b**2 - across**2)]
    else:
        return _around(r, None, growth)
    return [growth * each for each in x], [growth * each for each in y]


def _around(r: list[FloatArray], within: FloatArray | None, growth: FloatArray) -> Places:
    """Return centres of circles round a ring: touching each other, or outside what lies within and spread evenly.

    A touching ring has ``Σ asin(h_i/R) = π``, h half the distance of neighbours. With ``sin φ = h_max/R`` the sum rises
    evenly in φ, so that Newton closes in however unlike the circles are; at φ = π/2 the two widest stand across.
    """
    pairs = [(own + r[(place + 1) % len(r)]) / 2 for place, own in enumerate(r)]
    widest = np.max(np.stack(np.broadcast_arrays(*pairs)), axis=0)
    shares = [half / widest for half in pairs]
    phi = np.full(np.shape(widest), np.pi / len(r))
    for _ in range(NEWTON_ROUNDS):
        sine, cosine = np.sin(phi), np.cos(phi)
        off = sum((np.arcsin(share * sine) for share in shares), np.asarray(0.0)) - np.pi
        slope = sum((share * cosine / np.sqrt(1 - (share * sine) ** 2) for share in shares), np.asarray(0.0))
        phi = np.minimum(phi - off / slope, WIDEST_ACROSS)
    radius = widest / np.sin(phi)
    radius = radius * growth
    if within is not None:
        radius = np.maximum(radius, within + sum(r, np.asarray(0.0)) / len(r))
    steps = [2 * np.arcsin(np.clip(half / radius, -1, 1)) for half in pairs]
    spare = (2 * np.pi - sum(steps, np.asarray(0.0))) / len(r)
    x, y, angle = [], [], np.asarray(0.0)
    for step in steps:
        x.append(radius * np.cos(angle))
        y.append(radius * np.sin(angle))
        angle = angle + step + spare
    return x, y
