"""Colours as files and pages write them: ``#`` and six hexadecimal figures, or a name that everybody knows."""

import re
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import Field

_PATTERN = "^#[0-9a-fA-F]{6}$"

Colour = Annotated[str, Field(pattern=_PATTERN)]

UNDYED = "#dcc9a3"
"""Where no colour is given."""

Eyes = Literal["own", "protan", "deutan", "tritan"]
"""How colours are looked at: as they are, or as those see them who tell red, green or blue less apart."""


def is_colour(text: str) -> bool:
    """Return whether a text is a colour."""
    return re.fullmatch(_PATTERN, text) is not None


def read_colours(text: str) -> list[str]:
    """Return the colours that a text names, like ``#31507a, teal``; what is none stays as it is."""
    return [_named(each) for each in text.lower().replace(",", " ").split()]


@lru_cache(maxsize=512)
def _named(text: str) -> str:
    from coloraide import Color  # noqa: PLC0415 - it takes a while to import, and few need it

    if is_colour(text) or not text.isalpha():
        return text
    try:
        return Color(text).convert("srgb").to_string(hex=True)
    except ValueError:
        return text


@lru_cache(maxsize=2048)
def seen_by(colour: str, eyes: Eyes) -> str:
    """Return a colour as others see it; one that is none stays as it is."""
    from coloraide import Color  # noqa: PLC0415 - it takes a while to import, and few need it

    if eyes == "own" or not is_colour(colour):
        return colour
    return Color(colour).filter(eyes).clip().convert("srgb").to_string(hex=True)
