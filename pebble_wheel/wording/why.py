"""Why this number: for every figure its formula, what went in, where the formula is from and how sure it is."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np

from pebble_wheel.mechanics.counts import INCH, YARDS_PER_POUND_TEX
from pebble_wheel.mechanics.fibre.packing import SQUEEZE
from pebble_wheel.mechanics.reading.draws import VARIANTS
from pebble_wheel.mechanics.reading.findings import EVEN_FIBRES, FEWEST_FIBRES, FEWEST_TURNS_PER_STAPLE
from pebble_wheel.mechanics.reading.reading import LEAST_CORRELATION, Level, Reading
from pebble_wheel.mechanics.reading.uneven import MORE
from pebble_wheel.mechanics.rest.balance import NOISE
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.helix import apparent_width
from pebble_wheel.mechanics.strand.rings import MAX_RING
from pebble_wheel.mechanics.strand.running import POWERS, runs_to
from pebble_wheel.mechanics.strand.state import LeafState, NestState
from pebble_wheel.mechanics.strand.structure import PLYING_TENSION, Chain, CoreSpun, Single, Wrapped, turns_of
from pebble_wheel.mechanics.wash.bloom import DRAWS_UP, DRAWS_UP_BY_BLOOM, FULLY_PACKED
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.settings import SNUG_OVER_RELAXED
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import Row, level_words, rest_words

Inputs = list[tuple[str, str]]

GEOMETRY = "Geometry of the helix; no constants."
CALIBRATED = "Constants calibrated for typical hand spinning, not yet for your hands."
TRADE = "Common practice of the trade, no source."
DEFINITION = "A definition."


@dataclass(frozen=True)
class Why:
    """The reason of one figure."""

    key: str
    title: str
    part: str
    """What it is said of."""
    formula: str
    words: str
    inputs: Inputs
    source: str


@dataclass(frozen=True)
class _About:
    """What the inputs of a reason are taken from."""

    reading: Reading
    level: Level
    display: Display

    def turns(self, turns_per_m: float) -> str:
        """Return a twist with its direction."""
        return f"{self.display.twist(turns_per_m)} {'Z' if turns_per_m > 0 else 'S'}"


About = TypeVar("About")


@dataclass(frozen=True)
class Reason(Generic[About]):
    """What a figure of one kind is computed by; its inputs are taken from what is asked about."""

    title: str
    formula: str
    words: str
    inputs: Callable[[About], Inputs | None]
    """None where what is asked about has no such figure."""
    source: str


def _made(about: _About) -> Inputs:
    twist, off = about.level.turns_per_m_as_made, about.reading.constants.spreads.tex
    told = [("t, as it comes off its own step", about.turns(twist))]
    if not isinstance(about.level.node, Single):
        return told
    ends = [runs_to(twist, np.array([1 - off, 1 + off]), np.ones(2), power) for power in (POWERS[0], POWERS[-1])]
    for place, where in enumerate(("thin", "thick")):
        low, high = sorted(abs(float(each[place])) for each in ends)
        told.append(
            (f"in its {where} places, {off:.0%} off", f"{about.display.twist(low)} to {about.display.twist(high)}")
        )
    return told


def _now(about: _About) -> Inputs:
    return [
        ("own twist, as made", about.turns(about.level.turns_per_m_as_made)),
        ("its length now, per length as it was made", f"{float(about.level.now.length / about.level.made.length):.3f}"),
        ("twist now", about.turns(about.level.turns_per_m_now)),
    ]


def _lean(about: _About) -> Inputs:
    state = about.level.now
    given = [("t", about.turns(float(state.twist_now)))]
    if isinstance(state, LeafState) or isinstance(state.node, CoreSpun):
        given.append(("d", about.display.length(float(state.diameter))))
    else:
        out = max(float(each.radius) for each in state.seats)
        given.append(("R, centre-line from the axis", about.display.length(out)))
    return [*given, ("angle", f"{about.display.angle(about.level.angle)} {about.display.angle_words}")]


def _thick(about: _About) -> Inputs:
    state = about.level.now
    if isinstance(state, LeafState):
        tex = float(np.asarray(state.node.tex)) / float(state.length)
        density = ("T, linear density now", about.display.grist(tex))
        if np.isnan(state.packing):
            return [density, ("d, as it came", about.display.length(float(state.diameter)))]
        return [density, ("φ, packing fraction now", f"{float(state.packing):.3f}")]
    each = state.seats[0].state
    strands = sum(seat.count for seat in state.seats)
    return [
        ("strands", str(strands)),
        ("d of a strand as it stands inside", about.display.length(float(each.diameter))),
        (
            "mean width of equal touching strands, in d",
            f"{apparent_width(strands):.2f}" if strands <= MAX_RING else "by hull",
        ),
    ]


def _spreads(about: _About) -> Inputs:
    spreads = about.reading.constants.spreads
    return [
        ("variants", f"{VARIANTS:,}"),
        ("of a ratio to balance that swings wide", f"{MORE * VARIANTS:,}"),
        ("thickness of a strand", f"cv {spreads.tex:.0%}"),
        ("twist", f"cv {spreads.twist:.0%}"),
        ("packing constant Q", f"log-sd {spreads.squeeze}"),
        ("own samples", f"{about.reading.constants.own_samples}"),
    ]


def _finished(about: _About) -> Inputs:
    reading = about.reading
    grown = reading.diameter_finished.p50 / reading.diameter_as_plied.p50
    return [
        ("thick, as plied", about.display.length_range(reading.diameter_as_plied)),
        ("growth", f"{grown - 1:+.0%}"),
        ("spread of bloom", f"sd {reading.constants.spreads.bloom:.0%} of the bloom"),
        ("washed, dried", f"{reading.finish.wash}, {reading.finish.drying}"),
    ]


def _rod(about: _About) -> Inputs:
    rod, spreads = about.reading.constants.rod, about.reading.constants.spreads
    return [
        ("k, bending over torsional stiffness", f"{rod.bend_to_twist} ± {spreads.bend}"),
        ("s, share of the spun twist that has set", f"{rod.set_share} ± {spreads.set_share}"),
    ]


def _balanced(about: _About) -> Inputs:
    balance = about.reading.balance
    return [
        ("chosen", about.display.twist(balance.chosen)),
        ("at rest", rest_words(balance, about.display)),
        *_rod(about),
    ]


def _loop(about: _About) -> Inputs:
    fold = about.reading.balance.fold_turns_per_m
    return [("balanced twist of the fold", about.turns(fold)), ("leg, half of", about.display.hung), *_rod(about)]


def _strand(about: _About) -> Inputs | None:
    inner = next((level for level in about.reading.levels if level.path != "yarn"), None)
    return [("twist of the strand as made", about.turns(inner.turns_per_m_as_made))] if inner else None


def _length(about: _About) -> Inputs:
    state = about.level.now
    angle = "" if isinstance(state, LeafState) else about.display.angle(max(abs(float(s.angle)) for s in state.seats))
    return [("length now, of the bobbin length of its singles", f"{1 - about.level.take_up:.3f}")] + (
        [("angle of its strands", angle)] if angle else []
    )


def _use(about: _About) -> Inputs:
    return [
        ("length of one such strand in a length of yarn", f"{about.level.metres_per_metre:.3f}"),
        (f"one such strand in {about.display.hundred}", about.display.grams_in_100(about.level.grams_per_100_m)),
    ]


def _grist(about: _About) -> Inputs:
    node = about.level.node
    if isinstance(node, Single):
        return [("T", about.display.grist(float(np.asarray(node.tex))))]
    reading = about.reading
    return [
        ("T as plied", about.display.grist(reading.resultant_tex)),
        ("T finished", about.display.grist(reading.finished_tex)),
    ]


def _fill(about: _About) -> Inputs:
    """Return how full every ply within the part is; the fullest counts."""
    within = (level for level in about.reading.levels if Address(level.path).lies_in(about.level.path))
    return [
        (level_words(level), f"{100 * float(level.now.jamming):.0f} %")
        for level in within
        if isinstance(level.now, NestState)
    ] or [("plies in it", "none")]


def _spun(about: _About) -> Inputs | None:
    single, own = about.level.node, about.reading.singles.get(about.level.path)
    if not isinstance(single, Single) or own is None:
        return None
    low, high = single.fibre.micron
    return [
        ("T", about.display.grist(float(np.asarray(single.tex)))),
        ("t", about.turns(about.level.turns_per_m_as_made)),
        ("staple", about.display.span(single.fibre.mid_staple)),
        ("fibre", f"{low:g}–{high:g} µm, {single.fibre.density} g/cm³"),
        ("φ₀, without twist", f"{single.loosest:g}"),
        ("Q", f"{SQUEEZE:g}"),
        ("φ", f"{own.packing:.3f}"),
    ]


def _chain(about: _About) -> Inputs | None:
    node, state = about.level.node, about.level.now
    if not isinstance(node, Chain) or not isinstance(state, NestState):
        return None
    links = kinds.chain(state)
    loop = float(np.asarray(node.loop))
    return [
        ("ℓ, one leg before take-up", about.display.span(loop)),
        ("length of a leg in the yarn", about.display.span(loop * float(state.length))),
        ("width of five legs over three", f"{links.bump:.2f}"),
    ]


def _core(about: _About) -> Inputs | None:
    node, state = about.level.node, about.level.now
    if not isinstance(node, CoreSpun) or not isinstance(state, NestState):
        return None
    spun = kinds.core_spun(state)
    return [
        ("w, width of the strip", about.display.span(float(np.asarray(node.wrap.width)))),
        ("t", about.turns(float(state.twist_now))),
        ("core before", about.turns(float(np.asarray(turns_of(node.core))))),
        ("core now", about.turns(spun.core_turns_per_m)),
        ("quiet with a pre-twist of", about.turns(spun.quiet_pretwist)),
        ("spread of the wrap's packing", f"cv {about.reading.constants.spreads.wrap_packing:.0%}"),
    ]


def _coils(about: _About) -> Inputs | None:
    node, state = about.level.node, about.level.now
    if not isinstance(node, Wrapped) or not isinstance(state, NestState):
        return None
    return [
        ("O, overfeed", f"{float(np.asarray(node.overfeed)):.2g}"),
        ("t", about.turns(float(state.twist_now))),
        ("wrapper, thick", about.display.length(float(state.seats[1].state.diameter))),
    ]


_FILL = "fill = (turns × 2πr per strand length) ÷ the most that fit, max sin β ÷ (R/r)"
_WRAP = "coverage = w t ÷ (1000 sin θ)"

REASONS: dict[str, Reason[_About]] = {
    "as-made": Reason(
        "Twist as made",
        "as given, or multiple × balanced twist",
        "Counted on the strand as it comes off its own step, before anything later changes it.",
        _made,
        DEFINITION + " ISO 2061 counts twist in turns per metre; S and Z are those of ISO 2.",
    ),
    "now": Reason(
        "Twist now",
        "Tw(strand) = own turns + Tw(what it is part of) · cos β",
        "Twisting a ply also twists every strand in it; what the coil of its path takes up does not count as twist.",
        _now,
        "Călugăreanu–White: link = twist + writhe. Within 1 % of numerical differential geometry.",
    ),
    "at-rest": Reason(
        "Twist at rest",
        "twist now, were the whole laid with its balanced twist",
        "The whole structure is settled once more with the top twist at which its energy is stationary.",
        _balanced,
        "Energy of bent and twisted rods. " + CALIBRATED,
    ),
    "matters": Reason(
        "What matters most",
        "Spearman's ρ between each cause and the outcome, over all variants",
        "Every cause varies at once; the bars say which of them the outcome follows. "
        f"Under {LEAST_CORRELATION} is left out.",
        _spreads,
        "Rank correlation is a standard of statistics. Spreads: " + CALIBRATED,
    ),
    "lean": Reason(
        "Angle",
        "tan β = 2πR t;  of surface fibres tan α = π d t",
        "How steeply the outermost strand, or a fibre on the surface, winds round the axis.",
        _lean,
        GEOMETRY + " R is the exact distance at which neighbouring helices touch; unlike strands lie by the tension "
        f"each is held with, {PLYING_TENSION:g} cN assumed.",
    ),
    "bobbin": Reason(
        "Thickness on the bobbin",
        "d = √(4T ÷ (1000 π φ ρ)),  f(φ) = f(φ₀) + Q t² √T",
        "Twist packs fibres closer, so the same wool comes out thinner with more twist. Of one twist factor the "
        "thicker single is the airier.",
        _spun,
        "Packing: Neckář's compaction form, from memory. " + CALIBRATED,
    ),
    "thick": Reason(
        "Thickness in the yarn",
        "single: d = √(4T ÷ (1000 π φ ρ));  n strands: d (1 + n/π)",
        "The mean width over all views, as a gauge finds it. Inside a ply the strands are squeezed and loosened.",
        _thick,
        "Cauchy's mean-width theorem; packing: Neckář's form, from memory. " + CALIBRATED,
    ),
    "finished": Reason(
        "Thickness, finished",
        f"b = 1 + B (1 − φ/{FULLY_PACKED})₊ · p · w · h · m",
        "Each strand blooms by its fibre, preparation, wash and drying; twist holds it back. Wash a swatch.",
        _finished,
        CALIBRATED + " How sure each factor is stands on the finishing screen.",
    ),
    "wpi": Reason(
        "Wraps per inch",
        f"wpi = {INCH} ÷ d",
        f"Of the band of thicknesses. Snug wraps count {SNUG_OVER_RELAXED:.2f} times relaxed ones.",
        _spreads,
        TRADE + " The band holds 8 lengths of 10.",
    ),
    "wpi-finished": Reason(
        "Wraps per inch, finished", f"wpi = {INCH} ÷ (d · b)", "Of the bloomed thickness.", _finished, CALIBRATED
    ),
    "take-up": Reason(
        "Take-up",
        "1 − length now ÷ bobbin length;  single ∝ 1 − tan²(α/2), strand = 1 ÷ cos β",
        "What twisting costs in length. Untwisting the singles gives some back, so it can be below zero.",
        _length,
        "Retraction: Hearle, Grosberg and Backer 1969, from memory.",
    ),
    "metres": Reason(
        "Length in a length", "length of helix ÷ length of yarn, level by level", "One such strand.", _use, GEOMETRY
    ),
    "grams": Reason("Weight", "length × linear density, level by level", "One such strand.", _use, GEOMETRY),
    "grist": Reason(
        "Grist",
        f"{YARDS_PER_POUND_TEX:,.0f} ÷ tex = yd/lb".replace(",", " "),
        "Length per mass, the inverse of linear density.",
        _grist,
        DEFINITION,
    ),
    "grist-finished": Reason(
        "Grist, finished",
        f"tex ÷ (1 − ε),  ε = {DRAWS_UP} + {DRAWS_UP_BY_BLOOM} B (1 − φ/{FULLY_PACKED})₊",
        "The first wash lets the yarn draw up.",
        _grist,
        CALIBRATED,
    ),
    "class": Reason(
        "Weight class",
        "the classes that hold the middle of the band",
        "The ranges overlap by design: a band, not a verdict. Choose the table in the settings.",
        lambda about: [("finished", about.display.wpi_range(about.reading.wpi_finished))],
        "Two tables: a yarn-council style, from memory, and relaxed wraps, common practice.",
    ),
    "jamming": Reason(
        "Full of turns",
        _FILL,
        "At 100 % a further turn takes up more length than there is. Of the yarn the fullest ply counts.",
        _fill,
        GEOMETRY + " Checked against Olsen and Bohr's laid rope, from memory.",
    ),
    "ratio": Reason(
        "How it rests",
        "minimise Σ ½ B κ² + ½ C (2π t)²,  B = k T², C = T²",
        "At the balanced twist bending and untwisting hold each other; chosen over balanced is the ratio. A thread "
        "bends by its fibres, not by the air between them.",
        _balanced,
        "Energy of bent and twisted rods. " + CALIBRATED,
    ),
    "loop": Reason(
        "The hung loop",
        "turns = balanced turns of the fold × length of a leg",
        "The yarn folded on itself is a 2-ply of it; that ply's balance says how far it turns.",
        _loop,
        "Same energy as balance. " + CALIBRATED,
    ),
    "energy": Reason(
        "Twist to rest, by energy",
        "d(energy)/d(twist) = 0, looked for on both sides of zero",
        "A total derivative through contact, packing and lengths, for every variant. What lies within "
        f"{NOISE:.0%} of the twist of a ply at 45° is not told from none: the yarn hangs quiet by itself.",
        _balanced,
        CALIBRATED,
    ),
    "two thirds": Reason("Two thirds", "ply = ⅔ of the singles", "One school's rule for a 2-ply.", _strand, TRADE),
    "equal angles": Reason(
        "Equal angles", "ply = singles ÷ √n", "Another school: strands lean as the fibres do.", _strand, TRADE
    ),
    "ply-back": Reason(
        "Fresh ply-back",
        "balanced twist of the strand folded on itself",
        "Match what a fresh fold shows, never a rested one.",
        _rod,
        "Same energy as balance. " + CALIBRATED,
    ),
    "wraps": Reason("Wraps of the single", f"wpi = {INCH} ÷ d", "On the bobbin, as spun.", _spun, TRADE),
    "fibres": Reason(
        "Fibres across",
        "T ÷ (ρ π d²/4 · 10⁻³)",
        f"Some {FEWEST_FIBRES} are needed to spin at all, {EVEN_FIBRES} for an even single.",
        _spun,
        "Fibre data typical, from memory; the limits common practice, no source.",
    ),
    "factor": Reason(
        "Tex twist factor", "turns per cm × √tex", "Twist made comparable between thick and thin.", _spun, TRADE
    ),
    "staple": Reason(
        "Turns per staple", "t × staple", f"Below {FEWEST_TURNS_PER_STAPLE} the fibres slide apart.", _spun, TRADE
    ),
    "links": Reason("Links", "1000 ÷ (ℓ × length kept)", "Each loop is one link.", _chain, GEOMETRY),
    "bump": Reason(
        "At a link", "(1 + 5/π) ÷ (1 + 3/π)", "Five legs lie there instead of three.", _chain, "Cauchy's theorem."
    ),
    "overlap": Reason(
        "Overlaps", "π d ÷ 3ℓ", "Every link turns once round the strand it goes through.", _chain, CALIBRATED
    ),
    "legs": Reason(
        "Which leg lies where",
        "3iℓ + x,  3iℓ + 2ℓ − x,  3iℓ + 2ℓ + x",
        "Places of the strand that lie side by side in link i; colours hold together where runs are much longer.",
        _chain,
        GEOMETRY,
    ),
    "covered": Reason(
        "Core covered",
        _WRAP,
        "At 100 % the core is just covered; more counts layers, which a wide thin strip wants.",
        _core,
        GEOMETRY,
    ),
    "wrap": Reason(
        "Weight of the wrap",
        "1000 ρ φ · π (D² − d²) ÷ 4,  √(1 + (πDt)²) − √(1 + (πdt)²) = A (2πt)² ÷ 2π",
        "Layer upon layer: the further out, the longer the fibre runs for a length of yarn. A is the strip's section.",
        _core,
        "Geometry; wrap packing calibrated.",
    ),
    "core": Reason(
        "Core twist",
        "own turns + wheel's turns",
        "The core turns with the wheel: tighter where directions match, looser where not.",
        _core,
        GEOMETRY,
    ),
    "coils": Reason("Coils", "coils = turns", "One coil to each turn of the wheel.", _coils, GEOMETRY),
    "packed": Reason(
        "Coils packed",
        "2 r_w t ÷ (1000 sin θ)",
        "At 100 % they touch and no more fit. θ is the lean of the coils themselves.",
        _coils,
        GEOMETRY,
    ),
    "coil": Reason(
        "Coils stand off", "√(O² − 1) ÷ (2πt)", "What is fed beyond the helix stands away.", _coils, GEOMETRY
    ),
}


def why(asked: str, rows: list[Row], reading: Reading, display: Display) -> Why | None:
    """Return the reason for a figure, asked for by its key and path; None where there is no such figure."""
    key, _, path = asked.partition("@")
    row = next((row for row in rows if row.path == path), None)
    reason = REASONS.get(key)
    if row is None or reason is None:
        return None
    inputs = reason.inputs(_About(reading, row.level, display))
    if inputs is None:
        return None
    part = "the yarn" if path == "yarn" else level_words(row.level)
    return Why(asked, reason.title, part, reason.formula, reason.words, inputs, reason.source)
