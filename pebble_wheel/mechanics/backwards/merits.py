"""What a yarn is good for: nine merits between 0 and 1, each computed from its structure.

The figures that go in are mechanics; where a score begins and ends is assumed, chosen so that the structures a spinner
knows come out in the order of common practice. None of it is told a structure's name.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.fibre.packing import DENSEST as DENSEST_PACKED
from pebble_wheel.mechanics.fibre.table import Fibre
from pebble_wheel.mechanics.making import wheel
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import Band, wraps_band
from pebble_wheel.mechanics.reading.reading import Level, levels_of
from pebble_wheel.mechanics.reading.spread import Cause, causes_of
from pebble_wheel.mechanics.reading.uneven import Thickness, thickness
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.section import Shape, shape_of, shown
from pebble_wheel.mechanics.strand.state import LeafState, Made, MadeNest, leaves, mass, nests, wrap_packing, wraps
from pebble_wheel.mechanics.strand.structure import (
    CHAIN_LEGS,
    Bought,
    Chain,
    CoreSpun,
    Leaf,
    Ply,
    Rod,
    Single,
    Wrapped,
    coiled,
    loop_of,
)
from pebble_wheel.mechanics.wash.bloom import Finish, growth, room, shrinkage

Aspect = Literal["round", "smooth", "wear", "elastic", "light", "drape", "colours", "quick", "forgiving"]

LEAST_ROUND = 0.75
"""Circularity that scores nothing."""

DEEPEST_GROOVE = 0.5
"""Mean depth, over the radius, that scores nothing."""

HARDEST_FIBRE = 35.0
"""µm from which on a fibre wears no better: coarse wool."""

MEAN_FIBRE = 2 / 3
"""Of the surface fibres' tan, the mean over the section of a single."""

FIRMEST = np.radians(30.0)
"""By eye a ply at 30° is firm: common practice, no source."""

CHAIN_WEAR = 0.85
"""A broken leg of a chain runs."""

SPRINGY, CRIMPY = 0.014, 6.0
"""Bending (κr)² and free crimps per cm at which a yarn stretches well."""

DENSEST = 0.45
"""Packing of the whole yarn that leaves no air worth speaking of."""

STIFF = 0.7
"""Effective thickness [mm] at which drape has sunk to a third."""

USUAL_MICRON = 25.0
"""Fibre of a bought thread of which nothing is known (assumed)."""

THREAD_HELD = 0.2
"""Share of the fibres of a bought thread that bend as one (assumed)."""

SLOW = 12.0
"""Hours for 100 g at which quickness has sunk to a third."""

ROUGH = 0.23
"""Local spread of thickness, p10 to p90 over p50, at which forgiveness has sunk to a third."""

COLOUR_STEPS = 240
"""Places along a chain at which its legs are compared."""


@dataclass(frozen=True)
class Hands:
    """What a spinner spins with."""

    ratios: tuple[float, ...] = (10.0,)
    """Turns for one beat: of a wheel, flyer turns for one treadle, by whorl."""
    pace: float = wheel.TREADLES_PER_MINUTE
    """Beats a minute."""
    beat: wheel.Beat = wheel.TREADLED
    laps: float = 0.0
    """That a metre makes round a bobbin that leads, and that have to be driven besides its twist; else 0."""

    def driven(self, turns_per_m: float) -> float:
        """Return the turns that a metre wants of what is driven, without sign."""
        return abs(turns_per_m) + self.laps


@dataclass(frozen=True)
class Merit:
    """A score with the figures it was computed from, by name."""

    score: float
    inputs: dict[str, float]


@dataclass(frozen=True)
class Step:
    """One step of making: a strand spun or plied."""

    level: Level
    metres: float
    """Of all such strands, in a metre of yarn."""
    ratio: float
    """Of those owned, the one to make it with."""
    driven: float
    """Turns of what is driven for a metre of one strand."""
    beat: wheel.Beat
    hours: float
    """For a metre of yarn."""


