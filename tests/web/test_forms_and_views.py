"""What screens read and show, asked of their functions: limits of what is sent, and figures in their places."""

import asyncio
import math
import re
from dataclasses import replace
from urllib.parse import urlencode
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st
from starlette.datastructures import ImmutableMultiDict
from starlette.requests import Request

from pebble_wheel.drawing.finish import LENGTH
from pebble_wheel.drawing.grips import AIMED
from pebble_wheel.mechanics.finish.moments import MOMENTS
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.design import FinishModel, finish_of
from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.weights import WEIGHT_TABLES
from pebble_wheel.store.designs import Damaged, Kept, PutAway
from pebble_wheel.store.records import Noted
from pebble_wheel.web.screens.aim.form import read_form as read_aim
from pebble_wheel.web.screens.aim.view import view_of_aim
from pebble_wheel.web.screens.construct.form import read_work
from pebble_wheel.web.screens.construct.view import page_of, parts_of
from pebble_wheel.web.screens.finish.form import finished_as
from pebble_wheel.web.screens.finish.form import read_form as read_finish_fields
from pebble_wheel.web.screens.finish.view import Noting, Records, view_of_finish
from pebble_wheel.web.screens.shelf.view import Asked, NameFault, view_of_shelf
from pebble_wheel.web.shared.aimed import candidate_of
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.compare import line_of
from pebble_wheel.web.shared.forms import WRITTEN_OUT, sent_form
from pebble_wheel.web.shared.small import content_of, small_of
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.starts import start
from tests.evaluated import EVALUATOR

DESK = Desk(EVALUATOR, Display())


def sent(body: bytes, kind: str) -> list[tuple[str, str]]:
    """What is read of a form as a browser sends it."""

    async def receive():
        return {"type": "http.request", "body": body}

    request = Request({"type": "http", "headers": [(b"content-type", kind.encode())]}, receive)
    return asyncio.run(sent_form(request)).multi_items()


marked = st.text(alphabet='":,{}[]#%&=+;27A BbdDé☃', max_size=12)


@given(st.lists(st.tuples(marked, marked), max_size=6))
def test_a_form_is_read_as_it_was_typed(fields):
    body = urlencode(fields).encode()  # general-purpose reference: urllib
    assert sent(body, WRITTEN_OUT) == fields
    assert sent(body, f"{WRITTEN_OUT}; charset=utf-8") == fields


def test_of_a_form_with_files_the_words_are_read():
    lines = (
        '--edge\r\ncontent-disposition: form-data; name="words"\r\n\r\n{"soft": 1}\r\n'
        '--edge\r\ncontent-disposition: form-data; name="file"; filename="a.csv"\r\n\r\n1,2\r\n--edge--\r\n'
    )
    assert sent(lines.encode(), "multipart/form-data; boundary=edge") == [("words", '{"soft": 1}')]


def read_finish_form(typed, design, settings=None):
    return read_finish_fields(typed, design, settings or Settings())


INCHES = Desk(EVALUATOR, Display(in_units(Settings(), "imperial")))
DESIGN = design_of(start("3-ply"), Settings())
KEPT = Kept(7, DESIGN, write_draft(start("3-ply")), "2026-01-01", "0a")


def form(*pairs: tuple[str, str], **fields: str) -> ImmutableMultiDict:
    return ImmutableMultiDict([*pairs, *fields.items()])


