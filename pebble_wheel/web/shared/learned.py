"""Whose hands a screen reckons with, and what their samples have taught: looked up once for a request."""

import math
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from statistics import median

from pebble_wheel.mechanics.learning.eye import Eye
from pebble_wheel.mechanics.learning.model import Lessons, YarnMeasured, learn
from pebble_wheel.mechanics.learning.noise import CARD, Method
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.log import Record
from pebble_wheel.notation.sample import Sample
from pebble_wheel.store import practice, records, spinners
from pebble_wheel.store.measured import noted_of, yarn_key
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.learn import Key, yarns_of
from pebble_wheel.workshop.practice import Skill, Tried, eye_for

MOST_SPINNERS, MOST_RECKONED, MOST_REMEMBERED = 8, 2048, 64
"""Whose lessons, how many strands as reckoned, and what was worked out of one's entries, are kept at hand."""

DRAWN = 0.7
"""Degrees by which an eye may read real yarn otherwise than drawn yarn, a standard deviation (assumed)."""

PACED = 5
"""Counted runs that tell one's pace, the last."""


@dataclass(frozen=True)
class Learned:
    """What is known of the spinner at the wheel."""

    spinner: spinners.Spinner = field(default_factory=lambda: spinners.Spinner(records.FIRST, ""))
    entries: tuple[records.Noted[Record], ...] = ()
    yarns: dict[Key, YarnMeasured] = field(default_factory=dict)
    lessons: Lessons | None = None
    """None where they have no samples."""
    eye: Eye | None = None
    """How it reads angles, as practice has shown; None where that is not to count."""
    counted: bool = True
    """Whether screens reckon with them; a switch shows what they say without."""
    remembered: Memory = field(default_factory=lambda: Memory(MOST_REMEMBERED))
    """Of what was worked out of these entries."""
    reckoned: Memory = field(default_factory=lambda: Memory(MOST_RECKONED))
    """Of strands as they are reckoned, untaught."""

    @property
    def steep(self) -> float:
        """Degrees by which angles read by eye are taken for too steep."""
        return self.eye.bias if self.eye else 0.0

    @property
    def known(self) -> dict[Method, float]:
        """Ways of measuring whose bias was found by practice, and how sure that is."""
        return {"eye": math.hypot(self.eye.bias_sd, DRAWN)} if self.eye else {}

    @property
    def pace(self) -> float | None:
        """Treadles a minute, the middle one of the last that were counted; None where none were."""
        paces = [each.record.pace for each in self.entries if isinstance(each.record, Sample) and each.record.pace]
        return median(paces[-PACED:]) if paces and self.counted else None

    def evaluator(self, evaluator: Evaluator, measured: YarnMeasured | None = None) -> Evaluator:
        """Return an evaluator that reckons with what was learned, and with readings of the very yarn."""
        return evaluator.taught(self.lessons, self.spinner.name, measured) if self.counted else evaluator

    @property
    def card(self) -> tuple[float, float]:
        """By how much their gauge card reads thick, and how far it scatters besides, logarithms."""
        if self.lessons is None or not self.counted:
            return 0.0, CARD.off
        lessons = self.lessons
        mean, sd = self.remembered.recall((Learned.card,), lambda: lessons.bias("card", CARD.bias))
        return mean, math.hypot(sd, CARD.scatter)

    def before(self, moment: str) -> Lessons:
        """Return what all yarns had taught that were measured before a moment."""
        earlier = {each.id for each in self.entries if each.noted_at < moment}

        def work() -> Lessons:
            whole = (yarn for yarn in self.yarns.values() if all(each.entry in earlier for each in yarn.readings))
            return learn(whole, self.known)

        return self.remembered.recall((Learned.before, len(earlier)), work)

    def of_yarn(self, number: int, design: Design) -> YarnMeasured | None:
        """Return what was measured of a yarn as it is spun now; None where nothing was, or where it is not to count."""
        last = self._last(number, design)
        return self.yarns[last] if last and self.counted else None

    def without(self, number: int, design: Design) -> Lessons:
        """Return what all other yarns have taught."""
        own = self._last(number, design)
        return self.remembered.recall(
            (Learned.without, own), lambda: learn((yarn for key, yarn in self.yarns.items() if key != own), self.known)
        )

    def _last(self, number: int, design: Design) -> Key | None:
        """Return which yarn of a plan was begun last."""
        own = [key for key in self.yarns if key[0] == yarn_key(number, design)]
        return own[-1] if own else None


class Learning:
    """What was learned lately, by spinner, as long as nothing of theirs changes."""

    def __init__(self) -> None:
        self._known = Memory(MOST_SPINNERS)
        self._reckoned = Memory(MOST_RECKONED)

    def of(self, connection: sqlite3.Connection, store: str, uid: str, counted: bool) -> Learned:
        """Return what is known of a spinner, or of the first where there is nobody such."""
        spinner = spinners.known(connection, uid)
        state = records.state_of(connection, spinner.uid), practice.state_of(connection, spinner.uid)

        def work() -> Learned:
            entries = records.by_spinner(connection, spinner.uid)
            found = Learned(spinner, tuple(entries), eye=_eye(connection, spinner.uid), reckoned=self._reckoned)
            several = [noted for entry in entries if (noted := noted_of(entry, found.steep))]
            yarns = yarns_of(several, Constants().rod, self._reckoned)
            lessons = learn(yarns.values(), found.known) if yarns else None
            return replace(found, yarns=yarns, lessons=lessons)

        return replace(self._known.recall((store, spinner, state), work), counted=counted)


def _eye(connection: sqlite3.Connection, uid: str) -> Eye | None:
    """Return how somebody reads angles, where they let that count."""
    if not practice.counts(connection, uid):
        return None
    return eye_for("angle", tried_of(practice.answers(connection, uid)), datetime.now(UTC))


def tried_of(answers: Iterable[practice.Answer]) -> list[Tried]:
    """Return answers as they are reckoned with."""
    return [
        Tried(Skill(each.asked.kind, each.asked.fine), each.truth, each.given, datetime.fromisoformat(each.answered_at))
        for each in answers
    ]
