"""The aiming screen over real HTTP, and what if on the construction screen."""

import html
import re
from urllib.parse import urlencode

import pytest

from pebble_wheel.notation.draft import read_draft
from pebble_wheel.wording.merits import MERITS
from pebble_wheel.workshop.starts import STARTS, start
from tests.web.test_pages import HTMX, draft_in, field, look, sent


def ask(http, *several, **typed):
    return http.post("/aim/follow", data={**typed, **dict(several)}, headers=HTMX)


def order(page):
    return re.findall(r'name="at" id="at-[^"]+" value="([^"]+)"', page)


def row(page, label):
    cells = re.search(rf'<th scope="row">{label}</th>(.*?)</tr>', page, re.DOTALL)
    assert cells
    return [
        html.unescape(re.sub(r"<[^>]+>", "", cell)).strip() for cell in re.findall(r"<td.*?</td>", cells[1], re.DOTALL)
    ]


def test_every_structure_hangs_there_with_what_to_spin(demo_http):
    page = demo_http.get("/aim").text
    assert sorted(order(page)) == sorted(STARTS) and page.count('class="hanging"') == len(STARTS)
    found = dict(zip(order(page), row(page, "singles"), strict=True))
    assert re.fullmatch(r"3×\d+ wpi", found["3-ply"]) and re.fullmatch(r"1×\d+ wpi", found["chain"])
    assert re.fullmatch(r"2×\d+ \+ 1×\d+ wpi", found["crepe"])
    assert set(row(page, "as aimed")) == {"yes"}


def test_the_address_holds_the_aim(demo_http):
    query = urlencode({"size": "9 wpi", "fibre": "romney", "matter-quick": "3", "without": "coiled", "at": "3-ply"})
    page = demo_http.get(f"/aim?{query}").text
    assert field(page, "size") == "9 wpi" and '<option value="romney" selected>' in page
    assert "coiled" not in order(page) and "Bring back coiled" in page and order(page)[0] == "single"
    assert re.search(r'value="3-ply" checked', page)


def test_what_misses_the_aim_says_why_and_what_to_do(demo_http):
    page = demo_http.get("/aim?size=30+wpi&at=cable-2x3").text
    assert dict(zip(order(page), row(page, "as aimed"), strict=True))["cable-2x3"] == "too few fibres"
    assert "fibres across; 20 are the least" in page and "The nearest that can be spun is drawn" in page
    short = demo_http.get("/aim?grams=100+g&metres=500+m&at=3-ply").text
    assert re.search(r"100 g make \d+ m of the 500 m wanted", short)
    drifting = demo_http.get("/aim?fibre=cashmere&size=5+wpi&at=3-ply").text
    assert "turns would hold each staple; 4 are the least" in drifting


@pytest.mark.parametrize(
    ("name", "typed", "message"),
    [
        ("size", "thick", "not a number"),
        ("grams", "9 <b>", "not known"),
        ("run", "1 mm", "between a centimetre"),
    ],
)
def test_what_cannot_be_read_stays_typed_with_its_message(demo_http, name, typed, message):
    part = ask(demo_http, (name, typed))
    own = re.search(rf'hx-target="#fault-{name}"[^>]*>([^<]*)<', part.text)
    assert part.status_code == 422 and own and message in html.unescape(own[1])
    assert 'hx-target="#rail"' not in part.text  # what hangs there stays
    whole = demo_http.get("/aim", params={name: typed})
    assert whole.status_code == 422 and html.unescape(field(whole.text, name)) == typed
    assert "nothing you typed is lost" in whole.text
    assert (name == "run") == bool(re.search(r"<details[^>]* open>", whole.text))


