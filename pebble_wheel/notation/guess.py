"""A guess noted before the wash, to be answered by what is measured after it."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, cast, get_args

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.settings import SNUG_OVER_RELAXED, Settings
from pebble_wheel.notation.units import read_gauge

About = Literal["wraps", "growth", "length", "gauge", "balance", "words"]
"""Wraps once washed; how much thicker, and shorter, it gets; stitches once washed; how it hangs; in own words."""

Hangs = Literal["open", "S", "Z"]
Came = Literal["", "hit", "partly", "miss"]
"""How a guess in words came out, as its owner says; empty until they do."""

GUESS_FIELDS: dict[str, str] = {"about": "wraps", "guess": ""}
MOST_WRAPS, MOST_PERCENT, MOST_STITCHES, MOST_WORDS = 120.0, 100.0, 200.0, 300


@dataclass(frozen=True)
class Guess:
    """What somebody expects."""

    about: About
    figure: float | None = None
    """Relaxed wraps; percent thicker or shorter; stitches in 10 cm."""
    hangs: Hangs | None = None
    words: str = ""
    """As it was typed."""
    came: Came = ""


def read_guess(typed: Mapping[str, str], settings: Settings) -> Guess:
    """Return a guess.

    Raises:
        InputError: where it says nothing that can be answered.
    """
    form = Form(typed, GUESS_FIELDS)
    about = cast(About, form.one_of("about", get_args(About)))
    form.refuse()
    text = form.text("guess")
    if not text or len(text) > MOST_WORDS:
        raise InputError(Fault("guess", f"say what you expect, in at most {MOST_WORDS} letters"))
    match about:
        case "words":
            return Guess(about, words=text)
        case "balance":
            return Guess(about, hangs=_hangs(text), words=text)
        case "wraps":
            wraps = _between(re.sub(r"\s*(wpi|wraps?)\s*$", "", text.lower()), 1, MOST_WRAPS, "wraps")
            return Guess(about, wraps / (SNUG_OVER_RELAXED if settings.wpi_method == "snug" else 1.0), words=text)
        case "growth" | "length":
            return Guess(
                about, _between(re.sub(r"\s*(%|percent).*$", "", text), 0, MOST_PERCENT, "percent"), words=text
            )
        case "gauge":
            stitches = read_gauge(text, settings.width_unit, "guess")
            if not 1 <= stitches <= MOST_STITCHES:
                raise InputError(Fault("guess", "so many stitches nobody knits"))
            return Guess(about, stitches, words=text)


def _hangs(text: str) -> Hangs:
    bare = text.strip().lower()
    if bare in ("open", "quiet", "balanced", "calm"):
        return "open"
    found = re.fullmatch(r"(?:turns?\s+|over\s+)?([sz])\b.*", bare)
    if not found:
        raise InputError(Fault("guess", "say how it will hang: open, or which way it will turn, S or Z"))
    return "S" if found[1] == "s" else "Z"


def _between(text: str, low: float, high: float, unit: str) -> float:
    number = read_number(text, "guess")
    if not low <= number <= high:
        raise InputError(Fault("guess", f"must lie between {low:g} and {high:g} {unit}, not {number:g}"))
    return number
