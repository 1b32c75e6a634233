"""The aiming screen: how the yarn is to be, and every structure that could be spun to it, side by side."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from pebble_wheel.web.screens.aim.form import read_form
from pebble_wheel.web.screens.aim.view import view_of_aim
from pebble_wheel.web.shared.base import AtDesk, Desk, is_htmx, render
from pebble_wheel.web.shared.forms import Fields, Sent

router = APIRouter(prefix="/aim")


@router.get("")
def show(request: Request, desk: AtDesk) -> Response:
    """Show what could be spun to an aim."""
    return _answer(request, desk, request.query_params)


@router.post("/follow")
def follow(request: Request, desk: AtDesk, sent: Sent) -> Response:
    """Show the same while the aim is moved: parts of the page for htmx, else the whole page."""
    return _answer(request, desk, sent)


def _answer(request: Request, desk: Desk, fields: Fields) -> Response:
    whole = not is_htmx(request)
    view = view_of_aim(read_form(fields), desk, whole)
    return render(request, f"screens/aim/{'page' if whole else 'follow'}.html", view, 422 if view.faults else 200)
