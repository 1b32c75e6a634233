"""Choices that a page offers."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TypeVar

Value = TypeVar("Value", bound=str)


@dataclass(frozen=True)
class Choice:
    """A choice that can be made, with its words."""

    value: str
    words: str


def choices_of(words: Mapping[Value, str]) -> tuple[Choice, ...]:
    """Return choices in their order."""
    return tuple(Choice(value, said) for value, said in words.items())
