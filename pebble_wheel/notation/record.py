"""What was measured, as typed: skeins and swatches read with the place of every fault."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, cast, get_args

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.learning.noise import CARD, WRAPS
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.needles import read_needle
from pebble_wheel.notation.settings import SNUG_OVER_RELAXED, Settings, WpiMethod
from pebble_wheel.notation.units import Stage, read_gauge, read_length, read_mass, read_size

Bloomed = Literal["yes", "no", "unsure"]

MOST_WRAPS = 200.0
MOST_TIED = 80
"""Letters by which a place is told."""
FOOT, HUNG = 12 * INCH, 300.0
"""mm, of yarn that is folded and hung up where inches are used, and else: its turns are kept as those of 30 cm."""

STITCH_OFF = 0.03
"""A stitch miscounted in some thirty: assumed."""

KITCHEN_SCALE = 1.0
"""Grams by which a skein may be weighed wrong: assumed."""

SKEIN_FIELDS: dict[str, str] = {
    "stage": "finished",
    "wet": "dry",
    "metres": "",
    "grams": "",
    "wraps": "",
    "method": "relaxed",
    "loop": "",
    "way": "Z",
    "note": "",
    "tied": "",
}
SWATCH_FIELDS: dict[str, str] = {
    "needle": "",
    "stitches_before": "",
    "stitches_after": "",
    "rows_before": "",
    "rows_after": "",
    "garment": "",
    "bloomed": "unsure",
    "swatch_note": "",
}
"""What can be typed, and what an empty form holds. Stitches and rows are those in 10 cm, or 4 inches."""


@dataclass(frozen=True)
class Skein:
    """A skein as it was measured."""

    stage: Stage
    wet: bool
    metres: float | None
    grams: float | None
    wraps: float | None
    """Per inch, as counted by the method."""
    method: WpiMethod
    loop_turns: float | None
    """Of 30 cm hung up, Z positive."""
    note: str
    tied: str = ""
    """To what, or where, it is tied or kept."""

    @property
    def relaxed_wraps(self) -> float | None:
        """The wraps as relaxed ones."""
        return self.wraps and self.wraps / (SNUG_OVER_RELAXED if self.method == "snug" else 1.0)

    @property
    def wraps_off(self) -> float:
        """How far counted wraps may be off, as a share."""
        return (CARD if self.method == "card" else WRAPS).off

    @property
    def tex(self) -> float | None:
        """Linear density, where both metres and grams are known."""
        return 1000 * self.grams / self.metres if self.grams and self.metres else None

    @property
    def tex_off(self) -> float:
        """How far linear density may be off, as a share; without bound where nothing was weighed."""
        return KITCHEN_SCALE / self.grams if self.grams else math.inf


@dataclass(frozen=True)
class Swatch:
    """A swatch before and after washing; stitches and rows in 10 cm."""

    needle_mm: float | None
    stitches_before: float
    stitches_after: float
    rows_before: float | None
    rows_after: float | None
    garment_mm: float | None
    """Width of what is to be knitted."""
    bloomed: Bloomed
    note: str


def read_skein(typed: Mapping[str, str], settings: Settings) -> Skein:
    """Return a measured skein.

    Raises:
        InputError: with every fault at its field; also where nothing was measured.
    """
    form = Form(typed, SKEIN_FIELDS)
    metres = form.read("metres", lambda text, place: read_length(text, settings.long_unit, place))
    in_30_cm = FOOT / HUNG if settings.inches else 1.0
    method = cast(WpiMethod, form.one_of("method", get_args(WpiMethod)))
    skein = Skein(
        cast(Stage, form.one_of("stage", get_args(Stage))),
        form.one_of("wet", ("dry", "wet")) == "wet",
        metres / 1000 if metres else None,
        form.read("grams", lambda text, place: read_mass(text, settings.mass, place)),
        form.read("wraps", lambda text, place: _wraps(text, place, method)),
        method,
        form.read("loop", lambda text, place: read_turns(text, place, form.one_of("way", ("Z", "S"))) / in_30_cm),
        form.note("note"),
        form.text("tied")[:MOST_TIED],
    )
    form.refuse()
    if skein.wraps is None and skein.loop_turns is None and skein.tex is None:
        raise InputError(Fault("wraps", "note at least the wraps, the loop, or metres with grams"))
    return skein


def read_swatch(typed: Mapping[str, str], settings: Settings) -> Swatch:
    """Return a swatch.

    Raises:
        InputError: with every fault at its field.
    """
    form = Form(typed, SWATCH_FIELDS)
    gauge = {
        field: form.read(field, lambda text, place: read_gauge(text, settings.width_unit, place))
        for field in ("stitches_before", "stitches_after", "rows_before", "rows_after")
    }
    for field in ("stitches_before", "stitches_after"):
        if gauge[field] is None and not any(fault.place == field for fault in form.faults):
            form.faults.append(Fault(field, "count the stitches before and after washing"))
    garment = form.read("garment", lambda text, place: read_length(text, settings.width_unit, place))
    needle = form.read("needle", lambda text, place: read_needle(text, settings.needle, place))
    bloomed = cast(Bloomed, form.one_of("bloomed", get_args(Bloomed)))
    note = form.note("swatch_note")
    form.refuse()
    return Swatch(
        needle,
        gauge["stitches_before"] or 0.0,
        gauge["stitches_after"] or 0.0,
        gauge["rows_before"],
        gauge["rows_after"],
        garment,
        bloomed,
        note,
    )


def _wraps(text: str, place: str, method: WpiMethod) -> float:
    """Return wraps per inch as they were counted: ``9``, ``9 wraps``, ``between 9 and 10``."""
    size = read_size(text, "wpi", place, Settings(wpi_method=method))
    if size.diameter_mm is None or size.method != method:
        raise InputError(Fault(place, "give the wraps, like 12 or 12 wpi; how they were counted stands beside it"))
    wraps = INCH / size.diameter_mm * (SNUG_OVER_RELAXED if method == "snug" else 1.0)
    if wraps > MOST_WRAPS:
        raise InputError(Fault(place, f"must be more than 0 and at most {MOST_WRAPS:g}, not {wraps:g}"))
    return wraps


def read_turns(text: str, place: str, way: str) -> float:
    """Return the turns of a loop, signed by the way it turns.

    Raises:
        InputError: where nobody could count them.
    """
    number = read_number(text, place)
    if not 0 <= number <= 200:
        raise InputError(Fault(place, f"count the turns, 0 to 200; which way stands beside it, not {number:g}"))
    return number if way == "Z" else -number
