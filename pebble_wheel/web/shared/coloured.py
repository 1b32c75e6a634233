"""A yarn with the colours of its plan: what each strand carries, and how it is painted."""

from collections.abc import Mapping
from dataclasses import dataclass

from pebble_wheel.mechanics.colour import bands
from pebble_wheel.notation.colouring import Colouring, Prepared
from pebble_wheel.notation.design import (
    BoughtModel,
    Design,
)
from pebble_wheel.store.lots import Lot
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.planned import Worked
from pebble_wheel.workshop.colour import (
    LOT_GRAMS,
    USUAL_METRES,
    Carried,
    Painted,
    Palette,
    bands_of_lot,
    colours_of_lot,
    own_bands,
    own_colours,
    paint,
    prepared,
)
from pebble_wheel.workshop.running import Run, Strand, dressed_at, tex_of


@dataclass(frozen=True)
class Fibre:
    """A lot that goes into a yarn, with how much of it."""

    lot: Lot
    grams: float


@dataclass(frozen=True)
class Coloured:
    """A yarn painted with its plan."""

    design: Design
    run: Run
    painted: Painted
    spun: list[Carried]
    """Of fibre, in order; preparations are typed for these."""
    fibres: list[Fibre]
    """Lots that go into it."""


def spun_in(run: Run) -> list[Strand]:
    """Return the strands that are spun of fibre, for which preparations are typed, in order."""
    return [each for each in run.strands if not isinstance(each.model, BoughtModel)]


def coloured(design: Design, run: Run, worked: Worked, colouring: Colouring, desk: Desk) -> Coloured:
    """Return a yarn painted with the lots of its plan, each strand as it is prepared; else with its own colours."""
    known = {each.uid: each for each in desk.lots}
    planned = [known.get(each.lot) for each in worked.plan.lots]
    fibres = [
        Fibre(lot, each.grams or LOT_GRAMS) for lot, each in zip(planned, worked.fibres, strict=True) if lot is not None
    ]
    strands = run.strands
    said = [each for fibre in fibres for each in colours_of_lot(fibre.lot.lot)]
    said += [each for strand in strands for each in own_colours(strand.model)]
    palette = Palette(tuple(dict.fromkeys(said)), colouring.eyes, colouring.distance)
    numbers = {each: place for place, each in enumerate(palette.colours)}
    ways = iter(colouring.strands)
    carried, spun = [], []
    for strand in strands:
        own = isinstance(strand.model, BoughtModel)
        each = _carried(strand, Prepared() if own else next(ways, Prepared()), worked, planned, numbers)
        carried.append(each)
        if not own:
            spun.append(each)
    once = worked.along.whole.metres if worked.along else None
    metres = worked.reckoned.metres or once
    return Coloured(design, run, paint(run, carried, palette, metres), spun, fibres)


def _carried(
    strand: Strand, how: Prepared, worked: Worked, planned: list[Lot | None], numbers: Mapping[str, int]
) -> Carried:
    line = next((at for at, each in enumerate(worked.reckoned.strands) if each.strand.path == strand.path), None)
    told, whole, usable = [], 0.0, 0.0
    for place, lot in enumerate(planned):
        if lot is None or line is None:
            continue
        of = worked.reckoned.strands[line].strand.count
        grams = float(worked.reckoned.parts[place, line]) / of if worked.fibres[place].grams else LOT_GRAMS / of
        if grams > 0:
            told.append(bands_of_lot(lot.lot, numbers).of(grams))
            whole += grams
            usable += grams / (1 + worked.fibres[place].waste)
    if not told:
        metres = worked.reckoned.metres or USUAL_METRES
        long = 4000 * max(metres, 1.0) * max((each.metres_per_metre for each in worked.reading.levels), default=1.0)
        return Carried(strand, own_bands(strand.model, numbers, long), 0.0)
    laid = prepared(bands.one_after_another(told), how)
    return Carried(strand, laid.of(1_000_000 * usable / tex_of(strand)), whole)


def window_of(found: Coloured, at: float) -> tuple[Design, float]:
    """Return what is laid at a place of the yarn [mm] as a design, with its colours there, and the place in it."""
    painted = found.painted
    told = {each.strand.key: each.told for each in painted.carried}
    own = dressed_at(found.run, told, painted.palette.colours, at)
    return found.design.model_copy(update={"version": 1, "sections": None, "yarn": own.yarn}), own.place
