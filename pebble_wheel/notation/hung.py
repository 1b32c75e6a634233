"""A weight hung in a skein, as typed."""

from dataclasses import dataclass

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_mass

MOST_ROUNDS = 100_000


@dataclass(frozen=True)
class Hung:
    """A weight in a skein."""

    grams: float
    rounds: int


def read_hung(weight: str, rounds: str, settings: Settings) -> Hung | None:
    """Return the weight hung in a skein; None where neither is given.

    Raises:
        InputError: with every fault, at ``hung_grams`` or ``hung_rounds``.
    """
    if not weight.strip() and not rounds.strip():
        return None
    faults: list[Fault] = []
    grams, turns = 0.0, 0.0
    try:
        grams = read_mass(weight, settings.mass, "hung_grams")
    except InputError as error:
        faults.extend(error.faults)
    try:
        turns = read_number(rounds, "hung_rounds")
        if turns != int(turns) or not 1 <= turns <= MOST_ROUNDS:
            faults.append(Fault("hung_rounds", "count the rounds of the skein, a whole number"))
    except InputError as error:
        faults.extend(error.faults)
    if faults:
        raise InputError(*faults)
    return Hung(grams, int(turns))
