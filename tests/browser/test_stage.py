"""A yarn taken in hand: turned, brought near, washed and picked without asking, and what stands in for it."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.hands import DESK, press, see_nothing_in_the_way, tab_to
from tests.conftest import PATIENCE

WATCH = """
window.contexts = []; window.drawings = 0;
const made = OffscreenCanvas.prototype.getContext;
OffscreenCanvas.prototype.getContext = function (...asked) {
  const context = made.apply(this, asked);
  if (context && asked[0] === "webgl2" && !window.contexts.includes(context)) {
    window.contexts.push(context);
    const draw = context.drawElements.bind(context);
    // a triangle at a time makes it ready, and is no drawing
    context.drawElements = (...given) => { window.drawings += given[1] > 3; draw(...given); };
  }
  return context;
};
"""

AFTER_A_FRAME = """() => new Promise((told) =>
  requestAnimationFrame(() => requestAnimationFrame(() => told(window.drawings))))"""


@pytest.fixture
def stage(relief_browser):
    """A page that draws in relief, on which any error of script or policy fails the test."""
    page = relief_browser.new_page(viewport=DESK, reduced_motion="reduce")
    page.set_default_timeout(1000 * PATIENCE)
    page.add_init_script(WATCH)
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda said: troubles.append(said.text) if said.type == "error" else None)
    yield page
    page.close()
    assert [each for each in troubles if "422" not in each and "404" not in each] == []


def opened(page, address: str) -> None:
    page.goto(address)
    expect(page.locator(".stage").first).to_have_class(re.compile("in-relief"))
    rested(page)


def rested(page) -> None:
    """Wait until something is drawn, and nothing any more, however slowly frames come."""
    before, now = -1, 0
    while now == 0 or before != now:
        page.wait_for_timeout(300)  # longer than what draws finely waits
        before, now = now, page.evaluate(AFTER_A_FRAME)


def seen(page) -> bytes:
    return page.locator(".stage").first.screenshot()


def test_it_is_turned_brought_near_washed_and_lit_by_keyboard_without_asking(stage, demo_address):
    opened(stage, f"{demo_address}/designs/9")
    rested(stage)
    stage.wait_for_timeout(1500)  # what is seen from afar has come
    asked: list[str] = []
    stage.on("request", lambda request: asked.append(request.url))
    looks = [seen(stage)]
    tab_to(stage, ".stage")
    for key in ("ArrowUp", "+", "-", "w", "g"):
        press(stage, key)
        rested(stage)
        looks.append(seen(stage))
    assert looks[1] != looks[0] and looks[2] != looks[1] and looks[4] != looks[3] and looks[5] != looks[4]
    assert asked == []


def test_its_sliders_say_where_it_stands(stage, demo_address):
    opened(stage, f"{demo_address}/designs/9")
    before = stage.locator("[data-times]").inner_text()
    near = stage.locator("[data-view=near]")
    near.focus()
    press(stage, "End")
    rested(stage)
    assert float(stage.locator("[data-times]").inner_text()) > 3 * float(before)
    press(stage, "Home")
    rested(stage)
    assert stage.locator("[data-times]").inner_text() == "1"
    assert stage.locator(".ruler").text_content().startswith("mm")
    texts = "[...document.querySelectorAll('.ruler text')].slice(1)"
    ruled = f"{texts}.map((each) => [each.textContent, each.getAttribute('x')])"
    labels, places = zip(*((float(label), float(place)) for label, place in stage.evaluate(ruled)), strict=True)
    assert (places[1] - places[0]) / (labels[1] - labels[0]) == pytest.approx(
        96 / 25.4, rel=0.01
    )  # CSS: 96 px to an inch


def test_nothing_is_drawn_while_nothing_changes(stage, demo_address):
    opened(stage, f"{demo_address}/designs/5")
    stage.wait_for_timeout(2500)
    before = stage.evaluate(AFTER_A_FRAME)
    stage.wait_for_timeout(1500)
    assert stage.evaluate(AFTER_A_FRAME) == before


def test_a_strand_is_picked_by_pointing_at_it(stage, demo_address):
    opened(stage, f"{demo_address}/designs/9")
    box = stage.locator(".stage").bounding_box()
    stage.mouse.click(box["x"] + 60, box["y"] + box["height"] / 2)  # the middle one of three that come in
    expect(stage.locator("[name=at]:checked")).to_have_value("yarn.strands[1]")
    expect(stage.locator("svg[data-held='yarn.strands[1]']")).to_be_attached()


def test_dragging_turns_it_and_picks_nothing(stage, demo_address):
    opened(stage, f"{demo_address}/designs/9")
    box = stage.locator(".stage").bounding_box()
    before = seen(stage)
    stage.mouse.move(box["x"] + 700, box["y"] + 100)
    stage.mouse.down()
    stage.mouse.move(box["x"] + 700, box["y"] + 160, steps=5)
    stage.mouse.up()
    rested(stage)
    assert seen(stage) != before
    assert stage.locator("[name=at]:checked").input_value() == "yarn"
    assert abs(float(stage.locator("[data-view=turn]").input_value())) > 5


def test_the_wheel_brings_it_near_once_it_is_in_hand_and_scrolls_before(stage, demo_address):
    opened(stage, f"{demo_address}/designs/9")
    near = stage.locator("[data-view=near]")
    box = stage.locator(".stage").bounding_box()
    stage.mouse.move(box["x"] + 700, box["y"] + 100)
    stage.mouse.wheel(0, -200)
    stage.wait_for_timeout(200)
    assert near.input_value() == "2"
    stage.locator(".stage").focus()
    stage.mouse.wheel(0, -200)
    expect(near).not_to_have_value("2")


def test_answers_hold_no_painting_and_the_yarn_follows(stage, demo_address):
    opened(stage, f"{demo_address}/construct?start_from=3-ply")
    first = stage.locator("svg.yarn").get_attribute("data-strands")
    stage.locator("#twist").focus()
    asked = []
    stage.on("request", lambda request: asked.append(request.url))
    with stage.expect_response(lambda answer: answer.url.endswith("/follow")) as answer:
        press(stage, "ArrowUp")
    assert "painted" not in answer.value.text()
    expect(stage.locator("svg.yarn")).not_to_have_attribute("data-strands", first)
    stage.wait_for_timeout(500)  # before what is seen from afar is asked for
    assert not [url for url in asked if "/strands/" in url]  # they came with the answer


def test_a_lost_context_leaves_the_painting(stage, demo_address):
    opened(stage, f"{demo_address}/construct?start_from=3-ply")
    stage.locator("#twist").focus()
    with stage.expect_response(lambda answer: answer.url.endswith("/follow")):
        press(stage, "ArrowUp")
    with stage.expect_response(lambda answer: answer.url.endswith("/follow")):
        stage.evaluate("window.contexts[0].getExtension('WEBGL_lose_context').loseContext()")
    expect(stage.locator("#picture .painted [data-part]").first).to_be_visible()
    expect(stage.locator(".stage")).not_to_have_class(re.compile("in-relief"))


def test_where_it_cannot_be_drawn_in_relief_it_is_painted(page, demo_address):
    page.goto(f"{demo_address}/designs/9")
    page.wait_for_function("window.htmx")
    expect(page.locator("#picture .painted [data-part]").first).to_be_visible()
    assert page.locator(".hands").is_hidden() and page.locator("#reach").is_visible()
    page.locator("#twist").focus()
    with page.expect_response(lambda answer: answer.url.endswith("/follow")) as answer:
        press(page, "ArrowUp")
    assert "painted" in answer.value.text()


@pytest.mark.parametrize("path", ["/designs/9", "/designs/9/finish", "/aim"])
def test_what_takes_a_yarn_in_hand_keeps_nobody_out(stage, demo_address, path):
    see_nothing_in_the_way(stage, f"{demo_address}{path}")


def test_a_finger_turns_it_and_two_bring_it_near(relief_browser, demo_address):
    """Fingers as the browser itself makes them; the page does not scroll away under them."""
    page = relief_browser.new_page(viewport=DESK, has_touch=True, reduced_motion="reduce")
    page.add_init_script(WATCH)
    opened(page, f"{demo_address}/designs/9")
    box = page.locator(".stage").bounding_box()
    hand = page.context.new_cdp_session(page)

    def fingers(kind: str, *places: tuple[float, float]) -> None:
        points = [{"x": box["x"] + x, "y": box["y"] + y, "id": number} for number, (x, y) in enumerate(places)]
        hand.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    fingers("touchStart", (700, 100))
    for y in (120, 140, 160):
        fingers("touchMove", (700, y))
    fingers("touchEnd")
    page.wait_for_function("Math.abs(document.querySelector('[data-view=turn]').value) > 5")
    fingers("touchStart", (650, 120), (750, 120))
    for off in (70, 90, 120):
        fingers("touchMove", (700 - off, 120), (700 + off, 120))
    fingers("touchEnd")
    page.wait_for_function("document.querySelector('[data-view=near]').value > 2.3")
    assert page.evaluate("scrollY") == 0
    page.close()


def test_finishing_is_drawn_at_each_moment_and_in_cloth(stage, demo_address):
    opened(stage, f"{demo_address}/designs/9/finish")
    assert stage.locator(".stage.in-relief").count() == 6
    asked: list[str] = []
    stage.on("request", lambda request: asked.append(request.url))
    after = stage.locator(".lengths .stage").last
    dry = after.screenshot()
    with stage.expect_response(lambda answer: answer.url.endswith("/follow")):
        stage.locator("#at-soaking").dispatch_event("click")
    rested(stage)
    assert after.screenshot() != dry
    assert [each for each in asked if "/strands/" in each or "/swatches/" in each] == []
