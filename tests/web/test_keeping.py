"""Keeping over real HTTP: two windows, earlier versions, damaged rows, and a store that cannot be written to."""

import html
import re
import sqlite3
from contextlib import closing

import pytest

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import designs
from pebble_wheel.store.database import connect, opened
from pebble_wheel.web.screens.shelf.view import A_PAGE
from pebble_wheel.workshop.starts import start


def sent(kind="2-ply", **typed):
    return {"draft": write_draft(start(kind)), "of": "yarn", "at": "yarn", "name": "Mane", **typed}


def keep(http, **typed):
    return http.post("/construct/keep", data=sent(**typed))


def hidden(page, name):
    return re.search(rf'type="hidden" name="{name}" value="([^"]*)"', page)[1]


def test_of_two_windows_the_second_is_told_and_loses_nothing(http):
    place = keep(http).headers["location"].split("?")[0]
    mark, number = (hidden(http.get(place).text, name) for name in ("mark", "id"))
    assert keep(http, name="First", id=number, mark=mark).status_code == 303
    second = keep(http, kind="chain", name="Second", id=number, mark=mark)
    assert second.status_code == 409 and "Another window kept “First”" in second.text
    assert 'value="Second"' in second.text and "chain" in second.text
    assert "First" in http.get(place).text
    newer = re.search(r'name="mark" value="([^"]*)" formaction', second.text)[1]
    assert keep(http, kind="chain", name="Second", id=number, mark=newer).status_code == 303
    apart = keep(http, kind="chain", name="Third", id="", mark=mark)
    assert apart.headers["location"].split("?")[0] != place
    versions = http.get(f"{place}/versions").text
    assert "First" in versions and "Mane" in versions


def test_an_earlier_version_is_looked_at_and_brought_back(http):
    place = keep(http).headers["location"].split("?")[0]
    number = hidden(http.get(place).text, "id")
    assert "There are none yet" in http.get(f"{place}/versions").text
    keep(http, kind="3-ply", name="Crest", id=number)
    which = re.search(rf'href="{place}/versions/(\d+)"', http.get(f"{place}/versions").text)[1]
    looked = http.get(f"{place}/versions/{which}").text
    assert 'value="Mane"' in looked and "keep it to have it so again" in looked and hidden(looked, "id") == number
    assert http.get(place).text.count('value="Crest"') == 1
    back = http.post(f"{place}/versions/{which}/back")
    assert back.status_code == 303 and 'value="Mane"' in http.get(place).text
    assert http.get(f"{place}/versions/999").status_code == 404


def test_a_damaged_design_hides_no_other_and_gives_what_can_be_had(http, file):
    places = [keep(http, name=name).headers["location"].split("?")[0] for name in ("Mane", "Crest")]
    with opened(file) as connection:
        connection.execute("UPDATE design SET body = replace(body, 'corriedale', 'corriedaIe') WHERE name = 'Mane'")
    shelf = http.get("/").text
    assert "This record is damaged" in shelf and "Crest" in shelf and "Mane" in shelf
    page = http.get(places[0])
    assert page.status_code == 410 and "This record is damaged" in page.text
    assert "corriedaIe" in http.get(f"{places[0]}/as-it-stands.txt").text
    for asked in ("finish", "design.json", "yarn.svg"):
        assert http.get(f"{places[0]}/{asked}").status_code == 410
    assert http.get(places[1]).status_code == 200
    assert http.post(f"{places[0]}/delete").status_code == 303 and "This record is damaged" not in http.get("/").text


def test_a_measurement_that_breaks_all_figures_is_left_out_and_struck_out(http, file):
    place = keep(http).headers["location"].split("?")[0]
    assert http.post(f"{place}/skeins", data={"metres": "3 m", "grams": "1", "wraps": "12"}).status_code == 303
    with opened(file) as connection:
        connection.execute("UPDATE entry SET body = json_set(body, '$.metres', 1e-323)")
    page = http.get(f"{place}/finish")
    assert page.status_code == 200 and "This skein is damaged and left out of all figures" in page.text
    strike = re.search(rf'action="({place}/records/skein/\d+/strike)"', page.text)[1]
    assert http.post(strike).status_code == 303
    assert "is damaged" not in http.get(f"{place}/finish").text


@pytest.mark.parametrize("typed", ["3 m inf", "1e-323 ym", "5 m/inf", "1e999 m", "nan"])
def test_no_length_breaks_the_finishing_screen(http, typed):
    place = keep(http).headers["location"].split("?")[0]
    answer = http.post(f"{place}/skeins", data={"metres": typed, "grams": "90 g", "wraps": "12"})
    assert answer.status_code == 422 and f'value="{typed}"' in answer.text
    assert http.get(f"{place}/finish").status_code == 200


def test_the_shelf_is_shown_in_pages_found_by_words_and_light(http, file):
    with opened(file) as connection:
        for number in range(A_PAGE + 3):
            draft = start("2-ply").model_copy(update={"name": f"Mane {number}"})
            designs.keep_new(connection, design_of(draft, Settings()), write_draft(draft))
        fill(connection)
        count = designs.how_many(connection)
    first = http.get("/").text
    assert first.count('class="card"') == A_PAGE and f"1 of 2 pages, {count} yarns" in first
    second = http.get("/", params={"page": 2}).text
    assert second.count('class="card"') == count - A_PAGE and 'rel="prev"' in second
    found = http.get("/", params={"q": "core-spun WENSLEYdale"}).text
    assert (
        "Marionette hair" in found
        and found.count('class="card"') == 1
        and "1 yarn with “core-spun WENSLEYdale”" in found
    )
    assert 'class="card"' not in http.get("/", params={"q": "no such yarn"}).text
    assert http.get("/", params={"page": 10**9}).status_code == 422
    picture = re.search(r'src="(/designs/\d+/small/\w+\.svg)"', first)[1]
    drawn = http.get(picture)
    assert drawn.headers["content-type"] == "image/svg+xml" and "immutable" in drawn.headers["cache-control"]
    assert drawn.text.startswith("<svg") and "wpi finished" in http.get("/").text
    assert "no-cache" in http.get(re.sub(r"\w+\.svg", "0.svg", picture)).headers["cache-control"]


