"""What a person chose once for everywhere: units, angle convention, how wraps are counted, weight classes."""

from dataclasses import dataclass, replace
from typing import Literal

from pebble_wheel.mechanics.making.wheel import TREADLES_PER_MINUTE

LengthUnit = Literal["metric", "inches"]
MassUnit = Literal["g", "oz"]
SizeUnit = Literal["m/100 g", "tex", "yd/lb"]
TwistUnit = Literal["t/m", "tpi"]
NeedleUnit = Literal["mm", "US"]
AngleFrom = Literal["axis", "crosswise"]
WpiMethod = Literal["relaxed", "snug", "card"]
WeightTable = Literal["relaxed-wraps", "council"]
UnitSet = Literal["metric", "imperial"]

SNUG_OVER_RELAXED = 1.15
"""Snug wraps flatten the yarn and count some 10 to 20 % more: common practice, no source."""


USUAL_CARD = "6 8 10 12 14 18 22 26 32 40"
"""Slots of a gauge card that nobody has told of, wraps per inch: assumed."""

USUAL_PACE = f"{TREADLES_PER_MINUTE:.0f}"
"""Of a spinner whose treadling was never counted: assumed."""


@dataclass(frozen=True)
class Settings:
    """What the person chose; holds everywhere."""

    length: LengthUnit = "metric"
    mass: MassUnit = "g"
    size: SizeUnit = "m/100 g"
    twist: TwistUnit = "t/m"
    needle: NeedleUnit = "mm"
    angle_from: AngleFrom = "axis"
    wpi_method: WpiMethod = "relaxed"
    weight_table: WeightTable = "relaxed-wraps"
    pace: str = USUAL_PACE
    """Treadles a minute, as typed."""
    card: str = USUAL_CARD
    """Slots of the gauge card, as typed."""

    @property
    def inches(self) -> bool:
        """Whether lengths are in inches and yards."""
        return self.length == "inches"

    @property
    def small_unit(self) -> str:
        """Of a thickness, a draft or a loop, where none is written."""
        return "in" if self.inches else "mm"

    @property
    def long_unit(self) -> str:
        """Of a length of yarn, where none is written."""
        return "yd" if self.inches else "m"

    @property
    def width_unit(self) -> str:
        """Of what is knitted, where none is written."""
        return "in" if self.inches else "cm"

    def wraps(self, wpi: float) -> float:
        """Return wraps as the chosen method counts them, from relaxed wraps."""
        return wpi * SNUG_OVER_RELAXED if self.wpi_method == "snug" else wpi

    @property
    def unit_set(self) -> UnitSet | None:
        """The set of units that this is, if it is one."""
        return next((name for name in UNIT_SETS if in_units(self, name) == self), None)


UNIT_SETS: dict[UnitSet, dict[str, str]] = {
    "metric": {"length": "metric", "mass": "g", "size": "m/100 g", "twist": "t/m", "needle": "mm"},
    "imperial": {"length": "inches", "mass": "oz", "size": "yd/lb", "twist": "tpi", "needle": "US"},
}
"""Chosen at one touch; each unit can be changed by itself."""

INCH_LANGUAGES = ("en-us", "en-lr", "my")
"""Of browsers whose people mostly measure in inches and ounces: common practice, no source."""


def in_units(settings: Settings, name: UnitSet) -> Settings:
    """Return the settings with a set of units."""
    return replace(settings, **UNIT_SETS[name])  # type: ignore[arg-type]


def suggested_set(languages: str) -> UnitSet:
    """Return the set that the languages of a browser suggest, as it sends them, the one it likes best first."""
    first = languages.split(",", maxsplit=1)[0].split(";", maxsplit=1)[0].strip().lower()
    return "imperial" if first.startswith(INCH_LANGUAGES) else "metric"
