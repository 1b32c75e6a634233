"""The same yarn in several fibres, preparations or finishes: what a wash would do to each."""

from dataclasses import dataclass, replace
from typing import Literal, get_args

from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import FIBRES, Fibre
from pebble_wheel.mechanics.memory import Memory, recalled
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.mechanics.reading.reading import fullness
from pebble_wheel.mechanics.rest.balance import NoBalanceError, resolve_made
from pebble_wheel.mechanics.strand.section import definition
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Node,
    Ply,
    Rod,
    Single,
    Wrapped,
    with_members,
)
from pebble_wheel.mechanics.wash.bloom import Drying, Finish, Wash, growth, shrinkage

Over = Literal["finish", "preparation", "fibre"]


@dataclass(frozen=True)
class Washed:
    """One variant of a yarn, washed."""

    fibre: Fibre | None
    prep: Prep | None
    draw: Draw | None
    finish: Finish
    diameter: float
    """As plied, mm."""
    growth: float
    low: float
    high: float
    """The growth of eight of ten, by the spread of bloom."""
    shorter: float
    """Share of length lost."""
    definition: float
    """Share of the grooves that stays open."""


def washed_over(
    node: Node, finish: Finish, over: Over, constants: Constants, memory: Memory | None = None
) -> list[Washed]:
    """Return the variants of a yarn over finishes, preparations or fibres, what blooms most first.

    Twists given outright stay; multiples of balance are worked out anew. Variants that jam are left out.
    """
    found = [_remembered(each, constants, memory) for each in _others(node, finish, over)]
    return sorted((each for each in found if each), key=lambda each: -each.growth)


@dataclass(frozen=True)
class _Other:
    """The yarn otherwise: what it is, what was changed, and how it is finished."""

    node: Node
    finish: Finish
    fibre: Fibre | None = None
    prep: Prep | None = None
    draw: Draw | None = None


_BY_HAND: tuple[Draw, ...] = ("short", "long")
"""Ways to draft any preparation; from the fold a combed top alone is other than by these."""


def _others(node: Node, finish: Finish, over: Over) -> list[_Other]:
    match over:
        case "finish":
            each = ((wash, drying) for wash in get_args(Wash)[1:] for drying in get_args(Drying))
            return [
                _Other(node, replace(finish, wash=wash, drying=drying)) for wash, drying in (("none", "free"), *each)
            ]
        case "preparation":
            ways: list[tuple[Prep, Draw]] = [(prep, draw) for prep in get_args(Prep) for draw in _BY_HAND]
            ways.append(("combed", "fold"))
            return [_Other(_spun(node, prep=prep, draw=draw), finish, prep=prep, draw=draw) for prep, draw in ways]
        case "fibre":
            return [_Other(_spun(node, fibre=fibre), finish, fibre=fibre) for fibre in FIBRES.values()]


def _spun(node: Node, fibre: Fibre | None = None, prep: Prep | None = None, draw: Draw | None = None) -> Node:
    """Return the yarn with every single and wrap of another fibre or preparation; a core stays."""
    match node:
        case Bought():
            return node
        case Single():
            return replace(node, fibre=fibre or node.fibre, prep=prep or node.prep, draw=draw or node.draw)
        case CoreSpun():
            wrap = replace(node.wrap, fibre=fibre or node.wrap.fibre, prep=prep or node.wrap.prep)
            return replace(node, wrap=wrap)
        case Ply() | Chain() | Wrapped():
            return with_members(node, tuple(_spun(member.node, fibre, prep, draw) for member in node.members))


def _remembered(other: _Other, constants: Constants, memory: Memory | None) -> Washed | None:
    return recalled(memory, (other, constants), lambda: _washed(other, constants, memory))


def _made(node: Node, rod: Rod, memory: Memory | None) -> Made | None:
    try:
        made = resolve_made(node, rod, memory=memory)
    except NoBalanceError:
        return None
    return made if float(fullness(made.state)) < 1 else None


def _washed(other: _Other, constants: Constants, memory: Memory | None) -> Washed | None:
    """Return a yarn washed; None where it cannot be made."""
    node, finish = constants.as_learned(other.node), other.finish
    rod = constants.rod_for(node)
    made = recalled(memory, (_made, node, rod), lambda: _made(node, rod, memory))
    if made is None:
        return None
    grown = float(growth(made.state, finish))
    spread = P90 * constants.spreads.bloom * finish.bloom_spread
    return Washed(
        other.fibre,
        other.prep,
        other.draw,
        finish,
        float(made.state.diameter),
        grown,
        1 + (grown - 1) * max(1 - spread, 0.0),
        1 + (grown - 1) * (1 + spread),
        float(shrinkage(made.state, finish)),
        definition(made, grown),
    )
