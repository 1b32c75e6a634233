"""Colour from the lots to the yarn and its cloth: metres of a colour, fractals, chains that mix, rows that it holds."""

from dataclasses import replace

import numpy as np
import pytest

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.colour import oklab
from pebble_wheel.mechanics.colour.bands import Bands
from pebble_wheel.mechanics.finish.knit import Knit
from pebble_wheel.notation.aim import read_aim, weights_of
from pebble_wheel.notation.colour import read_colours, seen_by
from pebble_wheel.notation.colouring import Prepared, read_colouring
from pebble_wheel.notation.design import new_design
from pebble_wheel.notation.lot import read_lot
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.texture import Row, Texture
from pebble_wheel.wording.colour import chain_words, cloth_words, mud_words, runs_words
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.aim import candidates
from pebble_wheel.workshop.colour import (
    Carried,
    Palette,
    bands_of_lot,
    beside_design,
    carried_beside,
    colours_of_lot,
    figures_of,
    hexes,
    knit_of,
    next_begins,
    own_bands,
    paint,
    prepared,
    weave_of,
)
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.gestures import SECTIONS, sections_of
from pebble_wheel.workshop.running import run_along, run_of, strands_of
from pebble_wheel.workshop.sequence import read_along

EVALUATOR, PLAIN, DISPLAY = Evaluator(), Settings(), Display()
FIVE = ("#c03030", "#d9b23f", "#3f8f6b", "#31507a", "#7a3f8f")
SPUN = {
    "kind": "single",
    "fibre": "corriedale",
    "prep": "combed",
    "tex": 80,
    "twist": {"turns_per_m": 260, "direction": "Z"},
}
SINGLE = new_design("Single", SPUN)
THREAD = {"kind": "bought", "tex": 70, "twist": {"turns_per_m": 350, "direction": "S"}}


def lot(**typed):
    return read_lot({"name": "Braid", "fibres": "corriedale", "colours": " ".join(FIVE), **typed}, PLAIN, "braid")


def five(grams=120.0):
    return bands_of_lot(lot(), {each: place for place, each in enumerate(FIVE)}).of(grams)


def beside(kind, grams=120.0, colours=FIVE):
    design = beside_design(kind, SINGLE.yarn, SINGLE.finish)
    told = bands_of_lot(lot(colours=" ".join(colours)), {each: place for place, each in enumerate(colours)}).of(grams)
    return paint(
        run_of(EVALUATOR.made(design), design.yarn),
        carried_beside(kind, design, told, 0.0, 0),
        Palette(tuple(colours)),
        None,
    )


def test_five_colours_in_a_chain_are_ninety_metres_of_each():
    """120 g of five colours at 80 tex: 24 g each are 300 m of single; of 3.3 to one 91 m of chain.

    Its single untwists as it is chained, and so grows longer by 4 %: 3.1 to one, as it was spun.
    """
    assert 1_000_000 * five().lengths[0] / 80 == pytest.approx(300_000)
    chain = beside("chain")
    figures = figures_of(chain)
    assert figures.metres[1] == pytest.approx(300 / 3.3, rel=0.06) and figures.runs[1] == pytest.approx(
        figures.metres[1], rel=0.02
    )
    assert figures.solid > 0.98 and len(figures.runs) == 5
    design = beside_design("ply-3", SINGLE.yarn, SINGLE.finish)
    strands = carried_beside("ply-3", design, five(), 0.0, 0)
    ends = [
        Carried(each.strand, prepared(each.told, Prepared("other-end" if place == 1 else "whole")), each.grams)
        for place, each in enumerate(strands)
    ]
    from_both = figures_of(paint(run_of(EVALUATOR.made(design), design.yarn), ends, Palette(FIVE), None))
    assert from_both.solid < 0.25  # only the middle colour meets itself


