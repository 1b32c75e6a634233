"""What a teacher would say to a reading: each warning with what, why and what to do at the wheel.

Thresholds are common practice unless a source is named; "far too much" and "too little" twist are set here at half
above the top and a quarter below the bottom of the usual twist factors.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.reading import Level, Reading
from pebble_wheel.mechanics.structure import Ply, Single, turns_of

FEWEST_FIBRES, EVEN_FIBRES = 20, 40
FEWEST_TURNS_PER_STAPLE = 4
NEARLY_JAMMED = 0.9
OFTEN_JAMMED = 0.1


@dataclass(frozen=True)
class Advice:
    """One piece of advice."""

    code: str
    path: str
    """Of the level it speaks of."""
    text: str
    why: str
    do: str


def advise(reading: Reading) -> tuple[Advice, ...]:
    """Return the warnings for a reading, the most pressing first."""
    return (*_on_single(reading), *_on_jamming(reading), *_on_direction(reading), *_on_balance(reading))


def _on_single(reading: Reading) -> Iterator[Advice]:
    level, single = reading.levels[-1], reading.single
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
    elif single.twist_factor < 0.75 * low:
        yield Advice(
            "little-twist",
            level.path,
            f"Little twist for {node.fibre.name} "
            f"(twist factor {single.twist_factor:.0f}, usual {low:.0f} to {high:.0f}).",
            "A soft single is weak under tension and may pull apart at the wheel.",
            "Treadle more per draft or take less intake; keep the brake light.",
        )
    if single.twist_factor > 1.5 * high:
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


def _on_direction(reading: Reading) -> Iterator[Advice]:
    for level in reading.levels:
        if isinstance(level.node, Ply) and turns_of(level.node) * turns_of(level.node.strand) > 0:
            yield Advice(
                "same-direction",
                level.path,
                "This ply runs the way its strands were twisted.",
                "It adds twist to the strands instead of taking some out, so the yarn gets livelier, not calmer.",
                "Ply the other way, unless a lively yarn is what you want.",
            )


def _on_balance(reading: Reading) -> Iterator[Advice]:
    top: Level = reading.levels[0]
    balance = reading.balance
    if not isinstance(top.node, Ply):
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
