"""The design file: what is read, what is refused and where, and that writing leads back."""

import copy
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.notation.design import (
    MOST_BYTES,
    Design,
    InputError,
    check_design,
    ends_of,
    read_design,
    structure_of,
    walk,
    write_design,
)
from pebble_wheel.wording.answer import answer_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import rest_words, rows_of
from tests.evaluated import read_of

TWIST = {"turns_per_m": 220, "direction": "Z"}
SINGLE = {"kind": "single", "fibre": "romney", "prep": "combed", "tex": 150, "twist": TWIST}
PLY = {"kind": "ply", "twist": {"of_balanced": 1, "direction": "S"}, "strands": [{**SINGLE, "count": 3}]}
WHOLE = {
    "format": "pebble-wheel-design",
    "version": 1,
    "name": "Bell-pull",
    "yarn": PLY,
    "finish": {"wash": "soak", "drying": "free"},
}


def changed(path: str, value: object) -> dict:
    """Return the whole design with one place changed; a value of ... takes the place out."""
    whole = copy.deepcopy(WHOLE)
    *way, last = path.split(".")
    place = whole
    for step in way:
        place = place[int(step)] if step.isdigit() else place[step]
    if value is ...:
        del place[last]
    else:
        place[last] = value
    return whole


def faults_of(value: object) -> list[str]:
    with pytest.raises(InputError) as refused:
        check_design(value)
    return [str(fault) for fault in refused.value.faults]


def test_the_example_reads_and_writes_back_the_same():
    design = check_design(WHOLE)
    assert design.name == "Bell-pull" and ends_of(design.yarn) == 3
    assert read_design(write_design(design).encode()) == design


twists = st.fixed_dictionaries({"turns_per_m": st.floats(1, 2000), "direction": st.sampled_from("SZ")})
single_models = st.fixed_dictionaries(
    {
        "kind": st.just("single"),
        "fibre": st.sampled_from(["merino", "cotton", "silk"]),
        "prep": st.sampled_from(["combed", "semi", "carded"]),
        "tex": st.floats(0.5, 5000),
        "twist": twists,
    },
    optional={"draw": st.sampled_from(["short", "long"]), "colours": st.just(["#aa7744"])},
)
node_models = st.recursive(
    single_models,
    lambda inner: st.builds(
        lambda node, count, twist: {"kind": "ply", "strands": [{**node, "count": count}], "twist": twist},
        inner,
        st.integers(2, 2),
        twists,
    ),
    max_leaves=3,
)


@given(node_models, st.text(st.characters(exclude_categories=["Cc", "Cs"]), min_size=1, max_size=40))
def test_any_design_comes_back_from_its_text(yarn, name):
    design = check_design({"format": "pebble-wheel-design", "version": 1, "name": name, "yarn": yarn})
    assert read_design(write_design(design).encode()) == design


@given(st.binary(max_size=200))
def test_junk_bytes_are_refused_and_never_crash(data):
    with pytest.raises(InputError):
        read_design(data)


values = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8),
    lambda inner: (
        st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from([*SINGLE, *PLY, "x"]), inner, max_size=4)
    ),
    max_leaves=12,
)


@given(values, st.sampled_from(["yarn", "yarn.strands", "yarn.twist", "yarn.strands.0.tex", "name", "finish"]))
def test_junk_values_anywhere_are_refused_and_never_crash(value, path):
    try:
        assert isinstance(check_design(changed(path, value)), Design)
    except InputError as error:
        assert error.faults and all(fault.message for fault in error.faults)


@pytest.mark.parametrize(
    ("path", "value", "fault"),
    [
        ("yarn.strands.0.tex", -4, "yarn.strands[0].tex: must be greater than or equal to 0.5, not -4"),
        ("yarn.strands.0.tex", 0, "yarn.strands[0].tex: must be greater than or equal to 0.5, not 0"),
        ("yarn.strands.0.tex", 1e9, "yarn.strands[0].tex: must be less than or equal to 50000, not 1000000000"),
        ("yarn.strands.0.tex", "100", "yarn.strands[0].tex: must be a valid number, not '100'"),
        ("yarn.strands.0.tex", float("nan"), "yarn.strands[0].tex: must be a finite number"),
        ("yarn.strands.0.tex", ..., "yarn.strands[0].tex: is missing"),
        ("yarn.strands.0.fibre", "unicorn", "yarn.strands[0].fibre: unknown fibre 'unicorn'"),
        ("yarn.strands.0.colour", "red", "yarn.strands[0].colour: unknown field"),
        ("yarn.strands.0.count", 1, "yarn.strands: a ply needs at least two strands"),
        ("yarn.strands.0.twist.direction", "Q", "yarn.strands[0].twist.direction: must be 'S' or 'Z', not 'Q'"),
        ("yarn.strands.0.twist", {"of_balanced": 1, "direction": "Z"}, "yarn.strands[0].twist.of_balanced: a single"),
        ("yarn.twist.turns_per_m", 3, "yarn.twist: give either turns_per_m or of_balanced"),
        ("yarn.kind", "braid", "yarn.kind: unknown kind 'braid'; one of single, bought, ply"),
        ("yarn.kind", "chain", "yarn.strand: is missing"),
        ("yarn.tension_share", 2, "yarn.tension_share: must be less than or equal to 1, not 2"),
        ("yarn.kind", ..., "yarn.kind: is missing"),
        ("yarn.count", 2, "yarn.count: this is one strand"),
        ("yarn", 3, "yarn: must be an object"),
        ("finish.wash", "boil", "finish.wash: must be"),
        ("version", 3, "version: must be 1 or 2"),
        ("format", ..., "format: is missing"),
        ("extra", 1, "extra: unknown field"),
        ("name", "bell\x00pull", "name: a name has no control characters"),
    ],
)
def test_each_fault_is_named_with_its_place(path, value, fault):
    assert any(line.startswith(fault) for line in faults_of(changed(path, value))), faults_of(changed(path, value))


