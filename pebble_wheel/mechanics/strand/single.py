"""One drafted strand held by twist: size, surface angle, retraction, and the spinner's measures of twist."""

from collections.abc import Sequence

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, Floats


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
    return np.sqrt(tex / packing * (4 / (1000 * np.pi * density)))


def tex_of(outer: Floats, density: Floats, packing: Floats, inner: Floats = 0.0) -> Floats:
    """Return the linear density [tex] of fibre between two diameters [mm]; of a solid strand see :func:`diameter`."""
    return 1000 * np.pi / 4 * packing * density * (outer**2 - inner**2)


def wrapped_diameter(core: Floats, tex: Floats, density: Floats, packing: Floats, turns_per_m: Floats) -> FloatArray:
    """Return the diameter D [mm] of a core wrapped with a strip of fibre, layer upon layer.

    ``√(1 + (πDt)²) − √(1 + (πd_c t)²) = A (2πt)²/2π`` with A the section of the strip: each layer's fibre is longer the
    further out it lies. Solved for D without dividing by t: ``D² = d_c² + 4A (u + πAt²)/π``, ``u = √(1 + (πd_c t)²)``.

    Args:
        core: d_c, mm.
        tex: of the drafted strip.
        density: of its fibre, g/cm³.
        packing: fraction of its section that is fibre.
        turns_per_m: t.

    Example:
        >>> round(float(wrapped_diameter(0.41, 800.0, 1.31, 0.06, 175.0)), 2)
        5.11
    """
    section = tex / (1000 * density * packing)
    twist = np.asarray(turns_per_m) / 1000
    straight = np.sqrt(1 + (np.pi * core * twist) ** 2)
    return np.sqrt(core**2 + 4 / np.pi * section * (straight + np.pi * section * twist**2))


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


def least_turns(before: Sequence[Floats], after: Sequence[Floats]) -> FloatArray:
    """Return the least twist [turns/m] that holds fibres while a strand and what it is plied into are twisted.

    Of ``√Σt²`` over the levels, signed twists going straight from before to after: the distance of that way from zero.
    A single twisted through nothing has none; one within a ply is then still held by the ply.
    """
    change = [new - old for old, new in zip(before, after, strict=True)]
    length = sum(each * each for each in change)
    along = -sum(old * each for old, each in zip(before, change, strict=True))
    share = np.minimum(np.maximum(along / (length + (length == 0)), 0.0), 1.0)
    squares = ((old + share * each) ** 2 for old, each in zip(before, change, strict=True))
    return np.asarray(np.sqrt(sum(squares)))


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


FIBRE_MODULUS = 3500.0
"""E of a wool fibre in bending [N/mm²]; about 3.5 GPa (from memory), taken for every fibre."""


def flexural_rigidity(tex: Floats, density: Floats, fibre_diameter: Floats) -> Floats:
    """Return the bending stiffness of a strand whose fibres bend one by one [N mm²].

    ``B = n E π d⁴/64`` with n fibres across; of linear density T [tex], d in µm: ``B = T E d² · 10⁻⁹ / 16ρ``.

    Example:
        >>> round(float(flexural_rigidity(100.0, 1.31, 28.0)), 4)
        0.0131
    """
    return fibres_across(tex, density, fibre_diameter) * FIBRE_MODULUS * np.pi * (fibre_diameter * 1e-3) ** 4 / 64
