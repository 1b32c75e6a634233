"""The pages over real HTTP: promises of each screen, bad input, and the guard in front of them."""

import html
import json
import re
from xml.etree import ElementTree

import httpx
import pytest

from pebble_wheel.notation.address import WHOLE
from pebble_wheel.notation.draft import FIELDS, part_at, write_draft
from pebble_wheel.notation.settings import Settings
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.workshop.edits import done, typed_into
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.starts import STARTS, start
from pebble_wheel.workshop.turns import TooLongError

HTMX = {"hx-request": "true"}
IMPERIAL = {"units": "imperial", "angle_from": "crosswise", "wpi_method": "snug", "weight_table": "relaxed-wraps"}


def sent(kind: str = "3-ply", of: str = "yarn", **typed: str) -> dict[str, str]:
    """What the page sends of a starting yarn with one part in hand."""
    draft = start(kind)
    own = {field: part_at(draft, of).of(field) for field in FIELDS[part_at(draft, of).kind]}
    head = {"draft": write_draft(draft), "of": of, "at": of, "name": "Mane", "wash": "snap", "drying": "free"}
    return {**head, **own, **typed}


def keep(http: httpx.Client, **typed: str) -> str:
    answer = http.post("/construct/keep", data=sent("2-ply", "yarn.strands[0]", **typed))
    assert answer.status_code == 303
    return answer.headers["location"].split("?")[0]


def look(http: httpx.Client, *of: str, **typed: str) -> httpx.Response:
    return http.post("/construct/follow", data=sent(*of, **typed), headers=HTMX)


def draft_in(page: str) -> str:
    found = re.search(r'id="draft" value="([^"]*)"', page)
    assert found
    return html.unescape(found[1])


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
    page = http.get(place, params={"at": "yarn"}).text
    assert field(page, "name") == "Dragon&#39;s scarf"
    assert '"size":"22 wpi"' in draft_in(page) and '"twist":"6,5 tpi"' in draft_in(page)
    assert '<option value="soak" selected>' in page
    assert "Dragon&#39;s scarf" in http.get("/").text


def test_a_bare_number_kept_under_other_units_still_means_the_same_yarn(http):
    place = keep(http, size="120", twist="230")
    before = http.get(f"{place}/design.json").json()
    http.post("/settings", data=IMPERIAL)
    assert f'"size":"{1e5 / 120!r} tex"' in draft_in(http.get(place).text)  # 120 m in 100 g
    assert http.get(f"{place}/design.json").json() == before


def test_keeping_again_overwrites_and_does_not_copy(http):
    place = keep(http, name="Mane")
    keep(http, id=place.rsplit("/", 1)[1], name="Mane", size="70 tex")
    assert http.get("/").text.count('<li class="card">') == 1
    assert http.get(f"{place}/design.json").json()["yarn"]["strands"][0]["tex"] == 70


def test_a_change_answers_with_parts_of_the_page(http):
    answer = look(http, "2-ply", twist="1.2")
    assert answer.status_code == 200 and "<html" not in answer.text
    assert 'hx-target="#picture"' in answer.text and "2-ply of Corriedale" in answer.text
    assert "slightly over" in answer.text and 'hx-target="#hand"' not in answer.text


def test_without_script_the_same_form_gives_the_whole_page(http):
    page = http.post("/construct/follow", data=sent("4-ply", "yarn.strands[1]", size="22 wpi")).text
    assert "<html" in page and "4-ply of Corriedale" in page
    assert field(page, "size") == "22 wpi"
    added = http.post("/construct/follow", data=sent("4-ply", do="add")).text
    assert "<html" in added and "5-ply" in added


@pytest.mark.parametrize("name", STARTS)
def test_every_start_is_one_action_and_every_picture_of_it_is_drawn(demo_http, name):
    begun = look(demo_http, "3-ply", do=f"start-{name}")
    meant = start(name, Settings()).model_copy(update={"name": ""})
    assert begun.status_code == 200 and draft_in(begun.text) == write_draft(meant)
    for picture in ("along", "across", "unrolled"):
        seen = look(demo_http, name, picture=picture, reach="4")
        drawn = re.search(r'hx-target="#picture"[^>]*>(<svg.*?</svg>)', seen.text, re.DOTALL)
        assert drawn and "NaN" not in drawn[1]
        ElementTree.fromstring(drawn[1])


