"""Sections of a yarn: seen as they are typed, kept with the yarn."""

from collections.abc import Mapping
from typing import get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.texture import TEXTURE_FIELDS, Texture, read_texture
from pebble_wheel.store import designs
from pebble_wheel.web.screens.texture.view import view_of_texture
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.messages import Message
from pebble_wheel.wording.texture import NO_SINGLE
from pebble_wheel.workshop.gestures import Gesture, sections_of, single_of, started

router = APIRouter(prefix="/designs/{number}/texture")

MOST_TYPED = 40


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number, kept: bool = False) -> Response:
    """Show how a yarn changes along its length."""
    return _page(request, connection, desk, number, None, kept=kept)


@router.post("/follow")
def follow(request: Request, connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Show what comes of sections as they are typed: parts of the page for htmx, else the whole page."""
    return _page(request, connection, desk, number, _done(texts(sent), desk), changed=True)


@router.post("")
def keep(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep the sections with the yarn; what it was before stays as an earlier version."""
    typed = _done(texts(sent), desk)
    design = designs.find(connection, number).design
    try:
        sections = sections_of(_read(typed, design, desk), design)
        told = writing.tried(lambda own: designs.change_along(own, number, sections))
    except InputError:
        return _page(request, connection, desk, number, typed, changed=True)
    if isinstance(told, Message):
        return _page(request, connection, desk, number, typed, changed=True, unkept=told.words)
    return RedirectResponse(f"/designs/{number}/texture?kept=1", 303)


def _done(sent: Mapping[str, str], desk: Desk) -> dict[str, str]:
    """Return the fields as sent, with what a button asked for done."""
    typed = {name: sent.get(name, usual)[:MOST_TYPED] for name, usual in TEXTURE_FIELDS.items()}
    return started(sent["start"], desk.settings) if sent.get("start") else typed


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
    kept: bool = False,
    changed: bool = False,
    unkept: str = "",
) -> Response:
    design = designs.find(connection, number).design
    faults: tuple[Fault, ...] = ()
    texture: Texture | None = None
    if typed is not None:
        try:
            texture = _read(typed, design, desk)
        except InputError as error:
            faults = error.faults
    view = view_of_texture(number, design, typed, texture, faults, desk, kept, changed, unkept)
    name = "follow" if is_htmx(request) else "page"
    status = 503 if unkept else 422 if changed and view.faults else 200
    return render(request, f"screens/texture/{name}.html", view, status)
