"""The plan in a real browser: by keyboard, by dragging fibre, at both sizes, and on one page of paper."""

import io
import re

import pypdfium2
import pytest
from playwright.sync_api import expect

from tests.browser.hands import DESK, TABLET, heights, open_at_size, press, see_nothing_in_the_way, tab_to


@pytest.fixture
def plan(page, demo_address):
    page.goto(f"{demo_address}/designs/9/plan")
    return page


def test_a_plan_follows_what_is_typed_and_keeps_the_field_in_hand(plan):
    tab_to(plan, "#grams-1")
    plan.keyboard.type("300")
    expect(plan.locator("#strands")).to_contain_text("100 g ± 1 g")
    expect(plan.locator("#grams-1")).to_be_focused()
    tab_to(plan, "#share-1-0")
    plan.keyboard.type("2")
    press(plan, "Tab")
    plan.keyboard.type("1")
    press(plan, "Tab")
    plan.keyboard.type("1")
    expect(plan.locator("#comes-1")).to_contain_text("150 g")
    expect(plan.locator("#strands tbody tr").first).to_contain_text("over")
    expect(plan.locator("#said")).to_have_text("not yet kept")


def test_a_plan_is_kept_by_keyboard(page, demo_address):
    page.goto(f"{demo_address}/designs/3/plan")
    tab_to(page, "#grams-1")
    page.keyboard.type("64")
    press(page, "Control+Enter")
    expect(page).to_have_url(re.compile("kept=1"))
    expect(page.locator("#grams-1")).to_have_value("64")


def test_fibre_is_dragged_from_one_strand_to_another(plan):
    plan.fill("#grams-1", "300")
    expect(plan.locator("#comes-1")).to_contain_text("100 g")
    ribbon = plan.locator(".taken[data-strand='0']").bounding_box()
    target = plan.locator("[data-into='1'] .box").bounding_box()
    plan.mouse.move(ribbon["x"] + ribbon["width"] / 2, ribbon["y"] + ribbon["height"] / 2)
    plan.mouse.down()
    plan.mouse.move(target["x"] + 4, target["y"] + target["height"] / 2, steps=4)
    plan.mouse.up()
    expect(plan.locator("#share-1-0")).to_have_value("0")
    expect(plan.locator("#share-1-1")).to_have_value("200")
    expect(plan.locator("#strands tbody tr").first).to_contain_text("0.0 g")


def test_days_move_when_rest_is_off(plan):
    plan.fill("#start", "2026-12-01")
    expect(plan.locator("#days")).to_contain_text("1 Dec, 18:00")
    ready = plan.locator("#days b").last.inner_text()
    plan.locator("label:has(#rests-no)").click()
    expect(plan.locator("#days")).not_to_contain_text("Let it rest")
    assert plan.locator("#days b").last.inner_text() != ready


def test_a_printed_plan_fits_one_page(plan):
    plan.fill("#grams-1", "300")
    plan.locator("label:has(#rests-yes)").click()
    sheet = pypdfium2.PdfDocument(io.BytesIO(plan.pdf(format="A4", scale=0.8)))
    assert len(sheet) == 1
    text = sheet[0].get_textpage().get_text_range()
    assert re.search(r"Fisher.s jersey", text) and "Ply" in text and "bobbin" in text


def test_axe_finds_nothing(page, demo_address):
    see_nothing_in_the_way(page, f"{demo_address}/designs/9/plan")


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_nothing_runs_out_of_the_page_and_targets_are_large(page, demo_address, size):
    open_at_size(page, f"{demo_address}/designs/9/plan", size)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    assert min(heights(page, "main .button, main .step, .choice span, .thread a, .planning input")) >= 43.9
