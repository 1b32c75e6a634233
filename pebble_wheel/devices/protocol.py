"""The open line protocol of a counter: one JSON object a line, cumulative, so that a lost line costs nothing.

``{"hello": "pebble-wheel-count", "version": 1, "name": "…", "turns_per_pulse": 1}``, ``{"t": 12.345, "turns": 1042}``,
``{"t": …, "mm": 5210}``, ``{"t": …, "mark": "draft"}`` (or ``stop``, ``start``, ``join``); a line may say the way of
turning as ``"way": "Z"`` or ``"S"``. Times are seconds since the counter began, turns those of the flyer.
"""

import json
import math
from collections.abc import Iterable
from dataclasses import dataclass
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
    """Return what lines come to, in the order in which they came.

    Lines up to two seconds late are put in their place, a line told twice counts once, and a counter that begins again
    from nothing goes on from there.
    """
    drafts: list[Draft] = []
    whole = seconds = 0.0
    aside = 0
    state = _State()
    for part in _parts(lines):
        state = _State(way=state.way, running=state.running, since=state.since)
        for line in sorted(part, key=lambda each: each.t):
            aside += not state.take(line, drafts)
        whole, seconds = whole + state.turned, seconds + state.seconds
        state.since += state.carried
    return Count(tuple(drafts), whole, state.since, state.way, state.running, seconds, aside)


def _parts(lines: Iterable[Line]) -> Iterable[list[Line]]:
    """Yield lines that one counter told since it began: a time or a count far back is a beginning."""
    part: list[Line] = []
    seen: set[Line] = set()
    latest, most = -math.inf, 0.0
    for line in lines:
        turns = line.turns
        if line in seen:
            continue  # told twice
        seen.add(line)
        if part and turns is not None and turns > most + FASTEST * (max(line.t - latest, 0.0) + LATE) + 1:
            part.append(line)  # to be set aside: no wheel turns so fast
            continue
        back = line.t < latest - LATE or (turns is not None and turns < most and line.t >= latest)
        if part and back and (turns is None or turns <= most / 2):
            yield part
            part, seen, latest, most = [], {line}, -math.inf, 0.0
        part.append(line)
        latest, most = max(latest, line.t), max(most, turns or 0.0)
    yield part


class _State:
    """A counter as far as its lines were taken."""

    def __init__(self, way: Way | None = None, running: bool = True, since: float = 0.0) -> None:
        self.way, self.running, self.since = way, running, since
        self.turned = self.seconds = self.carried = 0.0
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
