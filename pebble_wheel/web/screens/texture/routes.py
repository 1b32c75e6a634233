"""Sections of a yarn: seen as they are typed, kept with the yarn."""

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.log import Planned
from pebble_wheel.notation.texture import (
    MOST_ROWS,
    TEXTURE_FIELDS,
    Texture,
    is_held,
    read_texture,
    with_row_copied,
    with_row_dropped,
)
from pebble_wheel.store import designs, records
from pebble_wheel.web.screens.texture.view import Looking, view_of_texture
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.planned import planned_of
from pebble_wheel.wording.messages import Message
from pebble_wheel.wording.texture import NO_SINGLE
from pebble_wheel.workshop.gestures import Gesture, plain_ends, sections_of, single_of, started

router = APIRouter(prefix="/designs/{number}/texture")

MOST_TYPED = 40


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number, kept: bool = False) -> Response:
    """Show how a yarn changes along its length."""
    return _page(request, connection, desk, number, None, Looking(), kept=kept)


@router.post("/follow")
def follow(request: Request, connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Show what comes of sections as they are typed: parts of the page for htmx, else the whole page."""
    fields = texts(sent)
    refill = not fields.keys().isdisjoint(("start", "do"))
    return _page(request, connection, desk, number, _done(fields, desk), _looking(fields), changed=True, refill=refill)


@router.post("")
def keep(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep the sections with the yarn, and what is on the bobbins with its plan.

    What the yarn was before stays as an earlier version.
    """
    fields = texts(sent)
    typed = _done(fields, desk)
    design = designs.find(connection, number).design
    try:
        sections = sections_of(_read(typed, design, desk), design)
        told = writing.tried(lambda own: designs.change_along(own, number, sections))
    except InputError:
        return _page(request, connection, desk, number, typed, _looking(fields), changed=True)
    planned, held = planned_of(connection, number), _held(typed)
    if not isinstance(told, Message) and held != _held(planned.typed if planned else {}):
        before = planned or Planned({}, {})
        others = {name: text for name, text in before.typed.items() if not is_held(name)}
        plan, spinner = replace(before, typed=others | held), desk.learned.spinner.uid
        told = writing.tried(lambda own: records.keep_plan(own, number, plan, spinner))
    if isinstance(told, Message):
        return _page(request, connection, desk, number, typed, _looking(fields), changed=True, unkept=told.words)
    return RedirectResponse(f"/designs/{number}/texture?kept=1", 303)


def _held(typed: Mapping[str, str]) -> dict[str, str]:
    return {name: text for name, text in typed.items() if is_held(name) and text.strip()}


def _looking(sent: Mapping[str, str]) -> Looking:
    return Looking(
        _share(sent.get("seen", ""), Looking.at), _share(sent.get("zoom", ""), Looking.zoom), "relief" not in sent
    )


def _share(text: str, usual: float) -> float:
    try:
        number = float(text)
    except ValueError:
        return usual
    return min(max(number, 0.0), 1.0) if math.isfinite(number) else usual


def _done(sent: Mapping[str, str], desk: Desk) -> dict[str, str]:
    """Return the fields as sent, with what a button asked for done."""
    typed = {name: sent.get(name, usual)[:MOST_TYPED] for name, usual in TEXTURE_FIELDS.items()}
    if sent.get("start"):
        return started(sent["start"], desk.settings) | {name: text for name, text in typed.items() if is_held(name)}
    doing, _, row = sent.get("do", "").partition("-")
    if doing == "ends":
        return plain_ends(typed, desk.settings)
    if doing in _ROWS and row.isdecimal():
        return _ROWS[doing](typed, min(int(row), MOST_ROWS - 1))
    return typed


_ROWS = {"copy": with_row_copied, "drop": with_row_dropped}


def _read(typed: Mapping[str, str], design: Design, desk: Desk) -> Texture:
    """Return the texture that was typed.

    Raises:
        InputError: where it cannot be read, or the yarn has nothing of which texture is made.
    """
    texture = read_texture(typed, get_args(Gesture), desk.settings)
    if any(each.gesture != "plain" for each in texture.rows) and single_of(design) is None:
        raise InputError(Fault("gesture-0", NO_SINGLE))
    return texture


def _page(
    request: Request,
    connection: Database,
    desk: Desk,
    number: int,
    typed: dict[str, str] | None,
    looking: Looking,
    kept: bool = False,
    changed: bool = False,
    unkept: str = "",
    refill: bool = False,
) -> Response:
    design = designs.find(connection, number).design
    faults: tuple[Fault, ...] = ()
    texture: Texture | None = None
    planned = planned_of(connection, number)
    held = _held(planned.typed if planned else {})
    if typed is not None:
        try:
            texture = _read(typed, design, desk)
        except InputError as error:
            faults = error.faults
    view = view_of_texture(number, design, typed, texture, held, looking, faults, desk, kept, changed, unkept, refill)
    name = "follow" if is_htmx(request) else "page"
    status = 503 if unkept else 422 if changed and view.faults else 200
    return render(request, f"screens/texture/{name}.html", view, status)
