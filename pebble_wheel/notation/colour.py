"""Colours as files and pages write them: ``#`` and six hexadecimal figures."""

import re
from typing import Annotated

from pydantic import Field

_PATTERN = "^#[0-9a-fA-F]{6}$"

Colour = Annotated[str, Field(pattern=_PATTERN)]

UNDYED = "#dcc9a3"
"""Where no colour is given."""


def is_colour(text: str) -> bool:
    """Return whether a text is a colour."""
    return re.fullmatch(_PATTERN, text) is not None
