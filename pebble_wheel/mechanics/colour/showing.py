"""Which place of which strand shows at a place of the yarn."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, IntArray
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import Made, MadeNest, NestState, State
from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS, Chain, CoreSpun, Ply, Wrapped

Key = tuple[tuple[int, int], ...]
"""Which strand: member and number within it, level by level; a wrap of fibre is member −1."""

WRAP = (-1, 0)

FAR = 1e7
"""mm of yarn over which its consumption is read."""


@dataclass(frozen=True)
class Showing:
    """What shows of one strand, or of one leg of a chain."""

    key: Key
    at: FloatArray
    """Places along the strand [mm as it was spun], for each place of the yarn."""
    share: float
    """Of what is seen of the yarn."""


def showing(made: Made, x: FloatArray) -> list[Showing]:
    """Return what shows of a yarn at places along it.

    Each strand goes its own way: a place of the yarn shows that place of the strand to which so much of it was used up.
    Strands side by side show as wide as they are; of a wrapped yarn the one laid round shows as long as it is, and of
    the other what is left bare (assumed).

    Args:
        made: the yarn.
        x: places along it, mm as plied.

    Returns:
        all that shows; shares sum to 1.
    """
    found = [each for each in _laid_in(made, x) if each.share > 0]
    whole = sum(each.share for each in found)
    return [Showing(each.key, each.at, each.share / whole) for each in found]


def _laid_in(made: Made, x: FloatArray) -> Iterator[Showing]:
    """Yield every strand, those too that are covered all over."""
    return _shown(made, made.state, x / float(made.state.length), (), 1.0)


def used(made: Made) -> dict[Key, float]:
    """Return how much of every strand a yarn uses up, mm as it was spun to one of yarn."""
    return {each.key: float(each.at[1] - each.at[0]) / FAR for each in _laid_in(made, np.array([0.0, FAR]))}


@dataclass(frozen=True)
class Stretch:
    """A yarn of one structure, of which sections of a sequence are."""

    made: Made
    own: Mapping[Key, tuple[Key, float]]
    """Which strand of the sequence each of its strands is, and mm of that to one of this: a thick place takes more."""

    @cached_property
    def used(self) -> dict[Key, float]:
        """Return mm of each strand of the sequence to one of yarn."""
        return {self.own[key][0]: self.own[key][1] * each for key, each in used(self.made).items()}


@dataclass(frozen=True)
class Course:
    """Sections laid end to end, over and over."""

    stretches: Sequence[Stretch]
    order: IntArray
    """Of which stretch each section is, shape (sections,)."""
    lengths: FloatArray
    """Of each section [mm of yarn], shape (sections,)."""

    @cached_property
    def ends(self) -> FloatArray:
        """Where each section ends, from the beginning of the course [mm]."""
        return np.cumsum(self.lengths)

    @cached_property
    def used(self) -> dict[Key, float]:
        """Return mm of each strand to one of yarn, on the whole."""
        found: dict[Key, float] = {}
        for place, stretch in enumerate(self.stretches):
            share = float(self.lengths[self.order == place].sum() / self.ends[-1])
            for key, each in stretch.used.items():
                found[key] = found.get(key, 0.0) + share * each
        return found

    def sections_at(self, x: FloatArray) -> IntArray:
        """Return the numbers of the sections in which places [mm of yarn] lie."""
        within = np.searchsorted(self.ends, x % self.ends[-1], side="right")
        return np.asarray(np.minimum(within, len(self.order) - 1))

    def passed(self, x: FloatArray) -> FloatArray:
        """Return how much yarn of each stretch lies before places, ``y_k(x)`` [mm], shape (stretches, places)."""
        courses, within = np.divmod(x, self.ends[-1])
        corners = np.concatenate([[0.0], self.ends])
        own = np.where(self.order == np.arange(len(self.stretches))[:, None], self.lengths, 0.0)
        grown = np.concatenate([np.zeros((len(own), 1)), np.cumsum(own, axis=1)], axis=1)
        return np.stack([courses * each[-1] + np.interp(within, corners, each) for each in grown])

    def places(self, x: FloatArray) -> dict[Key, FloatArray]:
        """Return to where every strand is used up at places of the yarn [mm of strand as it was spun]."""
        passed = self.passed(x)
        found: dict[Key, FloatArray] = {}
        for stretch, y in zip(self.stretches, passed, strict=True):
            for key, each in stretch.used.items():
                found[key] = found.get(key, np.zeros_like(x)) + each * y
        return found


def showing_along(course: Course, x: FloatArray) -> Iterator[tuple[IntArray, list[Showing]]]:
    """Yield for every stretch at which places of a sequence it lies, and what shows there.

    A strand goes on in a section where the last one left it, ``s(x) = Σ_k c_k y_k(x)``: c mm of it to one of yarn of
    stretch k, of which y lie before x.

    Args:
        course: the sequence.
        x: places along it, mm as plied.
    """
    kinds_at = course.order[course.sections_at(x)]
    passed, places = course.passed(x), course.places(x)
    for number, stretch in enumerate(course.stretches):
        here = np.flatnonzero(kinds_at == number)
        if not here.size:
            continue
        y = passed[number, here]
        shows = []
        for each in showing(stretch.made, y):
            key, heavy = stretch.own[each.key]
            before = places[key][here] - stretch.used[key] * y
            shows.append(Showing(key, before + heavy * each.at, each.share))
        yield here, shows


def _shown(made: Made, now: State, along: FloatArray, key: Key, share: float) -> Iterator[Showing]:
    """Yield what shows of a strand, given places along it in its own pieces of 1 mm as spun."""
    if not isinstance(made, MadeNest) or not isinstance(now, NestState):
        yield Showing(key, along, share)
        return
    match made.node:
        case CoreSpun():
            covered = min(kinds.core_spun(now).coverage, 1.0)
            strip = float(now.wrap_mass) / float(np.asarray(made.node.wrap.tex))
            yield Showing((*key, WRAP), along * strip, share * covered)
            core = now.seats[0]
            spent = along * float(core.feed) * float(core.consumption)
            yield from _shown(made.members[0], core.state, spent, (*key, (0, 0)), share * (1 - covered))
        case Wrapped():
            covered = min(kinds.wrapped(now).coverage, 1.0)
            binder, wrapper = now.seats
            bare = (1 - covered) * float(binder.state.diameter)
            fed = float(wrapper.feed * wrapper.consumption * wrapper.state.length / now.length)
            laid = fed * float(wrapper.state.diameter)
            for place, (each, part) in enumerate(((binder, bare), (wrapper, laid))):
                spent = along * float(each.feed) * float(each.consumption)
                yield from _shown(
                    made.members[place], each.state, spent, (*key, (place, 0)), share * part / (bare + laid)
                )
        case Chain():
            each = now.seats[0]
            for leg in kinds.legs_at(along * float(each.feed), float(np.asarray(made.node.loop))):
                spent = leg * float(each.consumption)
                yield from _shown(made.members[0], each.state, spent, (*key, (0, 0)), share / CHAIN_LEGS)
        case Ply():
            yield from _members(made, now, along, key, share)


def _members(made: MadeNest, now: NestState, along: FloatArray, key: Key, share: float) -> Iterator[Showing]:
    """Yield what shows of strands that lie side by side: of rings the outermost shows."""
    seats = list(zip(made.layout.seats, now.seats, strict=True))
    last = max(seat.ring for seat, _ in seats)
    wide = sum(each.count * float(each.state.diameter) for seat, each in seats if seat.ring == last)
    taken: dict[int, int] = {}
    for seat, each in seats:
        first = taken.get(each.member, 0)
        taken[each.member] = first + each.count
        part = share * float(each.state.diameter) / wide if seat.ring == last else 0.0
        spent = along * float(each.feed) * float(each.consumption)
        for place in range(first, first + each.count):
            yield from _shown(made.members[each.member], each.state, spent, (*key, (each.member, place)), part)
