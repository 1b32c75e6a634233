"""A plan of the making as typed: what is wanted, which fibre goes where, the days, and what the scale says since."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal, cast, get_args

from pebble_wheel.mechanics.finish.projects import Large, Project
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colouring import is_colouring
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.lot import MOST_WASTE
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length, read_mass

Want = Literal["all", "metres", "thing"]
LOTS = 6
"""That one plan can draw on."""

MOST_SHARE, MOST_DAY, MOST_WAIT, MOST_ROUNDS = 1000.0, 24.0, 400.0, 100_000

YARN_WEIGHS = "weight-yarn"
"""The field of what the bobbin weighs on which the yarn is plied."""

PLAN_FIELDS: dict[str, str] = {
    "want": "all",
    "metres": "",
    "thing": "mittens",
    "large": "medium",
    "rests": "yes",
    "rest": "24",
    "dry": "36",
    "hours": "1.5",
    "start": "",
    "due": "",
    "rounds": "",
    "around": "",
    "accent": "",
    "leftover": "",
    YARN_WEIGHS: "",
    **{f"lot-{place}": "" for place in range(1, LOTS + 1)},
    **{f"grams-{place}": "" for place in range(1, LOTS + 1)},
    **{f"waste-{place}": "" for place in range(1, LOTS + 1)},
}
"""What can be typed besides shares and weights, and what an empty plan holds."""


TOOL, ON = "tool-", "on-"
"""Before the key of a step, in the field of what it is made on; before a bobbin's place, of which bobbin that is."""

Way = Literal["", "accept", "even", "ball", "bracelet", "chain"]
"""What is done with what is left on bobbins."""


def share_field(lot: int, strand: int) -> str:
    """Return the field of the share of a lot that goes into a strand."""
    return f"share-{lot}-{strand}"


def weight_field(bobbin: int) -> str:
    """Return the field of what a bobbin weighs on the scale."""
    return f"weight-{bobbin}"


_SPUN_AGAIN = ("want", "metres", "thing", "large", "rests", "rest", "dry", "hours", "accent")


def for_another(typed: Mapping[str, str], lots: Collection[str]) -> dict[str, str]:
    """Return what of a plan holds for the same yarn spun again: no days, nothing weighed, no lots that are gone.

    Args:
        typed: the fields.
        lots: uids of those in hand.
    """
    fields = {name: said for name, said in typed.items() if name in _SPUN_AGAIN or is_colouring(name)}
    own = {name: said for name, said in typed.items() if name.startswith("lot-") and said in lots}
    return fields | own


@dataclass(frozen=True)
class PlannedLot:
    """Fibre that goes into a yarn."""

    place: int
    """Of its row in the plan."""
    lot: str
    """Uid of one in hand; empty of any other."""
    grams: float | None
    """None where all of it is meant."""
    waste: float | None
    """A share; None for the usual one."""
    shares: tuple[float | None, ...]
    """By strand; None where it is as much as the strand wants."""


@dataclass(frozen=True)
class Plan:
    """What is planned."""

    want: Want
    metres: float | None
    thing: Project
    large: Large
    lots: tuple[PlannedLot, ...]
    weights: tuple[float | None, ...]
    """Of each bobbin to be plied, with what is on it [g]."""
    rest_hours: float
    """0 where singles are plied at once."""
    dry_hours: float
    hours_a_day: float
    start: date | None
    due: date | None
    rounds: float | None
    around_mm: float | None
    tools: dict[str, str]
    """What a step is made on, by its key: uid of a tool, or ``motor`` or ``spindle`` of any; else the one used most."""
    accent: float
    """Share of the fibre that is chained from the same single, as an accent."""
    on: dict[int, str]
    """Keys of the bobbins that were chosen, by the place of the strand; that of the yarn comes after all strands."""
    yarn_weighs: float | None
    """What the bobbin with the yarn made so far weighs [g]."""
    leftover: Way
    """What is done with what is left."""


