"""Where every single of a yarn runs: made and side by side on the left, laid on the right, smoothly between.

All sizes come from a settled state of the mechanics; only the short stretch where the strands come together is a
picture and not a measurement.
"""

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.tubes import Tube
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.section import bedded
from pebble_wheel.mechanics.strand.state import LeafState, Made, MadeLeaf, MadeNest, NestState, Seated, State
from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS, Wrap, loop_of, wrap_of

COVERED_FROM, COVERED_OVER = 0.02, 3
"""How far strands have come together where a wrap begins, and the samples over which its core still shows."""

LINK_AT = 0.8
"""Where across the picture a link of a chain ply lies, where no colour change says otherwise."""


CHANGE_AT = 0.7
"""Where across the picture a strand of several colours changes."""


HALF_MET = 0.5


LEAST_STRIP, MOST_STRIPS = 0.15, 8
"""Of a core's thickness, that a wrap with gaps is drawn thick at the least, and threads of it side by side."""

LOCKS_APART, TIP_SHARE, TIP_WIDE, TIP_SAMPLES, TIP_CURL, CURLS = 7.0, 0.16, 0.3, 16, 0.5, 1.6
"""Locks on a wrap: mm from one to the next, how much of a staple hangs, how thick of the yarn, and how it curls."""

APART = 1.12
"""Space of a strand beside its neighbours, in its diameters."""


@dataclass(frozen=True)
class Stretch:
    """What is seen of a yarn: where its strands come together, and what lies where; in the units of the picture."""

    scale: float
    """Units per mm."""
    width: float
    height: float
    join_from: float
    join_to: float


def strands_along(
    made: Made, dress: Dress, x: FloatArray, stretch: Stretch, held: str = "", at: float | None = None
) -> list[Tube]:
    """Return every single within a stretch, at even places along it.

    The piece of yarn shown is the one at a place [mm], else one in which a strand of several colours changes.
    """
    scale = stretch.scale
    together = smooth((x - stretch.join_from) / (stretch.join_to - stretch.join_from))
    middle = np.stack([x, np.full_like(x, stretch.height / 2), np.zeros_like(x)])[:, None]
    pen = _Pen(scale, float(x[1] - x[0]), together, held if held != "yarn" else "")
    length = float(made.state.length)
    change = _first_change(made, dress) if at is None else at / length
    if change is None:
        along = (x - LINK_AT * stretch.width) / scale / length
    else:
        along = (x - CHANGE_AT * stretch.width) / scale / length + change
    return _drawn(pen, made, dress, _Way(middle, along[None], [dress], straight=True))


def strands_round(made: Made, dress: Dress, path: FloatArray) -> list[Tube]:
    """Return every single of a laid yarn whose axis runs along a path [mm] of shape (3, samples), at even places."""
    x, y, z = path
    step = float(np.linalg.norm(np.diff(path, axis=1), axis=0).mean())
    along = step / float(made.state.length) * np.arange(path.shape[1], dtype=np.float64)
    pen = _Pen(1.0, step, np.ones_like(x), "")
    return _drawn(pen, made, dress, _Way(np.stack([x, -y, z])[:, None], along[None], [dress]))


def strands_straight(made: Made, dress: Dress, x: FloatArray, scale: float, place: float) -> list[Tube]:
    """Return every single of a laid yarn along a straight axis at the height 0, at even places x.

    Args:
        made: the yarn.
        dress: its colours.
        x: in units of the picture.
        scale: of these to a mm.
        place: of the first of x along the yarn [mm]; as it goes on, its strands lie where they did.
    """
    middle = np.stack([x, np.zeros_like(x), np.zeros_like(x)])[:, None]
    pen = _Pen(scale, float(x[1] - x[0]), np.ones_like(x), "", place)
    along = (place + (x - x[0]) / scale) / float(made.state.length)
    return _drawn(pen, made, dress, _Way(middle, along[None], [dress], straight=True))


