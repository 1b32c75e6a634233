"""Whose hands a screen reckons with, and what their samples have taught: looked up once for a request."""

import math
import sqlite3
from dataclasses import dataclass, field, replace
from statistics import median

from pebble_wheel.mechanics.learning.model import Lessons, YarnMeasured, learn
from pebble_wheel.mechanics.learning.noise import CARD
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.log import Record
from pebble_wheel.notation.sample import Sample
from pebble_wheel.store import records, spinners
from pebble_wheel.store.measured import noted_of, yarn_key
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.learn import Key, yarns_of

MOST_SPINNERS, MOST_RECKONED, MOST_REMEMBERED = 8, 2048, 64
"""Whose lessons, how many strands as reckoned, and what was worked out of one's entries, are kept at hand."""

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
    counted: bool = True
    """Whether screens reckon with them; a switch shows what they say without."""
    remembered: Memory = field(default_factory=lambda: Memory(MOST_REMEMBERED))
    """Of what was worked out of these entries."""
    reckoned: Memory = field(default_factory=lambda: Memory(MOST_RECKONED))
    """Of strands as they are reckoned, untaught."""

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
        mean, sd = self.lessons.bias("card", CARD.bias)
        return mean, math.hypot(sd, CARD.scatter)

    def before(self, moment: str) -> Lessons:
        """Return what all yarns had taught that were measured before a moment."""
        earlier = {each.id for each in self.entries if each.noted_at < moment}

        def work() -> Lessons:
            return learn(yarn for yarn in self.yarns.values() if all(each.entry in earlier for each in yarn.readings))

        return self.remembered.recall((Learned.before, len(earlier)), work)

    def of_yarn(self, number: int, design: Design) -> YarnMeasured | None:
        """Return what was measured of a yarn as it is spun now; None where nothing was, or where it is not to count."""
        last = self._last(number, design)
        return self.yarns[last] if last and self.counted else None

    def without(self, number: int, design: Design) -> Lessons:
        """Return what all other yarns have taught."""
        own = self._last(number, design)
        return self.remembered.recall(
            (Learned.without, own), lambda: learn(yarn for key, yarn in self.yarns.items() if key != own)
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
        state = records.state_of(connection, spinner.uid)

        def work() -> Learned:
            entries = records.by_spinner(connection, spinner.uid)
            several = [noted for noted in map(noted_of, entries) if noted]
            yarns = yarns_of(several, Constants().rod, self._reckoned)
            lessons = learn(yarns.values()) if yarns else None
            return Learned(spinner, tuple(entries), yarns, lessons, reckoned=self._reckoned)

        return replace(self._known.recall((store, spinner, state), work), counted=counted)
