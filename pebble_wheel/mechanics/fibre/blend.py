"""Fibres carded or combed together, taken as one fibre of their means."""

from collections.abc import Sequence

from pebble_wheel.mechanics.fibre.table import Fibre, Range


def blend(name: str, parts: Sequence[tuple[Fibre, float]]) -> Fibre:
    """Return a blend as one fibre.

    Specific volumes, diameters, crimps, B and twist factors are means by mass, ``x = Σ wᵢ xᵢ``; staples are harmonic
    means, ``1/s = Σ wᵢ/sᵢ``, so that the short ones say most of the least twist.

    Args:
        name: what it is called.
        parts: each fibre with its share by mass, of any sum.

    Source: volumes add (geometry); the other means are assumed.

    Raises:
        ValueError: where no share is above zero.
    """
    whole = sum(share for _, share in parts)
    if not whole > 0:
        raise ValueError("a blend is of shares above zero")
    shares = [(fibre, share / whole) for fibre, share in parts]

    def mean(low_high: Sequence[Range]) -> Range:
        low, high = (sum(w * each[end] for (_, w), each in zip(shares, low_high, strict=True)) for end in (0, 1))
        return low, high

    low, high = (1 / sum(w / fibre.staple[end] for fibre, w in shares) for end in (0, 1))
    largest = max(shares, key=lambda each: each[1])[0]
    return Fibre(
        "own",
        name,
        largest.family,
        1 / sum(w / fibre.density for fibre, w in shares),
        mean([fibre.micron for fibre, _ in shares]),
        (low, high),
        mean([fibre.crimp for fibre, _ in shares]),
        sum(w * fibre.bloom for fibre, w in shares),
        mean([fibre.factor for fibre, _ in shares]),
        "means by mass",
        tuple(shares) if len(shares) > 1 else (),
    )
