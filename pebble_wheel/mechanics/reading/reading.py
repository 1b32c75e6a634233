"""The whole reading of a design: every figure the application shows, from one evaluation."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.counts import grist_yd_per_lb
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import VARIANTS, Band, band, wraps_band
from pebble_wheel.mechanics.reading.spread import Cause
from pebble_wheel.mechanics.reading.uneven import Sample, Variants, sample, vary
from pebble_wheel.mechanics.rest import balance
from pebble_wheel.mechanics.strand import single as strand_measures
from pebble_wheel.mechanics.strand.layout import EVEN
from pebble_wheel.mechanics.strand.settling import make_nest
from pebble_wheel.mechanics.strand.single import least_turns
from pebble_wheel.mechanics.strand.state import LeafState, Made, MadeNest, NestState, State, bobbin_length, mass, nests
from pebble_wheel.mechanics.strand.structure import (
    Chain,
    Node,
    OfBalanced,
    Ply,
    Rod,
    Single,
    loop_of,
    member_path,
    turns_of,
    wrap_of,
)
from pebble_wheel.mechanics.wash.bloom import Finish, shrinkage

SEAT_MARK = "~"

SEATED_ALIKE = 0.002
"""Of consumption and, in radians, of lean: seats that differ less are one line."""

NEARLY = 0.9
"""Of jamming, which no variant reaches where no probe comes to this."""

MOST_MATTERS = 3
LEAST_CORRELATION = 0.15
"""Weaker ones are lost in the unevenness."""


class JammedError(ValueError):
    """The strands of a level have no room for the twist asked for."""

    def __init__(self, path: str, most_turns_per_m: float) -> None:
        self.path = path
        self.most_turns_per_m = most_turns_per_m
        """NaN where the twist of the levels above jams them."""
        super().__init__(f"{path}: {most_turns_per_m:.0f} turns/m")


@dataclass(frozen=True)
class Level:
    """One member of the structure, at its median values, for one of its strands that lie alike."""

    path: str
    """Ending in a mark and a number where strands that are alike lie on unlike seats, from the second seat on."""
    node: Node
    made: State
    """As it came off its own step."""
    now: State
    """In the finished whole."""
    at_balance: State | None
    """Were the whole laid with its balanced twist; None where it has none, or is a bare single."""
    turns_per_m_as_made: float
    """Signed."""
    turns_per_m_now: float
    """Signed."""
    angle: float
    """Radians, signed: helix angle of the outermost strands, or of the surface fibres of a single."""
    take_up: float
    """Share of the bobbin length of its singles lost so far; negative where plying gave length back."""
    diameter: float
    """Apparent, mm."""
    lies: float
    """Angle at which it lies in what it is part of, radians, signed; 0 where it runs straight."""
    strands: int
    """How many such strands the yarn has, each spun or plied for itself; the legs of a chain are one."""
    metres_per_metre: float
    """Metres of one such strand in a metre of yarn."""
    grams_per_100_m: float
    """Grams of one such strand in 100 m of yarn."""
    held_by: float
    """The fewest turns/m that hold its fibres on the way into the whole; in a core those of its plies count."""

    @property
    def place(self) -> str:
        """Its path in the structure, the same for all seats."""
        return re.sub(rf"{SEAT_MARK}\d+", "", self.path)


@dataclass(frozen=True)
class Balance:
    """Torque: what was chosen against what would rest."""

    chosen: float
    """turns/m, without sign."""
    balanced: float
    """turns/m in the chosen direction; negative where balance lies the other way, zero where the strands hang quiet by
    themselves, NaN where nothing brings them to rest."""
    balanced_band: Band
    ratio: float
    """NaN where balance is zero or lies the other way."""
    ratio_band: Band
    verdict: balance.Verdict
    fold_turns_per_m: float
    """Signed twist of the yarn folded on itself."""
    loop_turns: float
    """Turns of 30 cm folded into two legs, Z positive."""


@dataclass(frozen=True)
class Matter:
    """How much one cause has to do with an outcome."""

    cause: Cause
    correlation: float
    """Spearman's, −1 to 1."""


@dataclass(frozen=True)
class School:
    """A rule of thumb for the ply twist, beside the energy answer."""

    name: str
    turns_per_m: float
    """Signed."""


