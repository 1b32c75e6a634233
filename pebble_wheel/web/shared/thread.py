"""The thread of a yarn on every page of it: its steps, what sleeps, and the next one."""

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime

from pebble_wheel.notation.colouring import is_colouring
from pebble_wheel.notation.log import Planned, Record, Sleep
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.sample import Sample
from pebble_wheel.store.records import DamagedRecord, Noted, entries
from pebble_wheel.wording.thread import STEP_WORDS, Step, ahead_words, until_words

_SLEEPS_AT: dict[str, Step] = {"rest": "sample", "soak": "finish", "dry": "finish"}


@dataclass(frozen=True)
class Bead:
    """One step of a yarn."""

    step: Step
    words: str
    address: str
    done: bool
    asleep: str
    """What sleeps there, until when; empty where nothing does."""
    ahead: str
    """What comes next of what was planned, and its day."""
    next: bool
    here: bool


@dataclass(frozen=True)
class Thread:
    """All steps of a yarn."""

    beads: tuple[Bead, ...]
    entries: int
    """Of its log."""


def thread_of(connection: sqlite3.Connection, number: int, here: Step) -> Thread:
    """Return the thread of a kept yarn, seen from one of its pages."""
    return threaded(entries(connection, number), number, here, datetime.now(UTC))


def threaded(log: list[Noted[Record] | DamagedRecord], number: int, here: Step, now: datetime) -> Thread:
    """Return the same of a log at a moment."""
    noted = [each for each in log if isinstance(each, Noted)]
    kinds = [each.record for each in noted]
    done: dict[Step, bool] = {
        "construct": True,
        "sample": any(isinstance(each, Sample) for each in kinds),
        "plan": any(isinstance(each, Planned) for each in kinds),
        "colour": any(isinstance(each, Planned) and any(map(is_colouring, each.typed)) for each in kinds),
        "wheel": any(
            isinstance(each, Sample) and each.ratio is not None and each.turns_per_m is not None for each in kinds
        ),
        "finish": any(
            isinstance(each, Swatch) or (isinstance(each, Skein) and each.stage == "finished") for each in kinds
        ),
        "log": False,
    }
    asleep: dict[Step, str] = {}
    for each in noted:
        if isinstance(each.record, Sleep) and each.record.until(each.noted_at) > now:
            until = each.record.until(each.noted_at)
            asleep[_SLEEPS_AT[each.record.what]] = until_words(each.record.what, until, now)
    plans = [each for each in kinds if isinstance(each, Planned)]
    planned: dict[Step, str] = {"plan": ahead_words(plans[-1])} if plans else {}
    ahead = next((step for step in ("sample", "plan", "wheel", "finish") if not done[step]), None)
    beads = tuple(
        Bead(
            step,
            words,
            _address(step, number),
            done[step],
            asleep.get(step, ""),
            planned.get(step, ""),
            step == ahead,
            step == here,
        )
        for step, words in STEP_WORDS.items()
    )
    return Thread(beads, len(log))


def _address(step: Step, number: int) -> str:
    return f"/designs/{number}" if step == "construct" else f"/designs/{number}/{step}"
