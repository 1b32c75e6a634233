"""What a teacher would stop at in a reading: each finding with the figures that it is said by.

Thresholds are common practice unless a source is named.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.reading.reading import Level, Reading, SingleReading
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.layout import EVEN
from pebble_wheel.mechanics.strand.rings import MAX_RING
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.mechanics.strand.structure import (
    CHAIN_LEGS,
    Bought,
    Chain,
    CoreSpun,
    Leaf,
    Nature,
    Ply,
    Single,
    Wrapped,
    turns_of,
)

FEWEST_FIBRES, EVEN_FIBRES = 20, 40
FEWEST_TURNS_PER_STAPLE = 4
NEARLY_JAMMED = 0.9
OFTEN_JAMMED = 0.1
UNLIKE = 1.5
WEAK_SHARE = 0.6
LIVELY_ENOUGH = 0.05
MANY_OVERLAPS = 0.1
RUNS_PER_LINK = 2
"""Colours stay together while a run is well longer than the three legs of a link; here at least twice as long."""

SHALLOWEST_WRAP, STEEPEST_WRAP = 45, 85
"""Degrees from the axis, of the fibre at the surface: below the first it is plying, above the second the wheel turns
too fast. How often a strip covers the core only counts its layers."""

NEARLY_COVERED = 0.9
"""Of what is meant to be covered, below which a core is called bare (assumed)."""

CORE_CHANGED, LIVELY_LOOP = 0.25, 1.0
"""Change of a core's twist, and turns of a hung loop, from which on it is worth saying."""

SCANT, KINKS = 0.75, 1.5
"""Of the lowest and the highest usual twist factor: less is too soft, more kinks (assumed)."""

SPIRAL = 1.03
"""Most over least used up by strands that are alike, from which on a yarn is seen to spiral."""

Code = Literal[
    "too-few-fibres",
    "uneven-fibres",
    "staple-not-held",
    "little-twist",
    "much-twist",
    "nearly-jammed",
    "same-direction",
    "short-loops",
    "coils-packed",
    "loops-over-colours",
    "unlike-members",
    "hollow",
    "weak-single",
    "plies-not-lively",
    "accidental-spiral",
    "core-drifts",
    "shallow-wrap",
    "ratio-too-high",
    "bare-core",
    "slick-core",
    "loops-show",
    "locks-slip",
    "core-untwisted",
    "core-tightened",
    "never-balanced",
    "underplied",
    "energised",
]


@dataclass(frozen=True)
class Finding:
    """One thing worth saying of one level."""

    code: Code
    level: Level
    value: float = np.nan
    """What it is found by."""
    other: float = np.nan
    """What that is held against, or what would mend it."""
    crowded: bool = False
    """Of a wrap: whether something else asks for fewer turns already."""


def findings_of(reading: Reading, colour_runs: Mapping[str, float] | None = None) -> tuple[Finding, ...]:
    """Return what is worth saying of a reading, the most pressing first.

    Args:
        reading: of the yarn.
        colour_runs: length of one colour along each strand that has several, by the path of the strand, mm.
    """
    runs = colour_runs or {}
    found: list[Finding] = []
    for level in reading.levels:
        if level.path in reading.singles:
            found += _on_single(level, reading.singles[level.path])
    found += _on_jamming(reading)
    for level in reading.levels:
        if isinstance(level.now, NestState):
            found += [*_on_direction(level), *_on_members(level, level.now, reading), *_on_colours(level, runs)]
    return (*found, *_on_balance(reading))


def _on_single(level: Level, single: SingleReading) -> Iterator[Finding]:
    across, low, high = single.fibres_across, *single.usual_factor
    if across < FEWEST_FIBRES:
        yield Finding("too-few-fibres", level, across, FEWEST_FIBRES)
    elif across < EVEN_FIBRES:
        yield Finding("uneven-fibres", level, across, EVEN_FIBRES)
    if single.turns_per_staple < FEWEST_TURNS_PER_STAPLE:
        yield Finding("staple-not-held", level, single.turns_per_staple, FEWEST_TURNS_PER_STAPLE)
    elif single.twist_factor < SCANT * low:
        yield Finding("little-twist", level, single.twist_factor)
    if single.twist_factor > KINKS * high:
        yield Finding("much-twist", level, single.twist_factor)


def _on_jamming(reading: Reading) -> Iterator[Finding]:
    if reading.jamming > NEARLY_JAMMED or reading.jammed_share > OFTEN_JAMMED:
        yield Finding("nearly-jammed", reading.levels[0], reading.jamming, reading.jammed_share)


def _on_direction(level: Level) -> Iterator[Finding]:
    node = level.node
    if isinstance(node, Ply | Chain) and all(turns_of(node) * turns_of(m.node) > 0 for m in node.members):
        yield Finding("same-direction", level)


def _on_members(level: Level, state: NestState, reading: Reading) -> Iterator[Finding]:
    """What the kind of a strand and the likeness of its members call for."""
    match state.node:
        case Ply():
            yield from _on_ply(level, state.node, state, reading)
        case Chain():
            links = kinds.chain(state)
            if links.overlap_share > MANY_OVERLAPS:
                yield Finding("short-loops", level, links.links_per_m, links.overlap_share)
        case CoreSpun():
            yield from _on_core(level, state.node, state, reading)
        case Wrapped():
            coverage = kinds.wrapped(state).coverage
            if coverage > NEARLY_JAMMED:
                yield Finding("coils-packed", level, coverage)


