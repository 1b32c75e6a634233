"""A project as typed: what is to be knitted, or what a pattern asks for."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import cast, get_args

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.finish.cloth import stitches
from pebble_wheel.mechanics.finish.projects import Large, Project, wraps_for_gauge, wraps_for_needle
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.needles import read_needle
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_gauge, read_size

PROJECT_FIELDS: dict[str, str] = {
    "project": "mittens",
    "large": "medium",
    "gauge": "",
    "needle": "",
    "size": "",
    "fibre": "corriedale",
    "at": "",
}
"""What can be typed, and what a new one holds."""

USUAL_SIZE = "worsted weight"
"""Where neither thickness, gauge nor needle is given: assumed."""


@dataclass(frozen=True)
class Wanted:
    """What is to be knitted, and how thick a yarn it asks for."""

    project: Project
    large: Large
    wraps: float
    """Relaxed, of the finished yarn."""
    stitches: float
    """In 10 cm."""
    needle_mm: float | None
    by: str
    """The field that says how thick: ``gauge``, ``size`` or ``needle``; empty where the usual was taken."""


def read_project(typed: Mapping[str, str], settings: Settings) -> Wanted:
    """Return what is wanted. A pattern's gauge says best how thick, then a thickness, then the needle.

    Raises:
        InputError: with every fault at its field.
    """
    faults: list[Fault] = []
    given = {field: typed.get(field, usual).strip() for field, usual in PROJECT_FIELDS.items()}

    def read(field: str, how: object) -> float | None:
        if not given[field]:
            return None
        try:
            return cast(float, how(given[field], field))  # type: ignore[operator]
        except InputError as error:
            faults.extend(error.faults)
            return None

    def wraps(text: str, place: str) -> float:
        size = read_size(text, "wpi", place, settings)
        if size.diameter_mm is None:
            raise InputError(Fault(place, "say how thick it is to be, like aran, 9 wpi or 2.5 mm"))
        return INCH / size.diameter_mm

    gauge = read("gauge", lambda text, place: read_gauge(text, settings.width_unit, place))
    needle = read("needle", lambda text, place: read_needle(text, settings.needle, place))
    thick = read("size", wraps)
    for field, choices in (("project", get_args(Project)), ("large", get_args(Large))):
        if given[field] not in choices:
            faults.append(Fault(field, f"choose one of {', '.join(choices)}"))
    if faults:
        raise InputError(*faults)
    project, large = cast(Project, given["project"]), cast(Large, given["large"])
    if gauge:
        return Wanted(project, large, float(wraps_for_gauge(gauge)), gauge, needle, "gauge")
    by = "size" if thick else "needle" if needle else ""
    found = thick or (float(wraps_for_needle(needle)) if needle else wraps(USUAL_SIZE, "size"))
    return Wanted(project, large, found, float(stitches(found)), needle, by)