def test_up_to_four_are_pinned_as_they_were_and_let_go(demo_http):
    pins = []
    for number, name in enumerate(("3-ply", "chain", "2-ply", "3-ply")):
        form = {"size": f"{9 + number} wpi", "do": f"pin-{name}", "pin": pins}
        page = demo_http.post("/aim/follow", data=form, headers=HTMX).text
        pins = [html.unescape(each) for each in re.findall(r'name="pin" value="([^"]*)"', page)]
    assert len(pins) == 4
    names = re.findall(r'<span class="hung-name">([^<]+, [^<]+)</span>', page)
    assert names == [
        "3-ply, 9 wpi finished",
        "chain ply, 10 wpi finished",
        "2-ply, 11 wpi finished",
        "3-ply, 12 wpi finished",
    ]
    full = demo_http.post("/aim/follow", data={"do": "pin-single", "pin": pins}, headers=HTMX).text
    assert "4 are pinned: let one go first" in full and "single, 12 wpi" not in full
    left = demo_http.post("/aim/follow", data={"do": "unpin-1", "pin": pins}, headers=HTMX).text
    assert "chain ply, 10 wpi" not in left and left.count('class="hung-name">3-ply, ') == 2


def test_readings_stand_in_line_and_differences_are_marked(demo_http):
    pins = ["structure=3-ply&size=13+wpi", "structure=chain&size=13+wpi"]
    page = demo_http.get("/aim", params={"pin": pins}).text
    lines = re.findall(r'<tr><th scope="row">([^<]+)</th>((?:<td[^>]*>[^<]*</td>){2})</tr>', page)
    marked = {label: "differs" in cells for label, cells in lines}
    assert len(lines) > 25
    assert marked["structure"] and marked["colours kept"] and not marked["angle"] and not marked["weight class"]
    for label, cells in lines:
        first, second = re.findall(r">([^<]*)</td>", cells)
        numbers, others = (
            [float(n.replace(",", "")) for n in re.findall(r"[\d.,]*\d", text)] for text in (first, second)
        )
        words = [re.sub(r"[\d.,]*\d", "", text) for text in (first, second)]
        far = len(numbers) != len(others) or any(
            abs(a - b) > 0.02 * max(a, b) for a, b in zip(numbers, others, strict=True)
        )
        assert marked[label] == (words[0] != words[1] or far), label


def test_every_figure_on_the_page_can_be_asked_of(demo_http):
    """Each of those of one candidate; those of all are asked of the functions."""
    keys = set(re.findall(r'form="aim" name="ask" value="([^"]+)"', demo_http.get("/aim?at=crepe").text))
    assert len(keys) == 10 + len(MERITS)
    for key in keys:
        assert 'id="why-title"' in ask(demo_http, ask=html.unescape(key)).text, key
    for junk in ("nonsense", "@crepe", "round@nowhere", "size@3-ply"):
        assert 'id="why-title"' not in ask(demo_http, ask=junk).text


def test_any_structure_opens_with_everything_filled_in_and_is_kept(http):
    query = {
        "size": "9 wpi",
        "fibre": "polwarth",
        "prep": "carded",
        "draw": "long",
        "colours": "#aa0000",
        "wash": "soak",
    }
    for name in STARTS:
        page = http.get("/construct/aimed", params={"structure": name, **query})
        assert page.status_code == 200 and "Start from" in page.text
        draft = read_draft(draft_in(page.text))
        assert draft.yarn.kind == start(name).yarn.kind and draft.wash == "soak"
        wraps = re.search(r"finished</span> <span class=\"value\">(\d+)–(\d+) wpi", page.text)
        assert wraps and int(wraps[1]) <= 9 <= int(wraps[2])
    kept = http.post("/construct/keep", data={"draft": draft_in(page.text), "name": field(page.text, "name")})
    assert kept.status_code == 303 and "9 wpi finished" in http.get("/").text


@pytest.mark.parametrize(
    "query", ["structure=unicorn", "structure=3-ply&size=blue", "structure=3-ply&fibre=cotton&thinnest=3+wpi"]
)
def test_what_cannot_be_opened_shows_the_aim_again(demo_http, query):
    answer = demo_http.get(f"/construct/aimed?{query}", follow_redirects=True)
    assert answer.status_code in (200, 422) and "Aim for a yarn" in answer.text
    assert demo_http.get("/construct/aimed").headers["location"].startswith("/aim")


