"""What is said at the wheel, to be read from afar."""

from dataclasses import dataclass

from pebble_wheel.mechanics.making.live import Watch
from pebble_wheel.mechanics.making.splitting import OVER_FULL
from pebble_wheel.mechanics.making.wheel import Beat
from pebble_wheel.mechanics.strand.structure import Bought, Chain, CoreSpun, Node, Ply, Single, Wrapped
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.wording.tools import BEATS
from pebble_wheel.workshop.standing import Standing

GO_AND_STAND = "go, stand"
"""Of a motor, whose turns run by themselves."""

WRONG_WAY = "Stop: the wheel turns the other way."
STEADY = "as it should be"
CARE = "Hair, sleeves, cords and small fingers stay away from flyer, hooks and drive band; stop before untangling."

DRAFT_TITLE = "A draft to scale, with a mark for every beat"
LEADER = "Leader laid for this direction?"
BRAKED = "Bobbin holder braked, a little more for lively singles?"
PASSES = "Does the thickest place pass the orifice?"


def before_words(thickest: float, orifice: float | None, display: Display) -> list[str]:
    """Return what is looked at before one begins; whether it passes the orifice is said where that is known."""
    passes = PASSES
    if orifice is not None:
        fits = "passes" if thickest <= orifice else "will NOT pass"
        passes = f"The thickest place, {display.length(thickest)}, {fits} the orifice, {display.length(orifice)}."
    return [LEADER, passes, BRAKED]


def which_words(made: int, many: int, what: str) -> str:
    """Return which of how many strands or bobbins is made now; more than were planned are said so."""
    if many <= 1:
        return what
    return f"{what}: {made + 1} of {many}" if made < many else f"{what}: {made + 1}, {many} were planned"


def counters_words(believed: str, others: int) -> str:
    """Return what is to be said of several counters in one run; nothing of one."""
    if not others:
        return ""
    which = "the taps" if believed.startswith(TAPS) else "the counter on the wheel"
    return f"Two count this run: {which} counts turns, {others} lines of the other are set aside."


TAPS = "tap"
"""How the names of those begin that are tapped by hand."""


def parked_words(standing: Standing, count: int, per_beat: float, beat: Beat) -> str:
    """Return where a strand is parked, so that it is found again with its count."""
    done = standing.in_hand / per_beat
    at = f"at {done:.0f} of {count} {BEATS[beat][1]}"
    return f"Parked after draft {standing.drafts}, {at}. Pin the end, note which bobbin."


FINE, STOUT = 60.0, 250.0
"""tex: below the one a strand wants little intake, above the other much (common practice, no source)."""


def intake_words(node: Node, tex: float) -> str:
    """Return how strongly the wheel should take in."""
    match node:
        case CoreSpun() | Wrapped():
            return "Take in strongly: low ratio, slow treadling."
        case Single() | Bought() | Ply() | Chain():
            if tex < FINE:
                return "Light brake: let it take in weakly, or it drifts apart."
            if tex > STOUT:
                return "A firm brake: it wants to be taken in before it is full of turns."
            return "A middling brake: it takes in when your hand gives, and not before."


@dataclass(frozen=True)
class Trouble:
    """Something that happens, and what to do."""

    what: str
    do: str


def steps_for(node: Node) -> list[str]:
    """Return the steps from leader to tied skein, or to the full bobbin of a single. Common practice, no source."""
    return ["Lay the leader for this direction: twist it some turns the right way.", *_after_the_leader(node)]


def _after_the_leader(node: Node) -> list[str]:
    match node:
        case Single() | Bought():
            return [
                "Join the fibre to the leader and let twist in before you draft.",
                "Draft, count, let it wind in.",
                "Full, or done: pin the end to the bobbin, weigh it, let it rest.",
            ]
        case Ply():
            return [
                "Tie all strands to the leader, tension even, one between each finger.",
                "Ply a length, let it hang: does it twist either way?",
                "Count, feed evenly, watch for a slack strand.",
                *_TO_THE_SKEIN,
            ]
        case Chain():
            return [
                "Tie the single to the leader and pull a first loop through.",
                "Pull loop through loop, all of one length; let the twist follow your hand.",
                *_TO_THE_SKEIN,
            ]
        case CoreSpun():
            return [
                "Tie the core on; let it turn a little the other way first.",
                "Feed the fibre square to the core, treadle slowly, take in strongly.",
                "Cut the core, and finish the end as a single.",
                *_TO_THE_SKEIN,
            ]
        case Wrapped():
            return [
                "Begin with a plain piece, to knit or to tie.",
                "Hold the one straight, lay the other square to it; push up, lock.",
                "End plain, as you began.",
                *_TO_THE_SKEIN,
            ]


_TO_THE_SKEIN = [
    "Tug it: it holds, drifts apart or breaks.",
    "Wind the skein, count the rounds, tie it loosely in three or four places.",
]

_JOIN = Trouble(
    "Join", "Twist slack ends again before you join them: overlap loose fibre, let twist run in, then go on."
)
_BROKEN = Trouble("A broken end", "Overlap both ends a staple long, unspun, and let twist in; never pull on a slub.")
_PARKED = Trouble("Stand still", "Pause the count; pin the end. It is found again with its count.")
_PLIED_OUT = Trouble(
    "One strand ends",
    "Stop before its end runs in. Join the next bobbin on it, or weigh what the others keep, and plan that.",
)
_LEG = Trouble("A leg breaks", "Stop at once: the chain runs. Knot or overlap, and pull the next loop through.")
_CORE_SHOWS = Trouble(
    "The core shows", "Take in slower and lay the fibre again over the bare place, unless it is meant."
)
_SLIDES = Trouble("Coils slide", "Lock them: a bobble of the thread at both ends, or a plain piece between.")


def troubles_for(node: Node) -> list[Trouble]:
    """Return what happens while a strand is made, and what to do. Common practice, no source."""
    match node:
        case Single() | Bought():
            return [_JOIN, _BROKEN, _PARKED]
        case Ply():
            return [_PLIED_OUT, _BROKEN, _PARKED]
        case Chain():
            return [_LEG, _PLIED_OUT, _PARKED]
        case CoreSpun():
            return [_CORE_SHOWS, _JOIN, _PARKED]
        case Wrapped():
            return [_SLIDES, _PLIED_OUT, _PARKED]


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
