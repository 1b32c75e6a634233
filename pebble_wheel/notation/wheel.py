"""The wheel a person has, as typed: its ratios, and how quickly it is treadled."""

from dataclasses import dataclass
from typing import NoReturn

from pebble_wheel.notation.amounts import plain, read_number, read_ratio
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length, read_mass

LEAST_RATIO, MOST_RATIO, MOST_RATIOS = 0.5, 60.0, 20
MOST_BOBBINS, WIDEST = 200, 500.0
"""Owned, and mm."""
LEAST_SLOT, MOST_SLOT, MOST_SLOTS = 1.0, 150.0, 24
SLOWEST, QUICKEST = 5.0, 300.0
"""Treadles a minute."""


def read_ratios(text: str, place: str = "ratios") -> tuple[float, ...]:
    """Return wheel ratios, written like ``6 9 12``, ``6:1, 9:1`` or ``1:6``.

    Raises:
        InputError: where they cannot be read.
    """
    each = text.replace(" :", ":").replace(": ", ":").replace(",", " ").replace(";", " ").split()
    found = tuple(sorted({_within(LEAST_RATIO, MOST_RATIO, read_ratio(piece, place), place) for piece in each}))
    if not found or len(found) > MOST_RATIOS:
        _refuse(place, "give the ratios of your wheel, like 6 9 12")
    return found


def read_slots(text: str, place: str = "card") -> tuple[float, ...]:
    """Return the slots of a gauge card in wraps per inch, the thickest yarn first: ``6 8 10 12``.

    Raises:
        InputError: where they cannot be read.
    """
    each = text.replace(",", " ").replace(";", " ").split()
    found = tuple(sorted({_within(LEAST_SLOT, MOST_SLOT, read_number(piece, place), place) for piece in each}))
    if not 2 <= len(found) <= MOST_SLOTS:
        _refuse(place, f"give the slots of your card in wraps per inch, 2 to {MOST_SLOTS} of them, like 8 12 18 26")
    return found


@dataclass(frozen=True)
class Bobbin:
    """A bobbin as it was typed."""

    outer: float
    """Over the flanges [mm]."""
    core: float
    width: float
    empty: float
    """Grams."""


def read_bobbins(text: str, place: str = "bobbins") -> int | None:
    """Return how many bobbins are owned; None where nothing is said.

    Raises:
        InputError: where it is no number of bobbins.
    """
    if not text.strip():
        return None
    number = read_number(text, place)
    if number != int(number) or not 1 <= number <= MOST_BOBBINS:
        _refuse(place, f"count your bobbins, 1 to {MOST_BOBBINS}")
    return int(number)


def read_bobbin(text: str, empty: str, settings: Settings, place: str = "bobbin") -> Bobbin | None:
    """Return the size of a bobbin, written like ``120 x 30 x 90 mm``: flanges, shaft, width; None where none is said.

    Raises:
        InputError: where it cannot be read, or cannot be.
    """
    if not text.strip():
        return None
    pieces = [each.strip() for each in plain(text).lower().replace("/", "x").split("x")]
    unit = pieces[-1].lstrip("0123456789., ").strip() or settings.small_unit
    if len(pieces) != 3:
        _refuse(place, "give flange, shaft and width, like 120 x 30 x 90 mm")
    outer, core, width = (
        read_length(each if any(letter.isalpha() for letter in each) else f"{each} {unit}", unit, place)
        for each in pieces
    )
    if not 0 < core < outer <= WIDEST or not 0 < width <= WIDEST:
        _refuse(place, "a bobbin is wider over its flanges than its shaft, and no larger than half a metre")
    weighs = read_mass(empty, settings.mass, "bobbin_empty") if empty.strip() else 0.0
    return Bobbin(outer, core, width, weighs)


def read_orifice(text: str, settings: Settings, place: str = "orifice") -> float | None:
    """Return how wide the orifice is [mm]; None where nothing is said.

    Raises:
        InputError: where it cannot be read.
    """
    return read_length(text, settings.small_unit, place) if text.strip() else None


def read_pace(text: str, place: str = "pace") -> float:
    """Return treadles a minute.

    Raises:
        InputError: where they cannot be read.
    """
    return _within(SLOWEST, QUICKEST, read_number(text, place), place)


def _within(low: float, high: float, number: float, place: str) -> float:
    if not low <= number <= high:
        _refuse(place, f"must lie between {low:g} and {high:g}, not {number:g}")
    return number


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message)) from None
