"""Samples, their log, the card and My hands over HTTP: what is typed is kept, or stays with its fault beside it."""

import json
import re
import shutil

import numpy as np
import pypdfium2
import pytest

from pebble_wheel.mechanics.photo.scale import scale_in
from pebble_wheel.notation.design import new_design, write_design
from pebble_wheel.notation.draft import Draft, design_of, fresh
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import designs, records
from pebble_wheel.store.database import opened
from tests.conftest import client_of

SINGLE = "yarn.strands[0]"


def three_ply(name="Rope", tex=100.0):
    spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": tex, "count": 3}
    spun |= {"twist": {"turns_per_m": 216, "direction": "Z"}}
    return new_design(name, {"kind": "ply", "strands": [spun], "twist": {"turns_per_m": 160, "direction": "S"}})


@pytest.fixture
def place(file):
    """A kept 3-ply, by its address."""
    with opened(file) as connection:
        return f"/designs/{designs.keep_new(connection, three_ply())}"


def note(http, place, **typed):
    answer = http.post(f"{place}/sample", data={"strand": SINGLE, **typed})
    assert answer.status_code == 303, answer.text[:2000]
    return http.get(answer.headers["location"]).text


def test_a_sample_is_kept_with_who_spun_it_and_the_plan_as_it_was(http, place, file):
    page = note(http, place, gauge="24", fold="12", fold_over="40 mm", places="5", note="by the window")
    assert "Noted." in page and "24 wpi" in page and "150 t/m" in page and "by the window" in page
    with opened(file) as connection:
        (kept,) = records.samples(connection, 1)
        typed = json.loads(connection.execute("SELECT typed FROM entry").fetchone()[0])
    assert kept.record.places == 5 and kept.spinner == "first" and json.loads(kept.plan)["name"] == "Rope"
    assert kept.plan == write_design(three_ply()) and typed["fold_over"] == "40 mm"


def test_a_slot_of_the_card_is_tapped(http, place, file):
    note(http, place, slot="between 22 and 26")
    with opened(file) as connection:
        (kept,) = records.samples(connection, 1)
    assert kept.record.thick_by == "card" and kept.record.thick_mm == pytest.approx(25.4 / np.sqrt(22 * 26))


def test_what_cannot_be_read_stays_with_its_fault_beside_it(http, place):
    answer = http.post(
        f"{place}/sample", data={"strand": SINGLE, "gauge": "a few", "note": "<mine>", "treadles": "9 in 40"}
    )
    assert answer.status_code == 422
    assert 'value="a few"' in answer.text and "&lt;mine&gt;" in answer.text and 'value="9 in 40"' in answer.text
    assert re.search(r'id="fault-gauge" role="alert">[^<]+number', answer.text)
    assert '<details class="more-fields" open>' in answer.text
    loop = http.post(f"{place}/sample", data={"strand": SINGLE, "loop": "3"})
    assert loop.status_code == 422 and "note its ply-back instead" in loop.text


def test_too_little_twist_is_said_in_treadles(http, place):
    note(http, place, gauge="24", fold="15", fold_over="40 mm", places="8", ratio="12")
    first = re.search(r'action="[^"]+/(\d+)/match"', http.get(f"{place}/sample").text)[1]
    assert http.post(f"{place}/sample/{first}/match", data={"strand": SINGLE}).status_code == 303
    page = note(http, place, gauge="24", fold="12", fold_over="40 mm", places="8", ratio="12")
    assert "a fifth too little twist" in page and "becomes 11, or a smaller whorl" in page
    assert page.count('class="side folded"') == 3  # plan, the one to match, the newest


