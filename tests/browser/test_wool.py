"""What the wool drawn by the browser measures, read off its pixels: widths, pitch, lean and the hand of fibres.

What is expected comes from the mechanics, and from geometry: a helix on a cylinder leans by ``tan α = 2πRt``; by ISO 2
Z descends to the right where a yarn lies across.
"""

import base64

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from bench.cable import CABLE
from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.wool import packed, packed_swatch
from pebble_wheel.drawing.yarn import thickness
from pebble_wheel.mechanics.strand.state import MadeNest
from pebble_wheel.notation.design import finish_of
from pebble_wheel.notation.draft import Draft, design_of, fresh
from pebble_wheel.notation.settings import Settings
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.web.shared.drawn import strands_address, swatch_address, swatches_of
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.starts import STARTS, start
from tests.browser.wool import strands_in

WIDTH, HEIGHT = 900, 240
EVALUATOR = Evaluator()
RED, GREEN, BLUE, GREY = "#c03020", "#30a040", "#3050c0", "#b0b0b0"

DRAW = """async ([module, url, asked]) => {
  const wool = await import(module);
  if (!wool.ready()) return null;
  window.drawn ??= {};
  window.drawn[url] ??= wool.laid(wool.strandsIn(await (await fetch(url)).arrayBuffer()));
  const canvas = document.createElement("canvas");
  Object.assign(canvas, { width: asked.width, height: asked.height });
  const ink = canvas.getContext("2d", { willReadFrequently: true });
  const view = { turned: 0, bloom: 0, length: 1, thick: 1, wet: 0, held: "", ground: [0, 0, 0], ...asked };
  ink.drawImage(wool.draw(window.drawn[url], view), 0, 0);
  const bytes = ink.getImageData(0, 0, asked.width, asked.height).data;
  let text = "";
  for (let at = 0; at < bytes.length; at += 32768) text += String.fromCharCode(...bytes.subarray(at, at + 32768));
  return btoa(text);
}"""


@pytest.fixture(scope="module")
def wool(relief_browser, server, demo):
    """Return pictures of designs as arrays of shape (height, width, 4), 0 to 1; the browser finds none wrong."""
    page = relief_browser.new_page()
    said: list[str] = []
    page.on("console", lambda message: said.append(message.text) if "INVALID" in message.text else None)
    page.goto(f"{server.turn_to(demo)}/settings")

    def picture(design, scale: float, left: float, far: bool = False, knit: bool = False, **asked) -> np.ndarray:
        view = {"width": WIDTH, "height": HEIGHT, "scale": scale, "left": left, **asked}
        address = swatch_address(design, washed=False) if knit else strands_address(design) + "&span=far" * far
        text = page.evaluate(DRAW, [ASSETS.address("wool.js"), address, view])
        pixels = np.frombuffer(base64.b64decode(text), np.uint8).reshape(view["height"], view["width"], 4)
        assert not said
        return pixels / 255

    yield picture
    page.close()


def coloured(name: str, *colours: str):
    """Return a start with its strands in colours."""
    draft = start(name)
    each = [part for part in draft.yarn.inner for _ in range(int(part.of("count") or 1))]
    worn = tuple(_in(part.with_typed({"count": "1"}), colours[place % len(colours)]) for place, part in enumerate(each))
    return design_of(draft.model_copy(update={"yarn": draft.yarn.model_copy(update={"inner": worn})}), Settings())


def _in(part, colour: str):
    if not part.inner:
        return part.with_typed({"colours": colour})
    return part.model_copy(update={"inner": tuple(_in(each, colour) for each in part.inner)})


def made_of(design):
    return EVALUATOR.read(design).made


def spun(turns: str, direction: str, prep: str = "combed", fibre: str = "corriedale"):
    single = fresh("single", fibre=fibre, prep=prep, size="150 tex", by="turns", twist=turns, direction=direction)
    return design_of(Draft(name="Single", yarn=single), Settings())


