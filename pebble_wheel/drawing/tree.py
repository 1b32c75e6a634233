"""The tree of a yarn as it is made: strands come from the left and run together into what they become on the right."""

from dataclasses import dataclass

from pebble_wheel.drawing.svg import tag
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.colour import UNDYED, is_colour
from pebble_wheel.notation.draft import Draft, Part, parts

ROW, COLUMN = 54, 135
"""Pixels of a place in the grid; the stylesheet has the same."""

CARD = 114
"""Width of a card in its place."""

_CLOSEST = 0.36
"""Share of a row between the ends of strands that run into one card."""


@dataclass(frozen=True)
class Branch:
    """A part with its place in the picture."""

    path: Address
    part: Part
    row: int
    """Counted from 1, of the first strand within it."""
    rows: int
    column: int
    """Counted from 1, the left."""
    colours: tuple[str, ...]

    @property
    def middle(self) -> float:
        """Height of its middle, in pixels."""
        return ROW * (self.row - 1 + self.rows / 2)


@dataclass(frozen=True)
class Tree:
    """The branches in the order of the tree, and the strands between them as a drawing."""

    branches: tuple[Branch, ...]
    strands: str


def grow(draft: Draft) -> Tree:
    """Return the picture of a draft's tree."""
    depth = max(path.depth for path, _ in parts(draft.yarn))
    branches: list[Branch] = []
    _grow(draft.yarn, WHOLE, 1, depth + 1, branches)
    by_path = {branch.path: branch for branch in branches}
    drawn = []
    for branch in branches:
        inner = [by_path[branch.path.inner(name)] for name in branch.part.names()]
        for place, each in enumerate(inner):
            off = (place - (len(inner) - 1) / 2) * min(_CLOSEST * ROW, 30 / len(inner))
            drawn.append(_strand(each, branch, off))
    width, height = COLUMN * (depth + 1), ROW * branches[-1].rows
    strands = tag("svg", "".join(drawn), width=width, height=height, class_="tree-strands", aria_hidden="true")
    return Tree(tuple(branches), strands)


def _grow(part: Part, path: Address, row: int, column: int, branches: list[Branch]) -> Branch:
    rows, colours = 0, [] if part.inner else list(_colours(part))
    for name, inner in zip(part.names(), part.inner, strict=True):
        grown = _grow(inner, path.inner(name), row + rows, column - 1, branches)
        rows += grown.rows
        colours += grown.colours
    if part.kind == "core-spun":
        colours = list(_colours(part))
    branch = Branch(path, part, row, max(rows, 1), column, tuple(dict.fromkeys(colours)))
    branches.append(branch)
    return branch


def _colours(part: Part) -> tuple[str, ...]:
    return tuple(colour for colour in part.colours if is_colour(colour)) or (UNDYED,)


def _strand(from_: Branch, to: Branch, off: float) -> str:
    """Return a strand running from its card into the one it becomes part of, in its colours."""
    x0, y0 = COLUMN * (from_.column - 1) + CARD, from_.middle
    x1, y1 = COLUMN * (to.column - 1), to.middle + off
    bend = (x1 - x0) / 2
    data = f"M{x0:.1f} {y0:.1f}C{x0 + bend:.1f} {y0:.1f} {x1 - bend:.1f} {y1:.1f} {x1:.1f} {y1:.1f}"
    width = min(5 + 1.5 * (from_.part.count - 1), 11)
    lines = [tag("path", d=data, stroke_width=width + 2, class_="tree-edge")]
    shown = from_.colours[:3]
    for place, colour in enumerate(shown):
        dashes = "" if place == 0 else f"7 {7 * (len(shown) - 1)}"
        lines.append(
            tag(
                "path",
                d=data,
                stroke=colour,
                stroke_width=width,
                fill="none",
                stroke_dasharray=dashes,
                stroke_dashoffset=-7 * place,
            )
        )
    return "".join(lines)