def test_an_aim_is_held_within_its_limits():
    many = [("colours", f"#0000{number:02x}") for number in range(20)]
    held = read_aim(form(*many, ("colours", "red"), size="x" * 300, scale="9999"))
    assert len(held.aimed.colours) == 12 and len(held.aimed.typed["size"]) == 200 and held.scale == 400
    assert [read_aim(form(scale=text)).scale for text in ("0.2", "1", "400", "55.5", "wide")] == [
        1, 1, 400, 55.5, None,
    ]  # fmt: skip
    pins = [("pin", f"structure=3-ply&size={number}+wpi") for number in range(9)]
    assert len(read_aim(form(*pins)).pins) == 4
    full = read_aim(form(*pins[:4], do="pin-chain"))
    assert len(full.pins) == 4 and full.said == "4 are pinned: let one go first."
    assert read_aim(form(*pins[:3], do="pin-chain")).pins[3] == "structure=chain"
    assert read_aim(form(*pins[:3], do="unpin-1")).pins == (pins[0][1], pins[2][1])
    twelve = read_aim(form(*many[:12], do="more"))
    assert len(twelve.aimed.colours) == 12 and twelve.aimed.colours[-1] == "#00000b"
    assert read_aim(form(*many[:2], do="more")).aimed.colours == ("#000000", "#000001", UNDYED)
    assert read_aim(form(*many[:2], do="fewer")).aimed.colours == ("#000000",)
    assert read_aim(form(*many[:1], do="fewer")).aimed.colours == (UNDYED,)
    left = read_aim(form(("without", "crepe"), ("without", "rope"), do="leave-single", at="single"))
    assert (left.without, left.at) == (("crepe", "single"), "")
    assert read_aim(form(("without", "crepe"), ("without", "single"), do="bring-crepe")).without == ("single",)
    assert read_aim(form(("class", "9 wpi"), size="3 wpi")).aimed.typed["size"] == "9 wpi"


def test_the_address_of_an_aim_holds_what_was_changed_and_opens_it_again():
    held = read_aim(form(("colours", "#aa0000"), size="9 wpi", firm="35"))
    assert held.aimed.query == "size=9+wpi&colours=%23aa0000"
    assert read_aim(form()).aimed.query == ""
    found = candidate_of(DESK, f"structure=chain&{held.aimed.query}")
    assert found.name == "chain" and found.begun.name == "chain ply, 9 wpi finished"
    assert candidate_of(DESK, "structure=chain&size=9+wpi&stage=plied").begun.name == "chain ply, 9 wpi as plied"
    for query in ("structure=rope", "structure=chain&size=blue", ""):
        assert candidate_of(DESK, query) is None
    long = "&".join(["x=1"] * 59 + ["structure=chain"])
    assert candidate_of(DESK, long) is not None and candidate_of(DESK, f"x=1&{long}") is None


def test_the_aiming_screen_shows_what_it_found():
    view = view_of_aim(read_aim(form(at="crepe", size="9 wpi", ask="round@crepe")), DESK)
    found = view.found
    assert [hung.found.name for hung in found.rail if hung.in_hand] == ["crepe"] == [found.in_hand.hung.found.name]
    assert found.in_hand.hung.address == "/construct/aimed?structure=crepe&size=9+wpi"
    assert found.reason.key == "round@crepe" and found.compared is None and view.faults == {}
    assert found.picture.across == pytest.approx(25.4 / 9) and 0 < found.usual[0] < found.usual[1] < 100
    assert (view.least_ratio, view.most_ratio, view.most_weight) == (0.9, 1.35, 3)
    assert (view.at_rest, view.over_from, view.lively_from) == (0.95, 1.05, 1.25)  # the handbook's bands of balance
    held = view_of_aim(read_aim(form(at="crepe", scale="77")), DESK).found.picture
    assert held.scale == 77
    by_weight = view_of_aim(read_aim(form(at="crepe", size="300 tex")), DESK).found
    made = by_weight.in_hand.hung.found.judged.made
    assert by_weight.picture.across == pytest.approx(float(made.state.diameter))
    wrong = view_of_aim(read_aim(form(run="x", size="thick")), DESK)
    assert wrong.found is None and set(wrong.faults) == {"run", "size"} and wrong.more_open
    assert not view_of_aim(read_aim(form(size="thick")), DESK).more_open


