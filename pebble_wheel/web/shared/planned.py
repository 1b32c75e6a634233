"""A plan of a yarn worked out with what a person has: what goes into each strand, and the days of it."""

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from pebble_wheel.mechanics.finish.cloth import stitches
from pebble_wheel.mechanics.finish.projects import metres_for
from pebble_wheel.mechanics.making.amounts import WASTE
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import Design, SingleModel
from pebble_wheel.notation.faults import Fault
from pebble_wheel.notation.log import Planned
from pebble_wheel.notation.plan import LOTS, PLAN_FIELDS, Plan, PlannedLot, read_plan
from pebble_wheel.store import records
from pebble_wheel.store.lots import Lot
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.plan import OTHER_FIBRE
from pebble_wheel.workshop.plan import Days, Fibre, Needs, Reckoned, days_of, needs_of, reckon_plan, tasks_of
from pebble_wheel.workshop.sequence import Along, read_along


@dataclass(frozen=True)
class Worked:
    """A plan worked out."""

    plan: Plan
    faults: tuple[Fault, ...]
    needs: Needs
    fibres: list[Fibre]
    reckoned: Reckoned
    days: Days
    reading: Reading
    names: dict[str, str]
    typed: Mapping[str, str]
    along: Along | None
    """How it changes along its length; None where it does not."""


def typed_for(design: Design, typed: Mapping[str, str], lots: Sequence[Lot]) -> dict[str, str]:
    """Return the fields of a plan; a new one begins with the lots that the yarn is of."""
    if typed:
        return {**PLAN_FIELDS, **typed}
    text = design.model_dump_json()
    own = [each.uid for each in lots if f'"lot":"{each.uid}"' in text][:LOTS]
    return {**PLAN_FIELDS, **{f"lot-{place}": uid for place, uid in enumerate(own, 1)}}


def worked_out(
    design: Design, typed: Mapping[str, str], done: Mapping[str, datetime], desk: Desk, today: date
) -> Worked:
    """Return a plan worked out.

    Raises:
        InputError: where the yarn cannot be made.
    """
    settings = desk.settings
    reading = desk.evaluator.read(design, settings)
    along = read_along(design, desk.evaluator, settings, desk.hands) if design.sections else None
    needs = needs_of(design, reading, along)
    plan, faults = read_plan(typed, len(needs.strands), len(needs.bobbins), settings)
    known = {each.uid: each for each in desk.lots}
    fibres = [_fibre(each, known, needs) for each in plan.lots]
    reckoned = reckon_plan(plan, needs, fibres, _wanted(plan, reading), desk.tools.bobbins)
    tasks = tasks_of(plan, reading, design, reckoned, desk.tools)
    names = {each.path: level_words(each) for each in reading.levels}
    return Worked(
        plan, faults, needs, fibres, reckoned, days_of(plan, tasks, today, done), reading, names, typed, along
    )


def _fibre(planned: PlannedLot, known: Mapping[str, Lot], needs: Needs) -> Fibre:
    lot = known.get(planned.lot)
    grams = planned.grams
    if grams is None:
        grams = (lot.left if lot else None) or 0.0
    waste = planned.waste
    if waste is None:
        waste = lot.lot.waste if lot else _usual(needs)
    return Fibre(lot.lot.name if lot else OTHER_FIBRE, grams, waste)


def _usual(needs: Needs) -> float:
    first = needs.strands[0].model if needs.strands else None
    return WASTE[first.prep if isinstance(first, SingleModel) else "combed"]


def _wanted(plan: Plan, reading: Reading) -> float | None:
    match plan.want:
        case "all":
            return None
        case "metres":
            return plan.metres or 0.0
        case "thing":
            gauge = float(stitches(reading.wpi_finished.p50))
            return float(metres_for(plan.thing, plan.large, gauge)[1])


def planned_of(connection: sqlite3.Connection, number: int) -> Planned | None:
    """Return what is planned of a yarn, the newest; None where nothing is."""
    found = records.plan(connection, number)
    return found.record if found else None


def ticked(planned: Planned | None) -> dict[str, datetime]:
    """Return when steps were ticked off; what cannot be read is not done."""
    found: dict[str, datetime] = {}
    for key, text in planned.done.items() if planned else ():
        try:
            found[key] = datetime.fromisoformat(text).replace(tzinfo=None)
        except ValueError:
            continue
    return found


def metres_of(worked: Worked, path: str) -> float:
    """Return the metres that are planned of one such strand, or of the yarn; 0 of what lies between."""
    for each in worked.reckoned.strands:
        if each.strand.path == path:
            return each.metres
    return worked.reckoned.metres if path == worked.reading.levels[0].path else 0.0


def bobbins_of(worked: Worked, path: str) -> list[int]:
    """Return on how many bobbins such strands go, all of them, or the yarn."""
    if path == worked.reading.levels[0].path:
        return [worked.reckoned.yarn_bobbins]
    return [each.bobbins for each in worked.reckoned.strands if each.strand.path == path]
