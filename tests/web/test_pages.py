"""The pages over real HTTP: promises of each screen, bad input, and the guard in front of them."""

import json
import re
from xml.etree import ElementTree

import httpx
import pytest

from pebble_wheel.notation.entries import START

HTMX = {"hx-request": "true"}


def keep(http: httpx.Client, **typed: str) -> str:
    answer = http.post("/construct/keep", data={**START, **typed})
    assert answer.status_code == 303
    return answer.headers["location"].split("?")[0]


def field(page: str, name: str) -> str:
    found = re.search(rf'name="{name}"[^>]* value="([^"]*)"', page)
    assert found
    return found[1]


def test_a_first_visit_goes_straight_to_a_yarn(http):
    assert http.get("/").headers["location"] == "/construct"
    page = http.get("/construct").text
    assert 'class="yarn"' in page and "How it rests" in page and "3-ply of Corriedale" in page


def test_a_kept_design_is_found_again_as_typed(http):
    place = keep(http, name="Dragon's scarf", size="22 wpi", twist="6,5 tpi", wash="soak")
    page = http.get(place).text
    assert (field(page, "size"), field(page, "twist")) == ("22 wpi", "6,5 tpi")
    assert "Dragon&#39;s scarf" in http.get("/").text


def test_keeping_again_overwrites_and_does_not_copy(http):
    place = keep(http, name="Mane")
    keep(http, id=place.rsplit("/", 1)[1], name="Mane", size="70 tex")
    assert http.get("/").text.count('<li class="card">') == 1
    assert field(http.get(place).text, "size") == "70 tex"


def test_a_change_answers_with_parts_of_the_page(http):
    answer = http.post("/construct/look", data={**START, "strands": "2", "ply_twist": "1.2"}, headers=HTMX)
    assert answer.status_code == 200 and "<html" not in answer.text
    assert 'hx-target="#slate"' in answer.text and "2-ply of Corriedale" in answer.text
    assert "slightly over" in answer.text


def test_without_script_the_same_form_gives_the_whole_page(http):
    page = http.post("/construct/look", data={**START, "strands": "4", "size": "22 wpi"}).text
    assert "<html" in page and "4-ply of Corriedale" in page and field(page, "size") == "22 wpi"


@pytest.mark.parametrize(
    ("name", "typed", "message"),
    [
        ("size", "-3 tex", "more than 0"),
        ("size", "22 bananas", "not known"),
        ("twist", "<script>alert(1)</script>", "is not a number"),
        ("ply_twist", "1e9", "less than or equal to 10"),
        ("fibre", "unicorn", "choose one of"),
    ],
)
def test_bad_values_get_their_message_stay_typed_and_keep_nothing(http, name, typed, message):
    part = http.post("/construct/look", data={**START, name: typed}, headers=HTMX)
    assert part.status_code == 422
    own = re.search(rf'hx-target="#fault-{name}"[^>]*>([^<]*)<', part.text)
    assert own and message in own[1]
    whole = http.post("/construct/keep", data={**START, name: typed})
    assert whole.status_code == 422 and message in whole.text
    if name != "fibre":
        assert field(whole.text, name) == typed.replace("<", "&lt;").replace(">", "&gt;")
    assert http.get("/").status_code == 303


def test_jamming_is_refused_beside_the_ply_twist(http):
    answer = http.post("/construct/look", data={**START, "ply_by": "turns", "ply_twist": "900"}, headers=HTMX)
    own = re.search(r'hx-target="#fault-ply_twist"[^>]*>([^<]*)<', answer.text)
    assert answer.status_code == 422 and own and "jam at about" in own[1]


def test_rename_duplicate_put_away_and_undo(http):
    place = keep(http, name="Collar")
    assert http.post(f"{place}/rename", data={"name": "Queen's collar"}).status_code == 303
    copy = http.post(f"{place}/duplicate").headers["location"]
    assert field(http.get(copy).text, "name") == "Queen&#39;s collar (copy)"
    away = http.post(f"{place}/delete").headers["location"]
    assert "is put away" in http.get(away).text
    assert http.get(place).status_code == 404
    http.post(f"{place}/restore")
    assert http.get(place).status_code == 200


def test_a_bad_new_name_stays_in_its_field(http):
    place = keep(http, name="Collar")
    answer = http.post(f"{place}/rename", data={"name": "y" * 130})
    assert answer.status_code == 422 and "y" * 130 in answer.text and "at most 120" in answer.text
    assert field(http.get(place).text, "name") == "Collar"


