"""Every limit at both of its ends: the last value that is taken and the first that is not."""

import copy
import json
import math

import pytest

from pebble_wheel.mechanics.learning import noise
from pebble_wheel.notation import settings, weights
from pebble_wheel.notation.aim import FIELDS as AIM_FIELDS
from pebble_wheel.notation.aim import LEAST_RATIO, MOST_RATIO, MOST_WEIGHT, read_aim, weights_of
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colour import UNDYED, is_colour
from pebble_wheel.notation.design import USUAL_RUN_M, check_design, read_design, write_design
from pebble_wheel.notation.draft import FIELDS, design_of, draft_of, read_draft, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.iso1139 import DEFAULT_FIBRE, designation, read_designation
from pebble_wheel.notation.record import read_skein, read_swatch
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.units import read_length, read_mass, read_size
from pebble_wheel.workshop.edits import NEXT_COLOURS
from pebble_wheel.workshop.starts import start

PLAIN, IMPERIAL = Settings(), in_units(Settings(), "imperial")
TWIST = {"turns_per_m": 220, "direction": "Z"}
FIBRE = {"name": "Own", "density": 1.3, "micron": [20, 30], "staple": [60, 90], "crimp": [2, 3], "bloom": 0.2}
SINGLE = {"kind": "single", "fibre": FIBRE, "prep": "combed", "tex": 150, "twist": TWIST, "colours": ["#aa7744"]}
THREAD = {"kind": "bought", "tex": 60, "diameter_mm": 0.3, "twist": TWIST, "colour_run_m": 2}
WRAP = {"fibre": "merino", "prep": "carded", "strip_tex": 300, "strip_width_mm": 15}
YARNS = {
    "ply": {"kind": "ply", "strands": [{**SINGLE, "count": 3}], "twist": TWIST, "tension_share": 0.5},
    "chain": {"kind": "chain", "strand": SINGLE, "loop_mm": 150, "twist": {"of_balanced": 1.1, "direction": "S"}},
    "core-spun": {"kind": "core-spun", "core": THREAD, "wrap": WRAP, "twist": TWIST},
    "wrapped": {"kind": "wrapped", "binder": THREAD, "wrapper": SINGLE, "overfeed": 2, "twist": TWIST},
}


def whole(yarn: dict, **more: object) -> dict:
    return {"format": "pebble-wheel-design", "version": 1, "name": "any", "yarn": yarn, **more}


def with_value(kind: str, path: str, value: object) -> dict:
    yarn = copy.deepcopy(YARNS[kind])
    *way, last = path.split(".")
    place = yarn
    for step in way:
        place = place[int(step)] if step.isdigit() else place[step]
    place[int(last) if last.isdigit() else last] = value
    return whole(yarn)


@pytest.mark.parametrize(
    ("kind", "path", "least", "most"),
    [
        ("ply", "twist.turns_per_m", 5e-324, 20_000),
        ("chain", "twist.of_balanced", 5e-324, 10),
        ("ply", "tension_share", 0, 1),
        ("ply", "strands.0.tex", 0.5, 50_000),
        ("ply", "strands.0.fibre.density", 0.5, 3),
        ("ply", "strands.0.fibre.bloom", 0, 1),
        ("ply", "strands.0.fibre.micron.0", 1, 500),
        ("ply", "strands.0.fibre.micron.1", 1, 500),
        ("ply", "strands.0.fibre.staple.0", 1, 5000),
        ("ply", "strands.0.fibre.crimp.1", 0, 50),
        ("chain", "loop_mm", 5, 3000),
        ("core-spun", "core.tex", 0.5, 50_000),
        ("core-spun", "core.diameter_mm", 0.01, 50),
        ("core-spun", "core.colour_run_m", 0.01, 10_000),
        ("core-spun", "wrap.strip_tex", 0.5, 50_000),
        ("core-spun", "wrap.strip_width_mm", 0.2, 300),
        ("wrapped", "overfeed", 1, 30),
    ],
)
def test_a_figure_of_a_design_is_taken_up_to_its_limits(kind, path, least, most):
    for value in (least, most):
        check_design(with_value(kind, path, float(value)))
    for value in (math.nextafter(least, -math.inf), math.nextafter(most, math.inf)):
        with pytest.raises(InputError) as refused:
            check_design(with_value(kind, path, float(value)))
        last = path.split(".")[-1]
        assert any(fault.place.endswith(f"[{last}]" if last.isdigit() else last) for fault in refused.value.faults)