def read_plan(
    typed: Mapping[str, str], strands: int, bobbins: int, settings: Settings
) -> tuple[Plan, tuple[Fault, ...]]:
    """Return a plan with what in it cannot be read, each at its field; what cannot counts as not said.

    Args:
        typed: the fields.
        strands: that fibre can go into.
        bobbins: that are plied in the last step.
        settings: units where none is written.
    """
    shares = {share_field(lot, strand): "" for lot in range(1, LOTS + 1) for strand in range(strands)}
    weighed = {weight_field(bobbin): "" for bobbin in range(bobbins)}
    form = Form(typed, {**PLAN_FIELDS, **shares, **weighed})
    want = cast(Want, form.one_of("want", get_args(Want)))
    metres = form.read("metres", lambda text, place: read_length(text, settings.long_unit, place) / 1000)
    if want == "metres" and metres is None and not any(each.place == "metres" for each in form.faults):
        form.faults.append(Fault("metres", "say how much yarn is wanted, like 400 m"))
    plan = Plan(
        want,
        metres,
        cast(Project, form.one_of("thing", get_args(Project))),
        cast(Large, form.one_of("large", get_args(Large))),
        tuple(_lots(form, strands, settings)),
        tuple(form.read(each, lambda text, place: read_mass(text, settings.mass, place)) for each in weighed),
        _hours(form, "rest", MOST_WAIT) if form.one_of("rests", ("yes", "no")) == "yes" else 0.0,
        _hours(form, "dry", MOST_WAIT),
        _hours(form, "hours", MOST_DAY) or 1.5,
        form.read("start", _day),
        form.read("due", _day),
        form.read("rounds", _rounds),
        form.read("around", lambda text, place: read_length(text, settings.width_unit, place)),
        _tools(typed),
        form.read("accent", _percent) or 0.0,
        {place: typed[f"{ON}{place}"] for place in range(bobbins + 1) if typed.get(f"{ON}{place}")},
        form.read(YARN_WEIGHS, lambda text, place: read_mass(text, settings.mass, place)),
        cast(Way, form.one_of("leftover", get_args(Way))),
    )
    return plan, tuple(form.faults)


def _tools(typed: Mapping[str, str]) -> dict[str, str]:
    return {name.removeprefix(TOOL): text for name, text in typed.items() if name.startswith(TOOL) and text}


def _lots(form: Form, strands: int, settings: Settings) -> Sequence[PlannedLot]:
    found = []
    for place in range(1, LOTS + 1):
        lot = form.text(f"lot-{place}")
        grams = form.read(f"grams-{place}", lambda text, field: read_mass(text, settings.mass, field))
        if not lot and grams is None:
            continue
        waste = form.read(f"waste-{place}", _percent)
        shares = tuple(form.read(share_field(place, strand), _share) for strand in range(strands))
        found.append(PlannedLot(place, lot, grams, waste, shares))
    return found


def _hours(form: Form, field: str, most: float) -> float:
    def read(text: str, place: str) -> float:
        number = read_number(text.lower().removesuffix("h").strip(), place)
        if not 0 <= number <= most:
            raise InputError(Fault(place, f"must lie between 0 and {most:g} hours"))
        return number

    return form.read(field, read) or 0.0


def _percent(text: str, place: str) -> float:
    number = read_number(text.replace("%", ""), place)
    if not 0 <= number <= MOST_WASTE:
        raise InputError(Fault(place, f"must lie between 0 and {MOST_WASTE:g} %, not {number:g}"))
    return number / 100


def _share(text: str, place: str) -> float:
    number = read_number(text, place)
    if not 0 <= number <= MOST_SHARE:
        raise InputError(Fault(place, f"a share is 0 to {MOST_SHARE:g}, not {number:g}"))
    return number


def _rounds(text: str, place: str) -> float:
    number = read_number(text, place)
    if number != int(number) or not 1 <= number <= MOST_ROUNDS:
        raise InputError(Fault(place, "count the rounds of the skein, a whole number"))
    return number


def _day(text: str, place: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise InputError(Fault(place, f"'{text[:20]}' is no day; write it like 2026-12-01")) from None
