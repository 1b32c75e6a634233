"""What was asked and answered when the eye was practised, as it is kept and as it is typed."""

import math
from dataclasses import dataclass
from typing import Literal, get_args

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.sample import read_angle
from pebble_wheel.notation.settings import Settings

Practised = Literal["way", "angle", "other", "balance", "wraps", "plies", "prep"]
"""S or Z; the angle in one's own convention, and in the other one; how it rests; wraps at life size; how many plies;
how the fibre was prepared."""

Resting = Literal["under", "balanced", "over"]
Way = Literal["S", "Z"]
MOST_SEED, MOST_GUESSED = 10**9, 200.0

CHOICES: dict[Practised, tuple[str, ...]] = {
    "way": get_args(Way),
    "balance": get_args(Resting),
    "plies": ("2", "3", "4", "5", "6"),
    "prep": ("combed", "semi", "carded"),
}
"""Of those that are answered by choosing."""

MEASURED: tuple[Practised, ...] = ("angle", "other", "wraps")
"""Those that are answered by a figure: degrees from the axis, or relaxed wraps."""


@dataclass(frozen=True)
class Asked:
    """A question, by which its yarn is drawn again."""

    kind: Practised
    fine: bool
    seed: int
    photo: int | None = None
    """Number of an own photo; None of a drawn yarn."""

    def written(self) -> str:
        """Return it as a page sends it back: ``angle-f-123``."""
        photo = f"-{self.photo}" if self.photo is not None else ""
        return f"{self.kind}-{'f' if self.fine else 't'}-{self.seed}{photo}"


def read_asked(text: str) -> Asked:
    """Return the question that a text names.

    Raises:
        InputError: where it names none.
    """
    kind, _, rest = text.partition("-")
    parts = rest.split("-")
    numbers = [int(each) for each in parts[1:] if each.isascii() and each.isdecimal() and len(each) < 16]
    known = kind in get_args(Practised) and parts[0] in ("f", "t") and len(numbers) == len(parts) - 1
    if not known or not 1 <= len(numbers) <= 2 or numbers[0] > MOST_SEED:
        raise InputError(Fault("asked", "this names no question"))
    return Asked(next(each for each in get_args(Practised) if each == kind), parts[0] == "f", numbers[0], *numbers[1:])


def read_given(text: str, kind: Practised, settings: Settings) -> str:
    """Return an answer as it is kept: a choice, degrees from the axis, or relaxed wraps.

    Raises:
        InputError: where it is none.
    """
    if kind in CHOICES:
        if text not in CHOICES[kind]:
            raise InputError(Fault("given", "choose one of them"))
        return text
    if kind == "wraps":
        wraps = read_number(text, "given")
        if not 1 <= wraps <= MOST_GUESSED:
            raise InputError(Fault("given", f"wraps lie between 1 and {MOST_GUESSED:g}"))
        return f"{wraps / settings.wraps(1.0):.5g}"
    from_axis = read_angle(text, "given", settings)
    return f"{90 - from_axis if kind == 'other' else from_axis:.5g}"


def off(kind: Practised, truth: str, given: str) -> float:
    """Return by how much an answer is off: degrees, the logarithm of wraps, or 1 of one that is wrong.

    Example:
        >>> off("angle", "24", "30"), round(off("wraps", "20", "24"), 3), off("way", "S", "S")
        (6.0, 0.182, 0.0)
    """
    match kind:
        case "angle" | "other":
            return float(given) - float(truth)
        case "wraps":
            return math.log(float(given) / float(truth))
        case "way" | "balance" | "plies" | "prep":
            return float(given != truth)


def miss(kind: Practised, truth: str, given: str) -> float:
    """Return how badly an answer went, from 0 of a right one to 1."""
    return min(abs(off(kind, truth, given)) / ALL_WRONG[kind], 1.0)


ALL_WRONG: dict[Practised, float] = {
    **{"angle": 15.0, "other": 15.0, "wraps": 0.5},
    **{"way": 1.0, "balance": 1.0, "plies": 1.0, "prep": 1.0},
}
"""Off by which an answer is as bad as can be: degrees, a logarithm, or any (assumed)."""
