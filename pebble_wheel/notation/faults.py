"""What is wrong with an input, and where: one fault a line."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Fault:
    """One thing wrong at one place."""

    place: str
    message: str

    def __str__(self) -> str:
        return f"{self.place}: {self.message}" if self.place else self.message


class InputError(ValueError):
    """An input that cannot be used, with all its faults."""

    def __init__(self, *faults: Fault) -> None:
        self.faults = faults
        super().__init__("\n".join(str(fault) for fault in faults))
