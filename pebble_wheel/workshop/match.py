"""One single matched to another strand: spun as thick as that comes off its own step."""

from collections.abc import Mapping

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.draft import Draft, Part, parts, replaced
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.edits import SIDES

WAYS = tuple(SIDES)


def models(draft: Draft, path: Address) -> list[tuple[Address, Part]]:
    """Return the strands that a single can be matched to: any but itself and what it is part of."""
    known = dict(parts(draft.yarn))
    if path not in known or known[path].kind != "single":
        return []
    return [(each, part) for each, part in known.items() if each != path and not path.lies_in(each)]


def matched(
    draft: Draft, path: Address, model: Address, reading: Reading, places: Mapping[Address, str], settings: Settings
) -> dict[str, Draft]:
    """Return the draft with a single spun as thick as another strand, each way it can be twisted.

    Args:
        draft: the yarn.
        path: of the single.
        model: the strand that it is to match.
        reading: of the yarn as it is.
        places: path of each part in the reading.
        settings: units in which its size is typed.

    Raises:
        InputError: where the reading has no such strand.
    """
    level = next((each for each in reading.levels if each.path == places.get(model)), None)
    if level is None:
        raise InputError(Fault(f"{path}.size", "there is no such strand to match"))
    thick = float(level.made.diameter)
    size = f"{thick / INCH:.4g} in" if settings.inches else f"{thick:.4g} mm"

    def spun(direction: str) -> Draft:
        typed = {"size": size, "direction": direction}
        return replaced(draft, lambda own, part: part.with_typed(typed) if own == path else part)

    return {direction: spun(direction) for direction in WAYS}
