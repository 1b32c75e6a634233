"""Knitting needles, by millimetres and by US number."""

import re

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.units import read_length

US_NEEDLES: dict[str, float] = {
    "0": 2.0, "1": 2.25, "1.5": 2.5, "2": 2.75, "2.5": 3.0, "3": 3.25, "4": 3.5, "5": 3.75, "6": 4.0, "7": 4.5,
    "8": 5.0, "9": 5.5, "10": 6.0, "10.5": 6.5, "11": 8.0, "13": 9.0, "15": 10.0, "17": 12.75, "19": 15.0,
    "35": 19.0, "50": 25.0,
}  # fmt: skip
"""Millimetres by US number: common practice, from memory."""

_US = re.compile(r"(?:us|u\.s\.)\s*(?:size|no\.?|#)?\s*(?P<number>.+)", re.IGNORECASE)


def read_needle(text: str, unit: str, place: str = "needle") -> float:
    """Return the diameter of a needle in mm: ``US 7``, ``4.5 mm``, or a bare number in the unit meant.

    Raises:
        InputError: where it is no needle.
    """
    numbered = _US.fullmatch(text.strip())
    if not numbered and (unit != "US" or not re.fullmatch(r"\s*[\d.,½/ ]+\s*", text)):
        return read_length(text, "mm", place)
    number = f"{read_number(numbered['number'] if numbered else text, place):g}"
    if number not in US_NEEDLES:
        near = min(US_NEEDLES, key=lambda each: abs(float(each) - float(number)))
        raise InputError(Fault(place, f"there is no needle US {number}; nearest is US {near}, {US_NEEDLES[near]:g} mm"))
    return US_NEEDLES[number]


def nearest_needle(mm: float) -> float:
    """Return the needle that can be bought nearest to a diameter [mm].

    >>> nearest_needle(3.9)
    4.0
    """
    return min(US_NEEDLES.values(), key=lambda each: abs(each - mm))


def us_number(mm: float) -> str:
    """Return the US number nearest to a needle.

    >>> us_number(4.4)
    '7'
    """
    return min(US_NEEDLES, key=lambda each: abs(US_NEEDLES[each] - mm))
