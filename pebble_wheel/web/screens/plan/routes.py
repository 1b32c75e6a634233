"""The plan of a yarn: worked out while one types, kept with its log, given as a calendar, ticked off."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, date, datetime

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.colouring import is_colouring
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.log import Note, Planned
from pebble_wheel.notation.plan import ON, PLAN_FIELDS, TOOL
from pebble_wheel.notation.texture import is_held
from pebble_wheel.store import designs, records
from pebble_wheel.web.screens.plan.view import view_of_plan, ways_of
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.ics import calendar_of
from pebble_wheel.web.shared.planned import planned_of, ticked, typed_for, worked_out
from pebble_wheel.wording.messages import Message
from pebble_wheel.wording.plan import task_words, unbooked_words

router = APIRouter(prefix="/designs/{number}/plan")

MOST_TYPED, MOST_FIELDS = 80, 600


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number, kept: bool = False) -> Response:
    """Show the plan, or an empty one with the lots that the yarn is of."""
    planned = planned_of(connection, number)
    return _page(request, connection, desk, number, planned.typed if planned else {}, ticked(planned), kept=kept)


@router.post("/follow")
def follow(request: Request, connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Show what comes of the plan as it is typed: parts of the page for htmx, else the whole page."""
    before = planned_of(connection, number)
    typed = _with_colours(_fields(texts(sent)), before)
    return _page(request, connection, desk, number, typed, ticked(before), changed=True)


@router.post("")
def keep(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep the plan as it is typed, with what cannot be read of it; what was before stays, struck out."""
    designs.find(connection, number)
    before = planned_of(connection, number)
    typed = _with_colours(_fields(texts(sent)), before)
    return _keep(
        request,
        connection,
        writing,
        desk,
        number,
        Planned(typed, before.done if before else {}, spare=before.spare if before else 0.0),
    )


@router.post("/steps/{key}")
def tick(request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, key: str) -> Response:
    """Tick a step off, or take the tick back; what follows moves with it."""
    kept = designs.find(connection, number)
    planned = planned_of(connection, number)
    typed = planned.typed if planned else typed_for(kept.design, {}, desk.lots)
    done = dict(planned.done) if planned else {}
    if key in done:
        del done[key]
    else:
        done[key[:80]] = datetime.now(UTC).astimezone().replace(tzinfo=None).isoformat(timespec="minutes")
    return _keep(
        request,
        connection,
        writing,
        desk,
        number,
        Planned(typed, done, spare=planned.spare if planned else 0.0),
        "#days",
    )


@router.post("/leftovers/{key}")
def book(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, key: str, sent: Sent
) -> Response:
    """Plan what is done with what is left, or take that back; the log says so, and the days follow."""
    design = designs.find(connection, number).design
    before = planned_of(connection, number)
    done = before.done if before else {}
    typed = _with_colours(_fields(texts(sent)), before)
    worked = worked_out(
        design, typed_for(design, typed, desk.lots), ticked(before), desk.for_yarn(number, design), date.today()
    )
    way = next((each for each in ways_of(worked, desk) if each.key == key), None)
    if way is None or worked.reckoned.weighed is None:
        return _page(request, connection, desk, number, typed, ticked(before), changed=True)
    taken_back = typed.get("leftover") == key
    typed["leftover"] = "" if taken_back else key
    left = float(worked.reckoned.weighed.left.sum())
    planned = Planned(typed, done, spare=left if typed["leftover"] == "accept" else 0.0)
    said = Note(unbooked_words(way) if taken_back else f"{way.words}: {way.metres}")
    noted = writing.tried(lambda own: records.note(own, number, said, desk.learned.spinner.uid))
    if isinstance(noted, Message):
        return _page(request, connection, desk, number, typed, ticked(before), unkept=noted.words)
    return _keep(request, connection, writing, desk, number, planned, "#ends")


@router.get("/plan.ics")
def calendar(connection: Database, desk: AtDesk, number: Number) -> Response:
    """Give the days of the plan as a calendar."""
    kept = designs.find(connection, number)
    planned = planned_of(connection, number)
    typed = typed_for(kept.design, planned.typed if planned else {}, desk.lots)
    worked = worked_out(kept.design, typed, ticked(planned), desk.for_yarn(number, kept.design), date.today())
    days = [(each, task_words(each.task, worked.names)) for each in worked.days.tasks]
    data = calendar_of(kept.design.name, f"yarn-{number}", days, datetime.now(UTC))
    headers = {"content-disposition": 'attachment; filename="plan.ics"'}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=headers)


def _fields(typed: Mapping[str, str]) -> dict[str, str]:
    """Return the fields of a plan among what was sent, as they were typed."""
    own = {
        name: text[:MOST_TYPED]
        for name, text in typed.items()
        if name in PLAN_FIELDS or name.startswith(("share-", "weight-", TOOL, ON))
    }
    return dict(list(own.items())[:MOST_FIELDS])


def _with_colours(typed: dict[str, str], before: Planned | None) -> dict[str, str]:
    """Return the fields of a plan with how its colours are prepared, which is typed on another page."""
    return {
        name: text for name, text in (before.typed if before else {}).items() if is_colouring(name) or is_held(name)
    } | typed


def _looking_ahead(connection: Database, desk: Desk, number: int, planned: Planned) -> Planned:
    """Return a plan with the step that comes next and its day, for the thread of the yarn."""
    design = designs.find(connection, number).design
    typed = typed_for(design, planned.typed, desk.lots)
    try:
        worked = worked_out(design, typed, ticked(planned), desk.for_yarn(number, design), date.today())
    except InputError:
        return planned
    for each in worked.days.tasks:
        if each.task.key not in planned.done:
            return replace(planned, ahead=each.task.doing, ahead_at=each.begins.isoformat(timespec="minutes"))
    return planned


def _keep(
    request: Request,
    connection: Database,
    writing: Writing,
    desk: Desk,
    number: int,
    planned: Planned,
    place: str = "",
) -> Response:
    planned, spinner = _looking_ahead(connection, desk, number, planned), desk.learned.spinner.uid
    done = writing.tried(lambda own: records.keep_plan(own, number, planned, spinner))
    if isinstance(done, Message):
        before = ticked(planned_of(connection, number))
        return _page(request, connection, desk, number, planned.typed, before, unkept=done.words)
    return RedirectResponse(f"/designs/{number}/plan?kept=1{place}", 303)


def _page(
    request: Request,
    connection: Database,
    desk: Desk,
    number: int,
    typed: dict[str, str],
    done: dict[str, datetime],
    kept: bool = False,
    changed: bool = False,
    unkept: str = "",
) -> Response:
    design = designs.find(connection, number).design
    fields = typed_for(design, typed, desk.lots)
    view = view_of_plan(number, design, fields, done, desk, date.today(), kept, changed, unkept)
    name = "follow" if is_htmx(request) else "page"
    status = 503 if unkept else 422 if changed and view.faults else 200
    return render(request, f"screens/plan/{name}.html", view, status)
