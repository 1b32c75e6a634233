"""The fibre table, as data.

Typical values of the trade; where a range is given its middle is used. Provenance: ranges are recalled from general
textile references (from memory), the bloom numbers B are calibrated for this product. The twist-factor groups are
common practice; fibres that no group names are put with the group they handle like, marked "assumed".
"""

from dataclasses import dataclass
from typing import Literal

from pebble_wheel.mechanics.memory import with_kept_hash

Range = tuple[float, float]
Family = Literal["wool", "hair", "down", "silk", "plant", "regenerated", "synthetic"]


@with_kept_hash
@dataclass(frozen=True)
class Fibre:
    """One fibre, typical values."""

    id: str
    name: str
    family: Family
    density: float
    """g/cm³."""
    micron: Range
    """Fibre diameter, µm."""
    staple: Range
    """Length, mm."""
    crimp: Range
    """Crimps per cm as grown."""
    bloom: float
    """B of the finishing model."""
    factor: Range
    """Usual tex twist factor of a single, turns/cm·√tex."""
    note: str = ""
    shares: "tuple[tuple[Fibre, float], ...]" = ()
    """Of a blend, each fibre with its share by mass; they add up to 1."""

    @property
    def mid_micron(self) -> float:
        """Middle of the fibre diameter range, µm."""
        return sum(self.micron) / 2

    @property
    def mid_staple(self) -> float:
        """Middle of the staple range, mm."""
        return sum(self.staple) / 2


SHORT_COTTON: Range = (33, 40)
FINE_SHORT: Range = (22, 28)
MEDIUM: Range = (17, 22)
LONG: Range = (12, 17)
SOFT_WOOLLEN: Range = (14, 18)
"""For anything carded and drawn long, whatever the fibre."""

_ASSUMED = "twist factor assumed"

