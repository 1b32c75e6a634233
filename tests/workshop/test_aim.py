"""Aims as typed, and whether what is spun to them meets them by the ordinary reading."""

from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.backwards.merits import Aspect
from pebble_wheel.mechanics.counts import INCH, YARDS_PER_POUND_TEX
from pebble_wheel.notation.aim import FIELDS, read_aim, weights_of
from pebble_wheel.notation.draft import UNDYED, design_of, part_at, parts
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.workshop.aim import candidates
from pebble_wheel.workshop.refit import moved, readings_to_hold
from pebble_wheel.workshop.starts import STARTS, start
from tests.evaluated import EVALUATOR, read_of

PLAIN = Settings()
IMPERIAL = in_units(Settings(angle_from="crosswise", wpi_method="snug"), "imperial")


def aimed(chosen=PLAIN, colours=(UNDYED,), without=(), **typed):
    found = candidates(EVALUATOR, read_aim(typed, colours, chosen), weights_of(typed), frozenset(without))
    return {each.name: each for each in found}


def reading_of(found, chosen=PLAIN):
    return read_of(design_of(found.filled(chosen), chosen))


FIBRES_TRIED = ("corriedale", "merino", "romney", "bfl", "alpaca", "silk", "cashmere", "mohair", "cotton")


@given(
    name=st.sampled_from(list(STARTS)),
    size=st.floats(4, 34),
    stage=st.sampled_from(["finished", "plied"]),
    firm=st.integers(0, 100),
    ratio=st.floats(0.9, 1.3),
    fibre=st.sampled_from(FIBRES_TRIED),
    prep=st.sampled_from(["combed", "semi", "carded"]),
    draw=st.sampled_from(["short", "long"]),
    imperial=st.booleans(),
)
def test_what_is_spun_to_an_aim_meets_it_by_the_ordinary_reading(
    name, size, stage, firm, ratio, fibre, prep, draw, imperial
):
    chosen = IMPERIAL if imperial else PLAIN
    typed = {"size": f"{size:.3f} wpi", "stage": stage, "firm": str(firm), "ratio": f"{ratio:.3f}"}
    others = [each for each in STARTS if each != name]
    found = aimed(chosen, without=others, fibre=fibre, prep=prep, draw=draw, **typed)[name]
    if found.judged is None:
        assert found.hindrances
        return
    reading = reading_of(found, chosen)
    wraps = reading.wpi_finished if stage == "finished" else reading.wpi_as_plied
    if found.met:
        assert chosen.wraps(wraps.p50) == pytest.approx(size, rel=5e-3)
        spun = [each for path, each in reading.singles.items() if ".core" not in path]
        assert min(each.fibres_across for each in spun or reading.singles.values()) > 19.8
        assert min(each.turns_per_staple for each in reading.singles.values()) > 3.9
    if name not in ("single", "core-spun", "coiled"):
        assert reading.balance.ratio == pytest.approx(ratio, rel=5e-3)


@pytest.mark.parametrize("name", STARTS)
@pytest.mark.parametrize(
    ("size", "stage", "tex"),
    [("150 m/100 g", "finished", 1e5 / 150), ("600 yd/lb", "plied", YARDS_PER_POUND_TEX / 600)],
)
def test_a_grist_is_met_too(name, size, stage, tex):
    found = aimed(size=size, stage=stage)[name]
    assert found.met
    reading = reading_of(found)
    made = reading.finished_tex if stage == "finished" else reading.resultant_tex
    assert made == pytest.approx(tex, rel=2e-3)


@pytest.mark.parametrize(("name", "share"), [("2-ply", 0.61), ("3-ply", 0.51), ("4-ply", 0.44)])
@pytest.mark.parametrize("firm", [10, 45])
def test_singles_come_out_as_the_trade_reckons_them(name, share, firm):
    """Handbook of the trade, section 3: WPI of the ply over that of its strands, which stand 4 to 7 % finer on the
    bobbin than in the ply."""
    found = aimed(size="12 wpi", stage="plied", firm=str(firm))[name]
    reading = reading_of(found)
    bobbin = next(iter(reading.singles.values())).diameter
    assert share * 0.92 < 12 / (INCH / bobbin) < share * 0.98


def test_finer_yarn_wants_finer_singles_and_firmer_yarn_leans_more():
    sizes = [aimed(size=f"{wpi} wpi")["3-ply"].judged.levels[1].diameter for wpi in (6, 9, 12, 18)]
    assert sizes == sorted(sizes, reverse=True)
    leans = [abs(aimed(firm=firm)["3-ply"].judged.levels[0].angle) for firm in ("0", "40", "80", "100")]
    assert leans == sorted(leans) and leans[-1] > 1.25 * leans[0]


def test_the_thinnest_single_one_would_spin_rules_structures_out():
    found = aimed(size="16 wpi", thinnest="36 wpi")
    assert found["2-ply"].met and [each.obstacle for each in found["4-ply"].hindrances] == ["too-thin"]
    nearest = reading_of(found["4-ply"])
    assert INCH / next(iter(nearest.singles.values())).diameter == pytest.approx(36, rel=2e-3)


def test_grams_and_metres_are_reckoned_with_waste_and_what_falls_short_is_said():
    enough = aimed(size="12 wpi", grams="230 g")["3-ply"]
    made = enough.metres * reading_of(enough).finished_tex / 1000
    assert enough.met and made * 1.02 == pytest.approx(230, rel=1e-3)
    short = aimed(size="8 wpi", grams="100 g", metres="400 m")["3-ply"]
    assert (
        [each.obstacle for each in short.hindrances] == ["grams"] and short.metres < 400 and round(short.grams) == 100
    )
    ounces = aimed(IMPERIAL, size="12 wpi", grams="8.1", metres="120")["2-ply"]
    assert ounces.met and 109 < ounces.metres < 110


