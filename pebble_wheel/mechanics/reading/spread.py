"""What is uneven in hand spinning and uncertain of its constants, and a structure as arrays of variants by it.

Each strand's linear density and twist vary once (identical strands vary alike), every ply has its own
twist, and the constants of the rod vary once for the yarn.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.learning.factors import LEAST_STIFFNESS, MOST_SET, Column, Group, group_of, main_group
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


class _Taught(NamedTuple):
    """A cause that samples teach of."""

    column: Column
    usual: float
    """Standard deviation that its draws are held in."""
    meant: bool
    """Whether it varies about what was meant to be spun; else about what is reckoned with, learned already."""
    off: float = 0.0
    """What its size may be off by as it was measured, besides."""


def _taught(cause: Cause, main: Group, constants: Constants) -> _Taught | None:
    """Return what samples can teach of a cause; None of the tension of plying, loops and wraps."""
    spreads = constants.spreads
    turned = math.sqrt(math.log1p(spreads.twist**2))
    found: _Taught | None = None
    match cause.node, cause.what:
        case Single() as single, "size":
            usual = math.hypot(math.sqrt(math.log1p(spreads.tex**2)), single.size_off)
            found = _Taught(("size", group_of(single)), usual, True, single.size_off)
        case Single() as single, "twist":
            found = _Taught(("twist", group_of(single)), turned, True)
        case Single() as single, "packing":
            found = _Taught(("packing", group_of(single)), spreads.squeeze, False)
        case Ply() | Chain(), "twist":
            found = _Taught(("ply", main), turned, True)
        case None, "bending":
            found = _Taught(("stiffness", main), spreads.bend / float(np.mean(constants.rod.bend_to_twist)), False)
        case None, "setting":
            found = _Taught(("set", main), spreads.set_share, False)
        case None, "bloom":
            found = _Taught(("bloom", main), spreads.bloom, False)
        case _:
            pass
    return found


@dataclass(frozen=True)
class Shift:
    """How draws of the causes lie once samples have taught, in the usual standard deviations of each."""

    rows: list[int]
    """Those that samples teach of."""
    middle: FloatArray
    root: FloatArray
    """Of their covariance, lower left."""

    def of(self, at: FloatArray) -> FloatArray:
        """Return draws shifted: standard normal numbers, one row for each of :func:`causes_of`."""
        draws = at.copy()
        draws[self.rows] = self.middle[:, None] + self.root @ at[self.rows]
        return draws

    def last(self, at: FloatArray, turn: FloatArray) -> FloatArray:
        """Return the last row of draws shifted, that of bloom, where all before it are turned first."""
        row = len(at) - 1
        if row not in self.rows:
            return at[row]
        own = self.rows.index(row)
        weights = np.zeros(len(at))
        weights[self.rows] = self.root[own]
        weights[:-1] = weights[:-1] @ turn
        return np.asarray(self.middle[own] + weights @ at)


def shift_of(node: Node, constants: Constants) -> Shift:
    """Return how draws of the causes of a structure lie, as samples have taught.

    The rod, packing and bloom are reckoned with as learned already (``Constants.as_learned``), so that only what the
    hands do otherwise than was meant moves the middle of the draws.
    """
    if constants.lessons is None:
        return Shift([], np.zeros(0), np.zeros((0, 0)))
    main = main_group(node)
    found = ((row, _taught(cause, main, constants)) for row, cause in enumerate(causes_of(node)))
    return _shift(constants, tuple((row, each) for row, each in found if each))


@lru_cache(maxsize=256)
def _shift(constants: Constants, taught: tuple[tuple[int, _Taught], ...]) -> Shift:
    rows, causes = zip(*taught, strict=True)
    means, covariance = constants.known(tuple(each.column for each in causes))
    usual = np.array([each.usual for each in causes])
    off = np.diag([each.off**2 for each in causes])
    meant = np.array([each.meant for each in causes], float)
    root = np.linalg.cholesky((covariance + off) / np.outer(usual, usual))
    return Shift(list(rows), means * meant / usual, np.asarray(root, float))


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
    rod, spreads = constants.rod_for(node), constants.spreads
    bend, set_share, *own = at
    rows, following = {}, iter(own)
    for each in dict.fromkeys(walk(node)):
        rows[each] = {what: next(following) for what in _uneven(each)}
    return Spread(
        _varied(node, rows, spreads),
        Rod(
            np.maximum(rod.bend_to_twist + spreads.bend * bend, LEAST_STIFFNESS),
            np.clip(rod.set_share + spreads.set_share * set_share, 0.0, MOST_SET),
        ),
    )


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
