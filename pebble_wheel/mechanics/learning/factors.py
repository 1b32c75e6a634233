"""The factors in which one spinner's yarn is other than reckoned, and a structure with them put in.

Each is zero for what is reckoned. All are logarithms of a ratio but the set share, which adds. How far they lie from
zero, and how much of that a spinner keeps from yarn to yarn, was tried by simulation; how the sums divide is assumed.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal, get_args

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.fibre.table import Fibre
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
    wrap_of,
)

Factor = Literal["size", "twist", "ply", "packing", "stiffness", "set", "bloom", "draws up"]
FACTORS: tuple[Factor, ...] = get_args(Factor)
"""Linear density and twist of singles, and twist of plies, achieved over intended; Q of the packing law, k and s of the
rod, B of bloom and the length lost on the first wash, over those reckoned with."""

OF_SINGLES: tuple[Factor, ...] = ("size", "twist", "packing", "bloom", "draws up")
"""Factors that a single has by its fibre and preparation; the others belong to the strand as a whole."""

SPINNER = np.array([0.07, 0.065, 0.065, 0.20, 0.12, 0.03, 0.12, 0.15])
GROUP = np.array([0.06, 0.03, 0.03, 0.22, 0.08, 0.03, 0.24, 0.30])
YARN = np.array([0.075, 0.07, 0.07, 0.18, 0.08, 0.025, 0.13, 0.20])
"""Standard deviations of each factor before anything was measured: of what a spinner keeps always, of what goes with
fibre and preparation, and of what is other in every yarn. Their squares add up to the spreads of typical spinning."""


@dataclass(frozen=True, order=True)
class Group:
    """Fibre and preparation: what is spun of them is alike."""

    fibre: str
    """Its id; of one given in place, or of a lot, its name."""
    prep: Prep | None
    """None of a thread in hand."""


Column = tuple[Factor, Group]
"""A factor of what is spun of a group, in a yarn."""

IN_HAND = Group("", None)


def fibre_key(fibre: Fibre) -> str:
    """Return by what a fibre is known from yarn to yarn."""
    return fibre.name if fibre.id == "own" else fibre.id


def group_of(single: Single) -> Group:
    """Return the group of a single."""
    return Group(fibre_key(single.fibre), single.prep)


def main_group(node: Node) -> Group:
    """Return the group of which there is most in a strand, by linear density; the first of two alike."""
    weights: dict[Group, float] = {}
    _weigh(node, 1, weights)
    return max(weights, key=lambda group: weights[group]) if weights else IN_HAND


def _weigh(node: Node, count: int, weights: dict[Group, float]) -> None:
    wrap = wrap_of(node)
    if wrap is not None:
        group = Group(fibre_key(wrap.fibre), wrap.prep)
        weights[group] = weights.get(group, 0.0) + count * _middle(wrap.tex)
    match node:
        case Single():
            group = group_of(node)
            weights[group] = weights.get(group, 0.0) + count * _middle(node.tex)
        case Bought():
            pass
        case Ply() | Chain() | CoreSpun() | Wrapped():
            for member in node.members:
                _weigh(member.node, count * member.count, weights)


def _middle(tex: Floats) -> float:
    return float(np.mean(tex)) if np.ndim(tex) else float(tex)


@lru_cache(maxsize=1024)
def groups_in(node: Node) -> tuple[Group, ...]:
    """Return the groups of the singles in a strand of scalar values, the main one first."""
    main = main_group(node)
    inner = {group_of(each) for each in walk(node) if isinstance(each, Single)}
    return (main, *sorted(inner - {main}))


def columns_of(node: Node) -> tuple[Column, ...]:
    """Return the factors that a strand has: all of its main group, and of the others those of their singles."""
    main, *others = groups_in(node)
    return (*((each, main) for each in FACTORS), *((each, group) for group in others for each in OF_SINGLES))


def places(columns: Iterable[Column]) -> list[int]:
    """Return which of :data:`FACTORS` each column is."""
    return [FACTORS.index(factor) for factor, _ in columns]


def put_in(node: Node, rod: Rod, offsets: dict[Column, Floats]) -> tuple[Node, Rod]:
    """Return a structure and its rod with factors put in; what is not named stays as reckoned.

    Args:
        node: with every twist given outright.
        rod: of the energy model.
        offsets: each a number, or an array of variants.
    """
    main = main_group(node)

    def of(factor: Factor, group: Group) -> Floats:
        return offsets.get((factor, group), 0.0)

    def within(each: Node) -> Node:
        match each:
            case Bought():
                return each
            case Single():
                group = group_of(each)
                return replace(
                    each,
                    tex=each.tex * np.exp(of("size", group)),
                    twist=Turns(turns_of(each) * np.exp(of("twist", group))),
                    squeeze_factor=each.squeeze_factor * np.exp(of("packing", group)),
                    bloom_factor=each.bloom_factor * np.exp(of("bloom", group)),
                    draws_up_factor=each.draws_up_factor * np.exp(of("draws up", group)),
                )
            case Ply() | Chain():
                inner = with_members(each, tuple(within(member.node) for member in each.members))
                return replace(inner, twist=Turns(turns_of(each) * np.exp(of("ply", main))))
            case CoreSpun() | Wrapped():
                return with_members(each, tuple(within(member.node) for member in each.members))

    return within(node), with_rod(rod, of("stiffness", main), of("set", main))


def with_rod(rod: Rod, stiffness: Floats, set_share: Floats) -> Rod:
    """Return a rod with what was learned of its k and s, kept in their physical range."""
    least, most = LEAST_STIFFNESS, MOST_SET
    return Rod(np.maximum(rod.bend_to_twist * np.exp(stiffness), least), np.clip(rod.set_share + set_share, 0.0, most))


LEAST_STIFFNESS, MOST_SET = 0.5, 0.5
"""Of k, and of s."""


def squares(sds: FloatArray, columns: Iterable[Column]) -> FloatArray:
    """Return variances of columns from standard deviations of the factors."""
    return np.asarray(sds[places(columns)] ** 2)
