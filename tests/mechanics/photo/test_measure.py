"""What looking finds in simulated photos, against what the camera drew; and in pictures in which there is nothing.

The camera knows nothing of how photos are measured. Asked of accepted photos (assumed, after a trial):
turns within 3 % (middle) and 8 % (nine of ten), angle 1° and 4°, outline 4 % and 12 %, nothing off by a quarter.
"""

import math

import numpy as np
import pytest

from pebble_wheel.drawing.camera import Scene, photo_of
from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.mechanics.photo.geometry import centre_angle, surface_angle
from pebble_wheel.mechanics.photo.measure import measure
from pebble_wheel.mechanics.photo.scale import scale_in
from pebble_wheel.mechanics.photo.seen import line_in
from pebble_wheel.notation.design import new_design
from pebble_wheel.workshop.evaluator import Evaluator

EVALUATOR = Evaluator()
LIGHT, DARK = ("#c9b48f", "#e8dcc0", "#d8d0c0"), ("#31507a", "#7a2f3c", "#4a3a2d")


def yarn(strands, tex, turns, colours, way, multiple, prep):
    def single(place):
        twist = {"turns_per_m": turns, "direction": way}
        colour = colours[place % len(colours)]
        spun = {"kind": "single", "fibre": "corriedale", "prep": prep, "tex": tex, "twist": twist}
        return {**spun, "colours": [colour]}

    if strands == 1:
        return new_design("Single", single(0))
    plied = {"of_balanced": multiple, "direction": "S" if way == "Z" else "Z"}
    return new_design("Ply", {"kind": "ply", "strands": [single(each) for each in range(strands)], "twist": plied})


def drawn(seed):
    """A photo by chance: strands, its truth, and whether it is a good one."""
    dice = np.random.default_rng(7000 + seed)
    strands, tex = int(dice.integers(1, 5)), float(dice.choice([60, 100, 150, 250]))
    turns = float(np.sqrt(100 / tex) * dice.uniform(170, 280))
    on_light = bool(dice.random() < 0.5)
    colours = [(DARK if on_light else LIGHT)[int(each)] for each in dice.integers(0, 3, int(dice.integers(1, 3)))]
    design = yarn(
        strands, tex, turns, colours, str(dice.choice(["S", "Z"])), float(dice.uniform(0.7, 1.3)),
        str(dice.choice(["combed", "carded"])),
    )  # fmt: skip
    made = EVALUATOR.made(design)
    good = bool(dice.random() < 0.7)
    per_strand = float(dice.uniform(11 if good else 5, 22))
    thick = float(made.state.diameter) / (1 if strands == 1 else 2)
    scene = Scene(
        float(np.clip(per_strand / thick, 10, 60)), seed + 1, 760, 500,
        "plain" if good else str(dice.choice(["cloth", "wood"])),
        float(dice.uniform(0.85, 0.97) if on_light else dice.uniform(0.06, 0.2)),
        str(dice.choice(["ruler", "square"])), float(dice.uniform(-0.2, 0.2)),
        float(dice.choice([0.0, dice.uniform(0.02, 0.08 if good else 0.4)])), float(dice.uniform(0.4, 0.9)),
        float(dice.uniform(0.05, 0.3)), float(dice.uniform(0.4, 1.5)), float(dice.uniform(0.004, 0.02)),
        float(dice.uniform(0.1, 0.6)),
    )  # fmt: skip
    pixels, truth = photo_of(made, dress_of(design.yarn), scene)
    return strands, pixels.astype(float), truth, good


def off(values, share):
    return float(np.percentile(np.abs(values), share))


def turns_and_their_way_are_found_or_refused(looked):
    told = [(found.turns, truth, good) for _, found, _, truth, good in looked if found.turns]
    errors = [turns.per_px * truth.px_per_mm * 1000 / truth.turns_per_m - 1 for turns, truth, _ in told]
    assert all(each > -1 for each in errors), "a way of turning that was accepted is right"
    assert off(errors, 100) < 0.25
    fine = [each for each, (*_, good) in zip(errors, told, strict=True) if good]
    assert off(fine, 50) < 0.03 and off(fine, 90) < 0.08
    good = [found.turns is not None for *_, found, _, _, fine in looked if fine]
    assert np.mean(good) >= 0.75 and len(errors) > 0.6 * len(looked)


def outlines_are_found_or_refused(looked):
    told = [(found.widths, truth, good) for _, found, _, truth, good in looked if found.widths]
    errors = [widths.apparent / truth.px_per_mm / truth.apparent - 1 for widths, truth, _ in told]
    around = [widths.enveloping / truth.px_per_mm / truth.enveloping - 1 for widths, truth, _ in told]
    assert off(errors, 100) < 0.25 and off(around, 100) < 0.25
    for own in (errors, around):
        fine = [each for each, (*_, good) in zip(own, told, strict=True) if good]
        assert off(fine, 50) < 0.04 and off(fine, 90) < 0.12
    assert np.mean([found.widths is not None for *_, found, _, _, fine in looked if fine]) >= 0.75


