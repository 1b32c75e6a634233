"""What the colour screen shows: braids, strands, the yarn as one strip, close, a skein, cloth, and others beside it."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import TypeVar, cast, get_args

import numpy as np
from markupsafe import Markup
from numpy.typing import NDArray

from pebble_wheel.drawing.colour import ARCS, ROUNDS, braid_svg, cloth_svg, strip_svg, wound_svg
from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.finish import State, length_scale, length_svg
from pebble_wheel.drawing.yarn import Relief
from pebble_wheel.mechanics.colour import bands
from pebble_wheel.mechanics.colour.oklab import difference, srgb_bytes
from pebble_wheel.mechanics.finish.cloth import PLAIN, sett
from pebble_wheel.mechanics.strand.structure import Chain
from pebble_wheel.notation.colouring import COLOURING_FIELDS, PARTS, SEED, WAY, Colouring, read_colouring
from pebble_wheel.notation.design import Design, SingleModel, walk
from pebble_wheel.notation.faults import InputError
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import choices_of
from pebble_wheel.web.shared.coloured import Coloured, coloured, spun_in, window_of
from pebble_wheel.web.shared.drawn import strands_address, swatches_of
from pebble_wheel.web.shared.planned import Worked, worked_out
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.colour import (
    BESIDE_WORDS,
    CLOSE,
    CLOTH_TITLE,
    CLOTH_WORDS,
    DISTANCE_WORDS,
    EYES_WORDS,
    PRESETS,
    SKEIN,
    STRIP,
    WAY_WORDS,
    WITHOUT_LOTS,
    braid_words,
    chain_words,
    cloth_words,
    contrast_words,
    drift_words,
    mud_words,
    next_words,
    runs_words,
    skeins_words,
    split_words,
)
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.plan import grams_words
from pebble_wheel.workshop.colour import (
    DRIFT,
    LOT_GRAMS,
    Beside,
    Fabric,
    Figures,
    Painted,
    bands_of_lot,
    beside_design,
    carried_beside,
    colours_of_lot,
    figures_of,
    knit_of,
    next_begins,
    paint,
    weave_of,
)
from pebble_wheel.workshop.running import run_along, run_of, tex_of

Kind = TypeVar("Kind", bound=np.generic)

STRIP_PLACES = 1200
"""Places of the yarn along its strip."""

USUALLY_BESIDE: tuple[Beside, ...] = ("chain", "ply-3", "ply-2", "fractal")
MOST_BESIDE = 4
UNLIKE = 0.02
"""Difference in OKLab of two halves of a yarn, from which on its skeins are called unlike (assumed)."""


@dataclass(frozen=True)
class Braid:
    """A lot laid out."""

    words: str
    picture: Markup
    amounts: list["Amount"]
    """Grams of each colour."""


@dataclass(frozen=True)
class StrandRow:
    """One strand with how its fibre is prepared."""

    name: str
    way: str
    """Field."""
    now: str
    parts_field: str
    parts: str
    seed_field: str
    seed: str
    cut: bool
    """Whether it is cut into parts."""
    shuffled: bool
    words: str
    picture: Markup


@dataclass(frozen=True)
class Amount:
    """Yarn of one colour."""

    colour: str
    words: str


@dataclass(frozen=True)
class BesideRow:
    """The same fibre made otherwise."""

    kind: str
    words: str
    picture: Markup
    lines: list[str]


@dataclass(frozen=True)
class ColourParts:
    """What changes while one chooses."""

    braids: list[Braid]
    strands: list[StrandRow]
    strip: Markup
    close: Markup
    skein: Markup
    cloth: Markup
    told: list[str]
    cloth_told: list[str]
    amounts: list[Amount]
    beside: list[BesideRow]


@dataclass(frozen=True)
class ColourView:
    """The page."""

    number: int
    name: str
    thread: Thread | None
    typed: dict[str, str]
    faults: dict[str, str]
    parts: ColourParts
    chosen: tuple[str, ...]
    at_share: float
    """Where along the yarn it is seen close."""
    metres: float
    kept: bool
    changed: bool
    unkept: str
    without_lots: str

    ways = choices_of(WAY_WORDS)
    cloths = choices_of(CLOTH_WORDS)
    distances = choices_of(DISTANCE_WORDS)
    eyes = choices_of(EYES_WORDS)
    presets = choices_of(PRESETS)
    besides = choices_of(BESIDE_WORDS)


def view_of_colour(
    number: int,
    design: Design,
    typed: dict[str, str],
    desk: Desk,
    today: date,
    kept: bool,
    changed: bool,
    beside: tuple[str, ...] | None,
    unkept: str,
    painted: bool,
) -> ColourView:
    """Return what the page shows.

    Raises:
        InputError: where the yarn cannot be made.
    """
    desk = desk.for_yarn(number, design)
    worked = worked_out(design, typed, {}, desk, today)
    run = run_along(design, desk.evaluator.made)
    colouring, faults = read_colouring(typed, len(spun_in(run)), desk.settings)
    found = coloured(design, run, worked, colouring, desk)
    figures = figures_of(found.painted)
    at = _close_at(found.painted, colouring)
    chosen = tuple(each for each in (USUALLY_BESIDE if beside is None else beside) if each in get_args(Beside))
    cloth = _cloth(found.painted, colouring, worked, at)
    parts = ColourParts(
        _braids(found, desk),
        _strands(found, typed, colouring, worked, desk),
        Markup(_strip(found.painted, at)),
        _close(found, at, painted, desk),
        _skein(found.painted),
        _cloth_picture(cloth, colouring),
        _told(found, figures, colouring, worked, desk),
        _cloth_told(cloth, figures, colouring),
        _amounts(found.painted, figures, desk),
        _beside(chosen[:MOST_BESIDE], found, worked, desk),
    )
    return ColourView(
        number,
        design.name,
        desk.load_thread(number, "colour"),
        {**COLOURING_FIELDS, **typed},
        {fault.place: fault.message for fault in faults},
        parts,
        chosen,
        at / max(float(found.painted.x[-1]), 1.0),
        found.painted.metres,
        kept,
        changed,
        unkept,
        "" if found.fibres else WITHOUT_LOTS,
    )


def _close_at(painted: Painted, colouring: Colouring) -> float:
    """Return the place that is seen close [mm]: the one asked for, else where what shows changes first."""
    if colouring.at is not None:
        return min(colouring.at, float(painted.x[-1]))
    changes = np.flatnonzero((np.diff(painted.numbers, axis=1) != 0).any(axis=0))
    return float(painted.x[changes[0]]) if changes.size else float(painted.x[-1]) / 2


def _braids(found: Coloured, desk: Desk) -> list[Braid]:
    braids = []
    for place, fibre in enumerate(found.fibres):
        lot = fibre.lot.lot
        own = colours_of_lot(lot)
        told = bands_of_lot(lot, {each: at for at, each in enumerate(own)})
        colours = [own[each] for each in told.colours]
        ends = told.ends / told.whole
        words = braid_words(lot.name, grams_words(fibre.grams, desk.display) if lot.grams or fibre.grams else "")
        grams = bands.by_colour(told).of(fibre.grams)
        amounts = [
            Amount(own[number], grams_words(float(each), desk.display))
            for number, each in zip(grams.colours, grams.lengths, strict=True)
        ]
        braids.append(Braid(words, Markup(braid_svg(ends, colours, told.blended, f"{place}", words)), amounts))
    return braids


def _strands(
    found: Coloured, typed: Mapping[str, str], colouring: Colouring, worked: Worked, desk: Desk
) -> list[StrandRow]:
    names = {each.path: level_words(each.level) for each in worked.needs.strands}
    rows = []
    for place, each in enumerate(found.spun):
        how = colouring.strands[place]
        run = float(np.median(each.told.lengths)) / 1000
        runs = desk.display.metres(run) if len(each.told.lengths) > 1 else ""
        grams = grams_words(each.grams, desk.display) if each.grams else "–"
        along = np.linspace(0, each.told.whole, STRIP_PLACES // 3)
        colours = srgb_bytes(bands.lab_at(each.told, found.painted.palette.labs, along))[None]
        name = names.get(each.strand.path, "")
        rows.append(
            StrandRow(
                f"{place + 1}: {name}",
                f"{WAY}{place}",
                how.way,
                f"{PARTS}{place}",
                typed.get(f"{PARTS}{place}", ""),
                f"{SEED}{place}",
                typed.get(f"{SEED}{place}", ""),
                how.way in ("strips", "broken"),
                how.way == "broken",
                split_words(how, grams, runs),
                Markup(strip_svg(colours, np.ones((1, 1)), -1, f"{place + 1}", lines=1)),
            )
        )
    return rows


def _thinned(along: NDArray[Kind], places: int) -> NDArray[Kind]:
    """Return what every strand that shows has at so many places along the yarn."""
    return np.asarray(along[:, np.linspace(0, along.shape[1] - 1, places).round().astype(int)])


def _strip(painted: Painted, at: float) -> str:
    colours = _thinned(painted.tones, STRIP_PLACES)
    return strip_svg(colours, _thinned(painted.shares, STRIP_PLACES), at / max(float(painted.x[-1]), 1.0), STRIP)


def _close(found: Coloured, at: float, painted: bool, desk: Desk) -> Markup:
    design, place = window_of(found, at)
    reading = desk.evaluator.read(design, desk.settings)
    made = reading.made
    relief = Relief(strands_address(design, reading.constants.middle_of(made.node), place), painted)
    scale = length_scale(made, 1.0)
    plied = State(bloomed=False, thick=1.0, length=1.0)
    sizes = reading.diameter_as_plied
    svg = length_svg(made, dress_of(design.yarn), "close", CLOSE, scale, 1.0, sizes, False, relief, plied, place)
    return Markup(svg)


def _skein(painted: Painted) -> Markup:
    pieces = ROUNDS * ARCS
    at = np.linspace(0, painted.x.size - 1, pieces).round().astype(int)
    return Markup(wound_svg(srgb_bytes(painted.mix[at]), SKEIN))


def _cloth(painted: Painted, colouring: Colouring, worked: Worked, at: float) -> Fabric:
    """Return cloth round the place that is seen close."""
    if colouring.cloth == "weave":
        between = 100 / float(sett(worked.reading.diameter_finished.p50, PLAIN))
        begins = max(at - colouring.rows * colouring.stitches * between / 2, 0.0)
        return weave_of(painted, colouring.stitches, colouring.rows, between, begins)
    knit = swatches_of(worked.reading)[1]
    begins = max(at - colouring.rows * colouring.stitches * knit.length / 2, 0.0)
    return knit_of(painted, knit, colouring.stitches, colouring.rows, begins, colouring.cloth == "flat")


def _cloth_picture(cloth: Fabric, colouring: Colouring) -> Markup:
    return Markup(cloth_svg(cloth.tones, cloth.shown, cloth.wide, cloth.high, colouring.cloth == "weave", CLOTH_TITLE))


def _told(found: Coloured, figures: Figures, colouring: Colouring, worked: Worked, desk: Desk) -> list[str]:
    painted, display = found.painted, desk.display
    lines = [runs_words(figures, painted.palette.colours, display), mud_words(figures), contrast_words(figures)]
    node = worked.reading.node
    if isinstance(node, Chain):
        shortest = min(float(np.median(each.told.lengths)) for each in found.spun)
        warning = chain_words(shortest, float(np.asarray(node.loop)), display)
        lines += [warning] if warning else []
    halves = np.array_split(painted.mix, 2)
    if float(difference(halves[0].mean(axis=0), halves[1].mean(axis=0))) > UNLIKE:
        lines.append(skeins_words())
    begins = next_begins(painted) / 1000
    if len(painted.course.used) > 1 and figures.solid:
        lines.append(drift_words(DRIFT, DRIFT * painted.metres, display))
    return [*lines, *([next_words(begins, display)] if len(painted.palette.colours) > 1 and begins else [])]


def _cloth_told(cloth: Fabric, figures: Figures, colouring: Colouring) -> list[str]:
    rows = {
        f"{each}": 1000 * metres / cloth.in_a_row
        for each, metres in sorted(figures.runs.items(), key=lambda own: own[1])
    }
    return cloth_words(cloth.told, rows, colouring.cloth == "round")


def _amounts(painted: Painted, figures: Figures, desk: Desk) -> list[Amount]:
    return [
        Amount(painted.palette.colours[each], desk.display.metres(metres))
        for each, metres in sorted(figures.metres.items())
    ]


def _beside(chosen: tuple[str, ...], found: Coloured, worked: Worked, desk: Desk) -> list[BesideRow]:
    """Return the same fibre made in other ways, from the first single that is spun."""
    single = next((each for _, _, each in walk(found.design.yarn) if isinstance(each, SingleModel)), None)
    if single is None:
        return []
    told = _fibre_of(found)
    waste = worked.fibres[0].waste if worked.fibres else 0.0
    fibre = (waste, told.colours.tobytes(), told.lengths.tobytes(), found.painted.palette)
    key = (_beside, chosen, single.model_dump_json(), found.design.finish, fibre, desk.display)
    return desk.evaluator.recall(key, lambda: _made_otherwise(chosen, single, told, found, waste, desk))


def _made_otherwise(
    chosen: tuple[str, ...],
    single: SingleModel,
    told: bands.Bands,
    found: Coloured,
    waste: float,
    desk: Desk,
) -> list[BesideRow]:
    painted, rows = found.painted, []
    for kind in cast("tuple[Beside, ...]", chosen):
        design = beside_design(kind, single, found.design.finish)
        try:
            made = desk.evaluator.made(design)
        except InputError:
            continue
        other = paint(run_of(made, design.yarn), carried_beside(kind, design, told, waste, 0), painted.palette, None)
        figures = figures_of(other)
        lines = [
            desk.display.metres(other.metres),
            runs_words(figures, painted.palette.colours, desk.display),
            mud_words(figures),
            contrast_words(figures),
        ]
        colours = _thinned(other.tones, STRIP_PLACES // 2)
        picture = Markup(strip_svg(colours, _thinned(other.shares, STRIP_PLACES // 2), -1, BESIDE_WORDS[kind], lines=2))
        rows.append(BesideRow(kind, BESIDE_WORDS[kind], picture, lines))
    return rows


def _fibre_of(found: Coloured) -> bands.Bands:
    """Return the colours along all the fibre of a yarn [grams]; of one without lots, as its first strand has them."""
    numbers = {each: place for place, each in enumerate(found.painted.palette.colours)}
    if found.fibres:
        return bands.one_after_another([bands_of_lot(each.lot.lot, numbers).of(each.grams) for each in found.fibres])
    first = next((each for each in found.spun), None)
    if first is None:
        return bands.Bands(np.array([0]), np.array([LOT_GRAMS]))
    return bands.Bands(first.told.colours, first.told.lengths * tex_of(first.strand) / 1_000_000)
