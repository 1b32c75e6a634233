"""Texture in a real browser: a ready one at one touch, nudged by keys, kept, and found again."""

import pytest
from playwright.sync_api import expect

from pebble_wheel.store import designs
from pebble_wheel.store.database import opened
from tests.browser.hands import DESK, TABLET, heights, open_at_size, see_nothing_in_the_way, slow_answers
from tests.workshop.test_sequence import MANE


@pytest.fixture
def texture(page, server, address):
    with opened(server.app.state.connections.file) as connection:
        number = designs.keep_new(connection, MANE)
    page.goto(f"{address}/designs/{number}", wait_until="load")
    page.get_by_role("link", name="Let it change along its length").click()
    page.locator("#texture").wait_for()
    page.wait_for_load_state("load")
    return page


def test_coils_locked_by_bobbles_by_keyboard_alone(texture):
    texture.get_by_role("button", name="coils locked by bobbles").focus()
    texture.keyboard.press("Enter")
    expect(texture.locator("#told")).to_contain_text("12.3 m")
    texture.focus("#length-2")
    texture.keyboard.press("ArrowUp")
    expect(texture.locator("#told")).not_to_contain_text("12.3 m")
    texture.keyboard.press("Control+Enter")
    expect(texture.locator("#said")).to_have_text("Kept.")
    expect(texture.locator("#gesture-2")).to_have_value("coils")
    expect(texture.locator("#sections figure")).to_have_count(6)


def test_coils_that_slide_are_told_until_they_are_locked(texture):
    texture.get_by_role("button", name="coils locked by bobbles").click()
    expect(texture.locator("#told")).to_contain_text("12.3 m")
    expect(texture.locator("#told")).not_to_contain_text("Coils slide")
    texture.select_option("#gesture-1", "plain")
    expect(texture.locator("#told")).to_contain_text("Coils slide")


def test_a_section_is_dragged_longer(texture):
    texture.get_by_role("button", name="thick and thin", exact=True).click()
    expect(texture.locator("#begins")).to_have_value("30 cm")
    piece = texture.locator("#strip [data-field='begins']").bounding_box()
    y = piece["y"] + piece["height"] / 2
    texture.mouse.move(piece["x"] + piece["width"] - 3, y)
    texture.mouse.down()
    texture.mouse.move(piece["x"] + 1.5 * piece["width"] - 3, y, steps=3)
    texture.mouse.up()
    expect(texture.locator("#begins")).to_have_value("45 cm")
    expect(texture.locator("#told")).to_contain_text("6.75 m")


def test_what_was_done_is_undone_step_by_step_after_a_reload_too(texture):
    texture.get_by_role("button", name="coils locked by bobbles").click()
    expect(texture.locator("#told")).to_contain_text("12.3 m")
    texture.get_by_role("button", name="Section 3 once more").click()
    expect(texture.locator("#gesture-3")).to_have_value("coils")
    texture.fill("#length-3", "50 cm")
    texture.locator("#length-3").press("Tab")
    expect(texture.locator("#told")).to_contain_text("27.3 m")
    for gesture, whole in (("coils", "15.3 m"), ("bobble", "12.3 m")):
        texture.keyboard.press("Control+z")
        expect(texture.locator("#told")).to_contain_text(whole)
        expect(texture.locator("#gesture-3")).to_have_value(gesture)
    texture.reload()
    expect(texture.locator("#gesture-3")).to_have_count(0)
    texture.keyboard.press("Control+z")
    expect(texture.locator("#told")).to_contain_text("12.3 m")
    expect(texture.locator("#gesture-3")).to_have_value("bobble")


def test_what_is_undone_in_haste_is_all_undone_and_the_focus_stays(texture):
    texture.get_by_role("button", name="coils locked by bobbles").click()
    expect(texture.locator("#gesture-4")).to_have_value("")
    slow_answers(texture, 0.3)
    copies = texture.get_by_role("button", name="Section 3 once more")
    copies.focus()
    for _ in range(2):
        texture.keyboard.press("Enter")
    expect(texture.locator("#gesture-5")).to_have_value("bobble")
    expect(copies).to_be_focused()
    texture.fill("#length-2", "50 cm")
    texture.locator("#length-2").press("Tab")
    for _ in range(2):
        texture.keyboard.press("Control+z")
    expect(texture.locator("#gesture-4")).to_have_value("bobble")
    expect(texture.locator("#told")).to_contain_text("15.3 m")
    expect(texture.locator("#length-2")).to_have_value("10 cm")
    expect(texture.locator("#gesture-5")).to_have_value("")


def test_what_is_wrong_stands_in_its_row_and_goes_with_it_while_the_focus_stays_near(texture):
    texture.select_option("#gesture-0", "coils")
    fault = texture.locator("#rows .fault")
    expect(fault).to_have_text("say how long it is, like 10 cm")
    expect(texture.locator("#faults")).to_have_text("Section 1: say how long it is, like 10 cm")
    texture.focus("#do-drop-0")
    texture.keyboard.press("Enter")
    expect(fault).to_have_count(0)
    expect(texture.locator("#gesture-0")).to_have_value("")
    expect(texture.locator("#gesture-1")).to_be_focused()


def test_a_button_fills_in_the_field_in_use_too(texture):
    texture.select_option("#gesture-0", "plain")
    texture.fill("#length-0", "5 cm")
    expect(texture.locator("#told")).to_contain_text("0.05 m")
    texture.locator("#start-coils").dispatch_event("click")  # as of a finger, which leaves the focus where it is
    expect(texture.locator("#told")).to_contain_text("12.3 m")
    expect(texture.locator("#length-0")).to_have_value("25 cm")
    expect(texture.locator("#length-0")).to_be_focused()


def test_a_row_more_waits_as_soon_as_the_last_is_used(texture):
    texture.select_option("#gesture-1", "bobble")
    expect(texture.locator("#gesture-2")).to_have_value("")
    expect(texture.get_by_role("button", name="Section 2 once more")).to_be_visible()


def test_one_goes_along_the_yarn_and_nearer_by_keys(texture):
    texture.get_by_role("button", name="coils locked by bobbles").click()
    picture = texture.locator("#along svg")
    before = picture.get_attribute("data-strands")
    texture.focus(".stage")
    texture.keyboard.press("ArrowRight")
    expect(picture).not_to_have_attribute("data-strands", before)
    scale = picture.get_attribute("data-scale")
    texture.keyboard.press("+")
    expect(picture).not_to_have_attribute("data-scale", scale)
    assert float(picture.get_attribute("data-scale")) > float(scale)


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_what_is_pressed_is_large_and_nothing_runs_over(page, demo_address, size):
    open_at_size(page, f"{demo_address}/designs/9/texture", size)
    assert min(heights(page, "#texture .button, #texture select, #texture input[data-nudge]")) >= 40
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    for field in page.locator("#rows input[data-nudge]").all():  # and what is typed can be read
        assert field.evaluate("each => each.clientWidth >= each.scrollWidth && each.clientWidth > 60")


def test_axe_finds_nothing(page, demo_address):
    see_nothing_in_the_way(page, f"{demo_address}/designs/9/texture")
