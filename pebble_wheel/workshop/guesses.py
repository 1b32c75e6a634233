"""Guesses against what was measured after them: hit or miss, by how much, and how good they have become."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import assert_never

from pebble_wheel.mechanics.learning.eye import Eye, Taken, eye_of, taken_for
from pebble_wheel.mechanics.learning.noise import WASH_LENGTH, WRAPS
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.notation.guess import About, Guess, Hangs
from pebble_wheel.notation.log import Record
from pebble_wheel.notation.record import STITCH_OFF, Skein, Swatch
from pebble_wheel.notation.sample import Sample

OPEN = 1.0
"""Turns of 30 cm up to which a loop hangs open."""

TOLD: dict[About, float] = {
    "wraps": WRAPS.scatter,
    "growth": WRAPS.scatter * 2**0.5,
    "length": WASH_LENGTH.scatter,
    "gauge": STITCH_OFF,
}
"""How far what is measured may itself be off: standard deviation of its logarithm."""

USUAL: dict[About, tuple[float, float]] = {
    "wraps": (0.08, 0.12),
    "growth": (0.08, 0.12),
    "length": (0.02, 0.03),
    "gauge": (0.05, 0.08),
}
"""Bias and spread of guesses before any was answered, logarithms: assumed."""

FIGURES: tuple[About, ...] = ("wraps", "growth", "length", "gauge")


@dataclass(frozen=True)
class Answer:
    """What came of a guess."""

    hit: bool
    """Within what measuring can tell."""
    off: float
    """Logarithm of what was guessed over what came; else 0 of a hit and 1 of a miss."""
    figure: float | None = None
    """What was measured, in the unit of the guess."""
    hangs: Hangs | None = None


def answer_of(guess: Guess, before: Sequence[Record], after: Sequence[Record]) -> Answer | None:
    """Return what came of a guess; None where nothing that tells was measured yet.

    Args:
        guess: noted before the wash.
        before: the log up to it.
        after: and from it on, each the first first.
    """
    finished = [each for each in after if isinstance(each, Skein) and each.stage == "finished" and not each.wet]
    match guess.about:
        case "words":
            return Answer(guess.came == "hit", float(guess.came != "hit")) if guess.came else None
        case "balance":
            return _hung(guess, finished)
        case "wraps":
            return _figure(guess, next((each.relaxed_wraps for each in finished if each.relaxed_wraps), None))
        case "growth":
            return _figure(guess, _growth(before, after))
        case "length":
            return _figure(guess, _shorter(before, after))
        case "gauge":
            return _figure(guess, next((each.stitches_after for each in after if isinstance(each, Swatch)), None))
        case _:
            assert_never(guess.about)


def _hung(guess: Guess, finished: Sequence[Skein]) -> Answer | None:
    turns = next((each.loop_turns for each in finished if each.loop_turns is not None), None)
    if turns is None:
        return None
    hangs: Hangs = "open" if abs(turns) <= OPEN else "Z" if turns > 0 else "S"
    return Answer(hangs == guess.hangs, float(hangs != guess.hangs), abs(turns), hangs)


def _growth(before: Sequence[Record], after: Sequence[Record]) -> float | None:
    """Return by how many percent a yarn has become thicker, of wraps as plied, the last before the wash, and washed."""
    plied: float | None = None
    for place, each in enumerate((*before, *after)):
        if not isinstance(each, Skein) or each.wet or not each.relaxed_wraps:
            continue
        if each.stage == "plied":
            plied = each.relaxed_wraps
        elif plied and place >= len(before):
            return 100 * (plied / each.relaxed_wraps - 1)
    return None


def _shorter(before: Sequence[Record], after: Sequence[Record]) -> float | None:
    """Return by how many percent it has become shorter: laid out before and after, else of a skein measured twice."""
    plied: list[Skein] = []
    for place, each in enumerate((*before, *after)):
        if isinstance(each, Sample) and each.wash_length is not None and place >= len(before):
            return 100 * (1 - each.wash_length)
        if isinstance(each, Skein) and each.metres and each.stage == "plied":
            plied.append(each)
        elif isinstance(each, Skein) and each.metres and place >= len(before):
            same = next((own.metres for own in reversed(plied) if _same(own, each)), None)
            if same:
                return 100 * (1 - each.metres / same)
    return None


def _same(one: Skein, other: Skein) -> bool:
    """Return whether two skeins are of one weight, as far as a scale can tell, so that they may be the same."""
    return bool(one.grams and other.grams and abs(one.grams / other.grams - 1) < 0.05)


def _figure(guess: Guess, measured: float | None) -> Answer | None:
    if measured is None or guess.figure is None:
        return None
    off = _log(guess.about, guess.figure) - _log(guess.about, measured)
    return Answer(abs(off) <= P90 * TOLD[guess.about], off, measured)


def _log(about: About, figure: float) -> float:
    """Return a figure as it is reckoned with: of percents added or lost the logarithm of what they make of one."""
    match about:
        case "growth":
            return math.log(max(1 + figure / 100, 0.01))
        case "length":
            return -math.log(max(1 - figure / 100, 0.01))
        case "wraps" | "gauge" | "balance" | "words":
            return math.log(figure)


@dataclass(frozen=True)
class Guessed:
    """A guess that was answered."""

    guess: Guess
    answer: Answer
    age: float
    """Days since it was noted."""


def guesses_in(log: Sequence[Record]) -> list[tuple[int, Answer | None]]:
    """Return the guesses of a log, by their places in it, with what came of each.

    Args:
        log: of one yarn, the first first.
    """
    return [
        (place, answer_of(each, log[:place], log[place + 1 :]))
        for place, each in enumerate(log)
        if isinstance(each, Guess)
    ]


def guesser(about: About, several: Sequence[Guessed]) -> Eye:
    """Return bias and spread of somebody's guesses of a figure, the late ones counting most."""
    own = [each for each in several if each.guess.about == about]
    return eye_of([each.answer.off for each in own], *USUAL[about], [each.age for each in own])


def missed(about: About, several: Sequence[Guessed]) -> Taken:
    """Return how often guesses of a kind miss."""
    own = [each for each in several if each.guess.about == about]
    return taken_for(sum(not each.answer.hit for each in own), len(own), 0.4)
