"""From what a yarn is to be back to what is to be spun.

A structure has three knobs: how thick its strands are, how much twist its singles have, and how it is laid on top.
Turning them evaluates the structure at many settings in one call; a wish is met by reading the answer backwards.
"""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cache, cached_property
from typing import TYPE_CHECKING, Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.fibre.table import Range
from pebble_wheel.mechanics.memory import Memory, recalled
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.findings import FEWEST_FIBRES, FEWEST_TURNS_PER_STAPLE
from pebble_wheel.mechanics.reading.reading import fullness
from pebble_wheel.mechanics.reading.uneven import Thickness, thickness
from pebble_wheel.mechanics.rest.balance import (
    NoBalanceError,
    balanced_near,
    balanced_turns,
    ratio_of,
    resolve_made,
    rest_of,
    twist_scale,
)
from pebble_wheel.mechanics.strand.section import Shape, shape_of
from pebble_wheel.mechanics.strand.settling import make, make_nest
from pebble_wheel.mechanics.strand.single import fibres_across, least_turns, turns_per_staple
from pebble_wheel.mechanics.strand.state import LeafState, Made, MadeNest, State, mass, one_of, wraps
from pebble_wheel.mechanics.strand.structure import (
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
    wrap_of,
)
from pebble_wheel.mechanics.wash.bloom import Finish, growth, shrinkage

if TYPE_CHECKING:
    from scipy.interpolate import CubicSpline

Measure = Literal["finished diameter", "diameter", "finished tex", "tex"]

SIZES = np.geomspace(0.02, 400.0, 44)
"""Over the linear density that a structure starts from."""

NEARLY_NONE = 1e-6
"""Turns: its logarithm is still a number."""

BETWEEN = 12
"""Steps between settings in looking for where singles can be spun."""

EASING = (1.0, 0.95, 0.9, 0.85, 0.8, 0.7, 0.6, 0.5)
"""Of the twist asked for, where its whole leaves no room."""

GRID, SIZE_GRID = 1.035, 1.8
"""Steps of twist, and of size, at which it is worked out by how much uneven spinning differs from even spinning."""

TURNED_TO = 1e-5
"""Tolerance of lengths and angles of a structure that is turned to other settings."""

MEDIAN_TO = 1e-3
"""How near the median comes to a wish that is met."""

TRIES = 4
"""To bring the median to the wish; two are nearly always enough."""

EASES = 0.02
"""Power of the size by which a ply of one twist factor rests with less of its strands' twist, since they lean more the
thicker they are: where a search for balance starts."""

STEEPEST_START = 0.7
"""Of the twist at which a ply lies at about 45°: a search for balance starts below it."""

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


Place = tuple[int, ...]
"""Of a strand in a structure: which member of the whole, which of that, and so on."""


@dataclass(frozen=True)
class Like:
    """The structure made at a setting much like the one wanted, which saves rounds."""

    made: Made
    knobs: Knobs
    turns: Mapping[Place, float] = field(default_factory=dict)
    """Of strands whose twist at the setting wanted is known, turns/m, signed."""

    def within(self, member: int) -> "Like":
        """Return the same of a member."""
        own = {place[1:]: turns for place, turns in self.turns.items() if place[:1] == (member,)}
        return Like(_laid(self.made).members[member], replace(self.knobs, lay=1.0), own)


def turned(node: Node, near: Made, knobs: Knobs, rod: Rod, like: Like | None = None) -> Made:
    """Return a structure made with its knobs turned, multiples of balance followed from those of the structure itself.

    Bought threads and cores stay as they are: they are chosen, not spun to the gauge of the yarn.

    Args:
        node: the structure, of scalar values.
        near: the same made, see ``balance.resolve_made``.
        knobs: one setting, or arrays of settings.
        rod: constants of the energy model.
        like: where to start from; from the structure itself where none is given.
    """
    return _turned(node, near, knobs, rod, knobs.lay, like or Like(near, Knobs()))


