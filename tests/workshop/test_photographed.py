"""What marks in a photo come to, worked by hand and by simulated pointing; and what looking finds as marks."""

import math
from dataclasses import replace

import numpy as np
import pytest

from pebble_wheel.drawing.camera import Scene, photo_of
from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.marked import marks_svg
from pebble_wheel.mechanics.photo.geometry import centre_angle
from pebble_wheel.notation.design import new_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.marks import MARK_FIELDS, read_marks, starting_marks
from pebble_wheel.notation.picture import written
from pebble_wheel.notation.settings import Settings
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.photo import REFUSED_WORDS, photo_lines, photo_words
from pebble_wheel.workshop import photographed
from pebble_wheel.workshop.photographed import Figures, figures_of, look, seen, strands_in, together
from tests.mechanics.photo.test_measure import EVALUATOR, yarn

PLAIN, DISPLAY = Settings(), Display()
TYPED = {
    **{"ax": "100", "ay": "500", "bx": "500", "by": "500", "apart": "20 mm"},
    **{"px": "0", "py": "200", "qx": "900", "qy": "200", "up": "-20", "down": "20"},
    **{"from": "100", "to": "600", "bumps": "10", "way": "S"},
}
FIBRE = {"lx": "440", "ly": "180", "mx": "460", "my": "200", "way": ""}


def test_marks_come_to_turns_widths_and_angles():
    """20 pixels a mm; ten bumps of three strands in 25 mm are 133.3 t/m; 2 mm wide, 2.2 over all."""
    found = figures_of(read_marks(TYPED, PLAIN), 3)
    assert found.px_per_mm.value == pytest.approx(20) and found.turns.value == pytest.approx(400 / 3)
    assert found.apparent.value == pytest.approx(2.0) and found.enveloping.value == pytest.approx(2.2)
    assert found.centre.value == pytest.approx(math.degrees(float(centre_angle(400 / 3, 2.2, 3)))) and found.way == "S"
    assert found.surface.value == pytest.approx(math.degrees(math.atan(math.pi * 2.2 * 0.4 / 3)))
    assert found.turns.off / found.turns.value == pytest.approx(math.hypot(2**0.5 / 500, 2**0.5 / 400))
    lines = dict(photo_lines(found, 3, DISPLAY))
    assert lines["Turns"].startswith("133 t/m ± 0.5 %, S") and "Angle on its outside" in lines
    assert photo_words(found, DISPLAY).startswith("133 t/m S, 2.00 mm")


def test_a_fibre_of_a_single_says_its_turns_and_its_way():
    """45° on 2 mm: πd in a turn, 159 t/m; down to the right is Z, and a line drawn aslant changes nothing."""
    found = figures_of(read_marks(TYPED | FIBRE, PLAIN), 1)
    assert found.turns.value == pytest.approx(1000 / (math.pi * 2)) and found.way == "Z"
    assert found.centre.value == pytest.approx(45) and found.enveloping.value == found.apparent.value
    up = TYPED | {"lx": "440", "ly": "200", "mx": "460", "my": "180", "way": ""}
    assert figures_of(read_marks(up, PLAIN), 1).way == "S"
    cos, sin = math.cos(0.3), math.sin(0.3)

    def turned(x, y):
        return f"{x * cos - y * sin:.6f}", f"{x * sin + y * cos:.6f}"

    names = [("px", "py"), ("qx", "qy"), ("lx", "ly"), ("mx", "my"), ("ax", "ay"), ("bx", "by")]
    flat = TYPED | FIBRE
    slanted = flat | {
        name: told for x, y in names for name, told in zip((x, y), turned(float(flat[x]), float(flat[y])), strict=True)
    }
    assert figures_of(read_marks(slanted, PLAIN), 1).turns.value == pytest.approx(found.turns.value, rel=1e-4)


def test_what_is_not_marked_is_not_told():
    assert figures_of(read_marks({}, PLAIN), 3) == Figures()
    scaled = figures_of(read_marks({name: TYPED[name] for name in ("ax", "ay", "bx", "by", "apart")}, PLAIN), 3)
    assert scaled.px_per_mm.value == pytest.approx(20) and scaled.turns is None and scaled.apparent is None
    assert photo_lines(Figures(), 3, DISPLAY) == [] and "scale first" in photo_words(Figures(), DISPLAY)