@pytest.mark.parametrize(
    ("table", "first", "last"), [("council", "jumbo", "lace"), ("relaxed-wraps", "super bulky", "lace")]
)
def test_a_weight_class_is_picked_by_a_size_in_its_middle(table, first, last):
    display = Display(Settings(weight_table=table))
    classes = view_of_aim(read_aim(form()), Desk(EVALUATOR, display)).classes
    assert (classes[0].words, classes[-1].words) == (first, last)
    for each in classes:
        wraps = float(each.value.removesuffix(" wpi"))
        inside = [name for name, low, high in WEIGHT_TABLES[table] if low <= wraps < high]
        assert each.words in inside, each
    middle = {each.words: each.value for each in classes}
    assert middle["bulky"] == {"council": "7.5 wpi", "relaxed-wraps": "6.5 wpi"}[table]
    assert middle["lace"] == {"council": "33 wpi", "relaxed-wraps": "19.8 wpi"}[table]


def test_two_readings_differ_by_more_than_figures_are_good_for():
    assert line_of("x", ("100 t/m", "101.9 t/m", "102.1 t/m", "100 t/cm")).differs == (False, False, True, True)
    assert line_of("x", ("1,000 m", "1,015 m", "1,030 m")).differs == (False, False, True)


def test_the_work_of_a_page_is_held_within_its_limits():
    draft = write_draft(start("3-ply"))
    held = read_work(form(draft=draft, name="x" * 3000, of="yarn", twist="9" * 3000, wash="w" * 30, id="1" * 17), DESK)
    assert len(held.draft.name) == 2000 and len(held.draft.yarn.of("twist")) == 2000 and len(held.draft.wash) == 20
    assert held.number == int("1" * 17)
    for number in ("1" * 18, "-1", "x", ""):
        assert read_work(form(draft=draft, id=number), DESK).number is None
    reaches = [read_work(form(draft=draft, reach=text), DESK).reach for text in ("0", "1", "2", "3", "4", "5", "x", "")]
    assert reaches == ["arm", "hand", "table", "near", "loupe", "table", "table", "table"]
    assert read_work(form(draft=draft, picture="across"), DESK).picture == "across"
    assert read_work(form(draft=draft, picture="sideways"), DESK).picture == "along"
    assert read_work(form(draft=draft, at="yarn.strands[9].core"), DESK).at == "yarn"
    long = read_work(form(("hold", "size"), draft=draft, do="if-angle", **{"if-angle": "9" * 300}), DESK)
    assert len(long.moved["if-angle"]) == 200 and long.moved_faults[0].place == "if-angle"
    with pytest.raises(InputError):
        read_work(form(draft="{}"), DESK)
    assert read_work(form(), DESK).draft.yarn.kind == "ply"


def test_the_construction_screen_shows_its_parts():
    draft = write_draft(start("3-ply"))
    whole = page_of(read_work(form(draft=draft), DESK), DESK, "Kept.")
    assert whole.said == "Kept." and not whole.wrong and not whole.unmade and whole.refill
    assert whole.yarn.strip.part == "" and len(whole.yarn.strip.movable) == 4
    assert [row.in_hand for row in whole.yarn.levels.rows] == [True, False, False, False] and whole.reach == 2
    assert whole.most_reach == 4 and (whole.farthest, whole.nearest) == ("arm’s length", "loupe")
    single = parts_of(read_work(form(draft=draft, of="yarn.strands[1]", at="yarn.strands[1]"), DESK), DESK)
    assert not single.refill and single.hand.likes == 2 and single.yarn.strip.movable == []
    assert [card.in_hand for card in single.tree.cards] == [False, True, False, False]
    arm = parts_of(read_work(form(draft=draft, reach="0"), DESK), DESK)
    assert arm.yarn.caption.times_life == "1" and int(whole.yarn.caption.times_life) > 5
    assert parts_of(read_work(form(draft=draft, picture="across"), DESK), DESK).yarn.caption.times_life == ""
    broken = parts_of(read_work(form(draft=draft, of="yarn.strands[0]", at="yarn", size="x"), DESK), DESK)
    assert broken.yarn is None and broken.unmade and broken.wrong
    assert [(each.path, each.name) for each in broken.elsewhere] == [("yarn.strands[0]", "single")]
    assert [card.faulty for card in broken.tree.cards] == [True, False, False, False] and broken.faults == {}


