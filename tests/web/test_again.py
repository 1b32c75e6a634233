"""A yarn spun again, over HTTP: noted for the next time, begun at one touch, aimed for, and put right as it is spun."""

import re

import numpy as np
import pypdfium2
import pytest

from pebble_wheel.store import database, designs, records
from pebble_wheel.store.again import anew, of_uid
from pebble_wheel.store.database import opened


@pytest.fixture
def room(file, furnish):
    """The demo in a store of its own, by the numbers of its yarns, as it was before anything was spun again."""
    with opened(file) as connection:
        furnish(connection)
        connection.execute("DELETE FROM entry WHERE kind IN ('next', 'again', 'guess')")
        return {each.design.name: each.id for each in designs.shelf(connection)}


def test_a_yarn_is_spun_again_with_what_was_learned_and_noted(http, room, file):
    old = f"/designs/{room[JERSEY]}"
    for words in ("a little thinner", "4-ply; mind the draught", "thinner"):
        assert http.post(f"{old}/log", data={"next": words}).status_code == 303
    log = http.get(f"{old}/log").text
    assert log.index("Next time") > log.index("the puppet&#39;s chest") > log.index("spun on a tired evening")
    begun = http.post(f"{old}/again")
    assert begun.status_code == 303
    page = http.get(begun.headers["location"]).text
    assert re.search(r"Your hands come out \d+ % (thick|thin) in this fibre: [\d½]+ wraps wanted, spin [\d½]+\.", page)
    assert re.search(r"Your singles come out \d+ % less twisted than meant", page)
    assert "<b>thinner</b> done to the plan" in page and "<b>4-ply</b> done to the plan" in page
    assert "<b>a little thinner</b>" in page and "<b>mind the draught</b> for you to mind" in page
    assert page.count('class="hanging"') == 2 and "to match" in page
    assert "9:1, brake two turns of the peg, long draw, right hand back" in page
    assert "tied: card 3, blue tin" in http.get("/", params={"q": "jersey blue tin"}).text
    number = int(begun.headers["location"].split("/")[2])
    with opened(file) as connection:
        (found,), kept = anew(connection, room[JERSEY]), designs.find(connection, number)
        assert found == (number, "Fisher's jersey again") == (number, kept.design.name)
        assert sum(each.count for each in kept.design.yarn.strands) == 4
        (before,) = designs.versions(connection, number)
        assert sum(each.count for each in before.design.yarn.strands) == 3  # as it was can be had back
        assert of_uid(connection, records.spun_again(connection, number).of) == room[JERSEY]
    assert "as Fisher&#39;s jersey, spun again: thinner, 4-ply" in http.get(f"/designs/{number}/log").text
    assert "Fisher&#39;s jersey again" in http.get(f"{old}/log").text
    http.post(f"{old}/again")
    assert "Fisher&#39;s jersey again 2" in http.get(f"{old}/log").text


JERSEY = "Fisher's jersey"


def test_what_to_aim_for_stands_at_the_wheel_and_with_the_sample_and_follows_what_is_measured(http, room, file):
    place = http.post(f"/designs/{room[JERSEY]}/again").headers["location"].removesuffix("/again")
    aim = re.search(r"Your hands come out[^<]+", http.get(f"{place}/again").text)[0]
    assert aim in http.get(f"{place}/wheel").text
    assert aim not in http.get(f"{place}/wheel", params={"strand": "yarn"}).text
    strand = {"strand": "yarn.strands[0]"}
    assert "as last told" in http.get(f"{place}/sample", params=strand).text
    thick = {**strand, "gauge": "30", "spun_as": "told", "treadles": "20 at 9 in 100 cm", "places": "5", "fold": "8"}
    assert http.post(f"{place}/sample", data=thick).status_code == 303
    with opened(file) as connection:
        (sample,) = records.samples(connection, int(place.rsplit("/", 1)[1]))
        assert sample.record.asked == records.spun_again(connection, int(place.rsplit("/", 1)[1])).asked
    anew_aim = re.search(r"Your hands come out (\d+) % thick", http.get(f"{place}/again").text)
    assert int(anew_aim[1]) > int(re.search(r"\d+", aim)[0])  # this very yarn came out thicker still


def test_a_gone_lot_is_replaced_and_the_plan_goes_along(http, room, file):
    with opened(file) as connection, database.transaction(connection):
        connection.execute("UPDATE lot SET deleted_at = '2026-01-01' WHERE name = 'Harbour blues'")
    http.post(
        f"/designs/{room[JERSEY]}/plan", data={"want": "metres", "metres": "420 m", "hours": "2", "start": "2026-12-01"}
    )
    page = http.get(http.post(f"/designs/{room[JERSEY]}/again").headers["location"])
    assert re.search(r"Harbour blues is used up: the nearest in hand is <b>[^<]+</b>", page.text)
    with opened(file) as connection:
        planned = records.plan(connection, int(str(page.url).split("/")[4]))
        assert planned.record.typed["metres"] == "420 m" and "start" not in planned.record.typed


def test_a_yarn_without_a_record_is_spun_again_too_and_one_that_is_none_has_no_such_page(http, room):
    for name, number in room.items():
        answer = http.post(f"/designs/{number}/again")
        assert answer.status_code == 303, name
        assert http.get(answer.headers["location"]).status_code == 200
    assert http.get(f"/designs/{room[JERSEY]}/again").status_code == 404
    assert http.post("/designs/9999/again").status_code == 404
    empty = http.post(f"/designs/{room[JERSEY]}/log", data={"next": " "})
    assert empty.status_code == 422 and "write what to do otherwise" in empty.text


