"""A yarn spun again: what its spinner's hands call for, what was noted for the next time, and fibre that is in hand."""

import math
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import assert_never

from pebble_wheel.mechanics.learning.correct import aim_for, hands_apart, lean_on
from pebble_wheel.mechanics.learning.model import Figure, Lessons, YarnMeasured
from pebble_wheel.mechanics.learning.outcomes import Outcome, reckon
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.strand.structure import Rod, Single
from pebble_wheel.notation.again import Wish
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    FibreField,
    FibreModel,
    NodeModel,
    PlyModel,
    SingleModel,
    TwistModel,
    WrappedModel,
    check_design,
    fibre_of,
    finish_of,
    walk,
)
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.lot import LotModel
from pebble_wheel.notation.sample import Asked
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.learn import node_of

TRIES, NEAR = 6, 0.002
"""In which the wraps wished for are come to, and how near, as a logarithm."""


@dataclass(frozen=True)
class Corrected:
    """How a yarn is to be spun so that it comes out as it was planned."""

    asked: Asked
    aimed_mm: float | None
    """Thickness of its first single as planned; None where it has none."""
    spin_mm: float | None
    """And that to aim for."""


def corrected(
    design: Design,
    now: Lessons,
    then: Lessons,
    rod: Rod,
    memory: Memory | None = None,
    piece: YarnMeasured | None = None,
) -> Corrected:
    """Return how a spinner is to aim so that the finished thickness and every twist come out as planned.

    Args:
        design: the plan.
        now: what is learned of its spinner.
        then: what was when it was planned.
        rod: of the energy model, untaught.
        memory: of what was reckoned lately.
        piece: what was measured of the very yarn that is being spun; its own factors then count, and not only habits.

    Raises:
        InputError: where it has no such strand.
        NoBalanceError: where it cannot be made.
    """
    node = node_of(design, "yarn", rod, memory)
    reckoned = reckon(node, rod, finish_of(design), ["finished thick"], memory)
    columns, leans = reckoned.columns, reckoned.leans["finished thick"]
    if not any(factor == "size" for factor, _ in columns):
        return Corrected(Asked(), None, None)
    figure = Figure("finished thick", columns[0][1], columns, leans)
    asked = Asked(*aim_for(figure, now, then, piece))
    return Corrected(asked, *_single_of(design, asked, then, rod, memory))


def _single_of(
    design: Design, asked: Asked, then: Lessons, rod: Rod, memory: Memory | None
) -> tuple[float | None, float | None]:
    """Return how thick the first single is as planned, and how thick one aims for it."""
    path = next((path for path, _, model in walk(design.yarn) if isinstance(model, SingleModel)), None)
    if path is None:
        return None, None
    single = node_of(design, path, rod, memory)
    assert isinstance(single, Single)
    thick: Outcome = "thick"
    reckoned = reckon(single, rod, finish_of(design), [thick], memory)
    columns, leans = reckoned.columns, reckoned.leans[thick]
    figure = Figure(thick, columns[0][1], columns, leans)
    aimed = math.exp(reckoned.middle[thick] + then.outcome(hands_apart(figure), None)[0])
    by = lean_on(figure, "size") * asked.size + lean_on(figure, "twist") * asked.twist
    return aimed, aimed * math.exp(by)


@dataclass(frozen=True)
class Done:
    """A design with what was wished for."""

    design: Design
    done: tuple[Wish, ...]
    left: tuple[Wish, ...]
    """That could not be done to such a yarn."""


def with_wishes(design: Design, wishes: Sequence[Wish], evaluator: Evaluator) -> Done:
    """Return a design with what was wished for, as far as that can be done to it; thickness last, against the old yarn.

    Raises:
        InputError: where the yarn itself cannot be made.
    """
    reading = evaluator.read(design)
    before, ratio = reading.wpi_finished.p50, abs(reading.balance.ratio or 1.0)
    done: list[Wish] = []
    last = ("thick", "wraps")
    ordered = sorted(wishes, key=lambda each: each.what in last)
    for wish in ordered:
        changed = None
        if design.sections and wish.what not in ("wash", "drying"):
            continue  # each section has strands of its own, and a length that was meant
        with suppress(InputError):
            changed = _with_wish(design, wish, before, ratio, evaluator)
            if changed is not None:
                changed = check_design(changed.model_dump(exclude_none=True))
                evaluator.read(changed)
        if changed is not None:
            design, done = changed, [*done, wish]
    return Done(
        design, tuple(each for each in wishes if each in done), tuple(each for each in wishes if each not in done)
    )


def _with_wish(design: Design, wish: Wish, before: float, ratio: float, evaluator: Evaluator) -> Design | None:
    """Return a design with one wish; None where it means nothing to such a yarn."""
    match wish.what:
        case "wash" | "drying":
            return design.model_copy(update={"finish": design.finish.model_copy(update={wish.what: wish.choice})})
        case "plies":
            return _of_plies(design, int(wish.amount), ratio)
        case "ply twist":
            return _plied_by(design, wish.amount)
        case "single twist":
            return _singles_by(design, wish.amount)
        case "thick":
            return _at_wraps(design, before / wish.amount, evaluator)
        case "wraps":
            return _at_wraps(design, wish.amount, evaluator)
        case _:
            assert_never(wish.what)


