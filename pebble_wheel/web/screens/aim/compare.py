"""Yarns that are pinned side by side, with what each is good for."""

from pebble_wheel.notation.design import Design
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.compare import Beside, Compared, side_by_side
from pebble_wheel.web.shared.yarn import view_of
from pebble_wheel.wording.merits import MERITS
from pebble_wheel.workshop.aim import Candidate


def compared(yarns: list[tuple[str, Candidate, Design]], desk: Desk) -> Compared:
    """Return several yarns side by side, drawn at one scale, each with its pin."""
    return side_by_side(
        [
            Beside(pin, design.name, view_of(desk.evaluator, design, desk.display), _merits(found))
            for pin, found, design in yarns
        ]
    )


def _merits(found: Candidate) -> dict[str, str]:
    if not found.judged:
        return {}
    return {MERITS[aspect].words: f"{100 * merit.score:.0f} of 100" for aspect, merit in found.judged.merits.items()}
