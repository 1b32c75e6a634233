"""Fibre in hand, in words."""

from pebble_wheel.mechanics.fibre.packing import Draw
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.notation.design import FibreModel
from pebble_wheel.notation.lot import LotModel
from pebble_wheel.wording.display import Display

FITNESS: tuple[tuple[float, str], ...] = (
    (21.0, "soft enough next to the skin"),
    (25.0, "next to most skins; outer wear"),
    (31.0, "outer wear"),
    (float("inf"), "hard wear: rugs, bags, cords"),
)
"""By fibre diameter, µm, up to which it is fit: common practice, no source."""

NOT_KNOWN = "not known"
OWN_FIBRE = "own fibre, as the file says"
"""One that is given in place, and is no lot on the shelf."""

DRAW_WORDS: dict[Draw, str] = {"short": "short", "long": "long", "fold": "from the fold"}


def fitness(fibre: FibreModel) -> str:
    """Return what a fibre is fit for, by how fine it is."""
    middle = sum(fibre.micron) / 2
    return next(words for most, words in FITNESS if middle <= most)


def fibre_words(fibre: FibreModel) -> str:
    """Return how fine and how long a fibre is, and what it is of."""
    of = " and ".join(f"{100 * each.share:.0f} % {FIBRES[each.fibre].name}" for each in fibre.shares or ())
    fine = f"{_ends(fibre.micron)} µm"
    return " · ".join(each for each in (of, fine) if each)


def staple_words(fibre: FibreModel, display: Display) -> str:
    """Return how long the fibres are."""
    low, high = (display.span(each) for each in fibre.staple)
    return low if low == high else f"{low.split()[0]}–{high}"


def left_words(lot: LotModel, used: float, display: Display) -> str:
    """Return what is left of a lot."""
    if lot.grams is None:
        return "not weighed"
    left = max(lot.grams - used, 0.0)
    return display.grams(left) if not used else f"{display.grams(left)} left of {display.grams(lot.grams)}"


def _ends(ends: list[float]) -> str:
    return f"{ends[0]:.3g}" if ends[0] == ends[1] else f"{ends[0]:.3g}–{ends[1]:.3g}"
