"""The units people say, read with pint: ``8 tpi``, ``22 wpi``, ``1200 yd/lb``, ``96+138 g``, ``worsted weight``.

tpi and wpi are defined here, each with a dimension of its own so that neither passes for the other. Counts that run
the other way (yd/lb, Nm, Ne) lead to tex by inversion. How amounts are written is :mod:`pebble_wheel.notation.amounts`.
"""

import math
import re
from dataclasses import dataclass, replace
from difflib import get_close_matches
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Literal, NoReturn, cast

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.learning.noise import CARD, interval_off
from pebble_wheel.notation.amounts import number_of, plain, range_of, rate_of, read_terms
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import SNUG_OVER_RELAXED, Settings, WpiMethod
from pebble_wheel.notation.weights import class_named, class_names, middle_of

if TYPE_CHECKING:
    import pint

_COUNT = re.compile(r"^\s*\d+\s*")

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
    "ins": "inch",
    '"': "inch",
    "gm": "gram",
    "gms": "gram",
    "gr": "gram",
    "lbs": "pound",
    "yds": "yard",
    "treadles": "turn",
}

_DEFINITIONS = (
    "twist_turn = [twisting]",
    "turn = twist_turn",
    "turns = twist_turn",
    "twist = twist_turn",
    "twists = twist_turn",
    "wrap = [wrapping]",
    "wraps = wrap",
    "tpi = twist_turn / inch",
    "wpi = wrap / inch",
    "number_worsted = 560 * yard / pound",
)

_SAID = frozenset(
    (
        *("tpi", "tpm", "tpcm", "t", "turn", "turns", "twist", "twists", "wpi", "wrap", "wraps"),
        *("tex", "dtex", "ktex", "denier", "den", "nm", "ne", "nec", "nw", "ypp"),
        *("mm", "cm", "dm", "m", "km", "metre", "metres", "meter", "meters", "millimetre", "millimetres", "centimetre"),
        *("centimetres", "kilometre", "kilometres", "in", "ins", "inch", "inches", "ft", "foot", "feet", "yd", "yds"),
        *("yard", "yards", "micron", "microns", "µm", "um"),
        *("mg", "g", "gm", "gms", "gr", "gram", "grams", "kg", "kilogram", "kilograms", "oz", "ounce", "ounces", "lb"),
        *("lbs", "pound", "pounds"),
    )
)
"""Units that are understood, each by itself and over another; a general library knows many more that nobody means."""

MEASURABLE = (1e-9, 1e12)
"""Of every quantity, in the unit that it is kept in: what is less or more was not measured."""

LATELY = 2048
"""Texts that are remembered as read: of a form that is sent again one field is another."""

Stage = Literal["plied", "finished"]
"""Of a yarn that a size is said or measured of: as it comes off the wheel, or washed and dried."""

_OFF = re.compile(r"\s*(?:±|\+/-|\+-)\s*(?P<percent>\d+(?:[.,]\d+)?(?:e-?\d+)?)\s*%\s*$")
_MOST_OFF = 2.0
_METHOD = re.compile(
    r"\s*,?\s*(?:\b(?:by|on|with|counted|of)\b\s*)?(?:\b(?:my|the|a)\b\s*)?(?:gauge\s+)?\b(?P<method>card|snug|relaxed)(?:ly)?"
    r"(?:\s+wraps?)?\s*$",
    re.IGNORECASE,
)
_PER = re.compile(r"\s*(?:/|\bper\b)\s*(?:(?:an?|the)\s+)?", re.IGNORECASE)
_BETWEEN = re.compile(r"(?:between\s+)?(?P<one>[a-z][a-z ]*?)\s+(?:and|to|or)\s+(?P<other>[a-z][a-z ]*)", re.IGNORECASE)
_TWISTS, _STITCHES = (
    ("", "turn", "turns", "twist", "twists", "t"),
    ("", "st", "sts", "stitch", "stitches", "row", "rows"),
)


@dataclass(frozen=True)
class Size:
    """A size as given: by linear density or by its gauge."""

    tex: float | None
    diameter_mm: float | None
    off: float = 0.0
    """How far it may be off, a standard deviation of the logarithm of what is given; 0 where it is meant so."""
    method: WpiMethod | None = None
    """How wraps were counted."""


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
    try:
        amount = _one(text, unit, place)
    except InputError:
        return _twist_rate(text, place)
    if not amount.check("[twisting]/[length]") and rate_of(text):
        return _twist_rate(text, place)
    if not amount.check("[twisting]/[length]"):
        _refuse(place, f"'{text.strip()}' is not a twist; write it like 220 t/m, 5.5 tpi or 5.5 per inch")
    return _in(amount, "turn/meter", place)


