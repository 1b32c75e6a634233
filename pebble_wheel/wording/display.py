"""Figures as a spinner reads them: units, angle convention, gauge method and weight class of the person's choice.

Figures are rounded as a person would round them, and a band is shown as a range.
"""

import math
from dataclasses import dataclass, field

from pebble_wheel.mechanics.counts import INCH, OUNCE, YARD, grist_yd_per_lb, wraps_per_inch
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.notation.settings import CARD_SCATTER, Settings
from pebble_wheel.notation.weights import WEIGHT_TABLES


@dataclass(frozen=True)
class Display:
    """Says figures by a person's settings."""

    settings: Settings = field(default_factory=Settings)

    def twist(self, turns_per_m: float) -> str:
        """Return a twist, without sign."""
        turns = abs(turns_per_m)
        return f"{turns * INCH / 1000:.1f} tpi" if self.settings.imperial else f"{turns:.0f} t/m"

    def twist_range(self, band: Band) -> str:
        """Return a band of twists without sign; of one that lies on both sides of zero, minus is the other way."""
        if band.p10 < 0 < band.p90:
            return f"−{self.twist(band.p10).split()[0]} to {self.twist(band.p90)}"
        low, high = sorted((abs(band.p10), abs(band.p90)))
        if self.settings.imperial:
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
        return 90 - from_axis if self.settings.angle_from == "crosswise" else from_axis

    @property
    def angle_words(self) -> str:
        """The convention in words."""
        return "from crosswise" if self.settings.angle_from == "crosswise" else "from the axis"

    def length(self, mm: float) -> str:
        """Return a small length such as a diameter."""
        return f"{mm / INCH:.3f} in" if self.settings.imperial else f"{mm:.2f} mm"

    def length_range(self, band: Band) -> str:
        """Return a band of diameters."""
        if self.settings.imperial:
            return _range(f"{band.p10 / INCH:.3f}", f"{band.p90 / INCH:.3f}", " in")
        return _range(f"{band.p10:.2f}", f"{band.p90:.2f}", " mm")

    def grist(self, tex: float) -> str:
        """Return length per mass."""
        if self.settings.imperial:
            return f"{_round_as_a_person(float(grist_yd_per_lb(tex))):,.0f} yd/lb"
        return f"{_round_as_a_person(100_000 / tex):,.0f} m/100 g"

    def metres(self, metres: float) -> str:
        """Return a length of yarn."""
        length, unit = (metres / YARD, "yd") if self.settings.imperial else (metres, "m")
        return f"{length:.3g} {unit}" if length < 100 else f"{_round_as_a_person(length):,.0f} {unit}"

    def metres_range(self, least: float, most: float) -> str:
        """Return from how much to how much yarn, in whole metres or yards."""
        unit, whole = ("yd", YARD) if self.settings.imperial else ("m", 1.0)
        ends = f"{least / whole:.0f}", f"{most / whole:.0f}"
        return f"{ends[0]} {unit}" if ends[0] == ends[1] else f"{ends[0]}–{ends[1]} {unit}"

    def grams(self, grams: float) -> str:
        """Return a weight."""
        weight, unit = (grams / OUNCE, "oz") if self.settings.imperial else (grams, "g")
        return f"{weight:.2g} {unit}" if weight < 10 else f"{weight:,.0f} {unit}"

    def gauge(self, diameter: float) -> str:
        """Return the wraps per inch of a diameter [mm] by the chosen method."""
        return f"{self.settings.wraps(float(wraps_per_inch(diameter))):.0f} wpi"

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
        }[self.settings.wpi_method]

    def weight_classes(self, band: Band) -> str:
        """Return the weight classes that a band of relaxed wraps touches, as a band and not a verdict."""
        table = WEIGHT_TABLES[self.settings.weight_table]
        names = [name for name, low, high in table if band.p90 >= low and band.p10 < high]
        middle = [name for name, low, high in table if low <= band.p50 < high]
        return " / ".join(middle or names)

    def _wpi_ends(self, band: Band) -> tuple[float, float]:
        if self.settings.wpi_method == "card":
            return band.p50 * (1 - CARD_SCATTER), band.p50 * (1 + CARD_SCATTER)
        return self.settings.wraps(band.p10), self.settings.wraps(band.p90)


def _range(low: str, high: str, unit: str) -> str:
    return f"{low}{unit}" if low == high else f"{low}–{high}{unit}"


def _round_as_a_person(value: float) -> float:
    """Return a value to two or three figures."""
    if value <= 0:
        return 0.0
    step = 10 ** max(math.floor(math.log10(value)) - 2, 0)
    return round(value / step) * step
