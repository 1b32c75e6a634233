"""Six things people ask for, by keyboard alone, in either set of units; each figure is that of the core."""

import httpx
import pytest
from playwright.sync_api import expect

from pebble_wheel.mechanics.finish.projects import metres_for, wraps_for_gauge
from pebble_wheel.notation.address import WHOLE
from pebble_wheel.notation.aim import Core, read_aim, weights_of
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.design import finish_of, structure_of
from pebble_wheel.notation.draft import design_of, read_draft
from pebble_wheel.notation.lot import read_lot
from pebble_wheel.notation.record import read_swatch
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.finishing import moment_figures, swatch_words
from pebble_wheel.wording.making import step_rows
from pebble_wheel.wording.projects import enough_words, grams_range
from pebble_wheel.wording.washing import hung_words
from pebble_wheel.workshop.aim import candidates
from pebble_wheel.workshop.edits import typed_into
from pebble_wheel.workshop.starts import start
from tests.browser.hands import DESK, TABLET, open_at_size, press, see_nothing_in_the_way, tab_to
from tests.conftest import PATIENCE
from tests.evaluated import EVALUATOR

FIRST = WHOLE.strand(0)


@pytest.fixture(params=["metric", "imperial"])
def display(request, address):
    """How figures are shown, chosen for the application too."""
    answer = httpx.post(
        f"{address}/settings", data={"units": request.param}, headers={"origin": address}, timeout=PATIENCE
    )
    assert answer.status_code == 303
    return Display(in_units(Settings(), request.param))


def type_into(page, selector, text):
    """Go to a field by keyboard and type over what stands there."""
    tab_to(page, selector)
    press(page, "Control+A")
    page.keyboard.type(text)


def choose(page, selector, words):
    """Go to a list by keyboard and type the words of a choice."""
    tab_to(page, selector)
    page.keyboard.type(words)


def test_two_braids_for_mittens(page, address, display):
    page.goto(f"{address}/fibre")
    type_into(page, "#name", "Two braids")
    type_into(page, "#fibres", "outerwear wool")
    type_into(page, "#grams", "96+138 g")
    press(page, "Enter")
    expect(page.locator(".lot-card")).to_contain_text(display.grams(234))
    page.goto(f"{address}/project")
    choose(page, "#fibre", "Two")
    type_into(page, "#size", "aran")
    press(page, "Enter")
    lot = read_lot({"name": "Two braids", "fibres": "outerwear wool", "grams": "96+138 g"}, Settings(), "x")
    wraps = 8.0  # relaxed wraps of an aran yarn: the middle of 7.5 to 8.5, common practice, no source
    low, high = (float(each) for each in metres_for("mittens", "medium", 0.46 * wraps * 100 / 25.4))
    typed = {"size": "8 wpi", "metres": f"{high:.0f} m", "fibre": lot.fibre.model_dump_json(exclude_none=True)}
    found = {each.name: each for each in candidates(EVALUATOR, read_aim(typed, (UNDYED,), Settings()), weights_of({}))}
    plied = found["4-ply"]
    needed = tuple(metres * plied.grams / plied.metres for metres in (low, high))
    card = page.locator(".lot-card", has=page.get_by_role("heading", name="4-ply"))
    expect(card).to_contain_text(grams_range(*needed, display))
    expect(card).to_contain_text(enough_words(needed, 234.0, display))
    expect(page.get_by_role("heading", level=2).first).to_contain_text(display.metres_range(low, high))
    tab_to(page, "[name=at][value='4-ply']")
    press(page, "Enter")
    single = step_rows(plied.judged.steps, plied.metres, display)[0]
    steps = page.locator(".steps tbody tr").first
    for said in (single.twist, single.count, single.length, single.weight):
        expect(steps).to_contain_text(said)


