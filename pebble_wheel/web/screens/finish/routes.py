"""The finishing screen of a design: bobbin to dry skein, what to do, what was measured, what would bloom."""

from contextlib import suppress
from dataclasses import dataclass
from typing import Any, cast, get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.finish import (
    Measured,
    axis_svg,
    growth_scale,
    growth_svg,
    length_scale,
    length_svg,
    skein_svg,
)
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.finish import cloth
from pebble_wheel.mechanics.finish.alternatives import Over, Washed, washed_over
from pebble_wheel.mechanics.finish.moments import MOMENTS, AtMoment, Moment, at_moments, rested
from pebble_wheel.mechanics.reading.reading import Reading, vary
from pebble_wheel.mechanics.reading.spread import Band
from pebble_wheel.mechanics.rest.balance import fold_turns
from pebble_wheel.mechanics.strand.structure import Rod
from pebble_wheel.mechanics.wash.bloom import FACTORS, Blocking, Drying, Finish, Wash
from pebble_wheel.notation.design import Design, FinishModel, finish_of, structure_of
from pebble_wheel.notation.draft import read_draft, write_draft
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.record import SKEIN_FIELDS, SWATCH_FIELDS, Skein, Swatch, read_skein, read_swatch
from pebble_wheel.store import designs, records
from pebble_wheel.web.screens.construct.routes import Sent
from pebble_wheel.web.shared.base import Database, Displayed, Number, is_htmx, render, templates
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.figures import OPEN_LOOP, Figure
from pebble_wheel.wording.washing import BLOCKING_WORDS, DRYING_WORDS, WASH_WORDS, doings
from pebble_wheel.wording.why_finish import finish_why
from pebble_wheel.workshop.answer import IN_TURN, read_of

router = APIRouter(prefix="/designs/{number}")

MOMENT_WORDS: dict[Moment, str] = {
    "fresh": "fresh off the wheel",
    "rested": "rested",
    "soaking": "soaking",
    "spun-out": "squeezed out",
    "dried": "dried",
    "next": "next wetting, dried free",
}
templates.env.globals["turns_to"] = Markup(' hx-target="#finish" hx-swap="none" hx-sync="#finish:queue all"')

OVER_WORDS: dict[Over, str] = {
    "finish": "in other washes",
    "preparation": "prepared otherwise",
    "fibre": "in other fibres",
}
OF_CLOTH = ("knit", "unwashed", "rows", "swatch", "needle", "plain", "twill")

SWATCH = 100.0
"""mm, the side of a swatch in metric units; 4 in otherwise."""
"""Figures that are of the dried yarn, whatever moment is looked at."""

REST_HOURS = 24.0
USUAL_GARMENT = 1000.0
"""mm, reckoned with where no width is given."""

STITCH_OFF = 0.03
"""A stitch miscounted in some thirty: assumed."""

KITCHEN_SCALE = 1.0
"""Grams."""


@dataclass(frozen=True)
class Asked:
    """What is looked at."""

    finish: Finish
    at: Moment
    over: Over
    rest_hours: float
    asked: str
    """Key of the figure whose reason is open."""


@dataclass(frozen=True)
class Point:
    """A moment on the timeline."""

    moment: Moment
    words: str


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


@router.get("/finish")
def show(request: Request, connection: Database, display: Displayed, number: Number) -> Response:
    """Show how a design is finished."""
    kept = designs.find(connection, number)
    asked = _asked(dict(request.query_params), kept.design)
    return _page(request, connection, display, kept, asked)


@router.post("/finish/look")
def look(request: Request, connection: Database, display: Displayed, number: Number, sent: Sent) -> Response:
    """Show the same while the wash or the moment is changed."""
    kept = designs.find(connection, number)
    return _page(request, connection, display, kept, _asked(_texts(sent), kept.design))


@router.post("/finish")
def keep(connection: Database, number: Number, sent: Sent) -> Response:
    """Keep the wash and the drying with the design."""
    kept = designs.find(connection, number)
    asked = _asked(_texts(sent), kept.design)
    design = _finished_as(kept.design, asked.finish)
    typed = kept.typed
    with suppress(InputError):  # of a design that came as a file
        typed = write_draft(read_draft(typed).model_copy(update=design.finish.model_dump()))
    designs.keep(connection, number, design, typed)
    return RedirectResponse(f"/designs/{number}/finish?at={asked.at}", 303)


