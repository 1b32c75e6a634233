"""The thread of a yarn in words: its steps, what sleeps until when, and the entries of its log."""

from datetime import datetime
from typing import Literal

from pebble_wheel.notation.log import Asleep, Planned

Step = Literal["construct", "sample", "plan", "colour", "wheel", "finish", "log"]

STEP_WORDS: dict[Step, str] = {
    "construct": "Construct",
    "sample": "Sample",
    "plan": "Plan",
    "colour": "Colour",
    "wheel": "Wheel",
    "finish": "Finish",
    "log": "Log",
}

ASLEEP_WORDS: dict[Asleep, str] = {"rest": "rests on the bobbin", "soak": "soaks", "dry": "dries"}
AHEAD_WORDS: dict[str, str] = {
    "spin": "spin",
    "rest": "let it rest",
    "ply": "ply",
    "skein": "wind the skein",
    "soak": "soak",
    "dry": "hang it up",
    "measure": "measure",
}
"""What comes next of a plan, by what is done in the step."""

AWAKE_WORDS: dict[Asleep, str] = {"rest": "rested", "soak": "soaked", "dry": "dried"}

_DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def day_words(moment: datetime) -> str:
    """Return a day as one would say it: ``3 Mar 2026``."""
    return f"{moment.day} {_MONTHS[moment.month - 1]} {moment.year}"


def until_words(what: Asleep, until: datetime, now: datetime) -> str:
    """Return what sleeps, and until when, by the clock of this machine."""
    local = until.astimezone()
    clock = f"{local.hour}:{local.minute:02d}"
    if local.date() == now.astimezone().date():
        return f"{ASLEEP_WORDS[what]} until {clock}"
    return f"{ASLEEP_WORDS[what]} until {_DAYS[local.weekday()]} {day_words(local).rsplit(' ', 1)[0]}, {clock}"


def ahead_words(planned: Planned) -> str:
    """Return what comes next of a plan and on which day; empty where nothing does, or that cannot be read."""
    try:
        begins = datetime.fromisoformat(planned.ahead_at)
    except ValueError:
        return ""
    if planned.ahead not in AHEAD_WORDS:
        return ""
    return f"{AHEAD_WORDS[planned.ahead]}: {_DAYS[begins.weekday()]} {day_words(begins).rsplit(' ', 1)[0]}"


def slept_words(what: Asleep, hours: float) -> str:
    """Return what was left alone, and for how long."""
    return f"{ASLEEP_WORDS[what]} for {hours_words(hours)}"


def hours_words(hours: float) -> str:
    """Return a time to wait: ``20 min``, ``36 h``, ``3 days``."""
    if hours < 1:
        return f"{round(hours * 60)} min"
    return f"{hours:.3g} h" if hours < 72 else f"{hours / 24:.2g} days"