def test_the_sample_to_match_is_never_replaced_silently(http, place, file):
    for gauge in ("24", "23"):
        note(http, place, gauge=gauge)
    with opened(file) as connection:
        one, other = (each.id for each in records.samples(connection, 1))
    assert http.post(f"{place}/sample/{one}/match", data={"strand": SINGLE}).status_code == 303
    asked = http.post(f"{place}/sample/{other}/match", data={"strand": SINGLE})
    assert "confirm=" in asked.headers["location"]
    assert "matched instead?" in http.get(asked.headers["location"]).text

    def to_match():
        with opened(file) as connection:
            return [each.id for each in records.samples(connection, 1) if each.reference]

    assert to_match() == [one]
    http.post(f"{place}/sample/{other}/match", data={"strand": SINGLE, "instead": "yes"})
    assert to_match() == [other]
    assert http.post(f"{place}/sample/99/match", data={"strand": SINGLE}).status_code == 404


def test_a_sample_is_struck_out_and_brought_back(http, place):
    note(http, place, gauge="24")
    gone = http.post(f"{place}/sample/1/strike", data={"strand": SINGLE})
    page = http.get(gone.headers["location"]).text
    assert "struck out" in page and 'class="noted"' not in page
    http.post(f"{place}/sample/1/back", data={"strand": SINGLE})
    assert "24 wpi" in http.get(f"{place}/sample").text


def test_a_sample_is_taken_as_the_plan_and_the_plan_of_before_stays(http, place, file):
    page = note(http, place, gauge="20", treadles="10 at 12:1 in 50 cm", places="9")
    assert "Take this sample as the plan" in page and page.count("<td>") > 8
    answer = http.post(f"{place}/sample/1/take", data={"strand": SINGLE})
    assert answer.status_code == 303 and answer.headers["location"] == f"{place}?kept=1"
    assert http.get(answer.headers["location"]).status_code == 200
    with opened(file) as connection:
        taken, before = designs.find(connection, 1).design, designs.versions(connection, 1)
    assert taken.yarn.strands[0].twist.turns_per_m == pytest.approx(236, abs=5)  # counted 240, of 216
    assert taken.yarn.strands[0].tex > 100 and before[0].design == three_ply()
    assert http.post(f"{place}/sample/9/take", data={"strand": SINGLE}).status_code == 404


def test_what_was_asked_for_goes_with_the_next_sample(http, place, file):
    for _ in range(3):
        note(http, place, treadles="7 at 12:1 in 50 cm", places="3")
    page = http.get(f"{place}/sample").text
    assert 'id="spun_as-told" value="told" checked' in page
    note(http, place, treadles="8 at 12:1 in 50 cm", spun_as="told")
    with opened(file) as connection:
        *before, last = records.samples(connection, 1)
    assert all(each.record.asked.twist == 0 for each in before) and last.record.asked.twist > 0.03


def test_twist_that_got_away_is_let_back(http, place):
    page = http.get(f"{place}/sample?piece=12+cm&times=2").text
    assert "Let it back over 12 cm more" in page
    for query in ("piece=12&times=", "piece=a+bit&times=2", "piece=12&times=1", "piece=12&times=90", "piece=&times=2x"):
        wrong = http.get(f"{place}/sample?{query}")
        assert wrong.status_code == 200 and "Let it back" not in wrong.text
        assert re.search(r'class="fault" role="alert">[^<]{10,}', wrong.text), query


def test_a_strand_that_is_gone_and_a_yarn_of_bought_thread_are_said(http, place, file):
    note(http, place, gauge="24")
    with opened(file) as connection:
        single = new_design(
            "Rope", three_ply().yarn.strands[0].model_copy(update={"count": 1}).model_dump(exclude_none=True)
        )
        designs.keep(connection, 1, single)
    page = http.get(f"{place}/sample").text
    assert "a strand that is no more" in page or "24 wpi" in page
    assert http.get(f"{place}/sample?strand=yarn.strands[0]&struck=x&confirm=9e9").status_code == 200
    thread = {"kind": "bought", "tex": 50, "twist": {"turns_per_m": 300, "direction": "S"}}
    with opened(file) as connection:
        bought = designs.keep_new(connection, new_design("Thread", thread))
    assert http.get(f"/designs/{bought}/sample").status_code == 422