@router.post("/skeins")
def note_skein(request: Request, connection: Database, display: Displayed, number: Number, sent: Sent) -> Response:
    """Keep a measured skein; on a fault nothing is kept and what was typed stays."""
    return _note(request, connection, display, number, _texts(sent), "skein")


@router.post("/swatches")
def note_swatch(request: Request, connection: Database, display: Displayed, number: Number, sent: Sent) -> Response:
    """Keep a swatch, likewise."""
    return _note(request, connection, display, number, _texts(sent), "swatch")


@router.post("/records/{kind}/{record}/{what}")
def strike(connection: Database, number: Number, kind: records.Kind, record: Number, what: str) -> Response:
    """Strike a record out, or bring it back."""
    designs.find(connection, number)
    if what == "strike":
        records.strike_out(connection, kind, number, record)
        return RedirectResponse(f"/designs/{number}/finish?struck={kind}-{record}#records", 303)
    records.bring_back(connection, kind, number, record)
    return RedirectResponse(f"/designs/{number}/finish#records", 303)


def _note(
    request: Request, connection: Database, display: Display, number: int, typed: dict[str, str], kind: records.Kind
) -> Response:
    kept = designs.find(connection, number)
    try:
        record = read_skein(typed, display.settings) if kind == "skein" else read_swatch(typed, display.settings)
    except InputError as error:
        asked = _asked({}, kept.design)
        return _page(request, connection, display, kept, asked, typed, error.faults)
    records.note(connection, number, record)
    return RedirectResponse(f"/designs/{number}/finish?noted={kind}#records", 303)


def _texts(sent: Any) -> dict[str, str]:
    return {field: value for field, value in sent.items() if isinstance(value, str)}


def _asked(typed: dict[str, str], design: Design) -> Asked:
    """Read what is looked at; what makes no sense is as the design has it."""
    own = design.finish
    ironed = own.mill_ironed if "wash" not in typed else typed.get("mill_ironed") == "yes"
    finish = Finish(
        cast(Wash, typed["wash"]) if typed.get("wash") in get_args(Wash) else own.wash,
        cast(Drying, typed["drying"]) if typed.get("drying") in get_args(Drying) else own.drying,
        ironed,
        cast(Blocking, typed["blocking"]) if typed.get("blocking") in get_args(Blocking) else own.blocking,
    )
    at = cast(Moment, typed["at"]) if typed.get("at") in MOMENT_WORDS else "dried"
    over = cast(Over, typed["over"]) if typed.get("over") in OVER_WORDS else "finish"
    rest = typed.get("rest", "")
    hours = min(float(rest), 200.0) if rest.isdecimal() and len(rest) < 4 else REST_HOURS
    return Asked(finish, at, over, hours, typed.get("ask", typed.get("asked", "")))


def _finished_as(design: Design, finish: Finish) -> Design:
    model = FinishModel(wash=finish.wash, drying=finish.drying, mill_ironed=finish.ironed, blocking=finish.blocking)
    return design.model_copy(update={"finish": model})


def _points(found: tuple[AtMoment, ...], asked: Asked) -> list[Point]:
    """Return every moment; one that this finish does not come to has no words."""
    there = {stage.moment: _moment_words(stage, asked) for stage in found}
    return [Point(moment, there.get(moment, "")) for moment in MOMENTS]


def _page(
    request: Request,
    connection: Database,
    display: Display,
    kept: designs.Kept,
    asked: Asked,
    typed: dict[str, str] | None = None,
    faults: tuple[Fault, ...] = (),
) -> Response:
    design = _finished_as(kept.design, asked.finish)
    reading = read_of(design)
    with IN_TURN:
        uneven = vary(reading.made, asked.finish, Rod())
        found = at_moments(reading.made, asked.finish, uneven, reading.balance.loop_turns, asked.rest_hours)
    now = next((stage for stage in found if stage.moment == asked.at), found[-2])
    skeins, swatches = records.skeins(connection, kept.id), records.swatches(connection, kept.id)
    struck = request.query_params.get("struck", "").partition("-")
    values = {
        "kept": kept,
        "asked": asked,
        "display": display,
        "changed": asked.finish != finish_of(kept.design),
        "points": _points(found, asked),
        "now": now,
        "now_words": _moment_words(now, asked),
        "figures": _figures(now, display),
        "reason": finish_why(
            asked.asked, found[-2] if asked.asked in OF_CLOTH else now, reading, asked.finish, display
        ),
        "rest_words": _ply_back(reading, asked.rest_hours) if now.moment == "rested" else "",
        "pictures": _pictures(design, reading, found, now),
        "doings": doings(asked.finish),
        "cloth": _cloth(found[0], found[-2], display),
        "factors": FACTORS,
        "axes": [*_axes(found, skeins), *_gauge_axes(found, swatches)],
        "skeins": [(noted, _skein_words(noted.record, found, display)) for noted in skeins],
        "swatches": [(noted, _swatch_words(noted.record, _growth(found[0], found[-2]), display)) for noted in swatches],
        "ranking": _ranking(design, asked, display),
        "typed": {**SKEIN_FIELDS, "method": display.settings.wpi_method, **SWATCH_FIELDS, **(typed or {})},
        "faults": {fault.place: fault.message for fault in faults},
        "noted": request.query_params.get("noted", ""),
        "struck": (struck[0], struck[2]) if struck[0] in get_args(records.Kind) and struck[2].isdecimal() else None,
        "wash_words": WASH_WORDS,
        "drying_words": DRYING_WORDS,
        "blocking_words": BLOCKING_WORDS,
        "over_words": OVER_WORDS,
    }
    return render(
        request,
        "screens/finish/follow.html" if is_htmx(request) else "screens/finish/page.html",
        422 if faults else 200,
        **values,
    )