def test_the_part_in_hand_is_read_and_its_likes_change_with_it(http):
    one = "yarn.strands[1].strands[0]"
    answer = look(http, "cable-2x3", one, size="75 tex", together="on")
    assert answer.text.count("75 tex") >= 3
    assert "single of Corriedale × 2" in answer.text and "twist now" in answer.text
    alone = look(http, "cable-2x3", one, size="75 tex")
    assert draft_in(alone.text).count('"size":"75 tex"') == 1
    other = look(http, "cable-2x3", one, at="yarn.strands[0]")
    assert 'hx-target="#hand"' in other.text and 'value="yarn.strands[0]"' in other.text


def test_actions_build_and_refill_the_fields(http):
    answer = look(http, "2-ply", do="ply")
    assert answer.status_code == 200 and 'hx-target="#hand"' in answer.text
    assert "2 strands, each a 2-ply of Corriedale" in answer.text and '"twist":"1.5"' in draft_in(answer.text)
    same = look(http, "single", do="remove")
    assert same.status_code == 200 and draft_in(same.text).count('"kind"') == 1


def test_a_fault_elsewhere_names_its_part_and_leaves_the_tree_in_reach(http):
    broken = draft_in(look(http, "3-ply", "yarn.strands[2]", size="thick").text)
    answer = look(http, "3-ply", draft=broken, at="yarn", of="yarn")
    assert answer.status_code == 422
    assert 'for="at-yarn.strands[2]"' in answer.text and "is not a number with a unit" in answer.text
    assert 'hx-target="#tree"' in answer.text and "faulty" in answer.text and 'hx-target="#picture"' not in answer.text


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ("now@yarn.strands[0]", "Călugăreanu"), ("lean@yarn", "tan β"), ("finished@yarn", "Wash a swatch"),
        ("ratio@yarn", "0.1 ± 0.05"), ("two thirds@yarn", "no source"), ("fibres@yarn.strands[0]", "from memory"),
        ("jamming@yarn", "Olsen"), ("grist@yarn", "496 055"), ("class@yarn", "not a verdict"),
    ],
)  # fmt: skip
def test_a_figure_says_why(http, asked, said):
    answer = look(http, "3-ply", ask=asked)
    reason = re.search(r'hx-target="#why"[^>]*>(.*?)</hx-partial>', answer.text, re.DOTALL)
    assert reason and said in reason[1] and "<th" in reason[1]
    still = look(http, "3-ply", asked=asked, twist="1.1")
    assert said in still.text
    assert "why-title" not in look(http, "3-ply", asked=asked, ask="").text


def test_how_full_of_turns_is_said_ply_by_ply_and_the_fullest_counts(http):
    answer = look(http, "cable-2x3", ask="jamming@yarn")
    reason = re.search(r'hx-target="#why"[^>]*>(.*?)</hx-partial>', answer.text, re.DOTALL)[1]
    fills = [int(figure) for figure in re.findall(r"<td>(\d+) %</td>", reason)]
    shown = re.search(r'value="jamming@yarn".*?class="value">(\d+) %', answer.text, re.DOTALL)
    assert len(fills) == 2 and shown and int(shown[1]) == max(fills)


def test_every_figure_on_the_page_can_be_asked_of(demo_http):
    """Each of those on one page; that every figure of every start has its reason is asked of the functions."""
    for part in ("yarn", "yarn.strand"):
        keys = set(re.findall(r'name="ask" value="([^"]+)"', look(demo_http, "chain", part).text))
        assert len(keys) > 15
        for key in keys:
            assert 'id="why-title"' in look(demo_http, "chain", part, ask=html.unescape(key)).text, key