def test_a_finish_is_read_within_its_limits():
    own = finished_as(DESIGN, FinishModel(wash="soak", drying="light", mill_ironed=True, blocking="severe"))
    assert finish_of(own) == Finish("soak", "light", True, "severe") == read_finish_form({}, own).finish
    junk = {"wash": "boil", "drying": "oven", "blocking": "hard", "at": "noon", "over": "all", "rest": "x"}
    read = read_finish_form(junk, own)
    assert read.finish == Finish("soak", "light", False, "severe") and (read.at, read.over) == ("dried", "finish")
    hours = [read_finish_form({"rest": text}, own).rest_hours for text in ("0", "48", "200", "999", "1000", "-1", "")]
    assert hours == [0, 48, 200, 200, 24, 24, 24]
    assert read_finish_form({"wash": "snap", "mill_ironed": "yes"}, own).finish.ironed


@pytest.mark.parametrize(
    ("weight", "units", "drying"),
    [("500 g", "metric", "light"), ("2", "imperial", "light"), ("2 lb", "imperial", "heavy")],
)
def test_a_weight_over_its_rounds_says_how_a_skein_dries(weight, units, drying):
    # 5 g a strand parts light from heavy (assumed); two strands to a round
    chosen = in_units(Settings(), units)
    read = read_finish_form({"hung_grams": weight, "hung_rounds": "60"}, DESIGN, chosen)
    assert read.finish.drying == drying == read.model.drying and not read.faults
    again = read_finish_form({}, finished_as(DESIGN, read.model), chosen)
    assert again.model == read.model and again.typed["hung_rounds"] == "60"


def test_finishing_in_peoples_ways_is_said_and_its_faults_keep_what_was_typed():
    wrong = read_finish_form({"hung_grams": "a brick", "hung_rounds": "6.5", "wash": "swing", "warm": "yes"}, DESIGN)
    assert {fault.place for fault in wrong.faults} == {"hung_grams", "hung_rounds"} and wrong.model.warm
    assert wrong.typed == {"hung_grams": "a brick", "hung_rounds": "6.5"} and wrong.finish.wash == "swing"
    hung = finish_of_view(hung_grams="500 g", hung_rounds="60")
    assert "500 g over 60 rounds is 4.2 g on a strand: a light weight" in hung.hung_words and not hung.bare
    twice = finish_of_view(wash="soak", again="yes", warm="yes").doings
    assert [each.timer for each in twice if each.minutes] == ["soak", "second soak", "rinse"]
    assert "grease" in twice[1].words
    bare = replace(KEPT, design=design_of(start("single"), Settings()))
    shown = view_of_finish(bare, read_finish_form({}, bare.design), Records([], [], []), Noting({}), DESK)
    assert "slants knitting" in shown.bare


def test_what_was_measured_stands_on_its_axis_with_how_far_it_may_be_off():
    def view(*skeins, swatches=(), desk=DESK):
        records = Records([Noted(n, each, "") for n, each in enumerate(skeins, 1)], list(swatches), [])
        return view_of_finish(KEPT, read_finish_form({}, DESIGN), records, Noting({}), desk)

    shown = view(Skein("finished", False, 100.0, 30.0, 12.0, "card", 1.0, "soft"))
    wraps, weight = (ElementTree.fromstring(axis) for axis in shown.measured.axes)
    assert spans(wraps) == as_read(wraps, 2 * 0.32 * 12.0)
    assert spans(weight) == as_read(weight, 2 * 1e5 / 300.0 / 30.0)  # m in 100 g, weighed to a gram
    assert [(line.kind, line.id, line.place) for line in shown.measured.lines] == [("skein", 1, 1)]
    assert "soft" in shown.measured.lines[0].words and "12 card wraps" in shown.measured.lines[0].words
    wet = view(Skein("finished", True, 100.0, 30.0, 12.0, "relaxed", None, ""))
    assert len(wet.measured.axes) == 1 and "wet" in wet.measured.axes[0]
    axis = ElementTree.fromstring(wet.measured.axes[0])
    assert spans(axis) == as_read(axis, 2 * 0.08 * 12.0)
    swatch = Swatch(4.0, 20.0, 18.0, None, None, None, "yes", "")
    counted = view(swatches=[Noted(3, swatch, "")])
    before, after = (ElementTree.fromstring(axis) for axis in counted.measured.axes)
    assert spans(before) + spans(after) == pytest.approx([2 * 0.03 * 20.0, 2 * 0.03 * 18.0], rel=0.03)
    assert (counted.measured.gauge_in, counted.measured.like.garment) == ("10 cm", "100 cm")
    inches = view(desk=INCHES).measured
    assert (inches.gauge_in, inches.like.garment, inches.hung) == ("4 in", "40 in", "12 in")


