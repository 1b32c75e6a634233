"""Yarn designations after ISO 1139, in both orders (format from memory).

Single-to-fold names the single first and each step after it: ``34 tex S 600 x 2 Z 400; R 69.3 tex``. Fold-to-single
names the resultant first: ``R 69.3 tex Z 400/2 S 600; 34 tex``. Unlike components stand in brackets:
``(25 tex S 420 + 60 tex Z 80) S 360; R 89.2 tex``. Twist is stated at each step as made.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, NoReturn

from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.strand.layout import EVEN
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    FinishModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    new_design,
)
from pebble_wheel.notation.faults import Fault, InputError

DEFAULT_FIBRE = "corriedale"
"""A medium wool."""

MOST_CHARACTERS = 500

_NUMBER = re.compile(r"\d{1,9}(?:[.,]\d{1,9})?")
_COUNT = re.compile(r"\d{1,3}")


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
    """Return the design that a designation states.

    ``x`` or ``×``, ``t/m`` left out or present, decimal point or comma. Fibre and preparation are not part of a
    designation; they default to a medium wool, semi.

    Raises:
        InputError: with the character where reading stopped.
    """
    if len(text) > MOST_CHARACTERS:
        _refuse(MOST_CHARACTERS, "a designation is shorter than this")
    spun = {"kind": "single", "fibre": fibre, "prep": prep, **({"draw": draw} if draw else {})}
    reader = _Reader(text, spun)
    yarn, resultant = reader.fold_to_single() if text.lstrip().startswith("R") else reader.single_to_fold()
    return Designation(new_design(text.strip(), yarn, finish), resultant)


class _Reader:
    """Reads a designation from left to right."""

    def __init__(self, text: str, spun: dict[str, Any]) -> None:
        self.text, self.at, self.spun = text, 0, spun

    def single_to_fold(self) -> tuple[dict[str, Any], float | None]:
        yarn = self._strand()
        resultant = None
        if self._take(";"):
            self._expect("R", "'R 69.3 tex'")
            resultant = self._number("'R 69.3 tex'")
            self._expect("tex", "'tex'")
        self._end("'x 2 Z 400' or '; R 69.3 tex'")
        return yarn, resultant

    def fold_to_single(self) -> tuple[dict[str, Any], float | None]:
        self._expect("R", "'R 69.3 tex'")
        resultant = self._number("'R 69.3 tex'")
        self._expect("tex", "'tex'")
        steps: list[tuple[dict[str, Any], int]] = []
        twist = self._twist()
        while self._take("/"):
            steps.append((twist, self._whole("the number of strands")))
            twist = self._twist()
        self._expect(";", "'; 34 tex'")
        yarn = {**self.spun, "tex": self._number("'34 tex'"), "twist": twist}
        self._expect("tex", "'tex'")
        self._end("the end")
        for outer, count in reversed(steps):
            yarn = {"kind": "ply", "twist": outer, "strands": [{**yarn, "count": count}]}
        return yarn, resultant

    def _strand(self) -> dict[str, Any]:
        """A single or a bracket of unlike components, then any number of folds."""
        if self._take("("):
            strands = [self._strand()]
            while self._take("+"):
                strands.append(self._strand())
            self._expect(")", "'+' or ')'")
            yarn: dict[str, Any] = {"kind": "ply", "strands": strands, "twist": self._twist()}
        else:
            tex = self._number("a single such as '34 tex S 600'")
            self._expect("tex", "a single such as '34 tex S 600'")
            yarn = {**self.spun, "tex": tex, "twist": self._twist()}
        while self._take("x") or self._take("×"):
            count = self._whole("the number of strands")
            yarn = {"kind": "ply", "strands": [{**yarn, "count": count}], "twist": self._twist()}
        return yarn

    def _twist(self) -> dict[str, Any]:
        direction = "S" if self._take("S") else "Z"
        if direction == "Z":
            self._expect("Z", "a twist such as 'Z 400'")
        turns = self._number("a twist such as 'Z 400'")
        self._take("t/m")
        return {"turns_per_m": turns, "direction": direction}

    def _number(self, wanted: str) -> float:
        return float(self._match(_NUMBER, wanted).replace(",", "."))

    def _whole(self, wanted: str) -> int:
        return int(self._match(_COUNT, wanted))

    def _match(self, pattern: re.Pattern[str], wanted: str) -> str:
        self._skip()
        found = pattern.match(self.text, self.at)
        if not found:
            self._unexpected(wanted)
        self.at = found.end()
        return found[0]

    def _take(self, token: str) -> bool:
        self._skip()
        if not self.text.startswith(token, self.at):
            return False
        self.at += len(token)
        return True

    def _expect(self, token: str, wanted: str) -> None:
        if not self._take(token):
            self._unexpected(wanted)

    def _end(self, wanted: str) -> None:
        self._skip()
        if self.at < len(self.text):
            self._unexpected(wanted)

    def _skip(self) -> None:
        while self.at < len(self.text) and self.text[self.at].isspace():
            self.at += 1

    def _unexpected(self, wanted: str) -> NoReturn:
        rest = self.text[self.at : self.at + 20]
        _refuse(self.at, f"expected {wanted}" + (f", not '{rest}'" if rest else ", but it ends here"))


def designation(model: NodeModel, turns_by_path: Mapping[Address, float], resultant_tex: float) -> str:
    """Return the single-to-fold designation of a yarn.

    Args:
        model: the yarn.
        turns_by_path: signed turns/m as made by path, for twists given as a multiple of balance.
        resultant_tex: R, written to three figures.

    Returns:
        The designation, or an empty text where ISO 1139 has no way to say it; see :func:`unsayable`.
    """
    if unsayable(model):
        return ""
    written = _written(model, WHOLE, turns_by_path)
    return written if isinstance(model, SingleModel) else f"{written}; R {_three_figures(resultant_tex)} tex"


def fold_to_single(model: NodeModel, turns_by_path: Mapping[Address, float], resultant_tex: float) -> str:
    """Return the fold-to-single designation of a yarn of equal strands at every level; else an empty text."""
    if unsayable(model):
        return ""
    steps, path, node = "", WHOLE, model
    while isinstance(node, PlyModel) and len(node.strands) == 1:
        steps += f"{_twist(node, path, turns_by_path)}/{node.strands[0].count} "
        path, node = path.strand(0), node.strands[0]
    if not isinstance(node, SingleModel) or not steps:
        return ""
    return f"R {_three_figures(resultant_tex)} tex {steps}{_twist(node, path, turns_by_path)}; {node.tex:.4g} tex"


def unsayable(model: NodeModel) -> str:
    """Return why ISO 1139 cannot say a yarn, or an empty text where it can."""
    match model:
        case SingleModel():
            return ""
        case PlyModel() if model.tension_share != EVEN:
            return "an uneven tension share cannot be said in ISO 1139"
        case PlyModel():
            return next((why for strand in model.strands if (why := unsayable(strand))), "")
        case BoughtModel() | ChainModel() | CoreSpunModel() | WrappedModel():
            return f"a {model.kind} strand cannot be said in ISO 1139"


def _written(node: NodeModel, path: Address, turns: Mapping[Address, float]) -> str:
    twist = _twist(node, path, turns)
    if not isinstance(node, PlyModel):
        return f"{node.tex:.4g} tex {twist}" if isinstance(node, SingleModel) else ""
    parts = [(_written(strand, path.strand(n), turns), strand.count) for n, strand in enumerate(node.strands)]
    if len({part for part, _ in parts}) == 1:
        return f"{parts[0][0]} x {sum(count for _, count in parts)} {twist}"
    return "(" + " + ".join(part for part, count in parts for _ in range(count)) + f") {twist}"


def _twist(node: NodeModel, path: Address, turns: Mapping[Address, float]) -> str:
    return f"{node.twist.direction} {_turns(node.twist.turns_per_m or abs(turns[path]))}"


def _turns(turns_per_m: float) -> str:
    """Return turns to the whole turn, or to the tenth where they are few."""
    return f"{turns_per_m:.0f}" if turns_per_m >= 100 else f"{round(turns_per_m, 1):g}"


def _three_figures(value: float) -> str:
    return f"{value:.3g}" if value < 1000 else f"{value:.0f}"


def _refuse(at: int, message: str) -> NoReturn:
    raise InputError(Fault(f"character {at + 1}", message))