@pytest.mark.parametrize("asked", ["nonsense", "now@nowhere", "coils@yarn", "@", "staple@yarn", "now@" + "x" * 900])
def test_a_figure_that_is_not_there_has_no_reason(http, asked):
    answer = look(http, "3-ply", ask=asked)
    assert answer.status_code == 200 and "why-title" not in answer.text


@pytest.mark.parametrize(
    ("of", "name", "typed", "message"),
    [
        ("yarn.strands[0]", "size", "-3 tex", "more than 0"),
        ("yarn.strands[0]", "size", "22 bananas", "not known"),
        ("yarn.strands[0]", "twist", "<script>alert(1)</script>", "is not a number"),
        ("yarn", "twist", "1e9", "less than or equal to 10"),
        ("yarn.strands[0]", "fibre", "unicorn", "choose one of"),
    ],
)
def test_bad_values_get_their_message_stay_typed_and_keep_nothing(http, of, name, typed, message):
    part = look(http, "3-ply", of, **{name: typed})
    assert part.status_code == 422
    own = re.search(rf'hx-target="#fault-{name}"[^>]*>([^<]*)<', part.text)
    assert own and message in own[1]
    whole = http.post("/construct/keep", data=sent("3-ply", of, **{name: typed}))
    assert whole.status_code == 422 and message in whole.text
    if name != "fibre":
        assert field(whole.text, name) == typed.replace("<", "&lt;").replace(">", "&gt;")
    assert http.get("/").status_code == 303


def test_jamming_is_refused_beside_the_ply_twist(http):
    answer = look(http, "3-ply", by="turns", twist="900")
    own = re.search(r'hx-target="#fault-twist"[^>]*>([^<]*)<', answer.text)
    assert answer.status_code == 422 and own and "jam at about" in own[1]


def test_a_strand_that_jams_is_named_though_its_likes_in_other_colours_come_before(http):
    draft = done(start("cable-2x3"), WHOLE.strand(2), "duplicate").draft
    jammed = typed_into(draft, "yarn.strands[3]", {"by": "turns", "twist": "3000"}, together=False)
    answer = http.post("/construct/follow", data={**sent(), "draft": write_draft(jammed), "of": ""}, headers=HTMX)
    assert 'for="at-yarn.strands[3]"' in answer.text and "jam at about" in answer.text


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
    assert http.post("/settings", data=IMPERIAL).status_code == 303
    page = http.get("/construct").text
    assert "tpi" in page and "from crosswise" in page and "snug wraps" in page and "yd/lb" in page
    refused = http.post("/settings", data={**IMPERIAL, "units": "cubits"})
    assert refused.status_code == 422 and "Nothing was changed" in refused.text
    assert "from crosswise" in http.get("/construct").text


