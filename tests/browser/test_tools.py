"""Tools in a real browser: a dial counted for fifteen seconds by one key, and the fields of one kind at a time."""

import pytest
from playwright.sync_api import expect

from tests.browser.hands import DESK, TABLET, heights, open_at_size, see_nothing_in_the_way


@pytest.fixture
def tools(page, address):
    page.clock.install()
    page.goto(f"{address}/tools")
    return page


def count(page, place, turns):
    """The first press starts the clock: a turn is from one passing to the next."""
    page.locator(f"[data-count='count-{place}']").click()
    for _ in range(turns + 1):
        page.keyboard.press(" ")
    expect(page.locator(".counting-turns")).to_have_text(str(turns))
    page.clock.fast_forward(15_100)
    expect(page.locator(f"#count-{place}")).to_have_value(str(turns))
    expect(page.locator(".counting")).to_be_hidden()


def test_a_motor_is_calibrated_by_counting(tools):
    tools.get_by_label("motor spinner").check(force=True)
    expect(tools.locator("#ratios")).to_be_hidden()
    tools.fill("#name", "Humming box")
    count(tools, 1, 5)
    count(tools, 2, 12)
    tools.get_by_role("button", name="Keep it").click()
    expect(tools.locator(".lot-card")).to_contain_text("20 a minute at 1, 48 a minute at 2")


def test_a_count_that_is_left_writes_nothing(tools):
    tools.get_by_label("motor spinner").check(force=True)
    tools.locator("[data-count='count-1']").click()
    tools.keyboard.press("Escape")
    tools.clock.fast_forward(16_000)
    expect(tools.locator("#count-1")).to_have_value("")


def test_a_wheel_is_told_of_by_keyboard_alone(tools):
    tools.focus("[name=kind][value=wheel]")
    tools.keyboard.press("ArrowLeft")  # round to the bobbins, and on to the wheel again
    expect(tools.locator("#size")).to_be_visible()
    tools.keyboard.press("ArrowRight")
    tools.keyboard.press("Tab")
    tools.keyboard.type("Oak")
    tools.keyboard.press("Tab")
    tools.keyboard.type("5 7")
    tools.keyboard.press("Enter")
    expect(tools.locator(".lot-card")).to_contain_text("5:1, 7:1")


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_what_is_pressed_is_large_and_nothing_runs_over(page, demo_address, size):
    open_at_size(page, f"{demo_address}/tools?kind=motor", size)
    assert min(heights(page, ".lots .button, .lots input:not([type=radio])")) >= 43.9
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]


def test_axe_finds_nothing(page, demo_address):
    see_nothing_in_the_way(page, f"{demo_address}/tools?kind=spindle")
