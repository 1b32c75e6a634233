"""Figures as a spinner reads them: units, angle convention, gauge method and weight class of the person's choice.

Figures are rounded as a person would round them, and a band is shown as a range.
"""

import math
from dataclasses import dataclass, field

from pebble_wheel.mechanics.counts import INCH, OUNCE, YARD, grist_yd_per_lb, wraps_per_inch
from pebble_wheel.mechanics.learning.noise import CARD, TEN_TO_NINETY
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.rest.balance import LOOP_LEG
from pebble_wheel.notation.needles import us_number
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import USUAL_SQUARE
from pebble_wheel.notation.weights import WEIGHT_TABLES


@dataclass(frozen=True)
class Display:
    """Says figures by a person's settings."""

    settings: Settings = field(default_factory=Settings)
    card_bias: float = 0.0
    """By how much the person's gauge card reads thick, a logarithm, as samples have taught it."""
    card_off: float = CARD.off
    """Standard deviation of what it reads besides."""

    def twist(self, turns_per_m: float) -> str:
        """Return a twist, without sign."""
        return f"{self._turns(abs(turns_per_m))} {self.settings.twist}"

    def turned(self, turns_per_m: float) -> str:
        """Return a twist with its direction."""
        return f"{self.twist(turns_per_m)} {'Z' if turns_per_m > 0 else 'S'}"

    def twist_range(self, band: Band) -> str:
        """Return a band of twists without sign; of one that lies on both sides of zero, minus is the other way."""
        if band.p10 < 0 < band.p90:
            return f"−{self.twist(band.p10).split()[0]} to {self.twist(band.p90)}"
        low, high = sorted((abs(band.p10), abs(band.p90)))
        return _range(self._turns(low), self._turns(high), f" {self.settings.twist}")

    def _turns(self, turns_per_m: float) -> str:
        return f"{turns_per_m * INCH / 1000:.1f}" if self.settings.twist == "tpi" else f"{turns_per_m:.0f}"

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
        return f"{mm / INCH:.3f} in" if self.settings.inches else f"{mm:.2f} mm"

    def length_range(self, band: Band) -> str:
        """Return a band of diameters."""
        if self.settings.inches:
            return _range(f"{band.p10 / INCH:.3f}", f"{band.p90 / INCH:.3f}", " in")
        return _range(f"{band.p10:.2f}", f"{band.p90:.2f}", " mm")

    def grist(self, tex: float) -> str:
        """Return a linear density, or length per mass, in the unit for sizes."""
        size = self.size(tex)
        said = f"{size:.3g}" if self.settings.size == "tex" and size < 100 else f"{_round_as_a_person(size):,.0f}"
        return f"{said} {self.settings.size}"

    def span(self, mm: float) -> str:
        """Return a middling length such as a staple, a leg of a loop, or the width of a strip."""
        return f"{mm / INCH:.1f} in" if self.settings.inches else f"{mm:.0f} mm"

    @property
    def long_word(self) -> str:
        """A metre or a yard, as it is said."""
        return "yard" if self.settings.inches else "metre"

    @property
    def shorter(self) -> float:
        """Metres in a metre, or in a yard."""
        return YARD if self.settings.inches else 1.0

    @property
    def hundred(self) -> str:
        """A hundred metres or yards."""
        return f"100 {self.settings.long_unit}"

    def per_long(self, grams_per_m: float) -> str:
        """Return what a metre, or a yard, weighs."""
        grams = grams_per_m * self.shorter
        return f"{grams / OUNCE:.3f} oz" if self.settings.mass == "oz" else f"{grams:.2f} g"

    def grams_in_100(self, grams_per_100_m: float) -> str:
        """Return what a hundred metres, or yards, weigh."""
        grams = grams_per_100_m * self.shorter
        return f"{grams / OUNCE:.2f} oz" if self.settings.mass == "oz" else f"{grams:.1f} g"

    def in_short(self, what: str, per_cm: float) -> tuple[str, str]:
        """Return how many there are in a centimetre, or an inch: label and figure."""
        inches = self.settings.inches
        return f"{what} in {'an inch' if inches else 'a cm'}", f"{per_cm * INCH / 10 if inches else per_cm:.1f}"

    @property
    def hung(self) -> str:
        """The length of yarn that is folded and hung up."""
        return "12 in" if self.settings.inches else f"{200 * LOOP_LEG:.0f} cm"

    def hung_turns(self, turns: float) -> float:
        """Return the turns of a hung loop, given those of 30 cm, for the length that is hung up."""
        return turns * (12 * INCH / (2000 * LOOP_LEG) if self.settings.inches else 1.0)

    def size(self, tex: float) -> float:
        """Return a linear density as a number in the unit for sizes."""
        match self.settings.size:
            case "yd/lb":
                return float(grist_yd_per_lb(tex))
            case "m/100 g":
                return 100_000 / tex
            case "tex":
                return tex

    def sized(self, band: Band) -> Band:
        """Return a band of linear densities in the unit for sizes."""
        low, middle, high = (self.size(each) for each in (band.p10, band.p50, band.p90))
        return Band(min(low, high), middle, max(low, high))

    def width(self, mm: float, fine: bool = False) -> str:
        """Return a length of a hand or a garment."""
        length, unit = (mm / INCH, "in") if self.settings.inches else (mm / 10, "cm")
        return f"{length:.1f} {unit}" if fine else f"{length:.3g} {unit}"

    @property
    def square(self) -> str:
        """Across which stitches are counted."""
        return "4 in" if self.settings.inches else "10 cm"

    def stitches(self, in_10_cm: float) -> float:
        """Return stitches across the usual square, from those in 10 cm."""
        return in_10_cm * USUAL_SQUARE[self.settings.width_unit] / 100

    def needle(self, mm: float) -> str:
        """Return the size of a needle."""
        return f"US {us_number(mm)}" if self.settings.needle == "US" else f"{mm:.3g} mm"

    def needle_range(self, thin: float, thick: float) -> str:
        """Return from which to which needle, given in mm."""
        if self.settings.needle == "US":
            return _range(f"US {us_number(thin)}", us_number(thick), "")
        return _range(f"{thin:.1f}", f"{thick:.1f}", " mm")

    def metres(self, metres: float) -> str:
        """Return a length of yarn."""
        length, unit = (metres / YARD, "yd") if self.settings.inches else (metres, "m")
        return f"{length:.3g} {unit}" if length < 100 else f"{_round_as_a_person(length):,.0f} {unit}"

    def metres_range(self, least: float, most: float) -> str:
        """Return from how much to how much yarn, in whole metres or yards."""
        unit, whole = ("yd", YARD) if self.settings.inches else ("m", 1.0)
        ends = f"{least / whole:.0f}", f"{most / whole:.0f}"
        return f"{ends[0]} {unit}" if ends[0] == ends[1] else f"{ends[0]}–{ends[1]} {unit}"

    def grams(self, grams: float) -> str:
        """Return a weight."""
        weight, unit = (grams / OUNCE, "oz") if self.settings.mass == "oz" else (grams, "g")
        return f"{weight:.2g} {unit}" if weight < 10 else f"{weight:,.0f} {unit}"

    def light(self, grams: float) -> str:
        """Return a small weight."""
        return f"{grams / OUNCE:.2g} oz" if self.settings.mass == "oz" else f"{grams:.2g} g"

    def gauge(self, diameter: float) -> str:
        """Return the wraps per inch of a diameter [mm] by the chosen method."""
        return f"{self.settings.wraps(float(wraps_per_inch(diameter))):.0f} wpi"

    def wpi_range(self, band: Band) -> str:
        """Return a band of wraps per inch by the chosen method."""
        low, high = self._wpi_ends(band)
        return _range(f"{low:.0f}", f"{high:.0f}", " wpi")

    def true_range(self, band: Band) -> str:
        """Return relaxed wraps as they truly are, whatever a card says."""
        return _range(f"{band.p10:.0f}", f"{band.p90:.0f}", " wpi")

    @property
    def by_card(self) -> bool:
        """Whether the person counts wraps with a gauge card."""
        return self.settings.wpi_method == "card"

    @property
    def wpi_words(self) -> str:
        """The method in words."""
        return {
            "relaxed": "relaxed wraps",
            "snug": "snug wraps",
            "card": "gauge card, your bias not yet learned" if self.card_off >= CARD.off else "as your card will say",
        }[self.settings.wpi_method]

    def weight_classes(self, band: Band) -> str:
        """Return the weight classes that a band of relaxed wraps touches, as a band and not a verdict."""
        table = WEIGHT_TABLES[self.settings.weight_table]
        names = [name for name, low, high in table if band.p90 >= low and band.p10 < high]
        middle = [name for name, low, high in table if low <= band.p50 < high]
        return " / ".join(middle or names)

    def _wpi_ends(self, band: Band) -> tuple[float, float]:
        if self.settings.wpi_method == "card":
            off = math.hypot(self.card_off, math.log(band.p90 / band.p10) / (2 * TEN_TO_NINETY))
            middle = band.p50 * math.exp(-self.card_bias)
            return middle * math.exp(-TEN_TO_NINETY * off), middle * math.exp(TEN_TO_NINETY * off)
        return self.settings.wraps(band.p10), self.settings.wraps(band.p90)


def _range(low: str, high: str, unit: str) -> str:
    return f"{low}{unit}" if low == high else f"{low}–{high}{unit}"


def _round_as_a_person(value: float) -> float:
    """Return a value to two or three figures."""
    if value <= 0:
        return 0.0
    step = 10 ** max(math.floor(math.log10(value)) - 2, 0)
    return round(value / step) * step
