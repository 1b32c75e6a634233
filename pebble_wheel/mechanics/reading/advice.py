"""What a teacher would say to a reading: each warning with what, why and what to do at the wheel.

Thresholds are common practice unless a source is named.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

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

CORE_CHANGED, LIVELY_LOOP = 0.25, 1.0
"""Change of a core's twist, and turns of a hung loop, from which on it is worth saying."""

SCANT, KINKS = 0.75, 1.5
"""Of the lowest and the highest usual twist factor: less is too soft, more kinks (assumed)."""

SPIRAL = 1.03
"""Most over least used up by strands that are alike, from which on a yarn is seen to spiral."""


@dataclass(frozen=True)
class Advice:
    """One piece of advice."""

    code: str
    path: str
    """Of the level it speaks of."""
    text: str
    why: str
    do: str


def advise(reading: Reading, colour_runs: Mapping[str, float] | None = None) -> tuple[Advice, ...]:
    """Return the warnings for a reading, the most pressing first.

    Args:
        reading: of the yarn.
        colour_runs: length of one colour along each strand that has several, by the path of the strand, mm.
    """
    runs = colour_runs or {}
    found: list[Advice] = []
    for level in reading.levels:
        if level.path in reading.singles:
            found += _on_single(level, reading.singles[level.path])
    found += _on_jamming(reading)
    for level in reading.levels:
        if not isinstance(level.node, Leaf):
            found += [*_on_direction(level), *_on_members(level, reading), *_on_colours(level, runs)]
    found += _on_balance(reading)
    return tuple({(each.code, each.text): each for each in found}.values())


def _on_single(level: Level, single: SingleReading) -> Iterator[Advice]:
    node = level.node
    assert isinstance(node, Single)
    across, low, high = single.fibres_across, *single.usual_factor
    if across < FEWEST_FIBRES:
        yield Advice(
            "too-few-fibres",
            level.path,
            f"About {across:.0f} fibres across: this single will not hold together.",
            f"A strand needs some {FEWEST_FIBRES} fibres in its cross-section to be spun at all.",
            "Draft thicker, or choose a finer fibre.",
        )
    elif across < EVEN_FIBRES:
        yield Advice(
            "uneven-fibres",
            level.path,
            f"About {across:.0f} fibres across: expect thick and thin places.",
            f"An even single wants {EVEN_FIBRES} or more fibres in its cross-section.",
            "Draft a little thicker, or take more time over the drafting.",
        )
    if single.turns_per_staple < FEWEST_TURNS_PER_STAPLE:
        yield Advice(
            "staple-not-held",
            level.path,
            f"Only {single.turns_per_staple:.1f} turns hold each staple: this single drifts apart.",
            f"Fibres grip each other through at least {FEWEST_TURNS_PER_STAPLE} turns along their length.",
            "Treadle more per draft, use a smaller whorl, or take less intake.",
        )
    elif single.twist_factor < SCANT * low:
        yield Advice(
            "little-twist",
            level.path,
            f"Little twist for {node.fibre.name} "
            f"(twist factor {single.twist_factor:.0f}, usual {low:.0f} to {high:.0f}).",
            "A soft single is weak under tension and may pull apart at the wheel.",
            "Treadle more per draft or take less intake; keep the brake light.",
        )
    if single.twist_factor > KINKS * high:
        yield Advice(
            "much-twist",
            level.path,
            f"Far too much twist for {node.fibre.name} "
            f"(twist factor {single.twist_factor:.0f}, usual {low:.0f} to {high:.0f}).",
            "The single kinks before the orifice and the yarn comes out hard and wiry.",
            "Treadle less per draft, use a larger whorl, or take more intake.",
        )


def _on_jamming(reading: Reading) -> Iterator[Advice]:
    if reading.jamming > NEARLY_JAMMED or reading.jammed_share > OFTEN_JAMMED:
        yield Advice(
            "nearly-jammed",
            "yarn",
            f"The strands are {reading.jamming:.0%} full of turns.",
            "Hand spinning is uneven: where the strands run thick, no further turn can be laid in and they kink. "
            f"About {reading.jammed_share:.0%} of the length would jam.",
            "Ply with less twist, or spin thinner strands.",
        )


def _on_direction(level: Level) -> Iterator[Advice]:
    node = level.node
    if isinstance(node, Ply | Chain) and all(turns_of(node) * turns_of(m.node) > 0 for m in node.members):
        yield Advice(
            "same-direction",
            level.path,
            "This ply runs the way its strands were twisted.",
            "It adds twist to the strands instead of taking some out, so the yarn gets livelier, not calmer.",
            "Ply the other way, unless a lively yarn is what you want.",
        )