def _twist_rate(text: str, place: str) -> float:
    """Return a twist said as so many turns in a length; the fault of what says none."""
    rate = rate_of(text)
    if rate is None or rate.counted not in _TWISTS:
        _one(text, "t/m", place)
        _refuse(place, f"'{text.strip()[:40]}' is not a twist; write it like 220 t/m, 5.5 tpi or 5.5 per inch")
    return _within(1000 * rate.number / _in_mm(rate.over, rate.unit, place), "t/m", place)


@lru_cache(maxsize=LATELY)
def read_size(text: str, unit: str, place: str = "size", settings: Settings | None = None) -> Size:
    """Return a size: tex, denier, yd/lb, m/100g, Nm, Ne, Nw; wpi or mm for its gauge; or a weight class by name.

    ``24 by card`` is counted so, whatever the method in use; between two figures or two classes it lies anywhere.

    Raises:
        InputError: where the text is no size.
    """
    settings = settings or Settings()
    if stated := _OFF.search(text[:80]):
        off = float(stated["percent"].replace(",", ".")) / 100
        if off > _MOST_OFF:
            _refuse(place, f"nobody is that unsure; give at most ± {100 * _MOST_OFF:g} %")
        return replace(read_size(text[: stated.start()], unit, place, settings), off=off)
    named = _METHOD.search(text[:80])
    method = cast(WpiMethod, named["method"].lower()) if named else settings.wpi_method
    if named:
        text, unit = text[: named.start()], "wpi"
    if text.strip() and not any(letter.isdigit() or letter in "¼½¾" for letter in text[:80]):
        return _by_name(text, place, settings)
    ends = range_of(text)
    if ends is None:
        return _size(text, unit, place, method)
    high = _size(ends[1], unit, place, method)
    written = read_terms(ends[1], unit, place)[-1].unit
    low = _size(ends[0], written, place, method)
    if low.diameter_mm is None or high.diameter_mm is None:
        if low.tex is None or high.tex is None:
            _refuse(place, f"'{text.strip()[:40]}' is not between two sizes of one kind")
        return Size(math.sqrt(low.tex * high.tex), None)
    thin, thick = sorted((low.diameter_mm, high.diameter_mm))
    off = math.hypot(interval_off(thin, thick), low.off) if thin < thick else low.off
    return Size(None, math.sqrt(thin * thick), off, low.method)


def _size(text: str, unit: str, place: str, method: WpiMethod) -> Size:
    """Return one size; wraps as a method counts them."""
    amount = _one(text, unit, place)
    if amount.check("[mass]/[length]"):
        return Size(_in(amount, "tex", place), None)
    if amount.check("[length]/[mass]"):
        return Size(1e6 / _in(amount, "meter/kilogram", place), None)
    if amount.check("[wrapping]"):
        amount = replace(amount, unit=f"{amount.unit} / inch")
    if amount.check("[wrapping]/[length]"):
        counted = SNUG_OVER_RELAXED if method == "snug" else 1.0
        off = CARD.off if method == "card" else 0.0
        return Size(None, INCH * counted / _in(amount, "wpi", place), off, method)
    if not amount.check("[length]"):
        _refuse(
            place, f"'{text.strip()}' is not a size; write it like 90 tex, 22 wpi, 5500 yd/lb, 0.8 mm or worsted weight"
        )
    return Size(None, _in(amount, "millimeter", place))


def _by_name(text: str, place: str, settings: Settings) -> Size:
    """Return the size of a weight class, or of what lies between two."""
    table = settings.weight_table
    own = class_named(text, table)
    if own:
        low, high = own
        ends = (low, high) if low and math.isfinite(high) else None
        off = interval_off(*ends) if ends else 0.0
        return Size(None, INCH / middle_of(low, high), off, "relaxed")
    both = _BETWEEN.fullmatch(plain(text))
    found = [class_named(both[each], table) for each in ("one", "other")] if both else []
    between = [INCH / middle_of(*each) for each in found if each]
    if len(between) != 2:
        near = get_close_matches(text.strip().lower(), class_names(table), 1, 0.5)
        hint = f"; nearest is {near[0]}" if near else "; write it like 90 tex, 22 wpi, 0.8 mm or worsted weight"
        _refuse(place, f"'{text.strip()[:40]}' is not a number with a unit, nor the name of a size{hint}")
    thin, thick = sorted(between)
    return Size(None, math.sqrt(thin * thick), interval_off(thin, thick) if thin < thick else 0.0, "relaxed")


@lru_cache(maxsize=LATELY)
def read_length(text: str, unit: str, place: str = "length") -> float:
    """Return a length in mm; a sum of lengths is one.

    Raises:
        InputError: where the text is not a length.
    """
    amount = _sum(text, unit, place)
    if not amount.check("[length]"):
        _refuse(place, f"'{text.strip()}' is not a length; write it like 120 m, 130 yd or 3 in")
    return _in(amount, "millimeter", place)


