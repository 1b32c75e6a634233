"""Beside the wheel in a real browser: by one key, read from afar, live, and still there after a reload."""

import re

import pytest
from playwright.sync_api import expect

from pebble_wheel.notation.design import new_design
from pebble_wheel.store import designs
from pebble_wheel.store.database import opened
from tests.browser.hands import DESK, TABLET, heights, open_at_size, see_nothing_in_the_way


@pytest.fixture
def wheel(page, server, address):
    spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": 100, "count": 3}
    spun |= {"twist": {"turns_per_m": 140, "direction": "Z"}}
    yarn = {"kind": "ply", "strands": [spun], "twist": {"turns_per_m": 160, "direction": "S"}}
    with opened(server.app.state.connections.file) as connection:
        number = designs.keep_new(connection, new_design("Rope", yarn))
    page.goto(f"{address}/designs/{number}/wheel?strand=yarn.strands[0]")
    page.fill("#draft-long", "40 cm")
    page.get_by_role("button", name="Begin").click()
    page.locator("#treadle").wait_for()
    page.wait_for_load_state("load")
    return page


def treadle(page, times):
    for _ in range(times):
        page.keyboard.press(" ")
        page.wait_for_timeout(130)  # no foot is quicker


def test_treadles_are_counted_by_one_key_and_stand_after_a_reload(wheel):
    treadle(wheel, 4)
    expect(wheel.locator("#live-treadles")).to_have_text("4 of 9")
    wheel.keyboard.press("Enter")
    expect(wheel.locator("#live-drafts")).to_have_text("1")
    wheel.reload()
    expect(wheel.locator("#live-drafts")).to_have_text("1")


def test_the_simulated_wheel_spins_and_a_drift_is_alarmed(wheel):
    wheel.get_by_role("button", name="Simulated wheel").click()
    expect(wheel.locator("#live-drafts")).to_have_text("12")
    expect(wheel.locator("#live-alarm")).to_be_empty()
    wheel.get_by_role("button", name="It drifts").click()
    expect(wheel.locator("#live-alarm")).to_contain_text("Too little twist")
    wheel.get_by_role("button", name="End, into the log").click()
    expect(wheel.locator(".day")).to_contain_text("counted in")


def test_another_device_counts_on_and_the_draft_fills(wheel, browser):
    """Taps of the first, then of the second: all of them count."""
    treadle(wheel, 3)
    expect(wheel.locator("#live-treadles")).to_have_text("3 of 9")
    expect(wheel.locator("#draft-turned")).to_have_attribute("style", re.compile("scaleX\\(0\\.32"))
    other = browser.new_context().new_page()
    other.goto(wheel.url, wait_until="load")
    expect(other.locator("#live-treadles")).to_have_text("3 of 9")
    treadle(other, 2)
    expect(wheel.locator("#live-treadles")).to_have_text("5 of 9")
    treadle(wheel, 1)
    expect(other.locator("#live-treadles")).to_have_text("6 of 9")
    expect(wheel.locator("#live-counters")).to_be_empty()
    other.context.close()


def test_taps_count_however_long_it_takes_to_say_who_counts(wheel, browser):
    treadle(wheel, 1)
    other = browser.new_context().new_page()
    other.goto(wheel.url, wait_until="load")
    expect(other.locator("#live-treadles")).to_have_text("1 of 9")
    other.route("**/believe*", lambda route: (other.wait_for_timeout(700), route.continue_()))
    treadle(other, 3)
    expect(other.locator("#live-treadles")).to_have_text("4 of 9")
    other.context.close()


def test_a_run_is_played_again_and_what_to_do_opens(wheel):
    wheel.get_by_role("button", name="Simulated wheel").click()
    expect(wheel.locator("#live-drafts")).to_have_text("12")
    address = wheel.url
    wheel.get_by_role("button", name="End, into the log").click()
    expect(wheel.locator(".day")).to_contain_text("counted in")
    wheel.goto(address)
    wheel.get_by_text("A broken end").click()
    expect(wheel.get_by_text("never pull on a slub")).to_be_visible()
    wheel.locator("a", has_text="Play ").click()
    expect(wheel.locator("#live-drafts")).not_to_have_text("12")
    expect(wheel.locator("#live-drafts")).to_have_text("12")


def test_the_click_can_be_heard_and_muted(wheel):
    click = wheel.get_by_role("button", name="Click along")
    click.click()
    expect(click).to_have_attribute("aria-pressed", "true")
    expect(wheel.locator(".standing.beat")).to_be_visible()
    click.click()
    expect(click).to_have_attribute("aria-pressed", "false")


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_figures_are_read_from_afar(page, wheel, size):
    page.set_viewport_size(size)
    figures = page.evaluate(
        "[...document.querySelectorAll('.stand-live b, .stand-top b')]"
        ".map((each) => parseFloat(getComputedStyle(each).fontSize))"
    )
    assert min(figures) >= 48
    assert min(heights(page, ".standing .button")) >= 43.9
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]


def test_axe_finds_nothing(page, wheel, demo_address):
    see_nothing_in_the_way(page, f"{demo_address}/designs/9/wheel")


def test_a_begun_run_has_nothing_in_the_way(page, wheel):
    see_nothing_in_the_way(page, page.url)
    open_at_size(page, page.url, TABLET)
    assert page.evaluate("document.documentElement.scrollWidth") <= TABLET["width"]
