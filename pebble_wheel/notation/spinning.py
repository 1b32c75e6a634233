"""A single as typed: its size by weight or gauge; its twist by turns, character, treadles or ply-back."""

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, cast, get_args

from pydantic import ValidationError

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.strand.gauge import tex_and_turns, tex_of_diameter
from pebble_wheel.mechanics.strand.single import turns_for_factor
from pebble_wheel.mechanics.strand.structure import Single, Turns
from pebble_wheel.notation.amounts import plain, read_number, read_ratio
from pebble_wheel.notation.design import SIGN, Direction, fibre_said
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import Size, read_length, read_size, read_twist

TwistBy = Literal["soft", "usual", "firm", "factor", "turns", "treadles", "fold"]
TWIST_BY = get_args(TwistBy)

IN_WORDS: tuple[TwistBy, ...] = ("soft", "usual", "firm")
"""For which nothing is typed."""

LEAST_FACTOR, MOST_FACTOR = 1.0, 200.0

_NO_FOLD = "no single of this size plies back so; count the turns of the fold, fresh, in a length"
_TREADLED = re.compile(
    r"(?P<count>[\d.,/ ]+?)\s*(?:treadles?)?\s*(?:at|x|\*|by|on|,)\s*(?P<ratio>[\d.,]+(?:\s*:\s*[\d.,]+)?)\s*"
    r"(?:in|over|per|to|for|a|,)\s*(?P<length>.+)",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Spinning:
    """What a single is spun to."""

    tex: float
    tex_off: float
    """How far it may be off as it was measured, a standard deviation of its logarithm; 0 where it is meant so."""
    turns_per_m: float


def read_spinning(of: Callable[[str], str], settings: Settings, path: str) -> Spinning:
    """Return size and twist of a single.

    Args:
        of: what stands in a field.
        settings: units and method where none is written.
        path: of the single; faults are at its ``size`` or ``twist``.

    Raises:
        InputError: where either cannot be read, both faults where both cannot.
    """
    faults: list[Fault] = []
    size, size_place, twist_place = Size(1.0, None), f"{path}.size", f"{path}.twist"
    factor, turns = None, None
    try:
        size = read_size(of("size"), settings.size, settings=settings)  # read once for all strands of a size
    except InputError as error:
        faults.extend(Fault(size_place, each.message) for each in error.faults)
    spun = _spun(of)
    by = of("by")
    try:
        if follows(by, of("twist")):
            factor = _factor(by, of("twist"), spun, twist_place)
        else:
            turns = _turns(by, of, settings, twist_place)
    except InputError as error:
        faults.extend(error.faults)
    if faults:
        raise InputError(*faults)
    if size.diameter_mm is None or spun is None:
        tex = size.tex or 1.0
        return Spinning(tex, size.off, turns if turns is not None else float(turns_for_factor(factor or 1.0, tex)))
    off = 2 * size.off  # linear density grows with the square of the diameter
    sign = SIGN.get(cast(Direction, of("direction")), 1)
    try:
        if turns is not None:
            tex = float(tex_of_diameter(size.diameter_mm, sign * turns, spun.fibre.density, spun.loosest))
            return Spinning(tex, off, turns)
        found = tex_and_turns(size.diameter_mm, factor or 1.0, spun.fibre.density, spun.loosest)
        return Spinning(found[0], off, found[1])
    except ValueError as error:
        raise InputError(Fault(size_place, str(error))) from error


def follows(by: str, text: str) -> bool:
    """Return whether a twist follows its gauge: turns typed where a factor stands fix it."""
    return by in IN_WORDS or (by == "factor" and not any(letter.isalpha() for letter in text))


def _spun(of: Callable[[str], str]) -> Single | None:
    """Return the single with its fibre and preparation; None where those have faults of their own."""
    try:
        fibre = fibre_said(of("fibre"))
    except (KeyError, ValidationError):
        return None
    if of("prep") not in get_args(Prep) or of("draw") not in get_args(Draw):
        return None
    return Single(fibre, cast(Prep, of("prep")), cast(Draw, of("draw")), 1.0, Turns(0.0))


def _factor(by: str, text: str, spun: Single | None, place: str) -> float:
    """Return the tex twist factor of a character, or the one typed."""
    if by == "factor":
        factor = read_number(text, place)
        if not LEAST_FACTOR <= factor <= MOST_FACTOR:
            raise InputError(Fault(place, f"a twist factor lies between {LEAST_FACTOR:g} and {MOST_FACTOR:g}"))
        return factor
    low, high = spun.usual_factor if spun else (1.0, 1.0)
    return {"soft": low, "usual": (low + high) / 2, "firm": high}[by]


def _turns(by: str, of: Callable[[str], str], settings: Settings, place: str) -> float:
    match by:
        case "treadles":
            return read_treadled(of("twist"), settings, place)
        case "fold":
            read_twist(of("twist"), settings.twist, place)
            if not of("found"):
                raise InputError(Fault(place, _NO_FOLD))
            return read_twist(of("found"), "t/m", place)
        case _:
            return read_twist(of("twist"), settings.twist, place)


def read_treadled(text: str, settings: Settings, place: str) -> float:
    """Return turns/m of so many treadles at a ratio over a length: ``14 at 7:1 in 60 cm``.

    Raises:
        InputError: where it says none.
    """
    found = _TREADLED.fullmatch(plain(text[:60]))
    if not found:
        raise InputError(Fault(place, f"'{text.strip()[:40]}' is not treadling; write it like 14 at 7:1 in 60 cm"))
    count, ratio = read_number(found["count"], place), read_ratio(found["ratio"], place)
    turns = 1000 * count * ratio / read_length(found["length"], settings.width_unit, place)
    if not turns > 0:
        raise InputError(Fault(place, "count at least one treadle"))
    return turns


def twist_text(turns_per_m: float, settings: Settings, figures: int = 4) -> str:
    """Return a twist as a person would type it, on so many figures."""
    turns = turns_per_m * INCH / 1000 if settings.twist == "tpi" else turns_per_m
    return f"{turns:.{figures}g} {settings.twist}"


def respun(following: bool, turns_per_m: float, tex: float, settings: Settings) -> dict[str, str]:
    """Return what is typed for a single of another twist: by its factor where the twist followed its gauge."""
    if following:
        return {"by": "factor", "twist": f"{turns_per_m * math.sqrt(tex) / 100:.4g}"}
    return {"by": "turns", "twist": twist_text(turns_per_m, settings)}