def test_settings_hold_everywhere(http):
    chosen = {"units": "imperial", "angle_from": "crosswise", "wpi_method": "snug", "weight_table": "relaxed-wraps"}
    assert http.post("/settings", data=chosen).status_code == 303
    page = http.get("/construct").text
    assert "tpi" in page and "from crosswise" in page and "snug wraps" in page and "yd/lb" in page
    refused = http.post("/settings", data={**chosen, "units": "cubits"})
    assert refused.status_code == 422 and "Nothing was changed" in refused.text
    assert "from crosswise" in http.get("/construct").text


@pytest.mark.parametrize(
    ("body", "kind", "status"),
    [
        (b"size=\xff\xfe&name=\x00", "application/x-www-form-urlencoded", 422),
        (b"id=999999&name=a", "application/x-www-form-urlencoded", 404),
        (b"junk", "multipart/form-data", 400),
        (b"name=" + b"x" * 2_000_000, "application/x-www-form-urlencoded", 413),
    ],
)
def test_broken_forms_are_refused_and_keep_nothing(http, body, kind, status):
    answer = http.post("/construct/keep", content=body, headers={"content-type": kind})
    assert answer.status_code == status and http.get("/").status_code == 303


def test_a_name_with_markup_is_shown_as_text(http):
    place = keep(http, name="<img src=x onerror=alert(1)>")
    for page in (http.get("/").text, http.get(place).text):
        assert "<img" not in page and "&lt;img" in page


DESIGN = {
    "format": "pebble-wheel-design",
    "version": 1,
    "name": "Cable",
    "yarn": {
        "kind": "ply",
        "twist": {"turns_per_m": 60, "direction": "Z"},
        "strands": [
            {
                "kind": "ply",
                "count": 2,
                "twist": {"of_balanced": 1.8, "direction": "S"},
                "strands": [
                    {
                        "kind": "single", "fibre": "romney", "prep": "combed", "tex": 150, "count": 2,
                        "twist": {"turns_per_m": 130, "direction": "Z"},
                    }
                ],
            }
        ],
    },
}  # fmt: skip


def test_the_api_answers_a_cable(demo_http):
    answer = demo_http.post("/api/evaluate", json=DESIGN)
    assert answer.status_code == 200
    assert [level["path"] for level in answer.json()["levels"]][-1] == "yarn.strands[0].strands[0]"
    assert 620 < answer.json()["resultant_tex"] < 700


@pytest.mark.parametrize(
    ("body", "status", "place"),
    [
        (b"{", 422, "line 1"),
        (b"\xff", 422, "byte 0"),
        (json.dumps({**DESIGN, "colour": 1}).encode(), 422, "colour: unknown field"),
        (json.dumps(DESIGN).replace("150", "NaN").encode(), 422, "NaN"),
        (json.dumps(DESIGN).replace('"turns_per_m": 60', '"turns_per_m": 6000').encode(), 422, "yarn.twist: no more"),
        (json.dumps(DESIGN).replace('"Z"}, "strands"', '"S"}, "strands"').encode(), 200, ""),
        (b'{"a":' * 50_000, 422, "nested"),
        (b" " * 10_000_000, 413, "more than 1,000,000"),
    ],
)
def test_the_api_names_what_is_wrong_and_never_breaks(demo_http, body, status, place):
    answer = demo_http.post("/api/evaluate", content=body)
    assert answer.status_code == status
    assert place in (answer.json()["error"] if status == 422 else answer.text)


def test_a_body_without_a_length_is_counted_too(demo_http):
    answer = demo_http.post("/api/evaluate", content=(b" " * 100_000 for _ in range(30)))
    assert answer.status_code == 413


def test_writes_from_another_site_are_refused(http):
    for headers in ({"origin": "http://elsewhere.example"}, {"sec-fetch-site": "cross-site"}):
        assert http.post("/construct/keep", data=START, headers=headers).status_code == 403
    assert http.get("/").status_code == 303
    own = {"origin": str(http.base_url), "sec-fetch-site": "same-origin"}
    assert http.post("/construct/keep", data=START, headers=own).status_code == 303


def test_only_known_hosts_are_answered(demo_http):
    assert demo_http.get("/settings", headers={"host": "evil.example"}).status_code == 400


def test_every_answer_carries_the_policy(demo_http):
    for path in ("/", "/designs/1", "/designs/9", "/nowhere", "/static/construct.js"):
        headers = demo_http.get(path).headers
        assert (
            "default-src 'none'" in headers["content-security-policy"]
            and "unsafe" not in headers["content-security-policy"]
        )
        assert headers["x-content-type-options"] == "nosniff"


def test_pages_hold_no_inline_script_or_style(demo_http):
    for path in ("/", "/designs/1", "/designs/9", "/settings", "/construct"):
        page = demo_http.get(path).text
        assert not re.search(r"<script(?![^>]*src=)|<style| style=| on[a-z]+=\"", page)