@pytest.mark.parametrize(
    ("kind", "path", "taken", "refused"),
    [
        ("ply", "strands.0.count", (2, 64), (1, 65, 0)),
        ("ply", "strands.0.fibre.name", ("x", "y" * 80), ("", "y" * 81)),
        ("ply", "strands.0.colours", (["#aabbcc"], ["#AABBCC"] * 200), ([], ["#aabbcc"] * 201, ["red"], ["#abc"])),
        ("ply", "strands.0.fibre.micron", ([1, 2],), ([1], [1, 2, 3])),
        ("ply", "strands.0.fibre.staple", ([1, 2],), ([1], [1, 2, 3])),
        ("ply", "strands.0.fibre.crimp", ([1, 2],), ([1], [1, 2, 3])),
        ("ply", "strands", ([SINGLE] * 64,), ([SINGLE], [SINGLE] * 65, [])),
    ],
)
def test_a_number_of_things_is_taken_up_to_its_limits(kind, path, taken, refused):
    for value in taken:
        check_design(with_value(kind, path, value))
    for value in refused:
        with pytest.raises(InputError):
            check_design(with_value(kind, path, value))


def test_a_design_is_six_deep_64_strands_wide_and_a_million_bytes_long_at_the_most():
    yarn = dict(SINGLE)
    for _ in range(5):
        yarn = {"kind": "ply", "strands": [{**yarn, "count": 2}], "twist": TWIST}
    check_design(whole(yarn))
    deeper = {"kind": "chain", "strand": yarn, "loop_mm": 150, "twist": TWIST}
    with pytest.raises(InputError, match="deeper than 6 levels"):
        check_design(whole(deeper))
    wide = {"kind": "ply", "strands": [{**YARNS["ply"], "count": 21}, SINGLE], "twist": TWIST}
    check_design(whole(wide))
    wide["strands"].append(SINGLE)
    with pytest.raises(InputError, match="65 strands in all; at most 64"):
        check_design(whole(wide))
    text = json.dumps(whole(SINGLE))
    read_design((text + " " * (1_000_000 - len(text))).encode())
    with pytest.raises(InputError, match=r"1,000,001 bytes; a design may have at most 1,000,000"):
        read_design((text + " " * (1_000_001 - len(text))).encode())


def test_a_name_is_120_letters_long_at_the_most():
    check_design(whole(SINGLE, name="x" * 120))
    for name in ("", "x" * 121, "tab\there"):
        with pytest.raises(InputError):
            check_design(whole(SINGLE, name=name))
    assert check_design({key: value for key, value in whole(SINGLE).items() if key != "name"}).name == "Untitled"


def test_a_draft_holds_two_thousand_letters_in_a_field():
    draft = start("single")
    for name, fine in (("x" * 2000, True), ("x" * 2001, False)):
        text = write_draft(draft.model_copy(update={"name": name}))
        if fine:
            assert read_draft(text).name == name
        else:
            with pytest.raises(InputError):
                read_draft(text)
    long = draft.model_copy(update={"yarn": draft.yarn.with_typed({"size": "9" * 2001})})
    with pytest.raises(InputError):
        read_draft(write_draft(long))
    with pytest.raises(InputError):
        read_draft(write_draft(draft.model_copy(update={"wash": "w" * 21})))


def test_what_a_fresh_part_holds_means_a_yarn_that_can_be_made():
    assert FIELDS["single"]["size"] == "100 tex" and FIELDS["single"]["twist"] == "220 t/m"
    assert FIELDS["ply"]["share"] == "0.5" and FIELDS["ply"]["twist"] == "1.0" and FIELDS["chain"]["loop"] == "160 mm"
    assert FIELDS["core-spun"]["width"] == "10 mm" and FIELDS["wrapped"]["overfeed"] == "2.2"
    design = design_of(start("3-ply"), PLAIN)
    assert draft_of(design).yarn.inner[0].of("size") == "100 tex" and USUAL_RUN_M == 2.0
    assert UNDYED == "#dcc9a3" and len(set(NEXT_COLOURS)) == 5 and all(is_colour(each) for each in NEXT_COLOURS)
    assert not any(is_colour(each) for each in ("#dcc9a", "dcc9a3", "#dcc9a3\n", "#dcc9ag", ""))


@pytest.mark.parametrize(
    ("field", "taken", "refused"),
    [
        ("firm", ("0", "100"), ("-0.1", "100.1")),
        ("ratio", ("0.5", "2"), ("0.49", "2.01")),
        ("run", ("1 cm", "10 km"), ("9.9 mm", "10001 m")),
        ("thinnest", ("40 wpi", "0.5 mm", ""), ("90 tex",)),
        ("grams", ("", "1 g"), ("0", "g")),
    ],
)
def test_an_aim_is_taken_up_to_its_limits(field, taken, refused):
    for text in taken:
        read_aim({field: text}, (UNDYED,), PLAIN)
    for text in refused:
        with pytest.raises(InputError) as caught:
            read_aim({field: text}, (UNDYED,), PLAIN)
        assert [fault.place for fault in caught.value.faults] == [field]


