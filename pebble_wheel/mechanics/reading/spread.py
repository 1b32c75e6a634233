"""What is uneven in hand spinning and uncertain of its constants, and a structure as arrays of variants by it.

Each strand's linear density and twist vary once (identical strands vary alike), every ply has its own
twist, and the constants of the rod vary once for the yarn.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.reading.constants import Constants, Spreads
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Node,
    Ply,
    Rod,
    Single,
    Turns,
    Wrapped,
    turns_of,
    walk,
    with_members,
)


@dataclass(frozen=True)
class Cause:
    """One thing that is uneven or uncertain."""

    what: str
    node: Node | None
    """The strand it belongs to; None for what the whole yarn shares."""


@dataclass(frozen=True)
class Spread:
    """A structure and its constants as arrays of variants."""

    node: Node
    rod: Rod


BENDING, SETTING, BLOOM = Cause("bending", None), Cause("setting", None), Cause("bloom", None)


_TOP = 2
"""Row of the twist of the whole."""


def causes_of(node: Node) -> tuple[Cause, ...]:
    """Return what is uneven or uncertain in a structure: of the rod, of each strand, and bloom last.

    Bloom alone changes nothing but how the yarn comes out of the wash.
    """
    own = [Cause(what, each) for each in dict.fromkeys(walk(node)) for what in _uneven(each)]
    return (BENDING, SETTING, *own, BLOOM)


def _uneven(node: Node) -> Iterator[str]:
    """Yield what varies of a strand; with what strands that are alike are held makes no difference."""
    match node:
        case Bought():
            return
        case Single():
            yield from ("twist", "size", "packing")
        case Ply():
            yield from ("twist", "tension") if len(node.members) > 1 else ("twist",)
        case Chain():
            yield from ("twist", "loop")
        case CoreSpun():
            yield from ("twist", "strip", "wrap packing")
        case Wrapped():
            yield "twist"  # its overfeed is one feeding for the whole length


def spread(node: Node, constants: Constants, at: FloatArray) -> Spread:
    """Return a structure of scalar values as arrays of variants about it.

    Linear density, twist, Q and plying tension are log-normal about their values, k and s normal and kept in their
    physical range.
    Strands that are alike vary alike.

    Args:
        node: the structure.
        constants: of the rod, and how far each cause spreads.
        at: standard normal numbers, one row for each of :func:`causes_of`; that of bloom is not looked at.
    """
    rod, spreads = constants.rod, constants.spreads
    bend, set_share, *own = at
    rows, following = {}, iter(own)
    for each in dict.fromkeys(walk(node)):
        rows[each] = {what: next(following) for what in _uneven(each)}
    return Spread(
        _varied(node, rows, spreads),
        Rod(
            np.maximum(rod.bend_to_twist + spreads.bend * bend, 0.5),
            np.clip(rod.set_share + spreads.set_share * set_share, 0.0, 0.5),
        ),
    )


def chosen_turns(node: Node, constants: Constants, at: FloatArray) -> FloatArray:
    """Return the twist of the whole in every variant [turns/m, signed]; see :func:`spread`."""
    turns = np.full(at.shape[1], turns_of(node))
    return turns * _log_normal(constants.spreads.twist, at[_TOP]) if "twist" in _uneven(node) else turns


def bloom_spread(constants: Constants, at: FloatArray) -> FloatArray:
    """Return a multiplier on bloom for every variant, of standard normal numbers."""
    return np.maximum(1 + constants.spreads.bloom * at, 0.0)


def _varied(node: Node, rows: Mapping[Node, Mapping[str, FloatArray]], spreads: Spreads) -> Node:
    own = rows[node]
    match node:
        case Bought():
            return node
        case Single():
            return replace(
                node,
                tex=node.tex * np.exp(np.sqrt(np.log1p(spreads.tex**2) + node.size_off**2) * own["size"]),
                twist=_turned(node, own, spreads),
                squeeze_factor=node.squeeze_factor * np.exp(spreads.squeeze * own["packing"]),
            )
        case Ply() | Chain() | CoreSpun() | Wrapped():
            pass
    inner = with_members(node, tuple(_varied(member.node, rows, spreads) for member in node.members))
    match inner:
        case Ply() if "tension" in own:
            inner = replace(inner, tension=inner.tension * np.exp(spreads.tension * own["tension"]))
        case Chain():
            inner = replace(inner, loop=inner.loop * _log_normal(spreads.loop, own["loop"]))
        case CoreSpun():
            wrap = replace(
                inner.wrap,
                tex=inner.wrap.tex * _log_normal(spreads.strip, own["strip"]),
                packing_factor=inner.wrap.packing_factor * _log_normal(spreads.wrap_packing, own["wrap packing"]),
            )
            inner = replace(inner, wrap=wrap)
        case Ply() | Wrapped():
            pass  # nothing else of its own
    return replace(inner, twist=_turned(node, own, spreads))


def _turned(node: Node, own: Mapping[str, FloatArray], spreads: Spreads) -> Turns:
    return Turns(turns_of(node) * _log_normal(spreads.twist, own["twist"]))


def _log_normal(cv: float, normal: FloatArray) -> FloatArray:
    return np.exp(np.sqrt(np.log1p(cv**2)) * normal)
