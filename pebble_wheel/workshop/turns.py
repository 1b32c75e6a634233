"""Turns at evaluating: one at a time, none for longer than anybody waits, and long ones let the others in between."""

import threading
import time
from collections import deque
from collections.abc import Callable
from contextlib import AbstractContextManager
from contextvars import ContextVar

from pebble_wheel.mechanics.patience import asking

LONGEST, SLICE = 4.5, 0.1
"""Seconds of work that an evaluation may take, so that its answer is out within five; and after how many of the clock
others come in."""


class TooLongError(Exception):
    """An evaluation took longer than it may."""


class NobodyWaitsError(Exception):
    """Whoever asked has gone."""


waited_for: ContextVar[Callable[[], bool]] = ContextVar("waited_for", default=lambda: True)
"""Whether somebody still waits for what is being worked out."""


class Turns:
    """Many small array operations in several threads at once only hinder each other: they take turns, in order."""

    def __init__(self, longest: float = LONGEST) -> None:
        self._longest = longest
        self._queue: deque[threading.Event] = deque()
        self._lock = threading.Lock()
        self._owner: int | None = None
        self._depth = 0
        self._asking: AbstractContextManager[None] | None = None

    def __enter__(self) -> None:
        """Take a turn; within one's own turn at once.

        Raises:
            NobodyWaitsError: where whoever asked has gone while waiting.
        """
        if self._owner == threading.get_ident():
            self._depth += 1
            return
        self._wait()
        self._depth = 1
        if not waited_for.get()():
            self._pass_on()
            raise NobodyWaitsError
        began, set_out = time.monotonic(), time.thread_time()  # waiting is no work

        def ask() -> None:
            nonlocal began
            if time.monotonic() - began > SLICE:
                if time.thread_time() - set_out > self._longest:
                    raise TooLongError
                if not waited_for.get()():
                    raise NobodyWaitsError
                self._let_others_in()
                began = time.monotonic()

        self._asking = asking(ask)
        self._asking.__enter__()

    def __exit__(self, *error: object) -> None:
        """End the turn."""
        self._depth -= 1
        if self._depth == 0:
            if self._asking:
                self._asking.__exit__(None, None, None)
            self._pass_on()

    def _wait(self) -> None:
        with self._lock:
            if self._owner is None and not self._queue:
                self._owner = threading.get_ident()
                return
            turn = threading.Event()
            self._queue.append(turn)
        turn.wait()
        self._owner = threading.get_ident()

    def _pass_on(self) -> None:
        with self._lock:
            self._owner = None
            if self._queue:
                self._owner = 0  # nobody's until the next has woken
                self._queue.popleft().set()

    def _let_others_in(self) -> None:
        if not self._queue:
            return
        depth, own = self._depth, self._asking
        self._pass_on()
        self._wait()
        self._depth, self._asking = depth, own