def _turned(node: Node, near: Made, knobs: Knobs, rod: Rod, lay: Floats, like: Like) -> Made:
    match node:
        case Bought():
            return near
        case Single():
            twist = Turns(turns_of(node) * knobs.twist * lay / np.sqrt(knobs.size))
            return make(replace(node, tex=node.tex * knobs.size, twist=twist))
        case CoreSpun():
            return _turned_wrap(node, _laid(near), knobs, lay)
        case Ply() | Chain() | Wrapped():
            return _turned_nest(node, _laid(near), knobs, rod, lay, like)


def _laid(near: Made) -> MadeNest:
    if isinstance(near, MadeNest):
        return near
    raise ValueError("this is not the same structure made")


def _turned_wrap(node: CoreSpun, near: MadeNest, knobs: Knobs, lay: Floats) -> Made:
    thicker = np.sqrt(knobs.size)
    wrap = replace(node.wrap, tex=node.wrap.tex * knobs.size, width=node.wrap.width * thicker)
    turns = turns_of(near.node) * knobs.twist * lay / thicker
    laid = replace(node, core=near.members[0].node, wrap=wrap, twist=Turns(turns))
    return make_nest(laid, near.members, turns, near.state, TURNED_TO)


def _turned_nest(node: Ply | Chain | Wrapped, near: MadeNest, knobs: Knobs, rod: Rod, lay: Floats, like: Like) -> Made:
    thicker = np.sqrt(knobs.size)
    members = tuple(
        _turned(member.node, near.members[place], knobs, rod, 1.0, like.within(place))
        for place, member in enumerate(node.members)
    )
    inner = with_members(node, tuple(member.node for member in members))
    settled = _laid(like.made).state
    turns: Floats = turns_of(near.node) * knobs.twist * lay / thicker
    if isinstance(node.twist, OfBalanced) and () in like.turns:
        turns = like.turns[()]
    elif isinstance(node.twist, OfBalanced):
        start = turns_of(like.made.node) / node.twist.multiple / like.knobs.lay * knobs.twist / like.knobs.twist
        start = start * np.asarray(knobs.size / like.knobs.size) ** -(0.5 + EASES)
        room = STEEPEST_START * twist_scale(inner, members)  # past it strands may be full, and no slope leads back
        start = np.minimum(np.maximum(start, -room), room)
        shape = np.broadcast(start, *(member.state.length for member in members)).shape
        found = balanced_near(inner, members, np.broadcast_to(start, shape), rod, FAR_STEPS, near=settled)
        turns = node.twist.multiple * lay * found
    return make_nest(replace(inner, twist=Turns(turns)), members, turns, settled, TURNED_TO)


