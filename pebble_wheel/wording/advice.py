"""What a teacher would say: each finding in words, with why and what to do at the wheel."""

import math
from dataclasses import dataclass
from typing import assert_never

from pebble_wheel.mechanics.reading.findings import Finding, findings_of
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.strand.structure import Single
from pebble_wheel.notation.design import USUAL_RUN_M, BoughtModel, Design, SingleModel, walk
from pebble_wheel.wording.display import Display

TEACHER = "a teacher would say"
"""What stands before advice where yarns are compared."""


@dataclass(frozen=True)
class Advice:
    """One piece of advice."""

    code: str
    text: str
    why: str
    do: str


def advice_of(design: Design, reading: Reading, display: Display) -> tuple[Advice, ...]:
    """Return what a teacher would say to a design, its colours counted in; what sounds alike is said once."""
    runs: dict[str, float] = {
        place: 1000 * min(node.colour_lengths_m or [node.colour_run_m or USUAL_RUN_M])
        for _, place, node in walk(design.yarn)
        if isinstance(node, SingleModel | BoughtModel) and len(set(node.colours or ())) > 1
    }
    said = (said_of(each, reading, display) for each in findings_of(reading, runs))
    return tuple({(each.code, each.text): each for each in said}.values())


def said_of(found: Finding, reading: Reading, display: Display) -> Advice:
    """Return a finding in words."""
    text, why, do = _said(found, reading, display)
    return Advice(found.code, text, why, do)