def test_the_thread_runs_through_every_page_of_a_yarn(http, place):
    pages = ["", "/sample", "/finish", "/log"]
    for page in pages:
        text = http.get(place + page).text
        strip = re.search(r'<nav class="thread".*?</nav>', text, re.DOTALL)[0]
        assert [f'href="{place}{each}"' in strip for each in pages] == [True] * 4
        assert strip.count('aria-current="page"') == 1
    assert 'class="thread"' not in http.get("/construct").text
    note(http, place, gauge="24")
    http.post(f"{place}/log", data={"what": "rest", "hours": "24 h"})
    strip = re.search(r'<nav class="thread".*?</nav>', http.get(place).text, re.DOTALL)[0]
    assert re.search(r"Sample<span class=\"sr\"> done</span> <small>rests on the bobbin until", strip)
    assert re.search(r"Plan <small>next</small>", strip)


def test_everything_stands_in_one_log_by_its_day(http, place):
    note(http, place, gauge="24")
    http.post(f"{place}/skeins", data={"wraps": "12", "metres": "180", "grams": "66"})
    http.post(f"{place}/swatches", data={"stitches_before": "20", "stitches_after": "19"})
    http.post(f"{place}/log", data={"words": "<thinner> next time"})
    http.post(f"{place}/log", data={"what": "dry", "hours": "36"})
    page = http.get(f"{place}/log").text
    told = re.findall(r"<li><span><b>([^<]+)</b>", page)
    assert told == ["sample of single of Corriedale", "skein", "swatch", "note", "rest"]
    assert "&lt;thinner&gt; next time" in page and "dries for 36 h" in page and page.count('class="day"') == 1
    struck = http.post(f"{place}/log/note/4/strike")
    assert "That entry is struck out" in http.get(struck.headers["location"]).text
    http.post(f"{place}/log/note/4/back")
    assert "next time" in http.get(f"{place}/log").text
    for wrong in ({"words": " "}, {"what": "rest", "hours": "for ever"}, {"what": "nap"}):
        answer = http.post(f"{place}/log", data=wrong)
        assert answer.status_code == 422 and 'class="fault"' in answer.text
    assert 'value="for ever"' in http.post(f"{place}/log", data={"what": "rest", "hours": "for ever"}).text


def measured(pdf, scale=20.0, within=(0.0, 0.0, 0.0, 0.0)):
    """Return where a rendered page is dark, and its pixels to a mm; less so many mm left, below, right and above."""
    page = pypdfium2.PdfDocument(pdf)[0]
    crop = tuple(each * 72 / 25.4 for each in within)
    return np.asarray(page.render(scale=scale, crop=crop).to_pil().convert("L")) < 128, scale * 72 / 25.4


def bar_of(dark, per_mm):
    """The length of the bar at the foot, left of its words [mm]."""
    return np.ptp(np.flatnonzero(dark[int((210 - 12) * per_mm), : int(61 * per_mm)])) / per_mm


