"""What only one kind of strand has: links of a chain, coverage of a core, coils of a wrapper."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats
from pebble_wheel.mechanics.strand.helix import apparent_width
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS, Chain, CoreSpun, Wrapped, coiled, turns_of


@dataclass(frozen=True)
class ChainReading:
    """Of a chain ply, at scalar values."""

    links_per_m: float
    """Of yarn; 1000/ℓ per metre of leg, more by what the legs take up."""
    bump: float
    """Thickness of a link over that of the yarn: five legs instead of three."""
    overlap_share: float
    """Strand used by the overlaps, over that of the legs."""
    mixed_over: float
    """Length of strand whose parts can lie side by side: the three legs of a link, mm."""


@dataclass(frozen=True)
class CoreReading:
    """Of a core-spun yarn, at scalar values."""

    coverage: float
    """``w t / (1000 sin θ)`` with θ at the middle of the wrap; 1 is just covered."""
    wrap_grams_per_m: float
    core_turns_per_m: float
    """Twist of the core now, signed."""
    core_change: float
    """Change of the core's twist over what it came with; negative where it is loosened."""
    quiet_pretwist: float
    """Twist to give the core beforehand so that the wheel leaves it as it was [turns/m, signed]."""


@dataclass(frozen=True)
class WrappedReading:
    """Of a wrapped yarn, at scalar values."""

    coverage: float
    """``2 r_w t / (1000 sin θ)``; coils touch at 1."""
    coils_per_cm: float
    coil_radius: float
    """mm; ``sqrt(O² − 1)/(2πt)`` for overfeed O, at least where the helix itself lies."""


def legs_at(position: Floats, loop: Floats) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return which places of the strand lie side by side in a chain ply [mm along the strand].

    In link i, at x into it, the legs run over the strand at ``3iℓ + x``, ``3iℓ + 2ℓ − x`` and ``3iℓ + 2ℓ + x``.

    Args:
        position: along the chain, in mm of leg before take-up: ``iℓ + x``.
        loop: ℓ, the length of one leg, mm.
    """
    link = np.floor(np.asarray(position) / loop)
    into = position - link * loop
    first = CHAIN_LEGS * link * loop
    return first + into, first + 2 * loop - into, first + 2 * loop + into


def chain_position(strand: float, loop: float) -> float:
    """Return where along a chain ply a place of its strand comes to lie; see :func:`legs_at` [mm of leg]."""
    link, into = divmod(strand, CHAIN_LEGS * loop)
    place = into if into <= loop else abs(2 * loop - into)
    return link * loop + place


def chain(state: NestState) -> ChainReading:
    """Return the links of a chain ply; which leg lies where is said by :func:`legs_at`."""
    node = state.node
    assert isinstance(node, Chain)
    return ChainReading(
        links_per_m=float(1000 / (np.asarray(node.loop) * state.length)),
        bump=apparent_width(CHAIN_LEGS + 2) / apparent_width(CHAIN_LEGS),
        overlap_share=float(state.seats[0].consumption) - 1,
        mixed_over=CHAIN_LEGS * float(np.asarray(node.loop)),
    )


def core_spun(state: NestState) -> CoreReading:
    """Return what a core-spun yarn is like. The core takes the wheel's twist as well as the wrap."""
    node, core = state.node, state.seats[0].state
    assert isinstance(node, CoreSpun)
    twist = float(state.twist_now)
    middle = float(core.diameter + state.diameter) / 4
    angle = np.arctan(2 * np.pi * middle * abs(twist) / 1000)
    own = float(turns_of(node.core))
    return CoreReading(
        coverage=float(node.wrap.width * abs(twist) / (1000 * np.sin(angle))),
        wrap_grams_per_m=float(state.wrap_mass / state.length) / 1000,
        core_turns_per_m=float(core.twist_now),
        core_change=(abs(float(core.twist_now)) - abs(own)) / abs(own),
        quiet_pretwist=-twist,
    )


def wrapped(state: NestState) -> WrappedReading:
    """Return the coils of a wrapped yarn."""
    node = state.node
    assert isinstance(node, Wrapped)
    touching = sum(float(each.state.diameter) / 2 for each in state.seats)
    wound = 2 * np.pi / 1000 * float(state.twist_now)
    return WrappedReading(
        coverage=float(state.jamming),
        coils_per_cm=abs(float(state.twist_now)) / 100,
        coil_radius=max(float(np.tan(state.angle)) / wound, touching) if wound else touching,
    )


def away(state: NestState, place: int) -> float:
    """Return how far from the axis a seat's centre-line lies [mm]: a wrapper stands off by its coils."""
    stands_off = coiled(state.node) and place == len(state.seats) - 1
    return wrapped(state).coil_radius if stands_off else float(state.seats[place].radius)