def _on_members(level: Level, reading: Reading) -> Iterator[Advice]:
    """What the kind of a strand and the likeness of its members call for."""
    node, state = level.node, level.now
    assert isinstance(state, NestState)
    if isinstance(node, Ply):
        yield from _on_ply(level, node, state, reading)
    if isinstance(node, Chain):
        links = kinds.chain(state)
        if links.overlap_share > MANY_OVERLAPS:
            yield Advice(
                "short-loops",
                level.path,
                f"Short loops: {links.links_per_m:.0f} links a metre take {links.overlap_share:.0%} more strand.",
                "Every link is a bump of five legs instead of three, and short loops tempt to too much twist.",
                "Pull longer loops, an arm's length or half of one.",
            )
    if isinstance(node, CoreSpun):
        yield from _on_core(level, node, state, reading)
    if isinstance(node, Wrapped):
        wound = kinds.wrapped(state)
        if wound.coverage > NEARLY_JAMMED:
            yield Advice(
                "coils-packed",
                level.path,
                f"The coils stand {wound.coverage:.0%} packed along the binder.",
                "Once they touch, no further coil fits, and pushed ones slide back.",
                "Feed less wrapper or twist less, and lock the coils with a second binder plied the other way.",
            )


def _on_colours(level: Level, runs: Mapping[str, float]) -> Iterator[Advice]:
    if not isinstance(level.node, Chain):
        return
    link = CHAIN_LEGS * float(np.asarray(level.node.loop))
    shortest = min((run for path, run in runs.items() if path.startswith(f"{level.path}.")), default=np.inf)
    if shortest < RUNS_PER_LINK * link:
        yield Advice(
            "loops-over-colours",
            level.path,
            f"Long loops for these colours: a link takes {link / 1000:.2g} m of strand, "
            f"a colour runs {shortest / 1000:.2g} m.",
            "The legs of a link lie up to three loops apart on the strand, so short colour runs get mixed.",
            "Pull shorter loops where the colour changes, or dye or draft longer runs.",
        )


def _on_ply(level: Level, node: Ply, state: NestState, reading: Reading) -> Iterator[Advice]:
    sizes = [float(each.state.diameter) for each in state.seats]
    if max(sizes) > UNLIKE * min(sizes):
        yield Advice(
            "unlike-members",
            level.path,
            "The members differ much in thickness.",
            "Under even tension they lie at nearly one distance from the middle and lean alike; what is held slack "
            "winds round what is held tight.",
            "Brake more the strand that should lie straight; the other winds round it, and its bobbin ends first.",
        )
    yield from _on_seats(level, node, state)
    if node.strands > MAX_RING:
        yield Advice(
            "hollow",
            level.path,
            f"{node.strands} strands round a ring would leave a hollow: laid here round a core.",
            "More than five strands do not close over the middle; what lies inside runs straight and shorter.",
            "Feed the inner strands through the middle hole of a plying disc, or ply in two steps.",
        )
    nested = [member.node for member in node.members if not isinstance(member.node, Leaf)]
    singles = [(i, m.node) for i, m in enumerate(node.members) if isinstance(m.node, Single)]
    if nested and singles:
        for index, _ in singles:
            path = f"{level.path}.strands[{index}]"
            inner = min(
                (each for each in reading.levels if each.place == path),
                key=lambda each: each.turns_per_m_now / each.turns_per_m_as_made,
            )
            kept = inner.turns_per_m_now / inner.turns_per_m_as_made
            if kept < WEAK_SHARE:
                yield Advice(
                    "weak-single",
                    path,
                    f"The single keeps only {kept:.0%} of its twist beside the ply.",
                    f"The final ply takes twist out of it: {reading.singles[path].turns_per_staple_now:.1f} turns "
                    "hold each staple now. It is the weak spot of a crepe.",
                    "Spin it with more twist, or the other way round.",
                )
    if len(nested) == len(node.members) and level.path == "yarn":
        own = max(abs(float(turns_of(each))) for each in nested)
        if abs(reading.balance.balanced) < LIVELY_ENOUGH * own:
            yield Advice(
                "plies-not-lively",
                level.path,
                "These plies are too calm to cable: they want hardly any cable twist.",
                "A balanced ply has no torque left to hold a cable; it springs open again.",
                "Overply them, by half to twice their balanced twist, and then cable the other way.",
            )


def _on_seats(level: Level, node: Ply, state: NestState) -> Iterator[Advice]:
    """What like strands on unlike seats call for: held unevenly they spiral, and one bobbin ends first."""
    used = [float(each.feed * each.state.length / state.length) for each in state.seats]
    if node.tension_share == EVEN or max(used) < SPIRAL * min(used):
        return
    first = min(used) / max(used)
    yield Advice(
        "accidental-spiral",
        level.path,
        f"One strand is held tight, and what is slack winds round it: {max(used):.2f} m of it go into a metre, of the "
        f"tight one {min(used):.2f} m.",
        "The tighter a strand is held, the nearer it lies to the middle; a slack one spirals, meant or not.",
        f"Brake all strands alike for an even ply. For a spiral on purpose expect the slack bobbin to end first: of "
        f"equal lengths when the tight one is {first:.0%} used.",
    )


