"""The yarn of many strands that is timed, and looked at in tests."""

from pebble_wheel.notation.draft import Draft, fresh


def _cable() -> Draft:
    laid = fresh("single", size="50 tex", twist="320 t/m", count="2")
    for multiple, direction, count in (("1.8", "S", "3"), ("1.5", "Z", "4"), ("1.0", "S", "1")):
        laid = fresh("ply", (laid,), twist=multiple, direction=direction, count=count)
    return Draft(name="Cable", yarn=laid)


CABLE = _cable()
