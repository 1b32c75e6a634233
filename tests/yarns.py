"""Yarns that several tests share, and strategies that draw them."""

from dataclasses import replace

import numpy as np
from hypothesis import strategies as st

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.reading import reading
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import VARIANTS
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.strand.single import turns_for_factor
from pebble_wheel.mechanics.strand.structure import (
    Chain,
    Leaf,
    Node,
    OfBalanced,
    Ply,
    Single,
    Turns,
    equal_ply,
    with_members,
)
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.address import Address


def single(tex=100.0, turns=220.0, fibre="corriedale", prep="combed", draw="short") -> Single:
    return Single(FIBRES[fibre], prep, draw, tex, Turns(turns))


def ply(strand, strands, turns) -> Ply:
    return equal_ply(strand, strands, Turns(turns))


def of_factor(factor: float, tex=100.0, prep="combed", draw="short") -> Single:
    return single(tex, float(turns_for_factor(factor, tex)), prep=prep, draw=draw)


def mirrored(node: Node) -> Node:
    """The yarn twisted the other way all through."""
    own = node.twist
    flipped = replace(own, direction=-own.direction) if isinstance(own, OfBalanced) else Turns(-own.per_m)
    inner = node if isinstance(node, Leaf) else with_members(node, tuple(mirrored(each.node) for each in node.members))
    return replace(inner, twist=flipped)


def dress(node: Node, part: str = "yarn") -> Dress:
    """What a drawing needs of a structure that comes from no design."""
    if isinstance(node, Leaf):
        return Dress(Address(part))
    counts = [1] if isinstance(node, Chain) else [member.count for member in node.members]
    inner = [dress(member.node, f"{part}.{place}") for place, member in enumerate(node.members)]
    return Dress(Address(part), members=tuple((each,) * count for each, count in zip(inner, counts, strict=True)))


characters = st.sampled_from([("combed", "short"), ("semi", "short"), ("carded", "long"), ("carded", "short")])
singles = st.builds(
    lambda tex, factor, kind: of_factor(factor, tex, *kind), st.floats(15, 400), st.floats(12, 30), characters
)
plies = st.builds(
    lambda strand, strands, share: ply(strand, strands, -share * strand.twist.per_m),
    singles,
    st.integers(2, 5),
    st.floats(0.2, 0.8),
)


def degrees(angle) -> float:
    return float(np.degrees(angle))


TYPICAL = Constants()
"""Of typical hand spinning."""


def read(node: Node, finish: Finish, variants: int = VARIANTS) -> Reading:
    """Read a yarn by the constants of typical hand spinning."""
    return reading.read(node, finish, TYPICAL, variants)
