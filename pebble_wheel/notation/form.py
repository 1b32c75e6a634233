"""A form of several fields being read: faults are gathered, each at its field."""

from collections.abc import Callable, Mapping
from typing import TypeVar

from pebble_wheel.notation.faults import Fault, InputError

Read = TypeVar("Read")

MOST_NOTE = 500


class Form:
    """A form being read: faults are gathered, each at its field."""

    def __init__(self, typed: Mapping[str, str], fields: Mapping[str, str]) -> None:
        self._typed, self._fields = typed, fields
        self.faults: list[Fault] = []

    def read(self, field: str, how: Callable[[str, str], Read]) -> Read | None:
        """Return what stands in a field; None where nothing does, or where it cannot be read."""
        text = self._typed.get(field, self._fields[field]).strip()
        try:
            return how(text, field) if text else None
        except InputError as error:
            self.faults.extend(error.faults)
            return None

    def text(self, field: str) -> str:
        """Return what stands in a field, as it is."""
        return self._typed.get(field, self._fields[field]).strip()

    def one_of(self, field: str, choices: tuple[str, ...]) -> str:
        """Return the choice of a field."""
        text = self._typed.get(field, self._fields[field])
        if text not in choices:
            self.faults.append(Fault(field, f"choose one of {', '.join(choices)}"))
        return text

    def note(self, field: str) -> str:
        """Return a note."""
        text = self._typed.get(field, "").strip()
        if len(text) > MOST_NOTE:
            self.faults.append(Fault(field, f"at most {MOST_NOTE} letters; this has {len(text)}"))
        return text

    def refuse(self) -> None:
        """Raise what is wrong.

        Raises:
            InputError: where anything is.
        """
        if self.faults:
            raise InputError(*self.faults)
