"""What is said at the wheel, to be read from afar."""

from pebble_wheel.mechanics.making.live import Watch
from pebble_wheel.mechanics.making.splitting import OVER_FULL
from pebble_wheel.mechanics.making.wheel import Beat
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.wording.tools import BEATS
from pebble_wheel.workshop.standing import Standing

GO_AND_STAND = "go, stand"
"""Of a motor, whose turns run by themselves."""

WRONG_WAY = "Stop: the wheel turns the other way."
STEADY = "as it should be"
BEFORE = (
    "Leader laid for this direction?",
    "Does the thickest place pass the orifice?",
    "Bobbin holder braked, a little more for lively singles?",
)
CARE = "Hair, sleeves, cords and small fingers stay away from flyer, hooks and drive band; stop before untangling."

_NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def chant(count: int, beat: Beat) -> str:
    """Return beats in words that one can chant."""
    return ", ".join(_NUMBERS[:count]) if count <= len(_NUMBERS) else f"{count} {BEATS[beat][1]}"


def alarm_words(standing: Standing, count: int, beat: Beat) -> str:
    """Return what to do, in one line; empty where nothing is wrong."""
    if standing.wrong_way:
        return WRONG_WAY
    again = f"count {count} {BEATS[beat][1]} again"
    match standing.watched.alarm:
        case "more":
            return f"Too little twist since draft {standing.watched.since + 1}: {again}, or draft slower."
        case "less":
            return f"Too much twist since draft {standing.watched.since + 1}: {again}, or draft quicker."
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