def _drawn(pen: "_Pen", made: Made, dress: Dress, way: "_Way") -> list[Tube]:
    link = float(made.state.twist_now) / 1000
    if not isinstance(made, MadeNest):
        return list(pen.leaf(made, made.state, way, link, link))
    return list(pen.nest(made, made.state, way, None, link, 1 / float(made.state.length), np.zeros(1)))


def _first_change(made: Made, dress: Dress) -> float | None:
    """Return where along a strand, in its own pieces, the colour of one within it changes; None where none does."""
    if not isinstance(made, MadeNest):
        return dress.first_change if len(dress.colours) > 1 else None
    for seat in made.state.seats:
        inner = _first_change(made.members[seat.member], dress.members[seat.member][0])
        if inner is not None:
            loop = loop_of(made.node)
            if loop is not None:
                inner = kinds.chain_position(inner, float(np.asarray(loop)))
            return inner / float(seat.feed)
    return None


@dataclass(frozen=True)
class _Way:
    """Where several strands that are alike run."""

    path: FloatArray
    """Centre-lines: across, down, towards the eye; of shape (3, strands, samples)."""
    along: FloatArray
    """Places along each strand, in its own pieces of 1 mm; of shape (strands, samples)."""
    dresses: list[Dress]
    straight: bool = False
    """Whether it is known to run straight across the page."""

    def __iter__(self) -> Iterator[tuple[Dress, FloatArray, FloatArray]]:
        """Yield dress, path and places of each."""
        for number, dress in enumerate(self.dresses):
            yield dress, self.path[:, number], self.along[number]

    def frame(self) -> tuple[FloatArray, FloatArray]:
        """Return the unit vectors square to each path: down the page, and towards the eye."""
        if self.straight:
            down, towards = (np.broadcast_to(each[:, None, None], self.path.shape) for each in np.eye(3)[1:])
            return down, towards
        x, y, z = np.gradient(self.path, axis=-1)
        flat = x**2 + y**2
        long = np.sqrt(flat + z**2)
        flat = np.sqrt(flat)
        return np.stack([-y, x, np.zeros_like(x)]) / flat, np.stack([-x * z, -y * z, flat**2]) / (flat * long)


