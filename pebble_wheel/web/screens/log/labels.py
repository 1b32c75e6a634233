"""Labels for the skeins of a yarn: of those that were measured washed, else of the yarn as it is planned."""

from datetime import UTC, datetime

from pebble_wheel.drawing.labels import Label
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.record import Skein
from pebble_wheel.store.records import Noted
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.wording.labels import LIFE, skein_lines
from pebble_wheel.wording.names import structure_words
from pebble_wheel.wording.thread import day_words


def labels_of(design: Design, skeins: list[Noted[Skein]], names: dict[str, str], desk: Desk) -> list[Label]:
    """Return a label for each skein that was measured washed, the last first; one of the plan where none was.

    Raises:
        InputError: where the yarn cannot be made.
    """
    reading = desk.evaluator.read(design, desk.settings)
    washed = [each for each in reversed(skeins) if each.record.stage == "finished" and not each.record.wet]
    if not washed:
        day = day_words(datetime.now(UTC).astimezone())
        return [_label(design, reading, None, day, "", desk)]
    return [
        _label(
            *(design, reading, each.record, day_words(datetime.fromisoformat(each.noted_at).astimezone())),
            *(names.get(each.spinner, "") if len(names) > 1 else "", desk),
        )
        for each in washed
    ]


def _label(design: Design, reading: Reading, skein: Skein | None, day: str, by: str, desk: Desk) -> Label:
    wraps = skein.relaxed_wraps if skein and skein.relaxed_wraps else reading.wpi_finished.p50
    lines = skein_lines(structure_words(design.yarn), design, reading, skein, wraps, day, by, desk.display)
    return Label(design.name, tuple(lines), INCH / wraps, LIFE)
