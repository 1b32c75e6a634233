"""A yarn just built by hand is brought to one that can be made: plies laid the way their strands want to go."""

from pebble_wheel.notation.address import Address
from pebble_wheel.notation.draft import Draft, Part, design_of, part_at, parts, replaced
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.edits import SIDES, typed_into
from pebble_wheel.workshop.evaluator import Evaluator

CALM = "60 t/m"
"""For strands that want no twist either way."""


def settled(evaluator: Evaluator, draft: Draft, settings: Settings) -> Draft:
    """Return the draft with every multiple of balance on the side where there is one, turns where there is none.

    What cannot be read is left as it is.
    """
    turned: set[Address] = set()
    for _ in range(2 * len(list(parts(draft.yarn)))):
        try:
            path = evaluator.unbalanced(design_of(draft, settings))
        except InputError:
            return draft
        if path is None:
            break
        draft = _changed(draft, path, turned=path in turned)
        turned.add(path)
    return draft


def _changed(draft: Draft, path: Address, turned: bool) -> Draft:
    if not turned:
        return typed_into(draft, path, {"direction": SIDES.get(part_at(draft, path).of("direction"), "S")}, True)
    return typed_into(draft, path, {"by": "turns", "twist": CALM}, True)


def overplied(draft: Draft, path: Address) -> Draft:
    """Return the draft with the plies within a newly cabled part overplied, since calm plies cannot hold a cable."""

    def liven(place: Address, part: Part) -> Part:
        calm = part.kind in ("ply", "chain") and part.of("by") == "balance" and part.of("twist").strip() in ("1", "1.0")
        return part.with_typed({"twist": "1.5"}) if calm and place.above == path else part

    return replaced(draft, liven)