@dataclass(frozen=True)
class Course:
    """A structure from very fine to very thick: arrays over the knob of size."""

    near: Made
    """The structure itself, with its twist as asked."""
    knobs: Knobs
    """At which it was turned: the sizes, and what was asked of twist and lay."""
    made: Made
    """The structure at all of these."""
    size: FloatArray
    measures: dict[Measure, FloatArray]
    """mm or tex."""
    across: FloatArray
    """Fibres in the cross-section of the finest single."""
    staple: FloatArray
    """Turns that hold a staple in the single with the fewest: as spun, in a core as the wheel leaves it."""
    bobbin: FloatArray
    """Diameter of the thinnest single on the bobbin, mm; without limit where none is spun."""
    fullness: FloatArray
    """Jamming of the fullest level."""

    def like(self, size: float) -> Like:
        """Return the structure made at the setting nearest to a size."""
        return self._like(int(np.argmin(np.abs(np.log(self.size / size)))))

    def _like(self, place: int) -> Like:
        if place not in self._likes:
            knobs = replace(self.knobs, size=float(self.size[place]))
            self._likes[place] = Like(_one_of(self.made, place, self.size.size), knobs)
        return self._likes[place]

    def known_at(self, size: float) -> Like:
        """Return the same with the twist of every strand at that very size.

        Between the settings a spline of logarithms is read, as in :meth:`size_for`; it departs by less than 1e-4.
        """
        signs, spline = self._twists
        turns = np.exp(spline(np.log(size))) if spline else ()
        return replace(
            self.like(size),
            turns={place: float(sign * t) for (place, sign), t in zip(signs.items(), turns, strict=True)},
        )

    @cached_property
    def _twists(self) -> "tuple[dict[Place, float], CubicSpline | None]":
        """Of which strands it is known how they are twisted at any size, with the sense of each, and how."""
        from scipy.interpolate import CubicSpline

        found = {place: np.broadcast_to(turns, self.size.size) for place, turns in _twists_of(self.made, ())}
        steady = {place: each for place, each in found.items() if np.all(each > 0) or np.all(each < 0)}
        if not steady:
            return {}, None
        logs = np.log(np.abs(np.stack(list(steady.values()), axis=1)))
        signs = {place: float(np.sign(each[0])) for place, each in steady.items()}
        return signs, CubicSpline(np.log(self.size), logs)

    @cached_property
    def _likes(self) -> dict[int, Like]:
        return {}

    def shape_at(self, size: float) -> Shape:
        """Return the shape of a cut across the structure at a size, which hardly varies, between two settings."""
        if not isinstance(self.made, MadeNest):
            return Shape(1.0, 0.0)  # a circle
        above = min(max(int(np.searchsorted(self.size, size)), 1), self.size.size - 1)
        low, high = np.log(self.size[above - 1 : above + 1])
        return self._shape(above - 1).towards(self._shape(above), float((np.log(size) - low) / (high - low)))

    def _shape(self, place: int) -> Shape:
        if place not in self._shapes:
            self._shapes[place] = shape_of(self._like(place).made)
        return self._shapes[place]

    @cached_property
    def _shapes(self) -> dict[int, Shape]:
        return {}

    def size_for(self, measure: Measure, value: Floats) -> FloatArray:
        """Return the knob of size at which a measure has a value, of any shape; beyond the ends of the course the ends.

        Between the settings a spline of logarithms is read; it departs from the very answer by less than 1e-5.
        """
        spline = self._size_by(measure)
        return np.exp(spline(np.minimum(np.maximum(np.log(value), spline.x[0]), spline.x[-1])))

    def _size_by(self, measure: Measure) -> "CubicSpline":
        from scipy.interpolate import CubicSpline

        if measure not in self._splines:
            size, figures = self.rising(measure)
            self._splines[measure] = CubicSpline(np.log(figures), np.log(size))
        return self._splines[measure]

    @cached_property
    def _splines(self) -> "dict[Measure, CubicSpline]":
        return {}

    def rising(self, measure: Measure) -> tuple[FloatArray, FloatArray]:
        """Return the knob of size and a measure from where it rises.

        The many turns of a very fine wrap shorten its core more than they add to it: finer, it would weigh more again.
        """
        figures = self.measures[measure]
        first = int(np.argmin(figures))
        return self.size[first:], figures[first:]

    def value_at(self, figure: FloatArray, size: Floats) -> FloatArray:
        """Return a figure of the course at other sizes."""
        with np.errstate(invalid="ignore"):
            return np.asarray(np.interp(np.log(size), np.log(self.size), figure))

    def spinnable(self, thinnest: float) -> tuple[FloatArray, FloatArray]:
        """Return logarithms of sizes, and by how much, as a logarithm, the hardest demand on the singles is met there.

        Each demand is read between the settings by itself, since the hardest one changes over from one to another.

        Args:
            thinnest: bobbin diameter of the thinnest single that the spinner is willing to spin, mm.
        """
        fine, demands = self._demands(thinnest)
        return fine, _least(demands, fine.size)

    def _demands(self, thinnest: float) -> tuple[FloatArray, list[FloatArray]]:
        fine, (across, staple, bobbin) = self._between
        demands = [across - np.log(FEWEST_FIBRES), staple - np.log(FEWEST_TURNS_PER_STAPLE)]
        if thinnest > 0:
            demands.append(bobbin - np.log(thinnest))
        return fine, demands

    @cached_property
    def _between(self) -> tuple[FloatArray, list[FloatArray]]:
        """Logarithms of sizes between the settings, and of what the singles have there; without limit where none is
        spun."""
        from scipy.interpolate import PchipInterpolator

        logs = np.log(self.size)
        fine = np.linspace(logs[0], logs[-1], BETWEEN * self.size.size)

        def read(figure: FloatArray) -> FloatArray:
            if not np.all(np.isfinite(figure)):
                return np.full(fine.size, np.inf)
            return np.asarray(PchipInterpolator(logs, np.log(figure))(fine))

        return fine, [read(each) for each in (self.across, self.staple, self.bobbin)]

    def nearest(self, thinnest: float, size: float, measure: Measure) -> float:
        """Return the knob of size at which the singles can be spun and a measure is nearest; NaN if at none."""
        wanted, (fine, demands) = np.log(size), self._demands(thinnest)
        if all(np.interp(wanted, fine, each) >= 0 for each in demands):
            return size
        logs, room = self.spinnable(thinnest)
        turn = np.flatnonzero((room[:-1] >= 0) != (room[1:] >= 0))
        if not turn.size:
            return float("nan")
        roots = logs[turn] - room[turn] * (logs[turn + 1] - logs[turn]) / (room[turn + 1] - room[turn])
        off = np.log(self.value_at(self.measures[measure], np.exp(roots)) / self.value_at(self.measures[measure], size))
        return float(np.exp(roots[np.argmin(np.abs(off))]))