@dataclass
class _Pen:
    """Draws a structure level by level, all strands that are alike at once: paths have the shape (3, strands, samples).

    Seen from outside, the members of a strand turn round its path by its link: what was inserted in it and in all
    that it is part of. That is additive, and so needs no frame carried along the path.
    """

    scale: float
    step: float
    together: FloatArray
    held: str
    """Path of the part in hand; empty for none."""
    passed: float | None = None
    """mm of laid yarn before the picture, whose turns count; None where strands come together in it."""

    def leaf(self, made: MadeLeaf, now: State, way: "_Way", loose: float, laid: float) -> Iterator[Tube]:
        """Yield singles along their paths, given their links as made and as laid [turns/mm of yarn]."""
        width = self._blend(float(made.state.diameter), float(now.diameter)) * self.scale
        lean = self._blend(float(made.state.angle), float(now.angle))
        turned = self._turned(loose, laid)
        for dress, path, along in way:
            yield self._tube(path, width, dress, along, turned, lean, now)

    def nest(
        self,
        made: MadeNest,
        now: NestState,
        way: "_Way",
        loose: float | None,
        laid: float,
        pieces: float,
        phase: FloatArray,
    ) -> Iterator[Tube]:
        """Yield the singles of strands that are alike along their paths.

        Args:
            made: the strand.
            now: its state in the yarn.
            way: where each of them runs.
            loose: its link as made [turns/mm]; None for the yarn itself, whose members come in side by side.
            laid: its link in the yarn [turns/mm of yarn].
            pieces: of it in a mm of yarn.
            phase: by which the members of each are turned at the start, radians.
        """
        seen = list(made.state.seats)
        sizes = [float(own_state(made, each).diameter) for each in seen]
        around = made.layout.azimuths(np.array([float(each.state.diameter) / 2 for each in now.seats]))
        strands = sum(seat.count for seat in seen)
        beside = -sum(APART * size * each.count for size, each in zip(sizes, seen, strict=True)) / 2 * self.scale
        frame = way.frame()
        turned_as_one = self._turned(0.0 if loose is None else loose, laid) + phase[:, None]
        if loose is None and self.passed is None:
            turned_as_one += self._met(turned_as_one[0], around, [APART * size for size in sizes])
        ahead_of_one, aside_of_one = np.cos(turned_as_one), np.sin(turned_as_one)
        drawn: Counter[int] = Counter()
        loop, wrap = loop_of(made.node), wrap_of(made.node)
        strips = wrap is not None and kinds.core_spun(now).coverage < 1
        hidden = wrap is not None and not strips and self.passed is None
        bare = int(np.count_nonzero(self.together <= COVERED_FROM)) + COVERED_OVER if hidden else None
        for place, (each, as_made) in enumerate(zip(now.seats, seen, strict=True)):
            radius = self._blend(float(as_made.radius), kinds.away(now, place)) * self.scale
            if loose is None:
                radius = self.together * radius
            run = way.along * float(each.feed * (each.consumption if loop is None else 1.0))
            legs = kinds.legs_at(run, float(np.asarray(loop))) if loop is not None else None
            member, first, all_drawn = made.members[each.member], drawn[each.member], sum(drawn.values())
            numbers, apart = range(first, first + each.count), APART * sizes[place] * self.scale
            drawn[each.member] += each.count
            own = _turned_round(way.path, frame, radius * ahead_of_one, radius * aside_of_one, around[place])
            if loose is None:
                own[1] += (1 - self.together) * (beside + apart * (np.arange(each.count) + 0.5))[:, None, None]
            beside += apart * each.count
            worn = [dress.members[each.member] for dress in way.dresses]
            strands_way = _Way(
                own.reshape(3, -1, own.shape[-1]),
                np.concatenate([run if legs is None else legs[number % CHAIN_LEGS] for number in numbers]),
                [inner[number % len(inner)] for number in numbers for inner in worn],
            )
            bed = [bedded(all_drawn + beyond, strands, member) for beyond in range(each.count) for _ in worn]
            inner = self._member(member, each, strands_way, loose, laid, pieces, np.array(bed))
            yield from (tube.until(bare) for tube in inner)
        if loop is not None:
            for number, (dress, path, along) in enumerate(way):
                own_frame = frame[0][:, number], frame[1][:, number]
                yield from self._links(
                    made, now, float(np.asarray(loop)), dress, path, own_frame, along, turned_as_one[number]
                )
        if wrap:
            yield from self._wrap(wrap, made, now, way, frame, turned_as_one, laid)

    def _met(self, turned: FloatArray, around: list[list[float]], sizes: list[float]) -> float:
        """Return the turn with which strands that come in one above the other meet in that order, not through another.

        In the middle of the stretch where they come together the first is to lie highest and the last lowest, as near
        as their places round the axis let them.
        """
        heights, place = 0.0 + 0.0j, -sum(size * len(own) for size, own in zip(sizes, around, strict=True)) / 2
        for size, own in zip(sizes, around, strict=True):
            for direction in own:
                heights -= (place + size / 2) * np.exp(1j * direction)
                place += size
        middle = int(np.argmax(self.together >= HALF_MET))
        return -float(np.angle(heights)) - float(turned[middle])

    def _links(
        self,
        made: MadeNest,
        now: NestState,
        loop: float,
        dress: Dress,
        path: FloatArray,
        frame: tuple[FloatArray, FloatArray],
        along: FloatArray,
        turned: FloatArray,
    ) -> Iterator[Tube]:
        """Yield what makes the bump of each link: two more legs in the grooves, over an overlap of a strand's girth."""
        worn, seat = dress.members[0][0], now.seats[0]
        while worn.members:  # the bump of a plied strand is drawn as one
            worn = worn.members[0][0]
        thick = float(seat.state.diameter)
        angle = float(seat.state.angle)
        leg = along * float(seat.feed)
        middles = np.arange(np.ceil(leg[0] / loop), np.floor(leg[-1] / loop) + 1) * loop
        reach = np.pi * thick / 2
        outside = kinds.chain(now).bump * (float(seat.radius) + thick / 2) - thick / 2
        for middle in middles:
            near = np.abs(leg - middle) < reach
            if near.sum() < 4 or float(self.together[near].min()) < 1:
                continue
            tucked = np.cos((leg[near] - middle) / reach * np.pi / 2) ** 0.5
            start = float(np.asarray(made.layout.azimuths(np.ones(1))[0][0]))
            for groove in (1, 3):
                lean = turned[near] + start + groove * np.pi / CHAIN_LEGS
                way = _round(path[:, near], (frame[0][:, near], frame[1][:, near]), outside * tucked * self.scale, lean)
                width = np.full(way.shape[1], thick * self.scale)
                yield self._tube(way, width, worn, CHAIN_LEGS * leg[near], lean, np.full_like(width, angle), seat.state)

    def _wrap(
        self,
        wrap: Wrap,
        made: MadeNest,
        now: NestState,
        way: "_Way",
        frame: tuple[FloatArray, FloatArray],
        turned: FloatArray,
        laid: float,
    ) -> Iterator[Tube]:
        """Yield fibre that is wound round a core: all over it, or with gaps, and the tips of locks in it."""
        locks = [tube for dress, path, along in way for tube in self._locks(wrap, now, dress, path, along)]
        if kinds.core_spun(now).coverage < 1:
            for number, (dress, path, along) in enumerate(way):
                own_frame = frame[0][:, number], frame[1][:, number]
                yield from self._strips(made, now, dress, path, own_frame, along, turned[number])
            yield from locks
            return
        core, whole = float(made.members[0].state.diameter), float(now.diameter)
        begun = self.together > COVERED_FROM
        wide = (self._blend(core, whole) * self.scale)[begun]
        lean = np.full_like(wide, float(now.angle))
        wound = self._turned(laid, laid)[begun]
        for dress, path, along in way:
            yield self._tube(path[:, begun], wide, dress, along[begun], wound, lean, now)
        yield from locks

    def _strips(
        self,
        made: MadeNest,
        now: NestState,
        dress: Dress,
        path: FloatArray,
        frame: tuple[FloatArray, FloatArray],
        along: FloatArray,
        turned: FloatArray,
    ) -> Iterator[Tube]:
        """Yield a wrap that leaves its core bare in places, as threads of fibre side by side."""
        core, begun = float(made.members[0].state.diameter), self.together > COVERED_FROM
        high = max((float(now.diameter) - core) / 2, LEAST_STRIP * core)
        covered = kinds.core_spun(now).coverage
        lead = 1000 / abs(float(now.twist_now))
        many = int(np.clip(round(covered * lead * abs(np.cos(float(now.angle))) / high), 1, MOST_STRIPS))
        radius = self._blend(core / 2, (core + high) / 2) * self.scale
        width = np.full_like(radius, high * self.scale) * self.together
        for number in range(many):
            lean = turned + 2 * np.pi * covered * number / many
            way = _round(path, frame, radius, lean)[:, begun]
            angle = np.full(way.shape[1], float(now.angle))
            yield self._tube(way, width[begun], dress, along[begun], lean[begun], angle, now)

    def _locks(self, wrap: Wrap, now: NestState, dress: Dress, path: FloatArray, along: FloatArray) -> Iterator[Tube]:
        """Yield the tips of locks that hang off a wrap, the same at the same places of the yarn: a picture."""
        if wrap.locks == "none":
            return
        gap, long = LOCKS_APART, TIP_SHARE * wrap.fibre.mid_staple
        reach = np.linspace(0, 1, TIP_SAMPLES)
        for site in range(int(np.ceil(along[0] / gap)), int(along[-1] / gap) + 1):
            begin = path[:, int(np.argmin(np.abs(along - site * gap)))]
            chance = np.random.default_rng(abs(site))
            around, swing = chance.uniform(0, 2 * np.pi), chance.uniform(-1, 1)
            curl = np.sin(2 * np.pi * CURLS * reach + chance.uniform(0, 6)) * TIP_CURL * reach
            out = float(now.diameter) / 2 + long * reach * (0.75 if wrap.locks == "caught" else 0.45)
            turned = around + curl
            way = np.stack(
                [
                    begin[0] + long * reach * swing * self.scale,
                    begin[1] + out * np.cos(turned) * self.scale,
                    begin[2] + out * np.sin(turned) * self.scale,
                ]
            )
            width = TIP_WIDE * float(now.diameter) * (1 - 0.8 * reach) * self.scale
            yield self._tube(way, width, dress, np.full_like(reach, site * gap), turned, np.full_like(reach, 0.2), now)

    def _member(
        self,
        member: Made,
        each: Seated,
        way: "_Way",
        loose: float | None,
        laid: float,
        pieces: float,
        phase: FloatArray,
    ) -> Iterator[Tube]:
        own = pieces * float(each.feed)
        link = float(member.inserted) / 1000 * own + laid
        if loose is None:
            before = float(member.inserted) / 1000 / float(member.state.length)
        else:
            before = loose + float(member.inserted) / 1000 * own
        if isinstance(member, MadeNest) and isinstance(each.state, NestState):
            yield from self.nest(member, each.state, way, before, link, own, phase)
        elif isinstance(member, MadeLeaf):
            yield from self.leaf(member, each.state, way, before, link)

    def _tube(
        self,
        path: FloatArray,
        width: FloatArray,
        dress: Dress,
        along: FloatArray,
        fibre_turn: FloatArray,
        lean: FloatArray,
        now: State,
    ) -> Tube:
        held = bool(self.held) and dress.part.lies_in(self.held)
        tint = dress.tint(along)
        x, y, depth = path
        wound, shade = bool(not isinstance(now, LeafState) and wrap_of(now.node)), dress.shade(along)
        return Tube(x, y, depth, width, dress.colours, fibre_turn, tint, dress.part, held, wound, lean, shade, now)

    def _blend(self, before: float, after: float) -> FloatArray:
        return (1 - self.together) * before + self.together * after

    def _turned(self, before: float, after: float) -> FloatArray:
        """Return the angle turned through along the picture, of links [turns/mm]."""
        turned = np.cumsum(2 * np.pi / self.scale * self._blend(before, after) * self.step)
        return turned + 2 * np.pi * after * (self.passed or 0.0)


