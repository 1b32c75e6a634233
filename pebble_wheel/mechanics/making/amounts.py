"""How much fibre a yarn takes, and how much yarn some fibre makes."""

from pebble_wheel.mechanics.arrays import Floats
from pebble_wheel.mechanics.fibre.packing import Prep

WASTE: dict[Prep, float] = {"combed": 0.02, "semi": 0.05, "carded": 0.05}
"""Share of the fibre that is lost on the way: combed top 2 %, carded 5 % (common practice, no source); semi assumed.

Hand-combed fibre loses 10 to 25 %.
"""


def grams_needed(metres: Floats, tex: Floats, waste: Floats) -> Floats:
    """Return the fibre for so many metres of a resultant linear density, ``metres × tex / 1000 × (1 + waste)`` [g].

    Example:
        >>> round(grams_needed(400.0, 300.0, 0.02), 1)
        122.4
    """
    return metres * tex / 1000 * (1 + waste)


def metres_made(grams: Floats, tex: Floats, waste: Floats) -> Floats:
    """Return the metres that some fibre makes; the inverse of :func:`grams_needed`."""
    return grams * 1000 / tex / (1 + waste)
