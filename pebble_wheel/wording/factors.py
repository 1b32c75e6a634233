"""What the finished size hangs on, and how sure each of it is."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pebble_wheel.mechanics.fibre.packing import LOOSEST
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.finish.moments import WEIGHT_HIDES
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.wash.bloom import (
    BLOCKING,
    CHARACTER,
    DRAWS_UP,
    DRYING,
    FULLY_PACKED,
    IRONED,
    IRONED_SPREAD,
    UNEVEN_LEFT,
    WASH,
    Finish,
    relaxation,
)
from pebble_wheel.mechanics.wash.resting import REST_HOURS, RESTS

CALIBRATED = "calibrated for this product"
GUESS = "a guess of the trade, untested"
TRADE = "common practice, no source"
NOT_KNOWN = "not known"


@dataclass(frozen=True)
class Factor:
    """One thing that the finished size hangs on, with how sure it is."""

    name: str
    value: str
    source: str
    spread: str


def factors_of(constants: Constants) -> tuple[Factor, ...]:
    """Return what is weak, and how weak."""
    blooms = [fibre.bloom for fibre in FIBRES.values()]
    bloom = constants.spreads.bloom
    most = float(relaxation(max(blooms), min(LOOSEST.values()), Finish()))
    return (
        Factor(
            "bloom of the fibre, B",
            f"{min(blooms)} to {max(blooms)} by fibre",
            CALIBRATED,
            f"{100 * bloom:.0f} % of the bloom",
        ),
        Factor(
            "room between fibres",
            f"1 − φ/{FULLY_PACKED}, by packing as it stands",
            CALIBRATED,
            "as uneven as the spinning",
        ),
        Factor("preparation and draw, p", _said(CHARACTER), CALIBRATED, f"within the {100 * bloom:.0f} %"),
        Factor("wash, w", _said(WASH), CALIBRATED + ", steam assumed", "within it"),
        Factor("drying, h", _said(DRYING), CALIBRATED, "within it"),
        Factor(
            "twist evened by handling",
            f"snapping leaves {UNEVEN_LEFT['snap']:.0%}, thwacking {UNEVEN_LEFT['thwack']:.0%} of the unevenness",
            "assumed",
            NOT_KNOWN,
        ),
        Factor(
            "crimp pressed flat by the mill, m",
            f"{IRONED}",
            GUESS,
            f"{100 * bloom * IRONED_SPREAD:.0f} % of the bloom",
        ),
        Factor("severe blocking in the cloth", f"{BLOCKING['severe']} of the bloom", TRADE, NOT_KNOWN),
        Factor("length lost on the first wash", f"{100 * DRAWS_UP:.0f} to {100 * most:.0f} %", CALIBRATED, NOT_KNOWN),
        Factor(
            "torque that rests on the bobbin",
            f"up to {RESTS:.0%}, in some {REST_HOURS:.0f} h",
            CALIBRATED,
            "both by half",
        ),
        Factor(
            "torque that drying under weight hides",
            f"light {WEIGHT_HIDES['light']:.0%}, heavy {WEIGHT_HIDES['heavy']:.0%}",
            "assumed",
            NOT_KNOWN,
        ),
        Factor("swelling in water", "by fibre", "Morton & Hearle, from memory", "as the range says"),
    )


def _said(table: Mapping[Any, float]) -> str:
    """Return a table in a line."""
    return ", ".join(f"{name} {value:g}" for name, value in table.items())
