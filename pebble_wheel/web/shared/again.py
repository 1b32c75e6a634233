"""A yarn that is spun again, as every screen of it needs to know: how its spinner is to aim otherwise than planned."""

from pebble_wheel.mechanics.learning.model import learn
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.log import Again
from pebble_wheel.notation.sample import Asked
from pebble_wheel.store.again import Known
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.workshop.again import Corrected, corrected


def known_by(desk: Desk, moment: str) -> Known:
    """Return what is known of who is at the wheel, now and at a moment; nothing where that is not to count."""
    learned, nothing = desk.learned, learn([])
    if not learned.counted or learned.lessons is None:
        return Known(learned.spinner.uid, nothing, nothing)
    return Known(learned.spinner.uid, learned.lessons, learned.before(moment))


def aimed(number: int, design: Design, record: Again | None, desk: Desk) -> Corrected:
    """Return how to aim for a yarn that is spun again: as it was begun, put right by what was measured of it since."""
    if record is None:
        return Corrected(Asked(), None, None)
    begun = Corrected(record.asked, record.aimed_mm, record.spin_mm)
    piece = desk.learned.of_yarn(number, design)
    if piece is None:
        return begun
    others, then = desk.learned.without(number, design), desk.learned.before(record.planned_at)
    try:
        return corrected(design, others, then, Constants().rod, desk.learned.reckoned, piece)
    except (InputError, NoBalanceError):
        return begun