def laid(picture: np.ndarray) -> np.ndarray:
    """Return where strands are, and not only what stands off them."""
    return picture[..., 3] > 0.93


def outline_missed(drawn: np.ndarray, yarn: dict, scale: float, left: float, bloom: float, turned: float) -> np.ndarray:
    """Return how far strands drawn reach past the outline of balls as thick along their paths, in pixels.

    At every column the highest and then the lowest place of any strand.
    """
    columns = np.arange(WIDTH) + 0.5
    top, low = np.full(WIDTH, -np.inf), np.full(WIDTH, np.inf)
    for strand in yarn["strands"]:
        grown = 1 + (yarn["kinds"][strand["kind"]]["grown"] - 1) * bloom
        fine = np.linspace(0, strand["samples"] - 1, 8 * strand["samples"])
        x, y, z, r = (np.interp(fine, np.arange(strand["samples"]), strand[each]) * scale for each in "xyzr")
        x, y, r = x - left * scale, np.cos(turned) * y - np.sin(turned) * z, r * grown
        for middle, height, ball in zip(x, y, r, strict=True):
            near = slice(max(0, int(middle - ball)), max(0, int(middle + ball) + 1))
            up = np.sqrt(np.maximum(ball**2 - (columns[near] - middle) ** 2, 0))
            top[near], low[near] = np.maximum(top[near], height + up), np.minimum(low[near], height - up)
    seen = np.flatnonzero(np.isfinite(top) & drawn.any(axis=0))[20:-20]
    assert len(seen) > 0.9 * WIDTH
    above = HEIGHT / 2 - np.argmax(drawn, axis=0)[seen] - top[seen]
    below = low[seen] - np.argmax(drawn[::-1], axis=0)[seen] + HEIGHT / 2
    return np.concatenate([above, below])


@pytest.mark.parametrize("name", STARTS)
@pytest.mark.parametrize("bloom", [0, 1])
@pytest.mark.parametrize("turned", [0.0, 1.1])
def test_the_outline_is_that_of_the_strands_to_a_pixel(wool, name, bloom, turned):
    design = design_of(start(name), Settings())
    yarn = strands_in(packed(made_of(design), dress_of(design.yarn), finish_of(design)))
    scale, left = 0.9 * yarn["table"], yarn["join"][1] + 0.5
    off = outline_missed(laid(wool(design, scale, left, bloom=bloom, turned=turned)), yarn, scale, left, bloom, turned)
    assert abs(np.median(off)) < 0.8
    assert np.mean(np.abs(off) < 1.8) > 0.9, np.percentile(off, [1, 10, 50, 90, 99])


@pytest.mark.parametrize("turned", [0.0, 1.1])
def test_many_strands_keep_their_outline_and_are_fuzzy_along_it_only(wool, turned):
    design = design_of(CABLE, Settings())
    yarn = strands_in(packed(made_of(design), dress_of(design.yarn), finish_of(design)))
    scale, left = 0.9 * yarn["table"], yarn["join"][1] + 0.5
    drawn, moving = (wool(design, scale, left, turned=turned, draft=draft) for draft in (False, True))
    off = outline_missed(laid(drawn), yarn, scale, left, 0, turned)
    assert np.mean(np.abs(off) < 1) > 0.99, np.percentile(off, [1, 10, 50, 90, 99])
    fuzz = [np.count_nonzero((each[..., 3] > 0.05) & ~laid(each), axis=0) for each in (drawn, moving)]
    assert np.mean(fuzz[0] > 0) > 0.5 and not np.any(fuzz[1])


def test_of_many_strands_those_in_front_show_their_fibres(wool):
    """Plain light, which strands deep inside have, draws none; the median, since few places are at an edge."""
    design = design_of(CABLE, Settings())
    yarn = strands_in(packed(made_of(design), dress_of(design.yarn), finish_of(design)))
    scale = 0.9 * yarn["table"]
    light = wool(design, scale, yarn["join"][1] + 0.5)[..., 1]
    middle = light[np.abs(np.arange(HEIGHT) - HEIGHT / 2) < 0.15 * yarn["thick"] * scale]
    assert np.median(np.abs(middle - gaussian_filter(middle, 1))) > 0.025  # 0.018 where all are lit plainly