@dataclass(frozen=True)
class SingleReading:
    """The spinner's own measures of the single, as spun on the bobbin."""

    diameter: float
    angle: float
    retraction: float
    twist_factor: float
    usual_factor: tuple[float, float]
    turns_per_staple: float
    turns_per_staple_now: float
    """The fewest on the way into the whole: none where its twist was taken out altogether, even if other twist was then
    put in, unless it is plied in a core whose plies hold it."""
    fibres_across: float
    ply_back_turns_per_m: float
    """Of the fresh single folded on itself, signed."""
    packing: float


@dataclass(frozen=True)
class Reading:
    """Everything one evaluation says about a yarn."""

    node: Node
    """With every multiple of balance worked out."""
    finish: Finish
    constants: Constants
    """By which it was read."""
    made: Made
    """Every step as made, and the settled whole."""
    resultant_tex: float
    finished_tex: float
    grist_yd_per_lb: float
    jamming: float
    jammed_share: float
    """Share of the variants in which some level jams."""
    diameter_as_plied: Band
    diameter_finished: Band
    wpi_as_plied: Band
    wpi_finished: Band
    angle_band: Band
    """Helix angle of the top level, radians."""
    balance: Balance
    matters: dict[str, tuple[Matter, ...]]
    """What matters most for "balance", "thickness" and "angle", the strongest first."""
    schools: tuple[School, ...]
    levels: tuple[Level, ...]
    """The yarn first, then each member before what follows it."""
    singles: dict[str, SingleReading]
    """By path."""


def read(
    node: Node, finish: Finish, constants: Constants, variants: int = VARIANTS, memory: Memory | None = None
) -> Reading:
    """Return the reading of a structure of scalar values.

    Args:
        node: the structure; multiples of balance are worked out first.
        finish: washing and drying.
        constants: of the rod and of the spreads.
        variants: how many quasi-random variants make the bands, a power of two.
        memory: of balances worked out lately.

    Raises:
        JammedError: where a level has no room for its twist.
        ValueError: where a multiple of balance has no answer.
    """
    rod = constants.rod_for(node)
    made = balance.resolve_made(node, rod, memory=memory)
    whole = made.node
    _refuse_jammed(made, made.state, "yarn")
    rest = _balanced_turns(node, made, rod, memory)
    levels = tuple(levels_of(made, _laid_at(made, rest)))
    uneven = vary(made, finish, constants, variants, rest)
    tex = float(mass(made.state) / made.state.length)
    balanced, ratios = _balance(made, rod, uneven, rest, memory)
    plied, finished = band(uneven.plied.values), band(uneven.finished.values)
    singles = _singles(levels, rod, memory)
    return Reading(
        node=whole,
        finish=finish,
        constants=constants,
        made=made,
        resultant_tex=tex,
        finished_tex=tex / (1 - float(shrinkage(made.state, finish))),
        grist_yd_per_lb=float(grist_yd_per_lb(tex)),
        jamming=float(fullness(made.state)),
        jammed_share=_jammed_share(uneven),
        diameter_as_plied=plied,
        diameter_finished=finished,
        wpi_as_plied=wraps_band(plied),
        wpi_finished=wraps_band(finished),
        angle_band=band(uneven.angle.values),
        balance=balanced,
        matters={
            "balance": _matters(uneven.causes, ratios),
            "thickness": _matters(uneven.causes, uneven.finished),
            "angle": _matters(uneven.causes, uneven.angle),
        },
        schools=_schools(made, rod, singles, memory),
        levels=levels,
        singles=singles,
    )


def _laid_at(made: Made, turns_per_m: float) -> State | None:
    """Return the settled state of the whole laid with another twist of its own; None for a bare single or no twist."""
    if not isinstance(made, MadeNest) or not np.isfinite(turns_per_m):
        return None
    if turns_per_m == turns_of(made.node):
        return made.state
    return make_nest(made.node, made.members, turns_per_m, made.state).state


def levels_of(made: Made, rest: State | None) -> Iterator[Level]:
    """Yield the levels of a made structure, the whole first; ``rest`` is it laid with its balanced twist."""
    whole = _Place("yarn", 0.0, 1, 1.0, 1 / float(made.state.length))
    yield from _levels(made, made.state, rest, whole, None)


@dataclass(frozen=True)
class _Place:
    """Where a level stands in the whole."""

    path: str
    lies: float
    strands: int
    metres: float
    pieces: float
    """Of one such strand in a metre of yarn."""


