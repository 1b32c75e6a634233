"""What the yarn room noted for the next time and guessed before washing, and two yarns that it spun again."""

import sqlite3

from pebble_wheel.mechanics.learning.model import learn
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.notation.guess import Guess
from pebble_wheel.notation.log import NextTime
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.sample import Sample
from pebble_wheel.store import designs, records
from pebble_wheel.store.again import Known, spin_again
from pebble_wheel.store.measured import noted_of
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.learn import yarns_of

GUESSED: tuple[tuple[str, str, Guess], ...] = (
    ("Hedgehog's soft waistcoat", "2025-04-13", Guess("wraps", 13.0, None, "13 wraps")),
    ("Hedgehog's soft waistcoat", "2025-04-13", Guess("growth", 5.0, None, "5 %")),
    ("Hedgehog's soft waistcoat", "2025-04-13", Guess("balance", None, "open", "quiet")),
    ("Fisher's jersey", "2025-07-11", Guess("wraps", 18.0, None, "18 wraps")),
    ("Fisher's jersey", "2025-07-11", Guess("growth", 8.0, None, "8 %")),
    ("Fisher's jersey", "2025-07-11", Guess("length", 12.0, None, "12 %")),
    ("Fisher's jersey", "2025-07-11", Guess("balance", None, "open", "open")),
    ("Stage-door mittens", "2025-12-06", Guess("wraps", 12.6, None, "12.6 wpi")),
    ("Stage-door mittens", "2025-12-06", Guess("growth", 14.0, None, "14 %")),
    ("Stage-door mittens", "2025-12-06", Guess("length", 8.0, None, "8 %")),
    ("Stage-door mittens", "2025-12-06", Guess("balance", None, "Z", "Z")),
    ("Hedgehog's soft waistcoat", "2026-04-12", Guess("wraps", 8.0, None, "8 wraps")),
    ("Hedgehog's soft waistcoat", "2026-04-12", Guess("growth", 33.0, None, "a third")),
    ("Hedgehog's soft waistcoat", "2026-04-12", Guess("balance", None, "open", "quiet")),
    ("Fisher's jersey", "2026-08-26", Guess("wraps", 15.5, None, "15.5 wraps")),
    ("Fisher's jersey", "2026-08-26", Guess("gauge", 27.5, None, "27.5")),
    ("Fisher's jersey", "2026-08-26", Guess("words", None, None, "the pressed crimp will plump", "hit")),
)
"""What Wick expected before a wash, and when: better from time to time."""

NEXT_TIME: tuple[tuple[str, str], ...] = (
    ("Fisher's jersey", "thinner, 4-ply; mind the draught by the stage door"),
    ("Stage-door mittens", "a little softer; rest the singles a whole day"),
)

AGAIN_AT = {"Fisher's jersey": "2026-09-06", "Stage-door mittens": "2026-09-20"}
"""When each was spun again."""


def spun_again(connection: sqlite3.Connection, numbers: dict[str, int]) -> None:
    """Note guesses and what to do otherwise, and spin two yarns again, each with a sample and a washed skein."""
    for name, day, guess in GUESSED:
        records.note(connection, numbers[name], guess, noted_at=f"{day}T18:00:00.000+00:00")
    for name, words in NEXT_TIME:
        records.note(connection, numbers[name], NextTime(words), noted_at=f"{AGAIN_AT[name]}T17:00:00.000+00:00")
    entries = records.by_spinner(connection, records.FIRST)
    yarns = yarns_of([noted for entry in entries if (noted := noted_of(entry))], Constants().rod, Memory(512))
    lessons, evaluator = learn(yarns.values()), Evaluator()
    for name, _ in NEXT_TIME:
        made = spin_again(connection, numbers[name], Known(records.FIRST, lessons, lessons), evaluator)
        _measured(connection, made, AGAIN_AT[name], evaluator)


def _measured(connection: sqlite3.Connection, number: int, day: str, evaluator: Evaluator) -> None:
    """Note a sample of the single as told, and the skein off the wheel and washed: near what was planned."""
    reading = evaluator.read(designs.find(connection, number).design)
    again = records.spun_again(connection, number)
    path, level = next((each.path, each) for each in reading.levels if each.path in reading.singles)
    sample = Sample(
        path,
        places=6,
        thick_mm=float(level.made.diameter) * 1.02,
        turns_per_m=round(abs(level.turns_per_m_as_made) * 0.98),
        asked=again.asked if again else Sample(path).asked,
        ratio=9.0,
        brake="two turns of the peg",
        hand="long draw, right hand back",
        note="begun as told",
    )
    grams = 64.0
    metres = [round(1000 * grams / tex * 0.98) for tex in (reading.resultant_tex, reading.finished_tex)]
    wraps = [round(each.p50 * 0.98, 1) for each in (reading.wpi_as_plied, reading.wpi_finished)]
    loop = round(2 * reading.balance.loop_turns) / 2
    records.note(connection, number, sample, noted_at=f"{day}T18:30:00.000+00:00")
    for place, stage in enumerate(("plied", "finished")):
        skein = Skein(
            "finished" if stage == "finished" else "plied",
            False,
            metres[place],
            grams,
            wraps[place],
            "relaxed",
            loop,
            "",
        )
        records.note(
            connection, number, skein, noted_at=f"{day[:-2]}{int(day[-2:]) + 3 + 3 * place:02}T18:30:00.000+00:00"
        )
