"""Found, spun again, laid beside, guessed and practised, by keyboard alone, at both sizes; axe finds nothing."""

import re

import pytest
from playwright.sync_api import expect

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.practice import read_asked
from pebble_wheel.store import designs, practice
from pebble_wheel.store.database import opened
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.practice import question_of
from tests.browser.hands import DESK, TABLET, press, see_nothing_in_the_way, tab_to


@pytest.fixture
def room(server, address):
    """The demo in the served store, by the numbers of its yarns."""
    with opened(server.app.state.connections.file) as connection:
        fill(connection)
        return {each.design.name: each.id for each in designs.shelf(connection)}


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_a_yarn_is_found_as_one_types_and_spun_again(page, address, room, size):
    page.set_viewport_size(size)
    page.goto(address)
    page.wait_for_function("window.htmx")
    tab_to(page, "#q")
    page.keyboard.type("fisher tired")
    expect(page.locator("#found .card")).to_have_count(1)
    expect(page.locator("#found .hit")).to_contain_text("spun on a tired evening")
    assert page.evaluate("document.activeElement.id") == "q"
    page.keyboard.press("Control+A")
    page.keyboard.type("near teal 2025")
    expect(page.locator("#found > [role=status]")).to_contain_text("spun in 2025, near")
    page.keyboard.press("Control+A")
    page.keyboard.type("jersey draught")
    expect(page.locator("#found .card")).to_have_count(2)  # the old log, and the new one's
    tab_to(page, '[aria-label="Spin Fisher\'s jersey again"]')
    press(page, "Enter")
    expect(page.locator(".again-asked li").first).to_contain_text("Your hands come out")
    expect(page.locator("h1")).to_contain_text("Fisher's jersey again 2")
    tab_to(page, ".again-do .primary")
    press(page, "Enter")
    expect(page).to_have_url(re.compile(r"/designs/\d+/wheel"))
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_yarns_are_laid_beside_each_other_and_a_guess_is_noted(page, address, room):
    page.goto(address)
    for name in ("Fisher's jersey", "Stage-door mittens"):
        tab_to(page, f"[name=y][value='{room[name]}']")
        press(page, "Space")
    tab_to(page, "#lay button", back=True)
    press(page, "Enter")
    expect(page.locator("table.compare thead th")).to_have_count(2)
    expect(page.locator("table.compare .differs").first).to_be_visible()
    page.goto(f"{address}/designs/{room['Bell-pull']}/log")
    tab_to(page, "#guess")
    page.keyboard.type("14 wpi")
    press(page, "Enter")
    expect(page.locator(".came")).to_have_text("waits for the wash")
    tab_to(page, "#next")
    page.keyboard.type("thicker")
    press(page, "Enter")
    expect(page.locator(".next-time .noted")).to_contain_text("thicker")


FIRST = 4
"""Questions of a round that are answered here; all ten are over HTTP."""


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_a_round_is_practised_by_keys(page, address, room, size, server):
    page.set_viewport_size(size)
    page.goto(f"{address}/practice")
    expect(page.locator(".practice-head button")).to_be_focused()  # the one action
    press(page, "Enter")
    evaluator, seen = Evaluator(), set()
    for place in range(FIRST):
        expect(page.locator(".practised-at")).to_contain_text(f"{place + 1} of 10")
        page.wait_for_load_state("load")
        asked = read_asked(re.search(r"q=([^&]+)", page.url)[1].replace("%2C", ",").split(",")[place])
        seen.add(asked.kind)
        if page.locator(".practised-choices").count():
            if asked.photo is None:
                truth = question_of(asked, evaluator).truth
                values = page.locator(".practised-choices button").evaluate_all("all => all.map((each) => each.value)")
                page.keyboard.press(str(values.index(truth) + 1))
                expect(page.locator("h1")).to_have_text("Right.")
            else:
                page.keyboard.press("1")
        else:
            expect(page.locator("#turn")).to_be_focused()
            before = page.locator(".turned-line").first.get_attribute("transform") if asked.kind != "wraps" else ""
            press(page, "ArrowLeft", "ArrowLeft")
            if before:
                assert page.locator(".turned-line").first.get_attribute("transform") != before
            press(page, "Enter")
        expect(page.locator("#next")).to_be_focused()
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
        press(page, "Enter")
    expect(page.locator(".practised-at")).to_contain_text(f"{FIRST + 1} of 10")
    with opened(server.app.state.connections.file) as connection:
        assert {each.asked.kind for each in practice.answers(connection, "first")[-FIRST:]} == seen
    page.goto(re.sub(r"at=\d+", "at=10", page.url))
    expect(page.locator("h1")).to_contain_text("of 10 well seen")


def test_nothing_stands_in_the_way(page, address, room):
    jersey, mittens = room["Fisher's jersey"], room["Stage-door mittens"]
    again = room["Fisher's jersey again"]
    rounds = "q=angle-t-1,balance-f-2,wraps-f-3&at="
    for where in (
        "/?q=fisher&weight=DK",
        f"/designs/{again}/again",
        f"/designs/{jersey}/log",
        f"/compare?y={jersey}&y={mittens}",
        "/practice",
        *(f"/practice/round?{rounds}{place}" for place in range(3)),
    ):
        see_nothing_in_the_way(page, f"{address}{where}")