def _twists_of(made: Made, place: Place) -> Iterator[tuple[Place, Floats]]:
    """Yield the twist of a strand and of all within it that have members [turns/m, signed]."""
    if isinstance(made, MadeNest):
        yield place, turns_of(made.node)
        for index, member in enumerate(made.members):
            yield from _twists_of(member, (*place, index))


def _one_of(made: Made, place: int, settings: int) -> Made:
    if not isinstance(made, MadeNest):
        return made
    turns = float(np.broadcast_to(turns_of(made.node), settings)[place])
    inner = tuple(_one_of(each, place, settings) for each in made.members)
    node = replace(made.node, twist=Turns(turns))
    return replace(made, node=node, members=inner, state=one_of(made.state, place))


def _as_it_stands(node: Node, rod: Rod, memory: Memory | None) -> Made:
    return recalled(memory, (resolve_made, node, rod), lambda: resolve_made(node, rod, memory=memory))


def course(node: Node, finish: Finish, knobs: Knobs, rod: Rod, memory: Memory | None = None) -> Course:
    """Return a structure of scalar values from very fine to very thick, in one call.

    Args:
        node: the structure.
        finish: washing and drying.
        knobs: of twist and lay, scalars; that of size is run through.
        rod: constants of the energy model.
        memory: of what was worked out lately.

    Raises:
        NoBalanceError: where a strand has no balanced twist in the direction asked for.
    """
    near = _as_it_stands(node, rod, memory)
    knobs = replace(knobs, size=SIZES)
    made = turned(node, near, knobs, rod)
    state = made.state
    tex = mass(state) / state.length
    measures: dict[Measure, FloatArray] = {
        "diameter": state.diameter,
        "finished diameter": state.diameter * growth(state, finish),
        "tex": tex,
        "finished tex": tex / (1 - shrinkage(state, finish)),
    }
    spun = [each for each in _singles(state) if each.core is None]
    return Course(
        near,
        knobs,
        made,
        SIZES,
        measures,
        across=_least([*(each.across for each in spun), *_strips(state)]),
        staple=_least([each.staple for each in _singles(state)]),
        bobbin=_least([each.leaf.bobbin_diameter for each in spun]),
        fullness=_least([fullness(state)]),
    )


