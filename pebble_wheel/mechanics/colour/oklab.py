"""Colours as the eye weighs them: OKLab, from and to sRGB, and means of light.

References:
    [1] Ottosson, A perceptual color space for image processing, 2020: OKLab, its matrices.
    [2] IEC 61966-2-1, sRGB.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.mechanics.arrays import FloatArray, Floats

_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB, _FROM_CONES = np.linalg.inv(_TO_LAB), np.linalg.inv(_TO_CONES)


def linear(srgb: Floats) -> FloatArray:
    """Return linear light of sRGB components, both 0 to 1."""
    own = np.asarray(srgb, float)
    return np.where(own <= 0.04045, own / 12.92, ((own + 0.055) / 1.055) ** 2.4)


def encoded(light: Floats) -> FloatArray:
    """Return sRGB components of linear light, held within 0 and 1; the inverse of :func:`linear`."""
    own = np.clip(np.asarray(light, float), 0.0, 1.0)
    return np.where(own <= 0.0031308, 12.92 * own, 1.055 * own ** (1 / 2.4) - 0.055)


def oklab(srgb: FloatArray) -> FloatArray:
    """Return OKLab (L, a, b) of sRGB colours, both of shape (…, 3).

    Example:
        >>> [round(float(each), 3) + 0.0 for each in oklab(np.array([1.0, 1.0, 1.0]))]
        [1.0, 0.0, 0.0]
    """
    return np.asarray(np.cbrt(linear(srgb) @ _TO_CONES.T) @ _TO_LAB.T)


def srgb(lab: FloatArray) -> FloatArray:
    """Return sRGB colours of OKLab, held to what a screen can show; the inverse of :func:`oklab`."""
    return encoded((lab @ _FROM_LAB.T) ** 3 @ _FROM_CONES.T)


LEVELS = 1 << 14
"""Of linear light that bytes are looked up for: as fine as a tenth of a byte where the curve is steepest."""


@lru_cache(maxsize=1)
def _bytes() -> NDArray[np.uint8]:
    return np.rint(255 * encoded(np.arange(LEVELS) / (LEVELS - 1))).astype(np.uint8)


def srgb_bytes(lab: FloatArray) -> NDArray[np.uint8]:
    """Return OKLab colours as pictures hold them, of the same shape: :func:`srgb` looked up, to one byte."""
    light = np.clip((lab @ _FROM_LAB.T) ** 3 @ _FROM_CONES.T, 0.0, 1.0)
    return _bytes()[np.rint(light * (LEVELS - 1)).astype(np.intp)]


def chroma(lab: FloatArray) -> FloatArray:
    """Return how colourful colours are, ``√(a² + b²)``, of shape (…)."""
    return np.hypot(lab[..., 1], lab[..., 2])


def difference(lab: FloatArray, other: FloatArray) -> FloatArray:
    """Return how far colours lie apart: the distance in OKLab, of shape (…); 0.02 is just seen (assumed)."""
    return np.asarray(np.linalg.norm(lab - other, axis=-1))


def carded(srgbs: FloatArray, shares: FloatArray) -> FloatArray:
    """Return the OKLab of fibres blended on cards: the mean of their light, by shares.

    Args:
        srgbs: of shape (colours, 3).
        shares: of shape (colours,), any sum above 0.
    """
    return oklab(encoded(np.average(linear(srgbs), axis=0, weights=shares)))
