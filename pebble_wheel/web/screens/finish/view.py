"""What the finishing screen shows: a value for each part of the page."""

from dataclasses import dataclass
from typing import get_args

from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.finish import (
    Measured,
    State,
    axis_svg,
    growth_scale,
    growth_svg,
    length_scale,
    length_svg,
    patches,
    skein_svg,
    swatch_svg,
)
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.yarn import Relief
from pebble_wheel.mechanics.finish import cloth
from pebble_wheel.mechanics.finish.alternatives import Washed
from pebble_wheel.mechanics.finish.moments import BLOOMED, MOMENTS, AtMoment, Moment
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import Fault
from pebble_wheel.notation.record import SKEIN_FIELDS, STITCH_OFF, SWATCH_FIELDS, Bloomed, Skein, Swatch
from pebble_wheel.store.designs import Kept
from pebble_wheel.store.records import DamagedRecord, Kind, Noted
from pebble_wheel.web.screens.finish.form import FinishForm, finished_as, section_of
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.drawn import strands_address, swatch_address, swatches_of
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording import titles
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.examples import Like, like
from pebble_wheel.wording.factors import Factor, factors_of
from pebble_wheel.wording.figures import Figure
from pebble_wheel.wording.finishing import (
    OF_CLOTH,
    OVER_WORDS,
    cloth_figures,
    moment_figures,
    skein_words,
    swatch_words,
    washed_words,
)
from pebble_wheel.wording.guesses import ABOUT_WORDS
from pebble_wheel.wording.hands import behind_words
from pebble_wheel.wording.moments import moment_words, rest_words
from pebble_wheel.wording.names import METHOD_WORDS, STAGE_WORDS
from pebble_wheel.wording.texture import section_words
from pebble_wheel.wording.washing import BLOCKING_WORDS, DRYING_WORDS, WASH_WORDS, Doing, bare_words, doings, hung_words
from pebble_wheel.wording.why import Why
from pebble_wheel.wording.why_finish import finish_why
from pebble_wheel.workshop.gestures import in_order


@dataclass(frozen=True)
class Point:
    """A moment on the timeline; one that this finish does not come to has no words."""

    moment: Moment
    words: str


@dataclass(frozen=True)
class Pictures:
    """The yarn as plied and at a moment, at one scale, with its loop and its hanging skein."""

    before: Markup
    after: Markup
    loop: Markup
    skein: Markup


@dataclass(frozen=True)
class Patches:
    """The yarn in cloth, close and at life size."""

    words: str
    close: Markup
    life: Markup


@dataclass(frozen=True)
class Ranked:
    """One variant of a yarn, washed."""

    drawing: Markup
    name: str
    size: str
    definition: float
    """Share of its grooves that stays open."""
    own: bool
    """Whether it is the design as it stands."""


@dataclass(frozen=True)
class NotedLine:
    """A measurement in a line."""

    kind: Kind
    id: int
    place: int
    """Among its like, from 1."""
    words: str


@dataclass(frozen=True)
class Struck:
    """A measurement just struck out."""

    kind: Kind
    id: int


@dataclass(frozen=True)
class Measurements:
    """What was measured, and the forms to note more."""

    axes: list[Markup]
    lines: list[NotedLine]
    typed: dict[str, str]
    faults: dict[str, str]
    noted: bool
    struck: Struck | None
    unkept: str
    damaged: list[DamagedRecord]
    gauge_in: str
    """The length that stitches and rows are counted in."""
    hung: str
    """The length that is folded and hung up."""
    like: Like


@dataclass(frozen=True)
class FinishView:
    """The page."""

    number: int
    name: str
    form: FinishForm
    changed: bool
    """Whether the finish is other than the one kept."""
    points: list[Point]
    now: AtMoment
    now_words: str
    figures: tuple[Figure, ...]
    rest_words: str
    pictures: Pictures
    doings: list[Doing]
    hung_words: str
    """What the weight hung in the skein does; empty where none is."""
    bare: str
    """What a bare single does in cloth; empty of any other yarn."""
    faults: dict[str, str]
    cloth: tuple[Figure, ...]
    swatches: list[Patches]
    """Off the needles, and washed."""
    ranking: list[Ranked]
    reason: Why | None
    factors: tuple[Factor, ...]
    measured: Measurements
    thread: Thread | None
    behind: str
    """From how many samples of whom its figures come."""
    sections: list[Choice]
    """Of a yarn that changes along its length, which can be looked at."""

    washes = choices_of(WASH_WORDS)
    dryings = choices_of(DRYING_WORDS)
    blockings = choices_of(BLOCKING_WORDS)
    overs = choices_of(OVER_WORDS)
    stages = choices_of(STAGE_WORDS)
    abouts = choices_of(ABOUT_WORDS)
    wets = choices_of({"dry": "dry", "wet": "wet"})
    methods = choices_of(METHOD_WORDS)
    ways = choices_of({"Z": "Z", "S": "S"})
    blooms = choices_of({each: each for each in get_args(Bloomed)})


