"""The construction screen in a real browser, by keyboard, with eyes for errors and for access."""

import httpx
import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect, sync_playwright

DESK, TABLET = {"width": 1280, "height": 800}, {"width": 768, "height": 1024}


@pytest.fixture(scope="session")
def browser():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-background-networking"]
        )
        yield browser
        browser.close()


@pytest.fixture
def page(browser):
    """A page on which any error of script or policy fails the test."""
    context = browser.new_context(viewport=DESK, reduced_motion="reduce")
    page = context.new_page()
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda said: troubles.append(said.text) if said.type == "error" else None)
    yield page
    context.close()
    assert [trouble for trouble in troubles if "422" not in trouble and "404" not in trouble] == []


def press(page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def tab_to(page, selector: str) -> None:
    """Press Tab until the focus is there, as a person without a mouse does."""
    for _ in range(60):
        if page.evaluate("selector => document.activeElement.matches(selector)", selector):
            return
        page.keyboard.press("Tab")
    pytest.fail(f"Tab never reaches {selector}")


def test_a_yarn_is_built_kept_and_found_again_by_keyboard_alone(page, address):
    page.goto(address)
    yarn = page.locator("svg.yarn")
    expect(yarn).to_be_visible()
    before = yarn.inner_html()

    tab_to(page, "#fibre")
    page.keyboard.type("Polw")
    tab_to(page, "#size")
    press(page, "Control+a")
    page.keyboard.type("24 wpi")
    tab_to(page, "#twist")
    press(page, "ArrowUp", "ArrowUp")
    tab_to(page, "[name=strands]")
    press(page, "ArrowRight")
    expect(page.locator(".caption")).to_contain_text("4-ply of Polwarth")
    expect(page.locator("#echo-size")).to_contain_text("24 wpi")
    assert page.input_value("#twist") == "240 t/m"
    assert yarn.inner_html() != before

    tab_to(page, "#ply_twist")
    press(page, "ArrowUp", "ArrowUp", "ArrowUp", "ArrowUp", "ArrowUp", "ArrowUp")
    expect(page.locator(".verdict")).to_have_text("energised")
    expect(page.locator("#advice")).to_contain_text("Treadle less per length")
    shift = "() => document.querySelector('#name').select()"
    page.focus("#name")
    page.evaluate(shift)
    page.keyboard.type("Tassel")
    press(page, "Control+Enter")
    expect(page.locator("#state")).to_have_text("Kept.")

    page.reload()
    assert page.input_value("#size") == "24 wpi" and page.input_value("#name") == "Tassel"
    tab_to(page, "nav a[href='/']")
    press(page, "Enter")
    expect(page.locator("h2")).to_have_text("Tassel")
    tab_to(page, ".card h2 a")
    press(page, "Enter")
    expect(page.locator(".caption")).to_contain_text("4-ply of Polwarth")


def test_a_bad_value_gets_its_message_and_stays_typed(page, address):
    page.goto(address)
    yarn = page.locator("svg.yarn")
    before = yarn.inner_html()
    page.fill("#size", "22 bananas")
    expect(page.locator("#fault-size")).to_contain_text("not known")
    expect(page.locator("#state")).to_contain_text("last yarn that could be made")
    assert page.input_value("#size") == "22 bananas" and yarn.inner_html() == before
    page.click("#keep")
    expect(page.locator("#fault-size")).to_contain_text("not known")
    assert page.input_value("#size") == "22 bananas"
    page.fill("#size", "22 wpi")
    expect(page.locator("#fault-size")).to_be_empty()
    expect(yarn).to_be_visible()


def test_past_jamming_the_last_picture_stays_with_the_reason(page, address):
    page.goto(address)
    page.get_by_role("radio", name="turns").check()
    page.fill("#ply_twist", "900")
    expect(page.locator("#fault-ply_twist")).to_contain_text("jam at about")
    expect(page.locator("svg.yarn")).to_be_visible()


def test_the_step_buttons_nudge_within_the_unit(page, address):
    page.goto(address)
    page.fill("#twist", "6.0 tpi")
    page.click("button[data-for=twist][data-by='1']")
    assert page.input_value("#twist") == "6.2 tpi"
    expect(page.locator("#echo-twist")).to_contain_text("twist factor 24")


def test_put_away_can_be_undone_from_the_keyboard(page, address):
    httpx.post(f"{address}/construct/keep", data={"name": "Collar"})
    page.goto(address)
    page.get_by_role("button", name="Put away Collar").focus()
    press(page, "Enter")
    expect(page.get_by_text("“Collar” is put away.")).to_be_visible()
    tab_to(page, ".undo button")
    press(page, "Enter")
    expect(page.locator(".card h2")).to_have_text("Collar")


def test_the_picture_and_the_readings_need_no_scrolling(page, demo_address):
    page.goto(f"{demo_address}/designs/9")
    for selector in ("svg.yarn", ".strip", ".verdict", "svg.loop", "svg.balance-scale", "#size .sizes"):
        box = page.locator(selector).bounding_box()
        assert box and box["y"] >= 0 and box["y"] + box["height"] <= DESK["height"], selector


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
@pytest.mark.parametrize("path", ["/", "/designs/1", "/designs/9", "/settings", "/nowhere"])
def test_nothing_runs_out_of_the_page(page, demo_address, path, size):
    page.set_viewport_size(size)
    page.goto(demo_address + path)
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("path", ["/", "/designs/2", "/designs/5", "/designs/6", "/settings", "/construct"])
def test_axe_finds_nothing(page, demo_address, path, scheme):
    page.emulate_media(color_scheme=scheme)
    page.goto(demo_address + path)
    found = Axe().run(page)
    assert found.violations_count == 0, found.generate_report()


def test_targets_are_big_enough_for_lanolin_fingers(page, demo_address):
    page.goto(f"{demo_address}/designs/9")
    sizes = page.evaluate(
        "[...document.querySelectorAll('button, select, .choice span, input[id]')].filter(e => e.checkVisibility())"
        ".map(e => e.getBoundingClientRect().height)"
    )
    assert len(sizes) > 20 and min(sizes) >= 44
