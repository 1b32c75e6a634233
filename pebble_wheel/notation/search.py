"""What somebody looks for among yarns, as typed: words, and what is read out of them."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colour import is_colour, read_colours
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.settings import SNUG_OVER_RELAXED, Settings
from pebble_wheel.notation.weights import class_named

State = Literal["asleep", "drying", "short"]
"""Left to rest; in water or hung up; short of fibre for what is planned."""

MOST_WORDS = 200
SEARCH_FIELDS: dict[str, str] = {"q": "", "weight": "", "state": "", "year": "", "who": "", "colour": ""}
"""What can be typed or chosen, and what an empty search holds."""


@dataclass(frozen=True)
class Sought:
    """What yarns are to have; what does not matter is None or empty."""

    words: tuple[str, ...] = ()
    """Each of which begins a word of the yarn or of its log."""
    wraps: tuple[float, float] | None = None
    """Relaxed wraps per inch of the finished yarn, which its band is to touch."""
    weight: tuple[float, float] | None = None
    """The same of a weight class, in which its middle is to lie."""
    state: State | None = None
    year: int | None = None
    """In which it was begun or anything of it was noted."""
    who: str = ""
    """How the name of somebody begins, or of whom the uid is, who spun on it."""
    colour: str = ""
    """Near which one of its colours is to be."""
    colour_said: str = ""
    """As it was named."""


_WRAPS = re.compile(r"(\d[\d.,]*)(?:\s*(?:-|–|to)\s*(\d[\d.,]*))?\s*(?:wpi|wraps?)\b", re.IGNORECASE)
_YEAR = re.compile(r"(?<!\S)((?:19|20)\d\d)(?!\S)")
_WHO = re.compile(r"(?<!\S)by (\S+)", re.IGNORECASE)
_WEIGHT = re.compile(r"(?<!\S)((?:super )?\S+) weight(?!\S)", re.IGNORECASE)
_COLOUR = re.compile(r"(?<!\S)near (\S+)", re.IGNORECASE)


def read_search(typed: Mapping[str, str], settings: Settings) -> tuple[Sought, tuple[Fault, ...]]:
    """Return what is sought, with what cannot be read; that does not count.

    In the words ``9 wpi``, ``2025``, ``by Mara``, ``DK weight`` and ``near teal`` are understood; what is chosen beside
    them goes before.

    Example:
        >>> found, _ = read_search({"q": "mane 9 wraps 2025"}, Settings())
        >>> found.words, found.wraps, found.year
        (('mane',), (9.0, 9.0), 2025)
    """
    form = Form(typed, SEARCH_FIELDS)
    rest = _Rest(typed.get("q", "")[:MOST_WORDS])
    wraps = rest.taken(_WRAPS)
    weight = form.read("weight", lambda text, place: _class(text, place, settings)) if typed.get("weight") else None
    told = rest.taken(_WEIGHT, lambda found: class_named(found[1], settings.weight_table) is not None)
    year, who, colour = rest.taken(_YEAR), rest.taken(_WHO), rest.taken(_COLOUR, lambda found: bool(_one(found[1])))
    sought = Sought(
        tuple(rest.text.split()),
        form.read("q", lambda _, place: _wraps(wraps, place, settings)) if wraps else None,
        weight or (class_named(told[1], settings.weight_table) if told else None),
        next((each for each in get_args(State) if each == typed.get("state")), None),
        form.read("year", _year) or (int(year[1]) if year else None),
        typed.get("who", "").strip() or (who[1] if who else ""),
        *_colour(typed.get("colour", "") or (colour[1] if colour else "")),
    )
    return sought, tuple(form.faults)


class _Rest:
    """Words of which parts are taken."""

    def __init__(self, text: str) -> None:
        self.text = text

    def taken(
        self, pattern: re.Pattern[str], fits: Callable[[re.Match[str]], bool] = lambda _: True
    ) -> re.Match[str] | None:
        """Take what a pattern finds out of the words, where it fits."""
        found = pattern.search(self.text)
        if found is None or not fits(found):
            return None
        self.text = f"{self.text[: found.start()]} {self.text[found.end() :]}"
        return found


def _class(text: str, place: str, settings: Settings) -> tuple[float, float]:
    found = class_named(text, settings.weight_table)
    if found is None:
        raise InputError(Fault(place, f"“{text}” is no weight class"))
    return found


def _wraps(found: re.Match[str], place: str, settings: Settings) -> tuple[float, float]:
    ends = [read_number(each, place) for each in found.groups() if each]
    snug = SNUG_OVER_RELAXED if settings.wpi_method == "snug" else 1.0
    return min(ends) / snug, max(ends) / snug


def _year(text: str, place: str) -> int:
    number = read_number(text, place)
    if number != int(number) or not 1900 <= number <= 2999:
        raise InputError(Fault(place, "a year like 2025"))
    return int(number)


def _colour(said: str) -> tuple[str, str]:
    """Return a colour with what it was called; nothing where that is none."""
    return _one(said), said if _one(said) else ""


def _one(text: str) -> str:
    """Return the colour that a text names; empty where it names none."""
    found = read_colours(text)
    return found[0] if len(found) == 1 and is_colour(found[0]) else ""
