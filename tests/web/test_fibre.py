"""The shelf of lots, and lots where a fibre is chosen."""

import html
import json
import re

from tests.web.test_pages import HTMX, draft_in, sent

LOT = {
    "name": "Two braids",
    "fibres": "50 merino, 50 silk",
    "grams": "96+138 g",
    "prep": "semi",
    "colours": "#112233 #445566",
}


def put(http, **typed):
    answer = http.post("/fibre", data={**LOT, **typed})
    assert answer.status_code == 303, answer.text
    return re.search(r'value="(lot:[^"]+)"[^>]*>Two braids', http.get("/aim").text)[1]


def test_a_lot_is_written_down_changed_and_put_away(http):
    assert "Write down what you own once" in http.get("/fibre").text
    put(http)
    page = http.get("/fibre").text
    assert "Two braids" in page and "234 g" in page and "50 % Merino" in page and "next to the skin" in page
    change = http.get("/fibre?change=1").text
    assert 'value="96+138 g"' in change and 'name="id" value="1"' in change
    assert http.post("/fibre", data={**LOT, "id": "1", "grams": "200"}).status_code == 303
    assert "200 g" in http.get("/fibre").text and http.get("/fibre").text.count('class="lot-card"') == 1
    away = http.post("/fibre/1/away", follow_redirects=True).text
    assert "put away" in away and 'class="lot-card"' not in away
    assert 'class="lot-card"' in http.post("/fibre/1/back", follow_redirects=True).text
    assert http.get("/fibre?change=7").status_code == 404 == http.post("/fibre/9/away").status_code


def test_what_is_wrong_stands_beside_its_field_and_stays_typed(http):
    refused = http.post("/fibre", data={**LOT, "fibres": "50 merno, 50 silk", "grams": "a lot"})
    assert (
        refused.status_code == 422 and 'value="50 merno, 50 silk"' in refused.text and 'value="a lot"' in refused.text
    )
    assert "nearest is merino" in html.unescape(refused.text) and 'class="lot-card"' not in http.get("/fibre").text


def test_a_lot_is_chosen_in_hand_and_brings_its_ways_along(http):
    value = put(http, draw="fold", run="0.5 m")
    answer = http.post(
        "/construct/follow", data=sent("3-ply", "yarn.strands[0]", fibre=value, together="on"), headers=HTMX
    )
    part = json.loads(draft_in(answer.text))["yarn"]["inner"][0]["typed"]
    assert json.loads(part["fibre"])["name"] == "Two braids" and part["prep"] == "semi" and part["draw"] == "fold"
    assert (part["colours"], part["run"]) == ("#112233 #445566", "0.5 m")
    assert f'value="{value}" selected' in answer.text
    kept = http.post("/construct/keep", data={**sent("3-ply", "yarn.strands[0]", fibre=value, together="on")})
    place = kept.headers["location"].split("?")[0]
    assert "Two braids" in http.get(place).text
    assert f'href="{place}"' in http.get("/fibre").text
    http.post(
        f"{place}/skeins",
        data={"stage": "finished", "wet": "dry", "grams": "60 g", "metres": "150 m", "method": "relaxed"},
    )
    assert "174 g left of 234 g" in http.get("/fibre").text


def test_an_aim_takes_a_lot_with_its_grams(http):
    value = put(http)
    page = http.post("/aim/follow", data={"fibre": value}, headers=HTMX).text
    assert "of 234 g" in page
    assert "of 90 g" in http.post("/aim/follow", data={"fibre": value, "grams": "90 g"}, headers=HTMX).text
    gone = http.post("/aim/follow", data={"fibre": "lot:nothing"}, headers=HTMX).text
    assert "or a lot in hand" in gone


def test_the_first_visit_offers_the_units_of_the_browsers_language_once(http):
    american = {"accept-language": "en-US,en;q=0.9"}
    assert "Use inches and pounds" in http.get("/construct", headers=american).text
    assert "Use inches and pounds" not in http.get("/construct", headers={"accept-language": "de-DE"}).text
    assert http.post("/settings", data={"units": "metric"}).status_code == 303
    assert "Use inches and pounds" not in http.get("/construct", headers=american).text
