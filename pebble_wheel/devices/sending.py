"""Lines of a counter sent to a run, in the order in which they come; what is not answered for is sent again."""

import secrets
import time
import urllib.error
import urllib.request
from collections.abc import Iterable, Iterator
from contextlib import suppress
from queue import Empty, Queue
from threading import Thread
from urllib.parse import urlsplit

AT_ONCE, TRIES, PAUSE, MOST_WAITING = 200, 5, 1.0, 10_000
"""Lines sent together, how often they are tried, seconds between, and lines that wait to be sent."""

TOGETHER = 0.1
"""Seconds for which lines are gathered."""


class NotTakenError(ValueError):
    """A run that does not take lines."""


def send(lines: Iterable[str], to: str) -> int:
    """Send lines to the address of a run; return how many were answered for.

    Raises:
        NotTakenError: where the address is none, or does not answer.
    """
    told = urlsplit(to)
    if told.scheme not in ("http", "https") or not told.netloc:
        raise NotTakenError(f"{to}: write it like http://127.0.0.1:8000/designs/1/wheel/runs/1/lines")
    source = f"counter-{secrets.token_hex(4)}"
    own = f"{to}{'&' if told.query else '?'}source={source}"
    return sum(_post(each, own) for each in _gathered(lines))


def _gathered(lines: Iterable[str]) -> Iterator[list[str]]:
    """Yield what came within a moment of its first line, however long the next one takes."""
    waiting: Queue[str | BaseException | None] = Queue(MOST_WAITING)

    def read() -> None:
        try:
            for line in lines:
                waiting.put(line)
        except BaseException as error:
            waiting.put(error)
        else:
            waiting.put(None)

    Thread(target=read, daemon=True).start()
    while True:
        came = [waiting.get()]
        until = time.monotonic() + TOGETHER
        with suppress(Empty):
            while isinstance(came[-1], str) and len(came) < AT_ONCE:
                came.append(waiting.get(timeout=max(until - time.monotonic(), 0.0)))
        held = [each for each in came if isinstance(each, str)]
        if held:
            yield held
        last = came[-1]
        if isinstance(last, BaseException):
            raise last
        if last is None:
            return


def _post(lines: list[str], to: str) -> int:
    told = urlsplit(to)
    body = "\n".join(lines).encode()
    asked = urllib.request.Request(  # noqa: S310 - only http and https come here
        to, body, {"origin": f"{told.scheme}://{told.netloc}", "content-type": "text/plain"}
    )
    why = ""
    for _ in range(TRIES):
        try:
            with urllib.request.urlopen(asked, timeout=10):  # noqa: S310
                return len(lines)
        except urllib.error.HTTPError as error:
            error.close()
            if error.code < 500:
                raise NotTakenError(f"{to}: answered {error.code}") from error
            why = f"answered {error.code}"
        except OSError as error:
            why = str(error)
        time.sleep(PAUSE)
    raise NotTakenError(f"{to}: {why}")
