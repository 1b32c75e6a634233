"""A yarn from the bobbin to the dry skein and its next wetting: size, length and torque at each moment.

Bloom changes the apparent diameter only; the torque after a wash is that of the true, un-rested twist.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.reading.constants import Spreads
from pebble_wheel.mechanics.reading.draws import P90, Band, band, wraps_band
from pebble_wheel.mechanics.reading.uneven import Variants, bloomed
from pebble_wheel.mechanics.strand.state import Made, mass
from pebble_wheel.mechanics.wash.bloom import UNEVEN_LEFT, Drying, Finish, shrinkage
from pebble_wheel.mechanics.wash.resting import hidden_by_rest
from pebble_wheel.mechanics.wash.swelling import wet_length, wet_over_dry

WEIGHT_HIDES: dict[Drying, float] = {"free": 0.0, "light": 0.5, "heavy": 0.85}
"""Share of the torque that drying under weight hides until the next wetting (assumed)."""

STILL_WET = 0.5
"""Of the swelling, in a skein spun or squeezed out (assumed)."""

Moment = Literal["fresh", "rested", "soaking", "spun-out", "dried", "next"]
HANDLED: tuple[Moment, ...] = ("dried", "next")
"""Moments after it has been snapped or thwacked."""

BLOOMED: tuple[Moment, ...] = ("spun-out", "dried", "next")
"""Moments at which it has bloomed."""

DRY_MOMENTS: tuple[Moment, ...] = ("fresh", "rested", "dried", "next")
MOMENTS: tuple[Moment, ...] = ("fresh", "rested", "soaking", "spun-out", "dried", "next")


@dataclass(frozen=True)
class AtMoment:
    """The yarn at one moment."""

    moment: Moment
    diameter: Band
    """Apparent, mm."""
    wpi: Band
    """Relaxed."""
    angle: Band
    """As the eye sees it, radians: steeper as the yarn draws up, more even where handling has levelled the twist."""
    length: float
    """Over the length as plied."""
    tex: Band
    """Of the fibre, without the water in it, by the unevenness of spinning."""
    loop_turns: float
    """Of 30 cm hung up, as it shows; Z positive."""
    hidden: float
    """Share of the torque that does not show."""

    def grown_from(self, fresh: "AtMoment") -> float:
        """Return how much thicker the yarn is than at another moment."""
        return self.diameter.p50 / fresh.diameter.p50

    @property
    def wet(self) -> bool:
        """Whether it is wet; never to be compared with a dry measurement."""
        return self.moment in ("soaking", "spun-out")


def at_moments(
    made: Made, finish: Finish, uneven: Variants, loop_turns: float, rest_hours: float, spreads: Spreads
) -> dict[Moment, AtMoment]:
    """Return a yarn at every moment of its finishing. In the soak it has swollen but not bloomed yet.

    Args:
        made: the yarn, of scalar values.
        finish: washing and drying; where it is never soaked, the next wetting is its first.
        uneven: the yarn as uneven spinning makes it.
        loop_turns: of 30 cm of it hung up fresh.
        rest_hours: on the bobbin.
        spreads: of which that of thickness along a single is taken.
    """
    soaked = finish.wash not in ("none", "steam")
    free = replace(finish, drying="free", wash=finish.wash if soaked else "soak")
    low, high = (float(end) for end in wet_over_dry(made.state))
    grown = {each: bloomed(uneven, each).values for each in (finish, free)}
    shorter = {each: 1 - float(shrinkage(made.state, each)) for each in (finish, free)}
    wetter = wet_length(made.state) - 1
    plied = uneven.plied.values
    swollen = np.linspace(low, high, plied.size)  # in the order of the variants, which is none
    drained = 1 + STILL_WET * (swollen - 1)
    rest = float(hidden_by_rest(rest_hours))
    tex, uneven_tex = float(mass(made.state) / made.state.length), P90 * spreads.tex

    leans = uneven.angle.values

    def at(moment: Moment, thick: Floats, length: float, hidden: float) -> AtMoment:
        known = np.asarray(thick)
        turns, now = loop_turns * (1 - hidden), tex / length
        weight = Band(now * (1 - uneven_tex), now, now * (1 + uneven_tex))
        left = UNEVEN_LEFT[finish.wash] if moment in HANDLED else 1.0
        angle = np.arctan(np.tan(np.median(leans) + left * (leans - np.median(leans))) / length)
        sized = band(known)
        return AtMoment(moment, sized, wraps_band(sized), band(angle), length, weight, turns, hidden)

    found = [
        at("fresh", plied, 1.0, 0.0),
        at("rested", plied, 1.0, rest),
        at("soaking", plied * swollen, shorter[free] * (1 + wetter), 0.0),
        at("spun-out", grown[free] * drained, shorter[free] * (1 + STILL_WET * wetter), 0.0),
        at("dried", grown[finish], shorter[finish], rest if finish.wash == "none" else WEIGHT_HIDES[finish.drying]),
        at("next", grown[free], shorter[free], 0.0),
    ]
    return {each.moment: each for each in found if soaked or each.moment in DRY_MOMENTS}
