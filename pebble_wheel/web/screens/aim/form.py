"""What the aiming screen sends: the aim, what is left out and pinned, and what is to be done with it."""

from dataclasses import dataclass, replace
from typing import Any

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.faults import InputError
from pebble_wheel.web.shared.aimed import MOST_COLOURS, Aimed, read_aimed
from pebble_wheel.web.shared.forms import Fields, several
from pebble_wheel.wording.messages import pins_full
from pebble_wheel.workshop.starts import STARTS

MOST_PINS = 4
LEAST_SCALE, MOST_SCALE = 1.0, 400.0
"""Pixels per mm of a picture that a hand has hold of."""


@dataclass(frozen=True)
class AimForm:
    """What the page holds."""

    aimed: Aimed
    without: tuple[str, ...]
    """Structures left out."""
    pins: tuple[str, ...]
    """Each an aim and a structure, as a query; what is pinned stays as it was."""
    at: str
    """The structure in hand; empty for the best."""
    asked: str
    """Key of the figure whose reason is open."""
    scale: float | None
    """Pixels per mm of the picture, while a hand has hold of it."""
    painted: bool = True
    """Whether the yarn is to be painted, for a browser that does not draw it in relief."""
    said: str = ""


def read_form(fields: Fields) -> AimForm:
    """Return what a page sent, with what a button asked for done."""
    form = AimForm(
        read_aimed(fields),
        tuple(name for name in several(fields, "without") if name in STARTS),
        tuple(dict.fromkeys(several(fields, "pin")))[:MOST_PINS],
        str(fields.get("at", "")),
        str(fields.get("ask", fields.get("asked", ""))),
        _scale(str(fields.get("scale", ""))),
        "relief" not in fields,
    )
    return _done(form, str(fields.get("do", "")))


def _scale(text: str) -> float | None:
    try:
        return min(max(read_number(text), LEAST_SCALE), MOST_SCALE)
    except InputError:
        return None


def _done(form: AimForm, action: str) -> AimForm:
    """Return what the page holds after a button."""
    what, _, name = action.partition("-")
    changed: dict[str, Any] = {}
    match what:
        case "pin" if name in STARTS:
            pins = dict.fromkeys((*form.pins, f"structure={name}&{form.aimed.query}".rstrip("&")))
            changed = {"said": pins_full(MOST_PINS)} if len(pins) > MOST_PINS else {"pins": tuple(pins)}
        case "unpin":
            changed = {"pins": tuple(pin for place, pin in enumerate(form.pins) if str(place) != name)}
        case "leave" if name in STARTS:
            changed = {"without": (*form.without, name), "at": ""}
        case "bring":
            changed = {"without": tuple(each for each in form.without if each != name)}
        case "more":
            changed = {"aimed": _coloured(form.aimed, (*form.aimed.colours, UNDYED)[:MOST_COLOURS])}
        case "fewer":
            changed = {"aimed": _coloured(form.aimed, form.aimed.colours[:-1] or (UNDYED,))}
        case _:
            pass  # shown as it is
    return replace(form, **changed)


def _coloured(aimed: Aimed, colours: tuple[str, ...]) -> Aimed:
    return replace(aimed, colours=colours)
