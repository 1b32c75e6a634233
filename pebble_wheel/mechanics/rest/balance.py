"""Balance by energy: the twist at which a structure has no net torque, and what follows from it.

The balanced twist is the inserted top-level twist at which the elastic energy of a fixed piece of material is
stationary: a total derivative, through contact, packing and lengths.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import Fibre
from pebble_wheel.mechanics.memory import Memory, recalled
from pebble_wheel.mechanics.strand.helix import lay
from pebble_wheel.mechanics.strand.layout import EVEN
from pebble_wheel.mechanics.strand.rings import MAX_RING
from pebble_wheel.mechanics.strand.settling import MOST_ROUNDS, TOLERANCE, make, make_nest, retwist
from pebble_wheel.mechanics.strand.state import Made, MadeLeaf, MadeNest, NestState, energy, mass, nests, one_of
from pebble_wheel.mechanics.strand.structure import (
    Leaf,
    Nest,
    Node,
    OfBalanced,
    Ply,
    Rod,
    Single,
    Turns,
    coiled,
    equal_ply,
    member_path,
    tension_share_of,
    turns_of,
    with_members,
    wrap_of,
)

Unbalanced = Literal["a single", "quiet", "needs Z", "needs S"]
"""Why there is no balance to be a multiple of: a single has none, the strands want no twist, or none in the
direction asked for."""

Verdict = Literal["underplied", "balanced", "slightly over", "energised"]

RATIO_LIMITS = (0.95, 1.05, 1.25)
"""Of chosen over balanced twist: underplied below the first, balanced to the second, slightly over to the third."""

LOOP_LEG = 0.15
"""Metres: 30 cm of yarn folded into two legs."""

NOISE = 0.02
"""Of the twist at which a ply lies at about 45°: a balanced twist below it is none, the yarn hangs quiet by itself."""

STEP = 0.01
"""Finite-difference step, as a share of the scale of the twist."""

NEWTON_STEPS = 4

CLOSE = 0.1
"""Of that step: a Newton move so small leaves an error of its square, some 1e-6 of the scale."""

LONGEST = 10.0
"""Such steps in one Newton move."""

VARIANTS_CLOSE, VARIANTS_LONGEST = 5.0, 40.0
"""The same for variants about a known median, which spread by a tenth of the scale: against far closer ones no
percentile of a ratio moved by 5e-4 of itself, from a 3-ply to a cable of 24 singles."""

LOOSER = 0.8
"""Of a twist to start from: strands that jam there lie free with so much, as far as anybody knows."""

VARIANTS_ENOUGH = 0.99
"""Share of them that came so close, with which it is done."""

NARROWINGS, NARROWED = 3, 17
"""How often, and at how many points each, a valley is looked through in which Newton did not close in: strands that
begin to stand off put a leap into the slope."""

VARIANTS_STEPS = 8
"""Newton steps at the most for variants about a known median; a cable's far ones want that many."""

WINDOW, WITHIN, FARTHEST, WINDOWS = 3.0, 2.0, 6.0, 3
"""Of equal strands: such steps between the five twists of a window, how many of these from its middle the balance may
lie, and be looked for, and how many windows are laid. Of 235 random plies and folds of plies, some next to jamming, 226
came out within 1e-4 of the scale by one or two; the others are looked for on both sides of zero."""

WINDOW_CLOSELY = 1e-5
"""Tolerance of lengths and angles there: of 400 random plies and cables 385 came out within 1e-4 of the scale of where
settling to 1e-9 leads, and 397 within 2e-4; with a tenth of it 393, and 400."""

VARIANTS_WINDOW, WINDOW_ROUGHLY = 4.0, 2e-4
"""Such steps between the five of variants, of which one window is enough, and the tolerance there: from a 2-ply to a
cable of 24 singles they came out within 3e-4 of the scale, and spread by a twentieth to a fifth of it."""

RECKONED = np.radians(np.linspace(0.0, 44.0, 45))
"""β at which the closed form is turned about: it has no answer from 45° on."""

SCAN, WIDEST_SCAN = 81, 1.6
"""Points of the search on both sides of zero, and how far it goes, over :func:`twist_scale`."""

ROUGHLY = 1e-4
"""Tolerance of lengths in that search, which only has to find the valley."""

