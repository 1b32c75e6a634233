"""The colour screen over HTTP: preparations show at once, are kept with the plan, and survive its keeping."""

import base64
import re
import struct
import zlib

import pytest

from pebble_wheel.store import designs, records
from pebble_wheel.store.database import opened
from tests.web.test_fibre import LOT
from tests.web.test_plan import ply


@pytest.fixture
def place(file):
    with opened(file) as connection:
        return f"/designs/{designs.keep_new(connection, ply())}/colour"


def of_lot(http, place, **typed):
    """A plan of the yarn of a lot in five colours; return its uid."""
    five = "#c03030 #d9b23f #3f8f6b #31507a #7a3f8f"
    http.post("/fibre", data={**LOT, "grams": "120 g", "colours": five, **typed})
    uid = re.search(r'<option value="(\w{32})"[^>]*>Two braids', http.get(place.replace("/colour", "/plan")).text)[1]
    http.post(place.replace("/colour", "/plan"), data={"lot-1": uid})
    return uid


def test_a_yarn_without_lots_shows_the_colours_it_was_typed_with(http, place):
    page = http.get(place).text
    assert "No lot is planned for this yarn" in page and "Even: it neither stripes nor pools" in page
    assert page.count('class="strand-way"') == 3 and 'class="yarn-strip"' in page and 'class="cloth"' in page


def test_preparations_show_at_once_in_parts(http, place):
    of_lot(http, place)
    whole = http.get(place).text
    assert "Two braids, 120 g" in whole and whole.count('class="braid"') == 1 and "40.0 g; a colour runs" in whole
    asked = {"way-0": "whole", "way-1": "strips", "parts-1": "3", "way-2": "strips", "parts-2": "9", "beside": "chain"}
    answer = http.post(f"{place}/follow", data=asked, headers={"hx-request": "true"})
    assert answer.status_code == 200 and "<html" not in answer.text and answer.text.count("<hx-partial") >= 12
    runs = [float(each) for each in re.findall(r"a colour runs ([\d.]+) m", answer.text)]
    assert runs[0] / runs[1] == pytest.approx(3, rel=0.02) and runs[0] / runs[2] == pytest.approx(9, rel=0.02)
    assert "in 9 strips" in answer.text and "a barber pole" in answer.text
    assert answer.text.count('class="beside-row"') == 1


def test_preparations_are_kept_with_the_plan_and_neither_page_forgets_the_other(http, place, file):
    uid = of_lot(http, place)
    assert http.post(place, data={"way-1": "other-end", "stitches": "72"}).headers["location"] == f"{place}?kept=1"
    page = http.get(place).text
    assert re.search(r'<option value="other-end" selected>', page) and 'value="72"' in page
    http.post(place.replace("/colour", "/plan"), data={"lot-1": uid, "grams-1": "60 g"})
    again = http.get(place).text
    assert re.search(r'<option value="other-end" selected>', again) and "20.0 g; a colour" in again
    with opened(file) as connection:
        typed = records.plan(connection, 1).record.typed
    assert (typed["way-1"], typed["grams-1"], typed["lot-1"]) == ("other-end", "60 g", uid)
    beads = re.findall(r'<li class="([ a-z]*)"><a href="[^"]*/(\w+)"', again)
    assert ("done", "colour") in [(classes.strip(), step) for classes, step in beads]


def test_what_cannot_be_read_is_said_and_stays(http, place):
    answer = http.post(f"{place}/follow", data={"parts-0": "many", "way-0": "strips"})
    assert answer.status_code == 422 and 'value="many"' in answer.text and "is not a number" in answer.text


@pytest.mark.parametrize("number", range(1, 10))
@pytest.mark.parametrize("cloth", ["round", "flat", "weave"])
def test_every_yarn_of_the_demo_has_colours(demo_http, number, cloth):
    besides = ["chain", "core-spun", "single", "fractal"]
    asked = {"cloth": cloth, "distance": "room", "eyes": "protan", "at": "1 m", "beside": besides}
    answer = demo_http.post(f"/designs/{number}/colour/follow", data=asked)
    assert answer.status_code == 200 and 'class="cloth"' in answer.text and 'class="wound-skein"' in answer.text


