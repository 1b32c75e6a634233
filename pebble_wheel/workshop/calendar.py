"""When each step of making falls: work by hours a day, and waits that run by day and night."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Literal

Doing = Literal["spin", "rest", "ply", "skein", "soak", "dry", "measure"]

WORKED: tuple[Doing, ...] = ("spin", "ply", "skein", "measure")
"""What is done in the hours of a day; the others wait by day and night."""

EVENING = time(18, 0)
"""When the hours of a day begin (assumed)."""


@dataclass(frozen=True)
class Task:
    """One step."""

    key: str
    """By which it is ticked off."""
    doing: Doing
    what: str
    """Address of the strand it makes, or of nothing."""
    hours: float
    """Of work, or to wait."""


@dataclass(frozen=True)
class Dated:
    """A step with its time."""

    task: Task
    begins: datetime
    ends: datetime


def scheduled(
    tasks: Iterable[Task], start: date, hours_a_day: float, done: dict[str, datetime] | None = None
) -> list[Dated]:
    """Return when each step falls, one after another from an evening on.

    Args:
        tasks: in order.
        start: the first day.
        hours_a_day: that are worked.
        done: when steps were ticked off: what follows moves there.
    """
    ticked, now, found = done or {}, datetime.combine(start, EVENING), []
    for task in tasks:
        begins = now
        if task.key in ticked:
            now = ticked[task.key]
            begins = min(begins, now)
        elif task.doing in WORKED:
            begins, now = _worked(now, task.hours, hours_a_day)
        else:
            now = now + timedelta(hours=task.hours)
        found.append(Dated(task, begins, now))
    return found


def scheduled_by(tasks: Sequence[Task], due: date, hours_a_day: float) -> list[Dated]:
    """Return when each step falls so that the last ends by a day; the first day is looked for backwards."""
    start = due
    while True:
        found = scheduled(tasks, start, hours_a_day)
        if not found or found[-1].ends.date() <= due or (due - start).days > MOST_DAYS:
            return found
        start -= timedelta(days=max((found[-1].ends.date() - due).days, 1))


MOST_DAYS = 3650
"""Before a due day, beyond which nobody plans."""


def _worked(now: datetime, hours: float, hours_a_day: float) -> tuple[datetime, datetime]:
    """Return begin and end of work of so many hours, begun where the day's hours are not used up yet."""
    opens = datetime.combine(now.date(), EVENING)
    closes = opens + timedelta(hours=hours_a_day)
    at = now if opens <= now < closes else opens if now < opens else opens + timedelta(days=1)
    begins, left = at, hours
    while True:
        closes = datetime.combine(at.date(), EVENING) + timedelta(hours=hours_a_day)
        room = (closes - at).total_seconds() / 3600
        if left <= room + MINUTE:
            return begins, at + timedelta(hours=left)
        left -= room
        at = datetime.combine(at.date() + timedelta(days=1), EVENING)


MINUTE = 1 / 60
