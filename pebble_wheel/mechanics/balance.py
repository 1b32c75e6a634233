"""Balance by energy: the twist at which a structure has no net torque, and what follows from it.

The balanced twist is the inserted top-level twist at which the elastic energy of a fixed piece of material is
stationary: a total derivative, through contact, packing and lengths.
"""

from dataclasses import replace
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.state import Made, MadePly, PlyState, State, energy, make, settle
from pebble_wheel.mechanics.structure import Node, OfBalanced, Ply, Rod, Single, Turns, turns_of

Verdict = Literal["underplied", "balanced", "slightly over", "energised"]

LOOP_LEG = 0.15
"""Metres: 30 cm of yarn folded into two legs."""

STEP = 0.01
"""Finite-difference step, as a share of the scale of the twist."""

NEWTON_STEPS = 4

DRAWN_STEPS = 2
"""Newton steps for draws about a known median: leaves under 0.5 % in the worst draw, 1e-5 in the percentiles."""

SCAN = 81
"""Points of the search on both sides of zero."""


def _stored(state: PlyState, rod: Rod) -> FloatArray:
    """Return the energy of a settled ply; infinite where any level has jammed."""
    stored = energy(state, rod)
    level: State = state
    while isinstance(level, PlyState):
        stored = np.where(level.jamming >= 1, np.inf, stored)
        level = level.strand
    return stored


def _twist_scale(strand: Made, strands: int) -> float:
    """The twist at which a ply of these strands would lie at 45°, at the median [turns/m]."""
    return float(1000 / (np.pi * strands**0.5 * np.median(strand.state.diameter)))


def balanced_near(node: Ply, strand: Made, start: Floats, rod: Rod, steps: int = NEWTON_STEPS) -> FloatArray:
    """Return the balanced twist [turns/m] close to a start, by Newton steps on energies stacked three deep."""
    twist = np.asarray(start, float)
    step = STEP * _twist_scale(strand, node.strands)
    offsets = np.array([-step, 0.0, step]).reshape(3, *[1] * twist.ndim)
    state = None
    for _ in range(steps):
        state = settle(node, strand, twist + offsets, state)
        low, middle, high = _stored(state, rod)
        bend = (high - 2 * middle + low) / step**2
        slope = (high - low) / (2 * step)
        with np.errstate(divide="ignore", invalid="ignore"):
            move = np.where(bend > 0, slope / bend, np.sign(slope) * 5 * step)
        move = np.clip(np.nan_to_num(move), -10 * step, 10 * step)
        twist = twist - move
        if np.max(np.abs(move)) < 0.02 * step:  # Newton's error goes with the square of its move
            break
    return twist


def balanced_turns(node: Ply, rod: Rod, strand: Made | None = None) -> float:
    """Return the balanced twist of a structure of scalar values [turns/m, signed], looked for on both sides of zero.

    Of several resting points the one of least energy counts. NaN where there is none before the strands jam.
    """
    made = strand or make(node.strand)
    widest = 1.6 * _twist_scale(made, node.strands)
    grid = np.linspace(-widest, widest, SCAN)
    stored = _stored(settle(node, made, grid), rod)
    inner = np.arange(1, SCAN - 1)
    resting = inner[(stored[inner] <= stored[inner - 1]) & (stored[inner] <= stored[inner + 1])]
    resting = resting[np.isfinite(stored[resting])]
    if not resting.size:
        return float("nan")
    best = resting[np.argmin(stored[resting])]
    low, middle, high = stored[best - 1 : best + 2]
    bend = high - 2 * middle + low
    lean = (low - high) / (2 * bend) if np.isfinite(bend) and bend > 0 else 0.0
    return float(balanced_near(node, made, grid[best] + lean * (grid[1] - grid[0]), rod))


def balanced_draws(drawn: MadePly, rod: Rod, nominal: MadePly, balanced: float) -> FloatArray:
    """Return the balanced twist of every draw about a structure whose balanced twist is known [turns/m, signed].

    More twist in the strands wants more of the ply: that start is close enough for Newton to close in two steps.
    """
    start = balanced * np.asarray(turns_of(drawn.strand.node)) / turns_of(nominal.strand.node)
    return balanced_near(drawn.node, drawn.strand, start, rod, DRAWN_STEPS)


