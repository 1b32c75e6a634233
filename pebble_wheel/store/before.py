"""What older stores and notebooks told otherwise: a wheel and bobbins that stood in the settings."""

import json
from collections.abc import Mapping

from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import LengthUnit, MassUnit, Settings
from pebble_wheel.notation.tool import read_tool

WHEEL, BOBBINS = "My wheel", "My bobbins"


def tool_before(kind: str, settings: str, what: str) -> str | None:
    """Return the body or the fields of a tool as JSON, as settings of old told of it; None where they did not.

    Args:
        kind: wheel or bobbins.
        settings: by name, as JSON.
        what: ``body`` or ``typed``.
    """
    read = json.loads(settings)
    told = {str(name): str(value) for name, value in read.items()} if isinstance(read, dict) else {}
    typed = _wheel(told) if kind == "wheel" else _bobbins(told)
    if typed is None:
        return None
    try:
        tool = read_tool(typed, _units(told))
    except InputError:
        return None
    return tool.model_dump_json() if what == "body" else json.dumps(typed, separators=(",", ":"))


def _wheel(told: Mapping[str, str]) -> dict[str, str] | None:
    if not told.get("ratios"):
        return None
    return {"kind": "wheel", "name": WHEEL, "ratios": told["ratios"], "orifice": told.get("orifice", "")}


def _bobbins(told: Mapping[str, str]) -> dict[str, str] | None:
    if not told.get("bobbin"):
        return None
    own = {"size": told["bobbin"], "many": told.get("bobbins", ""), "empty": told.get("bobbin_empty", "")}
    return {"kind": "bobbins", "name": BOBBINS, **own}


def _units(told: Mapping[str, str]) -> Settings:
    """Return the units in which it was typed."""
    try:
        return Settings(
            length=TypeAdapter(LengthUnit).validate_python(told.get("length", "metric")),
            mass=TypeAdapter(MassUnit).validate_python(told.get("mass", "g")),
        )
    except ValidationError:
        return Settings()