@dataclass(frozen=True)
class Records:
    """What was measured of a design."""

    skeins: list[Noted[Skein]]
    swatches: list[Noted[Swatch]]
    damaged: list[DamagedRecord]


@dataclass(frozen=True)
class Noting:
    """What was just done with measurements, or what could not be noted."""

    typed: dict[str, str]
    faults: tuple[Fault, ...] = ()
    noted: bool = False
    struck: Struck | None = None
    unkept: str = ""
    """Why the store could not keep it."""


def view_of_finish(kept: Kept, form: FinishForm, records: Records, noting: Noting, desk: Desk) -> FinishView:
    """Return what the page shows.

    Raises:
        InputError: where the design cannot be made.
    """
    desk = desk.for_yarn(kept.id, kept.design)
    display, evaluator = desk.display, desk.evaluator
    design = finished_as(section_of(kept.design, form.section), form.model)
    reading = evaluator.read(design)
    moments = evaluator.moments(reading, form.finish, form.rest_hours)
    fresh, dried = moments["fresh"], moments["dried"]
    now = moments.get(form.at, dried)
    about = dried if form.asked in OF_CLOTH else now
    return FinishView(
        number=kept.id,
        name=kept.design.name,
        form=form,
        changed=form.model != kept.design.finish,
        points=[Point(each, _words(each, form) if each in moments else "") for each in MOMENTS],
        now=now,
        now_words=_words(now.moment, form),
        figures=moment_figures(now, display),
        rest_words=_rest_words(reading, form, desk) if now.moment == "rested" else "",
        pictures=_pictures(design, reading, moments, now, form, desk),
        doings=doings(form.model),
        hung_words=hung_words(form.model, display),
        bare=bare_words(kept.design.yarn),
        faults={fault.place: fault.message for fault in form.faults},
        cloth=cloth_figures(fresh, dried, display),
        swatches=_swatches(design, reading, form),
        ranking=_ranking(design, form, desk),
        reason=finish_why(form.asked, about, reading, form.finish, display),
        factors=factors_of(evaluator.constants),
        measured=_measured(moments, records, noting, display),
        thread=desk.load_thread(kept.id, "finish"),
        behind=behind_words(reading.constants, reading.node),
        sections=[
            Choice(f"{place}", section_words(each, kept.design, display))
            for place, (each, _) in enumerate(in_order(kept.design.sections or []))
        ],
    )


def _words(moment: Moment, form: FinishForm) -> str:
    return moment_words(moment, form.finish, form.rest_hours)


def _rest_words(reading: Reading, form: FinishForm, desk: Desk) -> str:
    """Return by how much a ply-back of the first single reads low after a rest."""
    spun = next((level.node for level in reading.levels if level.path in reading.singles), None)
    if spun is None:
        return ""
    return rest_words(desk.evaluator.rested_share(spun, form.rest_hours), form.rest_hours)


def _pictures(
    design: Design,
    reading: Reading,
    moments: dict[Moment, AtMoment],
    now: AtMoment,
    form: FinishForm,
    desk: Desk,
) -> Pictures:
    made, dress, fresh = reading.made, dress_of(design.yarn), moments["fresh"]
    scale = length_scale(made, max(each.grown_from(fresh) for each in moments.values()))
    colours = list(dress.shown())
    weighted = design.finish.drying if now.moment == "dried" and design.finish.wash != "none" else "free"
    relief = Relief(strands_address(design, reading.constants.middle_of(made.node)), form.painted)
    plied = State(bloomed=False, thick=1.0, length=1.0)
    before = length_svg(made, dress, "before", titles.AS_PLIED, scale, 1.0, fresh.diameter, False, relief, plied)
    grown, title = now.grown_from(fresh), titles.at_moment(now.moment)
    bloomed = now.moment in BLOOMED
    state = State(bloomed, grown / moments["dried"].grown_from(fresh) if bloomed else grown, now.length)
    after = length_svg(made, dress, "after", title, scale, grown, now.diameter, now.wet, relief, state)
    loop = loop_svg(now.loop_turns, now.diameter.p50, colours, titles.loop(now.loop_turns, desk.display))
    hung = now.loop_turns, tuple(colours), now.wet, weighted, titles.skein(now.moment)
    skein = desk.evaluator.recall((skein_svg, *hung), lambda: skein_svg(*hung))
    return Pictures(Markup(before), Markup(after), Markup(loop), Markup(skein))


def _swatches(design: Design, reading: Reading, form: FinishForm) -> list[Patches]:
    """Return a patch of plain knit before and after the wash, both at one scale."""
    middle = reading.constants.middle_of(reading.node)
    knits, colours = swatches_of(reading), tuple(dress_of(design.yarn).shown())
    sizes = patches(knits[0])
    found = []
    for washed, knit in enumerate(knits):
        said = titles.SWATCHES[washed]
        relief = Relief(swatch_address(design, bool(washed), middle), form.painted)
        close, life = (
            Markup(swatch_svg(knit, patch, colours, f"knit-{washed}-{name}", f"{said}, {name}", relief, bool(washed)))
            for name, patch in sizes.items()
        )
        found.append(Patches(said, close, life))
    return found


