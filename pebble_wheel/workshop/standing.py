"""How a run at the wheel stands: its drafts against what is wanted, the metres made, and what is wrong."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.making.live import Watch, watch
from pebble_wheel.mechanics.making.wheel import treadles

WATCHED = 400
"""Drafts that are watched, the last."""


@dataclass(frozen=True)
class Drafted:
    """One draft, as a counter told it."""

    turns: float
    mm: float | None
    way: Literal["Z", "S"] | None


@dataclass(frozen=True)
class Standing:
    """How a run stands."""

    drafts: int
    in_hand: float
    """Turns in the draft in hand."""
    wants: float
    """Turns that a draft wants."""
    metres: float
    turns: float
    watched: Watch
    wrong_way: bool


def standing_of(
    drafts: Sequence[Drafted],
    in_hand: float,
    way: Literal["Z", "S"] | None,
    turns: float,
    wanted: float,
    direction: Literal["Z", "S"],
    draft_mm: float,
    ratio: float,
) -> Standing:
    """Return how a run stands.

    Args:
        drafts: that were made.
        in_hand: turns since the last one.
        way: of turning, where the counter tells it.
        turns: all of them.
        wanted: twist, turns/m.
        direction: of the twist wanted.
        draft_mm: length of a draft where the counter tells none.
        ratio: turns that a beat puts in.
    """
    lengths = np.array([each.mm or draft_mm for each in drafts])
    counted = np.array([each.turns for each in drafts])
    twists = 1000 * counted / lengths if drafts else np.array([])
    half = 0.5 / max(float(treadles(draft_mm / 1000, wanted, ratio)), 1.0)
    turned = bool(in_hand or drafts) and way is not None and way != direction
    return Standing(
        len(drafts),
        in_hand,
        wanted * draft_mm / 1000,
        float(lengths.sum()) / 1000,
        turns,
        watch(twists[-WATCHED:], wanted, half),
        turned,
    )


def draft_for_whole_beats(turns_per_m: float, draft: float, ratio: float) -> tuple[int, float]:
    """Return the whole beats nearest to a draft [m], and the draft that makes them exact."""
    count = max(round(float(treadles(draft, turns_per_m, ratio))), 1)
    return count, count * ratio / turns_per_m