def _said(found: Finding, reading: Reading, display: Display) -> tuple[str, str, str]:
    value, other = found.value, found.other
    match found.code:
        case "too-few-fibres":
            return (
                f"About {value:.0f} fibres across: this single will not hold together.",
                f"A strand needs some {other:.0f} fibres in its cross-section to be spun at all.",
                "Draft thicker, or choose a finer fibre.",
            )
        case "uneven-fibres":
            return (
                f"About {value:.0f} fibres across: expect thick and thin places.",
                f"An even single wants {other:.0f} or more fibres in its cross-section.",
                "Draft a little thicker, or take more time over the drafting.",
            )
        case "staple-not-held":
            return (
                f"Only {value:.1f} turns hold each staple: this single drifts apart.",
                f"Fibres grip each other through at least {other:.0f} turns along their length.",
                "Treadle more per draft, use a smaller whorl, or take less intake.",
            )
        case "little-twist":
            return (
                f"Little twist for {_factor(found, reading)}.",
                "A soft single is weak under tension and may pull apart at the wheel.",
                "Treadle more per draft or take less intake; keep the brake light.",
            )
        case "much-twist":
            return (
                f"A very tight thread, for {_factor(found, reading)}.",
                "It kinks before the orifice and makes a firm, wiry yarn; for lace, crepe or cord that can be meant.",
                "If it is meant, keep it taut and let it rest on the bobbin; else treadle less per draft.",
            )
        case "nearly-jammed":
            return (
                f"The strands are {value:.0%} full of turns.",
                "Hand spinning is uneven: where the strands run thick, no further turn can be laid in and they kink. "
                f"About {other:.0%} of the length would jam.",
                "Ply with less twist, or spin thinner strands.",
            )
        case "same-direction":
            return (
                "This ply runs the way its strands were twisted.",
                "It adds twist to the strands instead of taking some out, so the yarn gets livelier, not calmer.",
                "Ply the other way, unless a lively yarn is what you want.",
            )
        case "short-loops":
            return (
                f"Short loops: the links take {other:.0%} more strand.",
                "Every link is a bump of five legs instead of three, and short loops tempt to too much twist.",
                "Pull longer loops, an arm's length or half of one.",
            )
        case "coils-packed":
            return (
                f"The coils stand {value:.0%} packed along the binder.",
                "Once they touch, no further coil fits, and pushed ones slide back.",
                "Feed less wrapper or twist less, and lock the coils with a second binder plied the other way.",
            )
        case "loops-over-colours":
            return (
                f"Long loops for these colours: a link takes {display.metres(value / 1000)} of strand, "
                f"a colour runs {display.metres(other / 1000)}.",
                "The legs of a link lie up to three loops apart on the strand, so short colour runs get mixed.",
                "Pull shorter loops where the colour changes, or dye or draft longer runs.",
            )
        case "unlike-members":
            return (
                "The members differ much in thickness.",
                "Under even tension they lie at nearly one distance from the middle and lean alike; what is held slack "
                "winds round what is held tight.",
                "Brake more the strand that should lie straight; the other winds round it, and its bobbin ends first.",
            )
        case "hollow":
            return (
                f"{value:.0f} strands round a ring would leave a hollow: laid here round a core.",
                f"More than {other:.0f} strands do not close over the middle; what lies inside "
                "runs straight and shorter.",
                "Feed the inner strands through the middle hole of a plying disc, or ply in two steps.",
            )
        case "weak-single":
            return (
                f"The single keeps only {value:.0%} of its twist beside the ply.",
                f"The final ply takes twist out of it: {other:.1f} turns "
                "hold each staple now. It is the weak spot of a crepe.",
                "Spin it with more twist, or the other way round.",
            )
        case "plies-not-lively":
            return (
                "These plies are too calm to cable: they want hardly any cable twist.",
                "A balanced ply has no torque left to hold a cable; it springs open again.",
                "Overply them, by half to twice their balanced twist, and then cable the other way.",
            )
        case "accidental-spiral":
            return (
                f"One strand is held tight, and what is slack winds round it: {value / other:.0%} of the tight "
                "one's length goes in.",
                "The tighter a strand is held, the nearer it lies to the middle; a slack one spirals, meant or not.",
                "Brake all strands alike for an even ply. For a spiral on purpose expect the slack bobbin to end "
                f"first: of equal lengths when the tight one is {other / value:.0%} used.",
            )
        case "core-drifts":
            return (
                f"The core will not survive: at its loosest only {value:.1f} turns hold each staple of it.",
                "The wheel takes twist out of a core that was twisted the other way, until its fibres slide apart.",
                f"Pre-twist the core by {display.turned(other)}, wrap the other way, or ply the core first.",
            )
        case "shallow-wrap":
            return (
                f"The strip lies {value:.0f}° from the core: this is plying.",
                f"Below some {other:.0f}° fibre lies along a core and does not close round it.",
                "Feed it square to the core, and more slowly, so that more turns go into each length.",
            )
        case "ratio-too-high":
            square = math.isfinite(value)
            seen = f"the strip lies {value:.0f}° from it" if square else "it kinks by what the wheel adds to it"
            pretwist = f" Or pre-twist the core by {display.turned(other)}." if found.crowded else ""
            return (
                f"The wheel turns too fast for this core: {seen}.",
                "A high ratio puts in more turns than the wrapping needs; they all go into the core as well.",
                "Use a low ratio, about 6:1 for many, treadle slowly and let the wheel take in strongly." + pretwist,
            )
        case "bare-core":
            slower = "a wider strip" if found.crowded else "more slowly or a wider strip"
            wanted = f", {other:.0%} is meant" if other < 1 else ""
            return (
                f"The wrap covers {value:.0%} of the core{wanted}: bare spots will show.",
                "The strip is too narrow for so little twist along the core.",
                f"Feed {slower}, square to the core. If bare core is meant, say how much of it is to be covered.",
            )
        case "locks-slip":
            return (
                "Locks that are laid in free pull out again.",
                "A lock holds by the fibres that the wrap lies over; its tip alone has no hold.",
                "Catch each by its cut end under the wrap, and let only the tip hang.",
            )
        case "slick-core":
            return (
                "A smooth bought core lets the wrap slip.",
                "A woolly core grips the fibre, a slick one does not.",
                "Spin a few centimetres of plain single first to anchor it, and lock the end the same way.",
            )
        case "loops-show":
            return (
                "The loops of the core show through the wrap.",
                "A looped thread is no even ground: the wrap lies in its valleys, and the loops stand out.",
                "If that is meant, leave it so; else lay the wrap on thicker, or take a hairy core.",
            )
        case "core-tightened" | "core-untwisted":
            turned = "tightens" if found.code == "core-tightened" else "loosens"
            return (
                f"The wheel {turned} the core: its twist ends at {display.twist(value)}.",
                "The core turns with the wheel: plied tighter where the directions match, loosened where they do not.",
                f"For a quiet core pre-twist it by {display.turned(other)}, or wrap in the other direction.",
            )
        case "never-balanced":
            return (
                "No ply twist brings these strands to rest.",
                "They are so lively that they would jam before their torque is spent.",
                "Spin the strands with less twist.",
            )
        case "underplied":
            return (
                f"Underplied: a {display.hung} loop turns {_loop(display.hung_turns(value))}, on in the direction of "
                "the ply.",
                "The strands still carry twist that wants to ply them further; cloth from it can slant.",
                "Treadle more per length while plying. If softness is meant, leave it so.",
            )
        case "energised":
            return (
                f"Energised: a {display.hung} loop turns {_loop(display.hung_turns(value))}, back against the ply.",
                "More ply twist than the strands' own can answer; it kinks, and slants knitting.",
                "Treadle less per length while plying. For a cable, a crepe or elastic work this may be right.",
            )
        case _:
            assert_never(found.code)


def _factor(found: Finding, reading: Reading) -> str:
    """Return whose twist factor it is, what it is, and what is usual."""
    low, high = reading.singles[found.level.path].usual_factor
    fibre = found.level.node.fibre.name if isinstance(found.level.node, Single) else "it"
    return f"{fibre} (twist factor {found.value:.0f}, usual {low:.0f} to {high:.0f})"


def _loop(turns: float) -> str:
    return f"{abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}"
