"""Whether a long evaluation is to go on: asked at every round of settling, by whoever had it begun."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_asked: ContextVar[Callable[[], None] | None] = ContextVar("asked", default=None)


@contextmanager
def asking(ask: Callable[[], None]) -> Iterator[None]:
    """Have every round ask; it goes on unless the answer is an exception."""
    before = _asked.set(ask)
    try:
        yield
    finally:
        _asked.reset(before)


def go_on() -> None:
    """Ask whether to go on."""
    ask = _asked.get()
    if ask:
        ask()
