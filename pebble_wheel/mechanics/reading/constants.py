"""The constants of a reading as one value: of the rod, of how uneven hands are, and the samples behind them."""

from dataclasses import dataclass, field

from pebble_wheel.mechanics.strand.structure import Rod


@dataclass(frozen=True)
class Spreads:
    """How uneven hand spinning is and how uncertain the rest, calibrated for this product."""

    tex: float = 0.12
    """Coefficient of variation of linear density along a single."""
    twist: float = 0.10
    """The same of twist, of a single and of a ply."""
    bend: float = 0.25
    """Standard deviation of k of the rod."""
    set_share: float = 0.05
    """Standard deviation of s of the rod."""
    bloom: float = 0.30
    """Standard deviation of bloom, as a share of it."""
    squeeze: float = 0.35
    """Standard deviation of the logarithm of Q of the packing law."""
    tension: float = 0.63
    """The same of plying tension: eight of ten lie between 10 and 50 cN about 20 (assumed)."""
    loop: float = 0.15
    """Coefficient of variation of the loops of a chain (assumed)."""
    wrap_packing: float = 0.30
    """The same of how firmly a wrap is laid."""
    strip: float = 0.12
    """The same of a drafted strip, which is drafted like a single."""


@dataclass(frozen=True)
class Constants:
    """What a yarn is read by: those for typical hand spinning until samples of one's own teach others."""

    rod: Rod = field(default_factory=Rod)
    spreads: Spreads = field(default_factory=Spreads)
    own_samples: int = 0
    """Samples that these were learned from."""