@dataclass(frozen=True)
class _Spun:
    """A single within a structure."""

    leaf: LeafState
    node: Single
    core: tuple[tuple[Floats, FloatArray], ...] | None
    """Twist as made and now of all it is plied into within a core, which a wheel twists on; None where in none."""

    @property
    def across(self) -> FloatArray:
        """Fibres in its cross-section."""
        return np.asarray(fibres_across(self.node.tex, self.node.fibre.density, self.node.fibre.mid_micron))

    @property
    def staple(self) -> FloatArray:
        """Turns that hold a staple: as spun, or in a core the fewest on the way into the yarn."""
        if self.core is None:
            return np.asarray(turns_per_staple(self.leaf.bobbin_twist, self.node.fibre.mid_staple))
        before, after = zip((self.leaf.bobbin_twist, self.leaf.twist_now), *self.core, strict=True)
        held = least_turns([np.asarray(each) for each in before], list(after))
        return np.maximum(turns_per_staple(held, self.node.fibre.mid_staple), NEARLY_NONE)


def _singles(state: State, core: tuple[tuple[Floats, FloatArray], ...] | None = None) -> Iterator[_Spun]:
    if isinstance(state, LeafState):
        if isinstance(state.node, Single):
            yield _Spun(state, state.node, core)
        return
    within = None if core is None else (*core, (turns_of(state.node), state.twist_now))
    for seat in state.seats:
        yield from _singles(seat.state, () if wrap_of(state.node) else within)


def _strips(state: State) -> Iterator[FloatArray]:
    """Yield the fibres across the strip of every wrap."""
    for wrap, _ in wraps(state):
        yield np.asarray(fibres_across(wrap.tex, wrap.fibre.density, wrap.fibre.mid_micron))


def _least(figures: list[FloatArray], sizes: int = SIZES.size) -> FloatArray:
    """Return the least of several figures at each size; without any there is no limit."""
    return np.min(np.stack([np.full(sizes, np.inf), *(np.broadcast_to(each, sizes) for each in figures)]), axis=0)


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


Obstacle = Literal["few-fibres", "too-thin", "staple", "jammed", "no-balance", "out-of-reach", "grams"]


@dataclass(frozen=True)
class Hindrance:
    """What stands in the way of a wish, with the figure that it came out at and the one it would need."""

    obstacle: Obstacle
    value: float = np.nan
    limit: float = np.nan


@dataclass(frozen=True)
class Fit:
    """The settings that meet a wish, or come nearest to it."""

    knobs: Knobs
    hindrances: tuple[Hindrance, ...]
    """Empty where the wish is met."""
    made: Made | None
    """The structure at these settings; None where nothing can be spun at all."""
    varied: Thickness | None = None
    """How thick uneven spinning makes it."""
    shape: Shape | None = None
    """Of a cut across it."""


def fit(node: Node, finish: Finish, wish: Wish, constants: Constants, memory: Memory | None = None) -> Fit:
    """Return the settings at which a structure meets a wish, else what stands in the way and the nearest that can be.

    Where the twist asked for leaves no room, as much of it is eased as must be; else the size gives way.
    """
    hindrances: list[Hindrance] = []
    rod = constants.rod_for(node)
    for easing in EASING:
        knobs = replace(wish.knobs, twist=wish.knobs.twist * easing)
        try:
            run = _remembered_course(node, finish, knobs, rod, memory)
        except NoBalanceError:
            hindrances = hindrances or [Hindrance("no-balance")]
            continue
        about = float(run.size_for(wish.measure, wish.value))
        uneven = _uneven(node, run, finish, knobs, constants, memory)
        off = _median_over_nominal(uneven(about), wish)
        aimed = wish.value / off
        size = float(run.size_for(wish.measure, aimed))
        full = float(run.value_at(run.fullness, size))
        if full < 1:
            finest, thickest = run.rising(wish.measure)[1][[0, -1]]
            if not finest <= aimed <= thickest:
                hindrances.append(Hindrance("out-of-reach", wish.value, float(np.clip(wish.value, finest, thickest))))
            knobs = replace(knobs, size=size)
            reached = _within(node, run, knobs, aimed, wish, hindrances, finish, rod, uneven)
            if reached:
                return reached
        hindrances = hindrances or [Hindrance("jammed", max(full, 1.0), 1.0)]
    return Fit(wish.knobs, tuple(hindrances), None)