BOUGHT = {"kind": "bought", "tex": 60, "twist": {"turns_per_m": 400, "direction": "S"}}
WRAP = {"fibre": "merino", "prep": "carded", "strip_tex": 300, "strip_width_mm": 15}
KINDS = {
    "bought in a ply": {**PLY, "strands": [SINGLE, {**BOUGHT, "diameter_mm": 0.3}], "tension_share": 0.8},
    "chain": {"kind": "chain", "strand": SINGLE, "loop_mm": 150, "twist": {"of_balanced": 1.1, "direction": "S"}},
    "core-spun": {"kind": "core-spun", "core": BOUGHT, "wrap": WRAP, "twist": {"turns_per_m": 150, "direction": "Z"}},
    "wrapped": {"kind": "wrapped", "binder": BOUGHT, "wrapper": SINGLE, "overfeed": 2, "twist": TWIST},
    "crepe": {
        "kind": "ply",
        "strands": [{**PLY, "twist": {"of_balanced": 1.6, "direction": "S"}}, {**SINGLE, "tex": 400, "twist": TWIST}],
        "twist": {"turns_per_m": 40, "direction": "Z"},
    },
    "seven": {**PLY, "strands": [{**SINGLE, "count": 7}]},
}


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_read_answered_and_written_back(kind):
    design = check_design(changed("yarn", KINDS[kind]))
    assert read_design(write_design(design).encode()) == design
    answer = answer_of(design, read_of(design))
    assert list(dict.fromkeys(level.path for level in answer.levels)) == [path for path, _, _ in walk(design.yarn)]
    assert 0 < answer.diameter_mm.as_plied.p10 < answer.diameter_mm.as_plied.p90


@pytest.mark.parametrize(
    ("kind", "path", "value", "fault"),
    [
        ("chain", "yarn.loop_mm", 0, "yarn.loop_mm: must be greater than or equal to 5, not 0"),
        ("chain", "yarn.strand.fibre", "fog", "yarn.strand.fibre: unknown fibre 'fog'"),
        ("chain", "yarn.strand.count", 3, "yarn.strand.count: this is one strand"),
        ("core-spun", "yarn.wrap.fibre", "fog", "yarn.wrap.fibre: unknown fibre"),
        ("core-spun", "yarn.wrap.width", 3, "yarn.wrap.width: unknown field"),
        ("core-spun", "yarn.core.twist", {"of_balanced": 1, "direction": "Z"}, "yarn.core.twist.of_balanced: a bought"),
        ("wrapped", "yarn.overfeed", 0.5, "yarn.overfeed: must be greater than or equal to 1"),
        ("wrapped", "yarn.binder.diameter_mm", -1, "yarn.binder.diameter_mm: must be"),
    ],
)
def test_faults_of_every_kind_have_their_place(kind, path, value, fault):
    whole = changed("yarn", copy.deepcopy(KINDS[kind]))
    *way, last = path.split(".")
    place = whole
    for step in way:
        place = place[step]
    place[last] = value
    assert any(line.startswith(fault) for line in faults_of(whole)), faults_of(whole)


def test_colours_are_no_difference_and_paths_follow_the_file():
    red, blue = ({**SINGLE, "colours": [colour]} for colour in ("#aa3322", "#2233aa"))
    design = check_design(changed("yarn.strands", [red, {**SINGLE, "tex": 90}, blue]))
    assert [member.count for member in structure_of(design.yarn).members] == [2, 1]
    answer = answer_of(design, read_of(design))
    first, other, same = answer.levels[1:]
    assert first.path == "yarn.strands[0]" and same.path == "yarn.strands[2]"
    assert first.grams_per_100_m == same.grams_per_100_m > other.grams_per_100_m


