"""What yarn is made with, over HTTP: told of once, used everywhere, put away and brought back."""

import re

import pytest

from pebble_wheel.store import designs
from pebble_wheel.store.database import opened
from tests.web.test_plan import ply

WHEEL = {"kind": "wheel", "name": "Oak wheel", "ratios": "5 7"}
MOTOR = {"kind": "motor", "name": "Humming box", "mark-1": "1", "count-1": "75", "mark-2": "2", "count-2": "120"}
SPINDLE = {"kind": "spindle", "name": "Thigh spindle", "roll": "14", "seen": "above"}


@pytest.fixture
def yarn(file):
    with opened(file) as connection:
        return f"/designs/{designs.keep_new(connection, ply())}"


def test_a_tool_is_told_of_changed_chosen_and_put_away(http):
    assert "Tell what you spin on" in http.get("/tools").text
    for typed in (WHEEL, MOTOR, SPINDLE):
        assert http.post("/tools", data=typed).status_code == 303
    page = http.get("/tools").text
    assert "300 a minute at 1, 480 a minute at 2" in page and "14 turns a roll" in page and "5:1, 7:1" in page
    assert re.search(r"<h2>Thigh spindle</h2>\s*<p class=\"hint\">spindle, <b>used", page)
    http.post("/tools/1/first")
    assert re.search(r"<h2>Oak wheel</h2>\s*<p class=\"hint\">treadle wheel, <b>used", http.get("/tools").text)
    change = http.get("/tools?change=2").text
    assert 'value="120"' in change and 'name="id" value="2"' in change
    http.post("/tools", data=MOTOR | {"id": "2", "count-2": "130"})
    assert "520 a minute at 2" in http.get("/tools").text and http.get("/tools").text.count('class="lot-card"') == 3
    away = http.post("/tools/2/away", follow_redirects=True).text
    assert "put away" in away and "Humming box" not in away
    assert "Humming box" in http.post("/tools/2/back", follow_redirects=True).text
    assert http.get("/tools?change=9").status_code == 404 == http.post("/tools/9/away").status_code
    assert http.post("/tools/9/first").status_code == 404


def test_what_is_wrong_stands_beside_its_field_and_stays_typed(http):
    refused = http.post("/tools", data=MOTOR | {"count-2": "many"})
    assert refused.status_code == 422 and 'value="many"' in refused.text and "is not a number" in refused.text
    shown = http.post("/tools", data={"kind": "bobbins", "name": "Lace", "kind-is": ""})
    assert re.search(r'data-kind="bobbins">', shown.text) and 'value="Lace"' in shown.text
    assert "lot-card" not in http.get("/tools").text.replace("lot-cards", "")


def test_one_that_is_damaged_hides_no_other(http, file):
    for typed in (WHEEL, MOTOR):
        http.post("/tools", data=typed)
    with opened(file) as connection:
        connection.execute("UPDATE tool SET body = replace(body, '5.0', '5.1') WHERE id = 1")
    page = http.get("/tools").text
    assert "“Oak wheel” is damaged" in page and "Humming box" in page
    assert http.post("/tools/1/away").status_code == 303 and "damaged" not in http.get("/tools").text


def test_whorls_owned_are_used_by_aim_plan_card_and_wheel(http, yarn):
    http.post("/tools", data=WHEEL)
    assert "at 5:1" in http.get("/aim?size=14+wpi").text and "at 12:1" not in http.get("/aim?size=14+wpi").text
    assert "at 7:1" in http.get(yarn).text
    card = http.get(http.post(f"{yarn}/card", data={"as": "svg"}).headers["location"]).text
    assert "at 5:1" in card and "at 7:1" in card and "at 9:1" not in card
    wheel = http.get(f"{yarn}/wheel").text
    assert re.search(r'value="7.0"[^>]*><span>7:1', wheel) and "count one foot only" in wheel


def test_a_step_is_made_on_what_the_plan_says(http, yarn):
    """210 t/m over 0.6 m are nine rolls of fourteen turns; the slope and the end one looks from are shown."""
    for typed in (SPINDLE, WHEEL):
        http.post("/tools", data=typed)
    chosen = re.search(r'<option value="(\w{32})"[^>]*>on Thigh spindle', http.get(f"{yarn}/plan").text)[1]
    http.post(f"{yarn}/plan", data={"grams-1": "90 g", "tool-make-yarn.strands[0]": chosen})
    page = http.get(f"{yarn}/wheel?draft=60+cm").text
    count, draft = re.search(
        r'<div class="stand-count"><b>(\d+)</b><span>rolls to (\d+) cm of 14 turns each', page
    ).groups()
    assert (int(count), draft) == (round(0.6 * 216 / 14), "60")
    assert "clockwise, the spindle seen from above" in page and 'class="way way-Z"' in page
    http.post(f"{yarn}/wheel/runs", data={"strand": "yarn.strands[0]", "on": chosen, "draft": "60 cm"})
    run = http.get(f"{yarn}/wheel").text
    assert 'data-beat="roll"' in run and re.search(r'data-ratio="14\.0', run)


def test_a_spinner_that_nobody_counted_is_counted_first(http, yarn):
    page = http.get(f"{yarn}/wheel?on=motor").text
    assert "never counted" in page and "Count its turns" in page and ">Begin<" not in page
    assert http.post(f"{yarn}/wheel/runs", data={"on": "motor"}).headers["location"].startswith("/tools")
    http.post("/tools", data=MOTOR)
    page = http.get(f"{yarn}/wheel?draft=12+cm").text
    assert "at 2: 480 a minute" in page and "at 1.5: 390 a minute" in page and ">Begin<" in page
    assert "seconds to 12 cm at" in page


def test_laps_of_a_bobbin_that_leads_are_counted_in(http, yarn):
    http.post("/tools", data=WHEEL | {"drive": "bobbin-lead"})
    page = http.get(f"{yarn}/wheel?ratio=7&draft=1+m").text
    told = int(re.search(r'<div class="stand-count"><b>(\d+)<', page)[1])
    assert told == round((216 + 1000 / (3.14159 * 50)) / 7) and "laps are counted in" in page