def _round(
    path: FloatArray, frame: tuple[FloatArray, FloatArray], radius: FloatArray, turned: FloatArray
) -> FloatArray:
    """Return a path that runs round another at a distance, turned by an angle in its frame."""
    across, down = frame
    return path - radius * np.cos(turned) * across + radius * np.sin(turned) * down


def _turned_round(
    path: FloatArray, frame: tuple[FloatArray, FloatArray], ahead: FloatArray, aside: FloatArray, around: list[float]
) -> FloatArray:
    """Return the paths of strands that turn round others, shape (3, strands round one, others, samples).

    Args:
        path: of the others.
        frame: square to each.
        ahead: of a strand in no direction, how far from the eye it lies.
        aside: likewise how far down.
        around: the direction of each.
    """
    cosines, sines = (np.array([of(each) for each in around])[:, None, None] for of in (math.cos, math.sin))
    down, towards = aside * cosines + ahead * sines, ahead * cosines - aside * sines
    return path[:, None] + down * frame[1][:, None] - towards * frame[0][:, None]


def fastest(made: Made) -> float:
    """Return the fastest winding of any strand that has members [turns/m]."""
    if not isinstance(made, MadeNest):
        return 0.0
    return max(abs(float(made.state.twist_now)), *(fastest(member) for member in made.members))


def thinnest(made: Made) -> float:
    """Return the diameter of the thinnest leaf [mm]."""
    if not isinstance(made, MadeNest):
        return float(made.state.diameter)
    return min(thinnest(member) for member in made.members)


def own_state(made: MadeNest, each: Seated) -> State:
    """Return the state of a member as it was made."""
    return made.members[each.member].state


def smooth(share: FloatArray) -> FloatArray:
    """Return a share, 0 to 1, that begins and ends gently."""
    share = np.clip(share, 0, 1)
    return share**2 * (3 - 2 * share)
