"""What a person enters for a yarn of equal singles, as typed, and the design it means."""

from collections.abc import Callable, Mapping
from typing import Any, TypeVar, cast, get_args

from pebble_wheel.mechanics.fibres import FIBRES
from pebble_wheel.mechanics.finishing import Drying, Wash
from pebble_wheel.mechanics.gauge import tex_of_diameter
from pebble_wheel.mechanics.helix import MAX_RING
from pebble_wheel.mechanics.packing import TABLE, Draw, Prep, character
from pebble_wheel.notation.design import SIGN, Design, Direction, FinishModel, new_design
from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.units import read_size, read_twist

Read = TypeVar("Read")

COLOUR_FIELDS = tuple(f"colour{number}" for number in range(1, MAX_RING + 1))

START: dict[str, str] = {
    "name": "A first yarn",
    "fibre": "corriedale",
    "prep": "combed",
    "draw": "short",
    "size": "100 tex",
    "twist": "220 t/m",
    "direction": "Z",
    "strands": "3",
    "ply_by": "balance",
    "ply_twist": "1.0",
    "ply_direction": "S",
    "wash": "snap",
    "drying": "free",
    "colour1": "#dcc9a3",
    "colour2": "#8fa3a0",
    "colour3": "#a8704f",
    "colour4": "#5d6b86",
    "colour5": "#c39a3d",
}
"""A sensible yarn to begin from: the entries of a fresh page."""

_CHOICES: dict[str, tuple[str, ...]] = {
    "fibre": tuple(FIBRES),
    "prep": get_args(Prep),
    "draw": get_args(Draw),
    "direction": get_args(Direction),
    "strands": tuple(str(number) for number in range(1, MAX_RING + 1)),
    "ply_by": ("turns", "balance"),
    "ply_direction": get_args(Direction),
    "wash": get_args(Wash),
    "drying": get_args(Drying),
}

_FIELD_OF_PLACE = {"tex": "size", "turns_per_m": "twist", "of_balanced": "ply_twist", "name": "name"}


def complete(typed: Mapping[str, str]) -> dict[str, str]:
    """Return entries with every field: those typed, the rest as a fresh page has them."""
    return {field: typed.get(field, usual) for field, usual in START.items()}


def field_of(place: str) -> str:
    """Return the field that a fault's place in the design belongs to."""
    if place in START:
        return place
    last = place.rsplit(".", 1)[-1]
    if place.startswith("yarn.twist"):
        return "ply_twist"
    return _FIELD_OF_PLACE.get(last, last if last in START else "ply_twist")


def by_field(error: InputError) -> InputError:
    """Return the faults of a design as those of the fields, each once though several strands share a field."""
    faults = dict.fromkeys(Fault(field_of(fault.place), fault.message) for fault in error.faults)
    return InputError(*faults)


def read_entries(typed: Mapping[str, str], settings: Settings) -> Design:
    """Return the design that the entries mean.

    Raises:
        InputError: with every fault, its place the name of the field.
    """
    entries = complete(typed)
    faults: list[Fault] = []
    for field, choices in _CHOICES.items():
        if entries[field] not in choices:
            faults.append(Fault(field, f"choose one of {', '.join(choices)}"))
    for field in COLOUR_FIELDS:
        colour = entries[field]
        if len(colour) != 7 or colour[0] != "#" or any(c not in "0123456789abcdef" for c in colour[1:].lower()):
            faults.append(Fault(field, "a colour is written like #a8704f"))
    turns = _collect(faults, lambda: read_twist(entries["twist"], settings.twist_unit, "twist"))
    size = _collect(faults, lambda: read_size(entries["size"], settings.size_unit, "size"))
    strands = int(entries["strands"]) if entries["strands"] in _CHOICES["strands"] else 0
    ply_twist = _collect(faults, lambda: _ply_twist(entries, settings)) if strands > 1 else None
    if faults or turns is None or size is None:
        raise InputError(*faults)
    tex = size.tex if size.tex is not None else _tex_of_gauge(size.diameter_mm or 0.0, turns, entries)
    try:
        single = {
            "kind": "single",
            "fibre": entries["fibre"],
            "prep": entries["prep"],
            "draw": entries["draw"],
            "tex": tex,
            "twist": {"turns_per_m": turns, "direction": entries["direction"]},
        }
        colours = [entries[field].lower() for field in COLOUR_FIELDS[:strands]]
        finish = FinishModel(wash=cast(Wash, entries["wash"]), drying=cast(Drying, entries["drying"]))
        yarn = {**single, "colours": colours[:1]}
        if ply_twist:
            yarn = {"kind": "ply", "strands": _members(single, colours), "twist": ply_twist}
        return new_design(entries["name"].strip(), yarn, finish)
    except InputError as error:
        raise by_field(error) from None


def _members(single: dict[str, Any], colours: list[str]) -> list[dict[str, Any]]:
    """Return the strands of the ply: one entry with a count where all are of one colour."""
    if len(set(colours)) == 1:
        return [{**single, "colours": colours[:1], "count": len(colours)}]
    return [{**single, "colours": [colour]} for colour in colours]


def _ply_twist(entries: Mapping[str, str], settings: Settings) -> dict[str, Any]:
    direction = {"direction": entries["ply_direction"]}
    if entries["ply_by"] == "turns":
        return {
            "turns_per_m": read_twist(entries["ply_twist"], settings.twist_unit, "ply_twist"),
            **direction,
        }
    text = entries["ply_twist"].strip().removesuffix("×").removesuffix("x").strip().replace(",", ".")
    try:
        return {"of_balanced": float(text), **direction}
    except ValueError:
        message = f"'{text[:40]}' is not a multiple of the balanced twist; write it like 1.1"
        raise InputError(Fault("ply_twist", message)) from None


def _tex_of_gauge(diameter_mm: float, turns: float, entries: Mapping[str, str]) -> float:
    fibre = FIBRES[entries["fibre"]]
    packing = TABLE[character(cast(Prep, entries["prep"]), cast(Draw, entries["draw"]))]
    signed = SIGN[cast(Direction, entries["direction"])] * turns
    try:
        return float(tex_of_diameter(diameter_mm, signed, fibre.density, packing))
    except ValueError as error:
        raise InputError(Fault("size", str(error))) from None


def _collect(faults: list[Fault], read: Callable[[], Read]) -> Read | None:
    try:
        return read()
    except InputError as error:
        faults += error.faults
        return None
