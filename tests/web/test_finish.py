"""The finishing screen over real HTTP."""

import html
import re

import pytest

from pebble_wheel.wording.factors import factors_of
from tests.web.test_pages import HTMX, keep
from tests.yarns import TYPICAL


def text(page, inside=None):
    if inside:
        found = re.search(inside, page, re.DOTALL)
        assert found, inside
        page = found[1]
    return html.unescape(re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", page)))


def figures(page):
    found = re.findall(r'<span class="label">([^<]+)</span>\s*<span class="value">([^<]+)</span>', page)
    return {html.unescape(label): html.unescape(value) for label, value in found}


def look(http, number, **asked):
    return http.post(f"/designs/{number}/finish/follow", data=asked, headers=HTMX).text


def test_the_whole_way_from_bobbin_to_dry_skein_is_shown(demo_http):
    page = demo_http.get("/designs/9/finish").text
    moments = re.findall(r'name="at" id="at-([^"]+)"', page)
    assert moments == ["fresh", "rested", "soaking", "spun-out", "dried", "next"]
    assert page.count('class="length"') == 2 and 'class="skein"' in page and 'class="loop"' in page
    assert "wash the swatch" in page and "Tie the weight" not in page
    for factor in factors_of(TYPICAL):
        assert html.escape(factor.name) in page
    assert demo_http.get("/designs/999/finish").status_code == 404


def test_each_moment_has_its_figures_and_weight_hides_what_water_brings_back(demo_http):
    at = {
        moment: figures(look(demo_http, 9, at=moment, drying="heavy", wash="soak"))
        for moment in ("fresh", "soaking", "dried", "next")
    }
    assert at["fresh"]["100 m have become"] == "100.0 m"
    loops = {moment: found["30 cm hung up"] for moment, found in at.items()}
    assert loops["fresh"] == loops["soaking"] == loops["next"] != loops["dried"]
    assert at["dried"]["torque that does not show"] == "85 %" and at["next"]["torque that does not show"] == "0 %"
    assert at["dried"]["100 m have become"] == "100.0 m" != at["next"]["100 m have become"]
    wet = look(demo_http, 9, at="soaking")
    assert "never to be compared with a dry measurement" in wet and 'class="drip"' in wet
    rested = look(demo_http, 9, at="rested", rest="48")
    assert re.search(r"After 48 h on the bobbin a ply-back of the single reads about \d+ % low", rested)


def test_every_figure_on_the_page_can_be_asked_of(demo_http):
    """At one moment; those of all moments are asked of the functions."""
    page = demo_http.get("/designs/9/finish").text
    keys = set(re.findall(r'name="ask" value="([^"]+)"', page))
    assert len(keys) == 14
    for key in keys:
        assert 'id="why-title"' in look(demo_http, 9, ask=key, at="soaking"), key
    assert 'id="why-title"' not in look(demo_http, 9, ask="nonsense")
    assert "s, swelling" in look(demo_http, 9, ask="thick", at="soaking")


def test_the_list_tells_times_warmth_and_cautions_of_each_wash(demo_http):
    soaked = text(look(demo_http, 9, wash="thwack", drying="light"))
    for said in ("35 to 40 °C", "Start 20 min", "Start 5 min", "felts", "Thwacking wants room", "Tie the weight"):
        assert said in soaked, said
    assert "scalds" in text(look(demo_http, 9, wash="full")) and "50 °C" in text(look(demo_http, 9, wash="full"))
    assert "Steam scalds" in text(look(demo_http, 9, wash="steam"))
    unwashed = look(demo_http, 9, wash="none")
    assert "Use it off the bobbin" in unwashed and 'id="at-soaking"' not in unwashed and "first wetting" in unwashed


def test_a_finish_is_kept_with_the_design_and_shows_in_construction(http):
    place = keep(http, name="Cuffs")
    answer = http.post(
        f"{place}/finish", data={"wash": "full", "drying": "light", "mill_ironed": "yes", "blocking": "severe"}
    )
    assert answer.status_code == 303
    file = http.get(f"{place}/design.json").json()
    assert file["finish"] == {"wash": "full", "drying": "light", "mill_ironed": True, "blocking": "severe"}
    assert '<option value="full" selected>' in http.get(place).text
    again = http.get(f"{place}/finish").text
    assert re.search(r'name="mill_ironed" value="yes" checked', again) and "not yet kept" not in again
    assert "not yet kept" in http.post(f"{place}/finish/follow", data={"wash": "soak"}, headers=HTMX).text


@pytest.mark.parametrize(
    ("over", "most", "least"),
    [
        ("finish", "lightly fulled, hung free", "not washed"),
        ("fibre", "Down type", "Viscose"),
        ("preparation", "carded, drawn long", "combed, drawn short"),
    ],
)
def test_what_a_wash_would_do_is_ranked(demo_http, over, most, least):
    page = look(demo_http, 9, over=over)
    names = [html.unescape(name) for name in re.findall(r"<b>([^<]+)</b><span>", page)]
    kept = [int(each) for each in re.findall(r"(\d+) % of its definition", page)]
    assert names[0] == most and names.index(least) > len(names) / 2
    assert len(names) == {"finish": 19, "fibre": 36, "preparation": 7}[over] and kept[0] < kept[-1]


def test_a_skein_and_a_swatch_are_noted_and_stand_against_the_band(http):
    place = keep(http, name="Socks")
    skein = {
        "stage": "finished",
        "wet": "dry",
        "wraps": "15",
        "method": "snug",
        "metres": "120 m",
        "grams": "40 g",
        "loop": "1",
        "way": "Z",
    }
    assert http.post(f"{place}/skeins", data=skein).headers["location"] == f"{place}/finish?noted=skein#records"
    swatch = {
        "stitches_before": "20",
        "stitches_after": "19",
        "rows_before": "28",
        "rows_after": "27.5",
        "garment": "100 cm",
        "bloomed": "yes",
    }
    http.post(f"{place}/swatches", data=swatch)
    page = http.get(f"{place}/finish").text
    said = text(page, r'<ul class="noted">(.*?)</ul>')
    assert "15 snug wraps · 120 m · 40 g · loop 1.0 turns Z, predicted" in said
    assert re.search(r"stitches -5\.0 %, predicted -1\d to -\d % · rows -1\.8 %, predicted -\d to -\d %", said)
    assert "100 cm cast on by the unwashed gauge come out 5.3 cm wider" in said
    assert "bloomed: yes" in said
    titles = re.findall(r"<title>([^<]+against predicted)</title>", page)
    assert titles == [
        "Wraps finished, dry, measured against predicted",
        "Weight finished, dry, measured against predicted",
        "Stitches unwashed, counted against predicted",
        "Stitches washed, counted against predicted",
    ]


def test_wet_is_compared_with_wet_only(http):
    place = keep(http, name="Socks")
    http.post(f"{place}/skeins", data={"wraps": "12", "wet": "wet"})
    titles = re.findall(r"<title>(Wraps[^<]+)</title>", http.get(f"{place}/finish").text)
    assert titles == ["Wraps wet, measured against predicted"]
    http.post(f"{place}/finish", data={"wash": "none"})
    assert "against predicted" not in http.get(f"{place}/finish").text


def test_what_cannot_be_noted_stays_typed_with_its_message(http):
    place = keep(http, name="Socks")
    answer = http.post(f"{place}/skeins", data={"wraps": "a few", "metres": "120 m", "note": "<hm>"})
    assert answer.status_code == 422 and "is not a number" in answer.text
    assert 'name="wraps" value="a few"' in answer.text and 'name="metres" value="120 m"' in answer.text
    assert "<hm>" not in answer.text and 'class="noted"' not in http.get(f"{place}/finish").text
    empty = http.post(f"{place}/swatches", data={})
    assert empty.status_code == 422 and empty.text.count("count the stitches before and after washing") == 2


def test_a_record_is_struck_out_and_brought_back(http):
    place = keep(http, name="Socks")
    http.post(f"{place}/skeins", data={"wraps": "12"})
    gone = http.post(f"{place}/records/skein/1/strike")
    page = http.get(gone.headers["location"].split("#")[0]).text
    assert "A skein is struck out" in page and 'class="noted"' not in page
    http.post(f"{place}/records/skein/1/back")
    assert 'class="noted"' in http.get(f"{place}/finish").text
    assert http.post(f"{place}/records/skein/7/strike").status_code == 404
    assert http.post(f"{place}/records/ball/1/strike").status_code == 422


@pytest.mark.parametrize(
    "query", ["at=never&over=all&wash=boil&drying=wind&rest=-9&blocking=hard", "rest=9999", "struck=skein-x&noted=<b>"]
)
def test_junk_in_the_address_is_shrugged_off(demo_http, query):
    answer = demo_http.get(f"/designs/9/finish?{query}")
    assert answer.status_code == 200 and "dried, hung free" in answer.text


@pytest.mark.parametrize("number", range(1, 10))
def test_every_yarn_of_the_demo_can_be_finished(demo_http, number):
    for moment in ("fresh", "soaking", "dried", "next"):
        assert 'class="length"' in look(demo_http, number, at=moment)