@dataclass(frozen=True)
class Judged:
    """A made yarn with all that it is ranked by."""

    made: Made
    levels: tuple[Level, ...]
    wpi_finished: Band
    """Relaxed, of uneven spinning."""
    steps: tuple[Step, ...]
    finished_tex: float
    merits: dict[Aspect, Merit]


def judge(
    made: Made,
    finish: Finish,
    constants: Constants,
    hands: Hands,
    colour_run: float,
    varied: Thickness | None = None,
    shape: Shape | None = None,
) -> Judged:
    """Return the merits of a yarn of scalar values.

    Args:
        made: the yarn.
        finish: washing and drying.
        constants: of the rod and of the spreads.
        hands: the spinner's wheel and pace.
        colour_run: length of strand in one colour, mm.
        varied: how thick uneven spinning makes it, where that is known.
        shape: of a cut across it, where that is known.
    """
    varied = varied or thickness(made, finish, constants)
    levels = tuple(levels_of(made, None))
    steps = steps_of(levels, hands)
    tex = float(mass(made.state) / made.state.length)
    finished_tex = tex / (1 - float(shrinkage(made.state, finish)))
    shape, sizes = shape or shape_of(made), varied.finished
    merits: dict[Aspect, Merit] = {
        "round": _round(shape.circularity),
        "smooth": _smooth(made, shape.groove),
        "wear": _wear(made, levels),
        "elastic": _elastic(made, constants.rod_for(made.node)),
        "light": _light(made, finish, finished_tex),
        "drape": _drape(made),
        "colours": _colours(made, colour_run),
        "quick": _quick(steps, tex),
        "forgiving": _forgiving(levels, causes_of(made.node), varied),
    }
    return Judged(made, levels, wraps_band(sizes), steps, finished_tex, merits)


def _share(value: float) -> float:
    return float(min(max(value, 0.0), 1.0))


def steps_of(levels: Iterable[Level], hands: Hands) -> tuple[Step, ...]:
    """Return the steps of making a yarn, the last first; what was bought is not made."""
    return tuple(_step(level, hands) for level in levels if not isinstance(level.node, Bought))


def _step(level: Level, hands: Hands) -> Step:
    driven, fed = hands.driven(level.turns_per_m_as_made), wheel.feeding(level.node)
    ratio = wheel.best_ratio(hands.ratios, driven, hands.pace, fed)
    metres = level.metres_per_metre * level.strands
    hours = float(wheel.hours(metres, driven, ratio, hands.pace, fed))
    return Step(level, metres, ratio, driven, hands.beat, hours)


def _round(circular: float) -> Merit:
    return Merit(_share((circular - LEAST_ROUND) / (1 - LEAST_ROUND)), {"circularity": circular})


def _smooth(made: Made, depth: float) -> Merit:
    """Grooves between strands, and the links of a chain for as much of the length as they take."""
    bumps = 0.0
    for state in nests(made.state):
        if loop_of(state.node) is not None:
            links = kinds.chain(state)
            bumps += (links.bump - 1) * links.links_per_m * np.pi * float(state.seats[0].state.diameter) / 1000
    return Merit(_share(1 - (depth + bumps) / DEEPEST_GROOVE), {"groove": depth, "bumps": bumps})


def _wear(made: Made, levels: tuple[Level, ...]) -> Merit:
    """Coarse fibre, held by a steep lay somewhere, hidden by many strands, and none that can run or stands proud.

    Fibre that lies square to a core is held by it as little as one that lies along it.
    """
    spun = [level.node for level in levels if isinstance(level.node, Single)]
    micron = min((node.fibre.mid_micron for node in spun), default=HARDEST_FIBRE)
    strands = sum(level.strands * _legs(levels, level) for level in levels if isinstance(level.node, Leaf))
    laid = [level for level in levels if not isinstance(level.node, Leaf) and not coiled(level.node)] or list(
        levels[:1]
    )
    angle = max(abs(level.angle) for level in laid)
    runs = CHAIN_WEAR if any(loop_of(level.node) is not None for level in levels) else 1.0
    match made.node:
        case Single():
            angle = float(np.arctan(MEAN_FIBRE * np.tan(angle)))
        case CoreSpun():
            micron, strands = made.node.wrap.fibre.mid_micron, 1
            angle = min(abs(levels[0].angle), np.pi / 2 - abs(levels[0].angle))
        case Wrapped():
            angle = FIRMEST * _lies_close(made)
        case Bought() | Ply() | Chain():
            pass  # as it lies
    score = np.sqrt(_share(micron / HARDEST_FIBRE)) * _share(angle / FIRMEST) * (1 - 1 / (1 + strands)) * runs
    return Merit(_share(score), {"micron": micron, "angle": angle, "strands": strands, "chain": runs})


