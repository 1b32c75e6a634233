"""What turns, widths and angles of a yarn in a picture have to do with each other.

References:
    [1] Hearle, Grosberg, Backer, Structural Mechanics of Fibers, Yarns, and Fabrics, 1969: the helix (from memory).
"""

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats

SILHOUETTE = (1.0, 1.0, 1.20, 1.10, 1.06)
"""Enveloping over apparent diameter by the number of strands: 1 for a single; tried on drawn photos."""


def envelope_over_silhouette(strands: int) -> float:
    """Return how much wider a ply's enveloping cylinder is than its silhouette on the mean."""
    return SILHOUETTE[min(strands, len(SILHOUETTE) - 1)]


def centre_radius(enveloping: Floats, strands: int) -> FloatArray:
    """Return the radius of the centre-lines of touching strands in a cylinder, ``R = D/2 · 1/(1 + sin π/n)``.

    Args:
        enveloping: D [mm].
        strands: n; of one it is none.

    Example:
        >>> float(centre_radius(2.0, 2))
        0.5
    """
    if strands < 2:
        return np.zeros_like(np.asarray(enveloping, float))
    return np.asarray(enveloping) / 2 / (1 + np.sin(np.pi / strands))


def centre_angle(turns_per_m: Floats, enveloping: Floats, strands: int) -> FloatArray:
    """Return the helix angle of the strands' centre-lines, ``tan β = 2π R T``, radians, signed."""
    return np.arctan(2 * np.pi * centre_radius(enveloping, strands) * np.asarray(turns_per_m) / 1000)


def surface_angle(turns_per_m: Floats, enveloping: Floats) -> FloatArray:
    """Return the angle at the surface of the enveloping cylinder, ``tan θ = π D T``, radians, signed.

    Example:
        >>> round(float(np.degrees(surface_angle(1000 / np.pi, 1.0))), 6)
        45.0
    """
    return np.arctan(np.pi * np.asarray(enveloping) * np.asarray(turns_per_m) / 1000)


def turns_of_fibre(angle: Floats, diameter: Floats) -> FloatArray:
    """Return the turns/m of a single whose surface fibres lean so, ``T = tan α / π d``; the inverse of the above."""
    return 1000 * np.tan(angle) / (np.pi * np.asarray(diameter))


def turns_by_bumps(bumps: Floats, length: Floats, strands: int) -> FloatArray:
    """Return the turns/m of a ply with so many bumps along one edge over a length [mm], ``T = b / (n ℓ)``.

    Example:
        >>> float(turns_by_bumps(10, 50.0, 2))
        100.0
    """
    return 1000 * np.asarray(bumps) / (strands * np.asarray(length))


def off_by_pointing(pixels: Floats, over: Floats) -> FloatArray:
    """Return how far a length between two points may be off, as a share: both are set to within so many pixels.

    ``√2 p / ℓ``.

    Args:
        pixels: p, a standard deviation of one point.
        over: ℓ, between them [pixels].
    """
    return np.sqrt(2) * np.asarray(pixels) / np.asarray(over)
