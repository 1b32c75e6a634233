"""What is asked and said when the eye is practised."""

import math
from collections.abc import Sequence
from typing import assert_never

from pebble_wheel.mechanics.learning.eye import Eye, Taken
from pebble_wheel.mechanics.learning.practice import GOOD
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.notation.practice import Practised, off
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.figures import OPEN_LOOP
from pebble_wheel.workshop.practice import Question, Skill

SKILL_WORDS: dict[Practised, str] = {
    "way": "S or Z",
    "angle": "angle",
    "other": "angle, the other way",
    "balance": "balance in a loop",
    "wraps": "wraps at life size",
    "plies": "how many plies",
    "prep": "preparation",
}
RESTING_WORDS: dict[str, str] = {"under": "underplied", "balanced": "balanced", "over": "overplied"}
PREP_WORDS: dict[str, str] = {"combed": "combed", "semi": "between the two", "carded": "carded"}
CHOICE_WORDS: dict[Practised, dict[str, str]] = {
    "way": {"S": "S \\", "Z": "Z /"},
    "balance": RESTING_WORDS,
    "plies": {each: each for each in ("2", "3", "4", "5", "6")},
    "prep": PREP_WORDS,
}
ERROR_ENDS: dict[Practised, tuple[str, str]] = {
    "angle": ("too steep", "too flat"),
    "other": ("too steep", "too flat"),
    "wraps": ("too many", "too few"),
}
MISS_ENDS = ("all wrong", "none wrong")
EYE_TITLE = "{}: your answers, the first first"
YARN_SHOWN, PHOTO_SHOWN, LOOP_SHOWN = "A yarn to be judged", "Your photo of a yarn", "The loop in which it hangs"

ASKED: dict[Practised, str] = {
    "way": "Which way was it plied?",
    "angle": "How steep are its strands? Turn the line until it lies along them.",
    "other": "How steep are its strands, counted {}? Turn the line until it lies along them.",
    "balance": "How is it plied?",
    "wraps": "As large as life: how many wraps to an inch?",
    "plies": "How many strands are plied here?",
    "prep": "How was the fibre prepared?",
}
CONVENTIONS = {True: "from crosswise", False: "from the axis"}

LEFT_FINE = "on fine yarn"
LEFT_THICK = "on thick yarn"
NO_ANSWERS = (
    "Ten yarns, two minutes, no hurry. It asks most what you are worst at, and tells you the answer on the yarn."
)
LEAVE_ASKED = "Let this count as how your eye reads: an angle laid on by eye is then put right by it."
LEAVE_GIVEN = "Counts as how your eye reads: angles by eye are put right by {} before anything is learned of them."


def asked_words(question: Question, display: Display) -> str:
    """Return what is asked of a yarn."""
    kind = question.asked.kind
    other = display.settings.angle_from != "crosswise"
    return ASKED[kind].format(CONVENTIONS[other])


def hung_words(question: Question, answered: bool) -> str:
    """Return of what yarn a loop hangs; once it is answered it is shown fresh."""
    if question.rested_hours and answered:
        return "So it would hang fresh, or wet."
    if question.rested_hours:
        return f"Its yarn has rested {question.rested_hours:.0f} h."
    return "Its yarn is fresh off the wheel."


def answer_words(question: Question, given: str, display: Display) -> tuple[str, str]:
    """Return whether an answer was right, and what is true, with why.

    Args:
        question: with its truth.
        given: as it is kept.
        display: of the person.
    """
    kind, truth = question.asked.kind, question.truth
    return nearness(kind, truth, given), _why(question, given, display)


def nearness(kind: Practised, truth: str, given: str) -> str:
    """Return whether an answer was right, or how near it came."""
    if kind not in NEAR:
        return "Right." if truth == given else "Not quite."
    own = off(kind, truth, given)
    if abs(own) <= NEAR[kind]:
        return "As near as an eye can."
    if kind == "wraps":
        return f"{100 * abs(math.expm1(own)):.0f} % too {'many' if own > 0 else 'few'}."
    return f"{abs(own):.0f}° too {'steep' if own > 0 else 'flat'}."


