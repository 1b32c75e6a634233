"""How amounts are written: ``96+138 g``, ``3 x 100 g``, ``½ lb``, ``1 lb 4 oz``, ``22-24 wpi``, ``5 in 1 in``, ``7:1``.

Units are only names here; what they come to is found by :mod:`pebble_wheel.notation.units`.
"""

import re
import unicodedata
from dataclasses import dataclass
from itertools import pairwise
from typing import NoReturn

from pebble_wheel.notation.faults import Fault, InputError

LONGEST = 60
"""Letters of an amount."""

_NUMBER = r"""(?:
    (?:\d{1,6}\s+)?\d{1,3}\s*/\s*\d{1,3}(?!\s*[\d.,/])   # 4 1/2
  | \d{1,3}(?:,\d{3})+(?:\.\d+)?(?![\d,])                # 1,200
  | \d{1,3}(?:[ ]\d{3})+(?:[.,]\d+)?(?!\d)               # 12 000
  | (?:\d+(?:[.,]\d+)?|[.,]\d+)(?:e[+-]?\d{1,3}(?![a-z\d]))?
)"""
_WORDS = {
    "half": 0.5,
    "quarter": 0.25,
    "a": 1.0,
    "an": 1.0,
    **{word: float(number) for number, word in enumerate(("one", "two", "three", "four", "five", "six"), 1)},
}
_SPELT = re.compile(rf"(half|quarter)\s+(?:of\s+)?an?\s+|({'|'.join(_WORDS)})\s+", re.IGNORECASE)
_UNIT = r"""(?!(?:and|plus)\b)(?:
    [a-zµ°"'.]+(?:\s+per\s+|\s*/\s*)(?:an?\s+|the\s+|\d+\s*)?[a-z]+   # turns per inch, m/100 g
  | (?:per\s+|/\s*)(?:an?\s+|the\s+)?[a-z]+                           # per inch
  | [a-zµ°"'.]+
)"""
_TERM = re.compile(
    rf"\s*(?:(?P<times>\d{{1,4}})\s*(?:x|\*|times|of)\s*(?=[\d.,]))?(?P<number>{_NUMBER})\s*(?P<unit>{_UNIT})?\s*",
    re.IGNORECASE | re.VERBOSE,
)
_JOINED = re.compile(r"\s*(?:\+|&|\band\b|\bplus\b)\s*", re.IGNORECASE)
_RANGE = re.compile(
    rf"\s*(?:between\s+|from\s+)?(?P<low>{_NUMBER}\s*(?:{_UNIT})?)\s*(?:-|\bto\b|\band\b)\s*(?P<high>{_NUMBER}.*)",
    re.IGNORECASE | re.VERBOSE,
)
_RATE = re.compile(
    rf"""\s*(?P<number>{_NUMBER})\s*(?P<counted>[a-z]+)??\s*(?:\bper\b|/|\bin\b|\bover\b|\bto\b|\bon\b)\s*(?:the|an|a)?\s*
    (?P<over>{_NUMBER})?\s*(?P<unit>[a-z"]+)\s*""",
    re.IGNORECASE | re.VERBOSE,
)
_RATIO = re.compile(rf"\s*(?P<one>{_NUMBER})\s*(?::|\bto\b)\s*(?P<other>{_NUMBER})\s*", re.IGNORECASE | re.VERBOSE)
_NOT_A_RANGE = ("between", "from")


@dataclass(frozen=True)
class Term:
    """A number with its unit."""

    number: float
    unit: str


@dataclass(frozen=True)
class Rate:
    """So many in a length: ``22 stitches in 4 in``."""

    number: float
    counted: str
    """What is counted; empty where it is not said."""
    over: float
    unit: str


def number_of(text: str) -> float:
    """Return a written number: decimal point or comma, thousands apart, a fraction.

    >>> number_of("4 1/2"), number_of("2,5"), number_of("1,200")
    (4.5, 2.5, 1200.0)
    """
    if "/" in text:
        *whole, fraction = text.replace(" /", "/").replace("/ ", "/").split()
        above, below = fraction.split("/")
        return (float(whole[0]) if whole else 0.0) + float(above) / float(below)
    if re.fullmatch(r"\d{1,3}(,\d{3})+(\.\d+)?", text) and text[0] != "0":
        return float(text.replace(",", ""))
    return float(text.replace(" ", "").replace(",", "."))


def plain(text: str) -> str:
    """Return a text with fractions, dashes and times signs as they come from any keyboard."""
    spelt = "".join(f" {_fraction(each)}" if _fraction(each) else each for each in text)
    return spelt.translate(_TYPED).strip()


def _fraction(letter: str) -> str:
    if unicodedata.category(letter) != "No":
        return ""
    whole = unicodedata.normalize("NFKC", letter)
    return whole.replace("\N{FRACTION SLASH}", "/") if "\N{FRACTION SLASH}" in whole and whole[-1].isdigit() else ""


_TYPED = str.maketrans(
    {"–": "-", "—": "-", "−": "-", "×": "x", "·": "*", "’": "'", "”": '"', "\N{NO-BREAK SPACE}": " "}
)