def _plied_by(design: Design, times: float) -> Design | None:
    yarn = design.yarn
    if isinstance(yarn, SingleModel | BoughtModel):
        return None
    return design.model_copy(update={"yarn": yarn.model_copy(update={"twist": yarn.twist.times(times)})})


def _singles_by(design: Design, times: float) -> Design | None:
    if not any(isinstance(model, SingleModel) for _, _, model in walk(design.yarn)):
        return None

    def spun(model: NodeModel) -> NodeModel:
        single = isinstance(model, SingleModel)
        return model.model_copy(update={"twist": model.twist.times(times)}) if single else model

    return design.model_copy(update={"yarn": within(design.yarn, spun)})


def _of_plies(design: Design, count: int, ratio: float) -> Design | None:
    """Return a ply of so many of its singles in turn, as far from balance as it was."""
    yarn = design.yarn
    if not isinstance(yarn, PlyModel) or not all(isinstance(each, SingleModel) for each in yarn.strands):
        return None
    own = [each.model_copy(update={"count": 1}) for each in yarn.strands for _ in range(each.count)]
    if len(own) == count:
        return None
    strands = [own[place % len(own)] for place in range(count)]
    twist = TwistModel(of_balanced=float(f"{ratio:.4g}"), direction=yarn.twist.direction)
    return design.model_copy(update={"yarn": yarn.model_copy(update={"strands": strands, "twist": twist})})


def _at_wraps(design: Design, wraps: float, evaluator: Evaluator) -> Design | None:
    """Return a design of other singles, alike in structure and twist factor, that finishes at so many wraps."""
    if not any(isinstance(model, SingleModel) for _, _, model in walk(design.yarn)):
        return None
    thicker, found = 1.0, design
    for _ in range(TRIES):
        off = math.log(evaluator.read(found).wpi_finished.p50 / wraps)
        if abs(off) < NEAR:
            return found
        thicker *= math.exp(off)
        if not 1 / 3 < thicker < 3:
            return None
        found = _scaled(design, thicker)
    return None


def _scaled(design: Design, thicker: float) -> Design:
    """Return a design of so much thicker singles, every strand as steeply twisted."""

    def scaled(model: NodeModel) -> NodeModel:
        twist = model.twist
        if twist.turns_per_m is not None and not isinstance(model, BoughtModel):
            twist = twist.times(1 / thicker)
        if isinstance(model, SingleModel):
            return model.model_copy(update={"tex": float(f"{model.tex * thicker**2:.4g}"), "twist": twist})
        return model.model_copy(update={"twist": twist})

    return design.model_copy(update={"yarn": within(design.yarn, scaled)})


def within(model: NodeModel, change: Callable[[NodeModel], NodeModel]) -> NodeModel:
    """Return a structure with every strand of it changed, the inner ones first."""
    match model:
        case SingleModel() | BoughtModel():
            return change(model)
        case PlyModel():
            return change(model.model_copy(update={"strands": [within(each, change) for each in model.strands]}))
        case ChainModel():
            return change(model.model_copy(update={"strand": within(model.strand, change)}))
        case CoreSpunModel():
            return change(model.model_copy(update={"core": within(model.core, change)}))
        case WrappedModel():
            inner = {"binder": within(model.binder, change), "wrapper": within(model.wrapper, change)}
            return change(model.model_copy(update=inner))
        case _:
            assert_never(model)


@dataclass(frozen=True)
class InHand:
    """A lot, and whether enough of it is left to begin with."""

    lot: LotModel
    left: float | None
    """Grams; None where it was not weighed."""


ENOUGH = 5.0
"""Grams under which a lot is as good as gone (assumed)."""


def of_lots(design: Design, lots: Sequence[InHand]) -> tuple[Design, tuple[tuple[str, str], ...]]:
    """Return a design of fibre that is in hand: a lot that is gone is replaced by the nearest to it.

    The nearest is of the same family, by how far mean fineness and staple are off, and preparation.

    Returns:
        the design, and what was replaced by what, by names.
    """
    usable = {each.lot.fibre.lot: each.lot for each in lots if each.left is None or each.left > ENOUGH}
    replaced: dict[str, str] = {}

    def in_hand(fibre: FibreField) -> FibreField:
        if not isinstance(fibre, FibreModel) or not fibre.lot or not usable:
            return fibre
        if fibre.lot in usable:
            return usable[fibre.lot].fibre
        nearest = min(usable.values(), key=lambda each: (_apart_by(fibre, each.fibre), each.name))
        replaced[fibre.name] = nearest.name
        return nearest.fibre

    def change(model: NodeModel) -> NodeModel:
        match model:
            case SingleModel():
                return model.model_copy(update={"fibre": in_hand(model.fibre)})
            case CoreSpunModel():
                wrap = model.wrap.model_copy(update={"fibre": in_hand(model.wrap.fibre)})
                return model.model_copy(update={"wrap": wrap})
            case BoughtModel() | PlyModel() | ChainModel() | WrappedModel():
                return model
            case _:
                assert_never(model)

    return design.model_copy(update={"yarn": within(design.yarn, change)}), tuple(replaced.items())


def _apart_by(one: FibreModel, other: FibreModel) -> float:
    """Return how unlike two fibres are."""
    pair = fibre_of(one), fibre_of(other)
    finer = abs(math.log(pair[0].mid_micron / pair[1].mid_micron))
    longer = abs(math.log(pair[0].mid_staple / pair[1].mid_staple))
    return finer + longer + (2.0 if pair[0].family != pair[1].family else 0.0)