def _why(question: Question, given: str, display: Display) -> str:
    kind, truth = question.asked.kind, question.truth
    match kind:
        case "way":
            return f"{truth}: its strands lie like the middle of the letter"
        case "angle" | "other":
            return _leans(truth, given, kind, display)
        case "wraps":
            wraps, own = (display.settings.wraps(float(each)) for each in (truth, given))
            return f"{wraps:.3g} wraps, you said {own:.3g}"
        case "balance":
            return _loop_words(question)
        case "plies":
            return f"{truth} strands, each shown in a colour of its own"
        case "prep":
            return f"{PREP_WORDS[truth]}: {_PREP_WHY[truth]}"
        case _:
            assert_never(kind)


_PREP_WHY = {
    "combed": "fibres lie along the strand, few stand off, the edge is clean",
    "semi": "most fibres lie along, some stand off",
    "carded": "fibres lie every way, the strand is lofty and its edge a halo",
}


NEAR: dict[Practised, float] = {"angle": 2.0, "other": 2.0, "wraps": 0.08}
"""Within which a figure is called as near as an eye can: degrees, or a logarithm (assumed)."""


def _leans(truth: str, given: str, kind: Practised, display: Display) -> str:
    """Return how a yarn leans, in both conventions, and what was said."""
    crosswise = (display.settings.angle_from == "crosswise") != (kind == "other")
    own, said, other = (
        f"{90 - degrees if turned else degrees:.0f}°"
        for degrees, turned in ((float(truth), crosswise), (float(given), crosswise), (float(truth), not crosswise))
    )
    return f"It leans {own} {CONVENTIONS[crosswise]}, {other} {CONVENTIONS[not crosswise]}; you said {said}"


def _loop_words(question: Question) -> str:
    truth, turns, fresh = question.truth, question.loop_turns, question.loop_fresh
    hung = f"{abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}" if abs(turns) >= OPEN_LOOP else "open"
    told = f"{RESTING_WORDS[truth]}: plied {question.way}, the loop hangs {hung}"
    told += {"over": ", against the way it was plied", "under": ", the way it was plied"}.get(truth, "")
    if question.rested_hours and abs(fresh) >= OPEN_LOOP:
        told += f"; fresh it would turn {abs(fresh):.1f}: rest hides some until it is wet"
    return told


def skill_words(skill: Skill) -> str:
    """Return what is practised."""
    return f"{SKILL_WORDS[skill.kind]}, {LEFT_FINE if skill.fine else LEFT_THICK}"


def eye_words(kind: Practised, eye: Eye) -> str:
    """Return how an eye reads a figure: ``6° too steep; eight of ten within 4° of that``."""
    if not eye.count:
        return NOT_TRIED
    sure = abs(eye.bias) > P90 * eye.bias_sd
    if kind == "wraps":
        side = f"{100 * abs(math.expm1(eye.bias)):.0f} % too {'many' if eye.bias > 0 else 'few'}"
        return f"{side if sure else UNBIASED}; eight of ten within {100 * math.expm1(P90 * eye.spread):.0f} % of that"
    side = f"{abs(eye.bias):.0f}° too {'steep' if eye.bias > 0 else 'flat'}"
    return f"{side if sure else UNBIASED}; eight of ten within {P90 * eye.spread:.0f}° of that"


UNBIASED, NOT_TRIED = "no bias to speak of", "not tried yet"


def taken_words(both: Taken, fine: Taken, thick: Taken) -> str:
    """Return how often an eye takes one for another, and on what yarn rather."""
    if not both.count:
        return NOT_TRIED
    said = f"wrong {100 * both.share:.0f} % of the time"
    if fine.low > thick.high:
        return f"{said}: mostly {LEFT_FINE}"
    return f"{said}: mostly {LEFT_THICK}" if thick.low > fine.high else said


def leave_words(eye: Eye) -> str:
    """Return that leave was given, and what comes of it."""
    return LEAVE_GIVEN.format(f"{abs(eye.bias):.1f}° {'down' if eye.bias > 0 else 'up'}")


def round_words(missed: Sequence[float]) -> str:
    """Return how a round went."""
    good = sum(each <= GOOD for each in missed)
    return f"{good} of {len(missed)} well seen."


def due_words(due: Sequence[Skill], begun: bool) -> str:
    """Return what is due, what is needed most first."""
    if not begun:
        return ""
    if not due:
        return "Nothing is due today. A round still does no harm."
    first = list(dict.fromkeys(skill_words(each) for each in due))[:3]
    return f"Due: {'; '.join(first)}{'; and more' if len(due) > len(first) else ''}."
