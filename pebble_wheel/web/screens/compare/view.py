"""What is shown of yarns side by side."""

from dataclasses import dataclass

from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.notation.design import Design
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.compare import Beside, Compared, Line, side_by_side
from pebble_wheel.web.shared.yarn import view_of
from pebble_wheel.wording.compare import NOT_MEASURED, measured_label, measured_words
from pebble_wheel.workshop.learn import Noted
from pebble_wheel.workshop.measured import Measured, Of, apart, measured_of

FEWEST, MOST = 2, 4


@dataclass(frozen=True)
class Laid:
    """A yarn laid beside others."""

    key: str
    name: str
    design: Design
    samples: list[Noted]


@dataclass(frozen=True)
class CompareView:
    """The page; nothing is laid where fewer than two yarns were named."""

    compared: Compared | None = None
    measured: tuple[Line, ...] = ()
    """Of each figure that was measured of any of them."""
    yarns: tuple[tuple[str, str], ...] = ()
    """Address and name of each."""
    more: bool = False
    """Whether more were named than can be laid."""


def view_of_compare(laid: list[Laid], more: bool, desk: Desk) -> CompareView:
    """Return what the page shows."""
    beside = [Beside(each.key, each.name, view_of(desk.evaluator, each.design, desk.display), {}) for each in laid]
    rod, memory = Constants().rod, desk.learned.reckoned
    found = [measured_of(each.samples, rod, memory) for each in laid]
    outcomes = list(dict.fromkeys(of for each in found for of in each))
    return CompareView(
        side_by_side(beside),
        tuple(_line(of, [each.get(of) for each in found], desk) for of in outcomes),
        tuple((_address(each.key), each.name) for each in laid),
        more,
    )


def _line(of: Of, several: list[Measured | None], desk: Desk) -> Line:
    first = next(each for each in several if each)
    values = tuple(measured_words(each, desk.display) if each else NOT_MEASURED for each in several)
    differs = tuple(each is not None and each is not first and apart(each, first) for each in several)
    return Line(measured_label(of), values, differs)


def _address(key: str) -> str:
    number, _, which = key.partition("v")
    return f"/designs/{number}/versions/{which}" if which else f"/designs/{number}"
