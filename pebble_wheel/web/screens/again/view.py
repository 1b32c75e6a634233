"""What is shown of a yarn that is spun again."""

from dataclasses import dataclass

from markupsafe import Markup

from pebble_wheel.drawing.yarn import hanging_scale, hanging_svg
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.log import Again
from pebble_wheel.notation.sample import Sample, strand_of
from pebble_wheel.store.records import Noted
from pebble_wheel.web.shared.again import aimed
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.bench import Bench, SideBySide, to_match
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.web.shared.yarn import view_of
from pebble_wheel.wording.again import asked_words
from pebble_wheel.wording.sampling import THE_YARN, strand_words


@dataclass(frozen=True)
class Old:
    """The yarn that is spun again."""

    number: int
    design: Design
    samples: list[Noted[Sample]]


@dataclass(frozen=True)
class Hung:
    """One of the two yarns, drawn."""

    label: str
    picture: Markup
    structure: str
    facts: str


@dataclass(frozen=True)
class AgainView:
    """The page."""

    number: int
    name: str
    thread: Thread
    of: str
    old: int | None
    """Number of the old yarn; None where it is not on the shelf."""
    yarns: list[Hung]
    done: tuple[str, ...]
    left: tuple[str, ...]
    asked: list[str]
    fibre: tuple[tuple[str, str], ...]
    settings: list[tuple[str, str]]
    """How the wheel was set, by strand."""
    matched: SideBySide | None
    """The sample of the old yarn to match."""


def view_of_again(number: int, design: Design, record: Again, old: Old | None, thread: Thread, desk: Desk) -> AgainView:
    """Return what the page shows."""
    told = aimed(number, design, record, desk)
    return AgainView(
        number,
        design.name,
        thread,
        record.name,
        old.number if old else None,
        _hung([*([(record.name, old.design)] if old else []), (design.name, design)], desk),
        record.done,
        record.left,
        asked_words(told.asked, told.aimed_mm, told.spin_mm, desk.display),
        record.fibre,
        [(_strand(design, path), said) for path, said in record.settings.items()],
        _matched(old, desk) if old else None,
    )


def _hung(yarns: list[tuple[str, Design]], desk: Desk) -> list[Hung]:
    """Return yarns hanging side by side at one scale; one that cannot be made any more is left out."""
    seen = []
    for label, design in yarns:
        try:
            seen.append((label, view_of(desk.evaluator, design, desk.display)))
        except InputError:
            continue
    scale = hanging_scale(each.reading.made for _, each in seen)
    return [
        Hung(
            label,
            Markup(hanging_svg(each.reading.made, each.dress, f"again{place}", label, scale, fine=True)),
            each.structure,
            f"{each.verdict}, {desk.display.wpi_range(each.reading.wpi_finished)}",
        )
        for place, (label, each) in enumerate(seen)
    ]


def _strand(design: Design, path: str) -> str:
    try:
        return strand_words(strand_of(design, path)) if path != "yarn" else THE_YARN
    except InputError:
        return THE_YARN


def _matched(old: Old, desk: Desk) -> SideBySide | None:
    reference = next((each for each in old.samples if each.reference), None)
    if reference is None:
        return None
    own = [each for each in old.samples if each.record.strand == reference.record.strand]
    try:
        return to_match(Bench(old.number, old.design, reference.record.strand, desk, own))
    except InputError:
        return None