def test_a_fractal_runs_nine_three_and_one_in_strips_of_its_grams():
    design = beside_design("fractal", SINGLE.yarn, SINGLE.finish)
    strands = carried_beside("fractal", design, five(135.0), 0.0, 0)
    runs = [float(np.median(each.told.lengths)) for each in strands]
    assert runs == pytest.approx([9 * runs[2], 3 * runs[2], runs[2]]) and [each.grams for each in strands] == [45.0] * 3
    figures = figures_of(beside("fractal"))
    assert figures.solid < 0.35 and figures.contrast > figures_of(beside("ply-3")).contrast


def test_a_chain_is_warned_of_only_where_runs_are_shorter_than_two_links():
    """150 mm loops: 0.9 m of single. Four strips of 120 g run 75 m, far beyond; runs of 0.8 m do not."""
    assert chain_words(75_000, 150, DISPLAY) == "" == chain_words(901, 150, DISPLAY)
    assert "shorter than two links" in chain_words(800, 150, DISPLAY)


def test_mud_is_named_with_its_figure_and_blues_are_not():
    red_green = ("#c02020", "#20a030", "#2030c0")
    design = beside_design("ply-2", SINGLE.yarn, SINGLE.finish)

    def two(colours):
        own = bands_of_lot(lot(colours=" ".join(colours)), {each: at for at, each in enumerate(colours)}).of(60.0)
        strands = carried_beside("ply-2", design, own, 0.0, 0)
        moved = [strands[0], Carried(strands[1].strand, prepared(strands[1].told, Prepared("other-end")), 30.0)]
        return figures_of(paint(run_of(EVALUATOR.made(design), design.yarn), moved, Palette(colours), None))

    muddy, clear = two(red_green), two(("#20308a", "#2a55a8", "#4a7ac8"))
    assert muddy.kept < 0.75 < 0.97 < clear.kept  # noqa: PLR0133 - two thresholds
    assert f"{100 * muddy.kept:.0f} %" in mud_words(muddy) and "stay clear" in mud_words(clear)
    assert figures_of(beside("chain", colours=red_green)).kept > 0.97


def test_a_mitten_says_how_many_rounds_a_colour_holds_and_stripes():
    """44 stitches of 10 mm are 0.44 m a round: 2.2 m of a colour hold five of them."""
    design = new_design("Short", {**SPUN, "colours": list(FIVE[:2]), "colour_run_m": 2.2})
    made = EVALUATOR.made(design)
    (strand,) = strands_of(design.yarn)
    told = bands_of_lot(lot(colours=" ".join(FIVE[:2])), {FIVE[0]: 0, FIVE[1]: 1})
    laid = prepared(told.of(2 * 2200.0 * 40), Prepared("strips", 40))
    painted = paint(run_of(made, design.yarn), [Carried(strand, laid, 0.0)], Palette(FIVE[:2]), None)
    cloth = knit_of(painted, Knit(4.0, 3.0, 10.0, 1.0), 44, 66, 0.0, False)
    figures = figures_of(painted)
    rows = {str(each): 1000 * metres / cloth.in_a_row for each, metres in figures.runs.items()}
    used = made.state.length
    assert rows["0"] == pytest.approx(5.0 * float(used), rel=0.03) and cloth.told.pattern == "stripes"
    told = cloth_words(cloth.told, rows, True)
    assert "It stripes" in told[0] and "rounds" in told[1]
    pooled = knit_of(painted, Knit(4.0, 3.0, 100.0 * float(used) * 0.99, 1.0), 44, 60, 0.0, False)
    assert pooled.told.pattern == "pools" and pooled.shown.shape[1:] == (44, 2)
    woven = weave_of(painted, 40, 30, 2.0, 0.0)
    assert woven.shown.shape == (30, 40, 2) and "row" in cloth_words(woven.told, {}, False)[0] + "row"


def test_colours_without_lots_are_those_of_the_design():
    design = new_design("Own", {**SPUN, "colours": list(FIVE[:2]), "colour_lengths_m": [1.0, 3.0]})
    (strand,) = strands_of(design.yarn)
    assert strand.path == "yarn" and strand.key == ()
    told = own_bands(strand.model, {FIVE[0]: 0, FIVE[1]: 1}, 12_000)
    assert told.lengths.tolist() == [1000, 3000] * 3 and told.colours.tolist() == [0, 1] * 3


