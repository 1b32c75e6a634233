"""A yarn being built: what is typed means the design it says, and every action leaves a yarn behind."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import check_design, ends_of, read_design, write_design
from pebble_wheel.notation.draft import (
    FIELDS,
    Draft,
    design_of,
    draft_of,
    fresh,
    part_at,
    parts,
    read_draft,
    write_draft,
)
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.workshop.edits import done, likes, offered, typed_into
from pebble_wheel.workshop.settle import overplied, settled
from pebble_wheel.workshop.starts import STARTS, start
from tests.evaluated import EVALUATOR, read_of
from tests.test_any_structure import laid as laid_from
from tests.test_any_structure import leaves

METRIC, IMPERIAL = Settings(), in_units(Settings(angle_from="crosswise", wpi_method="snug"), "imperial")


def faults(draft: Draft, chosen: Settings = METRIC) -> list[str]:
    with pytest.raises(InputError) as refused:
        design_of(draft, chosen)
    return [fault.place for fault in refused.value.faults]


def with_field(kind: str, path: str, field: str, typed: str) -> Draft:
    return typed_into(start(kind), path, {field: typed}, together=False)


@pytest.mark.parametrize("name", STARTS)
def test_every_start_can_be_made_and_comes_back_from_its_file(name):
    draft = start(name)
    design = design_of(draft, METRIC)
    read_of(design)
    assert design_of(draft_of(design), METRIC) == design == read_design(write_design(design).encode())
    assert read_draft(write_draft(draft)) == draft


def test_the_starts_are_what_they_are_called():
    strands = {name: ends_of(design_of(start(name), METRIC).yarn) for name in STARTS}
    assert strands == {
        "single": 1, "2-ply": 2, "3-ply": 3, "4-ply": 4, "chain": 1, "cable-2x2": 4, "cable-2x3": 6, "crepe": 3,
        "core-spun": 2, "coiled": 2,
    }  # fmt: skip
    for name in ("2-ply", "3-ply", "4-ply", "chain", "cable-2x2", "cable-2x3", "crepe"):
        assert read_of(design_of(start(name), METRIC)).balance.verdict == "balanced", name


@given(st.recursive(leaves, laid_from, max_leaves=4))
def test_any_design_is_typed_and_read_back_the_same(yarn):
    try:
        design = check_design({"format": "pebble-wheel-design", "version": 1, "name": "any", "yarn": yarn})
    except InputError:
        return
    again = design_of(read_draft(write_draft(draft_of(design))), METRIC)
    assert draft_of(again) == draft_of(design)
    assert write_design(design_of(draft_of(again), IMPERIAL)) == write_design(again)


def test_the_gauge_typed_is_the_gauge_read_back():
    draft = typed_into(start("single"), "yarn", {"size": "30 wpi", "twist": "6 tpi"}, together=False)
    assert 25.4 / read_of(design_of(draft, METRIC)).singles["yarn"].diameter == pytest.approx(30, rel=1e-6)


def test_numbers_without_a_unit_follow_the_settings():
    def node(chosen, **typed):
        return design_of(typed_into(start("single"), "yarn", typed, together=False), chosen).yarn

    assert node(IMPERIAL, twist="6").twist.turns_per_m == pytest.approx(236.22, abs=0.01)
    assert node(IMPERIAL, size="5000").tex == pytest.approx(99.2, abs=0.05)
    assert node(METRIC, twist="230").twist.turns_per_m == 230


@pytest.mark.parametrize(
    ("kind", "path", "field", "typed"),
    [
        ("single", "yarn", "size", "thick"), ("single", "yarn", "size", "-5 tex"),
        ("single", "yarn", "size", "0.1 tex"),
        ("3-ply", "yarn.strands[2]", "size", "9e8 tex"), ("3-ply", "yarn.strands[1]", "twist", "8 oz"),
        ("single", "yarn", "twist", "30000"), ("single", "yarn", "fibre", "unicorn"),
        ("single", "yarn", "fibre", '{"a'),
        ("single", "yarn", "colours", "red"), ("3-ply", "yarn", "twist", "lots"), ("3-ply", "yarn", "twist", "0"),
        ("3-ply", "yarn", "twist", "nan"), ("3-ply", "yarn", "twist", "99"), ("3-ply", "yarn", "direction", "Q"),
        ("3-ply", "yarn.strands[0]", "count", "many"), ("3-ply", "yarn.strands[0]", "count", "99"),
        ("3-ply", "yarn", "share", "2"), ("chain", "yarn", "loop", "3 oz"), ("chain", "yarn.strand", "run", "0 m"),
        ("core-spun", "yarn", "size", "22 wpi"), ("core-spun", "yarn", "width", "wide"),
        ("core-spun", "yarn", "fibre", "tinsel"), ("coiled", "yarn", "overfeed", "0.5"),
        ("coiled", "yarn.binder", "thick", "-1 mm"), ("coiled", "yarn.wrapper", "prep", "raw"),
    ],
)  # fmt: skip
def test_a_fault_belongs_to_its_part_and_field(kind, path, field, typed):
    assert f"{path}.{field}" in faults(with_field(kind, path, field, typed))


@pytest.mark.parametrize(
    ("field", "typed"),
    [("name", " "), ("name", "x" * 130), ("name", "a\x00b"), ("wash", "boil"), ("drying", "oven")],
)
def test_a_fault_of_the_yarn_itself_belongs_to_its_field(field, typed):
    assert faults(start("3-ply").model_copy(update={field: typed})) == [field]


def test_all_faults_are_told_at_once():
    draft = with_field("3-ply", "yarn", "twist", "z")
    draft = typed_into(draft, "yarn.strands[1]", {"size": "x", "twist": "y"}, together=False)
    assert set(faults(draft)) == {"yarn.twist", "yarn.strands[1].size", "yarn.strands[1].twist"}


@pytest.mark.parametrize("text", ["", "{}", "[", '{"yarn":{"kind":"rope"}}', '{"yarn":{"kind":"ply"}}', '{"yarn":3}'])
def test_what_is_no_draft_is_refused(text):
    with pytest.raises(InputError):
        read_draft(text)


def test_likes_change_together_but_keep_their_colours_and_counts():
    draft = start("cable-2x3")
    one = "yarn.strands[1].strands[0]"
    assert likes(draft, one) == 2
    together = typed_into(draft, one, {"size": "75 tex", "colours": "#000000"}, together=True)
    assert [part.of("size") for _, part in parts(together.yarn) if part.kind == "single"] == ["75 tex"] * 3
    assert part_at(together, one).of("colours") == "#000000"
    assert part_at(together, "yarn.strands[0].strands[0]").of("colours") != "#000000"
    alone = typed_into(draft, one, {"size": "75 tex"}, together=False)
    assert sorted(part.of("size") for _, part in parts(alone.yarn) if part.kind == "single")[-1] == "75 tex"
    assert likes(alone, one) == 0


def test_colours_are_added_and_taken_away_one_by_one_and_never_all():
    draft = start("single")
    seen = [part_at(draft, "yarn").colours]
    for action in ("more-colours", "more-colours", "fewer-colours", "fewer-colours", "fewer-colours"):
        draft = done(draft, WHOLE, action).draft
        seen.append(part_at(draft, "yarn").colours)
    assert [len(colours) for colours in seen] == [1, 2, 3, 2, 1, 1]
    assert seen[2][:2] == seen[1] == seen[3] and len(set(seen[2])) == 3
    assert all(design_of(draft, METRIC).yarn.colours for draft in (draft, done(draft, WHOLE, "fewer-colours").draft))


def structure(draft: Draft) -> str:
    def said(part):
        inner = " ".join(said(each) for each in part.inner)
        return f"{part.count if part.count > 1 else ''}{part.kind}" + (f"({inner})" if inner else "")

    return said(draft.yarn)


@pytest.mark.parametrize(
    ("kind", "path", "action", "after", "held"),
    [
        ("single", "yarn", "add", "ply(2single)", "yarn"),
        ("3-ply", "yarn", "add", "ply(single single 2single)", "yarn"),
        ("2-ply", "yarn.strands[0]", "add", "ply(2single single)", "yarn.strands[0]"),
        ("cable-2x2", "yarn.strands[1]", "add", "ply(ply(3single) ply(3single))", "yarn.strands[1]"),
        ("2-ply", "yarn", "ply", "ply(2ply(single single))", "yarn"),
        ("2-ply", "yarn.strands[0]", "ply", "ply(ply(2single) ply(2single))", "yarn.strands[0]"),
        ("single", "yarn", "chain", "chain(single)", "yarn"),
        ("2-ply", "yarn", "core", "core-spun(ply(single single))", "yarn"),
        ("single", "yarn", "coil", "wrapped(bought single)", "yarn"),
        ("2-ply", "yarn.strands[0]", "duplicate", "ply(single single single)", "yarn.strands[1]"),
        (
            "cable-2x2", "yarn.strands[0].strands[0]", "part",
            "ply(ply(single single) ply(2single))", "yarn.strands[0].strands[1]",
        ),
        ("crepe", "yarn.strands[0]", "swap", "ply(single ply(2single))", "yarn.strands[1]"),
        ("coiled", "yarn.binder", "swap", "wrapped(single bought)", "yarn.wrapper"),
        ("crepe", "yarn.strands[1]", "thread", "ply(ply(2single) bought)", "yarn.strands[1]"),
        ("coiled", "yarn.binder", "spin", "wrapped(single single)", "yarn.binder"),
        ("chain", "yarn", "open", "single", "yarn"),
        ("coiled", "yarn", "open", "single", "yarn"),
        ("3-ply", "yarn.strands[1]", "remove", "ply(single single)", "yarn.strands[0]"),
        ("2-ply", "yarn.strands[1]", "remove", "single", "yarn"),
        ("crepe", "yarn.strands[0].strands[0]", "remove", "ply(single single)", "yarn.strands[0]"),
        ("single", "yarn", "remove", "single", "yarn"),
    ],
)  # fmt: skip
def test_each_action_builds_what_it_says(kind, path, action, after, held):
    built = done(start(kind), Address(path), action)
    assert structure(built.draft) == after and part_at(built.draft, built.at)
    assert built.at == held


def test_turning_a_part_over_twice_gives_it_back():
    for name in STARTS:
        draft = start(name)
        over = done(draft, WHOLE, "mirror").draft
        assert over != draft and done(over, WHOLE, "mirror").draft == draft
        assert read_of(design_of(over, METRIC)).balance.verdict == read_of(design_of(draft, METRIC)).balance.verdict


@given(st.sampled_from(list(STARTS)), st.lists(st.tuples(st.integers(0, 99), st.integers(0, 99)), max_size=5))
def test_any_actions_in_any_order_leave_a_tree_and_all_that_was_typed(name, choices):
    draft = start(name)
    for first, second in choices:
        paths = [path for path, _ in parts(draft.yarn)]
        path = paths[first % len(paths)]
        actions = offered(draft, path)
        built = done(draft, path, actions[second % len(actions)].name)
        assert part_at(built.draft, built.at)
        draft = read_draft(write_draft(built.draft))
    for _, part in parts(draft.yarn):
        assert set(part.typed) <= set(FIELDS[part.kind])


@pytest.mark.parametrize(
    ("kind", "path", "action"),
    [
        ("2-ply", "yarn", "ply"), ("2-ply", "yarn.strands[0]", "ply"), ("3-ply", "yarn.strands[1]", "chain"),
        ("chain", "yarn", "ply"), ("cable-2x2", "yarn", "ply"), ("cable-2x3", "yarn.strands[0]", "open"),
        ("crepe", "yarn", "ply"), ("2-ply", "yarn", "add"), ("coiled", "yarn.wrapper", "ply"),
        ("crepe", "yarn.strands[1]", "mirror"), ("core-spun", "yarn.core.strands[0]", "ply"),
    ],
)  # fmt: skip
def test_what_is_built_is_settled_into_a_yarn_that_can_be_made(kind, path, action):
    built = done(start(kind), Address(path), action)
    draft = overplied(built.draft, built.at) if action == "ply" else built.draft
    read_of(design_of(settled(EVALUATOR, draft, METRIC), METRIC))


def test_plies_plied_together_are_overplied_since_calm_ones_hold_no_cable():
    """Common practice, no source: a cable is made of deliberately overplied plies."""
    built = done(start("2-ply"), WHOLE, "ply")
    cable = overplied(built.draft, built.at)
    assert part_at(cable, "yarn.strands[0]").of("twist") == "1.5"
    reading = read_of(design_of(settled(EVALUATOR, cable, METRIC), METRIC))
    assert reading.balance.ratio == pytest.approx(1.0) and reading.levels[0].turns_per_m_as_made > 0


def test_an_own_fibre_and_its_colours_come_through():
    own = '{"name":"Moss","density":1.3,"micron":[20,24],"staple":[60,90],"bloom":0.2}'
    draft = Draft(name="Moss", yarn=fresh("single", fibre=own, colours="#112233 #445566", run="40 cm", size="24 wpi"))
    design = design_of(draft, METRIC)
    assert design.yarn.fibre.name == "Moss" and design.yarn.colours == ["#112233", "#445566"]
    assert design.yarn.colour_run_m == pytest.approx(0.4)
    assert design_of(draft_of(design), METRIC) == design
