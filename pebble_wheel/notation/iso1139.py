"""Yarn designations after ISO 1139, single-to-fold: ``34 tex S 600 x 2 Z 400; R 69.3 tex``.

Twist is stated at each step as made; after the last comes the resultant linear density (format from memory).
"""

import re
from dataclasses import dataclass
from typing import NoReturn, cast

from pebble_wheel.mechanics.packing import Draw, Prep
from pebble_wheel.notation.design import (
    Design,
    Direction,
    FinishModel,
    NodeModel,
    PlyModel,
    SingleModel,
    TwistModel,
    new_design,
    walk,
)
from pebble_wheel.notation.faults import Fault, InputError

DEFAULT_FIBRE = "corriedale"
"""A medium wool."""

_NUMBER = r"(?P<number>\d{1,9}(?:[.,]\d{1,9})?)"
_TWIST = rf"(?P<direction>[SZ])\s*{_NUMBER}(?:\s*t/m)?"
_SINGLE = re.compile(rf"\s*(?P<tex>\d{{1,9}}(?:[.,]\d{{1,9}})?)\s*tex\s+{_TWIST}")
_FOLD = re.compile(rf"\s*[x×]\s*(?P<count>\d{{1,3}})\s*{_TWIST}")
_RESULTANT = re.compile(rf"\s*;\s*R\s*{_NUMBER}\s*tex\s*$")


@dataclass(frozen=True)
class Designation:
    """What a designation says."""

    design: Design
    resultant_tex: float | None
    """As stated, where it is stated."""


def read_designation(
    text: str,
    fibre: str = DEFAULT_FIBRE,
    prep: Prep = "semi",
    draw: Draw | None = None,
    finish: FinishModel | None = None,
) -> Designation:
    """Return the design that a single-to-fold designation states.

    ``x`` or ``×``, ``t/m`` left out or present, decimal point or comma. Fibre and preparation are not part of a
    designation; they default to a medium wool, semi.

    Raises:
        InputError: with the character where reading stopped.
    """
    shown = text.strip()
    if len(text) > 500:
        _refuse(500, "a designation is shorter than this")
    if shown.startswith("R"):
        _refuse(0, "this is fold-to-single order, which is not read yet; write it single-to-fold, tex first")
    if "(" in shown or "+" in shown:
        _refuse(max(text.find("("), text.find("+"), 0), "unlike components cannot be computed so far")
    found = _SINGLE.match(text)
    if not found:
        _refuse(0, "expected a single such as '34 tex S 600'")
    yarn: NodeModel = SingleModel.model_construct(
        kind="single",
        fibre=fibre,
        prep=prep,
        draw=draw,
        tex=_number(found["tex"]),
        twist=_twist(found),
        count=1,
    )
    place = found.end()
    while fold := _FOLD.match(text, place):
        strand = yarn.model_copy(update={"count": int(fold["count"])})
        yarn = PlyModel.model_construct(kind="ply", strands=[strand], twist=_twist(fold), count=1)
        place = fold.end()
    resultant = _RESULTANT.match(text, place)
    if not resultant and text[place:].strip():
        _refuse(place, f"cannot read '{text[place:].strip()[:20]}' here; expected 'x 2 Z 400' or '; R 69.3 tex'")
    design = new_design(shown, yarn.model_dump(exclude_none=True), finish)
    return Designation(design, _number(resultant["number"]) if resultant else None)


def designation(model: NodeModel, turns_by_path: dict[str, float], resultant_tex: float) -> str:
    """Return the single-to-fold designation of a yarn of equal strands.

    Args:
        model: the yarn.
        turns_by_path: signed turns/m as made by path, for twists given as a multiple of balance.
        resultant_tex: R, written to three figures.
    """
    levels = [(path, node) for path, _, node in walk(model) if set(path) <= set("yarn.strands[0]")]
    steps: list[str] = []
    for path, node in reversed(levels):
        twist = f"{node.twist.direction} {_turns(node.twist.turns_per_m or abs(turns_by_path[path]))}"
        if isinstance(node, SingleModel):
            steps.append(f"{node.tex:.4g} tex {twist}")
        else:
            steps.append(f"x {sum(strand.count for strand in node.strands)} {twist}")
    written = " ".join(steps)
    return written if len(levels) == 1 else f"{written}; R {_three_figures(resultant_tex)} tex"


def _turns(turns_per_m: float) -> str:
    """Return turns to the whole turn, or to the tenth where they are few."""
    return f"{turns_per_m:.0f}" if turns_per_m >= 100 else f"{round(turns_per_m, 1):g}"


def _three_figures(value: float) -> str:
    return f"{value:.3g}" if value < 1000 else f"{value:.0f}"


def _twist(found: re.Match[str]) -> TwistModel:
    direction = cast(Direction, found["direction"])
    return TwistModel.model_construct(turns_per_m=_number(found["number"]), direction=direction)


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _refuse(at: int, message: str) -> NoReturn:
    raise InputError(Fault(f"character {at + 1}", message))
