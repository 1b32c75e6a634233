"""Questions to practise by: always the same by their number, true by the mechanics, fair."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.practice import ALL_WRONG, CHOICES, MEASURED, Asked, miss, off, read_asked, read_given
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.practice import (
    FINE_TEX,
    MOST_SEEN,
    RATIOS,
    SKILLS,
    THICK_TEX,
    USUAL_WRAPS,
    OwnPhoto,
    Skill,
    Tried,
    eye_for,
    question_of,
    questions,
    standings_of,
    taken_of,
    told_apart,
)

EVALUATOR = Evaluator()
NOW = datetime(2026, 6, 1, tzinfo=UTC)


@pytest.mark.parametrize("skill", SKILLS)
def test_a_question_is_true_by_the_mechanics_and_the_same_again(skill):
    for seed in range(4):
        question = question_of(Asked(skill.kind, skill.fine, seed), EVALUATOR)
        again = question_of(Asked(skill.kind, skill.fine, seed), Evaluator())
        assert (again.design, again.truth, again.loop_turns) == (question.design, question.truth, question.loop_turns)
        strands, top = question.design.yarn.strands, EVALUATOR.read(question.design).levels[0]
        assert (strands[0].tex <= FINE_TEX[1]) == skill.fine
        truths = {
            "way": "Z" if top.turns_per_m_as_made > 0 else "S",
            "plies": str(len(strands)),
            "prep": strands[0].prep,
        }
        if skill.kind in truths:
            assert question.truth == truths[skill.kind] in CHOICES[skill.kind]
        if skill.kind == "wraps":
            assert float(question.truth) == pytest.approx(INCH / top.diameter, rel=1e-3)
        if skill.kind in ("angle", "other"):
            assert 5 < float(question.truth) < 60
        if skill.kind == "plies":
            assert 2 <= len(strands) <= MOST_SEEN and len(
                {each.colours[0] for each in told_apart(question.design).yarn.strands}
            ) == len(strands)


def test_loops_hang_as_they_are_plied_and_rested_ones_mislead():
    """Against the way it was plied where there is too much ply twist, the way it was plied where too little."""
    rested = 0
    for seed in range(40):
        question = question_of(Asked("balance", False, seed), EVALUATOR)
        ratio = EVALUATOR.read(question.design).balance.ratio
        own = 1 if question.way == "Z" else -1
        if question.truth == "balanced":
            assert abs(ratio - 1) < 0.03 and abs(question.loop_turns) < 1
        else:
            assert (question.truth == "over") == (question.loop_turns * own < 0) == (ratio > 1.2)
            assert abs(question.loop_turns) >= 1
        if question.rested_hours:
            rested += 1
            assert abs(question.loop_turns) <= abs(question.loop_fresh) or question.truth == "balanced"
            assert abs(question.loop_turns) < 0.9 * abs(question.loop_fresh)
        else:
            assert question.loop_turns == question.loop_fresh
    assert 8 <= rested <= 26


def test_an_own_photo_is_asked_about_as_long_as_it_is_there():
    photo = OwnPhoto(7, "uid", 800, 400, "Z", 23.4, (400.0, 200.0), 2.0)
    question = question_of(read_asked("angle-f-12-7"), EVALUATOR, [photo])
    assert (question.truth, question.photo, question.design, question.way) == ("23.4", photo, None, "Z")
    assert question_of(read_asked("way-f-12-7"), EVALUATOR, [photo]).truth == "Z"
    for gone in ("angle-f-12-8", "plies-f-12-7"):
        with pytest.raises(InputError):
            question_of(read_asked(gone), EVALUATOR, [photo])


@given(st.text(max_size=20))
def test_what_names_no_question_is_refused(text):
    try:
        assert read_asked(text).written() == text or text != text.strip()
    except InputError as error:
        assert error.faults[0].place == "asked"


def test_a_round_asks_the_same_yarn_in_both_conventions_and_ones_own_photos_among_others():
    skills = [Skill(kind, False) for kind in ("angle", "other", "angle", "other", "way")]
    asked = questions(skills, [], np.random.default_rng(1))
    assert [each.seed for each in asked[:4:2]] == [each.seed for each in asked[1:4:2]] != [asked[0].seed] * 2
    one, other = (question_of(each, EVALUATOR) for each in asked[:2])
    assert one.design == other.design and one.truth == other.truth
    of_photos = questions([Skill("way", True), Skill("plies", True)] * 200, [7, 8], np.random.default_rng(2))
    shown = [each.photo for each in of_photos if each.photo is not None]
    assert set(shown) == {7, 8} and 40 < len(shown) < 80 and all(each.kind == "way" for each in of_photos if each.photo)


def test_answers_are_read_in_the_convention_asked_for():
    crosswise = Settings(angle_from="crosswise")
    assert [read_given("30", kind, Settings()) for kind in ("angle", "other")] == ["30", "60"]
    assert [read_given("30", kind, crosswise) for kind in ("angle", "other")] == ["60", "30"]
    assert read_given("23", "wraps", Settings(wpi_method="snug")) == "20"  # snug wraps count 15 % more
    assert read_given("carded", "prep", Settings()) == "carded"
    for kind, text in (("prep", "woolly"), ("plies", "1"), ("wraps", "900"), ("angle", "steep"), ("way", "")):
        with pytest.raises(InputError):
            read_given(text, kind, Settings())


def test_how_far_off_and_how_bad():
    assert off("angle", "24", "30") == 6 and miss("angle", "24", "30") == pytest.approx(0.4)
    assert off("wraps", "20", "10") == pytest.approx(-0.693, abs=1e-3) and miss("wraps", "20", "10") == 1
    assert (off("way", "S", "Z"), miss("way", "S", "Z"), miss("plies", "3", "3")) == (1, 1, 0)


def tried(kind, pairs, fine=False):
    return [
        Tried(Skill(kind, fine), truth, given, NOW - timedelta(hours=len(pairs) - place))
        for place, (truth, given) in enumerate(pairs)
    ]


def test_an_eye_that_reads_six_degrees_steep_and_swaps_s_and_z_on_fine_yarn_is_told_so():
    steep = tried("angle", [(f"{20 + n % 9}", f"{26 + n % 9 + n % 3 - 1}") for n in range(30)])
    eye = eye_for("angle", steep, NOW)
    assert eye.bias == pytest.approx(6, abs=0.4) and eye.bias_sd < 0.6 and eye.count == 30
    assert eye_for("other", steep, NOW).count == 0
    swaps = tried("way", [("S", "Z"), ("Z", "Z")] * 10, fine=True) + tried("way", [("S", "S")] * 20)
    fine, thick = (taken_of("way", each, swaps) for each in (True, False))
    assert fine.low > thick.high and taken_of("way", None, swaps).count == 40
    standings = standings_of(swaps, NOW)
    assert standings[Skill("way", True)].need > 5 * standings[Skill("way", False)].need
    assert set(standings) == set(SKILLS)
    assert {each.kind for each in SKILLS} == {*CHOICES, *MEASURED}


def test_what_questions_are_drawn_from_does_not_drift():
    assert RATIOS == {"under": (0.5, 0.78), "balanced": (0.985, 1.015), "over": (1.3, 1.7)}
    assert (FINE_TEX, THICK_TEX, USUAL_WRAPS) == ((22.0, 60.0), (110.0, 300.0), (0.15, 0.15))
    ratios = [EVALUATOR.read(question_of(Asked("way", True, n), EVALUATOR).design).balance.ratio for n in range(60)]
    assert 0.69 < min(ratios) < 0.77 and 1.4 < max(ratios) < 1.51
    assert ALL_WRONG["angle"] == 15 and ALL_WRONG["wraps"] == 0.5
