"""Samples at the stool in a real browser: by keyboard in a few key presses, by a turned wedge, at life size."""

import re

import pytest
from playwright.sync_api import expect

from pebble_wheel.notation.design import new_design
from pebble_wheel.store import designs
from pebble_wheel.store.database import opened
from tests.browser.hands import DESK, TABLET, heights, open_at_size, press, see_nothing_in_the_way, tab_to

PAGES = ["/designs/9/sample", "/designs/9/sample?strand=yarn", "/designs/9/log", "/hands"]


@pytest.fixture
def sample(page, server, address):
    """The sample screen of a 3-ply that nothing was measured of."""
    spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": 100, "count": 3}
    spun |= {"twist": {"turns_per_m": 216, "direction": "Z"}}
    yarn = {"kind": "ply", "strands": [spun], "twist": {"turns_per_m": 160, "direction": "S"}}
    with opened(server.app.state.connections.file) as connection:
        number = designs.keep_new(connection, new_design("Rope", yarn))
    page.goto(f"{address}/designs/{number}/sample")
    return page


def test_a_sample_is_noted_by_keyboard_in_under_fifteen_presses(sample):
    """Gauge, ply-back, done: the first field is in hand, and Enter notes."""
    pressed = 0

    def key(*keys):
        nonlocal pressed
        pressed += len(keys)
        press(sample, *keys)

    expect(sample.locator("#gauge")).to_be_focused()
    key("2", "4")
    while not sample.evaluate("document.activeElement.id === 'fold'"):
        key("Tab")
    key("1", "5", "Enter")
    expect(sample.locator(".noted li")).to_contain_text("24 wpi · ply-back 150 t/m")
    assert pressed < 15


def test_a_number_is_nudged_and_a_slot_is_tapped(sample):
    sample.get_by_role("button", name="Wraps in an inch, or mm across, more").click()
    expect(sample.locator("#gauge")).to_have_value("25")
    sample.locator("label:has([name=slot])", has_text="22–26").click()
    expect(sample.locator("#gauge")).to_have_value("")
    sample.get_by_role("button", name="Note the sample").click()
    expect(sample.locator(".noted li")).to_contain_text("by card ± 5 %")


def test_the_wedge_is_turned_until_it_looks_like_the_yarn(sample):
    """What is turned stands in the field, and what is typed turns the picture; both by keyboard."""
    before = sample.locator(".turned-yarn .lean").get_attribute("d")
    tab_to(sample, "#turn")
    press(sample, *["ArrowRight"] * 3)
    turned = sample.locator("#angle").input_value()
    assert int(turned) == int(sample.locator("#turn").input_value())
    assert sample.locator(".turned-yarn .lean").get_attribute("d") != before
    sample.fill("#angle", "45")
    first = re.match(r"M([-\d.]+) ([\d.]+)L([-\d.]+) ([\d.]+)", sample.locator(".turned-yarn .lean").get_attribute("d"))
    across, down = float(first[3]) - float(first[1]), float(first[4]) - float(first[2])
    assert across == pytest.approx(down, rel=0.01)  # 45° of a Z single, down to the right
    press(sample, "Enter")
    expect(sample.locator(".noted li")).to_contain_text("leans 45°")


def test_a_wide_loop_is_pointed_at(sample):
    sample.locator(".fold-card", has_text="wide loop").click()
    sample.get_by_role("button", name="Note the sample").click()
    expect(sample.get_by_role("heading", name="Too little twist.")).to_be_visible()
    expect(sample.locator(".judged li").first).to_contain_text("smaller whorl")


def test_the_screen_is_set_to_life_size_by_a_bank_card_once(sample, address):
    """On a screen of 5 pixels to a mm a card of 85.60 × 53.98 mm (ISO/IEC 7810 ID-1) is 428 × 269.9 pixels large."""
    sample.locator(".calibrate summary").click()
    nominal = sample.locator(".bank-card").bounding_box()
    assert nominal["width"] == pytest.approx(85.60 * 96 / 25.4, abs=0.6)
    sample.locator("#px-per-mm").fill("5")
    box = sample.locator(".bank-card").bounding_box()
    assert (box["width"], box["height"]) == (pytest.approx(428, abs=0.6), pytest.approx(269.9, abs=0.6))
    sample.locator("label:has(#times-1)").click()
    side = sample.locator(".side").first.bounding_box()
    assert side["width"] == pytest.approx(64 * 5, abs=0.6)  # 34 mm of the single, 4 apart, 26 of its ply-back
    sample.reload()
    sample.locator(".calibrate summary").click()
    assert sample.locator(".bank-card").bounding_box()["width"] == pytest.approx(428, abs=0.6)


def test_what_was_typed_stays_with_its_fault(sample):
    sample.fill("#gauge", "a few")
    sample.fill("#fold", "12")
    sample.locator("#sample .more-fields summary").click()
    sample.fill("#note", "from the first bobbin")
    press(sample, "Enter")
    expect(sample.locator("#fault-gauge")).to_contain_text("not a number")
    assert sample.input_value("#fold") == "12" and sample.input_value("#note") == "from the first bobbin"


def test_the_sample_to_match_is_asked_about_before_another_takes_its_place(sample):
    for gauge in ("24", "22"):
        sample.fill("#gauge", gauge)
        press(sample, "Enter")
        sample.wait_for_load_state()
    matches = sample.get_by_role("button", name=re.compile("^Match the sample"))
    matches.last.click()
    expect(sample.locator(".to-match")).to_have_count(1)
    expect(sample.locator(".side-by")).to_have_count(3)
    matches.first.click()
    expect(sample.get_by_role("alert").filter(has_text="instead?")).to_be_visible()
    sample.get_by_role("link", name="Leave it").click()
    expect(sample.locator(".noted li", has=sample.locator(".to-match"))).to_contain_text("24 wpi")


def test_a_slip_is_struck_out_and_everything_moves(page, demo_address):
    """On the demo as it is: nothing is sent, but what would be is there to press."""
    page.goto(f"{demo_address}/hands")
    expect(page.locator(".doubt")).to_have_count(2)
    expect(page.locator(".coverage")).to_contain_text("of your last 10 readings fell inside")
    tab_to(page, ".doubt .button")
    expect(page.locator(":focus")).to_have_text("A slip: leave it out")


@pytest.mark.parametrize("path", PAGES)
def test_axe_finds_nothing(page, demo_address, path):
    see_nothing_in_the_way(page, demo_address + path)


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
@pytest.mark.parametrize("path", PAGES)
def test_nothing_runs_out_of_the_page_and_targets_are_large(page, demo_address, path, size):
    open_at_size(page, demo_address + path, size)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    assert min(heights(page, "main .button, main .step, .choice span, .thread a, main summary")) >= 43.9
