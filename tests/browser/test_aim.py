"""From what the yarn is to be to a design on the shelf, in a real browser; and what if on the construction screen."""

import re

import httpx
import pytest
from playwright.sync_api import expect

from pebble_wheel.mechanics.counts import INCH
from tests.browser.hands import DESK, TABLET, heights, open_at_size, press, see_nothing_in_the_way, slow_answers, tab_to
from tests.conftest import PATIENCE

MIDDLE = """selector => {
  const box = document.querySelector(selector)?.getBoundingClientRect();
  return box?.width ? [box.x + box.width / 2, box.y + box.height / 2] : null;
}"""


def order(page):
    return page.locator("[name=at]").evaluate_all("every => every.map(each => each.value)")


def row(page, label):
    line = page.locator(".rail tbody tr", has=page.get_by_role("rowheader", name=label, exact=True))
    return dict(zip(order(page), line.locator("td").all_inner_texts(), strict=True))


def await_rail(page, changed_from):
    """Wait until the rail is another one."""
    page.wait_for_function("was => document.getElementById('rail').innerHTML !== was", arg=changed_from)


def rail(page):
    return page.locator("#rail").inner_html()


def drag(page, selector, across, down):
    page.wait_for_timeout(300)  # as long as a hand takes to come there
    x, y = page.wait_for_function(MIDDLE, arg=selector).json_value()
    before = rail(page)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + across, y + down, steps=6)
    await_rail(page, before)
    return before


def test_from_an_aim_to_a_kept_design_by_keyboard_alone(page, address):
    page.goto(f"{address}/aim")
    tab_to(page, "#size")
    press(page, "Control+a")
    before = rail(page)
    page.keyboard.type("9 wpi")
    await_rail(page, before)
    expect(page.locator("[data-across]")).to_have_attribute("data-across", re.compile(f"{INCH / 9:.3f}"))
    for field, keys in (("#firm", ["ArrowRight"] * 4), ("#ratio", ["ArrowRight"] * 8), ("#matter-quick", ["End"])):
        tab_to(page, field)
        before = rail(page)
        press(page, *keys)
        await_rail(page, before)
    page.wait_for_function("() => document.querySelector('[name=at]').value === 'single'")
    assert page.input_value("#ratio") == "1.08"
    tab_to(page, "[name=at]")
    for _ in range(9):
        if page.locator("[name=at]:checked").input_value() == "2-ply":
            break
        before = page.locator("#in-hand").inner_html()
        press(page, "ArrowRight")
        page.wait_for_function("was => document.getElementById('in-hand').innerHTML !== was", arg=before)
    expect(page.locator("#h-held")).to_contain_text("2-ply")
    singles = row(page, "singles")["2-ply"]
    assert page.evaluate("document.activeElement.name") == "at"
    tab_to(page, "#open")
    press(page, "Enter")
    expect(page).to_have_title(re.compile("2-ply, 9 wpi finished"))
    page.wait_for_load_state("load")
    expect(page.locator("#if-size")).to_have_value(re.compile(r"9\.0 wpi"))
    expect(page.locator("#if-ratio")).to_have_value("1.08")
    expect(page.locator("label[data-part='yarn.strands[0]']")).to_be_visible()
    page.locator("label[data-part='yarn.strands[0]']").click()
    expect(page.locator("#spun")).to_contain_text(singles.split("×")[1])
    press(page, "Control+Enter")
    expect(page.locator("#state")).to_have_text("Kept.")
    assert "2-ply, 9 wpi finished" in httpx.get(address, follow_redirects=True, timeout=PATIENCE).text


def test_the_yarn_is_taken_hold_of_by_its_edge_its_angle_and_its_loop(page, address):
    page.goto(f"{address}/aim?size=2.2+mm&at=3-ply", wait_until="networkidle")
    drawn = page.locator(".grasp")
    scale = float(drawn.get_attribute("data-scale"))
    drag(page, "[data-grip=size]", 0, -20)
    wanted = 2.2 + 2 * 20 / scale
    page.wait_for_function(
        "mm => Math.abs(document.querySelector('[data-across]').dataset.across - mm) < 0.02", arg=wanted
    )
    assert float(page.input_value("#size").split()[0]) == pytest.approx(wanted, abs=0.02)
    assert float(drawn.get_attribute("data-scale")) == scale  # the edge stays under the finger
    page.mouse.up()
    lean = page.locator(".wedge-label").text_content()
    drag(page, "[data-grip=firm]", 0, -25)
    page.mouse.up()
    steeper = "was => parseInt(document.querySelector('.wedge-label').textContent) > was"
    page.wait_for_function(steeper, arg=int(lean[:-1]))
    assert float(page.input_value("#firm")) > 45
    drag(page, "[data-grip=ratio]", 60, 0)
    page.mouse.up()
    page.wait_for_function("() => document.querySelector('.aim-loop title').textContent.includes('turns Z')")
    assert float(page.input_value("#ratio")) == pytest.approx(1.18, abs=0.02)
    same = "() => new URLSearchParams(location.search).get('ratio') === document.getElementById('ratio').value"
    page.wait_for_function(same)
    typed = [page.input_value(field) for field in ("#size", "#firm", "#ratio")]
    page.reload(wait_until="networkidle")
    assert [page.input_value(field) for field in ("#size", "#firm", "#ratio")] == typed