SCAN_ROUNDS = 6
"""At the most in that search: only next to jamming does settling take longer. With 4 all of 600 random structures came
out as with 60."""

SLOPES_ROUNDS = 10
"""The same for slopes there."""

VARIANTS_ROUNDS = 15
"""At the most for the slopes of variants, of which the thickest may be next to jamming."""

SLOPES_ROUGHLY = 1e-5
"""The same where it goes by slopes, which are small differences."""


def _stored(state: NestState, rod: Rod) -> FloatArray:
    """Return the energy of a settled strand; infinite where any level has jammed."""
    stored = energy(state, rod)
    for level in nests(state):
        if not coiled(level.node):
            stored = np.where(level.jamming >= 1, np.inf, stored)
    return stored


def _uniform(made: Made) -> bool:
    """Whether every level is one ring of equal strands: its material is then the same however it is twisted."""
    return isinstance(made, MadeLeaf) or (made.layout.plain and _uniform(made.members[0]))


def twist_scale(node: Nest, members: tuple[Made, ...]) -> FloatArray:
    """Return the twist at which a ply of these strands would lie at about 45° [turns/m]."""
    strands = _strands(node)
    thick = sum((member.state.diameter for member in members), np.asarray(0.0)) / len(members)
    return np.asarray(1000 / (np.pi * strands**0.5 * thick))


def _strands(node: Nest) -> int:
    return sum(member.count for member in node.members)