@pytest.mark.parametrize(
    ("body", "kind", "status"),
    [
        (b"size=\xff\xfe&name=\x00", "application/x-www-form-urlencoded", 422),
        (b"draft=%7B%7D&name=a", "application/x-www-form-urlencoded", 422),
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
        assert "<img src=x" not in page and "&lt;img" in page


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


def test_what_takes_too_long_is_said_so(http, monkeypatch):
    def given_up(*asked):
        raise TooLongError

    monkeypatch.setattr(Evaluator, "spin_to", given_up)
    answer = http.get("/aim?size=13.7+wpi")
    assert answer.status_code == 503 and "This takes too long" in answer.text and "Traceback" not in answer.text


def test_writes_from_another_site_are_refused(http):
    for headers in ({"origin": "http://elsewhere.example"}, {"sec-fetch-site": "cross-site"}):
        assert http.post("/construct/keep", data=sent(), headers=headers).status_code == 403
    assert http.get("/").status_code == 303
    own = {"origin": str(http.base_url), "sec-fetch-site": "same-origin"}
    assert http.post("/construct/keep", data=sent(), headers=own).status_code == 303


def test_only_known_hosts_are_answered(demo_http):
    assert demo_http.get("/settings", headers={"host": "evil.example"}).status_code == 400


def test_every_answer_carries_the_policy(demo_http):
    for path in ("/", "/designs/1", "/designs/9", "/nowhere", ASSETS.address("construct.js")):
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
    assert "Level by level" in page and page.count("<tr data-part") == 3 and "2 strands, each a 2-ply of Romney" in page
    given = http.get(f"{place}/design.json")
    assert 'filename="cable.json"' in given.headers["content-disposition"]
    again = http.post("/designs", files={"file": ("again.json", given.content)}).headers["location"]
    assert again != place and http.get(f"{again}/design.json").content == given.content
    http.post(f"{place}/rename", data={"name": "Cord"})
    assert "Level by level" in http.get(place).text


def test_a_yarn_is_written_out_changed_as_text_and_built_again(http):
    written = look(http, "cable-2x2", do="write")
    text = html.unescape(re.search(r"<textarea[^>]*>\n(.*?)</textarea>", written.text, re.DOTALL)[1])
    assert json.loads(text)["yarn"]["strands"][0]["strands"][0]["tex"] == 60
    built = look(http, "3-ply", do="read", text=text.replace('"tex": 60', '"tex": 90'))
    assert built.status_code == 200 and '"size":"90 tex"' in draft_in(built.text)
    bad = look(http, "3-ply", do="read", text=text.replace("corriedale", "unicorn"))
    assert "strands[0].fibre: unknown fibre" in bad.text and "&#34;unicorn&#34;" in bad.text
    assert draft_in(bad.text) == write_draft(start("3-ply").model_copy(update={"name": ""}))


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
    assert f">{fact}</span>" in page
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
    assert shelf.count('class="card"') == 11 and "Marionette hair" in shelf and "Fisher&#39;s jersey" in shelf


def test_all_that_changes_something_leads_on_to_a_page(http):
    """See other: going back or loading again then sends nothing twice."""
    place = keep(http)
    number = place.rsplit("/", 1)[1]
    measured = {"wraps": "12", "stitches_before": "20", "stitches_after": "19"}
    for address, data in (
        (f"{place}/finish", {"wash": "soak"}),
        (f"{place}/skeins", measured),
        (f"{place}/swatches", measured),
        (f"{place}/records/skein/1/strike", {}),
        (f"{place}/records/skein/1/back", {}),
        (f"{place}/rename", {"name": "Ruff"}),
        (f"{place}/duplicate", {}),
        (f"{place}/delete", {}),
        (f"{place}/restore", {}),
        ("/settings", IMPERIAL),
        ("/construct/keep", sent("2-ply", id=number)),
    ):
        answer = http.post(address, data=data)
        assert answer.status_code == 303, address
        assert http.get(answer.headers["location"]).status_code == 200, address
    brought = http.post("/designs", files={"file": ("yarn.json", http.get(f"{place}/design.json").content)})
    assert brought.status_code == 303 and http.get(brought.headers["location"]).status_code == 200
    for struck, shown in (
        (f"skein-{'1' * 17}", True),
        (f"skein-{'1' * 18}", False),
        ("yarn-1", False),
        ("skein-x", False),
    ):
        assert ("is struck out" in http.get(f"{place}/finish?struck={struck}").text) == shown


def test_what_cannot_be_served_says_so_in_its_own_words(http):
    nowhere, refused = http.get("/nowhere"), http.put("/settings")
    assert nowhere.status_code == 404 and "There is no such page." in nowhere.text
    assert refused.status_code == 405 and "Method Not Allowed" in refused.text


def test_a_body_is_taken_up_to_a_million_bytes(http):
    fine = b"name=" + b"x" * (1_000_000 - 5)
    kind = {"content-type": "application/x-www-form-urlencoded"}
    assert http.post("/settings", content=fine, headers=kind).status_code == 303
    for content in (fine + b"x", iter([fine, b"x"])):
        answer = http.post("/settings", content=content, headers=kind)
        assert answer.status_code == 413 and "more than 1,000,000 bytes" in answer.text
