"""The texture screen over HTTP, and files that change along their length by the API and the command line."""

import json
import re
from urllib.parse import unquote

import pytest
from typer.testing import CliRunner

from pebble_wheel.cli import app
from pebble_wheel.notation.design import new_design, read_design, write_design
from pebble_wheel.store import designs
from pebble_wheel.store.database import opened
from tests.web.test_pages import sent
from tests.workshop.test_sequence import MANE, told, tree_of

COILS = {"begins": "30 cm", "ends": "30 cm", "times": "30", "gesture-0": "plain", "length-0": "25 cm"}
COILS |= {"gesture-1": "bobble", "length-1": "2 cm", "gesture-2": "coils", "length-2": "10 cm", "fed-2": "3"}
COILS |= {"gesture-3": "bobble", "length-3": "2 cm"}


@pytest.fixture
def place(file):
    with opened(file) as connection:
        return f"/designs/{designs.keep_new(connection, MANE)}/texture"


def test_sections_show_at_once_and_are_kept_with_the_yarn(http, place, file):
    page = http.get(place).text
    assert "coils locked by bobbles" in page and page.count('class="gesture"') == 13
    answer = http.post(f"{place}/follow", data=COILS, headers={"hx-request": "true"})
    assert answer.status_code == 200 and "<html" not in answer.text and "12.3 m" in answer.text
    assert http.post(place, data=COILS).headers["location"] == f"{place}?kept=1"
    kept = http.get(place).text
    assert 'value="25 cm"' in kept and "30 × 10 cm" in kept and "single of Mohair" in kept
    with opened(file) as connection:
        design = designs.find(connection, 1).design
        assert design.version == 2 and len(designs.versions(connection, 1)) == 1
    assert http.post(place, data={"times": "1"}).status_code == 303
    with opened(file) as connection:
        assert designs.find(connection, 1).design.sections is None


def test_what_is_constructed_anew_keeps_its_sections(http, place, file):
    """The yarn of a textured design is changed where it is constructed: its sections stay, and follow it."""
    http.post(place, data=COILS)
    kept = http.post("/construct/keep", data=sent("2-ply", "yarn.strands[0]", id="1", name="Wilder mane"))
    assert kept.status_code == 303, kept.text
    with opened(file) as connection:
        design = designs.find(connection, 1).design
    assert design.name == "Wilder mane" and len(design.sections) == 3 and design.yarn.kind == "ply"


def test_a_button_fills_in_a_ready_texture(http, place):
    page = http.post(f"{place}/follow", data={"start": "coils"}).text
    assert 'value="30 cm"' in page and "12.3 m" in page
    assert 'value="30 cm"' not in http.post(f"{place}/follow", data={"start": "none"}).text


def test_what_is_wrong_is_said_and_nothing_is_kept(http, place, file):
    wrong = http.post(place, data=COILS | {"length-2": "some"})
    assert wrong.status_code == 422 and 'value="some"' in wrong.text and "is not a number" in wrong.text
    with opened(file) as connection:
        assert designs.find(connection, 1).design.version == 1
        thread = {"kind": "bought", "tex": 70, "twist": {"turns_per_m": 350, "direction": "S"}}
        number = designs.keep_new(connection, new_design("Thread", thread))
    bare = http.post(f"/designs/{number}/texture", data=COILS)
    assert bare.status_code == 422 and "made of a spun single" in bare.text


@pytest.mark.parametrize("number", range(1, 10))
def test_every_yarn_of_the_demo_can_be_textured(demo_http, number):
    answer = demo_http.post(f"/designs/{number}/texture/follow", data=COILS)
    assert answer.status_code in (200, 422) and ("12.3 m" in answer.text) == (answer.status_code == 200)


def test_a_file_with_sections_is_answered_and_opens(http, tmp_path):
    """What the API and the command line say is the same; a yarn of one structure is answered as ever."""
    file = told([{"length_mm": 300}, {"repeat": 30, "of": [{"length_mm": 100, "yarn": tree_of("coils", 3.0, MANE)}]}])
    answer = http.post("/api/evaluate", content=json.dumps(file)).json()
    assert answer["along"]["metres"] == pytest.approx(3.3) and answer["designation"] == ""
    assert [each["times"] for each in answer["along"]["sections"]] == [1, 30]
    assert "along" not in http.post("/api/evaluate", content=write_design(MANE)).json()
    path = tmp_path / "mane.json"
    path.write_text(json.dumps(file))
    printed = CliRunner().invoke(app, ["evaluate", str(path), "--json"])
    assert json.loads(printed.stdout) == answer
    words = CliRunner().invoke(app, ["evaluate", str(path)]).stdout
    assert "all along     3.3 m" in words and "30 ×" in words and "cannot say a yarn that changes" in words
    assert "slides" in words and "of thread, 70 tex" in words
    assert read_design(json.dumps(file).encode()).sections


