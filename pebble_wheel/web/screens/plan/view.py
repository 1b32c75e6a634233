"""What a plan shows: the flow, the splits, the bobbins, what is left, and the days."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, time

import numpy as np
from markupsafe import Markup

from pebble_wheel.drawing.flow import Box, flow_svg
from pebble_wheel.drawing.yarn import thickness
from pebble_wheel.mechanics.finish.hung import per_strand
from pebble_wheel.mechanics.making.splitting import skein_metres
from pebble_wheel.notation.colouring import read_colouring
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.plan import LOTS, ON, PLAN_FIELDS, YARN_WEIGHS, Plan, share_field, weight_field
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.coloured import spun_in
from pebble_wheel.web.shared.planned import Worked, worked_out
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.colour import prepared_words
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.examples import Like, like
from pebble_wheel.wording.hands import behind_words
from pebble_wheel.wording.making import hours_words
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.plan import (
    FAULTS,
    FLOW,
    NO_FIBRE,
    OTHER_FIBRE,
    REST_WORDS,
    THING_WORDS,
    WANT_WORDS,
    YARN_SO_FAR,
    StrandWords,
    WayWords,
    accent_words,
    bobbin_advice,
    ends_first_words,
    grams_words,
    label_lines,
    moment_words,
    orifice_words,
    pace_words,
    strand_words,
    task_time,
    task_words,
    way_words,
    yarn_words,
)
from pebble_wheel.wording.projects import LARGE_WORDS
from pebble_wheel.wording.thread import day_words
from pebble_wheel.wording.tools import tool_choices
from pebble_wheel.workshop.calendar import Dated
from pebble_wheel.workshop.plan import Needs, accent_design, accent_of, bobbin_for, minutes_for
from pebble_wheel.workshop.running import run_along

COLOURS = ("#7a8f6a", "#b0713f", "#5f7f9d", "#9a6a8f", "#b59a4a", "#5d8f8a")
"""Of lots whose own colours are not known."""

YARN = "#c9d2cd"


@dataclass(frozen=True)
class LotRow:
    """One row of fibre."""

    place: int
    lot: str
    grams: str
    waste: str
    hint: str
    """What is in hand."""
    shares: list[tuple[str, str, str]]
    """Field, as typed, and what it comes to."""


@dataclass(frozen=True)
class TaskRow:
    """One step with its day."""

    key: str
    words: str
    time: str
    done: str
    """When it was ticked off; empty where it was not."""
    waits: bool
    tool: str
    """What it is made on, as it was chosen."""
    tools: tuple[Choice, ...]
    """What it can be made on; none of what is made on nothing."""
    strand: str
    """Address of what is made at the wheel; empty where nothing of the yarn is."""
    faults: tuple[str, ...]


@dataclass(frozen=True)
class BobbinRow:
    """A bobbin to be weighed."""

    field: str
    name: str
    typed: str
    on: str
    """Field of which bobbin it is."""
    key: str
    """Of that."""


@dataclass(frozen=True)
class Label:
    """What hangs on the skein."""

    name: str
    lines: list[str]


@dataclass(frozen=True)
class PlanParts:
    """What changes while one types."""

    flow: Markup
    yarn: str
    strands: list[StrandWords]
    advice: list[str]
    ends: list[str]
    ways: list[WayWords]
    tasks: list[TaskRow]
    work: str
    pace: str
    """Where it was counted, else empty."""
    ready: str
    skein: str
    label: Label
    behind: str
    prepared: str
    """How fibre is prepared for its colours; empty where it is as it is."""
    accent: str


@dataclass(frozen=True)
class PlanView:
    """The page."""

    number: int
    name: str
    thread: Thread | None
    typed: dict[str, str]
    faults: dict[str, str]
    rows: list[LotRow]
    lots: list[Choice]
    strands: list[str]
    bobbins: list[BobbinRow]
    """Of the strands that are laid, then that of the yarn."""
    owned: list[Choice]
    parts: PlanParts
    kept: bool
    changed: bool
    unkept: str
    like: Like
    gone: list[str]
    """What was planned for strands that the yarn has no more."""

    wants = choices_of(WANT_WORDS)
    things = choices_of(THING_WORDS)
    larges = choices_of(LARGE_WORDS)
    rests = choices_of(REST_WORDS)
    no_fibre = NO_FIBRE


def parts_of(worked: Worked, done: Mapping[str, datetime], design: Design, desk: Desk, today: date) -> PlanParts:
    """Return what the page shows of a plan."""
    display, reckoned, reading = desk.display, worked.reckoned, worked.reading
    tools = desk.tools
    lots = [each.name for each in worked.fibres]
    colouring, _ = read_colouring(worked.typed, len(spun_in(run_along(design, desk.evaluator.made))), desk.settings)
    strands = [
        strand_words(each, list(zip(lots, reckoned.parts[:, place].tolist(), strict=True)), display)
        for place, each in enumerate(reckoned.strands)
    ]
    advice = bobbin_advice(reckoned, tools.bobbins, reading, display)
    laid_on = tools.named(worked.plan.tools.get(f"make-{reading.levels[0].path}", ""))
    pieces = [each.reading.made for each in worked.along.parts] if worked.along else [reading.made]
    thick = orifice_words(max(map(thickness, pieces)), laid_on.orifice if laid_on else None, display)
    return PlanParts(
        Markup(_flow(worked, desk)),
        yarn_words(reckoned, display),
        strands,
        [*advice, *([thick] if thick else [])],
        ends_first_words(reckoned, list(worked.needs.bobbins), _minutes(worked, desk), display),
        ways_of(worked, desk),
        [_task(each, worked, done, desk) for each in worked.days.tasks],
        hours_words(worked.days.hours),
        pace_words(desk.learned.pace) if desk.learned.pace else "",
        moment_words(worked.days.tasks[-1].ends) if worked.days.tasks else "",
        _skein(worked.plan, display),
        _label(worked, design.name, today, display),
        behind_words(reading.constants, reading.node),
        prepared_words(colouring),
        _accent(worked, design, desk),
    )


def ways_of(worked: Worked, desk: Desk) -> list[WayWords]:
    """Return the ways to use what is left, once all bobbins were weighed."""
    reckoned, bobbins = worked.reckoned, desk.tools.bobbins
    if reckoned.ways is None or reckoned.weighed is None:
        return []
    to = bobbin_for(worked.plan, reckoned.weighed.first, bobbins)
    return way_words(reckoned, reckoned.ways, to.empty if to else 0.0, worked.plan.leftover, desk.display)


def _minutes(worked: Worked, desk: Desk) -> float:
    """Return the minutes until the first bobbin ends."""
    weighed = worked.reckoned.weighed
    return minutes_for(worked.reading, weighed.metres, desk.hands) if weighed else 0.0


def _accent(worked: Worked, design: Design, desk: Desk) -> str:
    """Return what an accent comes to; empty where none is planned, or none can be had of this yarn."""
    chain = accent_design(design, worked.reading) if worked.plan.accent else None
    if chain is None:
        return ""
    try:
        accent = accent_of(worked.plan, worked.reckoned, desk.evaluator.read(chain))
    except InputError:
        return ""
    return accent_words(accent, worked.reading, worked.reckoned, desk.display)


def _flow(worked: Worked, desk: Desk) -> str:
    display, reckoned = desk.display, worked.reckoned
    known = {each.uid: each for each in desk.lots}
    lots = []
    for place, (planned, fibre) in enumerate(zip(worked.plan.lots, worked.fibres, strict=True)):
        lot = known.get(planned.lot)
        colour = lot.lot.colours[0] if lot else COLOURS[place % len(COLOURS)]
        lots.append(Box(fibre.name, grams_words(fibre.grams, display), fibre.grams, colour))
    strands = []
    for place, each in enumerate(reckoned.strands):
        own = reckoned.parts[:, place]
        colour = lots[int(np.argmax(own))].colour if len(own) and own.max() > 0 else YARN
        many = f" × {each.strand.count}" if each.strand.count > 1 else ""
        strands.append(
            Box(
                f"{level_words(each.strand.level)}{many}",
                grams_words(each.has, display),
                each.has,
                colour,
                each.short,
                each.bobbins,
            )
        )
    yarn = Box(display.metres(reckoned.metres), grams_words(reckoned.grams, display), reckoned.grams, YARN)
    left = max(sum(each.grams for each in worked.fibres) - reckoned.grams, 0.0)
    return flow_svg(lots, strands, reckoned.parts, yarn, left, FLOW)


def _task(dated: Dated, worked: Worked, done: Mapping[str, datetime], desk: Desk) -> TaskRow:
    ticked, names, tool = done.get(dated.task.key), worked.names, worked.plan.tools.get(dated.task.key, "")
    return TaskRow(
        dated.task.key,
        task_words(dated.task, names),
        task_time(dated),
        moment_words(ticked) if ticked else "",
        dated.task.doing in ("rest", "soak", "dry"),
        tool,
        choices_of(tool_choices(desk.tools, tool)) if dated.task.doing in ("spin", "ply") else (),
        dated.task.what if dated.task.what in names else "",
        FAULTS[dated.task.doing],
    )


def _skein(plan: Plan, display: Display) -> str:
    if not plan.rounds or not plan.around_mm:
        return ""
    metres = display.metres(float(skein_metres(plan.rounds, plan.around_mm)))
    on = display.light(float(per_strand(100.0, plan.rounds)))
    return f"{plan.rounds:.0f} × {display.width(plan.around_mm)} = {metres}; {display.grams(100)} = {on}"


def _label(worked: Worked, name: str, today: date, display: Display) -> Label:
    reading, reckoned, plan = worked.reading, worked.reckoned, worked.plan
    rounds = plan.rounds and plan.around_mm
    metres = float(skein_metres(plan.rounds or 0.0, plan.around_mm or 0.0)) if rounds else reckoned.metres
    return Label(name, label_lines(reading, metres, day_words(datetime.combine(today, time())), display))


def view_of_plan(
    number: int,
    design: Design,
    typed: dict[str, str],
    done: Mapping[str, datetime],
    desk: Desk,
    today: date,
    kept: bool,
    changed: bool,
    unkept: str = "",
) -> PlanView:
    """Return what the page shows.

    Raises:
        InputError: where the yarn cannot be made.
    """
    desk = desk.for_yarn(number, design)
    worked = worked_out(design, typed, done, desk, today)
    strands = [level_words(each.strand.level) for each in worked.reckoned.strands]
    rows = [_row(place, typed, worked, desk) for place in range(1, LOTS + 1)]
    shown = max([each.place for each in rows if each.lot or each.grams], default=0) + 1
    return PlanView(
        number,
        design.name,
        desk.load_thread(number, "plan"),
        {**PLAN_FIELDS, **typed},
        {fault.place: fault.message for fault in worked.faults},
        rows[: min(shown, LOTS)],
        [Choice("", OTHER_FIBRE), *(Choice(each.uid, each.lot.name) for each in desk.lots)],
        strands,
        _bobbins(typed, worked, desk),
        [Choice(each.key, each.name) for each in desk.tools.bobbins],
        parts_of(worked, done, design, desk, today),
        kept,
        changed,
        unkept,
        like(desk.settings),
        _gone(typed, worked.needs),
    )


def _bobbins(typed: Mapping[str, str], worked: Worked, desk: Desk) -> list[BobbinRow]:
    laid, owned = worked.needs.bobbins, desk.tools.bobbins
    names = [f"{place}: {level_words(each.level)}" for place, each in enumerate(laid, 1)]
    fields = [weight_field(place) for place in range(len(laid))]
    keys = [bobbin_for(worked.plan, place, owned) for place in range(len(laid) + 1)]
    rows = zip([*fields, YARN_WEIGHS], [*names, YARN_SO_FAR], keys, strict=True) if laid else ()
    return [
        BobbinRow(field, name, typed.get(field, ""), f"{ON}{place}", key.key if key else "")
        for place, (field, name, key) in enumerate(rows)
    ]


def _row(place: int, typed: Mapping[str, str], worked: Worked, desk: Desk) -> LotRow:
    index = next((at for at, each in enumerate(worked.plan.lots) if each.place == place), None)
    known = {each.uid: each for each in desk.lots}
    lot = known.get(typed.get(f"lot-{place}", ""))
    hint = grams_words(lot.left, desk.display) if lot and lot.left is not None else ""
    shares = []
    for strand in range(len(worked.needs.strands)):
        field = share_field(place, strand)
        comes = grams_words(float(worked.reckoned.parts[index, strand]), desk.display) if index is not None else ""
        shares.append((field, typed.get(field, ""), comes))
    return LotRow(
        place,
        typed.get(f"lot-{place}", ""),
        typed.get(f"grams-{place}", ""),
        typed.get(f"waste-{place}", ""),
        hint,
        shares,
    )


def _gone(typed: Mapping[str, str], needs: Needs) -> list[str]:
    """Return fields of shares and weights of what the yarn has no more, that hold something."""
    known = {share_field(lot, strand) for lot in range(1, LOTS + 1) for strand in range(len(needs.strands))}
    known |= {YARN_WEIGHS, *(weight_field(place) for place in range(len(needs.bobbins)))}
    return [
        f"{field}: {text}"
        for field, text in typed.items()
        if text and field.startswith(("share-", "weight-")) and field not in known
    ]
