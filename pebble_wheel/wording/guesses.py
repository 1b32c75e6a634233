"""What is said of guesses: what was expected, what came, and how good they have become."""

import math

from pebble_wheel.mechanics.learning.eye import Eye, Taken
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.notation.guess import About, Came, Guess
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.practice import UNBIASED
from pebble_wheel.workshop.guesses import Answer

ABOUT_WORDS: dict[About, str] = {
    "wraps": "wraps once washed",
    "growth": "bloom, % thicker",
    "length": "% shorter",
    "gauge": "stitches once washed",
    "balance": "how it will hang",
    "words": "in own words",
}
CAME_WORDS: dict[Came, str] = {"hit": "hit", "partly": "in part", "miss": "missed"}
WAITING, AS_NEAR = "waits for the wash", ", as near as measuring can tell"
GUESS_ENDS: dict[About, tuple[str, str]] = {
    "wraps": ("too many", "too few"),
    "growth": ("too much", "too little"),
    "length": ("too much", "too little"),
    "gauge": ("too many", "too few"),
}
GUESS_TITLE = "Guesses of {}: the first first"


def guess_words(guess: Guess, display: Display) -> str:
    """Return what was expected."""
    match guess.about:
        case "wraps":
            return f"{display.settings.wraps(guess.figure or 0):.3g} wraps once washed"
        case "growth":
            return f"{guess.figure or 0:.3g} % thicker once washed"
        case "length":
            return f"{guess.figure or 0:.3g} % shorter once washed"
        case "gauge":
            return f"{display.stitches(guess.figure or 0):.3g} stitches in {display.square} once washed"
        case "balance":
            return "will hang open" if guess.hangs == "open" else f"will turn {guess.hangs}"
        case "words":
            return f"“{guess.words}”"


def came_words(guess: Guess, answer: Answer | None, display: Display) -> str:
    """Return what came of a guess: hit or miss, and by how much."""
    if answer is None:
        return WAITING
    if guess.about == "words":
        return CAME_WORDS[guess.came] if guess.came else WAITING
    head = "hit" if answer.hit else "missed"
    if guess.about == "balance":
        how = "hung open" if answer.hangs == "open" else f"turned {answer.hangs}"
        return f"{head}: it {how}"
    figure = answer.figure or 0.0
    by = f", {100 * abs(math.expm1(answer.off)):.0f} % too {_side(guess.about, answer.off)}"
    return f"{head}: {_measured(guess.about, figure, display)}{AS_NEAR if answer.hit else by}"


def _side(about: About, off: float) -> str:
    more, less = ("many", "few") if about in ("wraps", "gauge") else ("much", "little")
    return more if off > 0 else less


def _measured(about: About, figure: float, display: Display) -> str:
    if about == "wraps":
        return f"{display.settings.wraps(figure):.3g} wraps came"
    if about == "gauge":
        return f"{display.stitches(figure):.3g} stitches came"
    return f"{figure:.1f} % came"


def figure_guess_words(about: About, eye: Eye) -> str:
    """Return how good guesses of a figure have become."""
    sure = abs(eye.bias) > P90 * eye.bias_sd
    side = f"{100 * abs(math.expm1(eye.bias)):.0f} % too {_side(about, eye.bias)}" if sure else UNBIASED
    return f"{side}; eight of ten within {100 * math.expm1(P90 * eye.spread):.0f} % of that"


def other_guess_words(taken: Taken) -> str:
    """Return the same of guesses that hit or miss."""
    return f"missed {100 * taken.share:.0f} % of the time"