def test_the_card_is_true_to_scale_on_the_rendered_page(http, file):
    """The bar of a 24-wraps single is 1.06 mm thick, the check bar 50 mm long; both within 1 %."""
    spun = fresh("single", fibre="corriedale", size="24 wpi", by="turns", twist="180 t/m")
    with opened(file) as connection:
        number = designs.keep_new(connection, design_of(Draft(name="Bar", yarn=spun), Settings()))
    given = http.post(f"/designs/{number}/card", data={"paper": "A5"})
    pdf = http.get(given.headers["location"])
    assert pdf.headers["content-type"] == "application/pdf"
    dark, per_mm = measured(pdf.content)
    assert dark.shape[1] / per_mm == pytest.approx(148, abs=0.3) and dark.shape[0] / per_mm == pytest.approx(
        210, abs=0.3
    )
    bar, finely = measured(pdf.content, 120.0, (100, 210 - 39, 148 - 106, 27))
    assert bar[:, bar.shape[1] // 2].sum() / finely == pytest.approx(25.4 / 24, rel=0.01)
    assert bar_of(dark, per_mm) == pytest.approx(50.0, rel=0.01)
    page = pypdfium2.PdfDocument(pdf.content)[0].render(scale=4).to_pil().convert("L")
    foot = np.asarray(page, float)[-int(40 * 4 * 72 / 25.4) :]  # the square for photos, found as in one
    square = scale_in(foot)
    assert square.by == "square" and square.px_per_mm == pytest.approx(4 * 72 / 25.4, rel=0.01)


def test_a_card_is_given_again_unchanged_whatever_becomes_of_the_yarn(http, place, file):
    given = http.post(f"{place}/card", data={"paper": "half letter"}).headers["location"]
    first = http.get(given).content
    with opened(file) as connection:
        designs.keep(connection, 1, three_ply("Another", 160.0))
    assert http.get(given).content == first
    svg = http.get(given.replace(".pdf", ".svg")).text
    assert 'width="139.7mm"' in svg and "Rope" in svg and "turn the wheel anticlockwise" in svg
    assert given.rsplit("/", 1)[1] in http.get(f"{place}/log").text
    assert http.get(f"{place}/card/99.pdf").status_code == 404
    with opened(file) as connection:
        connection.execute("UPDATE entry SET body = json_set(body, '$.card', '{}')")
        connection.execute(
            "UPDATE entry SET mark = mark_of(id, uid, design, spinner, kind, body, typed, plan, noted_at, struck, "
            "sure, reference, changed_at, deleted_at)"
        )
    assert http.get(given).status_code == 410


def test_the_same_angle_from_crosswise_has_the_same_drawing_and_another_label(http, place):
    cards = []
    for convention in ("axis", "crosswise"):
        http.post("/settings", data={"angle_from": convention})
        cards.append(http.get(http.post(f"{place}/card", data={"as": "svg"}).headers["location"]).text)
    words = [re.search(r"(\d+)° from (the axis|crosswise)", each) for each in cards]
    assert int(words[0][1]) + int(words[1][1]) == 90
    paths = [re.findall(r' d="([^"]+)"', each) for each in cards]
    assert paths[0] == paths[1]


def test_inches_hang_a_two_inch_bar_on_the_card(http, place):
    http.post("/settings", data={"units": "imperial"})
    dark, per_mm = measured(http.get(http.post(f"{place}/card", data={"paper": "A5"}).headers["location"]).content)
    assert bar_of(dark, per_mm) == pytest.approx(50.8, rel=0.01)


# My hands.


def bands(http, place):
    text = http.get(place).text
    return re.search(r"finished</span> <span class=\"value\">([^<]+)<", text)[1]


def test_what_was_learned_is_in_every_screen_and_a_switch_takes_it_out(demo_http):
    with_hands = demo_http.get("/designs/9").text
    assert re.search(r"From \d+ of Wick’s samples \(\d+ in this fibre, \d+ washed, \d+ weighed\)", with_hands)
    for page in ("/designs/9/finish", "/aim?size=14+wpi"):
        assert re.search(r"of Wick’s samples", demo_http.get(page).text), page
    demo_http.post("/hands/counted", data={"counted": "no"})
    without = demo_http.get("/designs/9").text
    assert "No own samples yet: as for anybody." in without and "Wick’s samples" not in without
    assert bands(demo_http, "/designs/9")
    demo_http.post("/hands/counted", data={"counted": "yes"})
    assert "Wick’s samples" in demo_http.get("/designs/9").text


def test_strands_are_drawn_as_the_hands_that_are_reckoned_with_make_them(demo_http):
    address = re.search(r'data-strands="([^"]+)"', demo_http.get("/designs/9").text)[1].replace("&amp;", "&")
    assert "&hands=" in address
    assert demo_http.get(address).content != demo_http.get(address.partition("&hands")[0]).content
    for wrong in ("&hands=abc", "&hands=eJyrVspMUbIy1FFKLC3JSC0CADOcBcQ="):
        assert demo_http.get(address.partition("&hands")[0] + wrong).status_code == 422


def test_my_hands_tell_what_was_learned_and_what_it_rests_on(demo_http):
    page = demo_http.get("/hands").text
    assert "Wick’s hands" in page and page.count('class="factor"') == 8
    assert re.search(r"\d+ of your last 10 readings fell inside the band", page)
    assert page.count("a slip of the pen, or really so?") == 2
    for words in ("not yet learned", "partly learned", "What to measure next", "Weigh a skein", "from yarn to yarn"):
        assert words in page, words
    assert demo_http.get("/hands?group=1").text != page
    assert demo_http.get("/hands?group=99").status_code == demo_http.get("/hands?group=x").status_code == 200


def test_a_second_spinner_has_hands_of_their_own_and_only_a_card(demo_http):
    demo_http.post("/hands/spinner", data={"spinner": "second"})
    page = demo_http.get("/hands").text
    assert "Tallow’s hands" in page and "only the card’s word" in page
    demo_http.post("/hands/spinner", data={"spinner": "nobody"})
    assert "Wick’s hands" in demo_http.get("/hands").text


def test_people_are_added_and_renamed(http, place):
    http.post("/hands/people", data={"name": "  Ember  "})
    assert "Ember’s hands" in http.get("/hands").text and "Nothing was sampled yet" in http.get("/hands").text
    http.post("/hands/people", data={"name": "Cinder", "rename": "yes"})
    note(http, place, gauge="24")
    assert "Cinder’s hands" in http.get("/hands").text and "24 wpi" in http.get("/hands").text
    assert "by Cinder" in http.get(f"{place}/log").text
    for name in ("", " ", "x" * 61, "a\x00b"):
        answer = http.post("/hands/people", data={"name": name})
        assert answer.status_code == 422 and "give a name" in answer.text


def test_a_reading_left_out_moves_everything_back(http, place):
    plain = http.get("/designs/1").text
    band = bands(http, "/designs/1")
    note(http, place, gauge="14", places="9")
    note(http, place, treadles="9 at 12:1 in 50 cm")
    moved = http.get("/designs/1").text
    assert "From 2 of" in moved
    struck = http.post("/hands/readings/1/1/thick/strike")
    assert struck.status_code == 303 and "thick: left out" in http.get("/hands").text
    http.post("/hands/readings/1/2/turns/strike")
    assert bands(http, "/designs/1") == band
    assert (
        re.search(r"data-strands=\"[^\"]+", plain)[0]
        == re.search(r"data-strands=\"[^\"]+", http.get("/designs/1").text)[0]
    )
    http.post("/hands/readings/1/1/thick/count")
    assert "From 1 of" in http.get("/designs/1").text
    assert http.post("/hands/readings/1/9/thick/strike").status_code == 404
    assert http.post("/hands/readings/1/1/odd/strike").status_code == 422


def test_a_doubtful_reading_is_asked_about_and_stays_when_it_is_really_so(server, demo, tmp_path):
    with client_of(server.turn_to(shutil.copy(demo, tmp_path / "demo.sqlite3"))) as http:
        page = http.get("/hands").text
        one, other = re.findall(r'action="(/hands/sure/\d+/\d+)"', page)
        http.post(one)
        assert http.get("/hands").text.count("or really so?") == 1
        slip = re.search(rf'action="(/hands/readings/{other[12:]}/[^"]+/strike)"', http.get("/hands").text)[1]
        http.post(slip)
        after = http.get("/hands").text
        assert "or really so?" not in after and "left out" in after
        assert http.post("/hands/sure/1/999").status_code == 404


def test_both_sizes_for_who_counts_with_a_card(http, place):
    http.post("/settings", data={"wpi_method": "card"})
    wide = bands(http, place)
    assert "gauge card, your bias not yet learned" in http.get(place).text
    for gauge in ("14", "14.5", "14", "15", "14"):
        note(http, place, strand="yarn", gauge=gauge, method="card")
    page = http.get(place).text
    assert "as your card will say" in page and "truly</span>" in page

    def ends(words):
        return [float(each) for each in re.findall(r"[\d.]+", words)]

    low, high = ends(bands(http, place))
    assert high / low < 0.85 * np.divide(*ends(wide)[::-1])
