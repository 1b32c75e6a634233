"""An aim as an address holds it, which the aiming screen writes and the constructing screen opens."""

from dataclasses import dataclass, replace
from urllib.parse import parse_qsl, urlencode

from starlette.datastructures import ImmutableMultiDict

from pebble_wheel.notation.aim import FIELDS, Aim, read_aim, weights_of
from pebble_wheel.notation.colour import UNDYED, is_colour
from pebble_wheel.notation.faults import InputError
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.forms import Fields, several
from pebble_wheel.workshop.aim import Candidate, candidates
from pebble_wheel.workshop.starts import STARTS

MOST_COLOURS = 12
MOST_TYPED = 200
MOST_IN_A_QUERY = 60


@dataclass(frozen=True)
class Aimed:
    """What was typed for an aim, with the colours in hand."""

    typed: dict[str, str]
    colours: tuple[str, ...]

    @property
    def query(self) -> str:
        """The aim as a query; what was left as it was is left out."""
        own = [(field, value) for field, value in self.typed.items() if value != FIELDS[field]]
        return urlencode([*own, *(("colours", colour) for colour in self.colours if self.colours != (UNDYED,))])


def read_aimed(fields: Fields) -> Aimed:
    """Return the aim in a form or a query; a weight class that was picked is a size."""
    typed = {field: str(fields[field])[:MOST_TYPED] for field in FIELDS if field in fields}
    if fields.get("class"):
        typed["size"] = str(fields["class"])[:MOST_TYPED]
    colours = tuple(each for each in several(fields, "colours") if is_colour(each))[:MOST_COLOURS]
    return Aimed({**FIELDS, **typed}, colours or (UNDYED,))


def aim_of(aimed: Aimed, desk: Desk) -> Aim:
    """Return the aim that was typed; a lot says its fibre, and what is left of it where no grams are typed.

    Raises:
        InputError: with every fault, placed at its field.
    """
    lot, typed, colours = desk.lot(aimed.typed["fibre"]), aimed.typed, aimed.colours
    if lot:
        grams = f"{lot.left:g} g" if lot.left else ""
        typed = {**typed, "fibre": lot.lot.fibre.model_dump_json(exclude_none=True), "grams": typed["grams"] or grams}
        colours = tuple(lot.lot.colours)[:MOST_COLOURS] if colours == (UNDYED,) else colours
    aim = read_aim(typed, colours, desk.settings, desk.tools.hands(typed["made_on"]))
    return replace(aim, own_waste=lot.lot.waste, lot=lot.lot) if lot else aim


def candidate_of(desk: Desk, query: str) -> Candidate | None:
    """Return the structure that a query names, spun to the aim that it holds; None where it cannot be read."""
    fields = ImmutableMultiDict(parse_qsl(query, keep_blank_values=True)[:MOST_IN_A_QUERY])
    aimed = read_aimed(fields)
    name = str(fields.get("structure", ""))
    if name not in STARTS:
        return None
    try:
        aim = aim_of(aimed, desk)
    except InputError:
        return None
    found = candidates(desk.evaluator, aim, weights_of(aimed.typed), frozenset(STARTS) - {name})[0]
    size = f"{aimed.typed['size']} {'finished' if aimed.typed['stage'] == 'finished' else 'as plied'}"
    return replace(found, begun=found.begun.model_copy(update={"name": f"{found.words}, {size}"}))