class _Around:
    """Energies and slopes of a strand of made members about trial twists."""

    def __init__(self, node: Nest, members: tuple[Made, ...], rod: Rod, near: NestState | None = None) -> None:
        self.node, self.members, self.rod = node, members, rod
        self.step = STEP * twist_scale(node, members)
        self.uniform = all(_uniform(member) for member in members) and len(members) == 1 and _even(node)
        self._state = near
        self.valley: tuple[float, float] | None = None
        """Twists between which the slope turns, where it was looked for by slopes."""
        self.tolerance, self.slope_tolerance, self.rounds = TOLERANCE, TOLERANCE, MOST_ROUNDS
        self.close, self.longest, self.enough = CLOSE * self.step, LONGEST * self.step, 1.0
        self.came_close: NDArray[np.bool_] = np.asarray(False)
        """Which twists a last step moved by no more than is close."""

    def slope_and_bend(self, twist: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the first and second derivative of energy by twist, of the strand made with that twist."""
        if self.uniform:
            offsets = np.array([-1.0, 0.0, 1.0]).reshape(3, *[1] * twist.ndim) * self.step
            made = make_nest(self.node, self.members, twist + offsets, self._state, self.tolerance, sized=False)
            self._state = made.state
            low, middle, high = _stored(self._state, self.rod)
            return (high - low) / (2 * self.step), (high - 2 * middle + low) / self.step**2
        offsets = np.array([-1.0, 1.0]).reshape(2, *[1] * twist.ndim) * self.step
        low, high = self.slopes(twist + offsets, self.slope_tolerance, self.rounds)
        return (low + high) / 2, (high - low) / (2 * self.step)

    def slopes(self, twist: FloatArray, tolerance: float = TOLERANCE, rounds: int = MOST_ROUNDS) -> FloatArray:
        """Return the slope of energy where the very material laid with each twist is twisted on or back."""
        made = make_nest(self.node, self.members, twist, self._state, tolerance, rounds, sized=False)
        self._state = made.state
        by = self.step / 4 * np.asarray(made.state.length)
        both = np.array([-1.0, 1.0]).reshape(2, *[1] * twist.ndim)
        low, high = _stored(retwist(made, made.inserted + both * by, tolerance, rounds), self.rod)
        with np.errstate(invalid="ignore"):  # where both have jammed
            return (high - low) / (2 * by)

    def uniformly_resting(self, grid: FloatArray) -> FloatArray:
        """Return about where a uniform strand rests with least energy; NaN where it never does.

        Args:
            grid: twists, even steps along the first axis; further axes are those of the strand.
        """
        made = make_nest(self.node, self.members, grid, tolerance=ROUGHLY, rounds=SCAN_ROUNDS, sized=False)
        stored = _stored(made.state, self.rod)
        low, middle, high = stored[:-2], stored[1:-1], stored[2:]
        rests = (middle <= low) & (middle <= high) & np.isfinite(middle)
        best = np.argmin(np.where(rests, middle, np.inf), axis=0)[None]
        low, middle, high, twist = (np.take_along_axis(each, best, 0)[0] for each in (low, middle, high, grid[1:-1]))
        bend = high - 2 * middle + low
        sound = np.isfinite(bend) & (bend > 0)
        lean = np.divide(low - high, 2 * bend, out=np.zeros(np.shape(bend)), where=sound)
        self._state = one_of(made.state, int(best[0]) + 1) if grid.ndim == 1 else None
        return np.where(rests.any(axis=0), twist + lean * (grid[1] - grid[0]), np.nan)

    def closing_in(self, about: float) -> float:
        """Return where a uniform strand rests close to a twist: the bottom of a quartic through five energies.

        NaN where it is not come to, or strands jam on the way.
        """
        apart = WINDOW * float(self.step)
        for _ in range(WINDOWS if np.isfinite(about) else 0):
            grid = about + apart * _FIVE
            self._state = make_nest(self.node, self.members, grid, self._state, WINDOW_CLOSELY, sized=False).state
            off = float(_bottom_of(*_stored(self._state, self.rod)))
            if not np.isfinite(off):
                break
            about += off * apart
            if abs(off) <= WITHIN:
                return about
        self._state = None
        return float("nan")

    def window(self, about: FloatArray) -> FloatArray:
        """Return five twists about each of several, along a first axis."""
        return about + VARIANTS_WINDOW * self.step * _FIVE.reshape(5, *[1] * np.ndim(about))

    def bottom_of(self, about: FloatArray, stored: FloatArray) -> FloatArray:
        """Return where each rests by the energies at its window; NaN where there is no rest near."""
        return about + VARIANTS_WINDOW * self.step * _bottom_of(*stored)

    def resting(self, grid: FloatArray) -> float:
        """Return about where on a grid of twists the strand rests with least energy; NaN where it never does."""
        made = make_nest(self.node, self.members, grid, tolerance=ROUGHLY, rounds=SLOPES_ROUNDS, sized=False)
        stored = _stored(made.state, self.rod)
        self._state = made.state
        slope = self.slopes(grid, SLOPES_ROUGHLY, SLOPES_ROUNDS)
        known = np.isfinite(stored) & np.isfinite(slope)
        found = np.flatnonzero((slope[:-1] < 0) & (slope[1:] >= 0) & known[:-1] & known[1:])
        found = found[_reached(np.isfinite(stored))[found]]
        if not found.size:
            return float("nan")
        depth = stored / made.state.length
        best = found[np.argmin(np.minimum(depth[found], depth[found + 1]))]  # a steep valley is deep at one end alone
        self._state = one_of(made.state, int(best))
        self.valley = float(grid[best]), float(grid[best + 1])
        share = slope[best] / (slope[best] - slope[best + 1])
        return float(grid[best] + share * (grid[1] - grid[0]))

    @property
    def looked(self) -> NestState | None:
        """The strand at the twists at which it was looked last, along a first axis."""
        return self._state

    def turns_at(self, twist: float) -> bool:
        """Return whether the slope turns so near a twist as Newton is asked to come."""
        low, high = self.slopes(twist + CLOSE * self.step * np.array([-1.0, 1.0]))
        return bool(low < 0 <= high)

    def bottom(self, low: float, high: float) -> float:
        """Return where between the ends of a valley the slope turns, be it by a leap; of several turns the deepest."""
        for _ in range(NARROWINGS):
            self._state = None
            grid = np.linspace(low, high, NARROWED)
            slope = self.slopes(grid)
            turns = np.flatnonzero((slope[:-1] < 0) & (slope[1:] >= 0))
            if not turns.size:
                break
            fallen = np.cumsum(np.where(np.isfinite(slope), slope, 0.0))
            deepest = turns[np.argmin(fallen[turns])]
            low, high = float(grid[deepest]), float(grid[deepest + 1])
        return (low + high) / 2


_FIVE = np.arange(-2.0, 3.0)


def _bottom_of(far_low: Floats, low: Floats, middle: Floats, high: Floats, far_high: Floats) -> FloatArray:
    """Return where a quartic through five even points is least, in their steps from the middle; NaN where nowhere."""
    with np.errstate(divide="ignore", invalid="ignore"):  # of what has jammed, and of straight lines
        slope = (far_low - 8 * low + 8 * high - far_high) / 12
        bend = (16 * (low + high) - far_low - far_high - 30 * middle) / 12
        third = (far_high - far_low + 2 * (low - high)) / 2
        fourth = far_low + far_high - 4 * (low + high) + 6 * middle
        at, sound = 0.0 * slope, np.isfinite(slope)
        for _ in range(_BOTTOM_STEPS):
            leans = slope + at * (bend + at * (third / 2 + at * fourth / 6))
            bends = bend + at * (third + at * fourth / 2)
            sound = sound & (bends > 0)
            at = at - leans / bends
        return np.where(sound & (np.abs(at) <= FARTHEST), at, np.nan)


_BOTTOM_STEPS = 4


def _reached(free: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Return which twists of a grid about zero are come to from its middle without jamming on the way."""
    middle = free.size // 2
    down = np.logical_and.accumulate(free[middle::-1])[::-1]
    return np.concatenate([down, np.logical_and.accumulate(free[middle:])[1:]])


def _even(node: Nest) -> bool:
    return tension_share_of(node) == EVEN and _strands(node) <= MAX_RING


def balanced_near(
    node: Nest,
    members: tuple[Made, ...],
    start: Floats,
    rod: Rod,
    steps: int = NEWTON_STEPS,
    around: _Around | None = None,
    near: NestState | None = None,
) -> FloatArray:
    """Return the balanced twist [turns/m] close to a start, by Newton steps on energies stacked along a first axis.

    A step that leads to where strands jam is halved, as is one past where the slope is known to have turned. It ends
    when as many as are asked for came close.

    ``around``, which has searched there already, saves rounds; so does ``near``, a settled state close by.
    """
    twist = np.asarray(start, float)
    known, low, high = LOOSER * twist, np.asarray(-np.inf), np.asarray(np.inf)
    around = around or _Around(node, members, rod, near)
    step = around.step
    for _ in range(steps):
        with np.errstate(divide="ignore", invalid="ignore"):
            slope, bend = around.slope_and_bend(twist)
            move = np.where(bend > 0, slope / bend, np.sign(slope) * 5 * step)
        free = np.isfinite(move)
        move = np.where(free, np.clip(move, -around.longest, around.longest), (twist - known) / 2)
        known = np.where(free, twist, known)
        low, high = np.where(slope < 0, twist, low), np.where(slope > 0, twist, high)
        around.came_close = free & (np.abs(move) < around.close)
        past = np.isfinite(low) & np.isfinite(high) & (low < high) & ((twist - move < low) | (twist - move > high))
        with np.errstate(invalid="ignore"):
            twist = np.where(past & ~around.came_close, (low + high) / 2, twist - move)
        if np.mean(around.came_close) >= around.enough:
            break
    return twist


@dataclass(frozen=True)
class Resting:
    """A strand at rest."""

    turns: float
    """Its balanced twist [turns/m, signed]; NaN where it has none."""
    looked: NestState | None
    """It settled at several twists close by, where it was looked for there."""

    @property
    def near(self) -> NestState | None:
        """It settled close by."""
        return self.looked and one_of(self.looked, np.shape(self.looked.length)[0] // 2)


def balanced_turns(
    node: Nest, rod: Rod, members: tuple[Made, ...] | None = None, memory: Memory | None = None
) -> float:
    """Return the balanced twist of a structure of scalar values [turns/m, signed], looked for on both sides of zero.

    Of several resting points that are come to without jamming on the way the one of least energy counts; NaN where
    there is none. The twist that the structure itself has does not matter. A memory keeps the balance of the
    other strands while one is changed.
    """

    return _at_rest(node, rod, members, memory).turns


def _at_rest(node: Nest, rod: Rod, members: tuple[Made, ...] | None, memory: Memory | None) -> Resting:
    def work() -> Resting:
        return _resting(node, rod, members or tuple(make(member.node) for member in node.members))

    return recalled(memory, (balanced_turns, replace(node, twist=Turns(0.0)), rod), work)


def _resting(node: Nest, rod: Rod, made: tuple[Made, ...]) -> Resting:
    around = _Around(node, made, rod)
    if around.uniform and wrap_of(node) is None:
        closed_in = around.closing_in(float(_reckoned(made[0], _strands(node), rod)))
        if np.isfinite(closed_in):
            return Resting(closed_in, around.looked)
    widest = WIDEST_SCAN * float(twist_scale(node, made))
    if wrap_of(node):
        widest = max(widest, 1.5 * abs(float(turns_of(node.members[0].node))))
    grid = np.linspace(-widest, widest, SCAN)
    about = float(around.uniformly_resting(grid)) if around.uniform else around.resting(grid)
    if not np.isfinite(about):
        return Resting(about, None)
    found = float(balanced_near(node, made, about, rod, around=around))
    looked = around.looked
    quiet = abs(found) < NOISE * twist_scale(node, made)
    if quiet or around.valley is None or around.turns_at(found):
        return Resting(found, looked)
    return Resting(around.bottom(*around.valley), looked)


def _reckoned(strand: Made, strands: int, rod: Rod) -> FloatArray:
    """Return about where a ply of equal strands rests [turns/m], by the closed form: each as thick as it was made.

    What is live in a strand that is a ply itself is its twist beyond that at which it would rest, reckoned alike.

    Args:
        strand: one of them; arrays for several plies.
        strands: how many there are.
        rod: of the same shape, or of scalars.
    """
    twist = np.asarray(turns_of(strand.node))
    if isinstance(strand, MadeLeaf):
        live = twist * (1 - rod.set_share)
    elif wrap_of(strand.node):
        live = twist  # about the core, which twists with it
    else:
        live = twist - _reckoned(strand.members[0], _strands(strand.node), rod)
    free, stiffened, turned = _closed_form(strands)
    around, k = np.pi / 1000 * strand.state.diameter, np.asarray(rod.bend_to_twist)
    if np.ndim(live) == np.ndim(around) == k.ndim == 0:
        return -np.sign(live) * np.interp(np.abs(live) * around, free + stiffened * k, turned) / around
    live, around, k = np.broadcast_arrays(live, around, k)
    wanted, which = np.ravel(np.abs(live) * around), np.arange(live.size)
    lives = free[:, None] + stiffened[:, None] * np.ravel(k)
    steeper = np.minimum(np.maximum((lives < wanted).sum(axis=0), 1), RECKONED.size - 1)
    low, high = lives[steeper - 1, which], lives[steeper, which]
    share = np.minimum(np.maximum((wanted - low) / (high - low), 0.0), 1.0)
    found = turned[steeper - 1] + share * (turned[steeper] - turned[steeper - 1])
    return -np.sign(live) * found.reshape(live.shape) / around


@lru_cache(maxsize=16)
def _closed_form(strands: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return, at each of :data:`RECKONED`, ``r ω0`` for ``k = 0``, what ``k = 1`` adds, and ``2π r t``."""
    ratio = lay(strands).ratio_at(RECKONED)
    free = np.asarray(closed_form_live_turns(RECKONED, ratio, 0.0))
    return free, closed_form_live_turns(RECKONED, ratio, 1.0) - free, np.asarray(np.tan(RECKONED) / ratio)


def offered(balanced: Floats, scale: Floats) -> FloatArray:
    """Return a balanced twist that can be told from none, zero for what cannot; see :data:`NOISE`.

    Args:
        balanced: turns/m, signed; NaN where there is none.
        scale: of :func:`twist_scale`.
    """
    return np.where(np.abs(balanced) < NOISE * np.asarray(scale), 0.0, balanced)


def rest_of(node: Nest, rod: Rod, members: tuple[Made, ...], memory: Memory | None = None) -> float:
    """Return the balanced twist that is offered for a structure; see :func:`balanced_turns` and :func:`offered`."""
    return float(offered(balanced_turns(node, rod, members, memory), twist_scale(node, members)))


def balanced_variants(varied: MadeNest, rod: Rod, nominal: MadeNest, usual: Rod, balanced: float) -> FloatArray:
    """Return the balanced twist of every variant of a structure [turns/m, signed].

    NaN of the few that were not closed in on, next to jamming for the most part.

    Args:
        varied: the structure as an array of variants.
        rod: of each.
        nominal: what they vary about.
        usual: the rod of that.
        balanced: and its balanced twist [turns/m, signed].
    """
    if not np.isfinite(balanced):
        return np.full(np.shape(varied.state.length), np.nan)
    about = _about(varied.node, varied.members, rod, nominal, usual, balanced)
    start = np.broadcast_to(about, np.shape(varied.state.length))
    around = _Around(varied.node, varied.members, rod, nominal.state)
    # Against full settling the tolerances move no percentile by more than 4e-4 of itself, most by under 1e-4.
    around.tolerance, around.slope_tolerance, around.rounds = ROUGHLY, SLOPES_ROUGHLY, VARIANTS_ROUNDS
    around.close, around.longest = VARIANTS_CLOSE * around.step, VARIANTS_LONGEST * around.step
    around.enough = VARIANTS_ENOUGH
    if around.uniform:
        grid = around.window(start)
        laid = make_nest(varied.node, varied.members, grid, varied.state, WINDOW_ROUGHLY, sized=False)
        found = around.bottom_of(start, _stored(laid.state, rod))
        if np.mean(np.isfinite(found)) >= VARIANTS_ENOUGH:
            return found
    found = balanced_near(varied.node, varied.members, start, rod, VARIANTS_STEPS, around)
    return np.where(around.came_close, found, np.nan)


def made_with_balance(
    node: Nest, rod: Rod, nominal: MadeNest, usual: Rod, balanced: float, tolerance: float
) -> tuple[MadeNest, FloatArray]:
    """Return variants made, and the balanced twist of each: of equal strands both settled at once.

    Args:
        node: the structure as an array of variants.
        rod: of each.
        nominal: what they vary about.
        usual: the rod of that.
        balanced: and its balanced twist [turns/m, signed].
        tolerance: of lengths and angles; see :func:`make`.
    """
    known = zip(node.members, nominal.members, strict=True)
    members = tuple(make(member.node, each, tolerance) for member, each in known)
    around, turns = _Around(node, members, rod), np.asarray(turns_of(node))
    if not (around.uniform and np.isfinite(balanced)):
        varied = make_nest(node, members, turns, nominal.state, tolerance)
        return varied, balanced_variants(varied, rod, nominal, usual, balanced)
    about = np.broadcast_to(_about(node, members, rod, nominal, usual, balanced), turns.shape)
    laid = make_nest(node, members, np.concatenate([turns[None], around.window(about)]), nominal.state, tolerance)
    varied = MadeNest(node, members, laid.inserted[0], tuple(each[0] for each in laid.feeds), one_of(laid.state, 0))
    found = around.bottom_of(about, _stored(laid.state, rod)[1:])
    if np.mean(np.isfinite(found)) < VARIANTS_ENOUGH:
        found = balanced_variants(varied, rod, nominal, usual, balanced)
    return varied, found


def _about(
    node: Nest, members: tuple[Made, ...], rod: Rod, nominal: MadeNest, usual: Rod, balanced: float
) -> FloatArray:
    """Return about where variants rest [turns/m]; see :func:`balanced_variants`.

    Of equal strands they differ by as much as the closed form says, else the ply by as much as the twist of strands.
    """
    if not _uniform(nominal) or wrap_of(nominal.node):
        turning = _turning(nominal.node, nominal.members)
        return np.asarray(balanced * _turning(node, members) / turning if turning else balanced)
    strands = _strands(nominal.node)
    return balanced + _reckoned(members[0], strands, rod) - _reckoned(nominal.members[0], strands, usual)


def _turning(node: Nest, members: tuple[Made, ...]) -> Floats:
    """Return the mean twist of strands [turns/m], each by its stiffness, which goes as tex squared."""
    weights = [member.count * mass(each.state) ** 2 for member, each in zip(node.members, members, strict=True)]
    turned = sum(each * turns_of(of.node) for each, of in zip(weights, members, strict=True))
    return np.asarray(turned) / sum(weights)


class NoBalanceError(ValueError):
    """A multiple of balance was asked for where there is no balance that way."""

    def __init__(self, path: str, cause: Unbalanced) -> None:
        self.path, self.cause = path, cause
        super().__init__(f"{path}: {cause}")


def resolve(node: Node, rod: Rod, memory: Memory | None = None) -> Node:
    """Return the structure with every twist given outright; see :func:`resolve_made`.

    Raises:
        NoBalanceError: where a strand has no balanced twist in the direction asked for.
    """
    return resolve_made(node, rod, memory=memory).node


def resolve_made(node: Node, rod: Rod, path: str = "yarn", memory: Memory | None = None) -> Made:
    """Return a structure made, bottom up, with multiples of balance worked out on the way.

    Raises:
        NoBalanceError: where a strand has no balanced twist in the direction asked for.
    """
    if isinstance(node, Leaf):
        if isinstance(node.twist, OfBalanced):
            raise NoBalanceError(path, "a single")
        return make(node)
    members = tuple(
        resolve_made(member.node, rod, f"{path}.{member_path(node, index)}", memory)
        for index, member in enumerate(node.members)
    )
    inner, near = with_members(node, tuple(member.node for member in members)), None
    if isinstance(node.twist, OfBalanced):
        rest = _at_rest(inner, rod, members, memory)
        balanced, near = float(offered(rest.turns, twist_scale(inner, members))), rest.near
        if balanced == 0:
            raise NoBalanceError(path, "quiet")
        if not node.twist.direction * balanced > 0:
            raise NoBalanceError(path, "needs Z" if node.twist.direction > 0 else "needs S")
        inner = replace(inner, twist=Turns(node.twist.multiple * balanced))
    return make_nest(inner, members, turns_of(inner), near)


def fold(node: Node) -> Ply:
    """Return a strand folded on itself: the two-strand ply that a hung loop or a ply-back makes of it."""
    return equal_ply(node, 2, Turns(0.0))


def fold_turns(node: Node, rod: Rod, made: Made | None = None, memory: Memory | None = None) -> float:
    """Return the balanced twist of a strand's fold [turns/m of the fold, signed]; see :func:`fold`."""
    return balanced_turns(fold(node), rod, (made or make(node),), memory)


def ply_backs(singles: Sequence[Single], rod: Rod, memory: Memory | None = None) -> list[float]:
    """Return :func:`fold_turns` of singles of scalar values; those of one fibre, drawn alike, all at once."""
    alike: dict[tuple[Fibre, Prep, Draw], list[Single]] = {}
    for each in dict.fromkeys(singles):
        alike.setdefault((each.fibre, each.prep, each.draw), []).append(each)
    found = {each: turns for group in alike.values() for each, turns in _folded(group, rod, memory)}
    return [found[each] for each in singles]


def _folded(singles: list[Single], rod: Rod, memory: Memory | None) -> Iterator[tuple[Single, float]]:
    if len(singles) == 1:
        yield singles[0], fold_turns(singles[0], rod, memory=memory)
        return
    tex, turns, squeeze = (
        np.array([of(each) for each in singles], float)
        for of in (lambda each: each.tex, turns_of, lambda each: each.squeeze_factor)
    )
    together = fold(replace(singles[0], tex=tex, twist=Turns(turns), squeeze_factor=squeeze))
    made = (make(together.members[0].node),)
    around = _Around(together, made, rod)
    widest = WIDEST_SCAN * twist_scale(together, made)
    about = around.uniformly_resting(np.linspace(-1.0, 1.0, SCAN)[:, None] * widest)
    found = np.where(np.isfinite(about), balanced_near(together, made, np.nan_to_num(about), rod), np.nan)
    yield from zip(singles, found.tolist(), strict=True)


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
    """Return chosen over balanced twist; NaN where balance is zero or lies the other way."""
    chosen, balanced = np.broadcast_arrays(np.asarray(chosen, float), np.asarray(balanced, float))
    usable = chosen * balanced > 0
    return np.divide(chosen, balanced, out=np.full(chosen.shape, np.nan), where=usable)


def verdict(ratio: float, chosen: float, loop: float) -> Verdict:
    """Return what a spinner would call it.

    By the ratio of chosen to balanced twist; see :data:`RATIO_LIMITS`, beyond the last of which it is energised.
    Without a ratio the loop alone speaks: up to one turn is balanced, turns the way the yarn was twisted are
    underplied, and against it slightly over up to 4½ turns, the loop of a typical 2-ply at 1.25.
    """
    if np.isfinite(ratio):
        return _band(ratio, *RATIO_LIMITS)
    return _band(-np.copysign(1, chosen) * loop, -1, 1, 4.5)


def _band(value: float, low: float, high: float, over: float) -> Verdict:
    if value < low:
        return "underplied"
    if value <= high:
        return "balanced"
    return "slightly over" if value <= over else "energised"
