"""Figures as a spinner reads them: units, angle convention, gauge method and weight class of the person's choice.

Figures are rounded as a person would round them, and a band is shown as a range.
"""

import math
from dataclasses import dataclass
from typing import Literal

from pebble_wheel.mechanics.counts import INCH, OUNCE, YARD, grist_yd_per_lb, wraps_per_inch
from pebble_wheel.mechanics.reading.spread import Band

UnitSystem = Literal["metric", "imperial"]
AngleFrom = Literal["axis", "crosswise"]
WpiMethod = Literal["relaxed", "snug", "card"]
WeightTable = Literal["council", "relaxed-wraps"]

SNUG_OVER_RELAXED = 1.15
"""Snug wraps flatten the yarn and count some 10 to 20 % more: common practice, no source."""

CARD_SCATTER = 0.40
"""Card readings scatter by ±40 % until a spinner's own bias is learned: common practice, no source."""

_COUNCIL = (
    ("lace", 30, math.inf),
    ("super fine", 14, 30),
    ("fine", 12, 18),
    ("light", 11, 15),
    ("medium", 9, 12),
    ("bulky", 6, 9),
    ("super bulky", 5, 6),
    ("jumbo", 0, 5),
)
"""From memory; the ranges overlap by design."""

_RELAXED_WRAPS = (
    ("lace", 18, math.inf),
    ("fingering", 14, 18),
    ("sport", 12, 14),
    ("DK", 10.5, 12),
    ("worsted weight", 8.5, 10.5),
    ("aran", 7.5, 8.5),
    ("bulky", 5.5, 7.5),
    ("super bulky", 0, 5.5),
)
"""Common practice, no source; single numbers widened half a wrap each way."""

WEIGHT_TABLES: dict[WeightTable, tuple[tuple[str, float, float], ...]] = {
    "council": _COUNCIL,
    "relaxed-wraps": _RELAXED_WRAPS,
}


