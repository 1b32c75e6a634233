"""The control in use is never swapped for another by an answer: it is the very one that was there before."""

import pytest
from playwright.sync_api import expect

from tests.browser.hands import press, slow_answers, tab_to


@pytest.mark.parametrize(
    ("path", "control", "key"),
    [
        ("/construct?start_from=3-ply", "[name=at]", "ArrowUp"),
        ("/construct?start_from=3-ply", "#if-angle", "ArrowUp"),
        ("/construct?start_from=3-ply", "#hold-angle", " "),
        ("/construct?start_from=3-ply", "#twist", "ArrowUp"),
        ("/construct?start_from=3-ply", "[name=picture]", "ArrowRight"),
        ("/aim", "#size", "ArrowUp"),
        ("/aim", "[name=at]", "ArrowRight"),
        ("/aim", "#colour1", "x"),
        ("/designs/9/finish", "[name=at]", "ArrowLeft"),
        ("/designs/9/finish", "[name=wash]", "ArrowRight"),
        ("/designs/9/finish", "[name=over]", "ArrowRight"),
    ],
)
def test_the_control_in_use_stays_itself(page, demo_address, path, control, key):
    page.goto(demo_address + path)
    page.wait_for_function("window.htmx")
    slow_answers(page, 0.3)
    tab_to(page, control)
    page.evaluate("window.before = new Set(document.querySelectorAll('input, select, textarea'))")
    page.evaluate("""(window.swapped = new Promise((done) =>
        document.addEventListener('htmx:after:swap', () => done(true), { once: true })), null)""")
    with page.expect_response(lambda answer: answer.url.endswith("/follow")):
        if control == "#colour1":
            page.locator(control).fill("#123456")
        else:
            press(page, key)
    used = page.evaluate("document.activeElement.id || document.activeElement.name")
    assert page.evaluate("window.swapped")
    page.wait_for_timeout(100)
    assert page.evaluate("document.activeElement.id || document.activeElement.name") == used
    assert page.evaluate("window.before.has(document.activeElement)"), used


def test_what_stands_beside_the_control_in_use_still_follows(page, address):
    page.goto(f"{address}/construct?start_from=3-ply")
    page.wait_for_function("window.htmx")
    angle, factor = page.locator("#if-angle"), page.locator("#if-twist")
    was = factor.input_value()
    angle.focus()
    press(page, "ArrowUp", "ArrowUp", "ArrowUp", "ArrowUp")
    expect(factor).not_to_have_value(was)
    expect(page.locator("#strip")).to_contain_text("What if")
