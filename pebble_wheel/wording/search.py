"""What is looked for on the shelf, in words."""

from collections.abc import Mapping
from datetime import datetime

from pebble_wheel.notation.guess import Guess
from pebble_wheel.notation.log import Again, NextTime, Note, Planned, Printed, Record, Sleep
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.search import Sought, State
from pebble_wheel.notation.settings import Settings
from pebble_wheel.wording.log import record_kind
from pebble_wheel.wording.thread import day_words

STATE_WORDS: dict[State, str] = {"asleep": "resting now", "drying": "in water or drying now", "short": "short of fibre"}
HUES: dict[str, str] = {
    "crimson": "red",
    "darkorange": "orange",
    "goldenrod": "gold",
    "olive": "moss",
    "seagreen": "green",
    "teal": "teal",
    "steelblue": "blue",
    "navy": "deep blue",
    "purple": "violet",
    "palevioletred": "pink",
    "saddlebrown": "brown",
    "gray": "grey",
    "black": "black",
    "ivory": "white",
}
"""Colours that are offered, by their names in stylesheets, and as one would say them."""

MOST_TOLD = 160
"""Letters of an entry."""


def sought_words(sought: Sought, typed: Mapping[str, str], names: Mapping[str, str], settings: Settings) -> list[str]:
    """Return what is looked for besides words, each in words of its own.

    Args:
        sought: what is looked for.
        typed: as it was typed.
        names: of those who spin, by uid.
        settings: of the person.
    """
    said = []
    if sought.wraps:
        low, high = (settings.wraps(each) for each in sought.wraps)
        said.append(f"about {low:.3g} wpi finished" if low == high else f"{low:.3g} to {high:.3g} wpi finished")
    if sought.weight:
        said.append(typed.get("weight") or "of that weight class")
    if sought.state:
        said.append(STATE_WORDS[sought.state])
    if sought.year:
        said.append(f"spun in {sought.year}")
    if sought.who:
        said.append(f"spun by {names.get(sought.who, sought.who)}")
    if sought.colour:
        said.append(f"near {HUES.get(sought.colour_said, sought.colour_said)}")
    return said


def hit_words(record: Record, noted_at: str) -> str:
    """Return an entry of a log in which a word was found."""
    told = written(record)
    day = day_words(datetime.fromisoformat(noted_at).astimezone())
    cut = told if len(told) <= MOST_TOLD else f"{told[:MOST_TOLD].rsplit(' ', 1)[0]} …"
    return f"{day}, {record_kind(record)}{': ' if cut else ''}{cut}"


def written(record: Record) -> str:
    """Return what somebody wrote with an entry."""
    match record:
        case Sample() | Skein():
            return ", ".join(each for each in (record.tied and f"tied: {record.tied}", record.note) if each)
        case Swatch():
            return record.note
        case Note() | NextTime():
            return record.words
        case Again():
            return record.name
        case Guess():
            return record.words
        case Sleep() | Printed() | Planned():
            return ""