class NoBalanceError(ValueError):
    """A multiple of balance was asked for where there is no balance that way."""

    def __init__(self, depth: int, reason: str) -> None:
        self.depth, self.reason = depth, reason
        super().__init__(reason)


def resolve(node: Node, rod: Rod, depth: int = 0) -> Node:
    """Return the structure with every twist given outright: multiples of balance worked out, bottom up.

    Raises:
        NoBalanceError: where a strand has no balanced twist in the direction asked for.
    """
    if isinstance(node, Single):
        if isinstance(node.twist, OfBalanced):
            raise NoBalanceError(depth, "a single has no balanced twist; give its turns")
        return node
    inner = replace(node, strand=resolve(node.strand, rod, depth + 1))
    if isinstance(node.twist, Turns):
        return inner
    balanced = balanced_turns(inner, rod)
    if not node.twist.direction * balanced > 0:
        wanted = "Z" if node.twist.direction > 0 else "S"
        reason = f"these strands have no balanced twist in the {wanted} direction; ply the other way, or give turns"
        raise NoBalanceError(depth, reason)
    return replace(inner, twist=Turns(node.twist.multiple * balanced))


def fold(node: Node) -> Ply:
    """Return a strand folded on itself: the two-strand ply that a hung loop or a ply-back makes of it."""
    return Ply(node, 2, Turns(0.0))


def fold_turns(node: Node, rod: Rod) -> float:
    """Return the balanced twist of a strand's fold [turns/m of the fold, signed]; see :func:`fold`."""
    return balanced_turns(fold(node), rod)


def loop_turns(fold_turns_per_m: Floats) -> Floats:
    """Return the turns, signed, in which 30 cm of yarn hangs when folded into two 15 cm legs."""
    return fold_turns_per_m * LOOP_LEG


def closed_form_live_turns(angle: Floats, radius: Floats, k: Floats, growth: Floats = 0.0) -> Floats:
    """Return the live twist ω0 of the singles [radians per mm] that a ply resting at β balances, all sizes frozen.

    ``ω0 = sin 2β/(2R) + k sin³β (2 cos β − q sin β) / (R (cos 2β − q sin β cos β))``, and ``ω0 = 2π t (1 − s)``.

    Args:
        angle: β, radians.
        radius: R, mm.
        k: bending over torsional stiffness.
        growth: ``q = R′(β)/R`` per radian; zero for two strands.
    """
    sin, cos = np.sin(angle), np.cos(angle)
    bend = k * sin**3 * (2 * cos - growth * sin)
    return np.sin(2 * angle) / (2 * radius) + bend / (radius * (np.cos(2 * angle) - growth * sin * cos))


def two_thirds_rule(strand_turns_per_m: Floats) -> Floats:
    """Return the ply twist of the two-thirds school: ⅔ of the strand's, the other way [turns/m]."""
    return -2 / 3 * strand_turns_per_m


def equal_angle_rule(strand_turns_per_m: Floats, strands: int) -> Floats:
    """Return the ply twist of the equal-angle school: the strand's over √n, the other way [turns/m]."""
    return -strand_turns_per_m / np.sqrt(strands)


def ratio_of(chosen: Floats, balanced: Floats) -> FloatArray:
    """Return chosen over balanced twist; NaN where balance is zero (under 2 % of the chosen) or the other way."""
    chosen, balanced = np.broadcast_arrays(np.asarray(chosen, float), np.asarray(balanced, float))
    usable = (chosen * balanced > 0) & (np.abs(balanced) > 0.02 * np.abs(chosen))
    return np.divide(chosen, balanced, out=np.full(chosen.shape, np.nan), where=usable)


def verdict(ratio: float, chosen: float, loop: float) -> Verdict:
    """Return what a spinner would call it.

    By the ratio of chosen to balanced twist: underplied < 0.95 ≤ balanced ≤ 1.05 < slightly over ≤ 1.25 < energised.
    Without a ratio the loop alone speaks: up to one turn is balanced, turns the way the yarn was twisted are
    underplied, and against it slightly over up to 4½ turns, the loop of a typical 2-ply at 1.25.
    """
    if np.isfinite(ratio):
        return _band(ratio, 0.95, 1.05, 1.25)
    return _band(-np.copysign(1, chosen) * loop, -1, 1, 4.5)


def _band(value: float, low: float, high: float, over: float) -> Verdict:
    if value < low:
        return "underplied"
    if value <= high:
        return "balanced"
    return "slightly over" if value <= over else "energised"
