"""Photos in a real browser: chosen, marked by finger, mouse and keys under a loupe, looked at and noted."""

import pytest
from playwright.sync_api import expect

from pebble_wheel.demo import photos as taken
from pebble_wheel.store import designs
from pebble_wheel.store.database import opened
from tests.browser.hands import DESK, TABLET, heights, open_at_size, see_nothing_in_the_way
from tests.web.test_plan import ply


def handle(page, field):
    return page.locator(
        f"#overlay [data-x='{field}'], #overlay [data-along='{field}'], #overlay [data-across='{field}']"
    )


def middle(locator):
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


@pytest.fixture
def yarn(server, address):
    """A yarn in a notebook of its own: what these tests keep, no other test is to find."""
    with opened(server.app.state.connections.file) as connection:
        return f"{address}/designs/{designs.keep_new(connection, ply())}"


@pytest.fixture
def marked(page, yarn):
    page.goto(f"{yarn}/photo", wait_until="load")
    page.set_input_files("#picture", str(taken.FOLDER / "1.jpg"))
    page.get_by_role("button", name="Keep this photo").click()
    page.locator("#overlay .mark-handle").first.wait_for()
    page.wait_for_load_state("load")
    return page


def test_a_photo_is_chosen_marked_looked_at_and_noted(page, yarn):
    page.goto(f"{yarn}/sample", wait_until="load")
    page.get_by_role("link", name="Measure in a photo").click()
    page.set_input_files("#picture", str(taken.FOLDER / "1.jpg"))
    page.get_by_role("button", name="Keep this photo").click()
    expect(page.locator("#told")).to_contain_text("both ends of the scale")
    page.get_by_role("button", name="Look", exact=True).click()
    expect(page.get_by_role("button", name="Take what was found")).to_be_visible()
    page.get_by_role("button", name="Take what was found").click()
    expect(page.locator("#told")).to_contain_text("161 t/m")
    page.get_by_role("button", name="Note as a sample").click()
    expect(page.locator("main")).to_contain_text("across, by photo")


def test_a_mark_is_dragged_under_a_loupe(page, demo_address):
    page.goto(f"{demo_address}/designs/9/photo/2", wait_until="load")
    x, y = middle(handle(page, "bx"))
    before = float(page.input_value("#bx"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=5)
    expect(page.locator("#loupe")).to_be_visible()
    page.mouse.up()
    expect(page.locator("#loupe")).to_be_hidden()
    times = 1000 / page.locator("#photo").bounding_box()["width"]
    assert float(page.input_value("#bx")) == pytest.approx(before + 60 * times, abs=3)
    expect(page.locator("#told")).to_contain_text("pixels to a mm")
    x, y = middle(handle(page, "to"))
    first = float(page.input_value("#to"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y + 25, steps=4)
    page.mouse.up()
    assert float(page.input_value("#to")) == pytest.approx(first + 30 * times, abs=4)


def test_a_mark_is_walked_by_keys_and_stays_in_hand(marked):
    page = marked
    before = float(page.input_value("#ax"))
    handle(page, "ax").focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(150)
    page.keyboard.press("Shift+ArrowLeft")
    expect(page.locator("#ax")).to_have_value(f"{before + 3 - 10:.1f}")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#said")).to_have_text("Kept.")


def test_a_finger_drags_marks_at_the_tablet(browser, demo_address):
    page = browser.new_page(viewport=TABLET, has_touch=True)
    page.goto(f"{demo_address}/designs/9/photo/2", wait_until="load")
    x, y = middle(handle(page, "px"))
    before = float(page.input_value("#py"))
    finger = page.context.new_cdp_session(page)

    def touch(kind, *points):
        finger.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": a, "y": b} for a, b in points]})

    touch("touchStart", (x, y))
    for step in range(1, 6):
        touch("touchMove", (x, y + 8 * step))
    touch("touchEnd")
    times = 1000 / page.locator("#photo").bounding_box()["width"]
    page.wait_for_timeout(200)
    assert float(page.input_value("#py")) == pytest.approx(before + 40 * times, abs=6)
    page.close()


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_what_is_pressed_is_large_and_nothing_runs_over(page, demo_address, size):
    open_at_size(page, f"{demo_address}/designs/9/photo/1", size)
    assert min(heights(page, "#marks .presets .button, .photo-do .button, #marks select")) >= 40
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]
    open_at_size(page, f"{demo_address}/designs/9/photo", size)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]


def test_axe_finds_nothing(page, demo_address):
    see_nothing_in_the_way(page, f"{demo_address}/designs/9/photo")
    see_nothing_in_the_way(page, f"{demo_address}/designs/9/photo/1")
