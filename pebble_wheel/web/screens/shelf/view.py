"""What the shelf shows: a page of cards, one for each design."""

from dataclasses import dataclass
from urllib.parse import urlencode

from pebble_wheel.notation.faults import Fault
from pebble_wheel.store.designs import Damaged, Kept, PutAway
from pebble_wheel.store.pictures import Small
from pebble_wheel.web.shared.small import content_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import structure_words
from pebble_wheel.wording.texture import along_words

A_PAGE, MOST_AWAY = 24, 40
"""Cards on one page, and names of designs put away."""


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
    picture: str
    """Address of the small picture."""
    structure: str
    facts: str
    """How it rests and how thick it is; empty until its picture has been made once."""
    designation: str
    fault: NameFault | None


@dataclass(frozen=True)
class Found:
    """What was looked for, and what part of it is shown."""

    words: str
    page: int
    count: int
    away: int
    """How many designs are put away in all."""

    @property
    def pages(self) -> int:
        """How many pages there are, one at the least."""
        return max(1, -(-self.count // A_PAGE))

    @property
    def before(self) -> str:
        """Address of the page before; empty on the first."""
        return self._address(self.page - 1) if self.page > 1 else ""

    @property
    def after(self) -> str:
        """Address of the page after; empty on the last."""
        return self._address(self.page + 1) if self.page < self.pages else ""

    def _address(self, page: int) -> str:
        return "/?" + urlencode({"q": self.words, "page": page} if self.words else {"page": page})


@dataclass(frozen=True)
class ShelfView:
    """The page."""

    found: Found
    cards: list[Card | Damaged]
    put_away: list[PutAway]
    gone: PutAway | None
    """The design just put away, with the way back."""
    file_faults: tuple[Fault, ...]


def view_of_shelf(
    found: Found,
    shelf: list[Kept | Damaged],
    away: list[PutAway],
    smalls: dict[str, Small],
    display: Display,
    gone: int | None = None,
    fault: NameFault | None = None,
    file_faults: tuple[Fault, ...] = (),
    known_by: str = "",
) -> ShelfView:
    """Return what the page shows."""
    return ShelfView(
        found,
        [each if isinstance(each, Damaged) else _card(each, smalls, display, known_by, fault) for each in shelf],
        away,
        next((each for each in away if each.id == gone), None),
        file_faults,
    )


def _card(kept: Kept, smalls: dict[str, Small], display: Display, known_by: str, fault: NameFault | None) -> Card:
    content = content_of(kept.design, known_by)
    small = smalls.get(content) or smalls.get(content_of(kept.design))  # until it was drawn anew, as for anybody
    return Card(
        id=kept.id,
        name=kept.design.name,
        picture=f"/designs/{kept.id}/small/{content}.svg",
        structure=along_words(kept.design, structure_words(kept.design.yarn)),
        facts=f"{small.verdict} · {display.wpi_range(small.wpi)} finished" if small else "",
        designation=small.designation if small else "",
        fault=fault if fault and fault.id == kept.id else None,
    )
