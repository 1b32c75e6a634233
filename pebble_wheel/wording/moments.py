"""The moments of finishing in words."""

from pebble_wheel.mechanics.finish.moments import Moment
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.wording.washing import DRYING_WORDS

MOMENT_WORDS: dict[Moment, str] = {
    "fresh": "fresh off the wheel",
    "rested": "rested",
    "soaking": "soaking",
    "spun-out": "squeezed out",
    "dried": "dried",
    "next": "next wetting, dried free",
}


def moment_words(moment: Moment, finish: Finish, rest_hours: float) -> str:
    """Return a moment of a finish in words."""
    match moment:
        case "rested":
            return f"rested {rest_hours:.0f} h"
        case "dried":
            return "used as it is" if finish.wash == "none" else f"dried, {DRYING_WORDS[finish.drying]}"
        case "next" if finish.wash in ("none", "steam"):
            return "first wetting, dried free"
        case "fresh" | "soaking" | "spun-out" | "next":
            return MOMENT_WORDS[moment]


def rest_words(share: float, hours: float) -> str:
    """Return by what share a ply-back reads low after a rest, and what to make of it."""
    return (
        f"After {hours:.0f} h on the bobbin a ply-back of the single reads about {100 * share:.0f} % low "
        "(half or twice that is possible). The twist is only asleep: water wakes it, so judge by a fresh ply-back."
    )