def test_loops_cover_what_balls_along_their_paths_do(wool):
    """Legs of loops bend along the yarn, and not only across it."""
    design, scale, left = design_of(start("2-ply"), Settings()), 12.0, 8.0
    reading = EVALUATOR.read(design)
    cloth = swatches_of(reading)[0]
    yarn = strands_in(packed_swatch(reading.made, dress_of(design.yarn), finish_of(design), cloth))
    across, down = np.arange(WIDTH) + 0.5, np.arange(HEIGHT) + 0.5
    covered = np.zeros((HEIGHT, WIDTH), bool)
    for strand in yarn["strands"]:
        fine = np.linspace(0, strand["samples"] - 1, 4 * strand["samples"])
        x, y, r = (np.interp(fine, np.arange(strand["samples"]), strand[each]) * scale for each in "xyr")
        for row in range(yarn["rows"]["count"]):
            middle = HEIGHT / 2 - y - (row - (yarn["rows"]["count"] - 1) / 2) * yarn["rows"]["apart"] * scale
            for over, low, ball in zip(x - left * scale, middle, r, strict=True):
                if -ball < over < WIDTH + ball and -ball < low < HEIGHT + ball:
                    left_of, above = (max(0, int(each - ball)) for each in (over, low))
                    near = slice(above, int(low + ball) + 2), slice(left_of, int(over + ball) + 2)
                    covered[near] |= (down[near[0], None] - low) ** 2 + (across[near[1]] - over) ** 2 < ball**2
    drawn = laid(wool(design, scale, left, knit=True))
    assert covered.mean() > 0.25 and np.mean(drawn != covered) < 0.004  # 0.005 where only bends across are looked at


@pytest.mark.parametrize("name", ["single", "2-ply", "3-ply", "4-ply", "core-spun"])
def test_strands_are_as_thick_and_lie_as_far_out_as_the_mechanics_has_them(name):
    """On the mean: thick and thin by a few percent."""
    design = design_of(start(name), Settings())
    made = made_of(design)
    yarn = strands_in(packed(made, dress_of(design.yarn), finish_of(design)))
    for strand in yarn["strands"]:
        met = strand["x"] > yarn["join"][1] if isinstance(made, MadeNest) else strand["x"] > 0
        wound = yarn["kinds"][strand["kind"]]["wound"]
        if not met.any():
            assert name == "core-spun" and not wound  # a core ends where its cover begins
            continue
        seat = made.state.seats[0] if isinstance(made, MadeNest) and not wound else None
        state = seat.state if seat else made.state
        assert 2 * strand["r"][met].mean() == pytest.approx(float(state.diameter), rel=0.01)
        assert 0.005 < strand["r"][met].std() / strand["r"][met].mean() < 0.04
        away = np.hypot(strand["y"], strand["z"])[met]
        assert away.max() == pytest.approx(float(seat.radius) if seat else 0, rel=0.01, abs=2 * yarn["unit"])


PLIED = ["2-ply", "3-ply", "4-ply"]


