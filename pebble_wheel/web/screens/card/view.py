"""A card put together from a yarn's reading."""

from dataclasses import replace
from datetime import datetime

from pebble_wheel.drawing.card import CHECK, Angle, Card, Fold, Gauge, Paper, Step
from pebble_wheel.mechanics.backwards.merits import steps_of
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.reading.reading import Level, Reading
from pebble_wheel.mechanics.strand.structure import Single
from pebble_wheel.notation.design import Design, new_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.sample import strand_of
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.wording.card import (
    ANTICLOCKWISE,
    CLOCKWISE,
    HEADINGS,
    angle_words,
    beat_lines,
    check_words,
    fold_words,
    gauge_words,
    step_words,
)
from pebble_wheel.wording.names import structure_words
from pebble_wheel.wording.plan import label_lines
from pebble_wheel.wording.thread import day_words

MOST_GAUGES, MOST_STEPS = 4, 6
"""That the page has room for."""


def card_of(design: Design, desk: Desk, day: datetime, paper: Paper, metres: float | None = None) -> Card:
    """Return the card of a design on a day, with the label of a skein of so many metres.

    Raises:
        InputError: where it cannot be made.
    """
    display, reading = desk.display, desk.evaluator.read(design, desk.settings)
    inches = desk.settings.inches
    made = list({level.node: level for level in reading.levels}.values())
    top, single = reading.levels[0], next((each for each in made if isinstance(each.node, Single)), None)
    steps = steps_of(made, desk.hands)
    return Card(
        design.name,
        day_words(day.astimezone()),
        structure_words(design.yarn),
        tuple(Gauge(gauge_words(each, display), _band(each, design, reading, desk)) for each in made[:MOST_GAUGES]),
        Angle(angle_words(top.angle, display), top.angle) if top.angle else None,
        _fold(single, reading, desk) if single else None,
        tuple(
            Step(
                step_words(each.level),
                "Z" if each.level.turns_per_m_as_made > 0 else "S",
                CLOCKWISE if each.level.turns_per_m_as_made > 0 else ANTICLOCKWISE,
                beat_lines(each.level.turns_per_m_as_made, desk.hands, display),
            )
            for each in reversed(steps[:MOST_STEPS])
        ),
        (check_words(inches), CHECK["inches" if inches else "metric"]),
        HEADINGS,
        paper,
        (design.name, *label_lines(reading, metres, day_words(day.astimezone()), display)),
    )


def _band(level: Level, design: Design, reading: Reading, desk: Desk) -> Band:
    """Return how thick a strand is meant to be as it comes off its own step, and where eight of ten lie."""
    if level.path == "yarn":
        return replace(reading.diameter_as_plied, p50=level.diameter)
    meant = float(level.made.diameter)
    try:
        alone = desk.evaluator.read(new_design("strand", strand_of(design, level.path).model_dump(exclude_none=True)))
    except InputError:
        return Band(meant, meant, meant)
    return replace(alone.diameter_as_plied, p50=meant)


def _fold(single: Level, reading: Reading, desk: Desk) -> Fold:
    turns = reading.singles[single.path].ply_back_turns_per_m
    return Fold(fold_words(turns, desk.display), float(single.made.diameter), turns)
