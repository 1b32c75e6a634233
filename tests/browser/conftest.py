"""A real browser, and pages on which any error fails the test."""

import shutil

import pytest
from playwright.sync_api import expect, sync_playwright

from tests.browser.hands import DESK
from tests.conftest import PATIENCE

CHROMIUM = shutil.which("chromium-headless-shell") or "/usr/bin/chromium"
ARGUMENTS = ["--no-sandbox", "--disable-background-networking"]
WITHOUT_RELIEF = ["--disable-gpu", "--disable-software-rasterizer"]
RELIEF = ["--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-gpu-compositing"]

expect.set_options(timeout=1000 * PATIENCE)  # nothing here is a measure of speed


@pytest.fixture(scope="session")
def playwright():
    with sync_playwright() as playwright:
        yield playwright


@pytest.fixture(scope="session")
def browser(playwright):
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*ARGUMENTS, *WITHOUT_RELIEF])
    yield browser
    browser.close()


@pytest.fixture(scope="session")
def context(browser):
    """What a worker's pages share: scripts and letters fetched once, and nothing that a test has kept."""
    return browser.new_context(viewport=DESK, reduced_motion="reduce")


@pytest.fixture
def page(context):
    """A page on which any error of script or policy fails the test."""
    page = context.new_page()
    page.set_default_timeout(1000 * PATIENCE)
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda said: troubles.append(said.text) if said.type == "error" else None)
    yield page
    page.evaluate("location.protocol.startsWith('http') && localStorage.clear()")
    page.close()
    assert [trouble for trouble in troubles if "422" not in trouble and "404" not in trouble] == []


@pytest.fixture(scope="session")
def relief_browser(playwright):
    """A browser that draws in relief, by software."""
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*ARGUMENTS, *RELIEF])
    yield browser
    browser.close()
