"""Plans over HTTP: kept with what cannot be read, ticked off, given as a calendar that the library reads back."""

import re
from dataclasses import replace
from datetime import date

import pytest
from icalendar import Calendar

from pebble_wheel.notation.design import new_design
from pebble_wheel.notation.sample import Sample
from pebble_wheel.store import designs, records
from pebble_wheel.store.database import opened


def ply(count=3, name="Rope"):
    spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": 100, "count": count}
    spun |= {"twist": {"turns_per_m": 216, "direction": "Z"}}
    return new_design(name, {"kind": "ply", "strands": [spun], "twist": {"turns_per_m": 160, "direction": "S"}})


@pytest.fixture
def place(file):
    with opened(file) as connection:
        return f"/designs/{designs.keep_new(connection, ply())}/plan"


def test_a_plan_begins_with_the_lots_of_the_yarn(demo_http):
    page = demo_http.get("/designs/9/plan").text
    assert re.search(r'<option value="harbour-blues" selected>', page) and 'class="ribbon"' in page
    assert "g Harbour blues" in page and page.count('<tr><th scope="row">single of Harbour blues') == 3
    assert "Wick’s samples" in page


def test_what_is_typed_shows_at_once_in_parts(http, place):
    answer = http.post(f"{place}/follow", data={"grams-1": "96 g", "grams-2": "138 g"}, headers={"hx-request": "true"})
    assert answer.status_code == 200 and answer.text.count("<hx-partial") >= 8 and "<html" not in answer.text
    assert "78.0 g each" in answer.text and "32.0 g other fibre + 46.0 g other fibre" in answer.text
    whole = http.post(f"{place}/follow", data={"grams-1": "96 g"})
    assert "<html" in whole.text and "not yet kept" in whole.text


def test_a_plan_is_kept_with_what_cannot_be_read_of_it(http, place, file):
    typed = {"grams-1": "a lot", "grams-2": "90 g", "metres": "<400>", "hours": "2"}
    faulty = http.post(f"{place}/follow", data=typed)
    assert faulty.status_code == 422 and 'value="a lot"' in faulty.text and "not a number with a unit" in faulty.text
    assert http.post(place, data=typed).headers["location"] == f"{place}?kept=1"
    page = http.get(place).text
    assert 'value="a lot"' in page and "&lt;400&gt;" in page and "30.0 g each" in page
    http.post(place, data=typed | {"grams-1": "10 g"})
    with opened(file) as connection:
        assert records.plan(connection, 1).record.typed["grams-1"] == "10 g"
        assert (
            connection.execute("SELECT count(*) FROM entry WHERE kind = 'plan'").fetchone()[0] == 2
        )  # nothing is lost


def test_a_plan_survives_a_change_of_the_yarn(http, place, file):
    typed = {"grams-1": "90 g", "weight-0": "60 g", "weight-1": "61 g", "weight-2": "62 g", "share-1-0": "2"}
    http.post(place, data=typed)
    with opened(file) as connection:
        designs.keep(connection, 1, ply(2))
    page = http.get(place).text
    assert "Planned for what this yarn has no more: weight-2: 62 g" in page
    assert "45.0 g each" in page and "Bobbin 1" in page
    with opened(file) as connection:
        designs.keep(connection, 1, ply(3))
    back = http.get(place).text
    assert 'value="62 g"' in back and "no more:" not in back


def test_which_bobbin_ends_first_and_one_way_is_booked(http, place):
    page = http.post(f"{place}/follow", data={"weight-0": "62", "weight-1": "60.5", "weight-2": "58"}).text
    assert "Bobbin 3" in page and "ends first" in page and "keeps 4.0 g" in page and page.count("Do that") == 5
    weighed = {"weight-0": "62", "weight-1": "60.5", "weight-2": "58"}
    booked = http.post(f"{place}/leftovers/chain", data=weighed)
    page, log = http.get(booked.headers["location"]).text, http.get(place.replace("/plan", "/log")).text
    assert "Chain the rest" in log and "Ply the leftovers" in page and "m of leftovers" in page
    assert page.count("✓ planned") == 1
    again = http.post(f"{place}/leftovers/chain", data=weighed | {"leftover": "chain"})
    assert "Ply the leftovers" not in http.get(again.headers["location"]).text
    assert "Not after all: Chain the rest" in http.get(place.replace("/plan", "/log")).text
    assert http.post(f"{place}/leftovers/nothing", data=weighed).status_code == 200  # as it is typed, and nothing kept


def test_a_plan_follows_what_the_scale_says(http, place):
    """What is spun says how far it goes, and what is plied of it is done."""
    weighed = {"weight-0": "30", "weight-1": "30", "weight-2": "30", "want": "all", "grams-1": "300 g"}
    page = http.post(f"{place}/follow", data=weighed).text
    words = re.search(r'id="yarn-words">([^<]+)<', page)[1]
    metres = float(re.match(r"([\d,.]+) m", words)[1].replace(",", ""))
    assert "90.0 g" in words and "by the scale" in words
    half = http.post(f"{place}/follow", data=weighed | {"weight-yarn": "45"}).text
    words = re.search(r'id="yarn-words">([^<]+)<', half)[1]
    assert float(re.match(r"([\d,.]+) m", words)[1].replace(",", "")) == pytest.approx(1.5 * metres, rel=0.02)
    assert re.search(r"are made, ([\d,.]+) m to go", words)[1] == f"{metres:.0f}"


