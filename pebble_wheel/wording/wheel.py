"""What is said at the wheel, to be read from afar."""

from pebble_wheel.mechanics.making.live import Watch
from pebble_wheel.mechanics.making.splitting import OVER_FULL
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.workshop.standing import Standing

CLOCKWISE = {"Z": "clockwise, as you see the wheel", "S": "anticlockwise, as you see the wheel"}
"""By the direction of the twist."""

WRONG_WAY = "Stop: the wheel turns the other way."
STEADY = "as it should be"
BEFORE = (
    "Leader laid for this direction?",
    "Does the thickest place pass the orifice?",
    "Bobbin holder braked, a little more for lively singles?",
)
CARE = "Hair, sleeves, cords and small fingers stay away from flyer, hooks and drive band; stop before untangling."

_NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def chant(count: int) -> str:
    """Return treadles in words that one can chant."""
    return ", ".join(_NUMBERS[:count]) if count <= len(_NUMBERS) else f"{count} treadles"


def alarm_words(standing: Standing, treadles: int) -> str:
    """Return what to do, in one line; empty where nothing is wrong."""
    if standing.wrong_way:
        return WRONG_WAY
    match standing.watched.alarm:
        case "more":
            return (
                f"Too little twist since draft {standing.watched.since + 1}: count {treadles} again, or draft slower."
            )
        case "less":
            return f"Too much twist since draft {standing.watched.since + 1}: count {treadles} again, or draft quicker."
        case "":
            return ""


def twist_words(watched: Watch, display: Display) -> str:
    """Return the twist of the last drafts as a range."""
    if not watched.twist > 0:
        return "–"
    low, high = display.twist(watched.low).split()[0], display.twist(watched.high)
    return f"{low}–{high}"


def left_words(metres: float, grams: float, seconds: float, display: Display) -> str:
    """Return what is left to make of a strand, and how long that takes at the pace so far."""
    return f"{display.metres(metres)}, {display.light(grams)}, {hours_words(seconds / 3600)} to go"


def bobbin_words(full: float) -> str:
    """Return what a bobbin that is so full wants; empty while it wants nothing."""
    return "A little more brake; move the guide." if full >= OVER_FULL else ""
