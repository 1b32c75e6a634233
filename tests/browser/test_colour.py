"""Colours in a real browser: fractal at one touch, seen close where one points, bands dragged, colours off a photo."""

import struct
import zlib

import pytest
from playwright.sync_api import expect

from tests.browser.hands import DESK, TABLET, heights, open_at_size, see_nothing_in_the_way


@pytest.fixture
def scarf(page, demo_address):
    page.goto(f"{demo_address}/designs/3/colour", wait_until="load")
    return page


def test_a_fractal_is_one_touch_and_a_key(page, demo_address):
    page.goto(f"{demo_address}/designs/9/colour", wait_until="load")
    page.get_by_role("button", name="fractal").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#split-2")).to_contain_text("in 9 strips")
    expect(page.locator("#told")).to_contain_text("barber pole")
    page.focus("#stitches")
    page.keyboard.press("ArrowUp")
    expect(page.locator("#stitches")).not_to_have_value("44")
    expect(page.locator("#said")).to_have_text("not yet kept")


def test_the_yarn_is_seen_close_where_one_points(scarf):
    before = scarf.locator("#picture svg").get_attribute("data-strands")
    box = scarf.locator("#strip svg").bounding_box()
    scarf.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.9)
    expect(scarf.locator("#picture svg")).not_to_have_attribute("data-strands", before)
    assert float(scarf.locator("#at-share").input_value()) > 0.8
    scarf.focus("#at-share")
    scarf.keyboard.press("Home")
    expect(scarf.locator("#at")).to_have_value("0.000 m")


def photo(path):
    """A picture of three bands, red, green and blue, each 100 pixels wide."""
    row = b"\0" + b"".join(bytes(each) * 100 for each in ((200, 30, 30), (30, 160, 40), (30, 40, 200)))
    head = struct.pack(">IIBBBBB", 300, 60, 8, 2, 0, 0, 0)

    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(row * 60)) + chunk(b"IEND", b"")
    )
    return str(path)


def test_colours_are_picked_off_a_photo_and_bands_dragged(page, address, tmp_path):
    page.goto(f"{address}/fibre", wait_until="load")
    page.set_input_files("#braid-photo", photo(tmp_path / "braid.png"))
    canvas = page.locator("#photo")
    expect(canvas).to_be_visible()
    for share in (1 / 6, 1 / 2, 5 / 6):
        box = canvas.bounding_box()
        page.mouse.click(box["x"] + box["width"] * share, box["y"] + box["height"] / 2)
    expect(page.locator("#colours")).to_have_value("#c81e1e #1ea028 #1e28c8")
    expect(page.locator("#lengths")).to_have_value("100 100 100")
    end = page.locator("#braid [data-band='0']")
    expect(end).to_be_attached()
    place, whole = end.bounding_box(), page.locator("#braid svg").bounding_box()
    x, y = place["x"] + place["width"] / 2, place["y"] + place["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + whole["width"] / 6, y, steps=4)
    page.mouse.up()
    lengths = [float(each) for each in page.input_value("#lengths").split()]
    assert lengths[0] == pytest.approx(150, abs=4) and lengths[1] == pytest.approx(50, abs=4) and lengths[2] == 100
    page.fill("#name", "Off a photo")
    page.get_by_role("button", name="Put it on the shelf").click()
    expect(page.locator(".lot-card")).to_contain_text("Off a photo")


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
def test_what_is_pressed_is_large_and_nothing_runs_over(page, demo_address, size):
    open_at_size(page, f"{demo_address}/designs/3/colour", size)
    assert min(heights(page, "#colour .button, #colour select, #colour input[type=text], #colour .choice span")) >= 40
    assert page.evaluate("document.documentElement.scrollWidth") <= size["width"]


def test_axe_finds_nothing(page, demo_address):
    see_nothing_in_the_way(page, f"{demo_address}/designs/3/colour")
    see_nothing_in_the_way(page, f"{demo_address}/fibre")
