"""What the finishing screen sends: the wash, the drying, and what is looked at."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import cast, get_args

from pebble_wheel.mechanics.finish.alternatives import Over
from pebble_wheel.mechanics.finish.moments import MOMENTS, Moment
from pebble_wheel.mechanics.wash.bloom import Blocking, Drying, Finish, Wash
from pebble_wheel.notation.design import Design, FinishModel, finish_of

REST_HOURS = 24.0
MOST_REST = 200.0


@dataclass(frozen=True)
class FinishForm:
    """What the page holds."""

    finish: Finish
    at: Moment
    over: Over
    rest_hours: float
    asked: str
    """Key of the figure whose reason is open."""


def read_form(typed: Mapping[str, str], design: Design) -> FinishForm:
    """Return what a page sent; what makes no sense is as the design has it."""
    own = finish_of(design)
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
    return FinishForm(finish, at, over, hours, typed.get("ask", typed.get("asked", "")))


def finished_as(design: Design, finish: Finish) -> Design:
    """Return a design with another finish."""
    model = FinishModel(wash=finish.wash, drying=finish.drying, mill_ironed=finish.ironed, blocking=finish.blocking)
    return design.model_copy(update={"finish": model})