def _ranking(design: Design, form: FinishForm, desk: Desk) -> list[Ranked]:
    """Return the variants, what blooms most first."""
    found = desk.evaluator.alternatives(design, form.over)
    scale = growth_scale(max((each.diameter * each.high for each in found), default=1.0))
    return [_ranked(each, scale, form, desk.display) for each in found]


def _ranked(each: Washed, scale: float, form: FinishForm, display: Display) -> Ranked:
    words = washed_words(each, display)
    svg = growth_svg(each.diameter, each.growth, each.low, each.high, scale, titles.grown(words.name))
    finished_alike = (each.finish.wash, each.finish.drying) == (form.finish.wash, form.finish.drying)
    return Ranked(Markup(svg), words.name, words.size, each.definition, form.over == "finish" and finished_alike)


def _measured(moments: dict[Moment, AtMoment], records: Records, noting: Noting, display: Display) -> Measurements:
    fresh, dried = moments["fresh"], moments["dried"]
    growth = dried.grown_from(fresh)
    lines = [
        NotedLine("skein", each.id, place, skein_words(each.record, _predicted(each.record, fresh, dried), display))
        for place, each in enumerate(records.skeins, 1)
    ]
    lines += [
        NotedLine("swatch", each.id, place, swatch_words(each.record, growth, display))
        for place, each in enumerate(records.swatches, 1)
    ]
    axes = _axes(moments, records.skeins, display) + _gauge_axes(dried, growth, records.swatches, display)
    return Measurements(
        axes=[Markup(svg) for svg in axes],
        lines=lines,
        typed={**SKEIN_FIELDS, "method": display.settings.wpi_method, **SWATCH_FIELDS, **noting.typed},
        faults={fault.place: fault.message for fault in noting.faults},
        noted=noting.noted,
        struck=noting.struck,
        unkept=noting.unkept,
        damaged=records.damaged,
        gauge_in=display.square,
        hung=display.hung,
        like=like(display.settings),
    )


def _predicted(skein: Skein, fresh: AtMoment, dried: AtMoment) -> AtMoment:
    return dried if skein.stage == "finished" else fresh


def _axes(moments: dict[Moment, AtMoment], skeins: list[Noted[Skein]], display: Display) -> list[str]:
    """Return what was measured against what was predicted: wet with wet, dry with dry, each at its moment."""
    drawn = []
    for measured, wet, at, words in (
        ("plied", False, moments["fresh"], "as plied"),
        ("finished", True, moments.get("spun-out"), "wet"),
        ("finished", False, moments["dried"], "finished, dry"),
    ):
        numbered = [(place, each.record) for place, each in enumerate(skeins, 1)]
        own = [(place, each) for place, each in numbered if (each.stage, each.wet) == (measured, wet)]
        if at is None or not own:
            continue
        wraps = [_wraps(each, place) for place, each in own if each.wraps]
        if wraps:
            drawn.append(axis_svg(at.wpi, wraps, titles.relaxed_wraps(words), titles.measured(f"Wraps {words}")))
        weighed = [_weighed(each, each.tex, place, display) for place, each in own if each.tex]
        if weighed and not wet:
            unit = f"{display.settings.size}, {words}"
            drawn.append(axis_svg(display.sized(at.tex), weighed, unit, titles.measured(f"Weight {words}")))
    return drawn


def _gauge_axes(dried: AtMoment, growth: float, swatches: list[Noted[Swatch]], display: Display) -> list[str]:
    """Return the stitches counted against those to start from, before and after washing."""
    if not swatches:
        return []
    wraps = (dried.wpi.p10, dried.wpi.p50, dried.wpi.p90)
    washed = [float(cloth.stitches(each)) for each in wraps]
    knit = [float(cloth.off_the_needles(each, growth)) for each in washed]
    drawn = []
    for predicted, words, counted in (
        (knit, "unwashed", [each.record.stitches_before for each in swatches]),
        (washed, "washed", [each.record.stitches_after for each in swatches]),
    ):
        dots = [
            Measured(each, each * STITCH_OFF, f"swatch {place}, {each:.3g}")
            for place, each in enumerate(map(display.stitches, counted), 1)
        ]
        band = Band(*map(display.stitches, predicted))
        unit = f"stitches in {display.square}, {words}"
        drawn.append(axis_svg(band, dots, unit, titles.counted(f"Stitches {words}")))
    return drawn


def _wraps(skein: Skein, place: int) -> Measured:
    """Return counted wraps as relaxed ones, with how far the method may be off."""
    relaxed = skein.relaxed_wraps or 0.0
    return Measured(relaxed, relaxed * skein.wraps_off, f"skein {place}, {skein.method} {skein.wraps:g}")


def _weighed(skein: Skein, tex: float, place: int, display: Display) -> Measured:
    size = display.size(tex)
    return Measured(size, size * skein.tex_off, f"skein {place}")