def _on_colours(level: Level, runs: Mapping[str, float]) -> Iterator[Finding]:
    if not isinstance(level.node, Chain):
        return
    link = CHAIN_LEGS * float(np.asarray(level.node.loop))
    shortest = min((run for path, run in runs.items() if path.startswith(f"{level.path}.")), default=np.inf)
    if shortest < RUNS_PER_LINK * link:
        yield Finding("loops-over-colours", level, link, shortest)


def _on_ply(level: Level, node: Ply, state: NestState, reading: Reading) -> Iterator[Finding]:
    sizes = [float(each.state.diameter) for each in state.seats]
    if max(sizes) > UNLIKE * min(sizes):
        yield Finding("unlike-members", level, max(sizes), min(sizes))
    yield from _on_seats(level, node, state)
    if node.strands > MAX_RING:
        yield Finding("hollow", level, node.strands, MAX_RING)
    nested = [member.node for member in node.members if not isinstance(member.node, Leaf)]
    singles = [index for index, member in enumerate(node.members) if isinstance(member.node, Single)]
    if nested:
        for index in singles:
            path = f"{level.path}.strands[{index}]"
            weakest = min((each for each in reading.levels if each.place == path), key=_kept)
            if _kept(weakest) < WEAK_SHARE:
                yield Finding(
                    "weak-single", weakest, _kept(weakest), reading.singles[weakest.path].turns_per_staple_now
                )
    if len(nested) == len(node.members) and level.path == "yarn":
        own = max(abs(float(turns_of(each))) for each in nested)
        if abs(reading.balance.balanced) < LIVELY_ENOUGH * own:
            yield Finding("plies-not-lively", level, reading.balance.balanced, own)


def _kept(level: Level) -> float:
    """Return the share of its twist that a strand has left, below zero where it was turned over."""
    return level.turns_per_m_now / level.turns_per_m_as_made


def _on_seats(level: Level, node: Ply, state: NestState) -> Iterator[Finding]:
    """What like strands on unlike seats call for: held unevenly they spiral, and one bobbin ends first."""
    used = [float(each.feed * each.state.length / state.length) for each in state.seats]
    if node.tension_share != EVEN and max(used) >= SPIRAL * min(used):
        yield Finding("accidental-spiral", level, max(used), min(used))


def _on_core(level: Level, node: CoreSpun, state: NestState, reading: Reading) -> Iterator[Finding]:
    """What a wrap and its core call for; of what would ask for more turns and for fewer only one is said."""
    spun = kinds.core_spun(state)
    leans = abs(float(np.degrees(state.angle)))
    shallow, square = leans < SHALLOWEST_WRAP, leans > STEEPEST_WRAP
    core = [each for each in reading.levels if each.path.startswith(f"{level.path}.core")]
    drifting = [each for each in core if _drifts(each, reading)]
    for each in drifting:
        held = reading.singles[each.path].turns_per_staple_now
        yield Finding("core-drifts", each, held, spun.quiet_pretwist)
    suffers = any(_overtwisted(each, reading) for each in core)
    if shallow:
        yield Finding("shallow-wrap", level, leans, SHALLOWEST_WRAP)
    elif square or suffers:
        yield Finding("ratio-too-high", level, leans if square else np.nan, spun.quiet_pretwist, crowded=suffers)
    meant = float(np.asarray(node.wrap.covers))
    if spun.coverage < meant * NEARLY_COVERED:
        yield Finding("bare-core", level, spun.coverage, meant, crowded=square or suffers)
    if node.wrap.locks == "free":
        yield Finding("locks-slip", level)
    if isinstance(node.core, Bought) and not (node.core.nature == "looped" and meant < 1):
        yield from _on_nature(level, node.core.nature)
    lively = level.path != "yarn" or abs(reading.balance.loop_turns) > LIVELY_LOOP
    if abs(spun.core_change) > CORE_CHANGED and lively and not drifting and not suffers:
        changed: Code = "core-tightened" if spun.core_change > 0 else "core-untwisted"
        yield Finding(changed, level, abs(spun.core_turns_per_m), spun.quiet_pretwist)


def _on_nature(level: Level, nature: Nature) -> Iterator[Finding]:
    """What the surface of a bought core calls for; a hairy one grips by itself."""
    match nature:
        case "smooth":
            yield Finding("slick-core", level)
        case "looped":
            yield Finding("loops-show", level)
        case "hairy":
            return


def _drifts(level: Level, reading: Reading) -> bool:
    """Whether the fibres of a single in a core slide apart, its plies' twist counted."""
    return level.path in reading.singles and reading.singles[level.path].turns_per_staple_now < FEWEST_TURNS_PER_STAPLE


def _overtwisted(level: Level, reading: Reading) -> bool:
    """Whether the wheel has twisted a strand of a core past what it bears: a single kinks, a ply is full of turns."""
    if isinstance(level.now, NestState):
        return float(level.now.jamming) > NEARLY_JAMMED
    single = reading.singles.get(level.path)
    gained = abs(level.turns_per_m_now) > abs(level.turns_per_m_as_made)
    return bool(
        single
        and gained
        and single.twist_factor * level.turns_per_m_now / level.turns_per_m_as_made > KINKS * single.usual_factor[1]
    )


def _on_balance(reading: Reading) -> Iterator[Finding]:
    top, balance = reading.levels[0], reading.balance
    if not isinstance(top.node, Ply | Chain):
        return
    if not np.isfinite(balance.balanced):
        yield Finding("never-balanced", top)
    elif balance.verdict == "underplied":
        yield Finding("underplied", top, balance.loop_turns)
    elif balance.verdict == "energised":
        yield Finding("energised", top, balance.loop_turns)