FIBRES: dict[str, Fibre] = {
    fibre.id: fibre
    for fibre in (
        Fibre("merino", "Merino, fine", "wool", 1.31, (18, 22), (65, 100), (5, 9), 0.32, FINE_SHORT),
        Fibre("polwarth", "Polwarth", "wool", 1.31, (22, 26), (75, 150), (4, 6), 0.30, MEDIUM),
        Fibre("romeldale", "Romeldale", "wool", 1.31, (18, 25), (75, 125), (5, 8), 0.30, FINE_SHORT),
        Fibre("cormo", "Cormo", "wool", 1.31, (18, 25), (75, 125), (5, 8), 0.30, FINE_SHORT),
        Fibre("targhee", "Targhee", "wool", 1.31, (18, 25), (75, 125), (5, 8), 0.30, FINE_SHORT),
        Fibre("corriedale", "Corriedale", "wool", 1.31, (25, 31), (90, 150), (3, 4), 0.28, MEDIUM),
        Fibre("shetland", "Shetland", "wool", 1.31, (22, 30), (60, 110), (3, 5), 0.26, MEDIUM),
        Fibre("down", "Down type", "wool", 1.31, (26, 33), (50, 100), (4, 4), 0.34, MEDIUM, "spiral crimp"),
        Fibre("finn", "Finn", "wool", 1.31, (24, 31), (75, 150), (2, 3), 0.22, MEDIUM),
        Fibre("bfl", "Bluefaced Leicester", "wool", 1.31, (24, 28), (75, 150), (1, 2), 0.16, MEDIUM, "ringlets"),
        Fibre("jacob", "Jacob", "wool", 1.31, (27, 35), (75, 150), (2, 3), 0.20, MEDIUM),
        Fibre("romney", "Romney", "wool", 1.31, (32, 37), (100, 200), (1, 2), 0.15, LONG),
        Fibre("gotland", "Gotland", "wool", 1.31, (28, 35), (80, 180), (0.5, 1), 0.08, LONG),
        Fibre("wensleydale", "Wensleydale", "wool", 1.31, (30, 36), (150, 300), (0.5, 1), 0.06, LONG),
        Fibre("teeswater", "Teeswater", "wool", 1.31, (30, 36), (150, 300), (0.5, 1), 0.06, LONG),
        Fibre("karakul", "Karakul", "wool", 1.31, (25, 36), (150, 300), (0, 0), 0.03, LONG),
        Fibre("mohair", "Mohair", "hair", 1.32, (25, 38), (100, 150), (0, 0), 0.04, LONG),
        Fibre("llama", "Llama", "hair", 1.30, (20, 35), (80, 200), (1, 1), 0.10, LONG, _ASSUMED),
        Fibre("alpaca", "Alpaca, huacaya", "hair", 1.30, (20, 30), (80, 130), (2, 2), 0.12, MEDIUM, _ASSUMED),
        Fibre("suri", "Alpaca, suri", "hair", 1.30, (20, 30), (100, 200), (0, 0), 0.03, LONG, _ASSUMED),
        Fibre("cashmere", "Cashmere", "down", 1.31, (14, 20), (25, 50), (3, 3), 0.20, FINE_SHORT),
        Fibre("yak", "Yak", "down", 1.31, (14, 20), (25, 50), (3, 3), 0.20, FINE_SHORT),
        Fibre("camel", "Camel down", "down", 1.31, (14, 20), (25, 50), (3, 3), 0.20, FINE_SHORT),
        Fibre("angora", "Angora rabbit", "down", 1.175, (12, 14), (40, 80), (0, 0), 0.30, FINE_SHORT, "halo"),
        Fibre("dog", "Dog undercoat", "down", 1.31, (15, 25), (30, 60), (1, 1), 0.20, FINE_SHORT, "halo"),
        Fibre("silk", "Silk, mulberry", "silk", 1.34, (10, 13), (50, 150), (0, 0), 0.02, MEDIUM, _ASSUMED),
        Fibre("tussah", "Silk, tussah", "silk", 1.32, (25, 30), (50, 150), (0, 0), 0.02, MEDIUM, _ASSUMED),
        Fibre("cotton", "Cotton", "plant", 1.54, (12, 20), (13, 38), (0, 0), 0.04, SHORT_COTTON),
        Fibre("flax", "Flax", "plant", 1.50, (15, 30), (100, 700), (0, 0), 0.02, LONG, _ASSUMED),
        Fibre("hemp", "Hemp", "plant", 1.50, (15, 30), (100, 700), (0, 0), 0.02, LONG, _ASSUMED),
        Fibre("ramie", "Ramie", "plant", 1.50, (15, 30), (100, 700), (0, 0), 0.02, LONG, _ASSUMED),
        Fibre("viscose", "Viscose", "regenerated", 1.52, (10, 20), (40, 120), (0, 0), 0.02, MEDIUM, _ASSUMED),
        Fibre("lyocell", "Lyocell", "regenerated", 1.52, (10, 20), (40, 120), (0, 0), 0.02, MEDIUM, _ASSUMED),
        Fibre("nylon", "Nylon", "synthetic", 1.14, (15, 30), (40, 120), (0, 0), 0.02, MEDIUM, _ASSUMED),
        Fibre("polyester", "Polyester", "synthetic", 1.38, (15, 30), (40, 120), (0, 0), 0.02, MEDIUM, _ASSUMED),
        Fibre("acrylic", "Acrylic", "synthetic", 1.17, (15, 30), (40, 120), (0, 0), 0.02, MEDIUM, _ASSUMED),
    )
}

UNKNOWN_BREEDS: dict[str, Fibre] = {
    fibre.name: fibre
    for fibre in (
        Fibre("own", "fine wool", "wool", 1.31, (18, 23), (65, 110), (5, 8), 0.31, FINE_SHORT, "breed unknown"),
        Fibre("own", "medium wool", "wool", 1.31, (24, 31), (75, 150), (2, 4), 0.25, MEDIUM, "breed unknown"),
        Fibre("own", "coarse wool", "wool", 1.31, (31, 37), (100, 200), (0.5, 2), 0.13, LONG, "breed unknown"),
    )
}
"""Wool whose breed nobody knows: about the middle of the breeds that are as fine (assumed)."""
