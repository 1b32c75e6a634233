"""What the mechanics do not know of a strand and a picture needs: its colours along it, and its path in the design."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.strand.structure import Node
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.design import (
    USUAL_RUN_M,
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrapModel,
    WrappedModel,
    inner_of,
    structure_of,
)

SOFT = 12.0
"""Length of strand over which one colour runs into the next, mm: a picture."""


@dataclass(frozen=True)
class Dress:
    """Colours and path of one strand, and of what it is laid from."""

    part: Address
    colours: tuple[str, ...] = (UNDYED,)
    """Of a single or a bought thread in turn along it, or of a wrap."""
    run: float = 1000 * USUAL_RUN_M
    """Length of strand in one colour, mm."""
    lengths: tuple[float, ...] = ()
    """Of strand in each colour, mm; empty where they are all alike."""
    members: tuple[tuple["Dress", ...], ...] = ()
    """The strands of each member of the structure."""

    def tint(self, along: FloatArray) -> NDArray[np.int_] | None:
        """Return which colour lies at each place along the strand [mm as spun]; None where there is but one."""
        if len(self.colours) == 1:
            return None
        return np.floor(self._place(along)).astype(int) % len(self.colours)

    def shade(self, along: FloatArray) -> FloatArray | None:
        """Return which colour lies at each place, with a fraction where it runs into the next; None of but one."""
        if len(self.colours) == 1:
            return None
        place = self._place(along)
        run = np.array(self.lengths or (self.run,))[np.floor(place).astype(int) % (len(self.lengths) or 1)]
        over = np.minimum(SOFT, run / 3) / run
        return np.floor(place) + np.clip((place % 1 - 1) / over + 1, 0, 1)

    def _place(self, along: FloatArray) -> FloatArray:
        """Return places along the strand in colours from its beginning, whole ones where one begins."""
        if not self.lengths:
            return along / self.run
        lengths = np.array(self.lengths)
        ends, whole = np.cumsum(lengths), float(lengths.sum())
        turn, within = np.floor(along / whole), np.mod(along, whole)
        band = np.minimum(np.searchsorted(ends, within, side="right"), len(lengths) - 1)
        return turn * len(lengths) + band + (within - (ends - lengths)[band]) / lengths[band]

    @property
    def first_change(self) -> float:
        """Where the first colour ends [mm]."""
        return self.lengths[0] if self.lengths else self.run

    @property
    def every(self) -> frozenset[str]:
        """All colours of the strand and of those in it."""
        inner = (strand.every for strands in self.members for strand in strands)
        return frozenset[str]().union(() if self.members and self.colours == (UNDYED,) else self.colours, *inner)

    def shown(self) -> Iterator[str]:
        """Yield the first colour of every single, bought thread and wrap within."""
        for strands in self.members:
            for strand in strands:
                yield from strand.shown()
        if not self.members or self.colours != (UNDYED,):
            yield self.colours[0]


def dress_of(model: NodeModel, path: Address = WHOLE) -> Dress:
    """Return the dress of a design's yarn, its members in the order in which the structure has them."""
    match model:
        case SingleModel() | BoughtModel():
            return _coloured(Dress(path), model)
        case PlyModel():
            alike: dict[Node, list[Dress]] = {}
            for name, strand in inner_of(model):
                own = alike.setdefault(structure_of(strand), [])
                own += [dress_of(strand, path.inner(name))] * strand.count
            return Dress(path, members=tuple(tuple(each) for each in alike.values()))
        case CoreSpunModel():
            return _coloured(_laid(model, path), model.wrap)
        case ChainModel() | WrappedModel():
            return _laid(model, path)


def _laid(model: NodeModel, path: Address) -> Dress:
    inner = tuple((dress_of(each, path.inner(name)),) for name, each in inner_of(model))
    return Dress(path, members=inner)


def _coloured(dress: Dress, model: SingleModel | BoughtModel | WrapModel) -> Dress:
    colours = tuple(colour.lower() for colour in model.colours or [UNDYED])
    lengths = tuple(1000 * each for each in model.colour_lengths_m or ())
    run = 1000 * (model.colour_run_m or USUAL_RUN_M)
    return replace(dress, colours=colours, run=run, lengths=lengths if len(lengths) == len(colours) else ())
