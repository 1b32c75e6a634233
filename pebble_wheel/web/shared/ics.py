"""A plan as a calendar file, by icalendar."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event

from pebble_wheel.workshop.calendar import Dated

ALARMED = ("rest", "soak", "dry")
"""Steps at whose end one is told."""


def calendar_of(name: str, uid: str, days: Sequence[tuple[Dated, str]], now: datetime) -> bytes:
    """Return the calendar of a plan: an entry for each step, with its words; an alarm where something has waited.

    Args:
        name: of the yarn.
        uid: by which its entries are known, so that a plan taken in again moves them.
        days: the steps with what they are.
        now: when it was written.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Pebble Wheel//plan//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for dated, words in days:
        event = Event()
        event.add("uid", f"{dated.task.key}-{uid}@pebble-wheel")
        event.add("dtstamp", now.astimezone(UTC))
        event.add("summary", f"{name}: {words}")
        event.add("dtstart", dated.begins)
        event.add("dtend", dated.ends)
        if dated.task.doing in ALARMED:
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", words)
            alarm.add("trigger", timedelta(0), parameters={"RELATED": "END"})
            event.add_component(alarm)
        calendar.add_component(event)
    return calendar.to_ical()
