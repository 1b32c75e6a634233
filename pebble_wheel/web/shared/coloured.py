"""A yarn with the colours of its plan: what each strand carries, and how it is painted."""

from collections.abc import Mapping
from dataclasses import dataclass

from pebble_wheel.mechanics.colour import bands
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.colouring import Colouring, Prepared
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
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
    Strand,
    bands_of_lot,
    colours_of_lot,
    own_bands,
    own_colours,
    paint,
    prepared,
    strands_of,
    tex_of,
)

MOST_COLOURS = 200
"""Of one strand, that a design file holds."""


@dataclass(frozen=True)
class Fibre:
    """A lot that goes into a yarn, with how much of it."""

    lot: Lot
    grams: float


@dataclass(frozen=True)
class Coloured:
    """A yarn painted with its plan."""

    design: Design
    painted: Painted
    spun: list[Carried]
    """Of fibre, in order; preparations are typed for these."""
    fibres: list[Fibre]
    """Lots that go into it."""


def spun_in(design: Design) -> list[Strand]:
    """Return the strands that are spun of fibre, for which preparations are typed, in order."""
    return [each for each in strands_of(design.yarn) if not isinstance(each.model, BoughtModel)]


def coloured(design: Design, made: Made, worked: Worked, colouring: Colouring, desk: Desk) -> Coloured:
    """Return a yarn painted with the lots of its plan, each strand as it is prepared; else with its own colours."""
    known = {each.uid: each for each in desk.lots}
    planned = [known.get(each.lot) for each in worked.plan.lots]
    fibres = [
        Fibre(lot, each.grams or LOT_GRAMS) for lot, each in zip(planned, worked.fibres, strict=True) if lot is not None
    ]
    strands = strands_of(design.yarn)
    said = [each for fibre in fibres for each in colours_of_lot(fibre.lot.lot)]
    said += [each for strand in strands for each in own_colours(strand.model)]
    palette = Palette(tuple(dict.fromkeys(said)), colouring.eyes)
    numbers = {each: place for place, each in enumerate(palette.colours)}
    ways = iter(colouring.strands)
    carried, spun = [], []
    for strand in strands:
        own = isinstance(strand.model, BoughtModel)
        each = _carried(strand, Prepared() if own else next(ways, Prepared()), worked, planned, numbers)
        carried.append(each)
        if not own:
            spun.append(each)
    metres = worked.reckoned.metres or None
    return Coloured(design, paint(made, carried, palette, metres), spun, fibres)


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
    """Return a design whose strands carry what they do up to a place of the yarn and beyond, and the place [mm] in it.

    A design file holds so many colours of a strand: where there are more before, the place lies where they end.
    """
    by = {(each.strand.path, each.strand.slot): each for each in found.painted.carried}
    palette = found.painted.palette
    reach = at
    for shown in found.painted.shows:
        own = next(each for each in found.painted.carried if each.strand.key == shown.key)
        ends = own.told.ends
        if len(ends) > MOST_COLOURS:
            used = float(shown.at[-1] - shown.at[0]) / max(float(found.painted.x[-1]), 1.0)
            reach = min(reach, float(ends[MOST_COLOURS - 2]) / max(used, 1e-9))
    taken: dict[Address, int] = {}

    def worn(path: Address) -> dict[str, object]:
        slot = taken.get(path, 0)
        taken[path] = slot + 1
        told = by[path, slot].told
        many = min(len(told.lengths), MOST_COLOURS)
        colours = [palette.colours[number] for number in told.colours[:many]]
        lengths = [max(float(each) / 1000, 1e-4) for each in told.lengths[:many]]
        return {"colours": colours, "colour_lengths_m": lengths, "colour_run_m": None}

    def within(model: NodeModel, path: Address) -> NodeModel:
        match model:
            case SingleModel() | BoughtModel():
                return model.model_copy(update=worn(path))
            case PlyModel():
                own = [
                    within(each.model_copy(update={"count": 1}), path.inner(f"strands[{place}]"))
                    for place, each in enumerate(model.strands)
                    for _ in range(each.count)
                ]
                return model.model_copy(update={"strands": own})
            case ChainModel():
                return model.model_copy(update={"strand": within(model.strand, path.inner("strand"))})
            case CoreSpunModel():
                wrap = model.wrap.model_copy(update=worn(path.inner("wrap")))
                return model.model_copy(update={"wrap": wrap, "core": within(model.core, path.inner("core"))})
            case WrappedModel():
                return model.model_copy(
                    update={
                        "binder": within(model.binder, path.inner("binder")),
                        "wrapper": within(model.wrapper, path.inner("wrapper")),
                    }
                )

    return found.design.model_copy(update={"yarn": within(found.design.yarn, WHOLE)}), reach
