"""The same yarn in several fibres, preparations or finishes: what a wash would do to each."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal, get_args

from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import FIBRES, Fibre
from pebble_wheel.mechanics.reading.reading import fullness
from pebble_wheel.mechanics.reading.spread import BLOOM_SD, P90
from pebble_wheel.mechanics.rest.balance import NoBalanceError, resolve_made
from pebble_wheel.mechanics.strand.section import definition
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.mechanics.strand.structure import Bought, CoreSpun, Leaf, Node, Rod, Single, with_members
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


def washed_over(node: Node, finish: Finish, over: Over, rod: Rod) -> list[Washed]:
    """Return the variants of a yarn over finishes, preparations or fibres, what blooms most first.

    Twists given outright stay; multiples of balance are worked out anew. Variants that jam are left out.
    """
    if over == "finish":
        finishes = [
            Finish("none"),
            *(Finish(wash, drying) for wash in get_args(Wash)[1:] for drying in get_args(Drying)),
        ]
        found = [_washed(node, replace(finish, wash=each.wash, drying=each.drying), rod) for each in finishes]
    elif over == "preparation":
        ways: list[tuple[Prep, Draw]] = [(prep, draw) for prep in get_args(Prep) for draw in get_args(Draw)]
        found = [_washed(_spun(node, prep=prep, draw=draw), finish, rod, prep=prep, draw=draw) for prep, draw in ways]
    else:
        found = [_washed(_spun(node, fibre=fibre), finish, rod, fibre=fibre) for fibre in FIBRES.values()]
    return sorted((each for each in found if each), key=lambda each: -each.growth)


def _spun(node: Node, fibre: Fibre | None = None, prep: Prep | None = None, draw: Draw | None = None) -> Node:
    """Return the yarn with every single and wrap of another fibre or preparation; a core stays."""
    if isinstance(node, Bought):
        return node
    if isinstance(node, Single):
        return replace(node, fibre=fibre or node.fibre, prep=prep or node.prep, draw=draw or node.draw)
    if isinstance(node, CoreSpun):
        wrap = replace(node.wrap, fibre=fibre or node.wrap.fibre, prep=prep or node.wrap.prep)
        return replace(node, wrap=wrap)
    assert not isinstance(node, Leaf)
    return with_members(node, tuple(_spun(member.node, fibre, prep, draw) for member in node.members))


@lru_cache(maxsize=256)
def _made(node: Node, rod: Rod) -> Made | None:
    try:
        made = resolve_made(node, rod)
    except NoBalanceError:
        return None
    return made if float(fullness(made.state)) < 1 else None


@lru_cache(maxsize=1024)
def _washed(
    node: Node,
    finish: Finish,
    rod: Rod,
    fibre: Fibre | None = None,
    prep: Prep | None = None,
    draw: Draw | None = None,
) -> Washed | None:
    made = _made(node, rod)
    if made is None:
        return None
    grown = float(growth(made.state, finish))
    spread = P90 * BLOOM_SD * finish.bloom_spread
    return Washed(
        fibre,
        prep,
        draw,
        finish,
        float(made.state.diameter),
        grown,
        1 + (grown - 1) * max(1 - spread, 0.0),
        1 + (grown - 1) * (1 + spread),
        float(shrinkage(made.state, finish)),
        definition(made, grown),
    )
