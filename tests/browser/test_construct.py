"""The construction screen in a real browser, by keyboard, with eyes for errors and for access."""

import httpx
import pytest
from playwright.sync_api import expect

from pebble_wheel.workshop.starts import STARTS
from tests.browser.hands import DESK, TABLET, heights, open_at_size, press, see_nothing_in_the_way, slow_answers, tab_to
from tests.conftest import PATIENCE


def draft(page) -> str:
    return page.input_value("#draft")


def await_picture(page, inside: str) -> None:
    """Wait until the picture is this one again."""
    same = "inside => document.querySelector('#picture svg').innerHTML === inside"
    page.wait_for_function(same, arg=inside)


def act(page, key: str) -> None:
    """Press a key in the tree and wait until what it builds has come."""
    before = draft(page)
    page.locator("[name=at]:checked").focus()
    page.keyboard.press(key)
    page.wait_for_function("before => document.getElementById('draft').value !== before", arg=before)


def pick(page, part: str) -> None:
    """Take a part in hand and wait until its fields have come."""
    page.locator(f"label[data-part='{part}']").click()
    expect(page.locator("#of")).to_have_value(part)


def undo_all(page) -> None:
    undo = page.locator("#undo")
    for _ in range(40):
        if undo.is_disabled():
            return
        before = draft(page)
        page.keyboard.press("Control+z")
        page.wait_for_function("before => document.getElementById('draft').value !== before", arg=before)
    pytest.fail("undo never comes to the start")


@pytest.mark.parametrize(("first", "names"), [("3-ply", tuple(STARTS)[:5]), ("2-ply", tuple(STARTS)[5:])])
def test_each_start_is_built_by_keyboard_altered_and_undone_to_the_start(page, address, first, names):
    page.goto(f"{address}/construct?start_from={first}")
    begun, shown = draft(page), page.locator("#picture svg").inner_html()
    for name in names:
        if name == first:
            continue
        build_alter_and_undo(page, name, begun, shown)


def build_alter_and_undo(page, name, begun, shown) -> None:
    """Press the button of a start, change it, undo all of it, and redo a step; the page then stands at its start."""
    picture = page.locator("#picture svg")
    tab_to(page, f"#start-{name}")
    press(page, "Enter")
    expect(page.locator("#name")).to_be_visible()
    page.wait_for_function("before => document.getElementById('draft').value !== before", arg=begun)
    made, figures = picture.inner_html(), page.locator("#strip").inner_text()
    assert made != shown
    tab_to(page, "#twist")
    press(page, "ArrowUp", "ArrowUp", "ArrowUp")
    expect(page.locator("#strip")).not_to_have_text(figures, use_inner_text=True)
    assert picture.inner_html() != made
    if name != "single":
        page.locator("[name=at]:checked").focus()
        press(page, "ArrowUp")
        expect(page.locator("#strip")).to_contain_text("twist now")
        expect(page.locator("#picture .held").first).to_be_attached()
        press(page, "ArrowDown")
        expect(page.locator("#strip")).to_contain_text("What if")
    page.wait_for_load_state("networkidle")
    undo_all(page)
    await_picture(page, shown)
    assert draft(page) == begun
    page.keyboard.press("Control+y")
    expect(page.locator("#redo")).to_be_enabled()
    await_picture(page, made)
    undo_all(page)
    await_picture(page, shown)


