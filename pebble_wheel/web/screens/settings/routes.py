"""The settings screen."""

from dataclasses import asdict, dataclass

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.settings import SNUG_OVER_RELAXED, UNIT_SETS, Settings
from pebble_wheel.store.settings import save
from pebble_wheel.web.shared.base import AtDesk, Writing, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.messages import Message, setting_refused

router = APIRouter(prefix="/settings")

_CHECKED = TypeAdapter(Settings)


@dataclass(frozen=True)
class SettingsView:
    """The page."""

    settings: Settings
    kept: bool = False
    fault: str = ""

    snug = f"{SNUG_OVER_RELAXED - 1:.0%}"


def _set_of(name: str) -> dict[str, str]:
    """Return what a set of units chooses; what is refused for a name that is none."""
    return next((units for each, units in UNIT_SETS.items() if each == name), {"length": name} if name else {})


@router.get("")
def show(request: Request, desk: AtDesk, kept: bool = False) -> Response:
    """Show the settings."""
    return render(request, "screens/settings/page.html", SettingsView(desk.settings, kept))


@router.post("")
def change(request: Request, writing: Writing, desk: AtDesk, sent: Sent) -> Response:
    """Keep the settings; what cannot be is refused and changes nothing."""
    try:
        typed = texts(sent)
        units = typed.pop("units", "")
        chosen = _CHECKED.validate_python({**asdict(desk.settings), **typed, **_set_of(units)})
    except ValidationError as error:
        first = error.errors()[0]
        fault = setting_refused(str(first["loc"][0]), first["msg"])
        return render(request, "screens/settings/page.html", SettingsView(desk.settings, fault=fault), 422)
    done = writing.tried(lambda connection: save(connection, chosen))
    if isinstance(done, Message):
        return render(request, "screens/settings/page.html", SettingsView(chosen, fault=done.words), 503)
    return RedirectResponse("/settings?kept=1", 303)