def _on_core(level: Level, node: CoreSpun, state: NestState, reading: Reading) -> Iterator[Advice]:
    """What a wrap and its core call for; of what would ask for more turns and for fewer only one is said."""
    spun = kinds.core_spun(state)
    leans = abs(float(np.degrees(state.angle)))
    quiet = f"{abs(spun.quiet_pretwist):.0f} turns/m {'Z' if spun.quiet_pretwist > 0 else 'S'}"
    shallow, square = leans < SHALLOWEST_WRAP, leans > STEEPEST_WRAP
    core = [each for each in reading.levels if each.path.startswith(f"{level.path}.core")]
    drifting = [each for each in core if _drifts(each, reading)]
    for each in drifting:
        yield Advice(
            "core-drifts",
            each.path,
            f"The core will not survive: at its loosest only {reading.singles[each.path].turns_per_staple_now:.1f} "
            "turns hold each staple of it.",
            "The wheel takes twist out of a core that was twisted the other way, until its fibres slide apart.",
            f"Pre-twist the core by {quiet}, wrap the other way, or ply the core first.",
        )
    suffers = [each for each in core if _overtwisted(each, reading)]
    if shallow:
        yield Advice(
            "shallow-wrap",
            level.path,
            f"The strip lies {leans:.0f}° from the core: this is plying.",
            f"Below some {SHALLOWEST_WRAP}° fibre lies along a core and does not close round it.",
            "Feed it square to the core, and more slowly, so that more turns go into each length.",
        )
    elif square or suffers:
        seen = f"the strip lies {leans:.0f}° from it" if square else "it kinks by what the wheel adds to it"
        yield Advice(
            "ratio-too-high",
            level.path,
            f"The wheel turns too fast for this core: {seen}.",
            "A high ratio puts in more turns than the wrapping needs; they all go into the core as well.",
            "Use a low ratio, about 6:1 for many, treadle slowly and let the wheel take in strongly."
            + (f" Or pre-twist the core by {quiet}." if suffers else ""),
        )
    if spun.coverage < 1:
        slower = "a wider strip" if square or suffers else "more slowly or a wider strip"
        yield Advice(
            "bare-core",
            level.path,
            f"The wrap covers {spun.coverage:.0%} of the core: bare spots will show.",
            "The strip is too narrow for so little twist along the core.",
            f"Feed {slower}, square to the core. If bare core is meant, leave it so.",
        )
    if isinstance(node.core, Bought):
        yield Advice(
            "slick-core",
            level.path,
            "A smooth bought core lets the wrap slip.",
            "A woolly core grips the fibre, a slick one does not.",
            "Spin a few centimetres of plain single first to anchor it, and lock the end the same way.",
        )
    lively = level.path != "yarn" or abs(reading.balance.loop_turns) > LIVELY_LOOP
    if abs(spun.core_change) > CORE_CHANGED and lively and not drifting and not suffers:
        tighter = spun.core_change > 0
        yield Advice(
            "core-untwisted" if not tighter else "core-tightened",
            level.path,
            f"The wheel {'tightens' if tighter else 'loosens'} the core: its twist ends at "
            f"{abs(spun.core_turns_per_m):.0f} turns/m.",
            "The core turns with the wheel: plied tighter where the directions match, loosened where they do not.",
            f"For a quiet core pre-twist it by {quiet}, or wrap in the other direction.",
        )


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


def _on_balance(reading: Reading) -> Iterator[Advice]:
    top = reading.levels[0]
    balance = reading.balance
    if not isinstance(top.node, Ply | Chain):
        return
    turns = f"{abs(balance.loop_turns):.1f} turns {'Z' if balance.loop_turns > 0 else 'S'}"
    if not np.isfinite(balance.balanced):
        yield Advice(
            "never-balanced",
            "yarn",
            "No ply twist brings these strands to rest.",
            "They are so lively that they would jam before their torque is spent.",
            "Spin the strands with less twist.",
        )
    elif balance.verdict == "underplied":
        yield Advice(
            "underplied",
            "yarn",
            f"Underplied: a 30 cm loop turns {turns}, on in the direction of the ply.",
            "The strands still carry twist that wants to ply them further; cloth from it can slant.",
            "Treadle more per length while plying. If softness is meant, leave it so.",
        )
    elif balance.verdict == "energised":
        yield Advice(
            "energised",
            "yarn",
            f"Energised: a 30 cm loop turns {turns}, back against the ply.",
            "More ply twist than the strands' own can answer; it kinks, and slants knitting.",
            "Treadle less per length while plying. For a cable, a crepe or elastic work this may be right.",
        )