def test_a_cable_is_built_by_hand_by_keyboard_kept_exported_and_brought_in_again(page, address, tmp_path):
    page.goto(f"{address}/construct?start_from=single")
    act(page, "p")
    expect(page.locator("#caption")).to_contain_text("2-ply of Corriedale")
    act(page, "p")
    act(page, "a")
    expect(page.locator("#caption")).to_contain_text("3 strands, each a 2-ply of Corriedale")
    press(page, "ArrowUp", "ArrowUp")
    expect(page.locator("#h-hand")).to_have_text("single ×2")
    tab_to(page, "#fibre")
    page.keyboard.type("Polw")
    expect(page.locator("#caption")).to_contain_text("Polwarth")
    tab_to(page, "#size")
    press(page, "Control+a")
    page.keyboard.type("24 wpi")
    expect(page.locator("#spun")).to_contain_text("24 wpi")
    page.focus("#name")
    press(page, "Control+a")
    page.keyboard.type("Tassel")
    press(page, "Control+Enter")
    expect(page.locator("#state")).to_have_text("Kept.")
    picture = page.locator("#picture svg").inner_html()
    with page.expect_download() as download:
        page.get_by_role("link", name="File").click()
    download.value.save_as(tmp_path / "tassel.json")
    page.goto(address)
    page.set_input_files("#file", tmp_path / "tassel.json")
    page.get_by_role("button", name="Bring in", exact=True).focus()
    press(page, "Enter")
    expect(page).to_have_url(f"{address}/designs/2")
    assert page.input_value("#name") == "Tassel" and page.locator("#picture svg").inner_html() == picture
    page.goto(address)
    tab_to(page, ".card h2 a")
    expect(page.locator(".card h2")).to_have_text(["Tassel", "Tassel"])


def test_other_ways_of_building_by_keyboard(page, address):
    for start, keys, words in (
        ("single", "c", "chain ply of a single of Corriedale"),
        ("2-ply", "w", "Corriedale spun round a 2-ply"),
        ("single", "o", "coiled on a bought thread"),
        ("crepe", "k", "2-ply of Corriedale"),
    ):
        page.goto(f"{address}/construct?start_from={start}")
        act(page, keys)
        expect(page.locator("#caption")).to_contain_text(words)
        expect(page.locator("#picture svg")).to_be_visible()
        assert page.locator("[name=at]:checked").evaluate("e => e === document.activeElement")


def test_a_part_picked_in_the_picture_is_in_hand_everywhere(page, demo_address):
    page.goto(f"{demo_address}/designs/5")
    strand = page.locator("#picture [data-part='yarn.strands[1].strands[0]']").last
    strand.dispatch_event("click")
    expect(page.locator("#strip h2").last).to_have_text("single of Romney × 2")
    assert page.locator("[id='at-yarn.strands[1].strands[0]']").is_checked()
    expect(page.locator("tr.in-hand")).to_contain_text("single of Romney × 2")
    expect(page.locator("#h-hand")).to_have_text("single ×2")
    page.locator("label[data-part='yarn.strands[0]']").click()
    expect(page.locator("#strip h2").last).to_have_text("2-ply")
    page.locator("tr[data-part='yarn'] td").first.click()
    expect(page.locator("#strip h2").last).to_contain_text("What if")


def test_every_picture_is_reached_by_keyboard_and_shows_the_part_in_hand(page, demo_address):
    page.goto(f"{demo_address}/designs/4")
    page.locator("label[data-part='yarn.strands[1]']").click()
    expect(page.locator("#picture .held").first).to_be_attached()
    tab_to(page, "#picture-along")
    press(page, "ArrowRight")
    expect(page.locator("#picture svg.cut .held-disc").first).to_be_attached()
    press(page, "ArrowRight")
    expect(page.locator("#picture svg.unrolled")).to_contain_text("at rest")
    press(page, "ArrowRight")
    tab_to(page, "#reach")
    press(page, "ArrowLeft", "ArrowLeft")
    expect(page.locator("#caption")).to_contain_text(", 1× life size")


def test_why_this_number_opens_follows_and_closes_by_keyboard(page, address):
    page.goto(address)
    tab_to(page, "[name=ask][value='lean@yarn']")
    press(page, "Enter")
    expect(page.locator(".why")).to_contain_text("tan β = 2πR t")
    before = page.locator(".why table").inner_text()
    page.focus("#twist")
    press(page, "ArrowUp")
    expect(page.locator(".why table")).not_to_have_text(before, use_inner_text=True)
    press(page, "Escape")
    expect(page.locator(".why")).to_have_count(0)


