"""What the sample screen shows: the strands side by side, the verdict, the form, and what was sampled before."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

from markupsafe import Markup

from pebble_wheel.drawing.sampled import hanging_fold_svg
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import Node, Single
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import BoughtModel, Design, NodeModel, sections_in, structure_of, walk
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.sample import SAMPLE_FIELDS, Asked, Sample
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.records import Noted
from pebble_wheel.web.shared.bench import Bench, SideBySide, sides_of
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.examples import Like, like
from pebble_wheel.wording.names import METHOD_WORDS, STAGE_WORDS
from pebble_wheel.wording.sampling import (
    COUNTED_WORDS,
    FOLD_WORDS,
    GONE,
    SPUN_AS_WORDS,
    TAKEN_WORDS,
    THE_YARN,
    TUG_WORDS,
    Both,
    ReadingWords,
    VerdictWords,
    reading_words,
    sample_words,
    strand_words,
    taken_words,
    verdict_words,
)
from pebble_wheel.wording.texture import gesture_words
from pebble_wheel.wording.thread import day_words
from pebble_wheel.workshop.hands import slots_in
from pebble_wheel.workshop.verdict import Judged

OF_SINGLES = ("fold", "counted", "fold_over", "fold_angle")
NOT_OF_SINGLES = ("loop", "way", "singles_in", "yarn_out", "stage", "before", "after")
"""Fields that only singles have, and that they have not."""


@dataclass(frozen=True)
class Line:
    """A sample noted before."""

    id: int
    day: str
    strand: str
    words: str
    reference: bool
    can_refer: bool
    """Whether it may become the one to match."""


@dataclass(frozen=True)
class Newest:
    """The newest sample of the strand, judged."""

    id: int
    words: str
    readings: tuple[ReadingWords, ...]
    verdict: VerdictWords
    take: tuple[Both, ...]
    """What would change if it were taken as the plan; nothing where it tells nothing of size or twist."""


@dataclass(frozen=True)
class Away:
    """Twist that ran into a short piece: how long, how many times too much, and what to do."""

    piece: str = ""
    times: str = ""
    words: str = ""
    fault: str = ""


@dataclass(frozen=True)
class SampleView:
    """The page."""

    number: int
    name: str
    thread: Thread
    strand: str
    strands: list[Choice]
    single: bool
    typed: dict[str, str]
    faults: dict[str, str]
    elsewhere: list[str]
    """Faults of fields that this strand has none of."""
    unkept: str
    said: str
    struck: int | None
    sides: list[SideBySide]
    newest: Newest | None
    lines: list[Line]
    slots: list[Choice]
    told: bool
    """Whether there is something that the spinner was told to do otherwise than planned."""
    confirm: int | None
    """A sample that is to become the one to match, instead of another; it is asked once more."""
    like: Like
    planned_angle: float
    """Degrees as shown, at which the strand is planned to lean."""
    leans: str
    hung: str
    inches: bool
    away: Away
    spinner: str
    crosswise: bool

    folds = tuple((word, words, Markup(hanging_fold_svg(word, words))) for word, words in FOLD_WORDS.items())
    methods = choices_of(METHOD_WORDS)
    counts = choices_of(COUNTED_WORDS)
    stages = choices_of(STAGE_WORDS)
    takens = choices_of(TAKEN_WORDS)
    tugs = choices_of({"": "not tugged", **TUG_WORDS})
    wets = choices_of({"dry": "dry", "wet": "wet"})
    ways = choices_of({"Z": "Z", "S": "S"})
    spuns = choices_of(SPUN_AS_WORDS)


@dataclass(frozen=True)
class Entry:
    """What was typed, and what came of it."""

    typed: Mapping[str, str]
    faults: tuple[Fault, ...] = ()
    unkept: str = ""
    said: str = ""
    struck: int | None = None
    confirm: int | None = None
    away: Away = Away()


def strands_in(design: Design) -> list[Choice]:
    """Return the strands that can be sampled, the innermost first, those alike once; what is bought others made."""
    alike: dict[Node, tuple[Address, NodeModel]] = {}
    for path, _, model in walk(design.yarn):
        if not isinstance(model, BoughtModel):
            alike.setdefault(structure_of(model), (path, model))
    found = list(alike.values())
    words = [strand_words(model) for _, model in found]
    return [
        Choice(path, THE_YARN if path == WHOLE else _numbered(path, said, words.count(said) > 1))
        for (path, _), said in reversed(list(zip(found, words, strict=True)))
    ] + _sections(design, set(alike))


def _sections(design: Design, known: set[Node]) -> list[Choice]:
    """Return the sections of a yarn that are other than what is known, those alike once."""
    found: dict[Node, Choice] = {}
    for place, section in sections_in(design):
        if section.yarn and structure_of(section.yarn) not in known:
            said = gesture_words(section.yarn, design)
            found.setdefault(structure_of(section.yarn), Choice(f"{place}.{WHOLE}", said))
    return list(found.values())


def _numbered(path: Address, said: str, several: bool) -> str:
    return f"{said} {path.place + 1}" if several and path.place is not None else said


def view_of_sample(
    bench: Bench,
    log: list[Noted[Sample]],
    name: str,
    thread: Thread,
    entry: Entry,
) -> SampleView:
    """Return what the page shows."""
    desk, display = bench.desk, bench.desk.display
    newest = bench.samples[-1] if bench.samples else None
    judged = bench.judged(newest) if newest else None
    words = {each.value: each.words for each in strands_in(bench.design)}
    node = bench.node()
    reckoned, single = make(node), isinstance(node, Single)
    faults = {fault.place: fault.message for fault in entry.faults}
    typed = {**SAMPLE_FIELDS, "method": desk.settings.wpi_method, "strand": bench.strand, **entry.typed}
    told = bool(judged and judged.changes and judged.asked != (newest.record.asked if newest else None))
    told = told or (newest is None and bench.begun != Asked())
    if "spun_as" not in entry.typed and told:
        typed["spun_as"] = "told"
    return SampleView(
        number=bench.number,
        name=name,
        thread=thread,
        strand=bench.strand,
        strands=strands_in(bench.design),
        single=single,
        typed=typed,
        faults=faults,
        elsewhere=[faults[each] for each in (NOT_OF_SINGLES if single else OF_SINGLES) if each in faults],
        unkept=entry.unkept,
        said=entry.said,
        struck=entry.struck,
        sides=sides_of(bench, reckoned, newest),
        newest=_newest(bench, newest, judged) if newest and judged else None,
        lines=[_line(each, words, bench) for each in reversed(log)],
        slots=slots_of(desk.settings),
        told=told,
        confirm=entry.confirm,
        like=like(desk.settings),
        planned_angle=round(display.degrees(float(reckoned.state.angle))),
        leans="z" if float(reckoned.state.twist_now) >= 0 else "s",
        hung=display.hung,
        inches=desk.settings.inches,
        away=entry.away,
        spinner=desk.learned.spinner.name,
        crosswise=desk.settings.angle_from == "crosswise",
    )


def slots_of(settings: Settings) -> list[Choice]:
    """Return what lies between two slots of the person's card, thickest yarn first."""
    slots = slots_in(settings)
    return [Choice(f"between {low:g} and {high:g}", f"{low:g}–{high:g}") for low, high in pairwise(slots)]