@pytest.mark.parametrize("name", [*PLIED, "cable-2x2", "cable-2x3"])
def test_strands_pass_the_middle_at_the_pitch_that_the_twist_says(wool, name):
    design = coloured(name, RED, GREEN, BLUE, GREY)
    made = made_of(design)
    join = strands_in(packed(made, dress_of(design.yarn), finish_of(design)))["join"][1]
    twist = abs(float(made.state.twist_now)) / 1000
    scale = WIDTH * twist / 8
    row = wool(design, scale, join + 0.3, far=True)[HEIGHT // 2, :, :3]
    row = (row - row.mean(axis=0)) * np.hanning(WIDTH)[:, None]
    spectrum = (np.abs(np.fft.rfft(row, 16 * WIDTH, axis=0)) ** 2).sum(axis=1)
    turns = np.fft.rfftfreq(16 * WIDTH) * scale / twist
    strands = sum(seat.count for seat in made.state.seats)
    peak = turns[np.argmax(np.where(turns > 0.5, spectrum, 0))]
    assert min(abs(peak - 1), abs(peak / strands - 1)) < 0.03


@pytest.mark.parametrize("name", [*PLIED, "cable-2x2", "cable-2x3"])
def test_strands_lean_as_s_and_z_do_by_their_angle(wool, name):
    """How far the colours have moved between a row above the middle and one below; Z descends to the right (ISO 2)."""
    design = coloured(name, RED, GREEN, BLUE, GREY)
    made = made_of(design)
    yarn = strands_in(packed(made, dress_of(design.yarn), finish_of(design)))
    scale = 0.8 * yarn["table"]
    hue = wool(design, scale, yarn["join"][1] + 0.3)[..., :3]
    away = max(2, round(0.07 * thickness(made) * scale))
    above, below = (hue[HEIGHT // 2 + dy - 1 : HEIGHT // 2 + dy + 2].mean(axis=0) for dy in (-away, away))
    above, below = above - above.mean(axis=0), below - below.mean(axis=0)
    shifts = np.arange(-50, 51)
    alike = [np.sum(above[50:-50] * np.roll(below, -shift, axis=0)[50:-50]) for shift in shifts]
    shift = shifts[int(np.argmax(alike))]
    assert np.sign(shift) == np.sign(float(made.state.twist_now))
    if name in PLIED[1:]:  # of two, edges cross the middle, which lean less than their strands
        lean = np.degrees(np.arctan2(2 * away, abs(shift)))
        assert lean == pytest.approx(np.degrees(abs(float(made.state.angle))), abs=4.0)


FINE = 1.0
"""Pixels over which slopes are taken, alike in every direction; plain differences make what is level look steeper."""


def fibre_lean(picture: np.ndarray, box: tuple[slice, slice]) -> float:
    """Return how fibres lie in a box, degrees falling to the right: by the structure tensor of its brightness."""
    grey = picture[..., :3].mean(axis=-1)
    dy, dx = (gaussian_filter(grey, FINE, order)[box] for order in ((1, 0), (0, 1)))
    dy = dy - dy.mean(axis=1, keepdims=True)
    return float(np.degrees(0.5 * np.arctan2(2 * (dx * dy).mean(), (dx**2 - dy**2).mean()) + np.pi / 2) + 90) % 180 - 90


@pytest.mark.parametrize("prep", ["combed", "carded"])
@pytest.mark.parametrize("bloom", [0, 1])
@pytest.mark.parametrize(("turns", "direction"), [("250 t/m", "Z"), ("250 t/m", "S"), ("500 t/m", "S")])
def test_fibres_lie_at_their_surface_angle(wool, prep, bloom, turns, direction):
    """``tan α = π d t`` of a single, steeper as it is washed thicker; the mean of the fibres in the middle of it."""
    design = spun(turns, direction, prep)
    made = made_of(design)
    yarn = strands_in(packed(made, dress_of(design.yarn), finish_of(design)))
    scale = 95 / float(made.state.diameter)
    found = fibre_lean(
        wool(design, scale, 0.5, bloom=bloom), (slice(HEIGHT // 2 - 12, HEIGHT // 2 + 13), slice(40, -40))
    )
    grown = 1 + (yarn["kinds"][0]["grown"] - 1) * bloom
    expected = np.degrees(np.arctan(np.tan(float(made.state.angle)) * grown))
    assert found == pytest.approx(expected, abs=4.0)


@pytest.mark.parametrize("name", ["2-ply", "3-ply", "4-ply"])
def test_fibres_in_a_ply_lie_by_their_own_hand(wool, name):
    """In the middle of a strand that faces the eye, a fibre leans by the strand's lean and, the other way, its own."""
    design = design_of(start(name), Settings())
    made = made_of(design)
    assert isinstance(made, MadeNest)
    yarn = strands_in(packed(made, dress_of(design.yarn), finish_of(design)))
    scale, left = 1.7 * yarn["table"], yarn["join"][1] + 0.5
    picture = wool(design, scale, left)
    found = []
    for strand in yarn["strands"]:
        front = np.flatnonzero((np.diff(np.sign(strand["y"])) != 0) & (strand["z"][:-1] > 0))
        for at in front:
            x = round((strand["x"][at] - left) * scale)
            half = round(0.35 * strand["r"][at] * scale)
            if 60 < x < WIDTH - 60:
                found.append(
                    fibre_lean(picture, (slice(HEIGHT // 2 - half, HEIGHT // 2 + half), slice(x - half, x + half)))
                )
    seat = made.state.seats[0]
    expected = np.degrees(float(seat.angle) + float(seat.state.angle))
    assert len(found) >= 2
    assert np.median(found) == pytest.approx(expected, abs=5.0)


def test_a_washed_yarn_is_fuzzier_and_its_grooves_are_paler(wool):
    design = design_of(start("3-ply"), Settings())
    yarn = strands_in(packed(made_of(design), dress_of(design.yarn), finish_of(design)))
    scale, left = yarn["table"], yarn["join"][1] + 0.3
    plied, washed = (wool(design, scale, left, bloom=bloom) for bloom in (0, 1))
    fuzz = [np.count_nonzero((each[..., 3] > 0.05) & ~laid(each)) for each in (plied, washed)]
    assert fuzz[1] > 1.5 * fuzz[0]
    dark = [np.mean(each[..., :3].mean(axis=-1)[laid(each)] < 0.3) for each in (plied, washed)]
    assert dark[1] < dark[0]


def test_carded_stands_off_more_than_combed_and_a_wet_yarn_less_than_a_dry_one(wool):
    fuzz = {}
    for prep, wet in (("combed", 0), ("carded", 0), ("carded", 1)):
        drawn = wool(spun("250 t/m", "Z", prep), 95, 0.5, bloom=1, wet=wet)
        fuzz[prep, wet] = np.count_nonzero((drawn[..., 3] > 0.05) & ~laid(drawn))
    assert fuzz["carded", 0] > 1.3 * fuzz["combed", 0] and fuzz["carded", 1] < 0.8 * fuzz["carded", 0]


def test_the_part_in_hand_is_lifted_out_of_the_rest(wool):
    design = coloured("3-ply", RED, GREEN, BLUE)
    yarn = strands_in(packed(made_of(design), dress_of(design.yarn), finish_of(design)))
    scale, left = yarn["table"], yarn["join"][1] + 0.3

    def reddish(**asked) -> int:
        drawn = wool(design, scale, left, **asked)
        return int(np.count_nonzero((drawn[..., 0] - drawn[..., 1:3].max(axis=-1) > 0.15) & laid(drawn)))

    own = next(strand["part"] for strand in yarn["strands"] if strand["colours"][0] == RED)
    other = next(strand["part"] for strand in yarn["strands"] if strand["colours"][0] == BLUE)
    assert reddish(held=own) > 1.2 * reddish() and reddish(held=other) < 0.2 * reddish()


def test_half_a_turn_shows_the_other_strand(wool):
    design = coloured("2-ply", RED, BLUE)
    yarn = strands_in(packed(made_of(design), dress_of(design.yarn), finish_of(design)))
    scale, left = yarn["table"], yarn["join"][1] + 0.3
    whole, half = (wool(design, scale, left, turned=turned) for turned in (0.0, np.pi))
    middle = HEIGHT // 2
    red, blue = (each[middle, :, 0] - each[middle, :, 2] for each in (whole, half))
    assert np.corrcoef(red, blue)[0, 1] < -0.7