@lru_cache(maxsize=LATELY)
def read_mass(text: str, unit: str, place: str = "mass") -> float:
    """Return a mass in grams; a sum of masses is one: ``96+138 g``.

    Raises:
        InputError: where the text is not a mass.
    """
    amount = _sum(text, unit, place)
    if not amount.check("[mass]"):
        _refuse(place, f"'{text.strip()}' is not a weight; write it like 100 g, 96+138 g or 4.5 oz")
    return _in(amount, "gram", place)


def read_gauge(text: str, unit: str, place: str = "stitches") -> float:
    """Return stitches or rows in 100 mm: ``5.5 per inch``, ``22 in 4 in``, ``22/10 cm``.

    ``unit`` is that of the usual square where none is written: 4 in or 10 cm.

    Raises:
        InputError: where the text is no gauge.
    """
    rate = rate_of(text)
    if rate and rate.counted not in _STITCHES:
        _refuse(place, f"'{rate.counted}' are not stitches; write it like 22 in 4 in or 5.5 per inch")
    if rate is None:
        try:
            number, across = number_of(plain(text)), USUAL_SQUARE[unit]
        except (ValueError, ZeroDivisionError, IndexError):
            _refuse(place, f"'{text.strip()[:40]}' is no gauge; write it like 22 in 4 in, 22/10 cm or 5.5 per inch")
    else:
        number, across = rate.number, _in_mm(rate.over, rate.unit, place)
    gauge = 100 * number / across
    if not 0 < gauge <= MOST_STITCHES:
        _refuse(place, f"must be more than 0 and at most {MOST_STITCHES:g} in 10 cm, not {gauge:g}")
    return gauge


USUAL_SQUARE = {"in": 4 * INCH, "cm": 100.0}
"""Across which stitches are counted where nobody says otherwise, mm."""

MOST_STITCHES = 400.0


@dataclass(frozen=True)
class _Amount:
    """A number of a unit that has been read; what one such unit comes to in another is asked once."""

    number: float
    unit: str

    def check(self, dimension: str) -> bool:
        return _measures(self.unit, dimension)

    def to(self, unit: str) -> float:
        return self.number * _times(self.unit, unit)


@lru_cache(maxsize=256)
def _measures(unit: str, dimension: str) -> bool:
    return bool(_unit(unit).check(dimension))


@lru_cache(maxsize=256)
def _times(unit: str, other: str) -> float:
    return float(_unit(unit).to(other).magnitude)


@lru_cache(maxsize=256)
def _alike(unit: str, other: str) -> bool:
    return bool(_unit(unit).dimensionality == _unit(other).dimensionality)


def _one(text: str, unit: str, place: str) -> _Amount:
    """Return a positive quantity; the number first, then its unit, else the one meant."""
    terms = read_terms(text, unit, place)
    if len(terms) > 1:
        _refuse(place, f"'{text.strip()[:40]}' is a sum; give one figure here")
    return _Amount(terms[0].number, _named(terms[0].unit, place))


def _sum(text: str, unit: str, place: str) -> _Amount:
    first, *others = read_terms(text, unit, place)
    total = _Amount(first.number, _named(first.unit, place))
    for each in others:
        more = _Amount(each.number, _named(each.unit, place))
        if not _alike(total.unit, more.unit):
            _refuse(place, f"'{first.unit}' and '{each.unit}' cannot be added")
        total = replace(total, number=total.number + more.to(total.unit))
    return total


def _named(written: str, place: str) -> str:
    """Return the name by which a unit is known."""
    written = _PER.sub("/", written)
    known = _ALIASES.get(written.lower())
    named = [_COUNT.sub("", each).strip().lower() for each in written.split("/")]
    if known is None and not all(each in _SAID for each in named):
        _unknown(written, place)
    name = known or written
    try:
        _unit(name)
    except Exception:  # pint raises many kinds on junk: its own, token, attribute and arithmetic errors
        _unknown(written, place)
    return name


def _unknown(written: str, place: str) -> NoReturn:
    near = get_close_matches(written.lower(), sorted(_SAID), 1, 0.5)
    _refuse(place, f"the unit '{written}' is not known" + (f"; nearest is {near[0]}" if near else ""))


def _in_mm(number: float, unit: str, place: str) -> float:
    return read_length(f"{number!r} {unit}", "mm", place)


def _in(amount: _Amount, unit: str, place: str) -> float:
    """Return what a quantity comes to in a unit."""
    return _within(amount.to(unit), unit, place)


def _within(value: float, unit: str, place: str) -> float:
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
