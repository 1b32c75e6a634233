"""Eighteen months of the yarn room: what two invented spinners sampled, weighed and washed, from a truth kept apart.

The truth is a spinner's own factors, drawn from a seed in the model's own way, and put into the mechanics; what was
measured of it is read off with the noise of each way of measuring. Two readings are slips of the pen. What learns from
them knows nothing of the truth.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Literal, Protocol, TypedDict

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.learning.factors import FACTORS, GROUP, SPINNER, YARN, Column, Group, columns_of
from pebble_wheel.mechanics.learning.noise import OWN_ERROR, Method, noise_of, scatter
from pebble_wheel.mechanics.learning.outcomes import Outcome, reckon, told
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.strand.structure import Node, Single
from pebble_wheel.notation.design import Design, finish_of
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.units import Stage
from pebble_wheel.workshop.learn import node_of

SEED = 18
BEGUN = datetime(2025, 3, 2, 17, 30, tzinfo=UTC)

OWN = np.array([0.07, -0.05, 0.06, 0.16, 0.02, 0.01, 0.10, 0.0])
"""What the first spinner does always: a little thick, a little less twist than meant, plies firmly, packs loosely."""

CARD_BIAS = 0.22
"""By which the second spinner's card reads thick, a logarithm."""


@dataclass
class Hand:
    """An invented spinner, whose truth nobody else knows."""

    rng: np.random.Generator
    own: FloatArray
    biases: dict[Method, float] = field(default_factory=dict)
    groups: dict[Group, FloatArray] = field(default_factory=dict)
    errors: dict[tuple[Group, Outcome], float] = field(default_factory=dict)

    def yarn(self, node: Node) -> dict[Column, float]:
        """Return the factors of a new yarn of a structure."""
        found: dict[Column, float] = {}
        for factor, group in columns_of(node):
            kept = self.groups.setdefault(group, self.rng.normal(0, GROUP))
            place = FACTORS.index(factor)
            found[(factor, group)] = float(self.own[place] + kept[place] + self.rng.normal(0, YARN[place]))
        return found

    def measure(
        self, node: Node, design: Design, factors: dict[Column, float], outcome: Outcome, method: Method, places: int
    ) -> float:
        """Return a figure of a strand as it is measured."""
        reckoned = reckon(node, Constants().rod, finish_of(design), [outcome])
        value = reckoned.middle[outcome]
        for column, lean in zip(reckoned.columns, reckoned.leans[outcome], strict=True):
            value += float(lean) * factors.get(column, 0.0)
        group = reckoned.columns[0][1]
        value += self.errors.setdefault((group, outcome), self.rng.normal(0, OWN_ERROR[outcome]))
        value += self.biases.setdefault(method, self.rng.normal(0, noise_of(outcome, method).bias / 2))
        value += self.rng.normal(0, scatter(outcome, method, places, isinstance(node, Single)))
        return told(outcome, value)


@dataclass(frozen=True)
class Event:
    """Something noted of a design."""

    design: str
    record: Sample | Skein
    at: str
    second: bool = False
    """Whether by the second spinner."""
    reference: bool = False


@dataclass(frozen=True)
class Made:
    """A yarn of the trail: of which design, on which day, and what was measured."""

    design: str
    single: str
    """Address of the single that was sampled."""
    day: int
    counted: bool = False
    folded: bool = True
    weighed: float = 0.0
    """Grams of the skein."""
    washed: bool = False
    leans: bool = False
    slip: Literal["", "wraps", "fold"] = ""
    reference: bool = False


FIRST: tuple[Made, ...] = (
    Made("Stage-door mittens", "yarn.strands[0]", 0, weighed=82.0),
    Made("Hedgehog's soft waistcoat", "yarn.strands[0]", 31, weighed=96.0, washed=True),
    Made("Fisher's jersey", "yarn.strands[0]", 66, counted=True, leans=True),
    Made("Stage-door mittens", "yarn.strands[0]", 95, slip="wraps"),
    Made("Fisher's jersey", "yarn.strands[0]", 120, counted=True, weighed=110.0, washed=True),
    Made("Stage-door mittens", "yarn.strands[0]", 158, leans=True),
    Made("Hedgehog's soft waistcoat", "yarn.strands[0]", 190, weighed=74.0),
    Made("Fisher's jersey", "yarn.strands[0]", 231, weighed=104.0, slip="fold"),
    Made("Stage-door mittens", "yarn.strands[0]", 268, counted=True, weighed=60.0, washed=True),
    Made("Stage-door mittens", "yarn.strands[0]", 301, weighed=71.0),
    Made("Fisher's jersey", "yarn.strands[0]", 352, counted=True, leans=True),
    Made("Hedgehog's soft waistcoat", "yarn.strands[0]", 395, counted=True, weighed=88.0, washed=True),
    Made("Fisher's jersey", "yarn.strands[0]", 440, counted=True, reference=True),
    Made("Fisher's jersey", "yarn.strands[0]", 540, counted=True, leans=True),
)

