"""What the log of a yarn shows."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import groupby

from pebble_wheel.mechanics.finish.moments import AtMoment
from pebble_wheel.notation.design import Design, finish_of
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.guess import GUESS_FIELDS, Guess
from pebble_wheel.notation.log import LOG_FIELDS, NextTime, Record
from pebble_wheel.notation.sample import Sample, strand_of
from pebble_wheel.store.photos import Photo
from pebble_wheel.store.records import DamagedRecord, Noted, kind_of, plan_of
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.small import content_of
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.guesses import ABOUT_WORDS, CAME_WORDS, came_words
from pebble_wheel.wording.log import record_kind, record_words, taken_words
from pebble_wheel.wording.names import structure_words, verdict_words
from pebble_wheel.wording.sampling import THE_YARN, strand_words
from pebble_wheel.wording.thread import ASLEEP_WORDS, day_words
from pebble_wheel.workshop.guesses import Answer, guesses_in

REST_HOURS = 24.0


@dataclass(frozen=True)
class Line:
    """One entry."""

    id: int
    kind: str
    key: str
    """Its kind as the store has it."""
    words: str
    by: str
    """Who spun it, where several do."""
    reference: bool
    photos: list[tuple[str, int]]
    """In which it was measured, as far as they are kept: uid and number."""
    came: str = ""
    """Of a guess, what came of it."""
    hit: bool | None = None
    """Of a guess, whether it was one; None of any other entry, and while it waits."""
    asks: tuple[Choice, ...] = ()
    """Of a guess in words, what its owner can say came of it."""


@dataclass(frozen=True)
class Day:
    """What happened on one day."""

    words: str
    lines: tuple[Line, ...]
    photos: tuple[tuple[str, int], ...]
    """That were taken on it: uid and number."""


@dataclass(frozen=True)
class Told:
    """What is known of a yarn besides its log."""

    photos: list[Photo]
    again: list[tuple[int, str]]
    """Yarns that are this one spun again: number and name."""


@dataclass(frozen=True)
class Noting:
    """What was typed, and what came of it."""

    typed: Mapping[str, str]
    faults: tuple[Fault, ...] = ()
    unkept: str = ""
    struck: tuple[str, int] | None = None
    taken: tuple[int, int] | None = None
    """Rows of a table that were added, and that were there already."""
    table_faults: tuple[Fault, ...] = ()


@dataclass(frozen=True)
class LogView:
    """The page."""

    number: int
    name: str
    picture: str
    """Address of the small picture."""
    structure: str
    facts: str
    thread: Thread
    days: list[Day]
    ahead: list[Line]
    """What was noted for the next time."""
    again: list[tuple[int, str]]
    """Yarns that are this one spun again: number and name."""
    damaged: list[DamagedRecord]
    typed: dict[str, str]
    faults: dict[str, str]
    unkept: str
    struck: tuple[str, int] | None
    taken: str
    table_faults: tuple[Fault, ...]

    sleeps = choices_of(ASLEEP_WORDS)
    abouts = choices_of(ABOUT_WORDS)


def view_of_log(
    number: int,
    design: Design,
    log: list[Noted[Record] | DamagedRecord],
    names: dict[str, str],
    thread: Thread,
    noting: Noting,
    about: Told,
    desk: Desk,
) -> LogView:
    """Return what the page shows.

    Args:
        number: of the design.
        design: as it is now.
        log: its entries.
        names: of everybody that spins, by uid.
        thread: of the yarn.
        noting: what was typed.
        about: what is known of the yarn besides.
        desk: of the person.
    """
    entries = [each for each in log if isinstance(each, Noted)]
    shown = {each.uid: each.id for each in about.photos}
    came = {entries[place].id: answer for place, answer in guesses_in([each.record for each in entries])}
    told = [_line(each, names, shown, desk, came.get(each.id)) for each in entries]
    return LogView(
        number,
        design.name,
        f"/designs/{number}/small/{content_of(design, desk.evaluator.constants.known_by)}.svg",
        structure_words(design.yarn),
        _facts(design, desk),
        thread,
        _days(entries, told, about.photos),
        [line for each, line in zip(entries, told, strict=True) if isinstance(each.record, NextTime)],
        about.again,
        [each for each in log if isinstance(each, DamagedRecord)],
        {**LOG_FIELDS, **GUESS_FIELDS, **noting.typed},
        {fault.place: fault.message for fault in noting.faults},
        noting.unkept,
        noting.struck,
        taken_words(*noting.taken) if noting.taken else "",
        noting.table_faults,
    )


def _facts(design: Design, desk: Desk) -> str:
    """Return how a yarn rests and how thick it comes out; empty where it cannot be made any more."""
    try:
        reading = desk.evaluator.read(design, desk.settings)
    except InputError:
        return ""
    rests = verdict_words(reading.balance.verdict, design.yarn)
    return f"{rests}, {desk.display.wpi_range(reading.wpi_finished)} finished"


def _days(entries: list[Noted[Record]], told: list[Line], photos: list[Photo]) -> list[Day]:
    """Return what happened day by day, the first first, with what was photographed then."""
    happened = [
        (datetime.fromisoformat(each.noted_at), line, None)
        for each, line in zip(entries, told, strict=True)
        if not isinstance(each.record, NextTime)
    ]
    taken = [(datetime.fromisoformat(each.noted_at), None, (each.uid, each.id)) for each in photos]
    both = sorted([*happened, *taken], key=lambda each: each[0])
    days = []
    for words, own in groupby(both, lambda each: day_words(each[0].astimezone())):
        several = list(own)
        lines = tuple(line for _, line, _ in several if line)
        shown = {uid for line in lines for uid, _ in line.photos}
        days.append(Day(words, lines, tuple(photo for _, _, photo in several if photo and photo[0] not in shown)))
    return days


def _line(
    noted: Noted[Record], names: dict[str, str], shown: Mapping[str, int], desk: Desk, answer: Answer | None
) -> Line:
    record, kind = noted.record, record_kind(noted.record)
    plan = plan_of(noted)
    words = record_words(record, _moments(plan, desk), desk.display)
    if isinstance(record, Sample):
        kind = f"{kind} of {_strand(record.strand, plan)}"
    by = names.get(noted.spinner, "") if len(names) > 1 else ""
    photos = [(uid, shown[uid]) for uid in record.photos if uid in shown] if isinstance(record, Sample) else []
    line = Line(noted.id, kind, kind_of(record), words, by, noted.reference, photos)
    if not isinstance(record, Guess):
        return line
    asks = choices_of(CAME_WORDS) if record.about == "words" and not record.came else ()
    return replace(line, came=came_words(record, answer, desk.display), hit=answer.hit if answer else None, asks=asks)


def _strand(path: str, plan: Design | None) -> str:
    if path == "yarn" or plan is None:
        return THE_YARN
    try:
        return strand_words(strand_of(plan, path))
    except InputError:
        return THE_YARN


def _moments(plan: Design | None, desk: Desk) -> tuple[AtMoment, AtMoment] | None:
    """Return a yarn as plied and as finished; None where it cannot be made any more."""
    if plan is None:
        return None
    try:
        reading = desk.evaluator.read(plan)
    except InputError:
        return None
    moments = desk.evaluator.moments(reading, finish_of(plan), REST_HOURS)
    return moments["fresh"], moments["dried"]
