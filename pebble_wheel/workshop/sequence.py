"""A yarn that changes along its length, read: each section by itself, and the whole."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Hands, steps_of
from pebble_wheel.mechanics.making import sequence
from pebble_wheel.mechanics.making.splitting import RunOut, run_out
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.running import POWERS, runs_to
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.mechanics.strand.structure import Wrapped
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import (
    BoughtModel,
    CoreSpunModel,
    Design,
    NodeModel,
    RepeatModel,
    SectionModel,
    Sections,
    SingleModel,
    WrapModel,
    WrappedModel,
    walk,
)
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.gestures import (
    RUNS,
    STANDS_OFF,
    alone,
    gesture_in,
    in_order,
    locks,
    meant_of,
    neighbours,
    single_of,
)
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
    hours: float
    """All times together."""
    locked: bool
    """Whether nothing in it can slide: it has no coils that stand off, or bobbles at both ends."""
    turned: tuple[float, float] | None = None
    """Between how much and how much of the twist that it is reckoned with its single may have, by how strongly twist
    runs from thick to thin; None where it is even, or does not lie all along."""

    @property
    def metres(self) -> float:
        """Of yarn, all times together."""
        return self.section.length_mm * self.times / 1000

    @property
    def grams(self) -> float:
        """All times together."""
        return self.metres * self.reading.resultant_tex / 1000


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
        own_design = alone(design, section)
        reading = evaluator.read(own_design, settings)
        beside = neighbours(sections, section)
        packed = _packed(reading)
        hours = section.length_mm * times / 1000 * sum(step.hours for step in steps_of(reading.levels, hands))
        parts.append(
            Part(section, times, own_design, reading, packed, hours, _locked(section, own_design.yarn, packed, beside))
        )
        own = _used(own_design, reading, meant_of(section.yarn, design))
        keys |= {key: model for key, (model, _) in own.items()}
        used.append({key: metres for key, (_, metres) in own.items()})
    parts = _with_turns(parts, design)
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
        sum(each.hours for each in parts),
    )


def _with_turns(parts: Sequence[Part], design: Design) -> list[Part]:
    """Return sections with the twist of their single, as far as anybody can say how it runs from thick to thin."""
    single = single_of(design)
    found, first = list(parts), 0
    for piece in design.sections or ():
        many = len(piece.of) if isinstance(piece, RepeatModel) else 1
        own = [at for at in range(first, first + many) if _runs(parts[at], design)]
        first += many
        heavy = np.array([_single_tex(parts[at]) / single.tex for at in own]) if single else np.ones(0)
        if not heavy.size or np.allclose(heavy, 1):
            continue
        lengths = np.array([parts[at].section.length_mm for at in own])
        ends = [runs_to(1.0, heavy, lengths, each) / runs_to(1.0, heavy, lengths) for each in (POWERS[0], POWERS[-1])]
        for number, at in enumerate(own):
            low, high = sorted(float(each[number]) for each in ends)
            found[at] = replace(parts[at], turned=(low, high))
    return found


def _runs(part: Part, design: Design) -> bool:
    own = gesture_in(part.section.yarn, design)
    return own is not None and own[0] in RUNS


def _single_tex(part: Part) -> float:
    single = single_of(part.design)
    return single.tex if single else 0.0


def ends_first(along: Along, held: Sequence[float | None]) -> RunOut | None:
    """Return how far what is on the bobbins goes, and what is left then of each; None where nobody said.

    Of a strand of which nobody said there is as much as is wanted.
    """
    own = [*held, *[None] * len(along.members)][: len(along.members)]
    if not any(own):
        return None
    takes = np.array([each.grams / along.whole.metres for each in along.members])
    return run_out(np.array([np.inf if each is None else each for each in own]), takes)


def bobbin_key(model: SingleModel | BoughtModel | WrapModel) -> str:
    """Return by what strands are told apart that come off one kind of bobbin: whatever their colours."""
    plain = {"colours": None, "colour_run_m": None, "colour_lengths_m": None}
    return model.model_copy(update=plain if isinstance(model, WrapModel) else plain | {"count": 1}).model_dump_json()


def times_plain(along: Along) -> dict[str, float]:
    """Return how much more of each strand a metre of the sequence takes than one of the yarn as it is constructed."""
    as_constructed = along.parts[0].design.model_copy(update={"yarn": along.yarn})
    plain = _used(as_constructed, along.plain, along.yarn)
    return {
        key: member.metres / along.whole.metres / plain[key][1]
        for member in along.members
        if (key := bobbin_key(member.model)) in plain
    }


def _used(
    design: Design, reading: Reading, meant: NodeModel
) -> dict[str, tuple[SingleModel | BoughtModel | WrapModel, float]]:
    """Return the metres of every strand in a metre of a section, as heavy as it is meant, by kind of bobbin.

    Args:
        design: the section by itself.
        reading: of it.
        meant: whose strands it is of; a thick place is of the same single as the thin ones.
    """
    strands = {path: model for path, _, model in walk(meant)}
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


def _locked(section: SectionModel, model: NodeModel, packed: bool, beside: Sequence[SectionModel]) -> bool:
    """Return whether what a section has stays where it is."""
    if isinstance(model, CoreSpunModel):
        return model.wrap.locks != "free"
    loose = isinstance(model, WrappedModel) and (packed or model.overfeed >= STANDS_OFF)
    if not loose or locks(section):
        return True
    return len(beside) > 1 and all(locks(each) for each in beside)