def test_a_bad_value_gets_its_message_and_stays_typed(page, address):
    page.goto(address)
    page.locator("label[data-part='yarn.strands[1]']").click()
    expect(page.locator("#h-hand")).to_have_text("single")
    yarn = page.locator("svg.yarn")
    before = yarn.inner_html()
    page.fill("#size", "22 bananas")
    expect(page.locator("#fault-size")).to_contain_text("not known")
    expect(page.locator("#state")).to_contain_text("last yarn that could be made")
    assert page.input_value("#size") == "22 bananas" and yarn.inner_html() == before
    page.locator("label[data-part='yarn']").click()
    expect(page.locator("#h-hand")).to_have_text("3-ply")
    expect(page.locator("#elsewhere")).to_contain_text("not known")
    page.locator("#elsewhere label").first.click()
    expect(page.locator("#fault-size")).to_contain_text("not known")
    page.click("#keep")
    expect(page.locator("#elsewhere")).to_contain_text("not known")
    page.locator("#elsewhere label").first.click()
    assert page.input_value("#size") == "22 bananas"
    page.fill("#size", "22 wpi")
    expect(page.locator("#fault-size")).to_be_empty()
    expect(yarn).to_be_visible()


def test_past_jamming_the_last_picture_stays_with_the_reason(page, address):
    page.goto(address)
    page.get_by_role("radio", name="turns").check()
    page.fill("#twist", "900")
    expect(page.locator("#fault-twist")).to_contain_text("jam at about")
    expect(page.locator("svg.yarn")).to_be_visible()


def test_the_step_buttons_nudge_within_the_unit(page, address):
    page.goto(f"{address}/construct?start_from=single")
    page.fill("#twist", "6.0 tpi")
    page.click("button[data-for=twist][data-by='1']")
    assert page.input_value("#twist") == "6.2 tpi"
    expect(page.locator("#strip")).to_contain_text("244 t/m Z")


def test_quick_changes_and_actions_never_lose_each_other(page, address):
    page.goto(f"{address}/construct?start_from=3-ply")
    page.focus("#twist")
    press(page, "ArrowUp", "ArrowUp")
    page.click("#do-add")
    page.click("#do-add")
    expect(page.locator("#h-hand")).to_have_text("5-ply")
    assert page.input_value("#twist") == "1.10"


def test_the_same_field_of_two_parts_is_undone_in_two_steps(page, address):
    page.goto(f"{address}/construct?start_from=crepe")
    begun, picture = draft(page), page.locator("#picture svg").inner_html()
    twisted = []
    for part in ("yarn.strands[1]", "yarn.strands[0].strands[0]"):
        pick(page, part)
        before = draft(page)
        page.focus("#twist")
        press(page, "ArrowUp")
        page.wait_for_function("before => document.getElementById('draft').value !== before", arg=before)
        twisted.append(draft(page))
    page.wait_for_load_state("networkidle")
    for left in (twisted[0], begun):
        press(page, "Control+z")
        page.wait_for_function("left => document.getElementById('draft').value === left", arg=left)
        page.wait_for_load_state("networkidle")
    page.locator("label[data-part='yarn']").click()
    await_picture(page, picture)
    expect(page.locator("#undo")).to_be_disabled()


def test_what_is_typed_while_another_part_is_being_picked_is_kept_by_the_part_it_was_typed_in(page, address):
    page.goto(f"{address}/construct?start_from=crepe", wait_until="networkidle")
    pick(page, "yarn.strands[1]")
    slow_answers(page)
    page.locator("label[data-part='yarn.strands[0]']").click()
    page.wait_for_timeout(400)
    page.fill("#size", "22 wpi")
    page.wait_for_timeout(400)
    pick(page, "yarn.strands[0].strands[0]")
    assert page.locator("[name=at]:checked").get_attribute("value") == "yarn.strands[0].strands[0]"
    pick(page, "yarn.strands[1]")
    assert page.input_value("#size") == "22 wpi"


def test_an_action_takes_along_what_was_typed_while_it_was_under_way(page, address):
    page.goto(f"{address}/construct?start_from=single", wait_until="networkidle")
    slow_answers(page)
    page.locator("[name=at]:checked").focus()
    press(page, "p")
    page.wait_for_timeout(400)
    page.fill("#size", "22 wpi")
    expect(page.locator("#h-hand")).to_have_text("2-ply")
    pick(page, "yarn.strands[0]")
    expect(page.locator("#h-hand")).to_have_text("single ×2")
    assert page.input_value("#size") == "22 wpi"


