"""What stands in the log of a yarn besides what was measured: notes, and what sleeps until when."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Literal, cast, get_args

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.guess import Guess
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.sample import Asked, Sample

Asleep = Literal["rest", "soak", "dry"]

USUAL_HOURS: dict[Asleep, float] = {"rest": 24.0, "soak": 1 / 3, "dry": 36.0}
"""On the bobbin, in water, and drying: common practice, no source."""

MOST_HOURS = 2000.0

LOG_FIELDS: dict[str, str] = {"what": "rest", "hours": "", "words": "", "next": ""}


@dataclass(frozen=True)
class Note:
    """Something written down."""

    words: str


@dataclass(frozen=True)
class Sleep:
    """A yarn or its singles left alone for a time."""

    what: Asleep
    hours: float

    def until(self, noted_at: str) -> datetime:
        """Return when it has slept enough."""
        return datetime.fromisoformat(noted_at) + timedelta(hours=self.hours)


@dataclass(frozen=True)
class Printed:
    """A wheel card, all that stands on it, as JSON."""

    card: str


@dataclass(frozen=True)
class Planned:
    """A plan of the making as it was typed, and when its steps were done."""

    typed: dict[str, str]
    done: dict[str, str]
    """By the key of the step, the time of day and date it was ticked off."""
    ahead: str = ""
    """What is done in the step that comes next; empty where none is left."""
    ahead_at: str = ""
    """When that was to begin, by the clock of this machine."""
    spare: float = 0.0
    """Grams of singles that are left over and kept."""


@dataclass(frozen=True)
class NextTime:
    """What to do otherwise when it is spun again."""

    words: str


@dataclass(frozen=True)
class Again:
    """That a yarn is another one spun again, and with what of it was begun."""

    of: str
    """Uid of the design that it was made of."""
    name: str
    """That this had then."""
    planned_at: str = ""
    """When this was planned."""
    asked: Asked = field(default_factory=Asked)
    """By how much to aim otherwise than planned, by what was learned of the hands."""
    aimed_mm: float | None = None
    """Thickness of the single that is wanted, and of that to aim for."""
    spin_mm: float | None = None
    done: tuple[str, ...] = ()
    """What was noted for the next time and is done to the design."""
    left: tuple[str, ...] = ()
    """What was noted besides."""
    fibre: tuple[tuple[str, str], ...] = ()
    """Fibre that is not to be had any more, and what was taken instead."""
    settings: dict[str, str] = field(default_factory=dict)
    """How the wheel was set, by the address of the strand."""


Record = Sample | Skein | Swatch | Note | Sleep | Printed | Planned | NextTime | Again | Guess


def read_note(typed: Mapping[str, str]) -> Note:
    """Return a note.

    Raises:
        InputError: where nothing is written, or too much.
    """
    form = Form(typed, LOG_FIELDS)
    words = form.note("words")
    form.refuse()
    if not words:
        raise InputError(Fault("words", "write what is to be remembered"))
    return Note(words)


def read_next(typed: Mapping[str, str]) -> NextTime:
    """Return what is to be done otherwise next time.

    Raises:
        InputError: where nothing is written, or too much.
    """
    form = Form(typed, LOG_FIELDS)
    words = form.note("next")
    form.refuse()
    if not words:
        raise InputError(Fault("next", "write what to do otherwise, like “thinner, 4-ply”"))
    return NextTime(words)


def read_sleep(typed: Mapping[str, str]) -> Sleep:
    """Return what is left alone, and for how long; the usual time where none is said.

    Raises:
        InputError: where it cannot be read.
    """
    form = Form(typed, LOG_FIELDS)
    what = cast(Asleep, form.one_of("what", get_args(Asleep)))
    hours = form.read("hours", _hours)
    form.refuse()
    return Sleep(what, hours or USUAL_HOURS[what])


def _hours(text: str, place: str) -> float:
    """Return hours: ``24``, ``24 h``, ``20 min``, ``2 days``."""
    words = text.lower().split()
    units = {"min": 1 / 60, "minutes": 1 / 60, "h": 1.0, "hours": 1.0, "hour": 1.0, "day": 24.0, "days": 24.0}
    unit = units.get(words[-1]) if words else None
    hours = read_number(text if unit is None else " ".join(words[:-1]), place) * (unit or 1.0)
    if not 0 < hours <= MOST_HOURS:
        raise InputError(Fault(place, f"must be more than 0 and at most {MOST_HOURS:g} hours"))
    return hours
