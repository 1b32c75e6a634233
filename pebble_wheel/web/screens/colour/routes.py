"""The colours of a yarn: seen while one prepares the fibre, kept with its plan."""

from collections.abc import Mapping
from datetime import date

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.colouring import is_colouring
from pebble_wheel.notation.log import Planned
from pebble_wheel.store import designs, records
from pebble_wheel.web.screens.colour.view import view_of_colour
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Fields, Sent, several, texts
from pebble_wheel.web.shared.planned import planned_of, typed_for
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}/colour")

MOST_TYPED, MOST_FIELDS = 40, 400


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number, kept: bool = False) -> Response:
    """Show the colours as they are planned."""
    planned = planned_of(connection, number)
    return _page(request, connection, desk, number, planned, planned.typed if planned else {}, kept=kept)


@router.post("/follow")
def follow(request: Request, connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Show what comes of preparations as they are chosen: parts of the page for htmx, else the whole page."""
    planned = planned_of(connection, number)
    typed = {**(planned.typed if planned else {}), **_fields(texts(sent))}
    beside = tuple(several(Fields(sent), "beside"))
    return _page(
        request, connection, desk, number, planned, typed, changed=True, beside=beside, painted="relief" not in sent
    )


@router.post("")
def keep(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep the preparations with the plan."""
    kept = designs.find(connection, number)
    before = planned_of(connection, number)
    typed = {**(before.typed if before else typed_for(kept.design, {}, desk.lots)), **_fields(texts(sent))}
    done, spare = (before.done, before.spare) if before else ({}, 0.0)
    ahead, at = (before.ahead, before.ahead_at) if before else ("", "")
    planned = Planned(typed, done, ahead, at, spare)
    told = writing.tried(lambda own: records.keep_plan(own, number, planned, desk.learned.spinner.uid))
    if isinstance(told, Message):
        return _page(request, connection, desk, number, before, typed, changed=True, unkept=told.words)
    return RedirectResponse(f"/designs/{number}/colour?kept=1", 303)


def _fields(typed: Mapping[str, str]) -> dict[str, str]:
    own = {name: text[:MOST_TYPED] for name, text in typed.items() if is_colouring(name)}
    return dict(list(own.items())[:MOST_FIELDS])


def _page(
    request: Request,
    connection: Database,
    desk: Desk,
    number: int,
    planned: Planned | None,
    typed: dict[str, str],
    kept: bool = False,
    changed: bool = False,
    beside: tuple[str, ...] | None = None,
    unkept: str = "",
    painted: bool = True,
) -> Response:
    design = designs.find(connection, number).design
    fields = typed_for(design, typed if planned else {}, desk.lots) | typed
    view = view_of_colour(number, design, fields, desk, date.today(), kept, changed, beside, unkept, painted)
    name = "follow" if is_htmx(request) else "page"
    status = 503 if unkept else 422 if changed and view.faults else 200
    return render(request, f"screens/colour/{name}.html", view, status)
