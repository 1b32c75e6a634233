"""A yarn that changes along its length, read: each section by itself, and the whole."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Hands, steps_of
from pebble_wheel.mechanics.making import sequence
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.mechanics.strand.structure import Wrapped
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import (
    BoughtModel,
    Design,
    NodeModel,
    SectionModel,
    Sections,
    SingleModel,
    WrapModel,
    WrappedModel,
    walk,
)
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.gestures import STANDS_OFF, gesture_in, in_order, locks, neighbours
from pebble_wheel.workshop.lines import lines_of

PACKED = 0.95
"""Coverage from which on coils touch."""


@dataclass(frozen=True)
class Part:
    """One section, read."""

    section: SectionModel
    times: int
    design: Design
    """Of its structure alone."""
    reading: Reading
    packed: bool
    """Whether it is of coils that touch."""
    locked: bool
    """Whether nothing in it can slide: it has no coils that stand off, or bobbles at both ends."""

    @property
    def metres(self) -> float:
        """Of yarn, all times together."""
        return self.section.length_mm * self.times / 1000


@dataclass(frozen=True)
class Member:
    """A strand that runs through the sequence, on one bobbin."""

    model: SingleModel | BoughtModel | WrapModel
    metres: float
    grams: float


@dataclass(frozen=True)
class Along:
    """A yarn that changes along its length."""

    yarn: NodeModel
    """As it is constructed, of which all sections are that have none of their own."""
    plain: Reading
    """Of that."""
    pieces: Sections
    """As the design has them."""
    parts: tuple[Part, ...]
    whole: sequence.Sequence
    members: tuple[Member, ...]
    hours: float


def read_along(design: Design, evaluator: Evaluator, settings: Settings, hands: Hands) -> Along:
    """Return a sequence read; of a yarn of one structure that alone.

    Raises:
        InputError: where a section cannot be made.
    """
    sections: Sections = design.sections or [SectionModel(length_mm=1000.0)]
    parts, keys, used = [], dict[str, SingleModel | BoughtModel | WrapModel](), list[dict[str, float]]()
    for section, times in in_order(sections):
        alone = design.model_copy(update={"version": 1, "sections": None, "yarn": section.yarn or design.yarn})
        reading = evaluator.read(alone, settings)
        beside = neighbours(sections, section)
        packed = _packed(reading)
        parts.append(Part(section, times, alone, reading, packed, _locked(section, packed, beside)))
        like = gesture_in(section.yarn, design)
        own = _used(alone, reading, design if like and like[0] in ("plain", "thick") else alone)
        keys |= {key: model for key, (model, _) in own.items()}
        used.append({key: metres for key, (_, metres) in own.items()})
    table = np.array([[each.get(key, 0.0) for key in keys] for each in used])
    whole = sequence.laid_out(
        np.array([each.section.length_mm / 1000 for each in parts]),
        np.array([float(each.times) for each in parts]),
        np.array([each.reading.resultant_tex for each in parts]),
        table,
    )
    members = tuple(
        Member(model, float(metres), float(metres) * _tex(model) / 1000)
        for model, metres in zip(keys.values(), whole.used, strict=True)
    )
    plain = design.model_copy(update={"version": 1, "sections": None})
    return Along(
        design.yarn,
        evaluator.read(plain, settings),
        sections,
        tuple(parts),
        whole,
        members,
        sum(each.metres * step.hours for each in parts for step in steps_of(each.reading.levels, hands)),
    )


def bobbin_key(model: SingleModel | BoughtModel | WrapModel) -> str:
    """Return by what strands are told apart that come off one kind of bobbin: whatever their colours."""
    plain = {"colours": None, "colour_run_m": None, "colour_lengths_m": None}
    return model.model_copy(update=plain if isinstance(model, WrapModel) else plain | {"count": 1}).model_dump_json()


def times_plain(along: Along) -> dict[str, float]:
    """Return how much more of each strand a metre of the sequence takes than one of the yarn as it is constructed."""
    as_constructed = along.parts[0].design.model_copy(update={"yarn": along.yarn})
    plain = _used(as_constructed, along.plain, as_constructed)
    return {
        key: member.metres / along.whole.metres / plain[key][1]
        for member in along.members
        if (key := bobbin_key(member.model)) in plain
    }


def _used(
    design: Design, reading: Reading, meant: Design
) -> dict[str, tuple[SingleModel | BoughtModel | WrapModel, float]]:
    """Return the metres of every strand in a metre of a section, as heavy as it is meant, by kind of bobbin.

    Args:
        design: the section by itself.
        reading: of it.
        meant: whose strands it is of; a thick place is of the same single as the thin ones.
    """
    strands = {path: model for path, _, model in walk(meant.yarn)}
    found: dict[str, tuple[SingleModel | BoughtModel | WrapModel, float]] = {}
    totals: dict[Address, int] = {}
    for line in lines_of(design, reading):
        many = line.count * totals.get(line.path.above, 1)
        totals[line.path] = totals.get(line.path, 0) + many
        grams = many * line.level.grams_per_100_m / 100
        model, own = line.node, strands.get(line.path, line.node)
        if isinstance(model, SingleModel | BoughtModel) and isinstance(own, SingleModel | BoughtModel):
            key = bobbin_key(own)
            before = found.get(key, (own, 0.0))[1]
            found[key] = (own, before + 1000 * grams / own.tex)
        elif model.kind == "core-spun" and isinstance(line.level.now, NestState):
            strip = kinds.core_spun(line.level.now).wrap_grams_per_m * line.level.metres_per_metre * many
            key = bobbin_key(model.wrap)
            found[key] = (model.wrap, found.get(key, (model.wrap, 0.0))[1] + 1000 * strip / model.wrap.strip_tex)
    return found


def _tex(model: SingleModel | BoughtModel | WrapModel) -> float:
    return model.strip_tex if isinstance(model, WrapModel) else model.tex


def _packed(reading: Reading) -> bool:
    state = reading.made.state
    if not isinstance(state, NestState) or not isinstance(state.node, Wrapped):
        return False
    return kinds.wrapped(state).coverage >= PACKED


def _locked(section: SectionModel, packed: bool, beside: Sequence[SectionModel]) -> bool:
    """Return whether what a section has stays where it is."""
    model = section.yarn
    loose = isinstance(model, WrappedModel) and (packed or model.overfeed >= STANDS_OFF)
    if not loose or locks(section):
        return True
    return len(beside) > 1 and all(locks(each) for each in beside)
