"""The open line protocol of a counter: one JSON object a line, cumulative, so that a lost line costs nothing.

``{"hello": "pebble-wheel-count", "version": 1, "name": "…", "turns_per_pulse": 1}``, ``{"t": 12.345, "turns": 1042}``,
``{"t": …, "mm": 5210}``, ``{"t": …, "mark": "draft"}`` (or ``stop``, ``start``, ``join``); a line may say the way of
turning as ``"way": "Z"`` or ``"S"``. Times are seconds since the counter began, turns those of the flyer.
"""

import json
import math
from collections.abc import Iterable
from copy import copy
from dataclasses import dataclass, replace
from typing import Literal, cast, get_args

HELLO, VERSION = "pebble-wheel-count", 1
Mark = Literal["draft", "stop", "start", "join"]
Way = Literal["Z", "S"]

LONGEST = 400
"""Characters of a line; a longer one is set aside."""

FASTEST = 4000 / 60
"""Turns a second that no wheel exceeds."""

LATE = 2.0
"""Seconds within which lines that come out of order are put right."""

MOST = 1e9


@dataclass(frozen=True)
class Hello:
    """How a counter greets."""

    name: str
    turns_per_pulse: float


@dataclass(frozen=True)
class Line:
    """One line of a count."""

    t: float
    turns: float | None = None
    mm: float | None = None
    mark: Mark | None = None
    way: Way | None = None


def read_line(text: str) -> Hello | Line | None:
    """Return what a line says; None of one that says nothing that can be: no JSON, too long, or no such thing."""
    if len(text) > LONGEST:
        return None
    try:
        told = json.loads(text)
    except (ValueError, RecursionError):
        return None
    if not isinstance(told, dict):
        return None
    if "hello" in told:
        return _hello(told)
    t, turns, mm = (_number(told.get(each)) for each in ("t", "turns", "mm"))
    mark, way = told.get("mark"), told.get("way")
    wrong = (
        t is None
        or (turns is None and "turns" in told)
        or (mm is None and "mm" in told)
        or mark not in (None, *get_args(Mark))
        or way not in (None, *get_args(Way))
    )
    if wrong or t is None or (turns is None and mm is None and mark is None):
        return None
    return Line(t, turns, mm, cast(Mark | None, mark), cast(Way | None, way))


def _hello(told: dict[str, object]) -> Hello | None:
    per_pulse = _number(told.get("turns_per_pulse", 1))
    if told["hello"] != HELLO or told.get("version") != VERSION or not per_pulse:
        return None
    return Hello(str(told.get("name", ""))[:60], per_pulse)


def _number(value: object) -> float | None:
    if (
        isinstance(value, bool)
        or not isinstance(value, int | float)
        or not math.isfinite(value)
        or not 0 <= value <= MOST
    ):
        return None
    return float(value)


def write_line(line: Hello | Line) -> str:
    """Return a line as the protocol has it."""
    if isinstance(line, Hello):
        told: dict[str, object] = {"hello": HELLO, "version": VERSION, "name": line.name}
        return json.dumps(told | {"turns_per_pulse": line.turns_per_pulse})
    pairs = {"t": line.t, "turns": line.turns, "mm": line.mm, "mark": line.mark, "way": line.way}
    return json.dumps({name: value for name, value in pairs.items() if value is not None})


@dataclass(frozen=True)
class Draft:
    """One draft that was counted."""

    turns: float
    mm: float | None
    """None where the counter tells no lengths."""
    ends: float
    """Seconds since the counter began."""
    way: Way | None


@dataclass(frozen=True)
class Count:
    """What a counter's lines come to."""

    drafts: tuple[Draft, ...]
    turns: float
    """All of them, those of the draft in hand too."""
    in_hand: float
    """Turns since the last draft ended."""
    way: Way | None
    """As it turns now."""
    running: bool
    seconds: float
    """Of turning, pauses apart."""
    aside: int
    """Lines that cannot be, set aside."""


def counted(lines: Iterable[Line]) -> Count:
    """Return what lines come to, in the order in which they came; see :class:`Counting`."""
    counting = Counting()
    for line in lines:
        counting.take(line)
    return counting.count()