def test_what_is_not_there_is_said_plainly(demo_http):
    assert "not on the shelf" in demo_http.get("/designs/999").text.lower()
    for address in ("/designs/x", "/designs/" + "9" * 30, "/?away=x"):
        answer = demo_http.get(address)
        assert answer.status_code == 422 and "Nothing was changed" in answer.text
    assert demo_http.get("/nowhere").status_code == 404


def test_a_design_file_of_any_structure_is_brought_in_shown_and_given_back(http):
    place = http.post("/designs", files={"file": ("cable.json", json.dumps(DESIGN))}).headers["location"]
    page = http.get(place).text
    assert "Level by level" in page and page.count("<tr>") >= 4 and "2 strands, each a 2-ply of Romney" in page
    given = http.get(f"{place}/design.json")
    assert 'filename="cable.json"' in given.headers["content-disposition"]
    again = http.post("/designs", files={"file": ("again.json", given.content)}).headers["location"]
    assert again != place and http.get(f"{again}/design.json").content == given.content
    http.post(f"{place}/rename", data={"name": "Cord"})
    assert "Level by level" in http.get(place).text


def test_a_file_is_changed_in_place_and_a_fault_keeps_the_text(http):
    place = http.post("/designs", files={"file": ("cable.json", json.dumps(DESIGN))}).headers["location"]
    changed = json.dumps(DESIGN).replace('"tex": 150', '"tex": 90')
    assert http.post(f"{place}/file", data={"text": changed}).headers["location"] == place
    assert '"tex": 90' in http.get(f"{place}/design.json").text
    bad = changed.replace("romney", "unicorn")
    refused = http.post(f"{place}/file", data={"text": bad})
    assert refused.status_code == 422 and "strands[0].fibre: unknown fibre" in refused.text
    assert "&#34;unicorn&#34;" in refused.text and "unicorn" not in http.get(f"{place}/design.json").text


def test_a_bad_design_file_keeps_nothing_and_says_where(http):
    bad = json.dumps(DESIGN).replace('"tex": 150', '"tex": -150')
    answer = http.post("/designs", files={"file": ("bad.json", bad)})
    assert answer.status_code == 422 and "yarn.strands[0].strands[0].tex: must be" in answer.text
    jammed = json.dumps(DESIGN).replace('"turns_per_m": 60', '"turns_per_m": 4000')
    assert "no more turns fit" in http.post("/designs", files={"file": ("bad.json", jammed)}).text
    assert http.post("/designs", data={"file": "text"}).status_code == 422
    assert http.get("/").status_code == 303


def test_the_drawing_is_given_true_to_scale(demo_http):
    for number in range(1, 10):
        drawn = demo_http.get(f"/designs/{number}/yarn.svg")
        root = ElementTree.fromstring(drawn.text)
        across, down = (float(root.get(side).removesuffix("mm")) for side in ("width", "height"))
        left, top, width, height = (float(part) for part in root.get("viewBox").split())
        assert (left, top) == (0, 0) and across / width == pytest.approx(down / height, rel=1e-4)
        # The ruler drawn in it: the mark of 1 mm, or of the first whole label, stands where it says.
        label = next(each for each in root.iter("{http://www.w3.org/2000/svg}text") if each.text not in ("mm", None))
        assert float(label.get("x")) * across / width == pytest.approx(float(label.text), rel=0.01)


@pytest.mark.parametrize(
    ("number", "fact"), [(1, "coils in a cm"), (2, "core covered"), (3, "links in a metre"), (5, "full of turns")]
)
def test_each_kind_shows_what_only_it_has(demo_http, number, fact):
    page = demo_http.get(f"/designs/{number}").text
    assert f"<dt>{fact}</dt>" in page
    assert ("cannot be said in ISO 1139" in page) == (number < 5)


def test_what_matters_most_stands_beside_every_yarn(demo_http):
    for number in (1, 5, 9):
        page = demo_http.get(f"/designs/{number}").text
        assert "What matters most" in page and re.search(r"(more|less) with twist of the", page)


def test_a_first_visit_is_light(demo_http):
    page = demo_http.get("/designs/9")
    assets = set(re.findall(r'(?:href|src)="(/static/[^"]+)"', page.text))
    size = len(page.content) + sum(len(demo_http.get(path).content) for path in assets)
    assert len(assets) == 6 and size < 300_000


def test_the_demo_is_lantern_lane(demo_http):
    shelf = demo_http.get("/").text
    assert shelf.count('class="card"') == 9 and "Marionette hair" in shelf and "Fisher&#39;s jersey" in shelf
