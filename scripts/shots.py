"""Takes the pictures in docs/screenshots from the demo, one of each main view."""

from pathlib import Path

from playwright.sync_api import sync_playwright

from bench.serving import serving

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
DESK, TABLET = {"width": 1280, "height": 800}, {"width": 768, "height": 1024}

VIEWS = (
    ("construct", "/designs/9", DESK, "light"),
    ("construct-dark", "/designs/8", DESK, "dark"),
    ("construct-tablet", "/designs/6", TABLET, "light"),
    ("yarn-coiled", "/designs/1", DESK, "light"),
    ("yarn-core-spun", "/designs/2", DESK, "light"),
    ("yarn-crepe", "/designs/4", DESK, "dark"),
    ("yarn-cable", "/designs/5", DESK, "light"),
    ("shelf", "/", DESK, "light"),
    ("settings", "/settings", DESK, "light"),
)


def main() -> None:
    """Take every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with serving(demo=True) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-background-networking"]
        )
        for name, path, size, scheme in VIEWS:
            page = browser.new_page(viewport=size, color_scheme=scheme, reduced_motion="reduce")
            page.goto(address + path, wait_until="networkidle")
            page.evaluate("document.fonts.ready")
            page.screenshot(path=FOLDER / f"{name}.png")
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
