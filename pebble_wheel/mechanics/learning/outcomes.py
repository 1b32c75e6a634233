"""What can be measured of a strand, as it is reckoned, and how each figure leans on the factors of a spinner."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.learning.factors import FACTORS, GROUP, SPINNER, YARN, Column, columns_of, places, put_in
from pebble_wheel.mechanics.memory import Memory, recalled
from pebble_wheel.mechanics.rest.balance import balanced_turns, balanced_variants, fold, loop_turns
from pebble_wheel.mechanics.strand.settling import make, make_nest
from pebble_wheel.mechanics.strand.state import Made, MadeNest, bobbin_length, mass
from pebble_wheel.mechanics.strand.structure import Node, Rod, turns_of
from pebble_wheel.mechanics.wash.bloom import Finish, growth, shrinkage

Outcome = Literal[
    "thick",
    "finished thick",
    "tex",
    "finished tex",
    "turns",
    "fold",
    "fold angle",
    "loop",
    "angle",
    "take-up",
    "wash length",
]

PLAIN: tuple[Outcome, ...] = ("fold angle", "loop", "angle")
"""Outcomes whose differences count, for they cross zero: angles in degrees, and turns of a loop. Of all others the
logarithm does; of take-up that of one less it."""

FOLDED: tuple[Outcome, ...] = ("fold", "fold angle", "loop")
"""Outcomes of a strand folded on itself."""


@dataclass(frozen=True)
class Reckoned:
    """Outcomes of a strand as reckoned."""

    columns: tuple[Column, ...]
    middle: dict[Outcome, float]
    """Logarithms, or degrees and turns; see :data:`PLAIN`. NaN where the strand has no such outcome."""
    leans: dict[Outcome, FloatArray]
    """By each column: the change with one of the factor, by central differences over its usual spread."""


def natural(outcome: Outcome, measured: float) -> float:
    """Return a measured figure as it is reckoned with: its logarithm, or itself; see :data:`PLAIN`.

    Args:
        outcome: what was measured.
        measured: mm, tex, turns/m without sign, degrees without sign, turns of 30 cm (signed), length of yarn over that
            of its singles, or length after washing over that before.
    """
    return measured if outcome in PLAIN else float(np.log(measured))


def told(outcome: Outcome, value: float) -> float:
    """Return the measured figure of a value that is reckoned with; the other way round than :func:`natural`."""
    return value if outcome in PLAIN else float(np.exp(value))


def reckon(node: Node, rod: Rod, finish: Finish, outcomes: Sequence[Outcome], memory: Memory | None = None) -> Reckoned:
    """Return outcomes of a strand as it comes off its own step, and how they lean on the factors.

    ``∂y/∂x ≈ (y(+σ) − y(−σ)) / 2σ`` for each factor, σ its usual spread, all variants in one evaluation.

    Args:
        node: of scalar values, with every twist given outright.
        rod: of the energy model.
        finish: for what is measured of it washed.
        outcomes: which are wanted.
        memory: of balances worked out lately.
    """
    folds = bool(set(outcomes) & set(FOLDED))

    def work() -> Reckoned:
        return _reckoned(node, rod, finish, folds, memory)

    found = recalled(memory, (reckon, node, rod, finish, folds), work)
    return Reckoned(
        found.columns, {each: found.middle[each] for each in outcomes}, {each: found.leans[each] for each in outcomes}
    )


def _reckoned(node: Node, rod: Rod, finish: Finish, folds: bool, memory: Memory | None) -> Reckoned:
    columns = columns_of(node)
    sizes = np.sqrt(SPINNER**2 + GROUP**2 + YARN**2)[places(columns)]
    at = np.concatenate([np.zeros((len(columns), 1)), np.diag(sizes), -np.diag(sizes)], axis=1)
    offsets = dict(zip(columns, at, strict=True))
    varied, rods = put_in(node, rod, offsets)
    plain = make(node)
    made = make(varied, plain)
    figures = unfolded(made, finish)
    if folds:
        figures |= _folded_figures(node, plain, made, rod, rods, memory)
    count = len(columns)
    middle: dict[Outcome, float] = {}
    leans: dict[Outcome, FloatArray] = {}
    for outcome, figure in figures.items():
        value = (
            np.broadcast_to(figure, at.shape[1:]) if outcome in PLAIN else np.log(np.broadcast_to(figure, at.shape[1:]))
        )
        middle[outcome] = float(value[0])
        leans[outcome] = (value[1 : 1 + count] - value[1 + count :]) / (2 * sizes)
    return Reckoned(columns, middle, leans)


def unfolded(made: Made, finish: Finish) -> dict[Outcome, FloatArray]:
    """Return what can be measured of a strand without folding it: mm, tex, turns/m, degrees, or shares."""
    state = made.state
    shorter = 1 - shrinkage(state, finish)
    tex = mass(state) / state.length
    with np.errstate(divide="ignore"):
        return {
            "thick": state.diameter,
            "finished thick": state.diameter * growth(state, finish),
            "tex": tex,
            "finished tex": tex / shorter,
            "turns": np.abs(turns_of(made.node)),
            "angle": np.degrees(np.abs(state.angle)),
            "take-up": state.length / bobbin_length(state),
            "wash length": shorter,
        }


def _folded_figures(
    node: Node, plain: Made, made: Made, rod: Rod, rods: Rod, memory: Memory | None
) -> dict[Outcome, FloatArray]:
    doubled = fold(node)
    rest = balanced_turns(doubled, rod, (plain,), memory)
    nominal = make_nest(doubled, (plain,), rest)
    varied = make_nest(fold(made.node), (made,), rest, nominal.state)
    assert isinstance(varied, MadeNest)
    turns = balanced_variants(varied, rods, nominal, rod, rest)
    lies = make_nest(fold(made.node), (made,), turns, nominal.state).state.angle
    with np.errstate(divide="ignore"):
        return {"fold": np.abs(turns), "fold angle": np.degrees(np.abs(lies)), "loop": np.asarray(loop_turns(turns))}


def has(outcome: Outcome, reckoned: Reckoned) -> bool:
    """Return whether a strand has such an outcome at all: an even bought thread has no size to learn from."""
    return bool(np.isfinite(reckoned.middle[outcome])) and len(reckoned.columns) >= len(FACTORS)