def test_a_fresh_aim_is_as_it_was():
    aim = read_aim({}, (UNDYED,), PLAIN)
    assert (aim.measure, aim.firm, aim.ratio, aim.run, aim.thinnest) == ("finished diameter", 0.35, 1.0, 4000.0, 0.0)
    assert aim.value == pytest.approx(25.4 / 12) and aim.hands.pace == 60 and aim.hands.ratios == (6, 9, 12)
    assert (LEAST_RATIO, MOST_RATIO, MOST_WEIGHT) == (0.9, 1.35, 3)
    matters = {name.removeprefix("matter-"): text for name, text in AIM_FIELDS.items() if name.startswith("matter-")}
    assert {name for name, text in matters.items() if text != "0"} == {"round", "elastic", "wear"}
    assert (matters["round"], matters["elastic"], matters["wear"]) == ("2", "2", "1")
    assert weights_of({"matter-round": "3", "matter-wear": "4", "colouring": "keep"}) == {
        "round": 3, "smooth": 0, "wear": 0, "elastic": 2, "light": 0, "drape": 0, "colours": 2, "quick": 0,
        "forgiving": 0,
    }  # fmt: skip
    assert weights_of({"colouring": "blend"})["colours"] == -2 and weights_of({})["colours"] == 0


def test_an_aim_is_read_in_the_units_of_the_person():
    metric, imperial = ({"grams": "100", "metres": "100", "run": "2"} for _ in range(2))
    one, other = read_aim(metric, (UNDYED,), PLAIN), read_aim(imperial, (UNDYED,), IMPERIAL)
    assert (one.grams, one.metres, one.run) == (100, 100, 2000)
    assert (other.grams, other.metres, other.run) == pytest.approx((2834.95, 91.44, 1828.8), rel=1e-5)
    assert read_aim({"size": "300 tex", "stage": "plied"}, (UNDYED,), PLAIN).measure == "tex"
    assert read_aim({"size": "300 tex"}, (UNDYED,), PLAIN).measure == "finished tex"
    assert read_aim({"size": "12 wpi", "stage": "plied"}, (UNDYED,), PLAIN).measure == "diameter"


@pytest.mark.parametrize(
    ("field", "taken", "refused"),
    [
        ("wraps", ("200", "0.1"), ("201", "0")),
        ("loop", ("0", "200"), ("201", "-1")),
        ("note", ("x" * 500,), ("x" * 501,)),
    ],
)
def test_a_skein_is_taken_up_to_its_limits(field, taken, refused):
    for text in taken:
        read_skein({"wraps": "12", field: text}, PLAIN)
    for text in refused:
        with pytest.raises(InputError):
            read_skein({"wraps": "12", field: text}, PLAIN)


def test_a_swatch_is_taken_up_to_its_limits_and_four_inches_are_ten_centimetres_and_a_bit():
    counted = {"stitches_before": "400", "stitches_after": "0.1"}
    assert read_swatch(counted, PLAIN).stitches_before == 400
    assert read_swatch({**counted, "rows_before": "101.6"}, IMPERIAL).rows_before == pytest.approx(100)
    for text in ("401", "0", "-1"):
        with pytest.raises(InputError):
            read_swatch({**counted, "stitches_before": text}, PLAIN)


def test_wraps_by_their_method():
    # Snug wraps count some 10 to 20 % more, cards scatter by 40 %: common practice, no source.
    snug, card, relaxed = (read_skein({"wraps": "23", "method": each}, PLAIN) for each in ("snug", "card", "relaxed"))
    assert (snug.relaxed_wraps, card.relaxed_wraps, relaxed.relaxed_wraps) == pytest.approx((20, 23, 23))
    # hypot of bias and scatter: a card 0.25 and 0.20, wraps 0.05 and 0.062 (assumed, after common practice).
    assert snug.wraps_off == relaxed.wraps_off == pytest.approx(0.0796, abs=1e-4)
    assert card.wraps_off == pytest.approx(0.3202, abs=1e-4) == noise.CARD.off
    assert Settings(wpi_method="snug").wraps(10.0) == pytest.approx(11.5) and PLAIN.wraps(10.0) == 10
    assert settings.SNUG_OVER_RELAXED == 1.15


def test_the_weight_of_a_skein_is_as_good_as_its_scale():
    weighed = read_skein({"metres": "100", "grams": "30"}, PLAIN)
    assert (weighed.tex, weighed.tex * weighed.tex_off) == pytest.approx((300, 1000 / 100))  # one gram on 100 m
    counted = read_skein({"metres": "100", "wraps": "9"}, PLAIN)
    assert counted.tex is None and counted.tex_off == math.inf


