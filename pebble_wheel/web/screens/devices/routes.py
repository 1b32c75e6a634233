"""Devices beyond this machine: the link for the next one, and those that are paired."""

import io
from dataclasses import dataclass

import segno
from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from pebble_wheel.store import devices
from pebble_wheel.web.pairing import PATH
from pebble_wheel.web.shared.base import Database, Number, render

router = APIRouter(prefix="/devices")


@dataclass(frozen=True)
class Link:
    """A link that pairs one device."""

    address: str
    drawn: Markup


@dataclass(frozen=True)
class DevicesView:
    """The page."""

    at: str
    """Address under which other devices come here; empty where none can."""
    devices: list[devices.Device]
    link: Link | None = None


@router.get("")
def show(request: Request, connection: Database) -> Response:
    """Show the paired devices."""
    return _answer(request, connection)


@router.post("/link")
def link(request: Request, connection: Database) -> Response:
    """Make the link for the next device; the one before is withdrawn."""
    if not request.app.state.paired_at:
        return _answer(request, connection)
    address = f"{request.app.state.paired_at}{PATH}{devices.new_link(connection)}"
    drawn = io.BytesIO()
    segno.make(address, micro=False).save(
        drawn, kind="svg", scale=5, border=3, xmldecl=False, omitsize=True, light="#fff", dark="#111"
    )
    return _answer(request, connection, Link(address, Markup(drawn.getvalue().decode())))


@router.post("/link/withdraw")
def withdraw(connection: Database) -> Response:
    """Withdraw the link."""
    devices.withdraw_link(connection)
    return RedirectResponse("/devices", 303)


@router.post("/{number}/revoke")
def revoke(connection: Database, number: Number) -> Response:
    """Let a device see nothing any more."""
    devices.revoke(connection, number)
    return RedirectResponse("/devices", 303)


def _answer(request: Request, connection: Database, made: Link | None = None) -> Response:
    view = DevicesView(request.app.state.paired_at, devices.devices(connection), made)
    return render(request, "screens/devices/page.html", view)
