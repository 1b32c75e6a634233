"""Yarns to start from, each one action away."""

from dataclasses import dataclass

from pebble_wheel.mechanics.counts import INCH, YARD, grist_yd_per_lb
from pebble_wheel.mechanics.strand.single import twist_factor
from pebble_wheel.notation.draft import Draft, Part, fresh, replaced
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.spinning import twist_text
from pebble_wheel.notation.units import read_length, read_size, read_twist

_WOOD = ("#dcc9a3", "#8fa3a0", "#a8704f", "#5d6b86")


def _spun(colour: str, size: str = "100 tex", twist: str = "220 t/m", **more: str) -> Part:
    return fresh("single", colours=colour, size=size, twist=twist, **more)


def _plied(strands: int) -> Part:
    return fresh("ply", tuple(_spun(colour) for colour in _WOOD[:strands]))


def _cabled(plies: int, strands: int) -> Part:
    """Return plies, overplied by half, cabled the way the singles were spun."""
    fine = {"size": "60 tex", "twist": "300 t/m"}
    laid = tuple(fresh("ply", (_spun(colour, **fine, count=str(strands)),), twist="1.5") for colour in _WOOD[:plies])
    return fresh("ply", laid, direction="Z")


_CREPE = fresh(
    "ply",
    (
        fresh("ply", (_spun("#8fa3a0", "50 tex", "330 t/m", count="2"),), twist="1.6"),
        _spun("#dcc9a3", "100 tex", "260 t/m", direction="S"),
    ),
    direction="Z",
)

_CORE_SPUN = fresh(
    "core-spun",
    (fresh("ply", (_spun("#5d6b86", "60 tex", "260 t/m", count="2"),), twist="2.1"),),
    direction="Z",
    fibre="bfl",
    colours="#a8704f",
)
"""The core is overplied by as much as the wheel takes out of it, so that the yarn hangs quiet."""

_COILED = fresh(
    "wrapped",
    (
        fresh("bought", size="70 tex", twist="350 t/m", direction="S", colours="#5d6b86"),
        _spun("#a8704f", "240 tex", "90 t/m", fibre="mohair", prep="semi"),
    ),
)


@dataclass(frozen=True)
class Start:
    """A starting point."""

    words: str
    """What a person calls it."""
    yarn: Part


STARTS: dict[str, Start] = {
    "single": Start("single", _spun(_WOOD[0])),
    "2-ply": Start("2-ply", _plied(2)),
    "3-ply": Start("3-ply", _plied(3)),
    "4-ply": Start("4-ply", _plied(4)),
    "chain": Start("chain ply", fresh("chain", (_spun("#8fa3a0 #a8704f", run="4 m"),))),
    "cable-2x2": Start("cable 2 × 2", _cabled(2, 2)),
    "cable-2x3": Start("cable 2 × 3", _cabled(3, 2)),
    "crepe": Start("crepe", _CREPE),
    "core-spun": Start("core-spun", _CORE_SPUN),
    "coiled": Start("coiled", _COILED),
}
"""By name. A cable 2 × 3 is three 2-plies."""

FIRST = "3-ply"


def start(name: str, settings: Settings | None = None) -> Draft:
    """Return a fresh draft of a starting point, the first one for a name that is none.

    For a person, in the units of settings, the twist of its singles follows their gauge.
    """
    begun = STARTS.get(name, STARTS[FIRST])
    draft = Draft(name=f"A {begun.words}", yarn=begun.yarn)
    return replaced(draft, lambda _, part: part.with_typed(_for_a_person(part, settings))) if settings else draft


def _for_a_person(part: Part, settings: Settings) -> dict[str, str]:
    """Return what was typed in metric units and turns by factors, and in inches, yards and pounds on four figures."""
    typed: dict[str, str] = {}
    if part.kind == "single":
        factor = twist_factor(read_twist(part.of("twist"), "t/m"), read_size(part.of("size"), "tex").tex or 1.0)
        typed |= {"by": "factor", "twist": f"{float(factor):.4g}"}
    if settings.size == "yd/lb" and part.kind in ("single", "bought", "core-spun"):
        tex = read_size(part.of("size"), "tex").tex or 1.0
        typed["size"] = f"{float(grist_yd_per_lb(tex)):.4g} yd/lb"
    if settings.twist == "tpi" and part.kind != "single" and (part.kind == "bought" or part.of("by") == "turns"):
        typed["twist"] = twist_text(read_twist(part.of("twist"), "t/m"), settings)
    if settings.inches:
        for field in ("loop", "width"):
            if part.of(field):
                typed[field] = f"{read_length(part.of(field), 'mm') / INCH:.3g} in"
        if part.of("run"):
            typed["run"] = f"{read_length(part.of('run'), 'm') / 1000 / YARD:.3g} yd"
    return typed