def _lies_close(made: Made) -> float:
    """Return the share of their distance from the axis at which coils touch what they are wound on; 1 of any other."""
    if not isinstance(made, MadeNest) or not coiled(made.node):
        return 1.0
    return float(made.state.seats[-1].radius) / kinds.away(made.state, len(made.state.seats) - 1)


def _legs(levels: tuple[Level, ...], inner: Level) -> int:
    """Return how many legs of one strand lie side by side where a chain is part of the way to it."""
    chains = [level for level in levels if loop_of(level.node) is not None and inner.path.startswith(f"{level.path}.")]
    return int(CHAIN_LEGS ** len(chains))


def _elastic(made: Made, rod: Rod) -> Merit:
    """Strands bent like springs, which is energy stored in bending, and crimp that is free to act.

    The strand that comes taut first ends the stretch: the one with the least of both counts. A wrap is straight fibre.
    """
    found = []
    for wrap, _ in wraps(made.state):
        crimp = _crimp(wrap.fibre, wrap_packing(wrap))
        found.append((crimp / CRIMPY, 0.0, crimp))
    for leaf, _, curvature_squared in leaves(made.state):
        r = float(leaf.bobbin_diameter) / 2
        bent = float(np.asarray(rod.bend_to_twist * curvature_squared)) * r**2
        crimp = _crimp(leaf.node.fibre, leaf.packing) if isinstance(leaf.node, Single) else 0.0
        found.append((bent / SPRINGY + crimp / CRIMPY, bent, crimp))
    stretch, bent, crimp = min(found)
    return Merit(_share(1 - np.exp(-stretch)), {"bent": bent, "crimp": crimp})


def _crimp(fibre: Fibre, packing: Floats) -> float:
    """Return the crimps per cm that packing leaves free to act."""
    return sum(fibre.crimp) / 2 * float(np.asarray(room(packing)))


def _light(made: Made, finish: Finish, finished_tex: float) -> Merit:
    """The air within the finished thickness."""
    density = _density(made)
    thick = float(made.state.diameter * growth(made.state, finish))
    packed = 4 * finished_tex / (1000 * np.pi * thick**2 * density)
    return Merit(_share(1 - packed / DENSEST), {"packed": packed})


def _drape(made: Made) -> Merit:
    """How softly it falls in cloth: how thick a rod would bend as it does, its weight the same.

    Fibres that slide bend each for itself, as ``d_f²``; those that twist and packing hold bend as one rod of the
    strand, as ``D²``: ``r² = d_f² + s (D² − d_f²)`` with the share held ``s = φ sin²(lean) / 0.8`` (assumed), the mean
    by mass over all strands, each as thick as it lies, and over the whole, which its lay holds together.
    """
    whole = float(made.state.diameter)
    lay = float(np.sin(made.state.angle) ** 2) if isinstance(made, MadeNest) and not coiled(made.node) else 0.0
    total = bent = held_mass = 0.0
    for leaf, pieces, _ in leaves(made.state):
        own = float(np.asarray(pieces)) * float(np.asarray(leaf.node.tex))
        fine, held = _fineness(leaf)
        thick = float(leaf.diameter)
        bent += own * (fine**2 + held * (thick**2 - fine**2) + held * lay * (whole**2 - thick**2))
        held_mass += own * held
        total += own
    for wrap, state in wraps(made.state):
        own, fine = float(state.wrap_mass), wrap.fibre.mid_micron / 1000
        bent, total = bent + own * fine**2, total + own
    rod = float(np.sqrt(bent / total))
    return Merit(_share(np.exp(-rod / STIFF)), {"thick": whole, "held": held_mass / total, "rod": rod})


