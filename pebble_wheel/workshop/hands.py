"""The hands and the wheel of the person, as the settings tell of them."""

from functools import lru_cache

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.wheel import read_pace, read_ratios, read_slots


@lru_cache(maxsize=64)
def hands_of(settings: Settings) -> Hands:
    """Return what a person spins with; the usual where what was typed cannot be read."""
    try:
        return Hands(read_ratios(settings.ratios), read_pace(settings.pace))
    except InputError:
        return hands_of(Settings())


@lru_cache(maxsize=64)
def slots_in(settings: Settings) -> tuple[float, ...]:
    """Return the slots of a person's gauge card [wraps per inch]; the usual where what was typed cannot be read."""
    try:
        return read_slots(settings.card)
    except InputError:
        return slots_in(Settings())