def ends_of(axis: ElementTree.Element) -> tuple[float, float]:
    """The labels at the ends of its band."""
    labels = [each.text for each in axis.iter("text") if each.get("class") == "axis-label"]
    low, high = (float(text) for text in labels if not text.startswith("predicted"))
    return low, high


def as_read(axis: ElementTree.Element, length: float):
    """A length as it can be read off by labels of three digits, and tenths of a pixel."""
    low, high = ends_of(axis)
    return pytest.approx([length], rel=0.006 + 10 ** (math.floor(math.log10(high)) - 2) / (high - low))


def spans(axis: ElementTree.Element) -> list[float]:
    """How long each whisker is in the unit of the axis, by the labels at the ends of its band."""
    low, high = ends_of(axis)
    band = next(each for each in axis.iter("rect"))
    per_unit = float(band.get("width")) / (high - low)
    paths = [each.get("d") for each in axis.iter("path") if each.get("class") == "axis-whisker"]
    ends = [[float(number) for number in re.findall(r"[\d.]+", path)] for path in paths]
    return [(right - left) / per_unit for left, _, right in ends]


def test_the_finishing_screen_shows_its_moments():
    shown = view_of_finish(KEPT, read_finish_form({"at": "soaking"}, DESIGN), Records([], [], []), Noting({}), DESK)
    assert [point.moment for point in shown.points] == list(MOMENTS) and all(point.words for point in shown.points)
    assert shown.now.moment == "soaking" and shown.now.wet and not shown.changed and shown.rest_words == ""
    steamed = view_of_finish(
        KEPT, read_finish_form({"wash": "steam", "at": "soaking"}, DESIGN), Records([], [], []), Noting({}), DESK
    )
    assert [point.words for point in steamed.points if point.moment in ("soaking", "spun-out")] == ["", ""]
    assert steamed.now.moment == "dried" and steamed.changed
    rested = view_of_finish(
        KEPT, read_finish_form({"at": "rested", "rest": "48"}, DESIGN), Records([], [], []), Noting({}), DESK
    )
    assert rested.now_words == "rested 48 h" and rested.rest_words.startswith("After 48 h on the bobbin")
    assert [each.own for each in rested.ranking].count(True) == 1
    growths = [float(re.search(r"(\d+)–(\d+) % thicker", each.size)[2]) for each in rested.ranking]
    assert growths == sorted(growths, reverse=True)


def test_the_shelf_shows_what_is_on_it():
    other, gone = Kept(8, DESIGN, "{}", "2026-01-02", "0b"), PutAway(9, "Gone")
    broken = Damaged(6, "Half", "{", "it no longer holds what was written")
    small = {content_of(DESIGN): small_of(DESIGN, DESK.evaluator)}
    found = Asked({}, 2, 50, 1)
    shelf = view_of_shelf(
        found, [KEPT, broken, other], [gone], small, {}, DESK.display, 9, NameFault(8, "", "too short")
    )
    assert [card.id for card in shelf.cards] == [7, 6, 8] and shelf.cards[1] is broken
    assert shelf.gone is gone and shelf.put_away == [gone]
    assert [shelf.cards[place].fault and shelf.cards[place].fault.message for place in (0, 2)] == [None, "too short"]
    card = shelf.cards[0]
    assert card.structure == "3-ply of Corriedale" and card.picture == f"/designs/7/small/{content_of(DESIGN)}.svg"
    assert re.fullmatch(r"balanced · \d+–\d+ wpi finished", card.facts) and card.designation
    assert view_of_shelf(found, [KEPT], [], {}, {}, DESK.display, gone=4).gone is None
    assert view_of_shelf(found, [KEPT], [], {}, {}, DESK.display).cards[0].facts == ""


