"""Strands and swatches at addresses by content."""

import html
import re
import zlib
from base64 import b64decode, urlsafe_b64encode

import pytest

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.wool import packed
from pebble_wheel.notation.address import WHOLE
from pebble_wheel.notation.design import finish_of
from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.notation.settings import Settings
from pebble_wheel.web.shared.drawn import strands_address, swatch_address, written_in
from pebble_wheel.workshop.edits import typed_into
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.starts import STARTS, start
from tests.browser.wool import strands_in

THREE = design_of(start("3-ply"), Settings())


@pytest.mark.parametrize("name", STARTS)
def test_an_address_names_the_yarn_and_nothing_else(name):
    design = design_of(start(name), Settings())
    address = strands_address(design)
    assert written_in(address.partition("yarn=")[2]).yarn == design.yarn
    assert address == strands_address(design.model_copy(update={"name": "another name"}))
    assert address != strands_address(design_of(start("2-ply" if name != "2-ply" else "3-ply"), Settings()))


def test_what_is_given_is_the_yarn_and_is_kept_for_good(http):
    answer = http.get(strands_address(THREE))
    made = Evaluator().read(THREE).made
    assert answer.content == packed(made, dress_of(THREE.yarn), finish_of(THREE))
    assert "immutable" in answer.headers["cache-control"]
    assert http.get(strands_address(THREE).replace("/strands/", "/strands/0")).headers["cache-control"] == "no-cache"
    near, far = (strands_in(http.get(f"{strands_address(THREE)}&span={span}").content) for span in ("near", "far"))
    assert far["strands"][0]["x"].max() > 3 * near["strands"][0]["x"].max()


@pytest.mark.parametrize("name", STARTS)
def test_a_yarn_made_for_its_picture_is_the_one_that_is_read(name):
    design = design_of(start(name), Settings())
    alone, read = Evaluator(), Evaluator()
    whole = read.read(design).made
    assert packed(alone.made(design), dress_of(design.yarn), finish_of(design)) == packed(
        whole, dress_of(design.yarn), finish_of(design)
    )
    assert read.made(design) is whole


@pytest.mark.parametrize("screen", ["construct", "aim"])
def test_an_answer_to_a_browser_that_draws_holds_the_strands_of_its_address(http, screen):
    typed = {"draft": write_draft(start("cable-2x3"))} if screen == "construct" else {"at": "3-ply"}
    answer = http.post(f"/{screen}/follow", data={**typed, "relief": "yes"}, headers={"hx-request": "true"})
    given = zlib.decompress(b64decode(re.search(r'data-given="([^"]+)"', answer.text)[1]))
    address = html.unescape(re.search(r'data-strands="([^"]+)"', answer.text)[1])
    ours, theirs = strands_in(given), strands_in(http.get(address).content)
    for own, asked in zip(ours["strands"], theirs["strands"], strict=True):
        for axis in ("x", "y", "z"):  # a size is typed to four digits where an aim was spun to
            assert own[axis] == pytest.approx(asked[axis][: len(own[axis])], abs=0.02 * ours["thick"])
    painted = http.post(f"/{screen}/follow", data=typed, headers={"hx-request": "true"}).text
    assert "data-strands" in painted and "data-given" not in painted


def test_a_yarn_that_cannot_be_made_has_no_picture(http):
    jammed = typed_into(start("3-ply"), WHOLE, {"by": "turns", "twist": "9000 t/m"}, together=False)
    answer = http.get(strands_address(design_of(jammed, Settings())))
    assert answer.status_code == 422


def test_a_swatch_is_wider_once_it_is_washed(http):
    before, after = (strands_in(http.get(swatch_address(THREE, washed)).content) for washed in (False, True))
    assert after["rows"]["wale"] > before["rows"]["wale"]


@pytest.mark.parametrize(
    "yarn",
    [
        "",
        "x",
        "%FF%00",
        urlsafe_b64encode(b"no zlib").decode(),
        urlsafe_b64encode(zlib.compress(b"{}")).decode(),
        urlsafe_b64encode(zlib.compress(b"0" * 50_000_000)).decode(),
        "A" * 60_001,
    ],
)
@pytest.mark.parametrize("where", ["strands", "swatches"])
def test_an_address_that_names_no_yarn_is_refused(http, where, yarn):
    answer = http.get(f"/{where}/0", params={"yarn": yarn})
    assert answer.status_code == 422 and "Traceback" not in answer.text