def read_terms(text: str, unit: str, place: str) -> tuple[Term, ...]:
    """Return the terms of a sum, or the one term; a unit holds for the numbers before it that have none.

    Args:
        text: as typed.
        unit: meant where none is written.
        place: of the field.

    Raises:
        InputError: where it is no amount.
    """
    terms, rest = [], _checked(text, place)
    while True:
        rest = _SPELT.sub(lambda each: f"{_WORDS[(each[1] or each[2]).lower()]} ", rest, count=1) if rest else rest
        found = _TERM.match(rest)
        if not found:
            _refuse(place, f"'{_short(text)}' is not a number with a unit")
        number = _number(found["number"], place) * float(found["times"] or 1)
        if not 0 < number < 1e9:
            _refuse(place, f"must be more than 0, not {number:g}" if number <= 0 else "is beyond any yarn")
        terms.append(Term(number, (found["unit"] or "").strip(". ")))
        rest = rest[found.end() :]
        if not rest:
            break
        joined = _JOINED.match(rest)
        if joined:
            rest = rest[joined.end() :]
        elif not (terms[-1].unit and rest[0].isdigit()):
            _refuse(place, f"the unit '{(terms[-1].unit + ' ' + rest).strip()[:24]}' is not known")
    return _with_units(terms, unit)


def _with_units(terms: list[Term], unit: str) -> tuple[Term, ...]:
    """Return terms with the unit of the next one that has any, else of the one before, else the one meant."""
    units = [each.unit for each in terms]
    for place in reversed(range(len(units) - 1)):
        units[place] = units[place] or units[place + 1]
    for before, after in pairwise(range(len(units))):
        units[after] = units[after] or units[before]
    return tuple(Term(each.number, own or unit) for each, own in zip(terms, units, strict=True))


def range_of(text: str) -> tuple[str, str] | None:
    """Return both ends of a written range, each with what it holds of a unit, or None where it is no range.

    >>> range_of("between 22 and 24 wpi"), range_of("96 and 138 g"), range_of("3 - 4 mm")
    (('22', '24 wpi'), None, ('3', '4 mm'))
    """
    found = _RANGE.fullmatch(plain(text))
    if not found or (" and " in text.lower() and not plain(text).lower().startswith(_NOT_A_RANGE)):
        return None
    return found["low"].strip(), found["high"].strip()


def rate_of(text: str) -> Rate | None:
    """Return so many in a length, or None where the text says none.

    >>> rate_of("22 in 4 in"), rate_of("5.5 per inch")
    (Rate(number=22.0, counted='', over=4.0, unit='in'), Rate(number=5.5, counted='', over=1.0, unit='inch'))
    """
    found = _RATE.fullmatch(plain(text))
    if not found or len(text) > LONGEST:
        return None
    try:
        return Rate(
            number_of(found["number"]),
            (found["counted"] or "").lower(),
            number_of(found["over"]) if found["over"] else 1.0,
            found["unit"].lower(),
        )
    except (ValueError, ZeroDivisionError):
        return None


def read_ratio(text: str, place: str = "ratio") -> float:
    """Return how many times one thing turns while another turns once: ``7:1``, ``1:7`` or ``7``.

    Raises:
        InputError: where it is no ratio.
    """
    found = _RATIO.fullmatch(plain(text))
    if not found:
        return read_number(text, place)
    one, other = (_number(found[each], place) for each in ("one", "other"))
    if not one or not other:
        _refuse(place, "a ratio is of two numbers above 0, like 7:1")
    return max(one, other) / min(one, other)


def read_number(text: str, place: str = "number") -> float:
    """Return a bare number: decimal point or comma, a fraction, a sign.

    Raises:
        InputError: where the text is none.
    """
    found = (
        re.fullmatch(rf"([+-])?\s*({_NUMBER})", plain(text), re.IGNORECASE | re.VERBOSE)
        if text[:LONGEST] == text
        else None
    )
    if not found:
        _refuse(place, f"'{_short(text)}' is not a number; write it like 1.1")
    number = found[2].replace(",", ".") if re.fullmatch(r"\d+,\d+", found[2]) else found[2]
    return (-1 if found[1] == "-" else 1) * _number(number, place)


def _checked(text: str, place: str) -> str:
    if not text.strip():
        _refuse(place, "give a number")
    if len(text) > LONGEST:
        _refuse(place, f"'{_short(text)}' is not a number with a unit")
    typed = plain(text)
    if signed := re.match(r"([+-])\s*(?=[\d.,])", typed):
        if signed[1] == "-":
            _refuse(place, f"must be more than 0, not {_short(typed)}")
        typed = typed[signed.end() :]
    return typed


def _number(text: str, place: str) -> float:
    try:
        number = number_of(text)
    except (ValueError, ZeroDivisionError, IndexError):
        _refuse(place, f"'{_short(text)}' is not a number")
    if number > 1e300:
        _refuse(place, "is beyond any yarn")
    return number


def _short(text: str) -> str:
    return text.strip()[:40]


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message)) from None