def test_junk_in_the_address_is_shrugged_off(demo_http):
    query = "pin=junk&pin=structure%3D3-ply%26size%3Dblue&without=unicorn&at=nowhere&scale=nan&colours=red"
    query += "&do=unpin-x&matter-round=9"
    answer = demo_http.get(f"/aim?{query}")
    assert answer.status_code == 200 and len(order(answer.text)) == len(STARTS)


def test_colours_are_added_and_taken_away(demo_http):
    page = demo_http.post("/aim/follow", data={"colours": ["#aa0000"], "do": "more"}, headers=HTMX).text
    assert len(re.findall(r'type="color"', page)) == 2 and 'value="fewer"' in page
    page = demo_http.post("/aim/follow", data={"colours": ["#aa0000", "#00aa00"], "do": "fewer"}, headers=HTMX).text
    assert len(re.findall(r'type="color"', page)) == 1


def test_what_a_spinner_calls_it_holds_here_too(http):
    settings = {"units": "imperial", "angle_from": "crosswise", "wpi_method": "snug", "weight_table": "relaxed-wraps"}
    http.post("/settings", data=settings)
    page = http.get("/aim?grams=8+oz&size=12+wpi").text
    assert "worsted weight" in page and "angles from crosswise" in page and " tpi Z" in page
    assert all(re.fullmatch(r"[\d,]+ yd of 8 oz", cell) for cell in row(page, "makes"))
    assert re.search(r"treadles to 0.5 yd", page)


def test_everything_left_out_says_so(demo_http):
    page = demo_http.get("/aim", params={"without": list(STARTS)}).text
    assert "Every structure is left out" in page and page.count("Bring back") == len(STARTS)


def test_the_first_visit_to_an_aim_is_light(demo_http):
    """As it goes over the wire."""

    def wire(path):
        with demo_http.stream("GET", path) as answer:
            return sum(len(piece) for piece in answer.iter_raw())

    page = demo_http.get("/aim").text
    assets = set(re.findall(r'(?:href|src)="(/static/[^"]+)"', page))
    assert len(assets) == 6 and wire("/aim") + sum(map(wire, assets)) < 300_000


def test_what_if_moves_a_reading_in_the_page(demo_http):
    answer = look(demo_http, "3-ply", **{"do": "if-angle", "if-angle": "25°", "hold": "size"})
    assert answer.status_code == 200
    assert re.search(r'id="if-angle" name="if-angle" value="25\.0°"', answer.text)
    before = demo_http.get("/construct").text
    moved, own = (
        float(re.search(r'id="if-size" name="if-size" value="([\d.]+) wpi"', each)[1]) for each in (answer.text, before)
    )
    assert abs(moved - own) < 0.11  # sizes are written on four figures, so that the last place of the wraps may move
    assert draft_in(answer.text) != draft_in(before)


def test_a_reading_moved_just_before_an_action_is_moved_and_the_action_done(demo_http):
    typed = {"move": "if-angle", "if-angle": "25°", "hold": "size"}
    alone = look(demo_http, "3-ply", **typed)
    both = look(demo_http, "3-ply", **typed, **{"do": "add"})
    plies = [read_draft(draft_in(each.text)).yarn for each in (alone, both)]
    assert [sum(part.count for part in each.inner) for each in plies] == [3, 4]
    spun = [each.inner[0].of("twist") for each in (start("3-ply").yarn, *plies)]
    assert spun[0] != spun[1] == spun[2]


def test_what_cannot_be_moved_stays_typed_with_its_reason_and_the_yarn_stays(demo_http):
    answer = look(demo_http, "3-ply", **{"do": "if-angle", "if-angle": "70", "hold": "size"})
    assert answer.status_code == 422 and "the strands would be full of turns" in answer.text
    assert re.search(r'id="if-angle" name="if-angle" value="70"', answer.text)
    whole = demo_http.post("/construct/follow", data=sent("3-ply", **{"do": "if-size", "if-size": "blue"}))
    assert whole.status_code == 422 and "is not a number" in whole.text and 'value="blue"' in whole.text
    assert read_draft(draft_in(answer.text)).yarn == start("3-ply").yarn