_Twists = tuple[tuple[float, float], ...]
"""As made and now, of levels within a core."""


def _levels(made: Made, now: State, rest: State | None, at: _Place, core: _Twists | None) -> Iterator[Level]:
    """Yield a level and those within; ``core`` is what it is plied into within a core, None where it is in none."""
    own = (float(turns_of(made.node)), float(now.twist_now))
    within = None if core is None else (*core, own)
    before, after = zip(*(within or (own,)), strict=True)
    yield Level(
        path=at.path,
        node=made.node,
        made=made.state,
        now=now,
        at_balance=rest,
        turns_per_m_as_made=own[0],
        turns_per_m_now=own[1],
        angle=float(now.angle),
        take_up=float(1 - now.length / bobbin_length(now)),
        diameter=float(now.diameter),
        lies=at.lies,
        strands=at.strands,
        metres_per_metre=at.metres,
        grams_per_100_m=at.pieces * float(mass(now)) / 10,
        held_by=float(least_turns(before, after)),
    )
    if not isinstance(made, MadeNest) or not isinstance(now, NestState):
        return
    if wrap_of(made.node):
        within = ()
    for index, member in enumerate(made.members):
        for number, places in enumerate(_seated_alike(now, index)):
            seats = [now.seats[place] for place in places]
            count = sum(each.count for each in seats)
            used = sum(each.count * float(each.feed * each.consumption) for each in seats) / count
            if loop_of(made.node) is not None:
                used, count = used * count, 1  # all legs are of one strand
            inner = seats[0].state
            mark = f"{SEAT_MARK}{number + 1}" if number else ""
            place = _Place(
                f"{at.path}.{member_path(made.node, index)}{mark}",
                float(seats[0].angle),
                at.strands * count,
                at.metres * used * float(inner.length) / float(now.length),
                at.pieces * used,
            )
            yield from _levels(
                member, inner, rest.seats[places[0]].state if isinstance(rest, NestState) else None, place, within
            )


def _seated_alike(state: NestState, member: int) -> list[list[int]]:
    """Return the seats of a member in groups that lie so much alike that no one could tell."""

    def lie(place: int) -> tuple[int, int]:
        each = state.seats[place]
        used = float(each.feed * each.consumption * each.state.length / state.length)
        return round(used / SEATED_ALIKE), round(float(each.angle) / SEATED_ALIKE)

    own = [place for place, each in enumerate(state.seats) if each.member == member]
    return [list(group) for _, group in groupby(own, lie)]


def fullness(state: State) -> FloatArray:
    """Return the jamming of the fullest level; 0 for a bare single."""
    levels = [level.jamming for level in nests(state)]
    return np.max(np.stack(np.broadcast_arrays(*levels)), axis=0) if levels else np.asarray(0.0)


def _jammed_share(uneven: Variants) -> float:
    """Return the share of the variants in which some level jams: none where no probe comes near it."""
    full = fullness(uneven.made.state)
    return float(np.mean(uneven.of(full).values >= 1)) if np.max(full) > NEARLY else 0.0


def _refuse_jammed(made: Made, now: State, path: str) -> None:
    """Refuse the innermost level that jams, on its own step or inside the finished whole."""
    if not isinstance(made, MadeNest) or not isinstance(now, NestState):
        return
    for index, member in enumerate(made.members):
        for seated in now.seats:
            if seated.member == index:
                _refuse_jammed(member, seated.state, f"{path}.{member_path(made.node, index)}")
    if made.state.jamming >= 1:
        raise JammedError(path, _most_turns(made))
    if now.jamming >= 1:
        raise JammedError(path, np.nan)


def _most_turns(made: MadeNest) -> float:
    """Return the twist at which a ply jams on its own step, to 1 % of the twist asked for."""
    turns = np.linspace(0, float(turns_of(made.node)), 101)
    return abs(float(turns[np.argmax(make_nest(made.node, made.members, turns).state.jamming >= 1)]))


def _balanced_turns(given: Node, made: Made, rod: Rod, memory: Memory | None) -> float:
    """Return the balanced twist of the whole [turns/m, signed], which a multiple of balance has asked for already."""
    if not isinstance(made, MadeNest):
        return 0.0
    if isinstance(given.twist, OfBalanced):
        return float(turns_of(made.node)) / given.twist.multiple
    return balance.balanced_turns(made.node, rod, made.members, memory)