def angles_are_found(looked):
    errors = []
    for strands, found, _, truth, _ in looked:
        angle = found.angle(strands)
        if angle is None:
            continue
        true = surface_angle(truth.turns_per_m, truth.apparent)
        if strands > 1:
            true = centre_angle(truth.turns_per_m, truth.enveloping, strands)
        errors.append(math.degrees(angle - float(true)))
    assert off(errors, 50) < 1.0 and off(errors, 90) < 4.0


def the_scale_is_found_by_ruler_and_by_square(looked):
    errors = {by: [] for by in ("ruler", "square")}
    for _, _, scale, truth, _ in looked:
        if scale:
            errors[scale.by].append(scale.px_per_mm / truth.px_per_mm - 1)
            (ax, ay), (bx, by) = scale.ends
            assert math.dist((ax, ay), (bx, by)) == pytest.approx(scale.apart * scale.px_per_mm, rel=1e-6)
    for own in errors.values():
        assert len(own) > 1 and off(own, 50) < 0.006 and off(own, 100) < 0.02


def test_photos_are_measured_or_refused(pytestconfig):
    """A few photos, all hundred in the long run; taken once for all that is asked of them."""
    many = 100 if pytestconfig.getoption("--hypothesis-profile") == "long" else 16
    found = []
    for seed in range(many):
        strands, pixels, truth, good = drawn(seed)
        found.append((strands, measure(pixels, strands), scale_in(pixels.mean(axis=2)), truth, good))
    turns_and_their_way_are_found_or_refused(found)
    outlines_are_found_or_refused(found)
    angles_are_found(found)
    the_scale_is_found_by_ruler_and_by_square(found)


def test_where_there_is_nothing_nothing_is_told():
    dice = np.random.default_rng(5)
    for picture in (
        np.full((300, 400, 3), 200.0),
        dice.uniform(0, 255, (300, 400, 3)),
        np.linspace(0, 255, 400)[None, :, None] * np.ones((300, 1, 3)),
        200 + 3 * dice.normal(0, 1, (160, 160, 3)),
    ):
        found = measure(picture, 3)
        assert found.turns is None and found.refused
        assert scale_in(picture.mean(axis=2)) is None


def test_a_line_is_found_where_it_lies_and_a_mirror_turns_the_way():
    strands, pixels, truth, _ = drawn(1)
    line = line_in(pixels)
    assert line.tilt == pytest.approx(truth.tilt, abs=math.radians(0.6))
    one, other, upside = (measure(each, strands) for each in (pixels, pixels[:, ::-1], pixels[::-1, ::-1]))
    assert one.turns.per_px == pytest.approx(-other.turns.per_px, rel=0.02)
    assert one.turns.per_px == pytest.approx(upside.turns.per_px, rel=0.02)
    assert one.angle(strands) == pytest.approx(-other.angle(strands), rel=0.03)


def test_a_yarn_too_small_or_hidden_in_its_halo_is_refused():
    design = yarn(3, 100, 220, ("#c9b48f",), "Z", 1.0, "combed")
    made = EVALUATOR.made(design)
    far, _ = photo_of(made, dress_of(design.yarn), Scene(4.0, 1, 600, 400, mark="none"))
    assert measure(far.astype(float), 3).turns is None
    hairy, truth = photo_of(made, dress_of(design.yarn), Scene(20.0, 2, 600, 400, shade=0.08, halo=0.9))
    seen = measure(hairy.astype(float), 3)
    assert seen.widths is None or abs(seen.widths.apparent / 20.0 / truth.apparent - 1) < 0.25


def test_a_cable_and_a_chain_are_told_by_their_last_step():
    """A 2 × 2 cable's bumps are those of its two plies, a chain's those of its three legs."""
    ply = yarn(2, 100, 200, ("#31507a",), "Z", 1.8, "combed").yarn.model_dump(exclude_none=True)
    laid = {"of_balanced": 1.0, "direction": "Z"}
    single = yarn(1, 100, 200, ("#31507a",), "Z", 1.0, "combed").yarn.model_dump(exclude_none=True)
    chained = {"kind": "chain", "strand": single, "loop_mm": 150, "twist": {"of_balanced": 1.0, "direction": "S"}}
    for told, strands in (({"kind": "ply", "strands": [{**ply, "count": 2}], "twist": laid}, 2), (chained, 3)):
        design = new_design("Nested", told)
        pixels, truth = photo_of(EVALUATOR.made(design), dress_of(design.yarn), Scene(18.0, 1, 900, 600, shade=0.92))
        found = measure(pixels.astype(float), strands)
        assert found.turns.per_px * 18_000 == pytest.approx(truth.turns_per_m, rel=0.02)
        assert found.widths.enveloping / 18 == pytest.approx(truth.enveloping, rel=0.06)
