"""Where the strands of a ply lie: seats in rings round the twist axis, for equal and unlike strands of any number.

Up to five strands touch in one ring; more lie in rings round a bundle, the thinnest inside (``rings``). The twist axis
is their centroid weighted by the tension each is held with and a little by its stiffness; a tension share moves it
towards the first or the last strand, which then lies straight while the others wind round it. Strands on one seat lie
alike; each seat has a state of its own.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand.helix import lay
from pebble_wheel.mechanics.strand.rings import MAX_RING, Rings, rings

EVEN = 0.5
"""The tension share at which every strand carries alike."""

VIEWS = 72
"""Directions of view for the mean width of a hull."""

FARTHEST_AXIS = 1.25
"""How far the axis of a strand that is twisted on or back may leave the middle, in distances of its strands from there:
beyond, the tight strand lies straight and the slack ones stand off."""

NEWTON_ROUNDS, CLOSED = 6, 1e-5
"""To close a ring, and the gap [radians] that the last of them, squaring it, leaves none of."""

WIDEST_ACROSS = np.pi / 2 - 1e-6
"""Half the angle, seen from the axis, between the two widest neighbours of a ring that stand across each other."""

LEAST_TURNS = 1e-5
"""turns/mm: with fewer what is fed in excess cannot be told from a straight strand."""

Places = tuple[FloatArray, FloatArray]
"""Centres of the strands of a ring, x and y [mm], places along the last axis."""


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

    @cached_property
    def counts(self) -> FloatArray:
        """How many strands lie on each seat."""
        return np.array([float(each.count) for each in self.seats])

    @cached_property
    def outside(self) -> list[int]:
        """The seats of the outermost ring."""
        return self._in_rings[-1]

    @cached_property
    def _in_rings(self) -> list[list[int]]:
        """The seats of each ring."""
        numbered = list(enumerate(self.seats))
        return [[number for number, each in numbered if each.ring == ring] for ring in range(len(self.rings))]

    @cached_property
    def _by_place(self) -> list[list[int]]:
        """Of each ring the seat of every place."""
        return [
            [
                next(number for number in self._in_rings[ring] if place in self.seats[number].places)
                for place in range(len(members))
            ]
            for ring, members in enumerate(self.rings)
        ]

    def radii(self, r: FloatArray, pull: FloatArray, angles: FloatArray) -> FloatArray:
        """Return the distance of each seat's centre-line from the twist axis [mm]; all have seats along the last axis.

        Args:
            r: contact radius, mm.
            pull: what each seat's strand draws the axis with, any unit.
            angles: helix angle, for the growth of the contact radius with it, radians.
        """
        found: list[FloatArray] = []
        for number, places, radius in self._rings(r, angles):
            seats = self._in_rings[number]
            if places:
                x, y = self._from_axis(places, pull)
                first = [self.seats[each].places[0] for each in seats]
                found.append(np.hypot(x[..., first], y[..., first]))
            else:
                found.append(np.broadcast_to(radius[..., None], (*radius.shape, len(seats))))
        return joined(found)

    def kept(self, r: FloatArray, angles: FloatArray, squares: FloatArray, turns: FloatArray) -> FloatArray:
        """Return the squared length of a piece in which every strand keeps its own, distances of the centres kept.

        ``S_i² = z² + (2πN R_i)²``. The axis moves until the radii agree with the lengths; of strands in one ring of
        centres c_i about their centroid that is ``x`` of least squares in ``2 c_i·x = |c_i|² − h_i² − mean``, h_i =
        S_i/2πN, exact for two and three. Then ``z² = mean S² − (2πN)²(mean |c|² + |x|²)``, at most the shortest.

        Args:
            r: contact radius, seats along the last axis, mm.
            angles: helix angle likewise, radians.
            squares: S² of one strand of each seat likewise, mm².
            turns: N in the piece.

        Returns:
            z², mm²; each radius follows from it.
        """
        wound = (2 * np.pi) ** 2 * np.maximum(turns**2, LEAST_TURNS**2)
        *_, (_, places, radius) = self._rings(r, angles)
        outer, counts = squares[..., self.outside], self.counts[self.outside]
        mean = (counts * outer).sum(axis=-1) / counts.sum()
        about = radius**2
        if places:
            about = self._moved(places, outer[..., self._by_place[0]], wound)
        return np.maximum(np.minimum(mean - wound * about, squares.min(axis=-1)), 0.0)

    def _moved(self, places: Places, squares: FloatArray, wound: FloatArray) -> FloatArray:
        """Return the mean squared distance of the centres of a ring from where the axis goes for the strands to keep
        their lengths; ``wound`` is (2πN)²."""
        count = places[0].shape[-1]
        x, y = (axis - axis.mean(axis=-1, keepdims=True) for axis in places)
        square = x**2 + y**2
        off = square - squares / wound[..., None]
        xx, xo = (x * x).sum(axis=-1), (x * off).sum(axis=-1)
        if count == 2:
            squared = (xo / xx) ** 2 / 4
        else:
            yy, xy, yo = ((a * b).sum(axis=-1) for a, b in ((y, y), (x, y), (y, off)))
            squared = ((yy * xo - xy * yo) ** 2 + (xx * yo - xy * xo) ** 2) / (xx * yy - xy**2) ** 2 / 4
        mean = square.mean(axis=-1)
        return mean + np.minimum(squared, FARTHEST_AXIS**2 * mean)

    def azimuths(self, r: FloatArray) -> list[list[float]]:
        """Return for each seat the directions of its strands from the twist axis, all drawing alike [radians].

        Args:
            r: contact radius of each seat, mm.
        """
        if self.plain:
            return [list(self.shape.directions[0])]
        alike = np.ones(len(self.seats))
        found: list[list[float]] = []
        for number, places, radius in self._rings(np.asarray(r, float), 0.0 * alike):
            if places:
                x, y = self._from_axis(places, alike)
                around = np.arctan2(y, x).tolist()
            elif len(self._in_rings[number]) > 1:
                x, y = _round(r[..., self._by_place[number]], radius)
                around = np.arctan2(y, x).tolist()
            else:
                around = list(self.shape.directions[number])
            found += [[around[place] for place in self.seats[each].places] for each in self._in_rings[number]]
        return found

    def width(self, r: FloatArray) -> FloatArray:
        """Return the apparent diameter: the mean over all views of the width of the hull [mm] (Cauchy).

        Args:
            r: contact radius, seats along the last axis, mm.
        """
        *_, (last, places, radius) = self._rings(r, np.zeros(len(self.seats)))
        if len(self.outside) == 1:
            gaps = np.diff(np.sort(self.shape.directions[last]), append=2 * np.pi + min(self.shape.directions[last]))
            own = r[..., self.outside[0]]
            return np.asarray(2 * own + radius * float(np.sum(2 * np.sin(gaps / 2))) / np.pi)
        view = 2 * np.pi * np.arange(VIEWS) / VIEWS
        x, y = places or _round(r[..., self._by_place[last]], radius)
        reach: FloatArray = np.asarray(0.0)  # which every strand reaches past, seen from within the ring
        for place, seated in enumerate(self._by_place[last]):
            along = x[..., place, None] * np.cos(view) + y[..., place, None] * np.sin(view)
            reach = np.maximum(reach, r[..., seated, None] + along)
        return 2 * np.mean(reach, axis=-1)

    def _rings(self, r: FloatArray, angles: FloatArray) -> Iterator[tuple[int, Places | None, FloatArray]]:
        """Yield each ring: its number, the centres of its strands where their distances from the axis are not all
        alike, which those of the innermost may be, and their distance from the axis, where it is one.

        A ring lies on what is inside it, or is as wide as its strands touch, whichever is more.
        """
        within: FloatArray = np.asarray(0.0)
        for number, ring in enumerate(self.rings):
            seats, growth = self._in_rings[number], self._growth(number, angles)
            if len(seats) == 1:
                own = r[..., seats[0]]
                touch = own / np.sin(np.pi / len(ring)) * growth if len(ring) > 1 else np.asarray(0.0)
                radius = np.maximum(touch, (within + own) * self._bedded(number)) if number else touch
                yield number, None, radius
                within = radius + own
                continue
            around = r[..., self._by_place[number]]
            if number:
                radius = np.maximum(_closing(around) * growth, within * self._bedded(number) + around.mean(axis=-1))
                yield number, None, radius
                within = radius + around.max(axis=-1)
            else:
                places = _touching(around, growth)
                distances = np.hypot(*places)
                yield number, places, distances[..., 0]
                within = (distances + around).max(axis=-1)

    def _bedded(self, ring: int) -> float:
        """Return how near a ring lies to what is inside it, over strands that lie on a smooth round."""
        if ring == 0:
            return 1.0
        return self.shape.radii[ring] / max(self.shape.radii[ring - 1] + 2, self.shape.radii[ring])

    def _growth(self, ring: int, angles: FloatArray) -> FloatArray:
        """Return by how much contact widens a ring at its mean helix angle, as it does for equal strands.

        Round a strand that lies straight nothing widens: the shortest way to it stays square to the axis.
        """
        strands = len(self.rings[ring])
        if strands == 1:
            return np.asarray(1.0)
        seats = self._in_rings[ring]
        mean = (self.counts[seats] * np.abs(angles[..., seats])).sum(axis=-1) / strands
        growth = lay(strands).ratio_at(mean) * np.sin(np.pi / strands)
        return 1 + (growth - 1) * (1 - abs(2 * self.tension_share - 1))

    def _from_axis(self, places: Places, pull: FloatArray) -> Places:
        """Return the centres of the innermost ring from the twist axis."""
        drawn, share = pull[..., self._by_place[0]], abs(2 * self.tension_share - 1)
        drawn = drawn / drawn.sum(axis=-1, keepdims=True)

        def from_axis(axis: FloatArray) -> FloatArray:
            centre = (drawn * axis).sum(axis=-1, keepdims=True)
            return axis - centre - share * (axis[..., self.straight, None] - centre)

        return from_axis(places[0]), from_axis(places[1])


def joined(parts: list[FloatArray]) -> FloatArray:
    """Return arrays joined along their last axis, each as broadcast over the other axes as the others are."""
    if len(parts) == 1:
        return parts[0]
    if len({each.shape[:-1] for each in parts}) == 1:
        return np.concatenate(parts, axis=-1)
    shape = np.broadcast_shapes(*(each.shape[:-1] for each in parts))
    return np.concatenate([np.broadcast_to(each, (*shape, each.shape[-1])) for each in parts], axis=-1)


def seat(counts: list[int], thickness: list[float], tension_share: float) -> Layout:
    """Return the seating of so many strands of each member, of about these thicknesses.

    Args:
        counts: strands of each member.
        thickness: of each, any unit; of more than five strands the thinnest lie inside.
        tension_share: 0.5 even; 1 holds the first strand of the first member straight, 0 the last of the last.
    """
    thinner = sorted(set(thickness))
    return _seated(tuple(counts), tuple(thinner.index(each) for each in thickness), tension_share)


@lru_cache(maxsize=256)
def _seated(counts: tuple[int, ...], ranks: tuple[int, ...], tension_share: float) -> Layout:
    """Return the seating of strands by how many are thinner; see :func:`seat`."""
    order = _interleaved(counts)
    held = 0 if tension_share > EVEN else len(counts) - 1
    if len(order) > MAX_RING:
        order = sorted(order, key=lambda member: ranks[member])
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


def _interleaved(counts: Sequence[int]) -> list[int]:
    """Return the members in turn, spread evenly round, beginning with the first."""
    places = [((turn + 0.5) / count, member) for member, count in enumerate(counts) for turn in range(count)]
    found = [member for _, member in sorted(places)]
    first = found.index(0)
    return found[first:] + found[:first]


def _spread(ring: list[int]) -> list[int]:
    members = list(dict.fromkeys(ring))
    return [members[place] for place in _interleaved([ring.count(member) for member in members])]


def _touching(r: FloatArray, growth: FloatArray) -> Places:
    """Return centres of circles that touch: two, three mutually, or more round a ring, moved apart by a growth."""
    strands = r.shape[-1]
    if strands > 3:
        return _round(r, _closing(r) * growth)
    x, y = np.zeros(r.shape), np.zeros(r.shape)
    x[..., 1] = a = r[..., 0] + r[..., 1]
    if strands == 3:
        b, c = r[..., 0] + r[..., 2], r[..., 1] + r[..., 2]
        x[..., 2] = across = (a**2 + b**2 - c**2) / (2 * a)
        y[..., 2] = np.sqrt(b**2 - across**2)
    return growth[..., None] * x, growth[..., None] * y


def _closing(r: FloatArray) -> FloatArray:
    """Return the radius at which circles touch each other round a ring.

    A touching ring has ``Σ asin(h_i/R) = π``, h half the distance of neighbours. With ``sin φ = h_max/R`` the sum rises
    evenly in φ, so that Newton closes in however unlike the circles are; at φ = π/2 the two widest stand across.
    """
    pairs = _halfway(r)
    widest = pairs.max(axis=-1)
    shares = pairs / widest[..., None]
    count = r.shape[-1]
    as_the_mean = np.sin(np.pi / count) * count / shares.sum(axis=-1)
    phi = np.arcsin(np.minimum(as_the_mean, np.sin(WIDEST_ACROSS)))
    for _ in range(NEWTON_ROUNDS):
        leant = shares * np.sin(phi)[..., None]
        off = np.arcsin(leant).sum(axis=-1) - np.pi
        slope = (shares / np.sqrt(1 - leant**2)).sum(axis=-1) * np.cos(phi)
        phi = np.minimum(phi - off / slope, WIDEST_ACROSS)
        if np.abs(off).max() < CLOSED:
            break
    return np.asarray(widest / np.sin(phi))


def _halfway(r: FloatArray) -> FloatArray:
    """Return half the distance of each circle and the next that touch round a ring."""
    return (r + np.concatenate([r[..., 1:], r[..., :1]], axis=-1)) / 2


def _round(r: FloatArray, radius: FloatArray) -> Places:
    """Return centres of circles round a ring so wide, spread evenly."""
    steps = 2 * np.arcsin(np.clip(_halfway(r) / radius[..., None], -1, 1))
    spare = (2 * np.pi - steps.sum(axis=-1)) / r.shape[-1]
    ends = np.cumsum(steps + spare[..., None], axis=-1)
    angle = np.concatenate([np.zeros((*ends.shape[:-1], 1)), ends[..., :-1]], axis=-1)
    return radius[..., None] * np.cos(angle), radius[..., None] * np.sin(angle)