def _newest(bench: Bench, newest: Noted[Sample], judged: Judged) -> Newest:
    display, lessons = bench.desk.display, bench.desk.learned.lessons
    weighed = lessons is not None and any(each.method == "weighed" for yarn in lessons.yarns for each in yarn.readings)
    return Newest(
        newest.id,
        sample_words(newest.record, display),
        tuple(reading_words(each, display) for each in judged.told),
        verdict_words(judged, newest.record, weighed, display),
        _take(bench, newest),
    )


def _take(bench: Bench, newest: Noted[Sample]) -> tuple[Both, ...]:
    """Return what would change; nothing where a sample is of another plan, or could not be made as one."""
    taken = bench.taken(newest)
    if taken is None:
        return ()
    try:
        before, after = (bench.desk.evaluator.read(each) for each in (bench.design, taken.design))
    except InputError:
        return ()
    return taken_words(before, after, bench.desk.display)


def _line(noted: Noted[Sample], words: dict[str, str], bench: Bench) -> Line:
    day = day_words(datetime.fromisoformat(noted.noted_at).astimezone())
    strand = words.get(noted.record.strand, GONE)
    said = sample_words(noted.record, bench.desk.display)
    return Line(noted.id, day, strand, said, noted.reference, noted.record.strand == bench.strand)
