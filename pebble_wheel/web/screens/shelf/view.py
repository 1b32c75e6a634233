"""What the shelf shows: a page of cards, one for each design."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from urllib.parse import urlencode

from pebble_wheel.notation.faults import Fault
from pebble_wheel.notation.log import Record
from pebble_wheel.store.designs import Damaged, Kept, PutAway
from pebble_wheel.store.pictures import Small
from pebble_wheel.store.records import Noted
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.small import content_of_kept
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import structure_words
from pebble_wheel.wording.search import HUES, STATE_WORDS, hit_words
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
    hits: tuple[str, ...]
    """Entries of its log in which a word was found."""
    fault: NameFault | None


@dataclass(frozen=True)
class Asked:
    """What was looked for, and what part of it is shown."""

    typed: dict[str, str]
    page: int
    count: int
    away: int
    """How many designs are put away in all."""
    narrowed: tuple[str, ...] = ()
    """What is looked for besides words, in words."""
    faults: dict[str, str] = field(default_factory=dict)
    years: tuple[Choice, ...] = ()
    weights: tuple[Choice, ...] = ()
    spinners: tuple[Choice, ...] = ()
    """None where only one person spins."""
    unknown: int = 0
    """Of how many designs it is not known yet, where it matters."""

    states = choices_of(STATE_WORDS)
    hues = choices_of(HUES)

    @property
    def asks(self) -> bool:
        """Whether anything is looked for."""
        return any(self.typed.values())

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
        return "/?" + urlencode({**{name: said for name, said in self.typed.items() if said}, "page": page})


@dataclass(frozen=True)
class ShelfView:
    """The page."""

    asked: Asked
    cards: list[Card | Damaged]
    put_away: list[PutAway]
    gone: PutAway | None
    """The design just put away, with the way back."""
    file_faults: tuple[Fault, ...]


def view_of_shelf(
    asked: Asked,
    shelf: list[Kept | Damaged],
    away: list[PutAway],
    smalls: dict[str, Small],
    hits: Mapping[int, Sequence[Noted[Record]]],
    display: Display,
    gone: int | None = None,
    fault: NameFault | None = None,
    file_faults: tuple[Fault, ...] = (),
    known_by: str = "",
) -> ShelfView:
    """Return what the page shows."""
    return ShelfView(
        asked,
        [
            each if isinstance(each, Damaged) else _card(each, smalls, hits.get(each.id, ()), display, known_by, fault)
            for each in shelf
        ],
        away,
        next((each for each in away if each.id == gone), None),
        file_faults,
    )


def _card(
    kept: Kept,
    smalls: dict[str, Small],
    hits: Sequence[Noted[Record]],
    display: Display,
    known_by: str,
    fault: NameFault | None,
) -> Card:
    content = content_of_kept(kept, known_by)
    small = smalls.get(content) or smalls.get(content_of_kept(kept))  # until it was drawn anew, as for anybody
    return Card(
        id=kept.id,
        name=kept.design.name,
        picture=f"/designs/{kept.id}/small/{content}.svg",
        structure=along_words(kept.design, structure_words(kept.design.yarn)),
        facts=f"{small.verdict} · {display.wpi_range(small.wpi)} finished" if small else "",
        designation=small.designation if small else "",
        hits=tuple(hit_words(each.record, each.noted_at) for each in hits),
        fault=fault if fault and fault.id == kept.id else None,
    )
