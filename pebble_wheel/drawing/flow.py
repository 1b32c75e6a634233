"""The flow of fibre as a picture: lots into strands, strands into the yarn, as wide as they are heavy."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.mechanics.arrays import FloatArray

WIDE, HIGH, NODE, GAP, TOP = 1180.0, 300.0, 16.0, 14.0, 10.0
COLUMNS, BOBBINS = (150.0, 520.0, 1010.0), 800.0
"""Where lots, strands and the yarn stand, and bobbins between the last two."""

LEAST, ROW = 1.0, 32.0
"""Pixels that a flow is drawn wide, and that words beside it take."""


@dataclass(frozen=True)
class Box:
    """A lot, or the strands of a line."""

    label: str
    hint: str
    grams: float
    colour: str
    short: float = 0.0
    """Grams wanting."""
    bobbins: int = 0
    """That it fills."""


def flow_svg(lots: Sequence[Box], strands: Sequence[Box], parts: FloatArray, yarn: Box, left: float, title: str) -> str:
    """Return the picture.

    Args:
        lots: fibre.
        strands: what is spun of it.
        parts: grams of each lot in each strand, shape (lots, strands).
        yarn: what comes of it.
        left: grams that are not needed, or lost.
        title: what the picture says.
    """
    many = max(len(lots), len(strands), 1)
    room = max(HIGH, (ROW + GAP) * many + 2 * TOP) - 2 * TOP - GAP * many
    heaviest = max(
        sum(each.grams for each in lots), sum(each.grams + each.short for each in strands), yarn.grams + left, 1e-6
    )
    scale = room / heaviest
    at_lots = _stacked([each.grams for each in lots], scale)
    at_strands = _stacked([each.grams + each.short for each in strands], scale)
    parts_drawn = [words("title", title)]
    from_lot, into = list(at_lots), list(at_strands)
    for lot in range(len(lots)):
        for strand in range(len(strands)):
            thick = float(parts[lot, strand]) * scale
            if thick <= 0:
                continue
            ribbon = _ribbon(
                COLUMNS[0] + NODE, from_lot[lot], COLUMNS[1], into[strand], max(thick, LEAST), lots[lot].colour
            )
            parts_drawn.append(_taken(ribbon, lot, strand, scale))
            from_lot[lot] += thick
            into[strand] += thick
    middle = TOP + (room - (yarn.grams + left) * scale) / 2
    at = middle
    for place, each in enumerate(strands):
        thick, own = max(each.grams * scale, LEAST), at_strands[place]
        parts_drawn.append(_ribbon(COLUMNS[1] + NODE, own, BOBBINS, own, thick, each.colour))
        parts_drawn.append(_wound(own, thick, each))
        parts_drawn.append(_ribbon(BOBBINS + NODE, own, COLUMNS[2], at, thick, each.colour))
        at += thick
    for column, boxes, places in ((0, lots, at_lots), (1, strands, at_strands)):
        for place, (each, y) in enumerate(zip(boxes, places, strict=True)):
            parts_drawn.append(_box(each, COLUMNS[column], y, scale, column, place))
    parts_drawn.append(_box(yarn, COLUMNS[2], middle, scale, 2, 0))
    ends = [each + ROW for each in (*at_lots, *at_strands)]
    high = max(room + 2 * TOP + GAP * many, *ends, 0.0)
    told = {"viewBox": f"0 0 {WIDE:.0f} {high:.0f}", "data_high": f"{high:.0f}"}
    return tag("svg", "".join(parts_drawn), role="img", class_="flow", **told)


def _stacked(grams: Sequence[float], scale: float) -> list[float]:
    tops = TOP + np.concatenate([[0.0], np.cumsum([max(each * scale, ROW) + GAP for each in grams])])
    return tops[:-1].tolist() if len(grams) else []


def _ribbon(x: float, y: float, to_x: float, to_y: float, thick: float, colour: str) -> str:
    half = (x + to_x) / 2
    path = (
        f"M{x:.1f} {y:.1f}C{half:.1f} {y:.1f} {half:.1f} {to_y:.1f} {to_x:.1f} {to_y:.1f}v{thick:.1f}"
        f"C{half:.1f} {to_y + thick:.1f} {half:.1f} {y + thick:.1f} {x:.1f} {y + thick:.1f}Z"
    )
    return tag("path", d=path, fill=colour, class_="ribbon")


def _wound(y: float, thick: float, box: Box) -> str:
    """Return the bobbins that strands fill, side by side down the page."""
    many = max(box.bobbins, 1)
    each = thick / many
    gap = min(2.0, each / 4)
    return group(
        tag("rect", x=BOBBINS, y=y + place * each, width=NODE, height=max(each - gap, 0.5), rx=3, class_="wound")
        for place in range(many)
    )


def _taken(ribbon: str, lot: int, strand: int, scale: float) -> str:
    """Return a ribbon that can be taken hold of: what it carries is told by its lot and strand."""
    return group([ribbon], data_lot=lot, data_strand=strand, data_scale=f"{scale:.5f}", class_="taken")


def _box(box: Box, x: float, y: float, scale: float, column: int, place: int) -> str:
    high = max(box.grams * scale, LEAST)
    parts = [tag("rect", x=x, y=y, width=NODE, height=high, fill=box.colour, class_="box")]
    if box.short:
        wanting = box.short * scale
        parts.append(tag("rect", x=x, y=y + high, width=NODE, height=max(wanting, LEAST), class_="wanting"))
    right = column > 0
    at, anchor = (x + NODE + 8, "start") if right else (x - 8, "end")
    middle = y + max((box.grams + box.short) * scale, ROW - 8) / 2
    parts.append(words("text", box.label, x=at, y=middle - 1, text_anchor=anchor, class_="flow-name"))
    parts.append(words("text", box.hint, x=at, y=middle + 16, text_anchor=anchor, class_="flow-hint"))
    return group(parts, **({"data_into": place} if column == 1 else {}))
