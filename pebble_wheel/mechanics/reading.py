"""The whole reading of a design: every figure the application shows, from one evaluation."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics import balance
from pebble_wheel.mechanics import single as strand_measures
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.counts import grist_yd_per_lb, wraps_per_inch
from pebble_wheel.mechanics.finishing import Finish, relaxation, strand_bloom
from pebble_wheel.mechanics.spread import DRAWS, Band, band, spread
from pebble_wheel.mechanics.state import Made, MadePly, PlyState, State, make, make_ply, settle
from pebble_wheel.mechanics.structure import Node, OfBalanced, Ply, Rod, chain_of, ends, turns_of


class JammedError(ValueError):
    """The strands of a level have no room for the twist asked for."""

    def __init__(self, path: str, most_turns_per_m: float) -> None:
        self.path, self.most_turns_per_m = path, most_turns_per_m
        if np.isfinite(most_turns_per_m):
            most = f"no more turns fit: these strands jam at about {most_turns_per_m:.0f} turns/m"
        else:
            most = "no more turns fit: the twist of the levels above jams these strands"
        self.reason = (
            f"{most}, where a further turn takes up more length than there is. Use less twist, or thinner strands"
        )
        super().__init__(f"{path}.twist: {self.reason}")


@dataclass(frozen=True)
class Level:
    """One level of the structure, at its median values, for one of its identical strands."""

    path: str
    node: Node
    turns_per_m_as_made: float
    """Signed."""
    turns_per_m_now: float
    """Signed."""
    angle: float
    """Radians, signed: helix angle of the strands, or of the surface fibres of a single."""
    take_up: float
    """Share of the bobbin length of its singles lost so far; negative where plying gave length back."""
    diameter: float
    """Apparent, mm."""
    metres_per_metre: float
    """Metres of one such strand in a metre of yarn."""
    grams_per_100_m: float
    """Grams of one such strand in 100 m of yarn."""


@dataclass(frozen=True)
class Balance:
    """Torque: what was chosen against what would rest."""

    chosen: float
    """turns/m, without sign."""
    balanced: float
    """turns/m in the chosen direction; negative where balance lies the other way."""
    balanced_band: Band
    ratio: float
    """NaN where balance is zero or lies the other way."""
    ratio_band: Band
    verdict: balance.Verdict
    fold_turns_per_m: float
    """Signed twist of the yarn folded on itself."""
    fold_angle: float
    """Helix angle of that fold, radians, signed."""
    fold_diameter: float
    """Apparent, mm."""
    loop_turns: float
    """Turns of 30 cm folded into two legs, Z positive."""


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
    state: State
    resultant_tex: float
    finished_tex: float
    grist_yd_per_lb: float
    jamming: float
    jammed_share: float
    """Share of the draws in which some level jams."""
    diameter_as_plied: Band
    diameter_finished: Band
    wpi_as_plied: Band
    wpi_finished: Band
    angle_band: Band
    """Helix angle of the top level, radians."""
    take_up_band: Band
    balance: Balance
    schools: tuple[School, ...]
    levels: tuple[Level, ...]
    single: SingleReading


def read(node: Node, finish: Finish, rod: Rod | None = None, draws: int = DRAWS) -> Reading:
    """Return the reading of a structure of scalar values.

    Args:
        node: the structure; multiples of balance are worked out first.
        finish: washing and drying.
        rod: constants of the energy model.
        draws: how many quasi-random variants make the bands.

    Raises:
        JammedError: where a level has no room for its twist.
        ValueError: where a multiple of balance has no answer.
    """
    rod = rod or Rod()
    whole = balance.resolve(node, rod)
    made = make(whole)
    _refuse_jammed(made)
    drawn = spread(whole, rod, draws)
    drawn_made = make(drawn.node)
    plied = np.broadcast_to(drawn_made.state.diameter, (draws,))
    bloomed = plied * (1 + (_bloom(drawn_made.state, finish) - 1) * drawn.bloom)
    tex = _tex(whole) / float(made.state.length)
    inner = made.state.single
    single = _single(made, rod)
    shrunk = relaxation(inner.node.fibre.bloom, inner.packing, finish)
    return Reading(
        node=whole,
        finish=finish,
        state=made.state,
        resultant_tex=tex,
        finished_tex=tex / (1 - float(shrunk)),
        grist_yd_per_lb=float(grist_yd_per_lb(tex)),
        jamming=float(_fill(made.state)),
        jammed_share=float(np.mean(_fill(drawn_made.state) >= 1)),
        diameter_as_plied=band(plied),
        diameter_finished=band(bloomed),
        wpi_as_plied=band(wraps_per_inch(plied)),
        wpi_finished=band(wraps_per_inch(bloomed)),
        angle_band=band(np.abs(drawn_made.state.angle)),
        take_up_band=band(1 - drawn_made.state.length),
        balance=_balance(made, rod, drawn_made, drawn.rod, _balanced_turns(node, made, rod)),
        schools=_schools(made, rod, single),
        levels=_levels(made),
        single=single,
    )


def path_of(depth: int) -> str:
    """Return the path of the strand so many levels below the yarn."""
    return "yarn" + ".strands[0]" * depth


def _tex(node: Node) -> float:
    single = list(chain_of(node))[-1]
    assert not isinstance(single, Ply)
    return ends(node) * float(np.asarray(single.tex))


def _states(state: State) -> list[State]:
    return [state, *_states(state.strand)] if isinstance(state, PlyState) else [state]


def _mades(made: Made) -> list[Made]:
    return [made, *_mades(made.strand)] if isinstance(made, MadePly) else [made]


def _fill(state: State) -> FloatArray:
    """Jamming of the fullest level; 0 for a bare single."""
    plies = [level.jamming for level in _states(state) if isinstance(level, PlyState)]
    return np.max(np.stack(np.broadcast_arrays(*plies)), axis=0) if plies else np.asarray(0.0)


def _refuse_jammed(made: Made) -> None:
    """Refuse the innermost level that jams, on its own step or inside the finished whole."""
    levels = list(zip(_mades(made), _states(made.state), strict=True))
    for depth, (own, final) in reversed(list(enumerate(levels))):
        if isinstance(own, MadePly) and own.state.jamming >= 1:
            raise JammedError(path_of(depth), _most_turns(own))
        if isinstance(final, PlyState) and final.jamming >= 1:
            raise JammedError(path_of(depth), np.nan)


def _most_turns(made: MadePly) -> float:
    """Return the twist at which a ply jams on its own step, to 1 % of the twist asked for."""
    turns = np.linspace(0, float(turns_of(made.node)), 101)
    return abs(float(turns[np.argmax(settle(made.node, made.strand, turns).jamming >= 1)]))


def _bloom(state: State, finish: Finish) -> FloatArray:
    single = state.single
    node = single.node
    return np.asarray(strand_bloom(node.fibre.bloom, single.packing, node.character, finish))


def _levels(made: Made) -> tuple[Level, ...]:
    whole = made.state
    levels = []
    for depth, (own, now) in enumerate(zip(_mades(made), _states(whole), strict=True)):
        levels.append(
            Level(
                path=path_of(depth),
                node=own.node,
                turns_per_m_as_made=float(turns_of(own.node)),
                turns_per_m_now=float(now.twist_now),
                angle=float(now.angle),
                take_up=1 - float(now.length),
                diameter=float(now.diameter),
                metres_per_metre=float(now.length / whole.length),
                grams_per_100_m=_tex(own.node) / float(whole.length) / 10,
            )
        )
    return tuple(levels)


def _balanced_turns(asked: Node, made: Made, rod: Rod) -> float:
    """Return the balanced twist of the whole, which a multiple of balance has asked for already."""
    if not isinstance(made, MadePly):
        return 0.0
    if isinstance(asked.twist, OfBalanced):
        return float(turns_of(made.node)) / asked.twist.multiple
    return balance.balanced_turns(made.node, rod, made.strand)


def _balance(made: Made, rod: Rod, drawn: Made, drawn_rod: Rod, balanced: float) -> Balance:
    chosen = float(turns_of(made.node))
    sense = 1.0 if chosen >= 0 else -1.0
    folded = balance.fold(made.node)
    fold_turns = balance.balanced_turns(folded, rod, made)
    fold_made = make_ply(folded, made, fold_turns)
    loop = float(balance.loop_turns(fold_turns))
    balanced_draws = np.zeros(1)
    if isinstance(made, MadePly) and isinstance(drawn, MadePly):
        balanced_draws = balance.balanced_draws(drawn, drawn_rod, made, balanced)
    ratio = float(balance.ratio_of(chosen, balanced))
    return Balance(
        chosen=abs(chosen),
        balanced=sense * balanced,
        balanced_band=band(sense * balanced_draws),
        ratio=ratio,
        ratio_band=band(balance.ratio_of(turns_of(drawn.node), balanced_draws)),
        verdict=balance.verdict(ratio, chosen, loop),
        fold_turns_per_m=fold_turns,
        fold_angle=float(fold_made.state.angle),
        fold_diameter=float(fold_made.state.diameter),
        loop_turns=loop,
    )


def _schools(made: Made, rod: Rod, single: SingleReading) -> tuple[School, ...]:
    if not isinstance(made, MadePly):
        return ()
    strand = float(turns_of(made.strand.node))
    ply_back = single.ply_back_turns_per_m
    if isinstance(made.strand, MadePly):
        ply_back = balance.balanced_turns(balance.fold(made.strand.node), rod, made.strand)
    return (
        School("two thirds", float(balance.two_thirds_rule(strand))),
        School("equal angles", float(balance.equal_angle_rule(strand, made.node.strands))),
        School("ply-back", ply_back),
    )


def _single(made: Made, rod: Rod) -> SingleReading:
    own = _mades(made)[-1]
    state = own.state.single
    node, fibre = state.node, state.node.fibre
    turns, tex = float(turns_of(node)), float(np.asarray(node.tex))
    return SingleReading(
        diameter=float(state.diameter),
        angle=float(state.angle),
        retraction=float(strand_measures.retraction(state.angle)),
        twist_factor=float(strand_measures.twist_factor(turns, tex)),
        usual_factor=node.usual_factor,
        turns_per_staple=float(strand_measures.turns_per_staple(turns, fibre.mid_staple)),
        fibres_across=float(strand_measures.fibres_across(tex, fibre.density, fibre.mid_micron)),
        ply_back_turns_per_m=balance.balanced_turns(balance.fold(node), rod, own),
        packing=float(state.packing),
    )