class Counting:
    """A count that goes on, line by line.

    Lines up to two seconds late are put in their place, a line told twice counts once, and a counter that begins again
    from nothing goes on from there. What a line costs does not grow with the count.
    """

    def __init__(self) -> None:
        self._drafts: list[Draft] = []
        self._whole = self._seconds = 0.0
        self._aside = 0
        self._state = _State()
        self._begin()

    def _begin(self) -> None:
        self._held: list[Line] = []
        self._seen: set[int] = set()
        self._latest, self._most = -math.inf, 0.0

    def take(self, line: Line) -> None:
        """Take a line as it comes."""
        mark, turns = hash(line), line.turns
        if mark in self._seen:
            return  # told twice
        began = bool(self._seen)
        self._seen.add(mark)
        reach = FASTEST * (max(line.t - self._latest, 0.0) + LATE) + 1 if began else math.inf
        if turns is not None and turns > self._most + reach:
            self._aside += 1  # no wheel turns so fast
            return
        late = line.t < self._latest - LATE
        if began and (late or (turns is not None and turns < self._most and line.t >= self._latest)):
            if turns is None or turns <= self._most / 2:
                self.begin_again()
                self._seen.add(mark)
            elif late:
                self._aside += 1
                return
        self._held.append(line)
        self._latest, self._most = max(self._latest, line.t), max(self._most, turns or 0.0)
        ripe = [each for each in self._held if each.t < self._latest - LATE]
        if ripe:
            self._held = [each for each in self._held if each.t >= self._latest - LATE]
            self._aside += _taken(ripe, self._state, self._drafts)

    @property
    def latest(self) -> float:
        """The latest time that was told; 0 before any."""
        return self._latest if math.isfinite(self._latest) else 0.0

    def begin_again(self) -> None:
        """Go on with a counter that was started anew."""
        self._aside += _taken(self._held, self._state, self._drafts)
        self._whole, self._seconds = self._whole + self._state.turned, self._seconds + self._state.seconds
        self._state = _State(self._state.way, self._state.running, self._state.since)
        self._begin()

    def count(self) -> Count:
        """Return what the lines so far come to."""
        state, later = copy(self._state), list[Draft]()
        aside = self._aside + _taken(self._held, state, later)
        whole, seconds = self._whole + state.turned, self._seconds + state.seconds
        return Count((*self._drafts, *later), whole, state.since, state.way, state.running, seconds, aside)


class Together:
    """Several counters in one run, told apart: one counts the turns, whoever else speaks tells drafts and lengths.

    The first that tells turns is believed. What another tells of drafts, lengths and pauses counts as told now, by the
    clock of the one believed; its turns are set aside, and counted.
    """

    def __init__(self) -> None:
        self.counting = Counting()
        self.believed: str | None = None
        self.others = 0
        """Lines of other counters whose turns were set aside."""

    def take(self, line: Line, source: str) -> Line | None:
        """Take a line of a counter as it comes; return it as it counts, None where it does not."""
        if self.believed is None and line.turns is not None:
            self.believed = source
        told = line
        if self.believed not in (None, source):
            self.others += line.turns is not None
            told = replace(line, t=self.counting.latest, turns=None, way=None)
            if not told.mark and told.mm is None:
                return None
        self.counting.take(told)
        return told

    def believe(self, source: str) -> None:
        """Believe another counter from now on; what was counted stays."""
        if source != self.believed:
            self.believed = source
            self.counting.begin_again()


def _taken(lines: Iterable[Line], state: "_State", drafts: list[Draft]) -> int:
    """Take lines by their times; return how many cannot be."""
    return sum(not state.take(line, drafts) for line in sorted(lines, key=lambda each: each.t))


class _State:
    """A counter as far as its lines were taken."""

    def __init__(self, way: Way | None = None, running: bool = True, since: float = 0.0) -> None:
        self.way, self.running, self.since = way, running, since
        self.turned = self.seconds = 0.0
        self._t: float | None = None
        self._turns: float | None = None
        self._mm: float | None = None
        self._mm_at: float | None = None

    def take(self, line: Line, drafts: list[Draft]) -> bool:
        """Take a line; return whether it can be."""
        if line.turns is not None and not self._turn(line.t, line.turns):
            return False
        if line.mm is not None:
            if self._mm is not None and line.mm < self._mm:
                return False
            self._mm_at = line.mm if self._mm is None else self._mm_at
            self._mm = line.mm
        self.way = line.way or self.way
        match line.mark:
            case "draft":
                self._end(line.t, drafts)
            case "stop":
                self.running = False
            case "start" | "join":
                self._t = line.t if not self.running and self._t is not None else self._t
                self.running = True
            case None:
                pass
        return True

    def _turn(self, t: float, turns: float) -> bool:
        if self._turns is not None and self._t is not None:
            more, span = turns - self._turns, t - self._t
            if more < 0 or more > FASTEST * max(span, 0.05) + 1:
                return False
            if self.running:
                self.turned += more
                self.since += more
                self.seconds += span
        self._t, self._turns = t, turns
        return True

    def _end(self, t: float, drafts: list[Draft]) -> None:
        long = None if self._mm is None or self._mm_at is None else self._mm - self._mm_at
        if self.since > 0:
            drafts.append(Draft(self.since, long if long else None, t, self.way))
        self.since, self._mm_at = 0.0, self._mm
