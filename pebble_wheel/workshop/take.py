"""A design as a sample says that it came out: the sample taken as the plan."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import assert_never

from pebble_wheel.mechanics.learning.correct import Deviation
from pebble_wheel.mechanics.learning.factors import Column, Factor
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    SectionModel,
    SingleModel,
    WrappedModel,
    structure_of,
)
from pebble_wheel.notation.sample import strand_of


@dataclass(frozen=True)
class Taken:
    """A plan that a sample would make."""

    design: Design


def taken_as_plan(design: Design, strand: str, found: Mapping[Column, Deviation]) -> Taken:
    """Return a design with a strand, and those planned alike, of the size and twist that a sample came out with.

    Args:
        design: the plan.
        strand: the address of what was sampled.
        found: how far it is off.

    Raises:
        InputError: where the design has no such strand.
    """
    by: dict[Factor, float] = {}
    for (factor, _), each in found.items():
        by.setdefault(factor, each.mean)
    alike = structure_of(strand_of(design, strand))

    def within(model: NodeModel) -> NodeModel:
        if structure_of(model) == alike:
            return _as_made(model, by)
        match model:
            case SingleModel() | BoughtModel():
                return model
            case PlyModel():
                return model.model_copy(update={"strands": [within(each) for each in model.strands]})
            case ChainModel():
                return model.model_copy(update={"strand": within(model.strand)})
            case CoreSpunModel():
                return model.model_copy(update={"core": within(model.core)})
            case WrappedModel():
                return model.model_copy(update={"binder": within(model.binder), "wrapper": within(model.wrapper)})
            case _:
                assert_never(model)

    def along(piece: SectionModel) -> SectionModel:
        return piece.model_copy(update={"yarn": within(piece.yarn)}) if piece.yarn else piece

    sections = [
        along(each)
        if isinstance(each, SectionModel)
        else each.model_copy(update={"of": [along(own) for own in each.of]})
        for each in design.sections or ()
    ]
    told = {"yarn": within(design.yarn), "sections": sections or None}
    return Taken(design.model_copy(update=told))


def _as_made(model: NodeModel, by: Mapping[Factor, float]) -> NodeModel:
    match model:
        case SingleModel():
            tex = float(f"{model.tex * math.exp(by.get('size', 0.0)):.4g}")
            return model.model_copy(update={"tex": tex, "twist": model.twist.times(math.exp(by.get("twist", 0.0)))})
        case PlyModel() | ChainModel():
            return model.model_copy(update={"twist": model.twist.times(math.exp(by.get("ply", 0.0)))})
        case BoughtModel() | CoreSpunModel() | WrappedModel():
            return model
        case _:
            assert_never(model)
