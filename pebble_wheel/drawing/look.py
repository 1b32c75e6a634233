"""What the eye sees of a fibre: how it lies, shines, crimps and stands off. A picture, not a measurement (assumed)."""

from dataclasses import dataclass, replace
from typing import assert_never

from pebble_wheel.mechanics.fibre.packing import Character, character, usual_draw
from pebble_wheel.mechanics.fibre.table import Family, Fibre
from pebble_wheel.mechanics.strand.state import LeafState, State
from pebble_wheel.mechanics.strand.structure import Bought, Hand, Locks, Nature, Single, wrap_of

CARDED: dict[Character, float] = {"worsted": 0.0, "semi": 0.5, "woollen": 1.0}
"""How much the fibres cross, from combed to carded."""

LUSTRE: dict[Family, float] = {
    "wool": 0.42,
    "hair": 0.42,
    "down": 0.2,
    "silk": 1.0,
    "plant": 0.3,
    "regenerated": 0.7,
    "synthetic": 0.5,
}
"""Of a fibre that does not bloom: wool that does is the duller for it, fine merino least of all."""

DULL = 1.05
"""Lustre that a wool loses by its bloom number."""

STANDS_OFF: dict[Nature, float] = {"smooth": 0.0, "hairy": 1.0, "looped": 1.0}
"""How much of a thread in hand stands off it."""


TIPS: dict[Locks, float] = {"none": 0.0, "caught": 0.8, "free": 1.0}
LOFTY: dict[Hand, float] = {"even": 0.0, "closed": 0.0, "open": 0.3}
LOOPS = 0.35
"""How much of a wrap stands off by its locks and by an open hand, and how much of that curls."""


@dataclass(frozen=True)
class Look:
    """The look of a strand's fibres."""

    carded: float
    """0 combed, 1 carded and drawn long."""
    micron: float
    crimp: float
    """Crimps to a cm as grown."""
    lustre: float
    """0 to 1."""
    hairs: float = 0.0
    """How much stands off by nature, 0 to 1."""
    looped: float = 0.0
    """Share of that in loops."""


def look_of(now: State) -> Look:
    """Return the look of a strand; of several the first one's, of a core-spun yarn its wrap's."""
    if not isinstance(now, LeafState):
        wrap = wrap_of(now.node)
        if wrap is None:
            return look_of(now.seats[0].state)
        plain = _of_fibre(wrap.fibre, CARDED[character(wrap.prep, usual_draw(wrap.prep))])
        return replace(
            plain, hairs=max(TIPS[wrap.locks], LOFTY[wrap.hand]), looped=LOOPS if wrap.locks != "none" else 0.0
        )
    match now.node:
        case Single():
            return _of_fibre(now.node.fibre, CARDED[now.node.character])
        case Bought():
            nature = now.node.nature
            plain = Look(0.0, 24.0, 0.0, 0.3) if now.node.fibre is None else _of_fibre(now.node.fibre, 0.0)
            looped = 1.0 if nature == "looped" else 0.0
            return Look(plain.carded, plain.micron, plain.crimp, plain.lustre, STANDS_OFF[nature], looped)
        case _:
            assert_never(now.node)


def _of_fibre(fibre: Fibre, carded: float) -> Look:
    return Look(carded, fibre.mid_micron, sum(fibre.crimp) / 2, lustre(fibre))


def lustre(fibre: Fibre) -> float:
    """Return how much a fibre shines, 0 to 1: of a blend the mean by mass."""
    if fibre.shares:
        return sum(share * lustre(each) for each, share in fibre.shares)
    dulled = DULL * fibre.bloom if fibre.family in ("wool", "hair") else 0.0
    return max(LUSTRE[fibre.family] - dulled, 0.05)
