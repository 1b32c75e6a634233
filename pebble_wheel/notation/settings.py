"""What a person chose once for everywhere: units, angle convention, how wraps are counted, weight classes."""

from dataclasses import dataclass
from typing import Literal

UnitSystem = Literal["metric", "imperial"]
AngleFrom = Literal["axis", "crosswise"]
WpiMethod = Literal["relaxed", "snug", "card"]
WeightTable = Literal["council", "relaxed-wraps"]

SNUG_OVER_RELAXED = 1.15
"""Snug wraps flatten the yarn and count some 10 to 20 % more: common practice, no source."""

CARD_SCATTER = 0.40
"""Card readings scatter by ±40 % until a spinner's own bias is learned: common practice, no source."""


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

    def wraps(self, wpi: float) -> float:
        """Return wraps as the chosen method counts them, from relaxed wraps."""
        return wpi * SNUG_OVER_RELAXED if self.wpi_method == "snug" else wpi