def test_lots_lie_as_they_are_told():
    numbers = {each: place for place, each in enumerate(FIVE)}
    uneven = bands_of_lot(lot(lengths="3 1 1 1 2", edges="blended"), numbers)
    assert uneven.lengths.tolist() == [3, 1, 1, 1, 2] and uneven.blended > 0
    shuffled = bands_of_lot(lot(order="random", seed="7"), numbers)
    assert len(shuffled.lengths) > 5 and shuffled.whole == pytest.approx(5)
    assert bands_of_lot(lot(order="random", seed="7"), numbers).colours.tolist() == shuffled.colours.tolist()
    grey = lot(colours="#000000 #ffffff", order="heather")
    assert colours_of_lot(grey) == ["#bcbcbc"]  # half the light of white is 188 of 255 in sRGB
    assert bands_of_lot(grey, {"#bcbcbc": 0}).lengths.tolist() == [1.0]


def test_names_of_colours_are_read_and_eyes_differ():
    assert read_colours("teal, #31507A Gold nonsense") == ["#008080", "#31507a", "#ffd700", "nonsense"]
    red, green = (seen_by(each, "deutan") for each in ("#c03030", "#309030"))
    apart = [float(oklab.difference(*Palette(pair).labs)) for pair in (("#c03030", "#309030"), (red, green))]
    assert apart[1] < 0.7 * apart[0] and seen_by("#c03030", "own") == "#c03030"
    assert hexes(Palette(("#31507a",)).labs) == ["#31507a"]


def test_the_next_skein_is_begun_where_colours_go_on():
    """Of colours that come again and again: at the same place of a repeat as this one ends."""
    told = prepared(five(), Prepared("strips", 12))
    (strand,) = strands_of(SINGLE.yarn)
    painted = paint(
        run_of(EVALUATOR.made(SINGLE), SINGLE.yarn), [Carried(strand, told.of(1_500_000), 0.0)], Palette(FIVE), None
    )
    repeat = float(painted.x[-1]) / 12
    off = (next_begins(painted) / repeat) % 1
    assert min(off, 1 - off) < 0.02


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        ({"way-0": "spun"}, "way-0"),
        ({"parts-1": "0"}, "parts-1"),
        ({"parts-1": "2.5"}, "parts-1"),
        ({"seed-0": "-1"}, "seed-0"),
        ({"stitches": "3"}, "stitches"),
        ({"cloth": "felt"}, "cloth"),
        ({"distance": "moon"}, "distance"),
        ({"eyes": "four"}, "eyes"),
        ({"at": "3 g"}, "at"),
    ],
)
def test_what_cannot_be_read_stands_at_its_field_and_the_rest_is_shown(typed, place):
    colouring, faults = read_colouring({"stitches": "50", **typed}, 2, PLAIN)
    assert [each.place for each in faults] == [place] and len(colouring.strands) == 2
    assert colouring.stitches == (44 if "stitches" in typed else 50)


def test_aiming_for_colours_kept_goes_by_the_very_lot():
    """Long runs of a lot stay together in every structure for a while; short ones in none but a chain and a single."""
    long, short = lot(grams="240 g"), lot(grams="240 g", lengths=" ".join(["1"] * 60), colours=" ".join(FIVE * 12))

    def kept(own):
        aim = replace(read_aim({"fibre": "corriedale", "grams": "240 g"}, FIVE, PLAIN), lot=own)
        weights = weights_of({"colouring": "keep"})
        return {each.name: each.judged.merits["colours"].score for each in candidates(EVALUATOR, aim, weights)}

    longs, shorts = kept(long), kept(short)
    assert longs["chain"] > 0.97 and longs["3-ply"] > shorts["3-ply"] + 0.1 and shorts["chain"] > 0.9
    assert shorts["3-ply"] < 0.75 < longs["2-ply"]
    assert figures_of(beside("chain")).solid > 0.98 and "%" in runs_words(figures_of(beside("chain")), FIVE, DISPLAY)


