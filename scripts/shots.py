"""Takes the pictures in docs/screenshots from the demo, one of each main view."""

from pathlib import Path

from playwright.sync_api import sync_playwright

from bench.serving import serving

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
RELIEF = ["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
DRAWN = 3000
"""Milliseconds within which wool has been drawn by software."""

DESK, TABLET = {"width": 1280, "height": 800}, {"width": 768, "height": 1024}

_DRAGON = "colours=%23a8443a&colours=%23d8a640&colours=%233a6b8c&fibre=polwarth"

VIEWS: tuple[tuple[str, str, dict[str, int], str, tuple[str, ...]], ...] = (
    ("aim", f"/aim?size=9+wpi&grams=230+g&at=3-ply&{_DRAGON}", DESK, "light", ()),
    ("sample", "/designs/9/sample", DESK, "light", ()),
    ("hands", "/hands", DESK, "light", ()),
    ("plan", "/designs/9/plan", DESK, "light", ()),
    ("finish", "/designs/9/finish?over=fibre", DESK, "light", ()),
    ("construct", "/designs/9", DESK, "light", ()),
    ("yarn-core-spun", "/designs/2", DESK, "light", ()),
    ("yarn-cable", "/designs/5", DESK, "light", ("label[data-part='yarn.strands[1]']",)),
    ("fibre", "/fibre", DESK, "light", ()),
    ("project", "/project?size=aran&fibre=lot:two-dragon-braids", DESK, "light", ()),
    ("shelf", "/", DESK, "light", ()),
    ("again", "/designs/10/again", DESK, "light", ()),
    ("compare", "/compare?y=9&y=8", DESK, "dark", ()),
    ("log", "/designs/9/log", TABLET, "light", ()),
    ("practice", "/practice/round?q=angle-t-217&at=0", DESK, "light", (".practised-figure .primary",)),
    ("colour", "/designs/3/colour", DESK, "light", ()),
    ("texture", "/designs/1/texture", DESK, "light", ()),
    ("photo", "/designs/9/photo/1", TABLET, "light", ()),
    (
        "wheel",
        "/designs/9/wheel",
        DESK,
        "light",
        (".stand-begin .primary", "form[action$=spin]:has([name=drift]) .button"),
    ),
)
"""Name, address, size, scheme, and what is clicked before the picture is taken."""


def main() -> None:
    """Take every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with serving(demo=True) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-background-networking", *RELIEF]
        )
        for name, path, size, scheme, clicks in VIEWS:
            page = browser.new_page(viewport=size, color_scheme=scheme, reduced_motion="reduce", locale="en-GB")
            page.goto(address + path, wait_until="networkidle")
            page.evaluate("document.fonts.ready")
            for selector in clicks:
                page.locator(selector).last.dispatch_event("click")
                page.wait_for_load_state()  # a wheel that is watched is never idle
                page.wait_for_timeout(600)
            page.evaluate("document.activeElement.blur()")
            page.wait_for_timeout(DRAWN if page.locator(".stage").count() else 0)
            page.screenshot(path=FOLDER / f"{name}.png")
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
