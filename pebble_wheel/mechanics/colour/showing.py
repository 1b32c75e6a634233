"""Which place of which strand shows at a place of the yarn."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import Made, MadeNest, NestState, State
from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS, Chain, CoreSpun, Ply, Wrapped

Key = tuple[tuple[int, int], ...]
"""Which strand: member and number within it, level by level; a wrap of fibre is member −1."""

WRAP = (-1, 0)


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

    Args:
        made: the yarn.
        x: places along it, mm as plied.

    Returns:
        all that shows; shares sum to 1.
    """
    found = list(_shown(made, made.state, x / float(made.state.length), (), 1.0))
    whole = sum(each.share for each in found)
    return [Showing(each.key, each.at, each.share / whole) for each in found]


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
            if covered < 1:
                core = now.seats[0]
                used = along * float(core.feed) * float(core.consumption)
                yield from _shown(made.members[0], core.state, used, (*key, (0, 0)), share * (1 - covered))
        case Wrapped():
            covered = min(kinds.wrapped(now).coverage, 1.0)
            for place, (each, part) in enumerate(zip(now.seats, (1 - covered, covered), strict=True)):
                used = along * float(each.feed) * float(each.consumption)
                if part > 0:
                    yield from _shown(made.members[place], each.state, used, (*key, (place, 0)), share * part)
        case Chain():
            each = now.seats[0]
            for leg in kinds.legs_at(along * float(each.feed), float(np.asarray(made.node.loop))):
                used = leg * float(each.consumption)
                yield from _shown(made.members[0], each.state, used, (*key, (0, 0)), share / CHAIN_LEGS)
        case Ply():
            yield from _members(made, now, along, key, share)


def _members(made: MadeNest, now: NestState, along: FloatArray, key: Key, share: float) -> Iterator[Showing]:
    """Yield what shows of strands that lie side by side: of rings the outermost."""
    seats = list(zip(made.layout.seats, now.seats, strict=True))
    last = max(seat.ring for seat, _ in seats)
    wide = sum(each.count * float(each.state.diameter) for seat, each in seats if seat.ring == last)
    taken: dict[int, int] = {}
    for seat, each in seats:
        first = taken.get(each.member, 0)
        taken[each.member] = first + each.count
        if seat.ring != last:
            continue
        used, part = along * float(each.feed) * float(each.consumption), share * float(each.state.diameter) / wide
        for place in range(first, first + each.count):
            yield from _shown(made.members[each.member], each.state, used, (*key, (each.member, place)), part)
