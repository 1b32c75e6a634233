"""Projects in words: how thick a yarn, how much of it, and whether the fibre in hand is enough."""

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.finish.cloth import needle
from pebble_wheel.mechanics.finish.projects import Large, Project
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.notation.needles import nearest_needle
from pebble_wheel.notation.project import USUAL_SIZE, Wanted
from pebble_wheel.wording.display import Display

PROJECT_WORDS: dict[Project, str] = {
    "mittens": "mittens",
    "hat": "a hat",
    "socks": "a pair of socks",
    "scarf": "a scarf",
    "jersey": "a jersey",
}
LARGE_WORDS: dict[Large, str] = {"small": "small", "medium": "middling", "large": "large"}

LOOSE = 0.15
"""Share by which a needle may differ from the usual one without a word."""


def thickness_words(wanted: Wanted, display: Display) -> str:
    """Return how thick the yarn is to be, and what says so."""
    wraps = display.settings.wraps(wanted.wraps)
    named = display.weight_classes(Band(wanted.wraps, wanted.wraps, wanted.wraps))
    by = {
        "gauge": "for that gauge",
        "size": "as you said",
        "needle": "as suits that needle",
        "": f"{USUAL_SIZE}, where nothing else is said",
    }[wanted.by]
    return f"{wraps:.0f} wpi finished ({named}), {by}"


def needle_words(wanted: Wanted, display: Display) -> str:
    """Return how the needle goes with the yarn; empty where none is given."""
    usual = nearest_needle(float(needle(INCH / wanted.wraps)))
    if wanted.needle_mm is None:
        return f"Start with {display.needle(usual)}, and swatch."
    if abs(wanted.needle_mm / usual - 1) <= LOOSE:
        return f"{display.needle(wanted.needle_mm)} suits it. Swatch and wash."
    cloth = "looser" if wanted.needle_mm > usual else "firmer"
    return f"On {display.needle(wanted.needle_mm)} the cloth is {cloth} than usual; {display.needle(usual)} is usual."


def enough_words(needed: tuple[float, float], in_hand: float | None, display: Display) -> str:
    """Return whether the fibre in hand is enough for what is needed, from how much to how much [g]."""
    if in_hand is None:
        return ""
    low, high = needed
    if in_hand >= high:
        return f"enough, with {display.grams(in_hand - high)} or more over"
    if in_hand >= low:
        return f"perhaps: between enough and {display.grams(high - in_hand)} short"
    return f"{display.grams(low - in_hand)} to {display.grams(high - in_hand)} short"


def grams_range(low: float, high: float, display: Display) -> str:
    """Return from how much to how much fibre."""
    least, most = display.grams(low), display.grams(high)
    return least if least == most else f"{least.split()[0]}–{most}"