def test_pointing_a_pixel_off_is_as_far_off_as_is_told():
    """Two hundred simulated hands set every mark of a drawn photo to within a pixel."""
    dice = np.random.default_rng(4)
    told = []
    for _ in range(200):
        moved = {
            name: f"{float(TYPED[name]) + dice.normal(0, 1):.3f}"
            for name in TYPED
            if name not in ("apart", "bumps", "way")
        }
        told.append(figures_of(read_marks(TYPED | moved, PLAIN), 3))
    plain = figures_of(read_marks(TYPED, PLAIN), 3)
    for name in ("px_per_mm", "turns", "apparent"):
        spread = np.std([getattr(each, name).value for each in told])
        assert spread == pytest.approx(getattr(plain, name).off, rel=0.15), name
    assert np.std([each.turns.value for each in told]) / plain.turns.value < 0.01


def test_several_photos_are_put_together_by_their_middle():
    figures = figures_of(read_marks(TYPED, PLAIN), 3)
    others = [replace(figures, turns=replace(figures.turns, value=each)) for each in (120.0, 130.0, 500.0)]
    middle = together(others)
    assert middle.turns.value == 130.0 and middle.turns.off == pytest.approx(np.std([120, 130, 500], ddof=1) / 3**0.5)
    assert middle.apparent.value == figures.apparent.value and middle.way == "S"
    assert together([figures, replace(figures, way="Z")]).way == "" and together([Figures()]).turns is None


@pytest.fixture(scope="module")
def photo():
    design = yarn(3, 100, 220, ("#31507a", "#7a2f3c", "#4a3a2d"), "Z", 1.0, "combed")
    pixels, truth = photo_of(EVALUATOR.made(design), dress_of(design.yarn), Scene(24.0, 5, 800, 520, tilt=0.05))
    return written(pixels), truth


def test_what_looking_finds_are_marks_that_come_to_the_truth(photo):
    data, truth = photo
    found = seen(data, 3)
    assert not found.refused and set(found.typed) <= set(MARK_FIELDS)
    figures = figures_of(read_marks({**MARK_FIELDS, **found.typed}, PLAIN), 3)
    assert figures.turns.value == pytest.approx(abs(truth.turns_per_m), rel=0.02) and figures.way == "S"
    assert figures.apparent.value == pytest.approx(truth.apparent, rel=0.06)
    along = [[0.0, 208.0 - 400 * math.tan(0.05)], [800.0, 208.0 + 400 * math.tan(0.05)]]
    by_line = figures_of(read_marks({**MARK_FIELDS, **seen(data, 3, along).typed}, PLAIN), 3)
    assert by_line.turns.value == pytest.approx(figures.turns.value, rel=0.01)


def test_looking_goes_on_in_a_process_of_its_own_and_is_ended_when_it_takes_too_long(photo, monkeypatch):
    assert look(photo[0], 3).typed == seen(photo[0], 3).typed
    assert look(b"no picture", 3).refused == ("no-yarn",)
    monkeypatch.setattr(photographed, "LONGEST", 0.01)
    assert look(photo[0], 3).refused == (photographed.TOO_LONG,)
    assert all(REFUSED_WORDS[each] for each in (photographed.TOO_LONG, "no-yarn"))


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        ({"ax": "much"}, "ax"),
        ({"apart": "0 mm"}, "apart"),
        ({"bumps": "0"}, "bumps"),
        ({"way": "X"}, "way"),
        ({"up": "1e9"}, "up"),
    ],
)
def test_what_cannot_be_read_stands_at_its_field(typed, place):
    with pytest.raises(InputError) as caught:
        read_marks(TYPED | typed, PLAIN)
    assert [each.place for each in caught.value.faults] == [place]


@pytest.mark.parametrize("strands", [1, 3])
def test_marks_begin_in_the_picture_with_a_handle_each(strands):
    typed = starting_marks(800, 500, strands)
    svg = marks_svg(read_marks(typed, PLAIN), 800, 500, "marks")
    fields = [name for name in ("ax", "bx", "px", "qx", "lx", "mx") if f'data-x="{name}"' in svg]
    assert fields == (["ax", "bx", "px", "qx", "lx", "mx"] if strands == 1 else ["ax", "bx", "px", "qx"])
    assert svg.count("data-across") == 2 and svg.count("data-along") == (0 if strands == 1 else 2)
    assert "mark-handle" not in marks_svg(read_marks(typed, PLAIN), 800, 500, "marks", dragged=False)


def test_bumps_are_strands_of_the_last_step():
    chain = {
        "kind": "chain",
        "strand": yarn(1, 100, 220, ("#aa0000",), "Z", 1.0, "combed").yarn.model_dump(exclude_none=True),
        "loop_mm": 150,
    }
    assert strands_in(yarn(4, 100, 220, ("#aa0000",), "Z", 1.0, "combed").yarn) == 4
    told = new_design("Chain", chain | {"twist": {"of_balanced": 1.0, "direction": "S"}})
    assert strands_in(told.yarn) == 3 and strands_in(told.yarn.strand) == 1