def test_a_single_at_24_by_card_as_a_range(page, address, display):
    page.goto(f"{address}/construct?start_from=3-ply")
    page.wait_for_function("window.htmx")
    tab_to(page, "[name=at]")
    press(page, "ArrowDown")
    expect(page.locator("#by")).to_be_visible()
    choose(page, "#by", "usual")
    press(page, "Tab")
    page.locator("#twisted").get_by_text("Follows the size").wait_for()
    press(page, "Shift+Tab", "Shift+Tab")
    type_into(page, "#size", "24 by card")
    typed = {"size": "24 by card", "by": "usual"}
    reading = EVALUATOR.read(design_of(typed_into(start("3-ply"), FIRST, typed, together=True), Settings()))
    expect(page.locator("#sized")).to_contain_text(display.length_range(reading.diameter_finished))
    expect(page.locator("#sized")).to_contain_text("weigh a length of it")
    assert reading.wpi_finished.p90 > 1.8 * reading.wpi_finished.p10


def test_twisted_double_under_a_weight(page, address, display):
    page.goto(f"{address}/construct?start_from=2-ply")
    page.wait_for_function("window.htmx")
    type_into(page, "#twist", "1.8")
    tab_to(page, "[name=at]", back=True)
    press(page, "ArrowDown")
    expect(page.locator("#by")).to_be_visible()
    choose(page, "#by", "in turns")
    expect(page.locator("#twisted")).to_contain_text("Fixed: stays")
    type_into(page, "#twist", "400 t/m")
    expect(page.locator("#strip")).to_contain_text(display.twist(400))
    press(page, "Control+Enter")
    page.wait_for_url("**/designs/*")
    page.goto(page.url.split("?")[0] + "/finish")
    page.wait_for_function("window.htmx")
    type_into(page, "#hung_grams", "1.5 lb")
    press(page, "Tab")
    page.keyboard.type("60")
    draft = typed_into(typed_into(start("2-ply"), WHOLE, {"twist": "1.8"}, True), FIRST, {"twist": "400 t/m"}, True)
    design = design_of(draft, Settings())
    grams = 1.5 * 453.59237
    finish = design.finish.model_copy(update={"drying": "heavy", "hung_grams": grams, "hung_rounds": 60})
    expect(page.locator("#hung")).to_have_text(hung_words(finish, display))
    hung = design.model_copy(update={"finish": finish})
    dried = EVALUATOR.moments(EVALUATOR.read(hung), finish_of(hung), 24.0)["dried"]
    for figure in moment_figures(dried, display):
        expect(page.locator("#figures")).to_contain_text(figure.value)


def test_a_chain_matched_by_a_short_stapled_single(page, address, display):
    page.goto(f"{address}/construct?start_from=chain")
    page.wait_for_function("window.htmx")
    tab_to(page, "[name=at]")
    press(page, "a")
    expect(page.locator("#h-hand")).to_contain_text("2-ply")
    tab_to(page, "[name=at]:checked")
    press(page, "ArrowDown", "ArrowDown")
    expect(page.locator("#h-hand")).to_contain_text("chain ply")
    press(page, "u")
    expect(page.locator("[name=at]")).to_have_count(5)
    press(page, "k")
    expect(page.locator("#h-hand")).to_have_text("single")
    choose(page, "#fibre", "Cash")
    expect(page.locator("#caption")).to_contain_text("Cashmere")
    tab_to(page, "#do-match", back=True)
    press(page, "Enter")
    expect(page.locator("#h-beside")).to_have_text("Matched either way")
    tab_to(page, "#do-match-Z")
    press(page, "Enter")
    expect(page.locator("#h-beside")).to_have_count(0)
    chain = EVALUATOR.read(design_of(start("chain"), Settings()))
    thick = float(chain.levels[0].made.diameter)
    number, unit = page.locator("#size").input_value().split()
    assert unit == display.settings.small_unit
    assert float(number) * (25.4 if unit == "in" else 1.0) == pytest.approx(thick, rel=2e-3)
    choose(page, "#by", "of")
    twist = page.locator("#twist")
    expect(page.locator("#twisted")).to_contain_text("Ply-back turns")
    design = design_on(page)
    single = structure_of(design.yarn.strands[1])
    folded = EVALUATOR.fold_of(single)
    shown = float(twist.input_value().split()[0]) / (0.0254 if display.settings.twist == "tpi" else 1.0)
    assert shown == pytest.approx(folded, rel=0.01) and single.fibre.name == "Cashmere"


