"""Points that fill a cube evenly: a Sobol sequence, scrambled by a linear map of its binary digits and a shift."""

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.reading.directions import DIRECTIONS

BITS = 30

Bits = NDArray[np.int64]


def points(dimensions: int, doublings: int, seed: int) -> FloatArray:
    """Return ``2^doublings`` points within 0 to 1, one row a dimension.

    Args:
        dimensions: as many as :data:`DIRECTIONS` at the most.
        doublings: how often a single point is doubled.
        seed: of the scrambling.

    Raises:
        ValueError: for more dimensions than there are direction numbers.

    References:
        [1] Sobol 1967 in the order of Gray's code (Antonov and Saleev 1979); scrambling: Matousek 1998 (from memory).
    """
    if dimensions > len(DIRECTIONS):
        raise ValueError(f"at most {len(DIRECTIONS)} dimensions")
    random = np.random.default_rng(seed)
    shift = random.integers(2, size=(dimensions, BITS), dtype=np.uint32).astype(np.int64) @ (1 << np.arange(BITS))
    mix = np.tril(random.integers(2, size=(dimensions, BITS, BITS), dtype=np.uint32).astype(np.int64))
    mix[:, np.arange(BITS), np.arange(BITS)] = 1
    digits = _digits(np.stack([_numbers(each) for each in range(dimensions)]))
    mixed = np.einsum("dpk,djk->djp", mix, digits) % 2 @ (1 << np.arange(BITS)[::-1])
    whole = np.empty((dimensions, 1 << doublings), np.int64)
    whole[:, 0] = shift
    for bit in range(doublings):  # Gray's code runs through what was there backwards, with the next bit set
        there = 1 << bit
        np.bitwise_xor(whole[:, there - 1 :: -1], mixed[:, bit, None], out=whole[:, there : 2 * there])
    return whole / float(1 << BITS)


def _numbers(dimension: int) -> Bits:
    """Return the direction numbers of a dimension as whole numbers of so many bits, the largest first."""
    polynomial, first = DIRECTIONS[dimension]
    degree = polynomial.bit_length() - 1
    found = list(first) if degree else [1] * BITS
    for place in range(len(found), BITS):
        number = found[place - degree]
        for back in range(degree):
            if polynomial >> (degree - 1 - back) & 1:
                number ^= found[place - back - 1] << (back + 1)
        found.append(number)
    return np.array([number << (BITS - 1 - place) for place, number in enumerate(found)])


def _digits(numbers: Bits) -> Bits:
    """Return the binary digits of numbers along a further axis, the highest first."""
    return numbers[..., None] >> np.arange(BITS)[::-1] & 1