def test_depth_and_number_of_strands_have_limits():
    deep = SINGLE
    for _ in range(6):
        deep = {"kind": "ply", "twist": TWIST, "strands": [{**deep, "count": 2}]}
    assert "deeper than 6 levels" in faults_of(changed("yarn", deep))[0]
    many = {"kind": "ply", "twist": TWIST, "strands": [{**SINGLE, "count": 5}]}
    for _ in range(2):
        many = {"kind": "ply", "twist": TWIST, "strands": [{**many, "count": 4}]}
    assert any("80 strands in all" in line for line in faults_of(changed("yarn", many)))


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"\xff\xfe{", "byte 0: this is not UTF-8"),
        (b'{"a": 1,}', "line 1 column"),
        (b'{"a": NaN}', "NaN is not a number a yarn can have"),
        (b'{"a": -Infinity}', "-Infinity is not a number"),
        (b'{"a": 1, "a": 2}', "a: is given twice"),
        (b"[" * 200_000, "nested far too deep"),
        (b'{"a": ' + b"9" * 9000 + b"}", "cannot be read"),
        (b" " * (MOST_BYTES + 1), "at most 1,000,000"),
    ],
)
def test_texts_that_are_no_json(data, message):
    with pytest.raises(InputError, match=message):
        read_design(data)


def test_the_answer_has_a_level_for_every_strand_written():
    twins = changed("yarn.strands", [{**SINGLE, "colours": ["#112233"]}, {**SINGLE, "colours": ["#445566"]}])
    design = check_design(twins)
    answer = answer_of(design, read_of(design))
    assert list(dict.fromkeys(level.path for level in answer.levels)) == [path for path, _, _ in walk(design.yarn)]
    assert answer.levels[0].direction == "S" and answer.levels[0].turns_per_m_as_made > 0
    assert answer.balance.ratio == pytest.approx(1)


def test_the_answer_has_exactly_the_documented_names():
    design = check_design(WHOLE)
    answer = json.loads(answer_of(design, read_of(design)).model_dump_json())
    assert list(answer) == [
        "designation", "resultant_tex", "grist_yd_per_lb", "jamming", "diameter_mm", "wpi", "balance", "levels",
        "warnings",
    ]  # fmt: skip
    assert set(answer["diameter_mm"]) == set(answer["wpi"]) == {"as_plied", "finished"}
    assert set(answer["wpi"]["finished"]) == {"p10", "p50", "p90"}
    assert set(answer["balance"]) == {
        "chosen_turns_per_m", "balanced_turns_per_m", "ratio", "verdict", "loop_turns_30cm",
    }  # fmt: skip
    assert set(answer["levels"][0]) == {
        "path", "kind", "direction", "turns_per_m_as_made", "turns_per_m_now", "angle_deg", "take_up_percent",
        "diameter_mm", "metres_per_metre", "grams_per_100_m", "count", "lies_deg",
    }  # fmt: skip
    assert set(answer["warnings"][0]) == {"code", "text", "why", "do"}


def test_calm_plies_are_said_to_hang_quiet_and_cannot_be_asked_for_a_multiple_of_nothing():
    calm = {"kind": "ply", "strands": [{**PLY, "count": 2}], "twist": {"turns_per_m": 30, "direction": "S"}}
    design = check_design(changed("yarn", calm))
    reading = read_of(design)
    answer = answer_of(design, reading)
    assert str(answer.balance.balanced_turns_per_m) == "0.0" and answer.balance.ratio is None
    assert rest_words(reading.balance, Display()) == "hangs quiet by itself"
    assert "plies-not-lively" in {warning.code for warning in answer.warnings}
    with pytest.raises(InputError, match=r"yarn\.twist\.of_balanced: these strands hang quiet by themselves"):
        read_of(check_design(changed("yarn", {**calm, "twist": {"of_balanced": 1, "direction": "Z"}})))


def test_every_seat_has_a_level_and_alike_entries_take_the_strands_in_turn():
    """Two entries of like singles, one held tight: the first lies straight, the second winds."""
    entries = [{**SINGLE, "colours": [colour]} for colour in ("#111111", "#222222", "#333333")]
    turned = {"turns_per_m": 90, "direction": "S"}
    for share, straight in ((1, "yarn.strands[0]"), (0, "yarn.strands[2]")):
        design = check_design(
            changed("yarn", {"kind": "ply", "strands": entries, "twist": turned, "tension_share": share})
        )
        levels = answer_of(design, read_of(design)).levels[1:]
        assert [level.path for level in levels] == [f"yarn.strands[{place}]" for place in range(3)]
        assert [level.path for level in levels if level.lies_deg < 1] == [straight]
        assert all(level.count == 1 for level in levels)
        said = [row.name.removeprefix("single of Romney, ") for row in rows_of(design, read_of(design))[1:]]
        assert said == (["straight", "winding", "winding"] if share else ["winding", "winding", "straight"])
    together = {"kind": "ply", "strands": [{**SINGLE, "count": 3}], "twist": turned, "tension_share": 1}
    design = check_design(changed("yarn", together))
    reading = read_of(design)
    levels = answer_of(design, reading).levels[1:]
    assert [(level.path, level.count) for level in levels] == [("yarn.strands[0]", 1), ("yarn.strands[0]", 2)]
    assert [row.name for row in rows_of(design, reading)][1:] == [
        "single of Romney, straight",
        "single of Romney × 2, winding",
    ]
