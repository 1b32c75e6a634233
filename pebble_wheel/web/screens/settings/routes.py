"""The settings screen."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.settings import save
from pebble_wheel.web.shared.base import Database, Displayed, render

router = APIRouter(prefix="/settings")

_CHECKED = TypeAdapter(Settings)


@router.get("")
def show(request: Request, display: Displayed, kept: bool = False) -> Response:
    """Show the settings."""
    return render(request, "screens/settings/page.html", settings=display.settings, kept=kept, fault="")


@router.post("")
def change(
    request: Request,
    connection: Database,
    display: Displayed,
    units: Annotated[str, Form()],
    angle_from: Annotated[str, Form()],
    wpi_method: Annotated[str, Form()],
    weight_table: Annotated[str, Form()],
) -> Response:
    """Keep the settings."""
    given = {"units": units, "angle_from": angle_from, "wpi_method": wpi_method, "weight_table": weight_table}
    try:
        save(connection, _CHECKED.validate_python(given))
    except ValidationError as error:
        first = error.errors()[0]
        fault = f"{first['loc'][0]}: {first['msg']}. Nothing was changed."
        return render(request, "screens/settings/page.html", 422, settings=display.settings, kept=False, fault=fault)
    return RedirectResponse("/settings?kept=1", 303)