MANE = new_design(
    "Mane",
    {
        "kind": "ply",
        "strands": [{**SPUN, "colours": [FIVE[0], FIVE[3]], "colour_lengths_m": [2.0, 2.0]}, THREAD],
        "twist": {"turns_per_m": 150, "direction": "S"},
    },
)


def textured(*rows):
    sections = sections_of(Texture(300, 300, 10, tuple(Row(*each) for each in rows)), MANE)
    return MANE.model_copy(update={"version": 2, "sections": sections})


def run_of_texture(*rows):
    design = textured(*rows)
    along = read_along(design, EVALUATOR, PLAIN, Hands((6.0, 9.0)))
    return run_along(design, EVALUATOR.made), along


def test_strands_run_on_through_sections_as_the_bobbins_say():
    """Coils locked by bobbles: single and thread, as many metres of each as the texture says of its members."""
    run, along = run_of_texture(
        ("plain", 250, None), ("bobble", 20, 5.0), ("coils", 100, 3.0), ("bobble", 20, 5.0), ("thick", 50, 2.0)
    )
    assert (
        len(run.strands) == 2 and len(run.course.stretches) == len(run.models) == 5
    )  # plain ends are spun otherwise than what lies beside a thick place
    assert float(run.course.ends[-1]) == pytest.approx(1000 * along.whole.metres)
    for strand in run.strands:
        (member,) = (each for each in along.members if each.model.kind == strand.model.kind)
        used = run.course.used[strand.key] * along.whole.metres
        assert used == pytest.approx(member.metres, rel=2e-3)


def test_a_textured_yarn_is_coloured_section_by_section():
    """A single of two colours, 2 m each by turns: every colour as much of it in the coils as of its own length."""
    run, along = run_of_texture(("plain", 250, None), ("coils", 100, 3.0))
    numbers = {FIVE[0]: 0, FIVE[3]: 1, "#777777": 2}
    single, thread = run.strands
    carried = [
        Carried(single, own_bands(single.model, numbers, 60_000), 0.0),
        Carried(thread, Bands(np.array([2]), np.array([1e6])), 0.0),
    ]
    painted = paint(run, carried, Palette(tuple(numbers)), along.whole.metres)
    assert painted.metres == pytest.approx(along.whole.metres) and painted.numbers.shape[0] == 2
    assert painted.shares.sum(axis=0) == pytest.approx(1)
    own = run.course.places(painted.x)[single.key]
    shown = np.where(painted.numbers == 2, -1, painted.numbers).max(axis=0)
    assert (shown == (own // 2000) % 2).mean() > 0.99
    inside = (painted.x - 300) % 350 > 250
    coiled = inside & (painted.x > 300) & (painted.x < painted.x[-1] - 300)
    share = (painted.shares * (painted.numbers != 2)).sum(axis=0)
    assert share[coiled].mean() > share[~coiled].mean() + 0.1


def test_a_section_of_other_fibre_has_strands_of_its_own():
    other = {**SPUN, "fibre": "mohair", "twist": {"turns_per_m": 150, "direction": "Z"}}
    design = MANE.model_copy(
        update={
            "version": 2,
            "sections": SECTIONS.validate_python([{"length_mm": 500}, {"length_mm": 100, "yarn": other}]),
        }
    )
    run = run_along(design, EVALUATOR.made)
    assert [each.model.kind for each in run.strands] == ["single", "bought", "single"]
    assert len({each.key for each in run.strands}) == len({each.path for each in run.strands}) == 3
    assert run.course.used[run.strands[2].key] == pytest.approx(1 / 6, rel=0.05)


def test_what_seems_unlike_in_figures_is_held():
    """Conversions of figures that are told: mm and metres, and shares of a yarn."""
    figures = figures_of(beside("ply-3"))
    painted = beside("ply-3")
    assert sum(figures.metres.values()) == pytest.approx(painted.metres)
    assert figures.longest <= painted.metres and 0 < figures.kept <= 1
