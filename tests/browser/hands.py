"""What a person without a mouse does."""

import pytest
from axe_playwright_python.sync_playwright import Axe

DRAWN = "svg[role=img] > :not(title)"
"""The thousands of strokes within drawings, of which nobody is told one by one: hidden, they take no time."""
HIDING = (
    "rule => { const sheet = new CSSStyleSheet(); sheet.replaceSync(rule); document.adoptedStyleSheets = [sheet]; }"
)

DESK, TABLET = {"width": 1280, "height": 800}, {"width": 768, "height": 1024}


def press(page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def tab_to(page, selector: str, back: bool = False) -> None:
    """Press Tab until the focus is there, as a person without a mouse does."""
    for _ in range(90):
        if page.evaluate("selector => document.activeElement.matches(selector)", selector):
            return
        page.keyboard.press("Shift+Tab" if back else "Tab")
    pytest.fail(f"Tab never reaches {selector}")


def see_nothing_in_the_way(page, address) -> None:
    """Open a page and let axe look for what would keep someone out; in the dark only colours are other."""
    page.emulate_media(color_scheme="light")
    page.goto(address)
    page.evaluate(HIDING, f"{DRAWN} {{ display: none !important }}")
    _assert_clear(page, {})
    page.emulate_media(color_scheme="dark")
    _assert_clear(page, {"runOnly": ["color-contrast"]})
    assert page.locator("svg[role=img]:not(:has(> title))").count() == 0


def _assert_clear(page, options) -> None:
    options = {"resultTypes": ["violations"], **options}  # all are looked for, only these are written up
    found = Axe().run(page, options=options)
    assert found.violations_count == 0, found.generate_report()


def heights(page, selector) -> list[float]:
    """How high everything is that can be seen and pressed."""
    return page.evaluate(
        "selector => [...document.querySelectorAll(selector)].filter(each => each.checkVisibility())"
        ".map(each => each.getBoundingClientRect().height)",
        selector,
    )


def open_at_size(page, address, size) -> None:
    """Open a page in a window of a size, its letters come."""
    page.set_viewport_size(size)
    page.goto(address)
    page.evaluate("document.fonts.ready.then(() => null)")


def slow_answers(page, seconds: float = 1.5) -> None:
    """From now on let every answer come late, as over a bad line."""
    page.evaluate(
        "late => { const ask = window.fetch; window.fetch = async (...given) => {"
        " const answer = await ask(...given); await new Promise((done) => setTimeout(done, late)); return answer; } }",
        1000 * seconds,
    )