def test_the_calendar_is_read_back_by_its_library(http, place):
    typed = {"grams-1": "120 g", "start": "2026-12-01", "hours": "1.5", "rest": "24", "dry": "36"}
    http.post(place, data=typed)
    answer = http.get(f"{place}/plan.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    events = Calendar.from_ical(answer.content).walk("VEVENT")
    told = [str(each["summary"]).removeprefix("Rope: ") for each in events]
    singles = ["Spin: single of Corriedale", "Let it rest: single of Corriedale"]
    assert told == [*singles, "Ply: 3-ply", "Wind and tie the skein", "Soak", "Hang to dry", "Measure the dry skein"]
    rest, dry = events[1], events[5]
    assert (rest["dtend"].dt - rest["dtstart"].dt).total_seconds() == 24 * 3600
    assert (dry["dtend"].dt - dry["dtstart"].dt).total_seconds() == 36 * 3600
    assert events[0]["dtstart"].dt.date() == date(2026, 12, 1)
    assert [len(each.walk("VALARM")) for each in events] == [0, 1, 0, 0, 1, 1, 0]
    assert len({str(each["uid"]) for each in events}) == 7
    http.post(place, data=typed | {"rests": "no"})
    closed = Calendar.from_ical(http.get(f"{place}/plan.ics").content).walk("VEVENT")
    assert len(closed) == 6 and closed[-1]["dtend"].dt < events[-1]["dtend"].dt


def test_steps_tick_off_and_move_what_follows(http, place):
    http.post(place, data={"grams-1": "120 g", "start": "2020-01-01"})
    before = http.get(place).text
    http.post(f"{place}/steps/make-yarn.strands[0]")
    after = http.get(place).text
    assert after.count('aria-pressed="true"') == 1 == before.count('aria-pressed="true"') + 1
    assert re.search(r"ready <b>([^<]+)<", before)[1] != re.search(r"ready <b>([^<]+)<", after)[1]
    assert "1 step done" in http.get(place.replace("/plan", "/log")).text
    http.post(f"{place}/steps/make-yarn.strands[0]")
    assert 'aria-pressed="true"' not in http.get(place).text


def test_the_thread_shows_the_next_step_and_its_day(http, place, file):
    """2026-12-01 is a Tuesday; a mark that cannot be read hides nothing."""
    http.post(place, data={"grams-1": "120 g", "start": "2026-12-01", "hours": "9"})
    for page in ("", "/sample", "/log"):
        assert "Plan <small>spin: Tue 1 Dec</small>" in http.get(place.replace("/plan", page)).text.replace(
            '<span class="sr"> done</span>', ""
        )
    with opened(file) as connection:
        records.keep_plan(connection, 1, replace(records.plan(connection, 1).record, ahead_at="some day"))
    assert http.get(place).status_code == 200 and "Tue 1 Dec</small>" not in http.get(place).text


def test_a_counted_pace_is_what_a_plan_reckons_with(http, place, file):
    """At half the pace, as long again for what is held up by twist; the switch goes back to what was told."""
    http.post("/tools", data={"kind": "wheel", "name": "Slow", "ratios": "5:1"})
    told = http.post(f"{place}/follow", data={"grams-1": "120 g"}).text
    with opened(file) as connection:
        for pace in (30.0, 30.0, 900.0):
            records.note(connection, 1, Sample("yarn.strands[0]", turns_per_m=216.0, ratio=5.0, pace=pace))
    counted = http.post(f"{place}/follow", data={"grams-1": "120 g"}).text
    assert "at 30 treadles a minute, as counted" in counted and "as counted" not in told
    hours = [float(re.search(r"Spin: single of Corriedale</b> <span>([\d.]+) h", each)[1]) for each in (told, counted)]
    assert hours[1] == pytest.approx(2 * hours[0], rel=0.05)
    assert "treadles a minute" in http.get(place.replace("/plan", "/log")).text
    http.cookies.set("hands", "no")
    assert "as counted" not in http.post(f"{place}/follow", data={"grams-1": "120 g"}).text


def test_bobbins_owned_are_said_on_the_rail_and_on_the_plan(http, place):
    own = {"size": "100 x 25 x 90 mm", "many": "2", "empty": "52 g"}
    http.post("/tools", data={"kind": "bobbins", "name": "Oak", **own})
    http.post("/tools", data={"kind": "wheel", "name": "Needle eye", "ratios": "6", "orifice": "1 mm"})
    page = http.post(f"{place}/follow", data={"grams-1": "120 g"}).text
    assert "wants 4 bobbins at once, and you own 2" in page and "will not pass" in page
    assert page.count('<option value="') > 8 and ">Oak 1</option>" in page
    rail = http.get("/aim?size=14+wpi").text
    assert re.search(r'<td class="missed">4, you own 2</td>', rail) and '<th scope="row">bobbins</th>' in rail
    http.post("/tools/1/away")
    assert '<th scope="row">bobbins</th>' not in http.get("/aim?size=14+wpi").text


def test_a_thousand_fields_are_not_kept(http, place, file):
    http.post(place, data={f"share-{at}-{at}": "1" for at in range(900)} | {"odd": "1", "grams-1": "9" * 400})
    with opened(file) as connection:
        typed = records.plan(connection, 1).record.typed
    assert len(typed) <= 600 and "odd" not in typed and all(len(each) <= 80 for each in typed.values())
    assert http.get(place).status_code == 200


@pytest.mark.parametrize("number", range(1, 10))
def test_every_yarn_of_the_demo_can_be_planned(demo_http, number):
    answer = demo_http.post(f"/designs/{number}/plan/follow", data={"grams-1": "150 g"})
    assert answer.status_code == 200 and "of yarn" in answer.text
    assert demo_http.get(f"/designs/{number}/plan/plan.ics").status_code == 200