def test_a_locked_store_is_said_and_the_work_stays(http, server, file, monkeypatch):
    place = keep(http).headers["location"].split("?")[0]
    monkeypatch.setattr("pebble_wheel.store.database.PATIENCE", 0.1)
    server.turn_to(file)
    with closing(sqlite3.connect(file, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        answer = keep(http, kind="3-ply", name="Kept in hand")
        assert answer.status_code == 503 and "Another program holds the file" in answer.text
        assert 'value="Kept in hand"' in answer.text and http.get(place).status_code == 200
        noted = http.post(f"{place}/skeins", data={"wraps": "17"})
        assert noted.status_code == 503 and 'value="17"' in noted.text and "Another program holds" in noted.text
        changed = http.post("/settings", data={"units": "imperial"})
        assert changed.status_code == 503 and "Another program holds" in changed.text
        renamed = http.post(f"{place}/rename", data={"name": "x"})
        assert renamed.status_code == 503 and "Another program holds" in renamed.text
    assert keep(http).status_code == 303


def test_a_store_that_vanished_is_said_and_the_work_stays(http, file):
    keep(http)
    moved = file.rename(file.with_name("moved.sqlite3"))
    answer = keep(http, name="Kept in hand")
    assert (
        answer.status_code == 503 and "has gone from its place" in answer.text and 'value="Kept in hand"' in answer.text
    )
    assert http.get("/").status_code == 503 and not file.exists()
    moved.rename(file)
    assert keep(http).status_code == 303


def test_a_store_that_is_no_longer_one_is_said(http, file):
    keep(http)
    file.unlink()
    file.write_bytes(b"something else altogether, and long enough to be looked at" * 99)
    answer = keep(http, name="Kept in hand")
    assert answer.status_code == 503 and "cannot be read here" in answer.text
    assert 'value="Kept in hand"' in answer.text


@pytest.mark.parametrize(
    ("pragma", "said"), [("max_page_count = 1", "The disk is full"), ("query_only = ON", "is read-only")]
)
def test_a_store_that_takes_nothing_more_is_said_and_the_work_stays(http, server, file, monkeypatch, pragma, said):
    """SQLite's own errors: a file that may not grow, and one that may not be written to."""
    place = keep(http).headers["location"].split("?")[0]

    def hindered(path, made=True):
        connection = connect(path, made)
        connection.execute(f"PRAGMA {pragma}")
        return connection

    monkeypatch.setattr("pebble_wheel.store.pool.connect", hindered)
    server.turn_to(file)
    for number in range(40):  # until what is free in the file is used up
        answer = keep(http, kind="cable-2x3", name=f"Kept in hand {number}")
        if answer.status_code != 303:
            break
    assert answer.status_code == 503 and said in answer.text and 'value="Kept in hand' in answer.text
    assert http.get(place).status_code == 200 and http.get("/").status_code == 200
    refused = [http.post(f"{place}/{what}", data={"name": "x" * 90}) for what in ("rename", "duplicate", "delete")]
    assert all("Something went wrong" not in each.text for each in refused)
    monkeypatch.undo()
    server.turn_to(file)
    assert keep(http).status_code == 303


def test_the_whole_notebook_is_copied_put_back_written_out_taken_in_and_looked_through(http, file):
    keep(http, name="Crest")
    assert "There is none yet" in http.get("/notebook").text
    assert http.post("/notebook/copies").status_code == 303
    page = http.get("/notebook?copied=1").text
    name = re.search(r'name="name" value="([^"]+)"', page)[1]
    assert "Copied." in page
    keep(http, name="Later")
    written = http.get("/notebook/export")
    assert (
        written.headers["content-type"] == "application/zip" and "attachment" in written.headers["content-disposition"]
    )
    back = http.post("/notebook/restore", data={"name": name})
    assert "The notebook is what it was" in back.text and "Later" not in http.get("/").text
    taken = http.post("/notebook/import", files={"file": ("n.zip", written.content)})
    assert "1 added, 0 changed" in taken.text and "Later" in http.get("/").text
    refused = http.post("/notebook/import", files={"file": ("n.zip", b"no zip")})
    assert refused.status_code == 422 and "this is no zip file" in refused.text
    assert http.post("/notebook/restore", data={"name": "../yarn.sqlite3"}).status_code == 404
    assert "It is whole: 2 designs" in http.post("/notebook/check").text
    with opened(file) as connection:
        connection.execute("UPDATE design SET name = 'Other' WHERE name = 'Crest'")
    assert "“Other”" in http.post("/notebook/check").text


def test_a_draft_of_far_too_many_parts_is_none_and_no_button_makes_one(http):
    whole = start("2-ply")
    part = whole.yarn
    wide = whole.model_copy(update={"yarn": part.model_copy(update={"inner": part.inner * 150})})
    assert http.post("/construct/follow", data=sent() | {"draft": write_draft(wide)}).status_code == 422
    draft = write_draft(start("cable-2x3"))
    for _ in range(9):
        page = http.post(
            "/construct/follow", data={"draft": draft, "of": "yarn", "at": "yarn.strands[0]", "do": "duplicate"}
        )
        assert page.status_code in (200, 422) and "Not understood" not in page.text
        draft = html.unescape(re.search(r'id="draft" value="([^"]*)"', page.text)[1])
