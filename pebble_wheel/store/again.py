"""A yarn of the shelf spun again: a new design of an old one, with what was learned since."""

import sqlite3
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

from pebble_wheel.mechanics.learning.model import Lessons
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.notation.again import Wish, read_wishes
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.draft import draft_of, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.log import Again, NextTime, Planned, Record
from pebble_wheel.notation.plan import for_another
from pebble_wheel.notation.sample import Asked, Sample
from pebble_wheel.store import designs, lots, records
from pebble_wheel.store.database import transaction
from pebble_wheel.store.designs import AS_A_FILE
from pebble_wheel.wording.again import named_again, settings_words
from pebble_wheel.workshop.again import Corrected, InHand, corrected, of_lots, with_wishes
from pebble_wheel.workshop.evaluator import Evaluator


@dataclass(frozen=True)
class Known:
    """What is known of who spins it again."""

    spinner: str
    now: Lessons
    then: Lessons
    """When the old yarn was planned."""


def spin_again(connection: sqlite3.Connection, number: int, known: Known, evaluator: Evaluator) -> int:
    """Put a new yarn of an old one on the shelf and return its number.

    It is of the same lots or the nearest in hand, with what was noted for the next time as far as that can be done; its
    log begins with what to aim for, how the wheel was set, and what else was noted. What was planned goes along.

    Raises:
        NotKeptError: where the old one is not on the shelf.
        DamagedError: where it cannot be read.
        InputError: where it cannot be made.
    """
    old = designs.find(connection, number)
    log = [each for each in records.entries(connection, number) if isinstance(each, records.Noted)]
    owned = [InHand(each.lot, each.left) for each in lots.usable(connection)]
    design, fibre = of_lots(old.design, owned)
    wishes, left = _wishes(log)
    found = with_wishes(design, wishes, evaluator)
    uid = _uid(connection, number)
    name = named_again(old.design.name, len(find_again(connection, uid)))
    plain, made = (each.model_copy(update={"name": name}) for each in (design, found.design))
    told = _corrected(made, known)
    record = Again(
        uid,
        old.design.name,
        designs.begun_at(connection, number),
        told.asked,
        told.aimed_mm,
        told.spin_mm,
        tuple(each.said for each in found.done),
        tuple(each for each in (*(each.said for each in found.left), *left.split("; ")) if each),
        fibre,
        _settings(log),
    )
    planned = records.plan(connection, number)
    with transaction(connection):
        anew = designs.keep_new(connection, plain, _typed(plain))
        designs.keep(connection, anew, made, _typed(made))  # as it was stays an earlier version
        records.note(connection, anew, record, known.spinner)
        if planned is not None:
            kept = for_another(planned.record.typed, [each.lot.fibre.lot or "" for each in owned])
            records.keep_plan(connection, anew, Planned(kept, {}), known.spinner)
    return anew


def _typed(design: Design) -> str:
    return AS_A_FILE if design.sections else write_draft(draft_of(design))


def find_again(connection: sqlite3.Connection, uid: str) -> list[int]:
    """Return the designs that are another one spun again, put away ones too, the first first."""
    rows = connection.execute(
        """SELECT design FROM entry WHERE kind = 'again' AND json_extract(body, '$.of') = ? AND deleted_at IS NULL
        ORDER BY noted_at""",
        (uid,),
    )
    return [row[0] for row in rows]


def anew(connection: sqlite3.Connection, number: int) -> list[tuple[int, str]]:
    """Return the designs on the shelf that are another one spun again, by number and name."""
    found = []
    for each in find_again(connection, _uid(connection, number)):
        with suppress(designs.NotKeptError):
            found.append((each, designs.name_of(connection, each)))
    return found


def of_uid(connection: sqlite3.Connection, uid: str) -> int | None:
    """Return the number of a design by its uid; None where it is not on the shelf."""
    row = connection.execute("SELECT id FROM design WHERE uid = ? AND deleted_at IS NULL", (uid,)).fetchone()
    return int(row[0]) if row else None


def _uid(connection: sqlite3.Connection, number: int) -> str:
    return str(connection.execute("SELECT uid FROM design WHERE id = ?", (number,)).fetchone()[0])


def _wishes(log: Sequence[records.Noted[Record]]) -> tuple[tuple[Wish, ...], str]:
    """Return what was noted for the next time; of two notes on one thing the later counts."""
    noted = [each.record.words for each in log if isinstance(each.record, NextTime)]
    wishes, left = read_wishes("; ".join(reversed(noted)))
    return wishes, left


def _corrected(design: Design, known: Known) -> Corrected:
    try:
        return corrected(design, known.now, known.then, Constants().rod)
    except (InputError, NoBalanceError):
        return Corrected(Asked(), None, None)


def _settings(log: Sequence[records.Noted[Record]]) -> dict[str, str]:
    """Return how the wheel was set for each strand: as for the sample to match, else as last noted."""
    found: dict[str, str] = {}
    samples = [(each.reference, each.record) for each in log if isinstance(each.record, Sample)]
    for _, sample in sorted(samples, key=lambda each: each[0]):
        said = settings_words(sample)
        if said:
            found[sample.strand] = said
    return found