def _moment_words(stage: AtMoment, asked: Asked) -> str:
    words = MOMENT_WORDS[stage.moment]
    if stage.moment == "rested":
        return f"rested {asked.rest_hours:.0f} h"
    if stage.moment == "dried":
        return "used as it is" if asked.finish.wash == "none" else f"dried, {DRYING_WORDS[asked.finish.drying]}"
    if stage.moment == "next" and asked.finish.wash in ("none", "steam"):
        return "first wetting, dried free"
    return words


def _figures(stage: AtMoment, display: Display) -> tuple[Figure, ...]:
    return (
        Figure("thick", display.length_range(stage.diameter), "thick"),
        Figure("wraps", display.wpi_range(stage.wpi), "wraps"),
        Figure("leans", display.angle_range(stage.angle), "leans"),
        Figure("100 m have become", f"{100 * stage.length:.1f} m", "length"),
        Figure("grist", display.grist(stage.tex), "grist"),
        Figure("30 cm hung up", _loop_words(stage.loop_turns), "loop"),
        Figure("torque that does not show", f"{100 * stage.hidden:.0f} %", "hidden"),
    )


def _loop_words(turns: float) -> str:
    return "open" if abs(turns) < OPEN_LOOP else f"{abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}"


def _ply_back(reading: Reading, hours: float) -> str:
    """Return by how much a ply-back of the first single reads low after a rest."""
    spun = next((level.node for level in reading.levels if level.path in reading.singles), None)
    if spun is None:
        return ""
    with IN_TURN:
        fresh, later = (abs(fold_turns(spun, rod)) for rod in (Rod(), rested(Rod(), hours)))
    return (
        f"After {hours:.0f} h on the bobbin a ply-back of the single reads about {100 * (1 - later / fresh):.0f} % low "
        "(half or twice that is possible). The twist is only asleep: water wakes it, so judge by a fresh ply-back."
    )


def _pictures(design: Design, reading: Reading, found: tuple[AtMoment, ...], now: AtMoment) -> dict[str, Markup]:
    """Return the yarn as plied and at a moment, at one scale, with its loop and its hanging skein."""
    made, dress = reading.made, dress_of(design.yarn)
    first = found[0]
    most = max(stage.diameter.p50 for stage in found) / first.diameter.p50
    scale = length_scale(made, most)
    colours = list(dress.shown())
    turned = f"{abs(now.loop_turns):.1f} turns {'Z' if now.loop_turns > 0 else 'S'}"
    weighted = design.finish.drying if now.moment == "dried" and design.finish.wash != "none" else "free"
    drawn = {
        "before": length_svg(made, dress, "before", "The yarn as plied", scale, 1.0, first.diameter, False),
        "after": length_svg(
            made,
            dress,
            "after",
            f"The yarn, {MOMENT_WORDS[now.moment]}",
            scale,
            now.diameter.p50 / first.diameter.p50,
            now.diameter,
            now.wet,
        ),
        "loop": loop_svg(now.loop_turns, now.diameter.p50, colours, f"A hung loop of 30 cm: {turned}"),
        "skein": skein_svg(
            now.loop_turns, colours, now.wet, weighted, f"The skein hanging, {MOMENT_WORDS[now.moment]}"
        ),
    }
    return {name: Markup(svg) for name, svg in drawn.items()}


