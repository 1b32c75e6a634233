"""What yarns are found by besides words, worked out of each once: wraps, what its plan is short of, colours."""

import sqlite3
from collections.abc import Iterable
from datetime import date

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import designs, search
from pebble_wheel.store.pool import Connections
from pebble_wheel.store.rows import DamagedError
from pebble_wheel.store.search import Facts
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.planned import planned_of, ticked, typed_for, worked_out
from pebble_wheel.workshop.colour import Palette, colours_of_lot

AT_A_TIME, BY_AND_BY = 24, 4
"""Designs worked out after a request that asked for them, and after any other look at the shelf."""

UNMADE = Facts(0.0, 0.0, 0.0, 0.0, ())
"""Of a design that cannot be made any more, or read."""


def reckon_facts(connection: sqlite3.Connection, desk: Desk, numbers: Iterable[int]) -> None:
    """Work out and keep what designs are found by."""
    found = {number: _facts(connection, desk, number) for number in numbers}
    if found:
        search.keep_facts(connection, found)


def reckon_later(connections: Connections, desk: Desk, most: int) -> None:
    """Work out some designs of which nothing is known yet, as far as there are any."""
    with connections.lent() as connection:
        reckon_facts(connection, desk, search.unknown(connection, most))


def _facts(connection: sqlite3.Connection, desk: Desk, number: int) -> Facts:
    try:
        design = designs.find(connection, number).design
        reading = desk.evaluator.read(design, desk.settings)
    except (InputError, DamagedError, designs.NotKeptError):
        return UNMADE
    planned = planned_of(connection, number)
    typed = planned.typed if planned else {}
    text = f"{design.model_dump_json()} {' '.join(typed.values())}"
    lots = [each for each in desk.lots if each.uid in text]
    colours = {*dress_of(design.yarn).every, *(colour for each in lots for colour in colours_of_lot(each.lot))}
    wraps, short = reading.wpi_finished, 0.0
    if planned is not None:
        worked = worked_out(design, typed_for(design, typed, desk.lots), ticked(planned), desk, date.today())
        short = sum(each.short for each in worked.reckoned.strands) if worked.plan.want != "all" else 0.0
    labs = [(float(light), float(a), float(b)) for light, a, b in Palette(tuple(sorted(colours))).labs]
    return Facts(wraps.p10, wraps.p50, wraps.p90, short, tuple(labs), tuple(each.uid for each in lots))
