"""The settings screen."""

from dataclasses import asdict, dataclass, field

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import SNUG_OVER_RELAXED, UNIT_SETS, Settings
from pebble_wheel.notation.wheel import read_pace, read_slots
from pebble_wheel.store.settings import save
from pebble_wheel.web.shared.base import AtDesk, Writing, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.messages import Message, setting_refused

router = APIRouter(prefix="/settings")

_CHECKED = TypeAdapter(Settings)


TYPED = ("pace", "card")
"""Settings that are typed."""


@dataclass(frozen=True)
class SettingsView:
    """The page."""

    settings: Settings
    kept: bool = False
    fault: str = ""
    sent: dict[str, str] = field(default_factory=dict)
    """What was typed and cannot be kept."""

    @property
    def typed(self) -> dict[str, str]:
        """What stands in the fields that are typed."""
        return {each: str(getattr(self.settings, each)) for each in TYPED} | self.sent

    snug = f"{SNUG_OVER_RELAXED - 1:.0%}"


def _set_of(name: str) -> dict[str, str]:
    """Return what a set of units chooses; what is refused for a name that is none."""
    return next((units for each, units in UNIT_SETS.items() if each == name), {"length": name} if name else {})


def _refused(error: ValidationError | InputError) -> str:
    if isinstance(error, InputError):
        return setting_refused(error.faults[0].place, error.faults[0].message)
    first = error.errors()[0]
    return setting_refused(str(first["loc"][0]), first["msg"])


@router.get("")
def show(request: Request, desk: AtDesk, kept: bool = False) -> Response:
    """Show the settings."""
    return render(request, "screens/settings/page.html", SettingsView(desk.settings, kept))


@router.post("")
def change(request: Request, writing: Writing, desk: AtDesk, sent: Sent) -> Response:
    """Keep the settings; what cannot be is refused and changes nothing."""
    typed = texts(sent)
    units = typed.pop("units", "")
    try:
        chosen = _CHECKED.validate_python({**asdict(desk.settings), **typed, **_set_of(units)})
        read_pace(chosen.pace)
        read_slots(chosen.card)
    except (ValidationError, InputError) as error:
        view = SettingsView(desk.settings, fault=_refused(error), sent=typed)
        return render(request, "screens/settings/page.html", view, 422)
    done = writing.tried(lambda connection: save(connection, chosen))
    if isinstance(done, Message):
        return render(request, "screens/settings/page.html", SettingsView(chosen, fault=done.words), 503)
    return RedirectResponse("/settings?kept=1", 303)
