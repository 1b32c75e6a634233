"""Lines of a counter sent to a run, in the order in which they come; what is not answered for is sent again."""

import time
import urllib.error
import urllib.request
from collections.abc import Iterable
from urllib.parse import urlsplit

AT_ONCE, TRIES, PAUSE = 200, 5, 1.0
"""Lines sent together, how often they are tried, and seconds between."""

TOGETHER = 0.25
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
    sent, held, began = 0, [], time.monotonic()
    for line in lines:
        held.append(line)
        if len(held) >= AT_ONCE or time.monotonic() - began > TOGETHER:
            sent, held, began = sent + _post(held, to), [], time.monotonic()
    return sent + (_post(held, to) if held else 0)


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
            if error.code < 500:
                raise NotTakenError(f"{to}: answered {error.code}") from error
            why = f"answered {error.code}"
        except OSError as error:
            why = str(error)
        time.sleep(PAUSE)
    raise NotTakenError(f"{to}: {why}")
