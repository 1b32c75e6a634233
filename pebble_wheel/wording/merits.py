"""The merits of a yarn in words, each with its reason."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from pebble_wheel.mechanics.backwards.merits import (
    CHAIN_WEAR,
    CRIMPY,
    DEEPEST_GROOVE,
    DENSEST,
    FIRMEST,
    HARDEST_FIBRE,
    LEAST_ROUND,
    ROUGH,
    SLOW,
    SPRINGY,
    STIFF,
    Aspect,
    Merit,
)
from pebble_wheel.notation.aim import Colouring
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.why import Inputs, Why

ASSUMED = "The figures that go in are computed; where the score begins and ends is assumed."


@dataclass(frozen=True)
class _MeritWords:
    words: str
    formula: str
    said: str
    inputs: Callable[[dict[str, float], Display], Inputs]


MERITS: dict[Aspect, _MeritWords] = {
    "round": _MeritWords(
        "round",
        f"(4πA/P² − {LEAST_ROUND:g}) / {1 - LEAST_ROUND:g}",
        "Area A and perimeter P of the hull round all strands, cut across at twelve places; a circle has 4πA/P² = 1.",
        lambda own, display: [("4πA/P²", f"{own['circularity']:.3f}")],
    ),
    "smooth": _MeritWords(
        "smooth",
        f"1 − (g + b) / {DEEPEST_GROOVE:g}",
        "How far the surface lies below the circle round the yarn on the mean, over its radius, and what the links of "
        "a chain add to it.",
        lambda own, display: [("g, grooves", f"{own['groove']:.3f}"), ("b, links", f"{own['bumps']:.3f}")],
    ),
    "wear": _MeritWords(
        "hard-wearing",
        f"√(µm/{HARDEST_FIBRE:g}) · β/{math.degrees(FIRMEST):.0f}° · (1 − 1/(1 + n)) · c",
        "Coarse fibre wears well; a steep lay β binds it, on the steepest level; many strands n hide it from rubbing. "
        f"A broken leg of a chain runs: c = {CHAIN_WEAR:g}, else 1. Coils that stand off wear badly.",
        lambda own, display: [
            ("fibre", f"{own['micron']:.0f} µm"),
            ("β", display.angle(own["angle"])),
            ("n, strands", f"{own['strands']:.0f}"),
            ("c", f"{own['chain']:g}"),
        ],
    ),
    "elastic": _MeritWords(
        "elastic",
        f"1 − exp(−k(κr)²/{SPRINGY:g} − crimp/{CRIMPY:g})",
        "The strand that comes taut first ends the stretch. It gives by how much it is bent like a spring, which is "
        "energy stored in bending, and by the crimp that its packing leaves free.",
        lambda own, display: [
            ("k(κr)², bending", f"{own['bent']:.3f}"),
            display.in_short("free crimps", own["crimp"]),
        ],
    ),
    "light": _MeritWords(
        "light and warm",
        f"1 − φ/{DENSEST:g}",
        "φ is the share of the finished thickness that is fibre; the rest is air.",
        lambda own, display: [("φ", f"{own['packed']:.3f}")],
    ),
    "drape": _MeritWords(
        "soft in cloth",
        f"exp(−r/{STIFF:g}),  r² = d_f² + s (D² − d_f²)",
        "How thick a rod would bend as the yarn does, weight for weight. Fibres that slide bend each for itself; those "
        "that twist and packing hold, and a core of thread, bend as one.",
        lambda own, display: [
            ("D", display.length(own["thick"])),
            ("s, held", f"{own['held']:.0%}"),
            ("r", display.length(own["rod"])),
        ],
    ),
    "colours": _MeritWords(
        "colours kept",
        "share of the colour most seen",
        "Strands side by side go through the colours each for itself, so several strands mix them; the legs of a chain "
        "are of one strand and stay together while a colour runs much longer than three loops; a wrap alone shows.",
        lambda own, display: [("share", f"{own['kept']:.0%}"), ("strands apart", f"{own['strands']:.0f}")],
    ),
    "quick": _MeritWords(
        "quick to make",
        f"exp(−h/{SLOW:g})",
        "Hours h for 100 g, all steps: each metre takes as long as the wheel needs for its twist, and at least as long "
        "as hands need to draft or feed it.",
        lambda own, display: [("h", f"{own['hours']:.1f} h")],
    ),
    "forgiving": _MeritWords(
        "forgiving",
        f"exp(−w/{ROUGH:g})",
        "w is how much thickness varies along the yarn, p10 to p90 over p50. Strands that are uneven each for itself "
        "even each other out: their share of the variance, by rank correlation, is divided by their number.",
        lambda own, display: [("band, strands alike", f"{own['band']:.0%}"), ("w", f"{own['local']:.0%}")],
    ),
}
"""In the order in which a screen shows them."""


COLOURING_WORDS: dict[Colouring, str] = {"either": "either", "keep": "kept", "blend": "blended"}


def merit_why(aspect: str, name: str, words: str, merit: Merit, display: Display) -> Why | None:
    """Return the reason of a merit of one structure."""
    reason = next((own for each, own in MERITS.items() if each == aspect), None)
    if reason is None:
        return None
    inputs = [*reason.inputs(merit.inputs, display), ("score", f"{merit.score:.2f}")]
    return Why(f"{aspect}@{name}", reason.words, words, reason.formula, reason.said, inputs, ASSUMED)
