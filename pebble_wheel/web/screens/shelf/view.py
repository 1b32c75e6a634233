"""What the shelf shows: a card for each design."""

from dataclasses import dataclass

from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import small_svg
from pebble_wheel.notation.faults import Fault
from pebble_wheel.store.designs import Kept
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.wording import titles
from pebble_wheel.wording.names import structure_words, verdict_words
from pebble_wheel.workshop.lines import designation_of


@dataclass(frozen=True)
class NameFault:
    """A new name that a design cannot have."""

    id: int
    typed: str
    message: str


@dataclass(frozen=True)
class Card:
    """One design on the shelf."""

    id: int
    name: str
    drawing: Markup
    structure: str
    verdict: str
    size: str
    designation: str
    fault: NameFault | None


@dataclass(frozen=True)
class PutAway:
    """One design put away."""

    id: int
    name: str


@dataclass(frozen=True)
class ShelfView:
    """The page."""

    cards: list[Card]
    put_away: list[PutAway]
    gone: PutAway | None
    """The design just put away, with the way back."""
    file_faults: tuple[Fault, ...]


def view_of_shelf(
    shelf: list[Kept],
    away: list[Kept],
    desk: Desk,
    gone: int | None = None,
    fault: NameFault | None = None,
    file_faults: tuple[Fault, ...] = (),
) -> ShelfView:
    """Return what the page shows."""
    put_away = [PutAway(each.id, each.design.name) for each in away]
    return ShelfView(
        [_card(each, desk, fault if fault and fault.id == each.id else None) for each in shelf],
        put_away,
        next((each for each in put_away if each.id == gone), None),
        file_faults,
    )


def _card(kept: Kept, desk: Desk, fault: NameFault | None) -> Card:
    design = kept.design
    reading = desk.evaluator.read(design)
    svg = small_svg(reading.made, dress_of(design.yarn), f"small{kept.id}", titles.kept(design.name))
    return Card(
        id=kept.id,
        name=design.name,
        drawing=Markup(svg),
        structure=structure_words(design.yarn),
        verdict=verdict_words(reading.balance.verdict, design.yarn),
        size=desk.display.wpi_range(reading.wpi_finished),
        designation=designation_of(design, reading),
        fault=fault,
    )
