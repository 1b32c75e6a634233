"""The hands and the wheel of the person, as the settings tell of them."""

from dataclasses import dataclass
from functools import lru_cache

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.wheel import read_bobbin, read_bobbins, read_orifice, read_pace, read_ratios, read_slots
from pebble_wheel.workshop.plan import Bobbins


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


@dataclass(frozen=True)
class Owned:
    """What a person makes yarn with, as far as they told."""

    bobbins: Bobbins | None
    """None where their size is not known."""
    many: int | None
    """Bobbins owned."""
    orifice: float | None
    """mm."""


@lru_cache(maxsize=64)
def owned_by(settings: Settings) -> Owned:
    """Return the bobbins and the orifice of a person; nothing where what was typed cannot be read."""
    try:
        many = read_bobbins(settings.bobbins)
        size = read_bobbin(settings.bobbin, settings.bobbin_empty, settings)
        bobbins = Bobbins(many or 0, size.outer, size.core, size.width, size.empty) if size else None
        return Owned(bobbins, many, read_orifice(settings.orifice, settings))
    except InputError:
        return Owned(None, None, None)