def test_the_wheel_says_section_by_section_and_the_shelf_that_it_is_textured(http, place):
    http.post(place, data=COILS)
    wheel = http.get(place.replace("/texture", "/wheel?strand=yarn")).text
    assert "30 times: 25 cm plain, as constructed; 2 cm bobble" in wheel and "30 cm plain, as constructed" in wheel
    single = http.get(place.replace("/texture", "/wheel?strand=yarn.strands[0]")).text
    assert "30 times" not in single and "textured along its length" in http.get("/").text
    plan = http.post(place.replace("/texture", "/plan/follow"), data={"want": "metres", "metres": "12.3 m"}).text
    assert "12.3 m of yarn" in plan


FEW = {
    "begins": "30 cm",
    "times": "6",
    "gesture-0": "turned",
    "length-0": "20 cm",
    "gesture-1": "coils",
    "length-1": "5 cm",
}


def test_the_picture_is_given_at_its_address_and_goes_along(http, place):
    """A window of the sequence: another place, another address, and other strands; nearer, more of them per mm."""

    def strands(**seen):
        page = http.post(f"{place}/follow", data=FEW | seen | {"relief": "yes"}, headers={"hx-request": "true"}).text
        address = re.search(r'data-strands="(/sequences/[^"]+)"', page)[1].replace("&amp;", "&")
        return address, http.get(address)

    (one, first), (other, second), (near, third) = strands(), strands(seen="0.5"), strands(zoom="1")
    assert len({one, other, near}) == 3 and first.status_code == second.status_code == third.status_code == 200
    assert first.content != second.content and "immutable" in first.headers["cache-control"]
    tables = [
        json.loads(each.content[4 : 4 + int.from_bytes(each.content[:4], "little")])["table"] for each in (first, third)
    ]
    assert tables[1] > 2 * tables[0]
    assert http.get(one.replace("wide=", "wide=9")).status_code in (200, 422)
    assert http.get("/sequences/x?yarn=nothing&at=1&wide=10").status_code == 422


def test_rows_are_copied_dropped_and_given_plain_ends_by_a_button(http, place):
    def rows(**asked):
        page = http.post(f"{place}/follow", data=FEW | asked).text
        return re.findall(r'<option value="(\w[\w-]*)" selected>', page), page

    assert rows()[0] == ["turned", "coils"] and rows(do="copy-1")[0] == ["turned", "coils", "coils"]
    assert rows(do="drop-0")[0] == ["coils"] and rows(do="drop-x")[0] == ["turned", "coils"]
    assert 'name="ends" value="30 cm"' in rows(do="ends")[1]


def test_what_is_on_the_bobbins_says_what_ends_first_and_is_kept_with_the_plan(http, place, file):
    answer = http.post(f"{place}/follow", data=FEW | {"have-0": "40 g", "have-1": "0.1 g"})
    assert "ends first, after" in answer.text
    assert http.post(place, data=FEW | {"have-0": "40 g", "have-1": "0.1 g"}).status_code == 303
    page = http.get(place).text
    assert 'name="have-1" value="0.1 g"' in page and "ends first" in page
    plan = place.replace("/texture", "/plan")
    http.post(plan, data={"want": "metres", "metres": "12 m"})
    assert 'name="have-0" value="40 g"' in http.get(place).text
    with opened(file) as connection:
        assert "have-0" not in connection.execute("SELECT body FROM design").fetchone()[0]
    faulty = http.post(f"{place}/follow", data=FEW | {"have-0": "much"})
    assert faulty.status_code == 422 and 'value="much"' in faulty.text


def test_a_section_is_finished_and_sampled_by_itself(http, place):
    http.post(place, data=FEW)
    finish = place.replace("/texture", "/finish")
    whole, coils = (http.get(finish, params={"section": each}).text for each in ("", "2"))
    assert "5 cm coils" in whole and '<option value="2" selected>' in coils
    strands = [re.findall(r'data-strands="([^"]+)"', each)[0] for each in (whole, coils)]
    assert strands[0] != strands[1]
    sample = place.replace("/texture", "/sample")
    page = http.get(sample).text
    strand = unquote(re.search(r'strand=(sections[^"]*)"', page)[1])
    kept = http.post(sample, data={"strand": strand, "gauge": "9"})
    assert kept.status_code == 303
    assert "coils" in http.get(place.replace("/texture", "/log")).text