def _within(
    node: Node,
    run: Course,
    knobs: Knobs,
    aimed: float,
    wish: Wish,
    before: list[Hindrance],
    finish: Finish,
    rod: Rod,
    uneven: Callable[[float], Thickness],
) -> Fit | None:
    """Return a fit with its size brought within what can be spun, and its median to the wish where that is met.

    ``aimed`` is what even spinning is to give, for the median of uneven spinning to be what is wished; ``uneven`` says
    how thick that makes it.
    None where no size does: about there the strands change over to lying full of turns, and sizes are left out.
    """
    found = list(before)
    across, bobbin, staple = (float(run.value_at(each, knobs.size)) for each in (run.across, run.bobbin, run.staple))
    if across < FEWEST_FIBRES:
        found.append(Hindrance("few-fibres", across, FEWEST_FIBRES))
    if bobbin < wish.thinnest:
        found.append(Hindrance("too-thin", bobbin, wish.thinnest))
    if staple < FEWEST_TURNS_PER_STAPLE:
        found.append(Hindrance("staple", staple, FEWEST_TURNS_PER_STAPLE))
    size = run.nearest(wish.thinnest, float(knobs.size), wish.measure)
    if not np.isfinite(size):
        return Fit(knobs, tuple(found), None)
    knobs = replace(knobs, size=size)
    measured = not found and wish.measure.endswith("diameter")
    for _ in range(TRIES):
        made = turned(node, run.near, knobs, rod, run.known_at(float(knobs.size)))
        relative = uneven(float(knobs.size))
        plied = float(made.state.diameter)
        finished = plied * float(growth(made.state, finish))
        varied = relative.times(plied, finished)
        off = _median(varied, wish.measure) / wish.value if measured else 1.0
        if abs(off - 1) < MEDIAN_TO:
            return Fit(knobs, tuple(found), made, varied, run.shape_at(float(knobs.size)))
        aimed /= off
        knobs = replace(knobs, size=float(run.size_for(wish.measure, aimed)))
    return None


def _remembered_course(node: Node, finish: Finish, knobs: Knobs, rod: Rod, memory: Memory | None) -> Course:
    return recalled(memory, (course, node, finish, knobs, rod), lambda: course(node, finish, knobs, rod, memory))


def _uneven(
    node: Node, run: Course, finish: Finish, knobs: Knobs, constants: Constants, memory: Memory | None
) -> Callable[[float], Thickness]:
    """Return how thick uneven spinning makes a structure of any size, over how thick even spinning does.

    That hardly varies: it is worked out on a coarse grid of settings and taken between two sizes in proportion.
    """
    twist, lay = (GRID ** round(math.log(each, GRID)) for each in (knobs.twist, knobs.lay))

    @cache
    def at(step: int) -> Thickness:
        size = min(max(SIZE_GRID**step, float(run.size[0])), float(run.size[-1]))
        coarse = Knobs(size, twist, lay)

        def work() -> Thickness:
            made = turned(node, run.near, coarse, constants.rod_for(node), run.like(size))
            plied = float(made.state.diameter)
            finished = plied * float(growth(made.state, finish))
            return thickness(made, finish, constants).times(1 / plied, 1 / finished)

        return recalled(memory, (_uneven, node, finish, coarse, constants), work)

    def of(size: float) -> Thickness:
        place = math.log(size, SIZE_GRID)
        low = math.floor(place)
        return at(low).towards(at(low + 1), place - low)

    return of


def _median_over_nominal(relative: Thickness, wish: Wish) -> float:
    """Return by how much the median of uneven spinning differs from even spinning."""
    return _median(relative, wish.measure) if wish.measure.endswith("diameter") else 1.0


def _median(varied: Thickness, measure: Measure) -> float:
    return (varied.plied if measure == "diameter" else varied.finished).p50


Handle = Literal["size", "twist", "angle", "ratio"]
"""What can be held or moved: finished diameter, twist factor of the singles, lean of the top ply, ratio to balance."""