def test_what_is_seen_close_is_the_place_asked_for(demo_http):
    """The scarf of two dragon braids: another place, another address, and other colours in its strands."""

    def strands(at):
        page = demo_http.post("/designs/3/colour/follow", data={"at": at}).text
        address = re.search(r'data-strands="([^"]+)"', page)[1].replace("&amp;", "&")
        return address, demo_http.get(address)

    (one, first), (other, second) = strands("10 m"), strands("300 m")
    assert one != other and first.status_code == second.status_code == 200 and first.content != second.content


def test_a_braid_is_drawn_as_it_is_typed(http):
    asked = {"colours": "teal gold", "lengths": "3 1", "edges": "sharp", "order": "turn"}
    drawn = http.post("/fibre/braid", data=asked).text
    assert 'stop-color="#008080"' in drawn and 'data-band="0"' in drawn and "M750" in drawn
    assert http.post("/fibre/braid", data=asked | {"lengths": "3 1 1"}).text.strip() == ""
    assert 'stop-color="#808080"' not in drawn
    faulty = http.post("/fibre", data={**LOT, "colours": "teal gold", "lengths": "3"})
    assert faulty.status_code == 422 and "a length for each of the 2 colours" in faulty.text
    for wrong in ({"edges": "torn"}, {"order": "none"}, {"seed": "1.5"}, {"lengths": "0 1"}):
        assert http.post("/fibre", data={**LOT, "colours": "teal gold", **wrong}).status_code == 422


def test_the_plan_says_how_fibre_is_prepared(http, place):
    of_lot(http, place)
    http.post(place, data={"way-1": "strips", "parts-1": "3", "way-2": "broken", "parts-2": "20"})
    plan = http.get(place.replace("/colour", "/plan")).text
    assert "For its colours: strand 2 in 3 strips, strand 3 in 20 pieces, shuffled." in plan
    answer = http.post(f"{place.replace('/colour', '/plan')}/follow", data={"grams-1": "50 g"})
    assert "strand 2 in 3 strips" in answer.text


def test_three_hundred_by_three_hundred_stitches_are_drawn(http, place):
    of_lot(http, place, grams="900 g")
    answer = http.post(f"{place}/follow", data={"stitches": "300", "rows": "300", "way-1": "strips", "parts-1": "30"})
    pictures = [base64.b64decode(each) for each in re.findall(r"data:image/png;base64,([^\"]+)", answer.text)]
    assert (600, 300) in [struct.unpack(">II", each[16:24]) for each in pictures] and len(answer.content) < 700_000
    assert http.post(f"{place}/follow", data={"rows": "900"}).status_code == 422


def test_a_textured_yarn_is_seen_section_by_section(http, place):
    """Coils and plain: what is seen close is of the section that lies there."""
    of_lot(http, place)
    coils = {"begins": "30 cm", "times": "4", "gesture-0": "plain", "length-0": "20 cm", "gesture-1": "coils"}
    sections = {**coils, "length-1": "10 cm", "fed-1": "3"}
    assert http.post(place.replace("/colour", "/texture"), data=sections).status_code == 303

    def close(at):
        page = http.post(f"{place}/follow", data={"at": at}).text
        address = re.search(r'data-strands="([^"]+)"', page)[1].replace("&amp;", "&")
        yarn = zlib.decompress(base64.urlsafe_b64decode(re.search(r"yarn=([^&]+)", address)[1]))
        return b'"wrapped"' in yarn, http.get(address).status_code, page

    assert [close(at)[:2] for at in ("40 cm", "55 cm", "65 cm", "85 cm")] == [
        (False, 200), (True, 200), (False, 200), (True, 200),
    ]  # fmt: skip
    page = close("40 cm")[2]
    assert page.count('class="strand-way"') == 3 and 'class="cloth"' in page
