"""Strands that run through a yarn, and through the sections of one that changes: which is which, and what it wears."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.mechanics.colour import bands
from pebble_wheel.mechanics.colour.bands import Bands
from pebble_wheel.mechanics.colour.showing import WRAP, Course, Key, Stretch
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    SingleModel,
    WrapModel,
    WrappedModel,
    inner_of,
    structure_of,
)
from pebble_wheel.workshop.gestures import alone, in_order, meant_of, one_by_one
from pebble_wheel.workshop.sequence import bobbin_key

NEW = -2
"""Number, and below, of the sections whose strands are not among those of the yarn as it is constructed."""

MOST_COLOURS, BEFORE = 200, 200.0
"""Of one strand, that a design file holds; and mm of yarn before a place that are drawn with it at the most."""


@dataclass(frozen=True)
class Strand:
    """One strand that carries colour."""

    key: Key
    path: Address
    model: SingleModel | BoughtModel | WrapModel
    slot: int
    """Which of those of its path this is, from 0."""


def strands_of(model: NodeModel) -> list[Strand]:
    """Return every strand of a yarn that carries colour, in the order in which the structure has them."""
    found: list[Strand] = []
    taken: dict[Address, int] = {}
    for key, path, each in _strands(model, WHOLE, ()):
        slot = taken.get(path, 0)
        taken[path] = slot + 1
        found.append(Strand(key, path, each, slot))
    return found


def _strands(
    model: NodeModel, path: Address, key: Key
) -> Iterator[tuple[Key, Address, SingleModel | BoughtModel | WrapModel]]:
    match model:
        case SingleModel() | BoughtModel():
            yield key, path, model
        case PlyModel():
            alike: dict[object, list[tuple[NodeModel, Address]]] = {}
            for name, strand in inner_of(model):
                alike.setdefault(structure_of(strand), []).extend([(strand, path.inner(name))] * strand.count)
            for member, each in enumerate(alike.values()):
                for place, (strand, inner) in enumerate(each):
                    yield from _strands(strand, inner, (*key, (member, place)))
        case CoreSpunModel():
            yield (*key, WRAP), path.inner("wrap"), model.wrap
            yield from _laid(model, path, key)
        case ChainModel() | WrappedModel():
            yield from _laid(model, path, key)


def _laid(
    model: NodeModel, path: Address, key: Key
) -> Iterator[tuple[Key, Address, SingleModel | BoughtModel | WrapModel]]:
    for member, (name, each) in enumerate(inner_of(model)):
        yield from _strands(each, path.inner(name), (*key, (member, 0)))


def tex_of(strand: Strand) -> float:
    """Return the linear density by which grams of a strand are metres."""
    return strand.model.strip_tex if isinstance(strand.model, WrapModel) else strand.model.tex


@dataclass(frozen=True)
class Run:
    """A yarn with all strands that run through it."""

    strands: list[Strand]
    course: Course
    models: list[NodeModel]
    """What is laid in each stretch of the course."""


def run_of(made: Made, model: NodeModel) -> Run:
    """Return a yarn that is the same all along."""
    strands = strands_of(model)
    stretch = Stretch(made, {each.key: (each.key, 1.0) for each in strands})
    return Run(strands, Course([stretch], np.array([0]), np.array([1000.0])), [model])


def run_along(design: Design, made_of: Callable[[Design], Made]) -> Run:
    """Return a yarn that changes along its length: in every section strands go on that are of one kind of bobbin.

    Args:
        design: the yarn.
        made_of: what makes a section of it.
    """
    if not design.sections:
        return run_of(made_of(design), design.yarn)
    strands = strands_of(design.yarn)
    numbers: dict[str, int] = {}
    stretches, models = list[Stretch](), list[NodeModel]()
    kinds, sections = [], [section for section, _ in in_order(design.sections)]
    for section in sections:
        own = alone(design, section)
        number = numbers.setdefault(own.yarn.model_dump_json(), len(numbers))
        kinds.append(number)
        if number == len(stretches):
            taken = _taken_up(strands, own.yarn, meant_of(section.yarn, design), number)
            stretches.append(Stretch(made_of(own), taken))
            models.append(own.yarn)
    order = one_by_one(design.sections)
    lengths = np.array([sections[place].length_mm for place in order])
    return Run(strands, Course(stretches, np.array([kinds[place] for place in order]), lengths), models)


def _taken_up(strands: list[Strand], yarn: NodeModel, meant: NodeModel, number: int) -> dict[Key, tuple[Key, float]]:
    """Return the strands of a section as those that run through the yarn; what none of them is comes to these.

    Args:
        strands: that run through the yarn.
        yarn: what is laid in the section.
        meant: the same, as heavy as it is on the whole; of a thick place so much more is used up.
        number: of the section.
    """
    free = list(strands)
    own: dict[Key, tuple[Key, float]] = {}
    for each, on_the_whole in zip(strands_of(yarn), strands_of(meant), strict=True):
        kind = bobbin_key(on_the_whole.model)
        of = next((strand for strand in free if bobbin_key(strand.model) == kind), None)
        if of is None:
            path = Address(f"sections.{number}.{each.path}")
            of = replace(on_the_whole, key=((NEW - number, 0), *each.key), path=path)
            strands.append(of)
        else:
            free.remove(of)
        own[each.key] = (of.key, tex_of(each) / tex_of(of))
    return own


@dataclass(frozen=True)
class Dressed:
    """What is laid at a place of a yarn, its strands in the colours that they carry there."""

    yarn: NodeModel
    place: float
    """mm of such yarn before the place."""
    made: Made
    names: dict[tuple[str, int], Key]
    """Which strand of the whole yarn each of its strands is, by its path and number."""


def dressed_at(run: Run, told: Mapping[Key, Bands], colours: Sequence[str], at: float) -> Dressed:
    """Return what is laid at a place of a yarn [mm].

    Args:
        run: the yarn.
        told: colours along every strand [mm of it].
        colours: by number.
        at: the place.
    """
    course, x = run.course, np.array([at])
    number = int(course.order[course.sections_at(x)][0])
    stretch, model = course.stretches[number], run.models[number]
    place = min(float(course.passed(x)[number, 0]), BEFORE)
    reached = course.places(x)
    strands = strands_of(model)
    worn = {}
    for strand in strands:
        key, heavy = stretch.own[strand.key]
        begins = float(reached[key][0]) - stretch.used[key] * place
        worn[strand.path, strand.slot] = _worn(bands.beyond(told[key], begins, MOST_COLOURS), heavy, colours)
    yarn = _dressed(model, worn)
    both = zip(strands_of(yarn), strands, strict=True)
    names = {(str(own.path), own.slot): stretch.own[strand.key][0] for own, strand in both}
    return Dressed(yarn, place, stretch.made, names)


def _worn(told: Bands, heavy: float, colours: Sequence[str]) -> dict[str, object]:
    """Return colours along a strand as a design has them, of one so much heavier than it was planned."""
    lengths = [max(float(each) / heavy / 1000, 1e-4) for each in told.lengths]
    return {
        "colours": [colours[each] for each in told.colours],
        "colour_lengths_m": lengths,
        "colour_run_m": None,
    }


def _dressed(yarn: NodeModel, worn: Mapping[tuple[Address, int], dict[str, object]]) -> NodeModel:
    """Return a yarn whose strands have their colours, by address and number among those of it."""
    taken: dict[Address, int] = {}

    def own(path: Address) -> dict[str, object]:
        slot = taken.get(path, 0)
        taken[path] = slot + 1
        return worn[path, slot]

    def within(model: NodeModel, path: Address) -> NodeModel:
        match model:
            case SingleModel() | BoughtModel():
                return model.model_copy(update=own(path))
            case PlyModel():
                inner = [
                    within(each.model_copy(update={"count": 1}), path.strand(place))
                    for place, each in enumerate(model.strands)
                    for _ in range(each.count)
                ]
                return model.model_copy(update={"strands": inner})
            case ChainModel():
                return model.model_copy(update={"strand": within(model.strand, path.inner("strand"))})
            case CoreSpunModel():
                wrap = model.wrap.model_copy(update=own(path.inner("wrap")))
                return model.model_copy(update={"wrap": wrap, "core": within(model.core, path.inner("core"))})
            case WrappedModel():
                return model.model_copy(
                    update={
                        "binder": within(model.binder, path.inner("binder")),
                        "wrapper": within(model.wrapper, path.inner("wrapper")),
                    }
                )

    return within(yarn, WHOLE)
