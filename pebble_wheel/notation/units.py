"""The units people say, read with pint: ``8 tpi``, ``22 wpi``, ``1200 yd/lb``, ``4.5 oz``, ``3 in``.

tpi and wpi are defined here, each with a dimension of its own so that neither passes for the other. Counts that run
the other way (yd/lb, Nm, Ne) lead to tex by inversion.
"""

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Literal, NoReturn

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.notation.faults import Fault, InputError

if TYPE_CHECKING:
    import pint

_AMOUNT = re.compile(
    r"\s*(?P<number>[+-]?(?:\d[\d ]*\d|\d)?(?:[.,]\d+)?(?:e[+-]?\d{1,3})?)\s*(?P<unit>.{0,24}?)\s*",
    re.IGNORECASE,
)
_UNIT = re.compile(r"[A-Za-z][A-Za-z/. 0-9]*")

_ALIASES = {
    "tpm": "turn/meter",
    "t/m": "turn/meter",
    "tpcm": "turn/centimeter",
    "nm": "kilometer/kilogram",
    "ne": "number_english",
    "nec": "number_english",
    "nw": "number_worsted",
    "ypp": "yard/pound",
    "m/100g": "meter/hectogram",
    "m/100 g": "meter/hectogram",
    "in": "inch",
    '"': "inch",
}

_DEFINITIONS = (
    "twist_turn = [twisting]",
    "turn = twist_turn",
    "turns = twist_turn",
    "wrap = [wrapping]",
    "wraps = wrap",
    "tpi = twist_turn / inch",
    "wpi = wrap / inch",
    "number_worsted = 560 * yard / pound",
)


MEASURABLE = (1e-9, 1e12)
"""Of every quantity, in the unit that it is kept in: what is less or more was not measured."""

LATELY = 2048
"""Texts that are remembered as read: of a form that is sent again one field is another."""

Stage = Literal["plied", "finished"]
"""Of a yarn that a size is said or measured of: as it comes off the wheel, or washed and dried."""


@dataclass(frozen=True)
class Size:
    """A single's size as given: by linear density or by its gauge."""

    tex: float | None
    diameter_mm: float | None


@lru_cache(maxsize=1)
def registry() -> "pint.UnitRegistry[Any]":
    """Return the units of the trade on top of pint's own."""
    import pint

    units: pint.UnitRegistry[Any] = pint.UnitRegistry(on_redefinition="ignore")
    for definition in _DEFINITIONS:
        units.define(definition)
    return units


@lru_cache(maxsize=LATELY)
def read_twist(text: str, unit: str, place: str = "twist") -> float:
    """Return twist in turns/m, without sign. ``unit`` is meant where none is written.

    Raises:
        InputError: where the text is not a twist.
    """
    amount = _quantity(text, unit, place)
    if not amount.check("[twisting]/[length]"):
        _refuse(place, f"'{text.strip()}' is not a twist; write it like 220, 220 t/m or 5.5 tpi")
    return _in(amount, "turn/meter", place)


@lru_cache(maxsize=LATELY)
def read_size(text: str, unit: str, place: str = "size", wraps: float = 1.0) -> Size:
    """Return a size: tex, denier, yd/lb, m/100g, Nm, Ne, Nw; or wpi or mm for its gauge.

    ``wraps`` is how many are counted, by the method in use, where one relaxed wrap lies.

    Raises:
        InputError: where the text is no size.
    """
    amount = _quantity(text, unit, place)
    if amount.check("[mass]/[length]"):
        return Size(_in(amount, "tex", place), None)
    if amount.check("[length]/[mass]"):
        return Size(1e6 / _in(amount, "meter/kilogram", place), None)
    if amount.check("[wrapping]/[length]"):
        return Size(None, INCH * wraps / _in(amount, "wpi", place))
    if not amount.check("[length]"):
        _refuse(place, f"'{text.strip()}' is not a size; write it like 90 tex, 22 wpi, 5500 yd/lb or 0.8 mm")
    return Size(None, _in(amount, "millimeter", place))


@lru_cache(maxsize=LATELY)
def read_length(text: str, unit: str, place: str = "length") -> float:
    """Return a length in mm.

    Raises:
        InputError: where the text is not a length.
    """
    amount = _quantity(text, unit, place)
    if not amount.check("[length]"):
        _refuse(place, f"'{text.strip()}' is not a length; write it like 120 m, 130 yd or 3 in")
    return _in(amount, "millimeter", place)


@lru_cache(maxsize=LATELY)
def read_mass(text: str, unit: str, place: str = "mass") -> float:
    """Return a mass in grams.

    Raises:
        InputError: where the text is not a mass.
    """
    amount = _quantity(text, unit, place)
    if not amount.check("[mass]"):
        _refuse(place, f"'{text.strip()}' is not a weight; write it like 100 g or 4.5 oz")
    return _in(amount, "gram", place)


def read_number(text: str, place: str = "number") -> float:
    """Return a bare number, decimal point or comma.

    Raises:
        InputError: where the text is none.
    """
    try:
        number = float(text.strip().replace(",", "."))
    except ValueError:
        number = math.nan
    if not math.isfinite(number):
        _refuse(place, f"'{text.strip()[:40]}' is not a number; write it like 1.1")
    return number


def _quantity(text: str, unit: str, place: str) -> "pint.Quantity[Any]":
    """Return a positive quantity; the number first, then its unit, else the one meant."""
    found = _AMOUNT.fullmatch(text[:60])
    if len(text) > 60 or not found or not found["number"].strip("+- "):
        _refuse(place, f"'{text.strip()[:40]}' is not a number with a unit" if text.strip() else "give a number")
    try:
        number = float(found["number"].replace(",", ".").replace(" ", ""))
    except ValueError:
        _refuse(place, f"'{found['number']}' is not a number")
    if not 0 < number < 1e9:
        _refuse(place, f"must be more than 0, not {number:g}" if number <= 0 else "is beyond any yarn")
    written = found["unit"] or unit
    known = _ALIASES.get(written.lower())
    if known is None and not _UNIT.fullmatch(written):
        _refuse(place, f"the unit '{written}' is not known")
    try:
        return number * _unit(known or written)
    except Exception:  # pint raises many kinds on junk: its own, token, attribute and arithmetic errors
        _refuse(place, f"the unit '{written}' is not known")


def _in(amount: "pint.Quantity[Any]", unit: str, place: str) -> float:
    """Return what a quantity comes to in a unit."""
    value = float(amount.to(unit).magnitude)
    if not MEASURABLE[0] <= value <= MEASURABLE[1]:
        _refuse(place, f"{value:g} {unit} is beyond any yarn")
    return value


@lru_cache(maxsize=128)
def _unit(name: str) -> Any:
    """Return a unit by its name; the few that people use are asked for over and over."""
    meant = registry().parse_expression(name)
    if not math.isfinite(meant.to_base_units().magnitude):
        raise ValueError(name)
    return meant


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message)) from None
