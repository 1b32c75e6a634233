"""Colour from the lots of a plan to the yarn and its cloth: what each strand carries, what shows, what it comes to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray, IntArray
from pebble_wheel.mechanics.colour import bands, fabric, oklab, seen
from pebble_wheel.mechanics.colour.bands import Bands
from pebble_wheel.mechanics.colour.showing import WRAP, Course, Key, showing_along
from pebble_wheel.mechanics.finish.knit import Knit
from pebble_wheel.mechanics.strand.state import Made, MadeNest, mass
from pebble_wheel.mechanics.strand.structure import CoreSpun, wrap_of
from pebble_wheel.notation.colour import UNDYED, Eyes, seen_by
from pebble_wheel.notation.colouring import Distance, Prepared
from pebble_wheel.notation.design import (
    USUAL_RUN_M,
    BoughtModel,
    Design,
    FinishModel,
    NodeModel,
    SingleModel,
    WrapModel,
    new_design,
)
from pebble_wheel.notation.lot import LotModel
from pebble_wheel.workshop.plan import CHAIN_LOOP
from pebble_wheel.workshop.running import Run, Strand, run_of, strands_of, tex_of

PIECES = 6
"""In which each colour of a lot lies that is of random order (assumed)."""

BLENDED = 0.7
"""Share of a band over which colours run into each other where they are blended (assumed)."""

FINEST, FEWEST, MOST = 10.0, 1500, 16_000
"""mm of yarn between two places that are looked at, and how few and how many places there are."""

MOST_BANDS = 4000
"""Along one strand."""

USUAL_METRES = 60.0
"""Of yarn, where nothing is planned."""

LONGEST = 5e6
"""mm of yarn that are painted at the most."""

JUST_SEEN, MORE, COMPARED = 0.02, 20, 300
"""Difference in OKLab of neighbours from which on a colour changes, places that are compared before that, and how many
are compared at the most."""

DRIFT = 0.03
"""By which strands meant alike are spun unlike, on the whole (assumed)."""

LOT_GRAMS = 100.0
"""Of fibre, where a lot was not weighed."""

ACROSS: dict[Distance, float] = {"reading": seen.READING, "arm": seen.ARM, "room": seen.ROOM}


@dataclass(frozen=True)
class Palette:
    """Colours by number, as they are and as they are looked at."""

    colours: tuple[str, ...]
    eyes: Eyes = "own"
    distance: Distance = "arm"
    """From which they are looked at."""

    @cached_property
    def labs(self) -> FloatArray:
        """OKLab of each."""
        return oklab.oklab(np.array([_components(seen_by(each, self.eyes)) for each in self.colours]))


def _components(colour: str) -> list[float]:
    return [int(colour[place : place + 2], 16) / 255 for place in (1, 3, 5)]


def hexes(labs: FloatArray) -> list[str]:
    """Return OKLab colours, of shape (n, 3), as pages write them."""
    told = oklab.srgb_bytes(labs).tobytes().hex()
    return [f"#{told[place : place + 6]}" for place in range(0, len(told), 6)]


def bands_of_lot(lot: LotModel, numbers: Mapping[str, int]) -> Bands:
    """Return the colours along a lot, in shares of it."""
    own = [numbers[each] for each in colours_of_lot(lot)]
    if lot.order == "heather":
        return Bands(np.array(own), np.ones(1))
    found = Bands(np.array(own), np.array(lot.lengths or [1.0] * len(own)), BLENDED if lot.edges == "blended" else 0.0)
    return bands.at_random(found, PIECES, lot.seed) if lot.order == "random" else found


def colours_of_lot(lot: LotModel) -> list[str]:
    """Return the colours that a lot is spun in; of one blended on cards the colour that comes of it."""
    if lot.order != "heather":
        return [each.lower() for each in lot.colours]
    light = np.array([_components(each) for each in lot.colours])
    return hexes(oklab.carded(light, np.array(lot.lengths or [1.0] * len(light)))[None])


def prepared(told: Bands, how: Prepared) -> Bands:
    """Return what a preparation makes of the colours along fibre."""
    match how.way:
        case "whole":
            return told
        case "other-end":
            return bands.other_end(told)
        case "strips":
            return bands.strips(told, how.parts)
        case "broken":
            return bands.broken(told, how.parts, how.seed)
        case "by-colour":
            return bands.by_colour(told)


def own_bands(model: SingleModel | BoughtModel | WrapModel, numbers: Mapping[str, int], length: float) -> Bands:
    """Return the colours along a strand [mm] as the design has them, over and over."""
    own = [numbers[each] for each in own_colours(model)]
    if len(own) == 1:
        return Bands(np.array(own), np.array([length]))
    lengths = np.array(model.colour_lengths_m or [model.colour_run_m or USUAL_RUN_M] * len(own)) * 1000
    again = int(min(max(np.ceil(length / lengths.sum()), 1), MOST_BANDS // len(own) + 1))
    return Bands(np.tile(np.array(own), again), np.tile(lengths, again))


def own_colours(model: SingleModel | BoughtModel | WrapModel) -> list[str]:
    """Return the colours of a strand as the design has them."""
    return [each.lower() for each in model.colours or [UNDYED]]


@dataclass(frozen=True)
class Carried:
    """What one strand carries."""

    strand: Strand
    told: Bands
    """mm of strand."""
    grams: float
    """Of fibre; 0 of what no lot is planned for."""


@dataclass(frozen=True)
class Painted:
    """A yarn with its colours along it."""

    palette: Palette
    course: Course
    """How its strands run through it."""
    x: FloatArray
    """Places, mm of yarn as plied."""
    numbers: IntArray
    """Of the colour of each strand that shows at each place, shape (strands, places)."""
    labs: FloatArray
    """The same as colours, shape (strands, places, 3)."""
    shares: FloatArray
    """Of what is seen, of each, shape (strands, places): 0 where fewer strands show than elsewhere."""
    beside: IntArray
    """How many strands show at each place."""
    lead: FloatArray
    """mm of yarn for one turn of it at each place."""
    carried: list[Carried]

    @property
    def metres(self) -> float:
        """Of yarn."""
        return float(self.x[-1]) / 1000

    @property
    def step(self) -> float:
        """mm between two places."""
        return float(self.x[1] - self.x[0])

    @cached_property
    def mix(self) -> FloatArray:
        """What is seen from afar, shape (places, 3)."""
        return seen.mixed(self.labs, self.shares)

    @cached_property
    def tones(self) -> NDArray[np.uint8]:
        """What is seen of each strand [sRGB], shape (strands, places, 3)."""
        share = seen.blended_share(ACROSS[self.palette.distance], self.lead / self.beside, self.beside)
        return oklab.srgb_bytes(seen.seen_at(self.labs, self.mix, share))


def paint(run: Run, carried: Sequence[Carried], palette: Palette, metres: float | None) -> Painted:
    """Return a yarn painted with what its strands carry, as far as the first of them goes.

    Args:
        run: the yarn.
        carried: by every strand.
        palette: colours by number.
        metres: of yarn that are wanted; None for all that the strands make.
    """
    told = {each.strand.key: each.told for each in carried}
    course = run.course
    reach = min(told[key].whole / max(each, 1e-12) for key, each in course.used.items())
    long = min(1000 * metres, reach) if metres else min(reach, LONGEST)
    places = int(np.clip(long / FINEST, FEWEST, MOST))
    x = np.linspace(0, long, places)
    along = list(showing_along(course, x))
    rows = max(len(shows) for _, shows in along)
    numbers = np.empty((rows, places), int)
    labs, shares = np.empty((rows, places, 3)), np.zeros((rows, places))
    beside = np.ones(places, int)
    for here, shows in along:
        for row in range(rows):
            each = shows[row % len(shows)]
            numbers[row, here] = bands.colour_at(told[each.key], each.at)
            labs[row, here] = bands.lab_at(told[each.key], palette.labs, each.at)
            shares[row, here] = each.share if row < len(shows) else 0.0
        beside[here] = len(shows)
    leads = np.array([_lead(each.made) for each in course.stretches])
    lead = leads[course.order[course.sections_at(x)]]
    return Painted(palette, course, x, numbers, labs, shares, beside, lead, list(carried))


def _lead(made: Made) -> float:
    """Return mm of yarn for one turn of it."""
    turns = abs(float(made.state.twist_now)) if isinstance(made, MadeNest) else 0.0
    return 1000 / turns if turns > 1 and not isinstance(made.node, CoreSpun) else 1000.0


@dataclass(frozen=True)
class Figures:
    """What a painted yarn comes to."""

    solid: float
    """Share of it in which all that shows is of one colour."""
    runs: dict[int, float]
    """Middling length of such a piece [m], by colour."""
    longest: float
    """m."""
    kept: float
    """Chroma of the mix over that of its parts."""
    contrast: float
    metres: dict[int, float]
    """Of yarn in which a colour is most of what shows."""


def figures_of(painted: Painted) -> Figures:
    """Return what a painted yarn comes to."""
    runs = seen.solid_runs(painted.numbers, painted.step)
    long = painted.metres * 1000
    colours = range(len(painted.palette.colours))
    most = _of_each(painted, colours).argmax(axis=0)
    return Figures(
        float(runs.lengths.sum() / long),
        {
            each: float(np.median(runs.lengths[runs.colours == each])) / 1000
            for each in colours
            if (runs.colours == each).any()
        },
        float(runs.lengths.max()) / 1000 if runs.lengths.size else 0.0,
        seen.kept_chroma(painted.labs, painted.shares, painted.mix),
        seen.contrast(painted.labs),
        {each: float((most == each).mean()) * painted.metres for each in colours if (most == each).any()},
    )


def _of_each(painted: Painted, colours: Sequence[int]) -> FloatArray:
    """Return the share of what shows that each colour takes, shape (colours, places)."""
    return np.stack([(painted.shares * (painted.numbers == each)).sum(axis=0) for each in colours])


@dataclass(frozen=True)
class Fabric:
    """A piece of cloth of a painted yarn."""

    tones: NDArray[np.uint8]
    """sRGB along the yarn, of each strand that shows, shape (strands, places, 3)."""
    shown: IntArray
    """Which of these both legs of every stitch are, or both halves of every crossing, counted strand by strand; shape
    (rows, stitches, 2)."""
    told: fabric.Told
    in_a_row: float
    """Yarn [mm]."""
    wide: float
    """A stitch [mm]."""
    high: float


def knit_of(
    painted: Painted,
    cloth: Knit,
    stitches: int,
    rows: int,
    begins: float,
    flat: bool,
) -> Fabric:
    """Return cloth knit of a yarn from a place [mm] on, as many rows as there is yarn for at the most."""
    rows = max(min(rows, int((painted.x[-1] - begins) / (stitches * cloth.length))), 1)
    at = fabric.knitted(rows, stitches, cloth.length, begins, flat)
    return Fabric(
        painted.tones,
        _legs(painted, at),
        fabric.told_of(_mix_at(painted, at)),
        stitches * cloth.length,
        cloth.wale,
        cloth.course,
    )


def weave_of(painted: Painted, ends: int, picks: int, between: float, begins: float) -> Fabric:
    """Return plain weave of a yarn, as weft from a place [mm] on, over a warp of the same.

    Args:
        painted: the yarn.
        ends: of warp.
        picks: as many at the most as there is yarn for.
        between: two ends, and two picks [mm].
        begins: place of the weft.
    """
    in_a_pick = ends * between * fabric.WOVEN_IN
    picks = max(min(picks, int((painted.x[-1] - begins) / in_a_pick)), 1)
    at = fabric.woven(picks, ends, between, begins)
    weft, warp = _legs(painted, at), _legs(painted, np.linspace(0, painted.x[-1], ends)[None])[0]
    over = fabric.warp_over(picks, ends)
    cloth = np.where(over[..., None], warp[None], weft)
    return Fabric(painted.tones, cloth, fabric.told_of(_mix_at(painted, at)), in_a_pick, between, between)


def _places(painted: Painted, at: FloatArray) -> IntArray:
    return np.clip(np.rint(at / painted.step).astype(int), 0, painted.x.size - 1)


def _mix_at(painted: Painted, at: FloatArray) -> FloatArray:
    return np.take(painted.mix, _places(painted, at), axis=0)


def _legs(painted: Painted, at: FloatArray) -> IntArray:
    """Return what the legs of stitches show, one strand each, by places counted strand by strand."""
    places, strands = _places(painted, at), len(painted.numbers)
    legs = np.arange(2 * places.size).reshape(*places.shape, 2) % strands
    return np.asarray(legs * painted.x.size + places[..., None])


def next_begins(painted: Painted) -> float:
    """Return where another skein of the same colours is begun so that it goes on as this one ends [mm].

    What is compared reaches back to before the last change of colour, so that the last one is as long.
    """
    changes = np.flatnonzero(oklab.difference(painted.mix[1:], painted.mix[:-1]) > JUST_SEEN)
    back = painted.x.size - int(changes[-1]) if changes.size else 0
    window = min(back + MORE, painted.x.size // 3)
    every = max(window // COMPARED, 1)
    thinned = painted.mix[::-1][::every][::-1]
    return float(painted.x[::-1][::every][::-1][seen.begin_next(thinned, thinned, window // every)])


def kept_of(made: Made, model: NodeModel, told: Bands, colours: int) -> float:
    """Return the share of what shows that the colour most seen takes, the mean along a yarn.

    Fibre is shared out by mass, every strand spun of it from the same end; strands that are meant alike are spun a
    little unlike, by :data:`DRIFT` from one to the next, so that colours that begin together come apart.

    Args:
        made: the yarn.
        model: the design that it is made of, in structure.
        told: colours along all the fibre, grams.
        colours: how many there are; threads in hand have one of their own.
    """
    strands = strands_of(model)
    spun = [each for each in strands if not isinstance(each.model, BoughtModel)]
    tex = {each.key: _tex_at(made, each.key) for each in spun}
    whole = sum(tex.values())
    carried = []
    for strand in strands:
        if strand.key not in tex:
            carried.append(Carried(strand, Bands(np.array([colours]), np.array([1e9])), 0.0))
            continue
        grams = told.whole * tex[strand.key] / whole
        off = 1 + DRIFT * (spun.index(strand) - (len(spun) - 1) / 2)
        carried.append(Carried(strand, told.of(1_000_000 * grams / tex[strand.key] * off), grams))
    painted = paint(run_of(made, model), carried, Palette((UNDYED,) * (colours + 1)), None)
    return float(_of_each(painted, range(colours + 1)).max(axis=0).mean())


def _tex_at(made: Made, key: Key) -> float:
    """Return the linear density of a strand that is spun, by which strand it is."""
    for member, _ in key:
        if not isinstance(made, MadeNest) or member == WRAP[0]:
            break
        made = made.members[member]
    wrap = wrap_of(made.node)
    return float(np.asarray(wrap.tex if wrap else mass(made.state)))


Beside = Literal["chain", "ply-3", "ply-2", "fractal", "core-spun", "single"]
"""Ways to make a yarn of the same fibre, laid side by side."""

FRACTAL = (Prepared(), Prepared("strips", 3), Prepared("strips", 9))

HELD_CORE, STRIP_TEX, STRIP_WIDE, WOUND = 120.0, 800.0, 10.0, 175.0
"""Of a core-spun yarn that is looked at beside others: tex of core and strip, its width [mm], and turns/m."""


def beside_design(kind: Beside, single: SingleModel, finish: FinishModel) -> Design:
    """Return a yarn of another structure of the same single."""
    return new_design(kind, _beside_yarn(kind, single), finish)


def _beside_yarn(kind: Beside, single: SingleModel) -> dict[str, object]:
    spun = single.model_copy(update={"count": 1}).model_dump(exclude_none=True)
    other = "S" if single.twist.direction == "Z" else "Z"
    quiet = {"of_balanced": 1.0, "direction": other}
    match kind:
        case "single":
            return spun
        case "chain":
            return {"kind": "chain", "strand": spun, "loop_mm": CHAIN_LOOP, "twist": quiet}
        case "ply-2" | "ply-3" | "fractal":
            many = 2 if kind == "ply-2" else 3
            return {"kind": "ply", "strands": [{**spun, "count": many}], "twist": quiet}
        case "core-spun":
            held = {"turns_per_m": 350.0, "direction": other}
            wrap = {"fibre": spun["fibre"], "prep": single.prep, "strip_tex": STRIP_TEX, "strip_width_mm": STRIP_WIDE}
            return {
                "kind": "core-spun",
                "core": {"kind": "bought", "tex": HELD_CORE, "twist": held},
                "wrap": wrap,
                "twist": {"turns_per_m": WOUND, "direction": single.twist.direction},
            }


def carried_beside(kind: Beside, design: Design, told: Bands, waste: float, thread: int) -> list[Carried]:
    """Return what the strands of a yarn carry that shares fibre out evenly.

    Args:
        kind: which of those laid beside each other.
        design: see :func:`beside_design`.
        told: colours along the fibre, grams.
        waste: a share.
        thread: number of the colour of a thread in hand.
    """
    strands = strands_of(design.yarn)
    spun = [each for each in strands if not isinstance(each.model, BoughtModel)]
    ways = iter(FRACTAL if kind == "fractal" else [Prepared()] * len(spun))
    found = []
    for strand in strands:
        if isinstance(strand.model, BoughtModel):
            found.append(Carried(strand, Bands(np.array([thread]), np.array([1e9])), 0.0))
            continue
        grams = told.whole / len(spun)
        laid = prepared(told.of(grams), next(ways))
        found.append(Carried(strand, laid.of(1_000_000 * grams / (1 + waste) / tex_of(strand)), grams))
    return found