@dataclass(frozen=True)
class Settings:
    """What the person chose; holds everywhere."""

    units: UnitSystem = "metric"
    angle_from: AngleFrom = "axis"
    wpi_method: WpiMethod = "relaxed"
    weight_table: WeightTable = "council"

    @property
    def imperial(self) -> bool:
        """Whether inches and pounds are used."""
        return self.units == "imperial"

    @property
    def twist_unit(self) -> str:
        """The unit meant where none is written."""
        return "tpi" if self.imperial else "t/m"

    @property
    def size_unit(self) -> str:
        """The unit meant where none is written."""
        return "yd/lb" if self.imperial else "tex"

    def twist(self, turns_per_m: float) -> str:
        """Return a twist, without sign."""
        turns = abs(turns_per_m)
        return f"{turns * INCH / 1000:.1f} tpi" if self.imperial else f"{turns:.0f} t/m"

    def twist_range(self, band: Band) -> str:
        """Return a band of twists without sign; of one that lies on both sides of zero, minus is the other way."""
        if band.p10 < 0 < band.p90:
            return f"−{self.twist(band.p10).split()[0]} to {self.twist(band.p90)}"
        low, high = sorted((abs(band.p10), abs(band.p90)))
        if self.imperial:
            return _range(f"{low * INCH / 1000:.1f}", f"{high * INCH / 1000:.1f}", " tpi")
        return _range(f"{low:.0f}", f"{high:.0f}", " t/m")

    def angle(self, radians: float) -> str:
        """Return an angle in the chosen convention."""
        return f"{self.degrees(radians):.0f}°"

    def angle_range(self, band: Band) -> str:
        """Return a band of angles."""
        ends = sorted((self.degrees(band.p10), self.degrees(band.p90)))
        return _range(f"{ends[0]:.0f}", f"{ends[1]:.0f}", "°")

    def degrees(self, radians: float) -> float:
        """Return degrees in the chosen convention, without sign."""
        from_axis = abs(math.degrees(radians))
        return 90 - from_axis if self.angle_from == "crosswise" else from_axis

    @property
    def angle_words(self) -> str:
        """The convention in words."""
        return "from crosswise" if self.angle_from == "crosswise" else "from the axis"

    def length(self, mm: float) -> str:
        """Return a small length such as a diameter."""
        return f"{mm / INCH:.3f} in" if self.imperial else f"{mm:.2f} mm"

    def length_range(self, band: Band) -> str:
        """Return a band of diameters."""
        if self.imperial:
            return _range(f"{band.p10 / INCH:.3f}", f"{band.p90 / INCH:.3f}", " in")
        return _range(f"{band.p10:.2f}", f"{band.p90:.2f}", " mm")

    def grist(self, tex: float) -> str:
        """Return length per mass."""
        if self.imperial:
            return f"{_round_as_a_person(float(grist_yd_per_lb(tex))):,.0f} yd/lb"
        return f"{_round_as_a_person(100_000 / tex):,.0f} m/100 g"

    def metres(self, metres: float) -> str:
        """Return a length of yarn."""
        length, unit = (metres / YARD, "yd") if self.imperial else (metres, "m")
        return f"{length:.3g} {unit}" if length < 100 else f"{_round_as_a_person(length):,.0f} {unit}"

    def metres_range(self, least: float, most: float) -> str:
        """Return from how much to how much yarn, in whole metres or yards."""
        unit, whole = ("yd", YARD) if self.imperial else ("m", 1.0)
        ends = f"{least / whole:.0f}", f"{most / whole:.0f}"
        return f"{ends[0]} {unit}" if ends[0] == ends[1] else f"{ends[0]}–{ends[1]} {unit}"

    def grams(self, grams: float) -> str:
        """Return a weight."""
        weight, unit = (grams / OUNCE, "oz") if self.imperial else (grams, "g")
        return f"{weight:.2g} {unit}" if weight < 10 else f"{weight:,.0f} {unit}"

    def wraps(self, wpi: float) -> float:
        """Return wraps as the chosen method counts them, from relaxed wraps."""
        return wpi * SNUG_OVER_RELAXED if self.wpi_method == "snug" else wpi

    def gauge(self, diameter: float) -> str:
        """Return the wraps per inch of a diameter [mm] by the chosen method."""
        return f"{self.wraps(float(wraps_per_inch(diameter))):.0f} wpi"

    def wpi_range(self, band: Band) -> str:
        """Return a band of wraps per inch by the chosen method."""
        low, high = self._wpi_ends(band)
        return _range(f"{low:.0f}", f"{high:.0f}", " wpi")

    @property
    def wpi_words(self) -> str:
        """The method in words."""
        return {
            "relaxed": "relaxed wraps",
            "snug": "snug wraps",
            "card": "gauge card, your bias not yet learned",
        }[self.wpi_method]

    def weight_classes(self, band: Band) -> str:
        """Return the weight classes that a band of relaxed wraps touches, as a band and not a verdict."""
        table = WEIGHT_TABLES[self.weight_table]
        names = [name for name, low, high in table if band.p90 >= low and band.p10 < high]
        middle = [name for name, low, high in table if low <= band.p50 < high]
        return " / ".join(middle or names)

    def _wpi_ends(self, band: Band) -> tuple[float, float]:
        if self.wpi_method == "card":
            return band.p50 * (1 - CARD_SCATTER), band.p50 * (1 + CARD_SCATTER)
        return self.wraps(band.p10), self.wraps(band.p90)


def _range(low: str, high: str, unit: str) -> str:
    return f"{low}{unit}" if low == high else f"{low}–{high}{unit}"


def _round_as_a_person(value: float) -> float:
    """Return a value to two or three figures."""
    if value <= 0:
        return 0.0
    step = 10 ** max(math.floor(math.log10(value)) - 2, 0)
    return round(value / step) * step
