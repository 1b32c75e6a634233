"""Tools in words: what is counted on each, how fast it turns, which way, and how it is calibrated."""

from itertools import pairwise

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.making.splitting import PLIED_BULK, SINGLE_BULK, capacity
from pebble_wheel.mechanics.making.tools import COUNTED
from pebble_wheel.mechanics.making.wheel import Beat
from pebble_wheel.notation.tool import (
    BobbinsModel,
    Drive,
    Kind,
    MotorModel,
    Seen,
    SpindleModel,
    ToolModel,
    Treadles,
    WheelModel,
)
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.tools import Owned, Tools, speed_at

KIND_WORDS: dict[Kind, str] = {
    "wheel": "treadle wheel",
    "motor": "motor spinner",
    "spindle": "spindle",
    "bobbins": "bobbins",
}
TREADLES_WORDS: dict[Treadles, str] = {"single": "one treadle", "double": "two treadles"}
DRIVE_WORDS: dict[Drive, str] = {
    "flyer-lead": "flyer is driven",
    "bobbin-lead": "bobbin is driven",
    "double": "both are driven",
}
SEEN_WORDS: dict[Seen, str] = {"above": "from above", "below": "from below"}

BEATS: dict[Beat, tuple[str, str]] = {
    "treadle": ("treadle", "treadles"),
    "second": ("second", "seconds"),
    "roll": ("roll", "rolls"),
    "flick": ("flick", "flicks"),
}
"""One, and several."""

USUAL_TOOL, ANY_TOOL = "on the wheel", {"motor": "on a motor spinner", "spindle": "on a spindle"}
"""Where none is owned, and of those of which none is."""

ONE_FOOT = "Two treadles: count one foot only."
LAPS = "The bobbin leads: its laps are counted in."
NO_COUNT = "Its turns were never counted: count them first, then it can say how long a draft takes."
COUNT_DIAL = f"Set the dial to a mark, tie a bright thread to the flyer, and count its turns for {COUNTED:.0f} seconds."
COUNT_ROLL = "Tie a bright thread to the spindle, roll or flick it as you always do, and count its turns; three times."
EMPTY = "Tell what you spin on and what you wind on, once: treadles, seconds, hours and bobbins are then your own."


def beats_words(count: float, beat: Beat) -> str:
    """Return so many beats: whole ones, of seconds also tenths."""
    said = f"{count:.1f}" if beat == "second" and count < 10 else f"{count:.0f}"
    one, many = BEATS[beat]
    return f"{said} {one if said == '1' else many}"


def at_words(beat: Beat, ratio: float) -> str:
    """Return how fast a tool turns: by whorl, by the minute, or by the roll."""
    match beat:
        case "treadle":
            return f"at {ratio:g}:1"
        case "second":
            return f"at {60 * ratio:.0f} turns a minute"
        case "roll" | "flick":
            return f"of {ratio:.3g} turns each"


def way_words(direction: str, owned: Owned | None) -> str:
    """Return which way to turn for a twist; of a spindle, as it is seen from the end that one looks from.

    A strand that hangs from the hand is twisted Z by a spindle that turns clockwise seen from above.
    """
    if owned is None or not isinstance(owned.model, SpindleModel):
        return "clockwise, as you see the wheel" if direction == "Z" else "anticlockwise, as you see the wheel"
    clockwise = (direction == "Z") == (owned.model.seen == "above")
    return f"{'clockwise' if clockwise else 'anticlockwise'}, the spindle seen {SEEN_WORDS[owned.model.seen]}"


def notes_on(owned: Owned | None) -> list[str]:
    """Return what is to be kept in mind while counting on a tool."""
    if owned is None or not isinstance(owned.model, WheelModel):
        return []
    return [
        *([ONE_FOOT] if owned.model.treadles == "double" else []),
        *([LAPS] if owned.model.drive == "bobbin-lead" else []),
    ]


def choices_on(owned: Owned | None, beat: Beat, ratios: tuple[float, ...]) -> list[tuple[float, str]]:
    """Return what can be chosen on a tool: a whorl, a place of the dial, a roll or a flick; turns a beat, and words."""
    if owned is None:
        return [(each, f"{each:g}:1") for each in ratios]
    match owned.model:
        case WheelModel():
            return [(each, f"{each:g}:1") for each in owned.model.ratios]
        case MotorModel():
            return _dial(owned.model)
        case SpindleModel():
            turns = {"roll": owned.model.roll, "flick": owned.model.flick}
            return [(each, f"{name}, {each:.3g} turns") for name, each in turns.items() if each and name == beat]


def _dial(model: MotorModel) -> list[tuple[float, str]]:
    """Return the marks that were counted and the places halfway between them."""
    marks = [each.at for each in model.marks]
    halves = [(low + high) / 2 for low, high in pairwise(marks)]
    speeds = [(at, speed_at(model, at)) for at in sorted([*marks, *halves])]
    return [(speed / 60, f"at {at:g}: {speed:.0f} a minute") for at, speed in speeds]


def tool_lines(tool: ToolModel, display: Display) -> list[str]:
    """Return what is known of a tool."""
    match tool:
        case WheelModel():
            ratios = ", ".join(f"{each:g}:1" for each in tool.ratios)
            return [
                ratios,
                f"{TREADLES_WORDS[tool.treadles]}, {DRIVE_WORDS[tool.drive]}",
                *_orifice(tool.orifice_mm, display),
            ]
        case MotorModel():
            dial = ", ".join(f"{each.turns_per_min:.0f} a minute at {each.at:g}" for each in tool.marks)
            return [dial, *_orifice(tool.orifice_mm, display)]
        case SpindleModel():
            told = {"roll": tool.roll, "flick": tool.flick}
            return [
                *(f"{turns:.3g} turns a {name}" for name, turns in told.items() if turns),
                f"seen {SEEN_WORDS[tool.seen]}",
            ]
        case BobbinsModel():
            sizes = [display.span(each).split()[0] for each in (tool.outer_mm, tool.core_mm)]
            holds = [
                display.grams(float(capacity(tool.outer_mm, tool.core_mm, tool.width_mm, bulk)))
                for bulk in (SINGLE_BULK, PLIED_BULK)
            ]
            empty = sorted(tool.empty_g)
            weigh = (
                display.light(empty[0])
                if empty[0] == empty[-1]
                else f"{display.light(empty[0])} to {display.light(empty[-1])}"
            )
            return [
                f"{len(empty)} of {sizes[0]} × {sizes[1]} × {display.span(tool.width_mm)}",
                f"about {holds[0]} of singles, {holds[1]} plied",
                *([f"empty {weigh}"] if empty[-1] else []),
            ]


def _orifice(mm: float | None, display: Display) -> list[str]:
    return [f"orifice {display.span(mm)}"] if mm else []


def draft_words(length: float, inches: bool) -> str:
    """Return a draft [m] as it is said on a card."""
    return f"{length * 1000 / INCH:.0f} in" if inches else f"{length * 100:.0f} cm"


def tool_choices(tools: Tools, chosen: str) -> dict[str, str]:
    """Return on what a step can be made, by what is typed for it; one that is owned no more is still named."""
    own = {"" if place == 0 else each.uid: f"on {each.model.name}" for place, each in enumerate(tools.owned)}
    sorts = {each.model.kind for each in tools.owned}
    found = (own or {"": USUAL_TOOL}) | {sort: words for sort, words in ANY_TOOL.items() if sort not in sorts}
    return found if chosen in found else {**found, chosen: "on what is put away"}
