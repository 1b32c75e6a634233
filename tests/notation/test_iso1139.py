"""Designations after ISO 1139, single-to-fold (examples of the standard, from memory)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.notation.design import ChainModel, PlyModel, SingleModel, new_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.iso1139 import designation, fold_to_single, read_designation, unsayable


@pytest.mark.parametrize(
    "text",
    [
        "40 tex Z 660",
        "34 tex S 600 x 2 Z 400; R 69.3 tex",
        "20 tex Z 700 x 2 S 400 x 3 Z 200; R 132 tex",
        "(25 tex S 420 + 60 tex Z 80) S 360; R 89.2 tex",
    ],
)
def test_the_standard_s_examples_read_and_write_back_to_the_letter(text):
    said = read_designation(text)
    assert designation(said.design.yarn, {}, said.resultant_tex or 0) == text


@pytest.mark.parametrize(
    "variant",
    [
        "34 tex S 600 × 2 Z 400; R 69,3 tex",
        "34tex S600 x2 Z400;R69.3tex",
        "34 tex S 600 t/m x 2 Z 400 t/m; R 69.3 tex",
        "  34,0 tex S 600.0 x 2 Z 400  ; R 69.3 tex ",
    ],
)
def test_ways_of_writing_mean_the_same(variant):
    plain, other = read_designation("34 tex S 600 x 2 Z 400; R 69.3 tex"), read_designation(variant)
    assert other.design.yarn == plain.design.yarn
    assert other.resultant_tex == 69.3


def test_twist_is_read_at_every_step():
    yarn = read_designation("20 tex Z 700 x 2 S 400 x 3 Z 200").design.yarn
    assert isinstance(yarn, PlyModel) and yarn.twist.turns_per_m == 200 and yarn.strands[0].count == 3
    inner = yarn.strands[0]
    assert isinstance(inner, PlyModel) and inner.twist.direction == "S"
    single = inner.strands[0]
    assert isinstance(single, SingleModel) and (single.tex, single.count, single.prep) == (20, 2, "semi")


@given(
    st.integers(1, 999), st.lists(st.tuples(st.integers(2, 3), st.sampled_from("SZ"), st.integers(1, 999)), max_size=3)
)
def test_what_is_written_reads_as_the_same_yarn(tex, folds):
    text = f"{tex} tex Z 300" + "".join(f" x {count} {direction} {turns}" for count, direction, turns in folds)
    yarn = read_designation(text).design.yarn
    assert read_designation(designation(yarn, {}, 123.4)).design.yarn == yarn


def test_an_uneven_ply_has_no_designation_in_either_order():
    spun = {
        "kind": "single",
        "fibre": "romney",
        "prep": "semi",
        "tex": 80,
        "twist": {"turns_per_m": 150, "direction": "Z"},
    }
    turned = {"turns_per_m": 90, "direction": "S"}
    plied = {"kind": "ply", "strands": [{**spun, "count": 2}], "twist": turned}
    for share, said in ((0.5, True), (0.9, False)):
        yarn = new_design("Uneven", {**plied, "tension_share": share}).yarn
        turns = {"yarn": -90.0, "yarn.strands[0]": 150.0}
        assert bool(designation(yarn, turns, 170.0)) == bool(fold_to_single(yarn, turns, 170.0)) == said


def test_fold_to_single_says_the_same_yarn():
    folded, plain = (read_designation(text) for text in (
        "R 69.3 tex Z 400/2 S 600; 34 tex", "34 tex S 600 x 2 Z 400; R 69.3 tex",
    ))  # fmt: skip
    assert folded.design.yarn == plain.design.yarn and folded.resultant_tex == plain.resultant_tex == 69.3
    assert fold_to_single(plain.design.yarn, {}, 69.3) == "R 69.3 tex Z 400/2 S 600; 34 tex"
    cable = read_designation("20 tex Z 700 x 2 S 400 x 3 Z 200; R 132 tex").design.yarn
    assert read_designation(fold_to_single(cable, {}, 132)).design.yarn == cable


def test_unlike_and_nested_components_read_and_write():
    text = "(20 tex Z 700 x 2 S 400 + 40 tex Z 300) Z 200; R 80 tex"
    yarn = read_designation(text).design.yarn
    assert isinstance(yarn, PlyModel) and [strand.kind for strand in yarn.strands] == ["ply", "single"]
    assert designation(yarn, {}, 80) == text


def test_what_iso_1139_cannot_say_is_said_so():
    single = read_designation("34 tex S 600").design.yarn
    chain = ChainModel(kind="chain", strand=single, loop_mm=150, twist=single.twist)
    assert unsayable(chain) == "a chain strand cannot be said in ISO 1139"
    assert designation(chain, {}, 100) == "" and unsayable(single) == ""


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("", "character 1: expected a single"),
        ("34 tex S 600 x 2 Q 400", "character 18: expected a twist such as 'Z 400', not 'Q 400'"),
        ("34 tex S 600 x 2 Z 400; R many", "character 27"),
        ("34 tex S 600 x", "expected the number of strands, but it ends here"),
        ("R 69.3 tex Z 400/2 S 600", "expected '; 34 tex'"),
        ("(25 tex S 420 + 60 tex Z 80 S 360", "expected '+' or ')'"),
        ("0 tex S 600", "yarn.tex: must be greater"),
        ("34 tex S 600 x 1 Z 400", "a ply needs at least two strands"),
        ("3" * 600, "shorter than this"),
    ],
)
def test_faults_say_where(text, fault):
    with pytest.raises(InputError) as refused:
        read_designation(text)
    assert fault in str(refused.value)


@given(st.text(alphabet="0123456789 texSZRx×;.,/m()+", max_size=60))
def test_junk_never_crashes(text):
    try:
        read_designation(text)
    except InputError as error:
        assert str(error)