def _balance(made: Made, rod: Rod, uneven: Variants, balanced: float, memory: Memory | None) -> tuple[Balance, Sample]:
    """Return the balance, and its ratio in many variants: NaN of those that have none."""
    chosen = float(turns_of(made.node))
    sense = 1.0 if chosen >= 0 else -1.0
    fold_turns = balance.fold_turns(made.node, rod, made, memory)
    loop = float(balance.loop_turns(fold_turns))
    about, offered = Band(0.0, 0.0, 0.0), 0.0
    ratios = replace(uneven.angle, values=np.full(uneven.angle.values.shape, np.nan))
    if isinstance(made, MadeNest) and uneven.rests:
        scale = float(balance.twist_scale(made.node, made.members))
        offered = float(balance.offered(balanced, scale))
        about = band(sense * sample(uneven.rests.balanced, uneven.draws).values)
        if chosen and offered:
            ratios = uneven.rests.ratio(sense, balance.NOISE * scale, uneven.draws)
    ratio = float(balance.ratio_of(chosen, offered))
    reading = Balance(
        chosen=abs(chosen),
        balanced=sense * offered + 0.0,  # never a negative nothing
        balanced_band=about,
        ratio=ratio,
        ratio_band=band(ratios.values),
        verdict=balance.verdict(ratio, chosen, loop),
        fold_turns_per_m=fold_turns,
        loop_turns=loop,
    )
    return reading, ratios


def _matters(causes: tuple[Cause, ...], outcome: Sample) -> tuple[Matter, ...]:
    """Return the causes that show in an outcome, the strongest first."""
    found = outcome.correlations()
    matters = [Matter(cause, float(own)) for cause, own in zip(causes, found, strict=True)]
    strongest = sorted(matters, key=lambda each: -abs(each.correlation))
    return tuple(each for each in strongest[:MOST_MATTERS] if abs(each.correlation) >= LEAST_CORRELATION)


def _schools(made: Made, rod: Rod, singles: dict[str, SingleReading], memory: Memory | None) -> tuple[School, ...]:
    """Return the rules of thumb, which know plies of strands that are alike and held alike."""
    if not isinstance(made, MadeNest) or not isinstance(made.node, Ply | Chain) or len(made.members) > 1:
        return ()
    if made.layout.tension_share != EVEN:
        return ()
    strand = made.members[0]
    turns = float(turns_of(strand.node))
    known = singles.get(f"yarn.{member_path(made.node, 0)}")
    ply_back = known.ply_back_turns_per_m if known else balance.fold_turns(strand.node, rod, strand, memory)
    count = sum(member.count for member in made.node.members)
    return (
        School("two thirds", float(balance.two_thirds_rule(turns))),
        School("equal angles", float(balance.equal_angle_rule(turns, count))),
        School("ply-back", ply_back),
    )


def _singles(levels: tuple[Level, ...], rod: Rod, memory: Memory | None) -> dict[str, SingleReading]:
    """Return the spinner's own measures of every level that was spun, by path."""
    spun = [(level, level.node) for level in levels if isinstance(level.node, Single)]
    folded = balance.ply_backs([node for _, node in spun], rod, memory)
    return {level.path: _single(level, node, back) for (level, node), back in zip(spun, folded, strict=True)}


def _single(level: Level, node: Single, ply_back: float) -> SingleReading:
    state = level.made
    assert isinstance(state, LeafState)
    fibre, turns, tex = node.fibre, float(turns_of(node)), float(np.asarray(node.tex))
    held = float(strand_measures.turns_per_staple(turns, fibre.mid_staple))
    return SingleReading(
        diameter=float(state.diameter),
        angle=float(state.angle),
        retraction=float(strand_measures.retraction(state.angle)),
        twist_factor=float(strand_measures.twist_factor(turns, tex)),
        usual_factor=node.usual_factor,
        turns_per_staple=held,
        turns_per_staple_now=float(strand_measures.turns_per_staple(level.held_by, fibre.mid_staple)),
        fibres_across=float(strand_measures.fibres_across(tex, fibre.density, fibre.mid_micron)),
        ply_back_turns_per_m=ply_back,
        packing=float(state.packing),
    )
