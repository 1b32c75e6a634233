"""The shelf searched over HTTP, by what is worked out of yarns, their lots and their plans."""

import re

import pytest

from pebble_wheel.store import designs, records, search
from pebble_wheel.store.database import opened

SCARF, JERSEY = "Dragon's scarf", "Fisher's jersey"


@pytest.fixture
def room(file, furnish):
    with opened(file) as connection:
        furnish(connection)
        return {each.design.name: each.id for each in designs.shelf(connection)}


def found(http, **asked):
    page = http.get("/", params=asked)
    assert page.status_code == 200, page.text[:500]
    return re.findall(r'<h2><a href="/designs/\d+">([^<]+)</a></h2>', page.text.replace("&#39;", "'"))


def test_yarns_are_found_by_wraps_class_and_colour_once_they_are_worked_out(http, room, file):
    assert "Moth's lace wings" in found(http, weight="lace") and "Moth's lace wings" not in found(http, weight="aran")
    with opened(file) as connection:
        assert search.how_many_unknown(connection) == 0  # eleven yarns are worked out at once
        (low, high) = connection.execute(
            "SELECT low, high FROM fact WHERE design = ?", (room["Moth's lace wings"],)
        ).fetchone()
    assert "Moth's lace wings" in found(http, q=f"moth {(low + high) / 2:.1f} wpi")
    assert not found(http, q=f"moth {1.2 * high:.1f} wpi")
    assert "Dragon's scarf" in found(http, q="scarf near teal") and "Queen's collar" not in found(http, q="near teal")
    assert found(http, q="near nowhere") == []  # no colour, but two words


def test_what_is_short_of_fibre_is_found_until_there_is_enough(http, room):
    assert found(http, state="short") == []
    scarf = f"/designs/{room[SCARF]}/plan"
    typed = {"want": "metres", "metres": "3000 m", "lot-1": "two-dragon-braids"}
    assert http.post(scarf, data=typed).status_code in (200, 303)
    assert found(http, state="short") == ["Dragon's scarf"]
    assert http.post(scarf, data={**typed, "metres": "100 m"}).status_code in (200, 303)
    assert found(http, state="short") == []


def test_what_is_looked_for_is_said_and_kept_in_its_fields(http, room):
    page = http.get("/", params={"q": "jersey 2025 by wick", "weight": "fingering", "colour": "navy"}).text
    said = re.search(r'<p role="status">(.*?)<a', page, re.DOTALL)[1]
    assert "fingering, spun in 2025, spun by wick, near deep blue" in said
    assert 'value="jersey 2025 by wick"' in page and re.search(r'<option value="navy" selected>', page)
    wrong = http.get("/", params={"year": "MMXX", "weight": "<b>"})
    assert wrong.status_code == 200 and "“&lt;b&gt;” is no weight class" in wrong.text
    assert http.get("/", params={"state": "flying"}).status_code == 200


def test_a_word_of_the_log_is_shown_where_it_stands(http, room, file):
    page = http.get("/", params={"q": "tired"}).text
    assert re.search(r'class="hit">[^<]*, skein: second skein, spun on a tired evening', page)
    with opened(file) as connection:
        noted = next(
            each for each in records.skeins(connection, room["Fisher's jersey"]) if "tired" in each.record.note
        )
    http.post(f"/designs/{room[JERSEY]}/log/skein/{noted.id}/strike")
    assert found(http, q="tired") == []