def _fineness(leaf: LeafState) -> tuple[float, float]:
    """Return the fibre diameter of a leaf [mm] and the share of its fibres that bend as one."""
    match leaf.node:
        case Single():
            held = float(leaf.packing) / DENSEST_PACKED * float(np.sin(leaf.angle) ** 2)
            return leaf.node.fibre.mid_micron / 1000, held
        case Bought():
            return (leaf.node.fibre.mid_micron if leaf.node.fibre else USUAL_MICRON) / 1000, THREAD_HELD


def _density(made: Made) -> float:
    """Return the mean density of the fibre [g/cm³], by mass; a bought thread counts as wool."""
    volume, total = 0.0, 0.0
    for leaf, pieces, _ in leaves(made.state):
        own = float(np.asarray(pieces)) * float(np.asarray(leaf.node.tex))
        volume += own / (leaf.node.fibre.density if isinstance(leaf.node, Single) else 1.31)
        total += own
    for wrap, state in wraps(made.state):
        volume += float(state.wrap_mass) / wrap.fibre.density
        total += float(state.wrap_mass)
    return total / volume


def _colours(made: Made, run: float) -> Merit:
    """The share of what shows that the colour most seen takes, where each strand goes through the colours by itself."""
    thick = np.array(shown(made))
    strands, kept = len(thick), float(thick.max() / thick.sum())
    if isinstance(made, MadeNest):
        match made.node:
            case CoreSpun():
                kept, strands = _share(kinds.core_spun(made.state).coverage), 1
            case Wrapped():
                kept = _share(kinds.wrapped(made.state).coverage)
            case Chain():
                strands = strands // CHAIN_LEGS
                kept = _alike_legs(float(np.asarray(made.node.loop)), run) / strands
            case Ply():
                pass  # as its strands show
    return Merit(_share(kept), {"kept": kept, "strands": float(strands)})


def _alike_legs(loop: float, run: float) -> float:
    """Return the share of the three legs of a chain that the colour most seen takes, the mean along the chain."""
    along = (np.arange(COLOUR_STEPS) + 0.5) / COLOUR_STEPS * max(run / CHAIN_LEGS, loop) * 7
    colours = np.sort(np.floor(np.stack(kinds.legs_at(along, loop)) / run), axis=0)
    alike = 1 + (np.diff(colours, axis=0) == 0).sum(axis=0)
    return float(np.mean(alike) / CHAIN_LEGS)


def _quick(steps: tuple[Step, ...], tex: float) -> Merit:
    """Hours at the wheel, by twist, ratio and what hands can feed."""
    per_100_g = sum(step.hours for step in steps) * 100_000 / tex
    return Merit(_share(np.exp(-per_100_g / SLOW)), {"hours": per_100_g})


def _forgiving(levels: tuple[Level, ...], causes: tuple[Cause, ...], varied: Thickness) -> Merit:
    """How little thick and thin places show: the band of thickness, where strands side by side even each other out.

    In the band like strands vary alike; of its variance each cause has the share that its rank correlation says,
    and strands that are uneven each for itself divide theirs by their number.
    """
    sizes = varied.finished
    wide = (sizes.p90 - sizes.p10) / sizes.p50
    beside = {level.node: level.strands * _legs(levels, level) for level in levels}
    shares = varied.correlations**2
    total = float(shares.sum())
    local = sum(
        float(share) / beside[cause.node] for share, cause in zip(shares, causes, strict=True) if cause.node is not None
    )
    spread = wide * float(np.sqrt(local / total)) if total else 0.0
    return Merit(_share(np.exp(-spread / ROUGH)), {"band": wide, "local": spread})