def _growth(fresh: AtMoment, dried: AtMoment) -> float:
    """Return how much thicker the yarn is dried than fresh."""
    return dried.diameter.p50 / fresh.diameter.p50


def _cloth(fresh: AtMoment, dried: AtMoment, display: Display) -> tuple[Figure, ...]:
    """Return where to start in cloth."""
    thick, wpi, growth = dried.diameter, dried.wpi, _growth(fresh, dried)
    washed = [float(cloth.stitches(each)) for each in (wpi.p10, wpi.p90)]
    knit = [float(cloth.off_the_needles(each, growth)) for each in washed]
    rows = [float(cloth.rows(each, cloth.WET)) for each in washed]
    side, across = (4 * INCH, "4 × 4 in") if display.settings.imperial else (SWATCH, "10 × 10 cm")
    takes = sorted(float(cloth.swatch_yarn(side, each)) for each in knit)
    per, share = ("inch", INCH / 100) if display.settings.imperial else ("10 cm", 1.0)

    def span(low: float, high: float) -> str:
        ends = f"{min(low, high) * share:.0f}", f"{max(low, high) * share:.0f}"
        return f"{ends[0]} in {per}" if ends[0] == ends[1] else f"{ends[0]}–{ends[1]} in {per}"

    def setts(weave: float) -> str:
        return span(float(cloth.sett(thick.p90, weave)), float(cloth.sett(thick.p10, weave)))

    return (
        Figure("stitches, washed", span(*washed), "knit"),
        Figure("off the needles", span(*knit), "unwashed"),
        Figure("rows, washed", span(*rows), "rows"),
        Figure(f"swatch, {across}", display.metres_range(*takes), "swatch"),
        Figure("needle", f"{float(cloth.needle(thick.p10)):.1f}–{float(cloth.needle(thick.p90)):.1f} mm", "needle"),
        Figure("plain weave, ends", setts(cloth.PLAIN), "plain"),
        Figure("2/2 twill, ends", setts(cloth.TWILL), "twill"),
    )


def _axes(found: tuple[AtMoment, ...], skeins: list[records.Noted[Skein]]) -> list[Markup]:
    """Return what was measured against what was predicted: wet with wet, dry with dry, each at its moment."""
    stage = {each.moment: each for each in found}
    drawn = []
    for moment, wet, own, words in (
        ("plied", False, stage["fresh"], "as plied"),
        ("finished", True, stage.get("spun-out"), "wet"),
        ("finished", False, stage["dried"], "finished, dry"),
    ):
        numbered = ((place, each.record) for place, each in enumerate(skeins, 1))
        skeins_here = [(place, each) for place, each in numbered if (each.moment, each.wet) == (moment, wet)]
        if own is None or not skeins_here:
            continue
        wraps = [_wraps(each, place) for place, each in skeins_here if each.wraps]
        if wraps:
            drawn.append(
                axis_svg(
                    own.wpi, wraps, f"relaxed wraps per inch, {words}", f"Wraps {words}, measured against predicted"
                )
            )
        tex = [_tex(each, each.tex, place) for place, each in skeins_here if each.tex]
        if tex and not wet:
            drawn.append(axis_svg(own.tex_band, tex, f"tex, {words}", f"Weight {words}, measured against predicted"))
    return [Markup(each) for each in drawn]


def _gauge_axes(found: tuple[AtMoment, ...], swatches: list[records.Noted[Swatch]]) -> list[Markup]:
    """Return the stitches counted against those to start from, before and after washing."""
    if not swatches:
        return []
    stage = {each.moment: each for each in found}
    drawn = []
    wpi, growth = stage["dried"].wpi, _growth(stage["fresh"], stage["dried"])
    washed = [float(cloth.stitches(each)) for each in (wpi.p10, wpi.p50, wpi.p90)]
    knit = [float(cloth.off_the_needles(each, growth)) for each in washed]
    for foretold, words, counted in (
        (knit, "unwashed", [each.record.stitches_before for each in swatches]),
        (washed, "washed", [each.record.stitches_after for each in swatches]),
    ):
        start, middle, most = foretold
        dots = [
            Measured(each, each * STITCH_OFF, f"swatch {place}, {each:.3g}") for place, each in enumerate(counted, 1)
        ]
        title = f"Stitches {words}, counted against predicted"
        drawn.append(Markup(axis_svg(Band(start, middle, most), dots, f"stitches in 10 cm, {words}", title)))
    return drawn