def test_a_weight_class_a_pin_a_reason_and_leaving_out(page, address):
    page.goto(f"{address}/aim?at=3-ply", wait_until="networkidle")
    before = rail(page)
    page.select_option("#class", label="bulky")
    await_rail(page, before)
    assert page.input_value("#size") == "6.5 wpi" and page.input_value("#class") == ""
    page.get_by_role("button", name="Pin 3-ply").click()
    expect(page.locator(".compare .hung-name")).to_have_text(["3-ply, 6.5 wpi finished"])
    page.get_by_role("button", name="Pin chain ply").click()
    expect(page.locator(".compare .hung-name")).to_have_count(2)
    expect(page.locator(".compare .differs").first).to_be_visible()
    page.get_by_role("button", name="Let 3-ply").click()
    expect(page.locator(".compare .hung-name")).to_have_text(["chain ply, 6.5 wpi finished"])
    page.get_by_role("button", name="elastic").click()
    expect(page.locator("#why-title")).to_contain_text("elastic of 3-ply")
    press(page, "Escape")
    expect(page.locator("#why-title")).to_have_count(0)
    page.get_by_role("button", name="Leave coiled out").click()
    expect(page.get_by_role("button", name="Bring back coiled")).to_be_visible()
    assert "coiled" not in order(page)
    page.get_by_role("link", name="Open chain ply, 6.5 wpi").click()
    expect(page).to_have_title(re.compile("chain ply, 6.5 wpi finished"))


def test_a_value_that_cannot_be_read_stays_and_the_rail_stays(page, address):
    page.goto(f"{address}/aim", wait_until="networkidle")
    before = rail(page)
    page.fill("#grams", "a bag")
    expect(page.locator("#fault-grams")).to_contain_text("the unit 'bag' is not known")
    assert rail(page) == before and page.input_value("#grams") == "a bag"
    page.fill("#grams", "230 g")
    expect(page.locator("#fault-grams")).to_have_text("")
    assert all(each.endswith("of 230 g") for each in row(page, "makes").values())


def test_a_structure_picked_while_an_answer_is_under_way_stays_picked(page, address):
    page.goto(f"{address}/aim?at=3-ply", wait_until="networkidle")
    slow_answers(page)
    page.fill("#size", "9 wpi")
    page.wait_for_timeout(400)
    page.locator("label:has(#at-chain)").click()
    page.wait_for_timeout(400)
    page.fill("#grams", "90 g")
    expect(page.locator("#h-held")).to_contain_text("chain ply")
    expect(page.locator("[data-across]")).to_have_attribute("data-across", re.compile(f"{INCH / 9:.3f}"))
    expect(page.locator("#rail")).to_contain_text("of 90 g")
    assert page.locator("[name=at]:checked").get_attribute("value") == "chain"
    page.get_by_role("button", name="Pin chain ply").click()
    page.wait_for_timeout(400)
    page.locator("label:has(#at-3-ply)").click()
    expect(page.locator(".compare .hung-name")).to_have_text(["chain ply, 9 wpi finished"])
    expect(page.locator("#h-held")).to_contain_text("3-ply")


def test_what_if_holds_two_readings_and_moves_one(page, address):
    page.goto(f"{address}/construct?start_from=cable-2x2")

    def stand():
        return [page.input_value(f"#if-{each}") for each in ("size", "twist", "angle", "ratio")]

    def await_changed(handle, value):
        expect(page.locator(f"#if-{handle}")).not_to_have_value(value)

    def wraps(shown):
        return float(shown.removesuffix(" wpi"))

    size, twist, angle, ratio = stand()
    tab_to(page, "#if-angle")
    press(page, "ArrowUp")
    await_changed("twist", twist)
    moved = stand()
    assert moved[3] == ratio and float(moved[1]) > float(twist)
    assert abs(wraps(moved[0]) - wraps(size)) < 0.11  # held is the yarn, shown the middle of uneven spinning
    assert page.evaluate("document.activeElement.id") == "if-angle"
    page.locator("label:has(#hold-twist)").click()
    page.locator("label:has(#hold-size)").click()
    page.locator("[data-for=if-ratio][data-by='1']").click()
    await_changed("angle", moved[2])
    again = stand()
    assert again[1] == moved[1] and float(again[2][:-1]) > float(moved[2][:-1])
    for handle, value in (("ratio", again[3]), ("twist", moved[1])):
        press(page, "Control+z")
        await_changed(handle, value)
    assert stand() == [size, twist, angle, ratio]
    expect(page.locator("#undo")).to_be_disabled()


@pytest.mark.parametrize("path", ["/aim", "/aim?size=24+wpi&at=coiled&pin=structure%3Dchain&pin=structure%3D2-ply"])
@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_nothing_runs_out_of_the_page_and_the_grips_are_at_hand(page, demo_address, path, size):
    open_at_size(page, demo_address + path, size)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    for grip in ("size", "firm", "ratio"):
        box = page.locator(f"[data-grip={grip}]").first.bounding_box()
        assert box and box["x"] >= 0 and box["x"] + box["width"] <= size["width"] and box["width"] >= 40
    for selector in ("#picture svg.yarn", "#size", "#firm", ".hung-card"):
        box = page.locator(selector).first.bounding_box()
        assert box and box["y"] + box["height"] <= size["height"], selector


@pytest.mark.parametrize("path", ["/aim", "/aim?size=30+wpi&at=crepe&pin=structure%3Dchain&pin=structure%3D2-ply"])
def test_axe_finds_nothing(page, demo_address, path):
    see_nothing_in_the_way(page, demo_address + path)


def test_targets_are_big_enough_for_lanolin_fingers(page, demo_address):
    page.goto(f"{demo_address}/aim")
    page.locator("summary").click()
    sizes = heights(
        page,
        "button:not(.sr), select, summary, .choice span, .hung-card, a.button, input[id]:not([type=radio])",
    )
    assert len(sizes) > 60 and min(sizes) >= 44
