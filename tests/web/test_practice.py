"""Practice over HTTP: rounds of ten, the answer at once, kept by whose it was, and counted only with leave."""

import re
from datetime import UTC, datetime, timedelta

import pytest

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.practice import Asked, read_asked
from pebble_wheel.store import designs, practice, records
from pebble_wheel.store.database import opened
from pebble_wheel.store.rows import COLUMNS
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.practice import question_of


def begin(http, **only):
    answer = http.post("/practice", data=only)
    assert answer.status_code == 303
    return answer.headers["location"]


def asked_in(address):
    return [read_asked(each) for each in re.search(r"q=([^&]+)", address)[1].split(",")]


def right(asked):
    return question_of(asked, Evaluator()).truth


def test_a_round_of_ten_is_asked_answered_and_summed_up(http):
    first = http.get("/practice").text
    assert "Ten yarns" in first and "not tried yet" in first and "Let it count" not in first
    address = begin(http)
    several = asked_in(address)
    assert len(several) == 10 and len({each.kind for each in several}) >= 3
    wrong = 0
    for place, asked in enumerate(several):
        page = http.get(address.replace("at=0", f"at={place}")).text
        assert f"<span>{place + 1} of 10</span>" in page
        truth, given = right(asked), right(asked)
        if place == 0 and asked.kind in ("way", "balance", "plies", "prep"):
            given = next(each for each in re.findall(r'name="given" value="([^"]+)"', page) if each != truth)
            wrong += 1
        if asked.kind == "other":
            given = f"{90 - float(truth)}"
        told = http.post(address.replace("at=0", f"at={place}"), data={"given": given})
        assert told.status_code == 303, told.text[:1500]
        answer = http.get(told.headers["location"]).text
        assert ("Not quite." in answer) == (given != truth and asked.kind != "other")
        assert "Next" in answer or "How it went" in answer
    end = http.get(address.replace("at=0", "at=10")).text
    assert f"{10 - wrong} of 10 well seen" in end and end.count("✓") == 10 - wrong
    assert "not tried yet" in http.get("/practice").text or len({each.kind for each in several}) == 7


@pytest.mark.parametrize("kind", ["way", "angle", "other", "balance", "wraps", "plies", "prep"])
def test_one_kind_can_be_asked_by_itself_and_never_gives_its_answer_away(http, kind):
    address = begin(http, only=kind)
    assert {each.kind for each in asked_in(address)} == {kind}
    page = http.get(address).text
    picture = re.search(r'<svg[^>]*class="yarn".*?</svg>', page, re.DOTALL)[0]
    assert "wedge" not in picture and 'class="ruler"' not in picture
    assert ('class="turned asked"' in picture) == (kind in ("angle", "other"))
    assert ('class="loop"' in page) == (kind == "balance")


def test_what_is_no_answer_stays_and_nothing_is_kept(http, file):
    address = begin(http, only="angle")
    refused = http.post(address, data={"given": "very steep"})
    assert refused.status_code == 422 and 'value="very steep"' in refused.text and "fault-given" in refused.text
    with opened(file) as connection:
        assert practice.answers(connection, "first") == []
    for bad in (
        "/practice/round?q=nonsense&at=0",
        "/practice/round?q=angle-f-1&at=-1",
        f"/practice/round?q={'a' * 2000}",
    ):
        assert http.get(bad).status_code == 422


def test_only_the_first_answer_to_a_question_counts(http, file):
    address = begin(http, only="plies")
    for given in ("2", "3"):
        told = http.post(address, data={"given": given})
        assert told.headers["location"].endswith("answer=1")
    with opened(file) as connection:
        (answer,) = practice.answers(connection, "first")
        assert answer.given == "2"


def fill_answers(file, spinner="first", count=40, off=6.0):
    now = datetime.now(UTC)
    with opened(file) as connection:
        for place in range(count):
            truth = 18 + place % 12
            at = (now - timedelta(hours=count - place)).isoformat()
            practice.keep(
                connection, spinner, Asked("angle", False, place), f"{truth}", f"{truth + off + place % 3 - 1}", at
            )


def test_with_leave_the_bias_is_taken_off_angles_by_eye_and_can_be_taken_back(http, file):
    with opened(file) as connection:
        fill(connection)
        connection.execute("DELETE FROM answer")
        jersey = next(each.id for each in designs.shelf(connection) if each.design.name == "Fisher's jersey")
    leans = http.get(f"/designs/{jersey}/sample", params={"strand": "yarn.strands[0]"}).text
    fill_answers(file)
    page = http.get("/practice").text
    assert "6° too steep" in page and "Let it count" in page
    assert (
        http.get(f"/designs/{jersey}/sample", params={"strand": "yarn.strands[0]"}).text == leans
    )  # not without leave
    assert http.post("/practice/leave", data={"given": "yes"}).status_code == 303
    assert re.search(r"put right by [56]\.\d° down", http.get("/practice").text)
    assert "Take it back" in http.get("/practice").text
    assert "Counts as how your eye reads" in http.get("/hands").text
    counted = http.get(f"/designs/{jersey}/sample", params={"strand": "yarn.strands[0]"}).text
    assert counted != leans
    http.post("/practice/leave", data={"given": "no"})
    assert http.get(f"/designs/{jersey}/sample", params={"strand": "yarn.strands[0]"}).text == leans


def test_answers_are_ones_own(http, file):
    fill_answers(file, count=12)
    http.post("/hands/people", data={"name": "Tallow"})
    assert "Tallow’s eye" in http.get("/practice").text and "6° too" not in http.get("/practice").text
    with opened(file) as connection:
        assert len(practice.answers(connection, "first")) == 12
        connection.execute("UPDATE answer SET given = '80' WHERE id = 3")
        assert len(practice.answers(connection, "first")) == 11  # a flipped one counts no more
        assert list(practice.damaged(connection)) == ["answer 3"]
        assert records.state_of(connection, "first")[0] == 0 and "given" in COLUMNS["answer"]