def _wraps(skein: Skein, place: int) -> Measured:
    """Return counted wraps as relaxed ones, with how far the method may be off."""
    relaxed = skein.relaxed_wraps or 0.0
    return Measured(relaxed, relaxed * skein.wraps_off, f"skein {place}, {skein.method} {skein.wraps:g}")


def _tex(skein: Skein, tex: float, place: int) -> Measured:
    return Measured(tex, tex * KITCHEN_SCALE / (skein.grams or 1.0), f"skein {place}")


def _skein_words(skein: Skein, found: tuple[AtMoment, ...], display: Display) -> str:
    said = ["as plied" if skein.moment == "plied" else "finished", "wet" if skein.wet else "dry"]
    if skein.wraps:
        said.append(f"{skein.wraps:g} {skein.method} wraps")
    if skein.metres:
        said.append(display.metres(skein.metres))
    if skein.grams:
        said.append(display.grams(skein.grams))
    if skein.loop_turns is not None:
        predicted = next(each for each in found if each.moment == ("dried" if skein.moment == "finished" else "fresh"))
        said.append(f"loop {_loop_words(skein.loop_turns)}, predicted {_loop_words(predicted.loop_turns)}")
    return " · ".join([*said, skein.note] if skein.note else said)


def _foretold(growth: float, settles: tuple[float, float, float], shows: float) -> str:
    """Return the change of a gauge that is foretold, by how far the cloth settles [percent]."""
    ends = [100 * (float(cloth.settled(1.0, growth, each, shows)) - 1) for each in (settles[0], settles[-1])]
    return f"foretold {ends[0]:+.0f} to {ends[1]:+.0f} %"


def _swatch_words(swatch: Swatch, growth: float, display: Display) -> tuple[str, str, str, str]:
    """Return needle and gauge, change of stitches, change of rows, and what a garment would do."""
    across = float(cloth.change(swatch.stitches_before, swatch.stitches_after))
    gauge = f"{swatch.stitches_before:.3g} → {swatch.stitches_after:.3g} stitches"
    rows = "rows not counted"
    if swatch.rows_before and swatch.rows_after:
        rows = f"rows {100 * float(cloth.change(swatch.rows_before, swatch.rows_after)):+.1f} %, " + _foretold(
            growth, cloth.ROWS_SETTLE, cloth.BLOOM_SHOWS_IN_ROWS
        )
    width = swatch.garment_mm or USUAL_GARMENT
    wider = float(cloth.width_error(width, swatch.stitches_before, swatch.stitches_after))
    inches = (f"{width / INCH:.3g} in", f"{abs(wider) / INCH:.1f} in")
    cast_on, off = inches if display.settings.imperial else (f"{width / 10:.3g} cm", f"{abs(wider) / 10:.1f} cm")
    said = f"{cast_on} cast on by the unwashed gauge come out {off} {'wider' if wider > 0 else 'narrower'}"
    settled = f"stitches {100 * across:+.1f} %, " + _foretold(growth, cloth.SETTLES, cloth.BLOOM_SHOWS)
    return gauge, settled, rows, said


def _ranking(design: Design, asked: Asked, display: Display) -> list[Ranked]:
    """Return the variants, what blooms most first."""
    with IN_TURN:
        found = washed_over(structure_of(design.yarn), asked.finish, asked.over, Rod())
    scale = growth_scale(max((each.diameter * each.high for each in found), default=1.0))
    return [_ranked(each, scale, asked, display) for each in found]


def _ranked(each: Washed, scale: float, asked: Asked, display: Display) -> Ranked:
    name = _variant(each)
    title = f"{name}: as plied within as finished"
    grown = f"{100 * (each.low - 1):.0f}–{100 * (each.high - 1):.0f} % thicker"
    finished_alike = (each.finish.wash, each.finish.drying) == (asked.finish.wash, asked.finish.drying)
    return Ranked(
        Markup(growth_svg(each.diameter, each.growth, each.low, each.high, scale, title)),
        name,
        f"{display.length(each.diameter)}, then {grown}",
        each.definition,
        asked.over == "finish" and finished_alike,
    )


def _variant(washed: Washed) -> str:
    if washed.fibre:
        return washed.fibre.name
    if washed.prep:
        return f"{washed.prep}, {washed.draw} draw"
    if washed.finish.wash == "none":
        return "not washed"
    return f"{WASH_WORDS[washed.finish.wash]}, {DRYING_WORDS[washed.finish.drying]}"
