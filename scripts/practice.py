"""Draws the demo's year of practice anew: an invented eye that learns, asked what the program would ask it."""

import csv
import math
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

import pebble_wheel.demo
from pebble_wheel.demo.practice import FILE
from pebble_wheel.mechanics.learning.practice import round_of
from pebble_wheel.notation.practice import CHOICES, Asked
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.practice import Question, Tried, question_of, standings_of

BEGUN, DAYS, SEED = datetime(2025, 10, 4, 19, 0, tzinfo=UTC), 350, 21
EVERY = 9
"""Days from round to round."""


def answer(question: Question, year: float, rng: np.random.Generator) -> str:
    """Return what Wick says: six degrees steep, S for Z on fine yarn, wraps too few; better through the year."""
    asked, left = question.asked, 0.5 ** (year / 0.4)
    match asked.kind:
        case "angle" | "other":
            steep = (6.5 * left + 1.5) * (-1 if asked.kind == "other" else 1)
            return f"{min(max(round(float(question.truth) + rng.normal(steep, 2 + 2.5 * left)), 3), 80)}"
        case "wraps":
            return f"{float(question.truth) * math.exp(rng.normal(-0.22 * left - 0.03, 0.08 + 0.1 * left)):.3g}"
        case "way" | "balance" | "plies" | "prep":
            wrong = {"way": 0.45 if asked.fine else 0.06, "balance": 0.4, "plies": 0.15, "prep": 0.3}[asked.kind] * left
            wrong = 0.6 * left + 0.2 if question.rested_hours else wrong
            others = [each for each in CHOICES[asked.kind] if each != question.truth]
            return str(rng.choice(others)) if rng.random() < wrong else question.truth


def main() -> None:
    """Draw the year."""
    rng, evaluator = np.random.default_rng(SEED), Evaluator()
    tried: list[Tried] = []
    rows = []
    for day in range(0, DAYS, EVERY):
        now = BEGUN + timedelta(days=day, minutes=int(rng.integers(0, 120)))
        for place, skill in enumerate(round_of(standings_of(tried, now), 10, rng)):
            question = question_of(Asked(skill.kind, skill.fine, int(rng.integers(0, 10**9))), evaluator)
            at = now + timedelta(seconds=14 * place)
            given = answer(question, day / 365, rng)
            tried.append(Tried(skill, question.truth, given, at))
            rows.append((at.isoformat(timespec="milliseconds"), question.asked.written(), question.truth, given))
    file = Path(pebble_wheel.demo.__file__).with_name(FILE)
    with file.open("w", encoding="utf-8", newline="") as opened:
        table = csv.writer(opened, lineterminator="\n")
        table.writerows([("at", "question", "truth", "given"), *rows])


if __name__ == "__main__":
    main()