class NoSuchYarnError(ValueError):
    """No setting of the knobs gives the readings asked for."""

    def __init__(self, full: bool) -> None:
        self.full = full
        """Whether the strands ran full of turns on the way."""
        super().__init__("full of turns" if full else "out of reach")


def handles(near: Made, rod: Rod, memory: Memory | None = None) -> tuple[Handle, ...]:
    """Return the readings of a made structure that can be held or moved; a ratio only where a ply has one.

    Of coils neither: how far they lean is fixed by the overfeed. A core's own twist is not moved.
    """
    match near.node:
        case CoreSpun():
            return ("size", "angle")
        case Single() | Bought() | Wrapped():
            return ("size", "twist")
        case Ply() | Chain():
            rests = isinstance(near, MadeNest) and np.isfinite(
                ratio_of(turns_of(near.node), rest_of(near.node, rod, near.members, memory))
            )
            return ("size", "twist", "angle", "ratio") if rests else ("size", "twist", "angle")


def hold(
    node: Node, near: Made, wanted: Mapping[Handle, float], finish: Finish, rod: Rod, memory: Memory | None = None
) -> Knobs:
    """Return the knobs at which readings stand in given proportions to those of the structure itself.

    Newton on the logarithms of the knobs; each step evaluates the structure once, at all its neighbours together.

    Args:
        node: the structure, of scalar values.
        near: the same made.
        wanted: factor on each reading, 1 to hold it; of the angle on its tangent. As many as there are knobs that
            matter: two for a single, coils or a core, else three.
        finish: washing and drying.
        rod: constants of the energy model.

    Raises:
        NoSuchYarnError: where nothing meets them.
    """
    goal = np.log([wanted[each] for each in wanted])
    free = np.eye(3)[: len(wanted)]
    balanced = 0.0
    if "ratio" in wanted and isinstance(near, MadeNest):
        balanced = balanced_turns(near.node, rod, near.members, memory)
    place = np.zeros(3)
    start: FloatArray | None = None
    for _ in range(HOLD_STEPS):
        trial = place + np.vstack([np.zeros(3), NUDGE * free])
        read, full = _readings(node, near, trial, tuple(wanted), balanced, finish, rod)
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
    node: Node, near: Made, logs: FloatArray, wanted: tuple[Handle, ...], balanced: float, finish: Finish, rod: Rod
) -> tuple[FloatArray, float]:
    """Return the logarithms of readings at each row of logarithms of knobs, and the fullness at the first."""
    size, twist, lay = np.exp(logs.T)
    made = turned(node, near, Knobs(size, twist, lay), rod)
    found: dict[Handle, FloatArray] = {"size": made.state.diameter * growth(made.state, finish), "twist": twist}
    if isinstance(made, MadeNest) and isinstance(near, MadeNest):
        found["angle"] = np.tan(np.abs(made.state.angle))
        if "ratio" in wanted:
            start = balanced * twist / np.sqrt(size)
            rest = balanced_near(made.node, made.members, start, rod, FAR_STEPS, near=near.state)
            found["ratio"] = turns_of(made.node) / rest
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.log(np.stack([found[each] for each in wanted], axis=1)), float(np.ravel(fullness(made.state))[0])


SOFTEST, FIRMEST = 0.8, 1.4
"""How far a feel reaches, below the lowest and above the highest twist factor that is usual for a fibre (assumed)."""


def factor_for(firm: Floats, usual: Range) -> Floats:
    """Return the twist factor of a single by how firm the yarn is to be: 0 the softest, 1 the firmest."""
    low, high = SOFTEST * usual[0], FIRMEST * usual[1]
    return low * (high / low) ** firm


def firmness(factor: Floats, usual: Range) -> Floats:
    """Return how firm a twist factor makes a yarn; the inverse of :func:`factor_for`."""
    low, high = SOFTEST * usual[0], FIRMEST * usual[1]
    return np.log(factor / low) / np.log(high / low)
