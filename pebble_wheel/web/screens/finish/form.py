"""What the finishing screen sends: the wash, the drying, and what is looked at."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import cast, get_args

from pebble_wheel.mechanics.counts import OUNCE
from pebble_wheel.mechanics.finish.alternatives import Over
from pebble_wheel.mechanics.finish.hung import drying_under, per_strand
from pebble_wheel.mechanics.finish.moments import MOMENTS, Moment
from pebble_wheel.mechanics.wash.bloom import Blocking, Drying, Finish, Wash
from pebble_wheel.notation.design import Design, FinishModel, finish_of
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.hung import Hung, read_hung
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.gestures import alone, in_order

REST_HOURS = 24.0
MOST_REST = 200.0
MOST_TYPED = 60


@dataclass(frozen=True)
class FinishForm:
    """What the page holds."""

    finish: Finish
    at: Moment
    over: Over
    rest_hours: float
    asked: str
    """Key of the figure whose reason is open."""
    model: FinishModel
    """All that is to be kept of it."""
    typed: dict[str, str]
    """The weight hung in the skein and its rounds, as typed."""
    faults: tuple[Fault, ...] = ()
    section: int | None = None
    """Of a yarn that changes along its length, which is looked at; None for the yarn as it is constructed."""
    painted: bool = True
    """Whether the yarn is to be painted, for a browser that does not draw it in relief."""


def read_form(typed: Mapping[str, str], design: Design, settings: Settings) -> FinishForm:
    """Return what a page sent; what makes no sense is as the design has it. A weight says how the skein dries."""
    own = finish_of(design)
    weight, faults = _hung(typed, design, settings)
    ironed = own.ironed if "wash" not in typed else typed.get("mill_ironed") == "yes"
    finish = Finish(
        cast(Wash, typed["wash"]) if typed.get("wash") in get_args(Wash) else own.wash,
        cast(Drying, typed["drying"]) if typed.get("drying") in get_args(Drying) else own.drying,
        ironed,
        cast(Blocking, typed["blocking"]) if typed.get("blocking") in get_args(Blocking) else own.blocking,
    )
    at = cast(Moment, typed["at"]) if typed.get("at") in MOMENTS else "dried"
    over = cast(Over, typed["over"]) if typed.get("over") in get_args(Over) else "finish"
    rest = typed.get("rest", "")
    hours = min(float(rest), MOST_REST) if rest.isdecimal() and len(rest) < 4 else REST_HOURS
    if weight:
        finish = replace(finish, drying=drying_under(float(per_strand(weight.grams, weight.rounds))))
    sent = "wash" in typed
    model = FinishModel(
        wash=finish.wash,
        drying=finish.drying,
        mill_ironed=finish.ironed,
        blocking=finish.blocking,
        again=typed.get("again") == "yes" if sent else design.finish.again,
        warm=typed.get("warm") == "yes" if sent else design.finish.warm,
        hung_grams=weight.grams if weight else None,
        hung_rounds=weight.rounds if weight else None,
    )
    asked = typed.get("ask", typed.get("asked", ""))
    return FinishForm(
        finish,
        at,
        over,
        hours,
        asked,
        model,
        _as_typed(typed, design, settings),
        faults,
        _section(typed.get("section", ""), design),
        "relief" not in typed,
    )


def _section(text: str, design: Design) -> int | None:
    several = len(in_order(design.sections or []))
    return int(text) if text.isdecimal() and len(text) < 4 and int(text) < several else None


def section_of(design: Design, section: int | None) -> Design:
    """Return the section of a yarn that is looked at, or the yarn as it is constructed."""
    if section is None or not design.sections:
        return design
    return alone(design, in_order(design.sections)[section][0])


def _hung(typed: Mapping[str, str], design: Design, settings: Settings) -> tuple[Hung | None, tuple[Fault, ...]]:
    """Return the weight in the skein, as far as it can be read."""
    told = _as_typed(typed, design, settings)
    try:
        return read_hung(told["hung_grams"], told["hung_rounds"], settings), ()
    except InputError as error:
        return None, error.faults


def _as_typed(typed: Mapping[str, str], design: Design, settings: Settings) -> dict[str, str]:
    """Return the weight and the rounds as they were typed, else as the design has them."""
    own = design.finish
    if own.hung_grams is None or own.hung_rounds is None:
        kept = {"hung_grams": "", "hung_rounds": ""}
    else:
        weight = f"{own.hung_grams / OUNCE:.4g} oz" if settings.mass == "oz" else f"{own.hung_grams:.4g} g"
        kept = {"hung_grams": weight, "hung_rounds": str(own.hung_rounds)}
    return {field: typed.get(field, value)[:MOST_TYPED] for field, value in kept.items()}


def finished_as(design: Design, model: FinishModel) -> Design:
    """Return a design with another finish."""
    return design.model_copy(update={"finish": model})
