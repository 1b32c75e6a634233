"""The gauge card and the pace of the person, as the settings tell of them."""

from functools import lru_cache

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.wheel import read_pace, read_slots


@lru_cache(maxsize=64)
def pace_in(settings: Settings) -> float:
    """Return how quickly a person treadles [treadles a minute]; the usual where what was typed cannot be read."""
    try:
        return read_pace(settings.pace)
    except InputError:
        return pace_in(Settings())


@lru_cache(maxsize=64)
def slots_in(settings: Settings) -> tuple[float, ...]:
    """Return the slots of a person's gauge card [wraps per inch]; the usual where what was typed cannot be read."""
    try:
        return read_slots(settings.card)
    except InputError:
        return slots_in(Settings())
