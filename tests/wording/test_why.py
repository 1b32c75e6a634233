"""Every figure has its reason: asked of the functions that say them."""

import pytest

from pebble_wheel.mechanics.finish.moments import MOMENTS
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.aim import read_aim, weights_of
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.wording.candidate import cells
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.figures import (
    kind_figures,
    level_figures,
    loop_figure,
    part_figures,
    rest_figures,
    size_figures,
    spinning_figures,
    yarn_figures,
)
from pebble_wheel.wording.finishing import cloth_figures, moment_figures
from pebble_wheel.wording.merits import MERITS
from pebble_wheel.wording.names import rows_of
from pebble_wheel.wording.why import Why, why
from pebble_wheel.wording.why_aim import candidate_why
from pebble_wheel.wording.why_finish import finish_why
from pebble_wheel.workshop.aim import candidates
from pebble_wheel.workshop.starts import STARTS, start
from tests.evaluated import EVALUATOR

PLAIN = Display()
IMPERIAL = Display(in_units(Settings(angle_from="crosswise", wpi_method="snug", weight_table="council"), "imperial"))


def whole(reason: Why | None) -> bool:
    """Whether a reason says all of it, with figures."""
    return bool(
        reason
        and all((reason.title, reason.part, reason.formula, reason.words, reason.source))
        and reason.inputs
        and all(name and value and "nan" not in value for name, value in reason.inputs)
    )


def asked_of(name: str, display: Display) -> list[tuple[str, Why | None]]:
    """Every figure of a start with its reason."""
    design = design_of(start(name), Settings())
    reading = EVALUATOR.read(design)
    rows = rows_of(design, reading)
    figures = [
        *yarn_figures(reading, display),
        *rest_figures(reading, display),
        *size_figures(reading, display),
        loop_figure(reading, display),
    ]
    for row in rows:
        figures += [
            *part_figures(row, reading, display),
            *spinning_figures(row, reading, display),
            *kind_figures(row, display),
            *level_figures(row, display),
        ]
    keys = dict.fromkeys(["matters@yarn", *(figure.why for figure in figures)])
    return [(key, why(key, rows, reading, display)) for key in keys]


@pytest.mark.parametrize("display", [PLAIN, IMPERIAL], ids=["metric", "imperial"])
def test_every_figure_of_every_start_has_its_reason(display):
    found = [(name, key, reason) for name in STARTS for key, reason in asked_of(name, display)]
    assert [(name, key) for name, key, reason in found if not whole(reason)] == []
    assert len(found) > 500
    assert all(reason.key == key for _, key, reason in found)


def test_what_a_part_does_not_have_has_no_reason():
    design = design_of(start("3-ply"), Settings())
    reading = EVALUATOR.read(design)
    rows = rows_of(design, reading)
    missing = ["nonsense", "now@nowhere", "coils@yarn", "links@yarn", "core@yarn", "@", "staple@yarn", "", "now"]
    assert [why(key, rows, reading, PLAIN) for key in missing] == [None] * len(missing)
    single = EVALUATOR.read(design_of(start("single"), Settings()))
    assert why("two thirds@yarn", rows_of(design_of(start("single"), Settings()), single), single, PLAIN) is None


def test_constants_in_reasons_are_those_it_was_read_by():
    design = design_of(start("3-ply"), Settings())
    reading = EVALUATOR.read(design)
    inputs = dict(why("ratio@yarn", rows_of(design, reading), reading, PLAIN).inputs)
    constants = EVALUATOR.constants
    assert inputs["k, bending over torsional stiffness"] == f"{constants.rod.bend_to_twist} ± {constants.spreads.bend}"
    spreads = dict(why("wpi@yarn", rows_of(design, reading), reading, PLAIN).inputs)
    assert (spreads["variants"], spreads["own samples"], spreads["twist"]) == ("2,048", "0", "cv 10%")


@pytest.mark.parametrize("name", ["3-ply", "core-spun", "single"])
@pytest.mark.parametrize("finish", [Finish("snap", "heavy"), Finish("full", "free", True, "severe"), Finish("none")])
def test_every_figure_of_finishing_has_its_reason(name, finish):
    reading = EVALUATOR.read(design_of(start(name), Settings()))
    moments = EVALUATOR.moments(reading, finish, 24.0)
    assert set(moments) <= set(MOMENTS) and {"fresh", "rested", "dried", "next"} <= set(moments)
    for at in moments.values():
        figures = [*moment_figures(at, PLAIN), *cloth_figures(moments["fresh"], at, PLAIN)]
        assert len(figures) == 14
        for figure in figures:
            assert whole(finish_why(figure.why, at, reading, finish, PLAIN)), (at.moment, figure.why)
    dried = moments["dried"]
    assert (
        finish_why("", dried, reading, finish, PLAIN) is finish_why("nonsense", dried, reading, finish, PLAIN) is None
    )


def test_every_figure_and_every_merit_of_every_candidate_has_its_reason():
    aim = read_aim({"grams": "120 g"}, (UNDYED,), Settings())
    found = candidates(EVALUATOR, aim, weights_of({}))
    assert {each.name for each in found} == set(STARTS)
    for each in found:
        for key in ("well", *cells(each, PLAIN), *MERITS):
            reason = candidate_why(key, each, aim, PLAIN)
            assert whole(reason) and reason.key == f"{key}@{each.name}", (each.name, key)
        for aspect, words in MERITS.items():
            reason = candidate_why(aspect, each, aim, PLAIN)
            assert (reason.title, reason.formula) == (words.words, words.formula)
        assert candidate_why("nonsense", each, aim, PLAIN) is candidate_why("", each, aim, PLAIN) is None