def design_on(page):
    """The design that the page holds."""
    draft = read_draft(page.locator("#draft").input_value()).model_copy(update={"name": "x"})
    return design_of(draft, Settings())


def test_core_spun_on_a_thin_hairy_core_in_hand(page, address, display):
    page.goto(f"{address}/aim?at=core-spun")
    page.wait_for_function("window.htmx")
    type_into(page, "#size", "3 mm")
    tab_to(page, "summary")
    press(page, "Enter")
    type_into(page, "#core", "0.6 mm")
    tab_to(page, "#matter-drape")
    press(page, "ArrowRight", "ArrowRight", "ArrowRight")
    typed = {"size": "3 mm", "core": "0.6 mm", "matter-drape": "3"}
    aim = read_aim(typed, (UNDYED,), Settings())
    assert isinstance(aim.core, Core) and aim.core.nature == "hairy"
    found = {each.name: each for each in candidates(EVALUATOR, aim, weights_of(typed))}["core-spun"]
    assert found.met and len(found.judged.steps) == 1  # the core is in hand: nobody spins it
    held = page.locator("#in-hand")
    expect(held).to_contain_text(display.wpi_range(found.judged.wpi_finished))
    expect(held).to_contain_text(f"{100 * found.judged.merits['drape'].score:.0f}")
    expect(held.locator(".steps tbody tr")).to_have_count(1)
    expect(held.locator(".steps tbody tr")).to_contain_text(
        step_rows(found.judged.steps, found.metres, display)[0].weight
    )


def test_a_swatch_on_us_7_counted_to_the_inch(page, address, display):
    page.goto(f"{address}/construct?start_from=3-ply")
    page.wait_for_function("window.htmx")
    press(page, "Control+Enter")
    page.wait_for_url("**/designs/*")
    page.goto(page.url.split("?")[0] + "/finish")
    typed = {"needle": "US 7", "stitches_before": "5 per inch", "stitches_after": "4¾ per inch"}
    for field, text in typed.items():
        type_into(page, f"#{field}", text)
    press(page, "Enter")
    design = design_of(start("3-ply"), Settings())
    moments = EVALUATOR.moments(EVALUATOR.read(design), finish_of(design), 24.0)
    growth = moments["dried"].grown_from(moments["fresh"])
    words = swatch_words(read_swatch(typed, display.settings), growth, display)
    expect(page.locator(".noted")).to_contain_text(words)
    assert "−5" in words or "-5.0 %" in words


def test_a_patterns_gauge_says_how_thick(page, address, display):
    page.goto(f"{address}/project")
    type_into(page, "#gauge", "22 in 4 in")
    type_into(page, "#needle", "US 7")
    press(page, "Enter")
    wraps = float(wraps_for_gauge(22 / 4 / 25.4 * 100))
    expect(page.locator(".project-thick")).to_contain_text(f"{wraps:.0f} wpi finished")
    expect(page.locator(".project-thick")).to_contain_text(f"On {display.needle(4.5)} the cloth is looser than usual")


@pytest.mark.parametrize("size", [DESK, TABLET], ids=["desk", "tablet"])
@pytest.mark.parametrize(
    "path", ["/fibre", "/project?size=aran", "/settings", "/notebook", "/devices", "/designs/9/versions"]
)
def test_axe_finds_nothing(page, demo_address, path, size):
    open_at_size(page, demo_address + path, size)
    see_nothing_in_the_way(page, demo_address + path)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
