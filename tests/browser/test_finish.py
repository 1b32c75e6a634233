"""The finishing screen in a real browser: scrubbed by keyboard, timed over a reload, a swatch against its band."""

import re

import httpx
import pytest
from playwright.sync_api import expect

from tests.browser.hands import DESK, TABLET, heights, open_at_size, press, see_nothing_in_the_way, slow_answers, tab_to
from tests.conftest import PATIENCE


@pytest.fixture
def jersey(address, page):
    """A kept design, opened for finishing."""
    httpx.post(f"{address}/construct/keep", data={"name": "Jersey"}, timeout=PATIENCE)
    page.goto(f"{address}/designs/1/finish")
    return f"{address}/designs/1"


def test_the_timeline_is_scrubbed_by_keyboard(page, jersey):
    tab_to(page, "[name=at]")
    expect(page.locator("[name=at]:checked")).to_have_value("dried")
    press(page, "ArrowLeft", "ArrowLeft")
    expect(page.locator("#figures")).to_contain_text("96.3 m")  # relaxed, and longer by being wet
    expect(page.locator("#now-words")).to_contain_text("never to be compared with a dry measurement")
    assert page.evaluate("document.activeElement.value") == "soaking"
    wet = page.locator("#after").inner_html()
    press(page, "ArrowLeft")
    expect(page.locator("#figures")).to_contain_text("a ply-back of the single reads about")
    assert page.locator("#after").inner_html() != wet
    press(page, "ArrowLeft")
    expect(page.locator("#figures")).to_contain_text("100.0 m")


def test_a_wash_is_chosen_by_its_picture_and_kept(page, jersey):
    page.locator(".wash-card", has_text="lightly fulled").click()
    expect(page.locator("#said")).to_have_text("not yet kept")
    expect(page.locator("#list")).to_contain_text("Hot water scalds")
    expect(page.locator(".ranking .own b")).to_have_text("lightly fulled, hung free")
    page.locator(".wash-card", has_text="heavy weight").click()
    expect(page.locator("#list")).to_contain_text("Tie the weight well")
    tab_to(page, "#over-fibre, #over-finish, #over-preparation")
    press(page, "ArrowRight", "ArrowRight")
    expect(page.locator(".ranking b").first).to_have_text("Down type")
    page.get_by_role("button", name="Keep this finish").click()
    expect(page.locator("#said")).to_have_text("")
    expect(page.locator("#wash-full")).to_be_checked()


def test_the_timer_survives_a_reload(page, jersey):
    timer = page.locator("[data-timer='1 soak']")
    expect(timer.get_by_role("button")).to_have_text("Start 20 min")
    timer.get_by_role("button").focus()
    press(page, "Enter")
    expect(timer.locator("output")).to_have_text(re.compile(r"^(20:00|19:5\d) to go$"))
    page.wait_for_timeout(1300)
    page.reload()
    expect(timer.locator("output")).to_have_text(re.compile(r"^19:5\d to go$"))
    page.locator(".wash-card", has_text="soaked, thwacked").click()
    expect(page.locator("#list")).to_contain_text("Thwack it")
    expect(timer.locator("output")).to_have_text(re.compile("to go$"))
    expect(page.locator("[data-timer='1 rinse'] output")).to_have_text("")
    timer.get_by_role("button").click()
    expect(timer.locator("output")).to_have_text("")


def test_a_swatch_is_noted_by_keyboard_and_seen_against_the_band(page, jersey):
    tab_to(page, "#stitches_before")
    page.keyboard.type("26")
    press(page, "Tab")
    page.keyboard.type("many")
    press(page, "Enter")
    expect(page.locator("#fault-stitches_after")).to_contain_text("is no gauge")
    assert page.input_value("#stitches_before") == "26" and page.input_value("#stitches_after") == "many"
    page.focus("#stitches_after")
    press(page, "Control+a")
    page.keyboard.type("24.5")
    press(page, "Enter")
    expect(page.locator(".noted")).to_contain_text("stitches -5.8 %")
    expect(page.get_by_role("img", name="Stitches washed, counted against predicted")).to_be_visible()
    expect(page.locator(".axis").last.locator(".axis-dot")).to_have_count(1)
    page.get_by_role("button", name="Strike out swatch 1").click()
    expect(page.locator(".noted")).to_have_count(0)
    page.get_by_role("button", name="Bring it back").click()
    expect(page.locator(".noted")).to_contain_text("swatch 1")


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
@pytest.mark.parametrize("path", ["/designs/9/finish", "/designs/1/finish?over=fibre&at=soaking"])
def test_nothing_runs_out_of_the_page(page, demo_address, path, size):
    open_at_size(page, demo_address + path, size)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    for selector in (".length >> nth=1", ".skein", ".timeline", "#figures", ".wash-card >> nth=0"):
        box = page.locator(selector).bounding_box()
        assert box and box["y"] + box["height"] <= size["height"], selector


@pytest.mark.parametrize("path", ["/designs/9/finish", "/designs/3/finish?at=soaking&over=fibre"])
def test_axe_finds_nothing(page, demo_address, path):
    see_nothing_in_the_way(page, demo_address + path)


def test_targets_are_big_enough_for_lanolin_fingers(page, demo_address):
    page.goto(f"{demo_address}/designs/9/finish")
    sizes = heights(
        page,
        "button:not(.sr), select, .choice span, .wash-card, .moment, a.button,"
        " .together, input[id]:not([type=radio]):not([type=checkbox])",
    )
    assert len(sizes) > 40 and min(sizes) >= 44


def test_a_second_step_is_not_lost_while_an_answer_is_under_way(page, jersey):
    slow_answers(page)
    tab_to(page, "[name=at]")
    press(page, "ArrowLeft")
    page.wait_for_timeout(400)
    press(page, "ArrowLeft")
    expect(page.locator("#now-words")).to_contain_text("never to be compared with a dry measurement")
    expect(page.locator("#figures")).to_contain_text("96.3 m")
    assert page.evaluate("document.activeElement.value") == "soaking"