def test_pages_of_the_shelf_lead_to_each_other():
    assert [Asked({"q": ""}, page, 50, 0).before for page in (1, 2)] == ["", "/?page=1"]
    assert [Asked({"q": "soft merino", "year": ""}, page, 49, 0).after for page in (2, 3)] == [
        "/?q=soft+merino&page=3",
        "",
    ]
    assert tuple(Asked({}, 1, count, 0).pages for count in (0, 24, 25)) == (1, 1, 2)


def finish_of_view(**typed: str):
    return view_of_finish(KEPT, read_finish_form(typed, DESIGN), Records([], [], []), Noting({}), DESK)


def test_the_pictures_of_finishing_are_at_one_scale_and_fit():
    fresh = finish_of_view(at="fresh", wash="full")
    before, after = (
        re.sub(r"(before|after)-|<title>.*?</title>", "", each)
        for each in (fresh.pictures.before, fresh.pictures.after)
    )
    assert before == after
    middles = []
    for moment in ("soaking", "spun-out", "dried", "next"):
        shown = finish_of_view(at=moment, wash="full")
        rim = next(
            each.get("d")
            for each in ElementTree.fromstring(shown.pictures.after).iter("path")
            if each.get("class") == "rim"
        )
        edges = [float(y) for y in re.findall(r"M0 ([-\d.]+)h", rim)]
        assert (
            len(edges) == 4 and all(0 < edge < 112 for edge in edges) and shown.pictures.before == fresh.pictures.before
        )
        middles.append((edges[1] - edges[0] + edges[3] - edges[2]) / 2)
    assert 0.85 * LENGTH.tallest < max(middles) <= LENGTH.tallest


def test_a_weight_hangs_on_the_skein_only_while_it_dries():
    def pegs(**typed):
        return finish_of_view(**typed).pictures.skein.count('class="peg"')

    assert pegs(at="dried", wash="soak", drying="heavy") == 2 and pegs(at="dried", wash="soak", drying="free") == 1
    assert pegs(at="dried", wash="none", drying="heavy") == 1 and pegs(at="fresh", wash="soak", drying="heavy") == 1


def test_what_was_measured_wet_has_no_axis_where_the_yarn_is_never_wet():
    wet = Noted(1, Skein("finished", True, None, None, 12.0, "relaxed", None, ""), "")
    steamed = view_of_finish(
        KEPT, read_finish_form({"wash": "steam"}, DESIGN), Records([wet], [], []), Noting({}), DESK
    )
    soaked = view_of_finish(KEPT, read_finish_form({"wash": "soak"}, DESIGN), Records([wet], [], []), Noting({}), DESK)
    assert (len(steamed.measured.axes), len(soaked.measured.axes)) == (0, 1)


def test_the_cut_as_finished_is_as_much_wider_as_the_yarn_grows():
    draft = write_draft(start("3-ply"))
    yarn = parts_of(read_work(form(draft=draft, picture="across"), DESK), DESK).yarn
    plied, finished = (
        float(each.get("r"))
        for each in ElementTree.fromstring(yarn.picture).iter("circle")
        if each.get("class") == "cut-width"
    )
    reading = EVALUATOR.read(DESIGN)
    assert finished / plied == pytest.approx(reading.diameter_finished.p50 / reading.diameter_as_plied.p50, rel=1e-3)


def test_however_thick_the_yarn_aimed_for_its_picture_fits():
    for size in ("40 mm", "2 mm", "0.3 mm"):
        picture = view_of_aim(read_aim(form(size=size, at="single")), DESK).found.picture
        assert picture.scale * picture.across <= AIMED.height + 1e-6
    classes = {each.words: each.value for each in view_of_aim(read_aim(form()), DESK).classes}
    assert classes["super bulky"] == "4.54 wpi" and classes["DK"] == "11.2 wpi"