def test_only_the_fibre_in_hand_is_weighed():
    found = aimed(size="10 wpi", grams="100 g")
    cored = reading_of(found["core-spun"])
    core = cored.levels[1].grams_per_100_m / cored.levels[0].grams_per_100_m
    assert core > 0.1
    assert found["core-spun"].metres * cored.finished_tex / 1000 * (1 - core) * 1.02 == pytest.approx(100, rel=1e-3)


def test_what_matters_decides_the_order():
    order = {aspect: list(aimed(**only(aspect))) for aspect in ("quick", "forgiving", "smooth")}
    assert order["quick"][0] == "single" and order["quick"][-1] == "cable-2x3"
    assert order["forgiving"][0] == "cable-2x3" and order["forgiving"].index("3-ply") < order["forgiving"].index(
        "2-ply"
    )
    assert order["smooth"][-1] == "coiled"
    kept, blended = (list(aimed(**only("colours"), colouring=way)) for way in ("keep", "blend"))
    assert kept.index("chain") < kept.index("3-ply") and blended.index("chain") > blended.index("3-ply")


def only(aspect):
    return {field: "3" if field == f"matter-{aspect}" else "0" for field in FIELDS if field.startswith("matter-")}


def test_where_nothing_matters_all_does_and_what_misses_the_aim_comes_last():
    found = list(aimed(size="45 wpi", **only("nothing")).values())
    assert [each.met for each in found] == sorted((each.met for each in found), reverse=True)
    assert any(not each.met for each in found) and all(0 < each.score < 1 for each in found)


def test_each_strand_begins_with_the_next_colour_and_cores_and_binders_stay():
    found = aimed(colours=("#aa0000", "#00aa00"), fibre="merino")
    strands = [part.of("colours") for path, part in parts(found["3-ply"].filled(PLAIN).yarn) if path != "yarn"]
    assert strands == ["#aa0000 #00aa00", "#00aa00 #aa0000", "#aa0000 #00aa00"]
    cored = found["core-spun"].filled(PLAIN)
    begun = start("core-spun")
    assert part_at(cored, "yarn.core") == part_at(begun, "yarn.core")
    assert part_at(cored, "yarn").of("fibre") == "merino"
    assert part_at(found["coiled"].filled(PLAIN), "yarn.binder") == part_at(start("coiled"), "yarn.binder")


@pytest.mark.parametrize(
    ("field", "typed", "message"),
    [
        ("size", "blue", "not a number"),
        ("size", "8 tpi", "is not a size"),
        ("firm", "140", "between 0 and 100"),
        ("ratio", "nan", "not a number"),
        ("fibre", "unicorn", "choose one of"),
        ("grams", "12 m", "is not a weight"),
        ("metres", "-4", "more than 0"),
        ("thinnest", "20 tex", "by its gauge"),
        ("wash", "boil", "choose one of"),
        ("run", "1 mm", "between a centimetre"),
    ],
)
def test_what_cannot_be_read_is_said_at_its_field(field, typed, message):
    with pytest.raises(InputError) as refused:
        read_aim({field: typed}, (UNDYED,), PLAIN)
    assert [(fault.place, message in fault.message) for fault in refused.value.faults] == [(field, True)]


def test_every_merit_can_be_weighed():
    assert set(weights_of({})) == set(get_args(Aspect))


@pytest.mark.parametrize("chosen", [PLAIN, IMPERIAL], ids=["plain", "imperial"])
@pytest.mark.parametrize("name", ["2-ply", "chain", "cable-2x2", "crepe"])
def test_what_if_moves_one_reading_and_holds_the_others_in_the_draft(name, chosen):
    draft = start(name)
    before = read_of(design_of(draft, chosen))
    known = {each.handle: each.value for each in readings_to_hold(EVALUATOR, before)}
    angle = known["angle"] + 1.5
    typed = f"{90 - angle if chosen.angle_from == 'crosswise' else angle:.4f}"
    after = read_of(design_of(moved(EVALUATOR, draft, "angle", typed, ["size", "ratio"], chosen), chosen))
    found = {each.handle: each.value for each in readings_to_hold(EVALUATOR, after)}
    assert found["angle"] == pytest.approx(angle, rel=5e-3)
    assert found["size"] == pytest.approx(known["size"], rel=5e-3)
    assert found["ratio"] == pytest.approx(known["ratio"], rel=5e-3)
    assert found["twist"] > 1.02 * known["twist"]


@pytest.mark.parametrize(
    ("name", "handle", "typed", "holding", "message"),
    [
        ("3-ply", "angle", "80", [], "no ply leans so"),
        ("3-ply", "angle", "58", ["size"], "full of turns"),
        ("3-ply", "size", "300 tex", [], "wraps or thickness"),
        ("3-ply", "ratio", "-1", [], "beyond any yarn"),
        ("3-ply", "ratio", "1.1", ["size", "twist", "angle"], "let one go"),
        ("single", "ratio", "1.1", [], "no such reading"),
    ],
)
def test_what_cannot_be_moved_is_said_at_its_reading(name, handle, typed, holding, message):
    draft = start(name)
    with pytest.raises(InputError) as refused:
        moved(EVALUATOR, draft, handle, typed, holding, PLAIN)
    assert [(fault.place, message in fault.message) for fault in refused.value.faults] == [(f"if-{handle}", True)]


def test_snug_wraps_are_counted_as_snug():
    """A yarn of 12 relaxed wraps has 15 % more snug ones."""
    snug = read_aim({"size": "13.8 wpi"}, (UNDYED,), Settings(wpi_method="snug"))
    assert snug.value == pytest.approx(read_aim({"size": "12 wpi"}, (UNDYED,), PLAIN).value)