def test_a_reading_moved_again_or_half_typed_is_not_put_back_by_an_answer(page, address):
    page.goto(f"{address}/construct?start_from=3-ply", wait_until="networkidle")
    slow_answers(page)
    begun, ratio = draft(page), float(page.input_value("#if-ratio"))
    for _ in range(2):
        page.locator("[data-for=if-ratio][data-by='1']").click()
        page.wait_for_timeout(400)
    page.focus("#if-twist")
    press(page, "Control+a")
    page.keyboard.type("25")
    page.wait_for_function("begun => document.getElementById('draft').value !== begun", arg=begun)
    once = draft(page)
    page.wait_for_function("once => document.getElementById('draft').value !== once", arg=once)
    assert page.input_value("#if-twist") == "25"
    assert float(page.input_value("#if-ratio")) == pytest.approx(ratio + 0.1)
    press(page, "Tab")
    expect(page.locator("#if-twist")).to_have_value("25.0")
    assert float(page.input_value("#if-ratio")) == pytest.approx(ratio + 0.1)


def test_undo_waits_for_what_is_under_way_and_loses_nothing_typed_after_it(page, address):
    page.goto(f"{address}/construct?start_from=3-ply", wait_until="networkidle")
    begun, twist, share = draft(page), page.input_value("#twist"), page.input_value("#share")
    slow_answers(page)
    page.focus("#twist")
    press(page, "ArrowUp", "Control+z")
    expect(page.locator("#redo")).to_be_enabled()
    page.focus("#share")
    press(page, "ArrowRight")
    assert page.input_value("#twist") != twist
    expect(page.locator("#twist")).to_have_value(twist)
    assert float(page.input_value("#share")) == pytest.approx(float(share) + 0.05)
    press(page, "Control+z")
    expect(page.locator("#share")).to_have_value(share)
    page.wait_for_function("begun => document.getElementById('draft').value === begun", arg=begun)
    expect(page.locator("#undo")).to_be_disabled()


def test_put_away_can_be_undone_from_the_keyboard(page, address):
    httpx.post(f"{address}/construct/keep", data={"name": "Collar"}, timeout=PATIENCE)
    page.goto(address)
    page.get_by_role("button", name="Put away Collar").focus()
    press(page, "Enter")
    expect(page.get_by_text("“Collar” is put away.")).to_be_visible()
    tab_to(page, ".undo button")
    press(page, "Enter")
    expect(page.locator(".card h2")).to_have_text("Collar")


@pytest.mark.parametrize("path", ["/designs/9", "/designs/5", "/construct"])
def test_the_picture_and_the_readings_need_no_scrolling(page, demo_address, path):
    open_at_size(page, demo_address + path, DESK)
    for selector in ("svg.yarn", "#strip", ".verdict", "svg.loop", "svg.balance-scale", "#sized .sizes", ".tree"):
        box = page.locator(selector).bounding_box()
        assert box and box["y"] >= 0 and box["y"] + box["height"] <= DESK["height"], selector


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
@pytest.mark.parametrize("path", ["/", "/designs/1", "/designs/9", "/settings", "/nowhere"])
def test_nothing_runs_out_of_the_page(page, demo_address, path, size):
    open_at_size(page, demo_address + path, size)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]


@pytest.mark.parametrize("path", ["/", "/designs/2", "/designs/5", "/designs/6", "/settings", "/construct"])
def test_axe_finds_nothing(page, demo_address, path):
    see_nothing_in_the_way(page, demo_address + path)


def test_targets_are_big_enough_for_lanolin_fingers(page, demo_address):
    page.goto(f"{demo_address}/designs/9")
    sizes = heights(
        page,
        "button:not(.sr), select, .choice span, .card-part, .together,"
        " input[id]:not([type=radio]):not([type=checkbox])",
    )
    assert len(sizes) > 20 and min(sizes) >= 44
