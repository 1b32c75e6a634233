"""From what a yarn is to be back to what is to be spun.

A structure has three knobs: how thick its strands are, how much twist its singles have, and how it is laid on top.
Turning them evaluates the structure at many settings in one call; a wish is met by reading the answer backwards.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.interpolate import CubicSpline

from pebble_wheel.mechanics.advice import FEWEST_FIBRES, FEWEST_TURNS_PER_STAPLE
from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.balance import NoBalanceError, balanced_near, balanced_turns, ratio_of, resolve_made
from pebble_wheel.mechanics.finishing import Finish, growth, shrinkage
from pebble_wheel.mechanics.reading import draw, fullness
from pebble_wheel.mechanics.single import fibres_across, turns_per_staple
from pebble_wheel.mechanics.state import LeafState, Made, MadeNest, State, make, make_nest, mass
from pebble_wheel.mechanics.structure import (
    Bought,
    Chain,
    CoreSpun,
    Node,
    OfBalanced,
    Ply,
    Rod,
    Single,
    Turns,
    Wrapped,
    turns_of,
    with_members,
)

Measure = Literal["finished diameter", "diameter", "finished tex", "tex"]

SIZES = np.geomspace(0.02, 50.0, 36)
"""Over the linear density that a structure starts from."""

EASING = (1.0, 0.95, 0.9, 0.85, 0.8, 0.7, 0.6, 0.5)
"""Of the twist asked for, where its whole leaves no room."""

FAR_STEPS = 9
"""Newton steps to a balance far from the known one: over the whole of :data:`SIZES`."""

HOLD_STEPS, NUDGE, LONGEST_MOVE, HELD_TO = 25, 1e-3, 0.4, 1e-6
"""Newton on the logarithms of knobs: steps at the most, their finite difference, the longest move, and how close."""


@dataclass(frozen=True)
class Knobs:
    """Factors on a structure; scalars, or arrays of one shape."""

    size: Floats = 1.0
    """On every linear density that is spun; the width of a strip grows with its square root."""
    twist: Floats = 1.0
    """On the twist factor of every single, and of every twist given as turns: turns/m · √tex."""
    lay: Floats = 1.0
    """On the twist of the whole: on its multiple of balance, or on its turns."""


def turned(node: Node, near: Made, knobs: Knobs, rod: Rod) -> Made:
    """Return a structure made with its knobs turned, multiples of balance followed from those of the structure itself.

    Bought threads stay as they are.

    Args:
        node: the structure, of scalar values.
        near: the same made, see ``balance.resolve_made``.
        knobs: one setting, or arrays of settings.
        rod: constants of the energy model.
    """
    return _turned(node, near, knobs, rod, knobs.lay)


def _turned(node: Node, near: Made, knobs: Knobs, rod: Rod, lay: Floats) -> Made:
    thicker = np.sqrt(knobs.size)
    if isinstance(node, Bought):
        return near
    if isinstance(node, Single):
        return make(replace(node, tex=node.tex * knobs.size, twist=Turns(turns_of(node) * knobs.twist * lay / thicker)))
    assert isinstance(near, MadeNest)
    members = tuple(
        _turned(member.node, like, knobs, rod, 1.0) for member, like in zip(node.members, near.members, strict=True)
    )
    inner = with_members(node, tuple(member.node for member in members))
    if isinstance(inner, CoreSpun):
        wrap = inner.wrap
        inner = replace(inner, wrap=replace(wrap, tex=wrap.tex * knobs.size, width=wrap.width * thicker))
    turns = turns_of(near.node) * knobs.twist * lay / thicker
    if isinstance(node.twist, OfBalanced):
        start = turns_of(near.node) / node.twist.multiple * knobs.twist / thicker
        shape = np.broadcast(start, *(member.state.length for member in members)).shape
        found = balanced_near(inner, members, np.broadcast_to(start, shape), rod, FAR_STEPS, near=near.state)
        turns = node.twist.multiple * lay * found
    return make_nest(replace(inner, twist=Turns(turns)), members, turns, near.state)


@dataclass(frozen=True)
class Course:
    """A structure from very fine to very thick: arrays over the knob of size."""

    near: Made
    """The structure itself, with its twist as asked."""
    size: FloatArray
    measures: dict[Measure, FloatArray]
    """mm or tex."""
    across: FloatArray
    """Fibres in the cross-section of the finest single."""
    staple: FloatArray
    """Turns that hold a staple in the single with the fewest: as spun, in a core as the wheel leaves it."""
    bobbin: FloatArray
    """Diameter of the thinnest single on the bobbin, mm."""
    fullness: FloatArray
    """Jamming of the fullest level."""

    def size_for(self, measure: Measure, value: Floats) -> FloatArray:
        """Return the knob of size at which a measure has a value, of any shape; beyond the ends of the course the ends.

        Between the settings a spline of logarithms is read; it departs from the very answer by less than 1e-5.
        """
        return self._where(self.measures[measure], value)

    def _where(self, rising: FloatArray, value: Floats) -> FloatArray:
        logs = np.log(rising)
        return np.exp(CubicSpline(logs, np.log(self.size))(np.clip(np.log(value), logs[0], logs[-1])))

    def value_at(self, figure: FloatArray, size: Floats) -> FloatArray:
        """Return a figure of the course at other sizes."""
        return np.asarray(np.interp(np.log(size), np.log(self.size), figure))

    def window(self, thinnest: float) -> tuple[float, float]:
        """Return the least and the greatest knob of size at which the singles can be spun.

        Args:
            thinnest: bobbin diameter of the thinnest single that the spinner is willing to spin, mm.
        """
        lowest = [float(self._where(self.across, FEWEST_FIBRES))]
        if thinnest > 0:
            lowest.append(float(self._where(self.bobbin, thinnest)))
        return max(lowest), float(self._where(1 / self.staple, 1 / FEWEST_TURNS_PER_STAPLE))


@lru_cache(maxsize=512)
def course(node: Node, finish: Finish, knobs: Knobs, rod: Rod) -> Course:
    """Return a structure of scalar values from very fine to very thick, in one call.

    Args:
        node: the structure.
        finish: washing and drying.
        knobs: of twist and lay, scalars; that of size is run through.
        rod: constants of the energy model.

    Raises:
        NoBalanceError: where a strand has no balanced twist in the direction asked for.
    """
    near = resolve_made(node, rod)
    state = turned(node, near, replace(knobs, size=SIZES), rod).state
    singles = list(_singles(state))
    tex = mass(state) / state.length
    return Course(
        near,
        SIZES,
        {
            "diameter": state.diameter,
            "finished diameter": state.diameter * growth(state, finish),
            "tex": tex,
            "finished tex": tex / (1 - shrinkage(state, finish)),
        },
        across=_least([_across(leaf) for leaf, _ in singles]),
        staple=_least([_held(leaf, within) for leaf, within in singles]),
        bobbin=_least([leaf.bobbin_diameter for leaf, _ in singles]),
        fullness=np.broadcast_to(fullness(state), SIZES.shape),
    )


def _singles(state: State, cored: bool = False) -> Iterator[tuple[LeafState, bool]]:
    """Yield every single with whether a wheel wraps it, which changes its twist."""
    if isinstance(state, LeafState):
        if isinstance(state.node, Single):
            yield state, cored
        return
    for seat in state.seats:
        yield from _singles(seat.state, cored or isinstance(state.node, CoreSpun))


def _across(leaf: LeafState) -> FloatArray:
    assert isinstance(leaf.node, Single)
    fibre = leaf.node.fibre
    return np.asarray(fibres_across(leaf.node.tex, fibre.density, fibre.mid_micron))


def _held(leaf: LeafState, cored: bool) -> FloatArray:
    assert isinstance(leaf.node, Single)
    spun = turns_per_staple(leaf.bobbin_twist, leaf.node.fibre.mid_staple)
    left = turns_per_staple(leaf.twist_now, leaf.node.fibre.mid_staple) if cored else spun
    return np.asarray(np.minimum(spun, left))


def _least(figures: list[FloatArray]) -> FloatArray:
    return np.min(np.stack(np.broadcast_arrays(*figures)), axis=0)


@dataclass(frozen=True)
class Wish:
    """What the finished yarn is to be."""

    measure: Measure
    value: float
    """mm or tex."""
    knobs: Knobs = Knobs()
    """Of twist and lay, by how it is to feel."""
    thinnest: float = 0.0
    """Bobbin diameter of the thinnest single that the spinner is willing to spin, mm."""


Reason = Literal["few-fibres", "too-thin", "staple", "jammed", "no-balance"]


@dataclass(frozen=True)
class Hindrance:
    """What stands in the way of a wish, with the figure that it came out at and the one it would need."""

    reason: Reason
    value: float = np.nan
    limit: float = np.nan


@dataclass(frozen=True)
class Fit:
    """The settings that meet a wish, or come nearest to it."""

    knobs: Knobs
    hindrances: tuple[Hindrance, ...]
    """Empty where the wish is met."""
    possible: bool = True
    """Whether anything can be spun at all."""


def fit(node: Node, finish: Finish, wish: Wish, rod: Rod) -> Fit:
    """Return the settings at which a structure meets a wish, else what stands in the way and the nearest that can be.

    Where the twist asked for leaves no room, as much of it is eased as must be; else the size gives way.
    """
    hindrances: list[Hindrance] = []
    for easing in EASING:
        knobs = replace(wish.knobs, twist=wish.knobs.twist * easing)
        try:
            run = course(node, finish, knobs, rod)
        except NoBalanceError:
            hindrances = hindrances or [Hindrance("no-balance")]
            continue
        size = _size_for(node, finish, wish, knobs, rod)
        full = float(run.value_at(run.fullness, size))
        if full < 1:
            return _within(run, knobs, size, wish, hindrances)
        hindrances = hindrances or [Hindrance("jammed", full, 1.0)]
    return Fit(wish.knobs, tuple(hindrances), possible=False)


def _size_for(node: Node, finish: Finish, wish: Wish, knobs: Knobs, rod: Rod) -> float:
    """Return the knob of size at which the median of uneven spinning meets a wish."""
    run = course(node, finish, knobs, rod)
    about = run.size[np.argmin(np.abs(np.log(run.size / run.size_for(wish.measure, wish.value))))]
    off = _median_over_nominal(node, finish, replace(knobs, size=float(about)), rod, wish.measure)
    return float(run.size_for(wish.measure, wish.value / off))


def _within(run: Course, knobs: Knobs, size: float, wish: Wish, before: list[Hindrance]) -> Fit:
    """Return a fit with its size brought within what can be spun."""
    low, high = run.window(wish.thinnest)
    found = list(before)
    across, bobbin, staple = (float(run.value_at(each, size)) for each in (run.across, run.bobbin, run.staple))
    if across < FEWEST_FIBRES:
        found.append(Hindrance("few-fibres", across, FEWEST_FIBRES))
    if bobbin < wish.thinnest:
        found.append(Hindrance("too-thin", bobbin, wish.thinnest))
    if staple < FEWEST_TURNS_PER_STAPLE:
        found.append(Hindrance("staple", staple, FEWEST_TURNS_PER_STAPLE))
    if low > high:
        return Fit(replace(knobs, size=low), tuple(found), possible=False)
    return Fit(replace(knobs, size=float(np.clip(size, low, high))), tuple(found))


@lru_cache(maxsize=2048)
def _median_over_nominal(node: Node, finish: Finish, knobs: Knobs, rod: Rod, measure: Measure) -> float:
    """Return by how much the median of uneven spinning differs from even spinning."""
    if not measure.endswith("diameter"):
        return 1.0
    made = turned(node, course(node, finish, replace(knobs, size=1.0), rod).near, knobs, rod)
    uneven = draw(made, finish, rod)
    if measure == "diameter":
        return float(np.median(uneven.plied) / made.state.diameter)
    return float(np.median(uneven.finished) / (made.state.diameter * growth(made.state, finish)))


Handle = Literal["size", "twist", "angle", "ratio"]
"""A reading that can be held or moved: diameter, twist factor of the singles, lean of the top ply, ratio to balance."""


@dataclass(frozen=True)
class NoSuchYarnError(ValueError):
    """No setting of the knobs gives the readings asked for."""

    full: bool
    """Whether the strands ran full of turns on the way."""


def handles(near: Made, rod: Rod) -> tuple[Handle, ...]:
    """Return the readings of a made structure that can be held or moved; a ratio only where a ply has one.

    Of coils neither: how far they lean is fixed by the overfeed.
    """
    if not isinstance(near, MadeNest) or isinstance(near.node, Wrapped):
        return ("size", "twist")
    plied = isinstance(near.node, Ply | Chain)
    if plied and np.isfinite(ratio_of(turns_of(near.node), balanced_turns(near.node, rod, near.members))):
        return ("size", "twist", "angle", "ratio")
    return ("size", "twist", "angle")


def hold(node: Node, near: Made, wanted: Mapping[Handle, float], rod: Rod) -> Knobs:
    """Return the knobs at which readings stand in given proportions to those of the structure itself.

    Newton on the logarithms of the knobs; each step evaluates the structure once, at all its neighbours together.

    Args:
        node: the structure, of scalar values.
        near: the same made.
        wanted: factor on each reading, 1 to hold it; of the angle on its tangent. As many as there are knobs that
            matter: two for a single, else three.
        rod: constants of the energy model.

    Raises:
        NoSuchYarnError: where nothing meets them.
    """
    goal = np.log([wanted[each] for each in wanted])
    free = np.eye(3)[: len(wanted)]
    balanced = balanced_turns(near.node, rod, near.members) if "ratio" in wanted and isinstance(near, MadeNest) else 0.0
    place = np.zeros(3)
    start: FloatArray | None = None
    for _ in range(HOLD_STEPS):
        trial = place + np.vstack([np.zeros(3), NUDGE * free])
        read, full = _readings(node, near, trial, tuple(wanted), balanced, rod)
        start = read[0] if start is None else start
        off = goal - (read[0] - start)
        if not np.all(np.isfinite(read)) or full >= 1:
            raise NoSuchYarnError(full=bool(full >= 1))
        if np.max(np.abs(off)) < HELD_TO:
            return Knobs(*(float(each) for each in np.exp(place)))
        slopes = (read[1:] - read[0]).T / NUDGE
        move, *_ = np.linalg.lstsq(slopes, off, rcond=None)
        place = place + free.T @ np.clip(move, -LONGEST_MOVE, LONGEST_MOVE)
    raise NoSuchYarnError(full=False)


def _readings(
    node: Node, near: Made, logs: FloatArray, asked: tuple[Handle, ...], balanced: float, rod: Rod
) -> tuple[FloatArray, float]:
    """Return the logarithms of readings at each row of logarithms of knobs, and the fullness at the first."""
    size, twist, lay = np.exp(logs.T)
    made = turned(node, near, Knobs(size, twist, lay), rod)
    found: dict[Handle, FloatArray] = {"size": np.asarray(made.state.diameter), "twist": twist}
    if isinstance(made, MadeNest) and isinstance(near, MadeNest):
        found["angle"] = np.tan(np.abs(made.state.angle))
        if "ratio" in asked:
            start = balanced * twist / np.sqrt(size)
            rest = balanced_near(made.node, made.members, start, rod, FAR_STEPS, near=near.state)
            found["ratio"] = turns_of(made.node) / rest
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.log(np.stack([found[each] for each in asked], axis=1)), float(np.ravel(fullness(made.state))[0])