def test_a_guess_waits_and_is_answered_by_the_wash(http, room):
    place = f"/designs/{room[JERSEY]}"
    assert 'id="about"' in http.get(f"{place}/finish").text
    for about, guess in (("wraps", "12"), ("balance", "quiet"), ("words", "the crimp will plump")):
        assert http.post(f"{place}/log", data={"about": about, "guess": guess}).status_code == 303
    refused = http.post(f"{place}/log", data={"about": "wraps", "guess": "a <few>"})
    assert refused.status_code == 422 and 'value="a &lt;few&gt;"' in refused.text
    log = http.get(f"{place}/log").text
    assert log.count("waits for the wash") == 3 and "12 wraps once washed" in log
    http.post(f"{place}/skeins", data={"stage": "finished", "wraps": "15", "loop": "3", "way": "Z"})
    log = http.get(f"{place}/log").text
    assert "missed: 15 wraps came, 20 % too few" in log and "missed: it turned Z" in log
    settle = re.search(r'action="([^"]+/guess/\d+)/hit"', log)[1]
    assert http.post(f"{settle}/hit").status_code == 303
    assert re.search(r'plump”\s*<b class="came came-hit">hit', http.get(f"{place}/log").text)
    assert http.post(f"{place}/log/guess/99999/hit").status_code == 404
    practice = http.get("/practice").text
    assert "Guesses before the wash" in practice and "wraps once washed" in practice and "in own words" in practice


def test_yarns_and_versions_are_laid_side_by_side_planned_and_measured(http, room, file):
    jersey, mittens = room[JERSEY], room["Stage-door mittens"]
    page = http.get("/compare", params={"y": [jersey, mittens, room["Dragon's scarf"]]}).text
    assert page.count('class="hanging"') == 3 and "As measured" in page and "As planned" in page
    row = re.search(r">single: thick</th>(.*?)</tr>", page, re.DOTALL)[1]
    assert len(re.findall("<td", row)) == 3 and re.search(r"wpi, [\d.]+ mm ± \d+ %, \d+ times \(planned", row)
    assert "–" in row  # of the scarf no single was sampled
    structure = re.search(r">structure</th>(.*?)</tr>", page, re.DOTALL)[1]
    assert structure.count('class="differs"') == 2
    assert "Choose two to four yarns" in http.get("/compare", params={"y": jersey}).text
    assert "Choose two to four yarns" in http.get("/compare", params={"y": ["9x", "v", "99999", "-1"]}).text
    assert "The first four" in http.get("/compare", params={"y": list(room.values())[:6]}).text
    made = http.post(f"/designs/{jersey}/again").headers["location"].split("/")[2]
    http.post(f"/designs/{made}/rename", data={"name": "Jersey anew"})
    with opened(file) as connection:
        which = [each.id for each in designs.versions(connection, int(made))]
    assert f'value="{made}v{which[0]}"' in http.get(f"/designs/{made}/versions").text
    beside = http.get("/compare", params={"y": [made, f"{made}v{which[0]}"]}).text
    assert ">Jersey anew</a>" in beside and ">Jersey anew, " in beside
    assert 'type="checkbox" name="y"' in http.get("/").text


def test_the_log_goes_out_as_a_table_and_comes_in(http, room, file):
    place = f"/designs/{room[JERSEY]}/log"
    told = http.get(f"{place}/table.csv")
    assert told.headers["content-type"].startswith("text/csv") and "grams [g]" in told.text
    again = http.post(f"{place}/table", files={"file": ("log.csv", told.content)})
    assert again.status_code == 303
    assert "0 entries taken in, 14 were there already" in http.get(again.headers["location"]).text
    own = "kind,words,noted at\nnote,<b>from elsewhere</b>,2026-02-03\n"
    done = http.post(f"{place}/table", files={"file": ("own.csv", own.encode())})
    log = http.get(done.headers["location"]).text
    assert "1 entry taken in" in log and "&lt;b&gt;from elsewhere" in log and "3 Feb 2026" in log
    wrong = http.post(f"{place}/table", files={"file": ("own.csv", b"kind,words\nsheep,baa\n")})
    assert wrong.status_code == 422 and "line 2, kind: it must be one of" in wrong.text
    assert http.get("/designs/9999/log/table.csv").status_code == 404


def test_labels_of_skeins_are_as_large_as_they_say(http, room):
    """Measured on the rendered page: the bar is as thick as 25.4 mm over the wraps of the newest skein."""
    packed = http.get(f"/designs/{room[JERSEY]}/log/labels.pdf")
    assert packed.headers["content-type"] == "application/pdf"
    document = pypdfium2.PdfDocument(packed.content)
    (page,) = document
    assert [round(each * 25.4 / 72, 1) for each in page.get_size()] == [210.0, 297.0]
    text = page.get_textpage().get_text_range()
    assert text.count("Fisher's jersey") == 3 and "262 m · 108 g" in text and "as thick as this" in text
    dots = 20  # to a mm
    image = np.asarray(page.render(scale=dots * 25.4 / 72, grayscale=True).to_numpy()).squeeze() < 100
    left, top = (210 - 2 * 92) / 2, (297 - 5 * 50) / 2
    across = image[int((top + 36) * dots) : int((top + 49) * dots), int((left + 40) * dots)]
    assert across.sum() / dots == pytest.approx(25.4 / (17.5 / 1.15), rel=0.03)  # 17.5 snug wraps, the newest
    letter = http.get(f"/designs/{room[JERSEY]}/log/labels.pdf", params={"sheet": "letter"})
    assert round(pypdfium2.PdfDocument(letter.content)[0].get_size()[0]) == 612
    planned = pypdfium2.PdfDocument(http.get(f"/designs/{room['Bell-pull']}/log/labels.pdf").content)[0]
    assert "…… m" in planned.get_textpage().get_text_range()