SECOND: tuple[tuple[str, str, int], ...] = (
    ("Stage-door mittens", "yarn.strands[0]", 410),
    ("Fisher's jersey", "yarn.strands[0]", 455),
    ("Stage-door mittens", "yarn.strands[0]", 500),
)


class _Measuring(Protocol):
    def __call__(self, outcome: Outcome, method: Method, places: int, strand: Node) -> float: ...


def first_spinner(designs: dict[str, Design]) -> tuple[Hand, list[Event]]:
    """Return the first spinner with their truth, and what they noted."""
    hand = Hand(np.random.default_rng(SEED), OWN)
    return hand, [event for each in FIRST for event in _noted(hand, each, designs[each.design])]


def trail(designs: dict[str, Design]) -> Iterator[Event]:
    """Yield what was noted over eighteen months, of designs by their names."""
    first, events = first_spinner(designs)
    yield from events
    rng = first.rng
    second = Hand(rng, rng.normal(0, SPINNER), {"card": CARD_BIAS})
    for name, path, day in SECOND:
        node = node_of(designs[name], path, Constants().rod)
        thick = second.measure(node, designs[name], second.yarn(node), "thick", "card", 1)
        low, high = _slots(INCH / thick)
        mm, off = INCH / (low * high) ** 0.5, float(np.log(high / low) / np.sqrt(12))
        record = Sample(path, thick_mm=mm, thick_off=off, thick_by="card", fold_word="right")
        yield Event(name, record, _when(day), second=True)


class _Set(TypedDict, total=False):
    ratio: float
    brake: str
    hand: str
    tied: str


SET: _Set = {
    "ratio": 9.0,
    "brake": "two turns of the peg",
    "hand": "long draw, right hand back",
    "tied": "card 3, blue tin",
}
"""How the wheel was set when the sample to match was spun, and where that is tied."""


def _noted(hand: Hand, made: Made, design: Design) -> Iterator[Event]:
    rod = Constants().rod
    node, whole = node_of(design, made.single, rod), node_of(design, "yarn", rod)
    factors = hand.yarn(whole)

    def of(outcome: Outcome, method: Method, places: int, strand: Node) -> float:
        return hand.measure(strand, design, factors, outcome, method, places)

    thick = of("thick", "wraps", 5, node)
    fold = of("fold", "fold", 4, node) if made.folded else None
    sample = Sample(
        made.single,
        places=4,
        thick_mm=INCH / round(INCH / thick, 1) * (1.8 if made.slip == "wraps" else 1.0),
        fold_turns=fold and round(fold) * (0.45 if made.slip == "fold" else 1.0),
        turns_per_m=round(of("turns", "count", 1, node)) if made.counted else None,
        angle=round(of("angle", "eye", 3, node)) if made.leans else None,
        **(SET if made.reference else _Set()),
    )
    yield Event(made.design, sample, _when(made.day), reference=made.reference)
    if made.weighed:
        yield Event(made.design, _skein(made, of, whole, "plied"), _when(made.day + 9))
    if made.washed:
        yield Event(made.design, _skein(made, of, whole, "finished"), _when(made.day + 12))


def _skein(made: Made, of: "_Measuring", whole: Node, stage: Stage) -> Skein:
    finished = stage == "finished"
    tex = of("finished tex" if finished else "tex", "weighed", 1, whole)
    thick = of("finished thick" if finished else "thick", "wraps", 3, whole)
    loop = of("loop", "fold", 1, whole)
    grams = made.weighed
    return Skein(
        stage, False, round(1000 * grams / tex), grams, round(INCH / thick, 1), "relaxed", round(2 * loop) / 2, ""
    )


def _slots(wraps: float) -> tuple[float, float]:
    slots = np.array([6, 8, 10, 12, 14, 18, 22, 26, 32, 40], float)
    place = int(np.clip(np.searchsorted(slots, wraps), 1, slots.size - 1))
    return float(slots[place - 1]), float(slots[place])


def _when(day: int) -> str:
    return (BEGUN + timedelta(days=day)).isoformat(timespec="milliseconds")