def test_the_weight_classes_are_those_of_the_trade():
    # A yarn-council style from memory and spinners' relaxed wraps, common practice: the handbook's two tables.
    council = {name: (low, high) for name, low, high in weights.WEIGHT_TABLES["council"]}
    assert council == {
        "lace": (30, math.inf), "super fine": (14, 30), "fine": (12, 18), "light": (11, 15), "medium": (9, 12),
        "bulky": (6, 9), "super bulky": (5, 6), "jumbo": (0, 5),
    }  # fmt: skip
    spinners = weights.WEIGHT_TABLES["relaxed-wraps"]
    assert [name for name, _, _ in spinners] == [
        "lace", "fingering", "sport", "DK", "worsted weight", "aran", "bulky", "super bulky",
    ]  # fmt: skip
    assert [low for _, low, _ in spinners] == [18, 14, 12, 10.5, 8.5, 7.5, 5.5, 0]
    assert [high for _, _, high in spinners] == [math.inf, 18, 14, 12, 10.5, 8.5, 7.5, 5.5]
    typical = [weights.middle_of(*council[name]) for name in ("lace", "bulky", "jumbo")]
    assert typical == pytest.approx([33, 7.5, 4.125])


def test_a_quantity_is_60_letters_long_and_below_a_thousand_million():
    assert read_length("1" + " " * 57 + "m", "mm") == 1000
    for text in ("1" + " " * 59 + "m", "1e9 m", "1000000000", "0", "-1", "", "m", "1e-400"):
        with pytest.raises(InputError):
            read_length(text, "m")
    assert read_mass("999999999", "g") == 999_999_999
    assert read_number(" 1,5 ") == 1.5
    for text in ("inf", "nan", "one", ""):
        with pytest.raises(InputError):
            read_number(text)
    assert read_size("11.5 wpi", "tex", settings=Settings(wpi_method="snug")).diameter_mm == pytest.approx(2.54)


def test_a_designation_is_500_letters_long_at_the_most_and_names_no_fibre():
    long = "34 tex S 600" + " " * 488
    assert read_designation(long).design.yarn.fibre == DEFAULT_FIBRE == "corriedale"
    with pytest.raises(InputError, match="character 501"):
        read_designation(long + " ")
    assert read_designation("34 tex S 600 x 2 Z 400").design.yarn.strands[0].count == 2
    with pytest.raises(InputError):
        read_designation("34 tex S 600 x 1000 Z 400")


def test_choices_of_a_draft_are_twenty_letters_long_at_the_most():
    draft = start("single")
    for field in ("wash", "drying", "blocking"):
        assert getattr(read_draft(write_draft(draft.model_copy(update={field: "w" * 20}))), field) == "w" * 20
        with pytest.raises(InputError):
            read_draft(write_draft(draft.model_copy(update={field: "w" * 21})))


def test_a_count_that_is_no_number_counts_once():
    counts = {"3": 3, "0": 1, "999": 999, "1000": 1, "x": 1, "": 1, "-2": 1, " 7 ": 7}
    assert {text: start("single").yarn.with_typed({"count": text}).count for text in counts} == counts


def test_a_usual_finish_is_not_written_and_any_other_is():
    usual = check_design(whole(SINGLE))
    assert json.loads(write_design(usual))["finish"] == {"wash": "snap", "drying": "free"}
    other = {"wash": "none", "drying": "heavy", "mill_ironed": True, "blocking": "severe"}
    assert json.loads(write_design(check_design(whole(SINGLE, finish=other))))["finish"] == other
    twice = json.loads(write_design(check_design(whole(YARNS["ply"]))))["yarn"]
    assert twice["strands"][0]["count"] == 3 and "count" not in twice


def test_a_designation_is_written_to_three_figures_and_turns_to_the_tenth_where_they_are_few():
    def written(tex: float, turns: float, resultant: float) -> str:
        single = {**SINGLE, "tex": tex, "twist": {"turns_per_m": turns, "direction": "Z"}}
        ply = {"kind": "ply", "strands": [{**single, "count": 2}], "twist": {"turns_per_m": turns, "direction": "S"}}
        return designation(check_design(whole(ply)).yarn, {}, resultant)

    assert written(34.0, 99.94, 69.34) == "34 tex Z 99.9 x 2 S 99.9; R 69.3 tex"
    assert written(612.34, 100.4, 999.4) == "612.3 tex Z 100 x 2 S 100; R 999 tex"
    assert written(612.0, 57.0, 1234.4) == "612 tex Z 57 x 2 S 57; R 1234 tex"
    assert written(612.0, 57.0, 1000.4) == "612 tex Z 57 x 2 S 57; R 1000 tex"


def test_what_cannot_be_read_is_quoted_to_forty_letters():
    for read in (read_number, lambda text: read_length(text, "m")):
        with pytest.raises(InputError) as refused:
            read("q" * 55)
        assert f"'{'q' * 40}'" in str(refused.value)
