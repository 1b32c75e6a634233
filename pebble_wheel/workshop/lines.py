"""A design beside its reading: its strands line by line, and its designation."""

from collections.abc import Iterator
from dataclasses import dataclass

from pebble_wheel.mechanics.reading.reading import Level, Reading
from pebble_wheel.mechanics.strand.structure import Node
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import Design, NodeModel, PlyModel, inner_of, structure_of, walk
from pebble_wheel.notation.iso1139 import designation


@dataclass(frozen=True)
class Line:
    """Strands of one entry of the design that lie alike, with their level of the reading."""

    path: Address
    """In the file."""
    node: NodeModel
    level: Level
    count: int
    """In one of what they are part of."""
    seats: int
    """On how many unlike seats it and its likes lie."""


def lines_of(design: Design, reading: Reading) -> list[Line]:
    """Return the strands of a design, the yarn first, one line for each seat where seats differ."""
    within: dict[str, list[Level]] = {}
    for level in reading.levels:
        within.setdefault(Address(level.path).above, []).append(level)
    return list(_lines(Line(WHOLE, design.yarn, reading.levels[0], 1, 1), within))


def _lines(line: Line, within: dict[str, list[Level]]) -> Iterator[Line]:
    """Yield a line and those of what it is laid from: entries that are alike take the strands of seats in turn."""
    yield line
    left = {level.path: level.strands // line.level.strands for level in within.get(line.level.path, [])}
    alike: list[Node] = []
    for name, inner in inner_of(line.node):
        place = name
        if isinstance(line.node, PlyModel):
            node = structure_of(inner)
            alike += [] if node in alike else [node]
            place = f"strands[{alike.index(node)}]"
        seats = [level for level in within[line.level.path] if Address(level.place).name == place]
        wanted, taken = inner.count, []
        for level in seats:
            count = min(wanted, left[level.path])
            if count:
                taken.append((level, count))
                left[level.path] -= count
                wanted -= count
        for level, count in taken:
            yield from _lines(Line(line.path.inner(name), inner, level, count, len(seats)), within)


def designation_of(design: Design, reading: Reading) -> str:
    """Return the ISO 1139 designation of a design, its multiples of balance worked out."""
    made = {level.place: level.turns_per_m_as_made for level in reading.levels}
    turns = {path: made[place] for path, place, _ in walk(design.yarn)}
    return designation(design.yarn, turns, reading.resultant_tex)
