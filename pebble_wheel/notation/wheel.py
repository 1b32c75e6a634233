"""The gauge card of a person, and how quickly they treadle, as typed."""

from typing import NoReturn

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError

LEAST_SLOT, MOST_SLOT, MOST_SLOTS = 1.0, 150.0, 24
SLOWEST, QUICKEST = 5.0, 300.0
"""Treadles a minute."""


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
