"""One drafted strand held by twist: size, surface angle, retraction, and the spinner's measures of twist."""

import numpy as np

from pebble_wheel.mechanics.arrays import Floats


def diameter(tex: Floats, density: Floats, packing: Floats) -> Floats:
    """Return the diameter ``d = sqrt(4 T / (1000 π φ ρ))`` [mm].

    Args:
        tex: linear density T.
        density: of the fibre, ρ [g/cm³].
        packing: fraction φ of the cross-section that is fibre.

    Example:
        >>> round(float(diameter(100.0, 1.31, 0.4)), 3)
        0.493
    """
    return np.sqrt(4 * tex / (1000 * np.pi * packing * density))


FIRM_THREAD = 0.0374
"""mm per √tex of a bought thread that no diameter is given of (calibrated for this product)."""


def firm_thread(tex: Floats) -> Floats:
    """Return the diameter ``0.0374 √T`` [mm] of a bought thread that none is given of."""
    return FIRM_THREAD * np.sqrt(tex)


def tex_of_firm_thread(diameter: Floats) -> Floats:
    """Return the linear density [tex] of a bought thread of a diameter [mm]; the inverse of :func:`firm_thread`."""
    return (diameter / FIRM_THREAD) ** 2


def surface_tangent(diameter: Floats, turns_per_m: Floats) -> Floats:
    """Return ``tan α = π d t / 1000`` of the surface fibres, signed as the twist."""
    return np.pi / 1000 * diameter * turns_per_m


def surface_angle(diameter: Floats, turns_per_m: Floats) -> Floats:
    """Return the angle of the surface fibres from the axis, ``tan α = π d t / 1000`` [rad], signed as the twist."""
    return np.arctan(surface_tangent(diameter, turns_per_m))


def length_kept(tangent: Floats) -> Floats:
    """Return the length of an ideal helical yarn over that of its fibres untwisted, ``1 − tan²(α/2)``.

    Written by the tangent of α, ``2 / (1 + sqrt(1 + tan² α))``, which takes no trigonometry.

    References:
        [1] Hearle, Grosberg & Backer, Structural Mechanics of Fibers, Yarns and Fabrics, 1969 (from memory).
    """
    return 2 / (1 + np.sqrt(1 + tangent * tangent))


def retraction(angle: Floats) -> Floats:
    """Return the share of length lost by twisting fibres to a surface angle α; see :func:`length_kept`."""
    return 1 - length_kept(np.tan(angle))


def twist_factor(turns_per_m: Floats, tex: Floats) -> Floats:
    """Return the tex twist factor ``t √T`` in turns/cm · √tex, without sign (ISO 2061 terms)."""
    return np.abs(turns_per_m) / 100 * np.sqrt(tex)


def turns_for_factor(factor: Floats, tex: Floats) -> Floats:
    """Return the twist [turns/m] of a tex twist factor; the inverse of :func:`twist_factor`."""
    return 100 * factor / np.sqrt(tex)


def turns_per_staple(turns_per_m: Floats, staple: Floats) -> Floats:
    """Return how many turns hold one fibre of the staple length [mm]."""
    return np.abs(turns_per_m) * staple / 1000


def fibre_tex(density: Floats, fibre_diameter: Floats) -> Floats:
    """Return the linear density of one fibre, ``ρ π d²/4 · 10⁻³`` tex with d in µm.

    Example:
        >>> round(float(fibre_tex(1.31, 20.0)), 2)
        0.41
    """
    return density * np.pi * fibre_diameter**2 / 4 * 1e-3


def fibres_across(tex: Floats, density: Floats, fibre_diameter: Floats) -> Floats:
    """Return the mean number of fibres in the cross-section of a strand of linear density T [tex]."""
    return tex / fibre_tex(density, fibre_diameter)
