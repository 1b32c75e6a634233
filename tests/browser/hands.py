"""What a person without a mouse does."""

import pytest

DESK, TABLET = {"width": 1280, "height": 800}, {"width": 768, "height": 1024}


def press(page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def tab_to(page, selector: str) -> None:
    """Press Tab until the focus is there, as a person without a mouse does."""
    for _ in range(90):
        if page.evaluate("selector => document.activeElement.matches(selector)", selector):
            return
        page.keyboard.press("Tab")
    pytest.fail(f"Tab never reaches {selector}")
