"""The figures of finishing: of a yarn at a moment, of cloth, of what was measured, of what a wash would do."""

from dataclasses import dataclass

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.finish import cloth
from pebble_wheel.mechanics.finish.alternatives import Over, Washed
from pebble_wheel.mechanics.finish.moments import AtMoment
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.figures import OPEN_LOOP, Figure
from pebble_wheel.wording.lots import DRAW_WORDS
from pebble_wheel.wording.names import STAGE_WORDS
from pebble_wheel.wording.washing import DRYING_WORDS, WASH_WORDS

OVER_WORDS: dict[Over, str] = {
    "finish": "in other washes",
    "preparation": "prepared otherwise",
    "fibre": "in other fibres",
}
OF_CLOTH = ("knit", "unwashed", "rows", "swatch", "needle", "plain", "twill")
"""Figures that are of the dried yarn, whatever moment is looked at."""

SWATCH = 100.0
"""mm, the side of a swatch in metric units; 4 in otherwise."""

USUAL_GARMENT = 1000.0
"""mm, reckoned with where no width is given."""


def moment_figures(at: AtMoment, display: Display) -> tuple[Figure, ...]:
    """Return what is to be said of a yarn at a moment."""
    return (
        Figure("thick", display.length_range(at.diameter), "thick"),
        Figure("wraps", display.wpi_range(at.wpi), "wraps"),
        Figure("leans", display.angle_range(at.angle), "leans"),
        Figure(f"{display.hundred} have become", f"{100 * at.length:.1f} {display.settings.long_unit}", "length"),
        Figure("grist", display.grist(at.tex.p50), "grist"),
        Figure(f"{display.hung} hung up", loop_words(display.hung_turns(at.loop_turns)), "loop"),
        Figure("torque that does not show", f"{100 * at.hidden:.0f} %", "hidden"),
    )


def loop_words(turns: float) -> str:
    """Return how far a length hung up turns."""
    return "open" if abs(turns) < OPEN_LOOP else f"{abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}"


def cloth_figures(fresh: AtMoment, dried: AtMoment, display: Display) -> tuple[Figure, ...]:
    """Return where to start in cloth."""
    thick, wpi, growth = dried.diameter, dried.wpi, dried.grown_from(fresh)
    washed = [float(cloth.stitches(each)) for each in (wpi.p10, wpi.p90)]
    knit = [float(cloth.off_the_needles(each, growth)) for each in washed]
    rows = [float(cloth.rows(each, cloth.WET)) for each in washed]
    inches = display.settings.inches
    side, across = (4 * INCH, "4 × 4 in") if inches else (SWATCH, "10 × 10 cm")
    takes = sorted(float(cloth.swatch_yarn(side, each)) for each in knit)
    per, share = ("inch", INCH / 100) if inches else ("10 cm", 1.0)

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
        Figure(
            "needle", display.needle_range(*(float(cloth.needle(each)) for each in (thick.p10, thick.p90))), "needle"
        ),
        Figure("plain weave, ends", setts(cloth.PLAIN), "plain"),
        Figure("2/2 twill, ends", setts(cloth.TWILL), "twill"),
    )


def skein_words(skein: Skein, predicted: AtMoment, display: Display) -> str:
    """Return a measured skein in a line, its loop beside the one predicted."""
    said = [STAGE_WORDS[skein.stage], "wet" if skein.wet else "dry"]
    if skein.wraps:
        said.append(f"{skein.wraps:g} {skein.method} wraps")
    if skein.metres:
        said.append(display.metres(skein.metres))
    if skein.grams:
        said.append(display.grams(skein.grams))
    if skein.loop_turns is not None:
        own, meant = (loop_words(display.hung_turns(each)) for each in (skein.loop_turns, predicted.loop_turns))
        said.append(f"loop {own}, predicted {meant}")
    if skein.tied:
        said.append(f"kept: {skein.tied}")
    return " · ".join([*said, skein.note] if skein.note else said)


def swatch_words(swatch: Swatch, growth: float, display: Display) -> str:
    """Return a swatch in a line: gauge, change of stitches and rows, what a garment would do, and what was noted."""
    across = float(cloth.change(swatch.stitches_before, swatch.stitches_after))
    counted = [display.stitches(each) for each in (swatch.stitches_before, swatch.stitches_after)]
    gauge = f"{counted[0]:.3g} → {counted[1]:.3g} stitches in {display.square}"
    settled = f"stitches {100 * across:+.1f} %, {_predicted(growth, cloth.SETTLES, cloth.BLOOM_SHOWS)}"
    rows = "rows not counted"
    if swatch.rows_before and swatch.rows_after:
        change = 100 * float(cloth.change(swatch.rows_before, swatch.rows_after))
        rows = f"rows {change:+.1f} %, {_predicted(growth, cloth.ROWS_SETTLE, cloth.BLOOM_SHOWS_IN_ROWS)}"
    said = [gauge, settled, rows, _garment_words(swatch, display)]
    if swatch.needle_mm:
        said.append(f"needle {display.needle(swatch.needle_mm)}")
    said.append(f"bloomed: {swatch.bloomed}")
    return " · ".join([*said, swatch.note] if swatch.note else said)


def _garment_words(swatch: Swatch, display: Display) -> str:
    width = swatch.garment_mm or USUAL_GARMENT
    wider = float(cloth.width_error(width, swatch.stitches_before, swatch.stitches_after))
    cast_on, off = display.width(width), display.width(abs(wider), fine=True)
    return f"{cast_on} cast on by the unwashed gauge come out {off} {'wider' if wider > 0 else 'narrower'}"


def _predicted(growth: float, settles: tuple[float, float, float], shows: float) -> str:
    """Return the change of a gauge that is predicted, by how far the cloth settles [percent]."""
    ends = [100 * (float(cloth.settled(1.0, growth, each, shows)) - 1) for each in (settles[0], settles[-1])]
    return f"predicted {ends[0]:+.0f} to {ends[1]:+.0f} %"


@dataclass(frozen=True)
class WashedWords:
    """One variant of a yarn, washed, in words."""

    name: str
    size: str


def washed_words(washed: Washed, display: Display) -> WashedWords:
    """Return a variant of a yarn in words: what is other about it, and how it grows."""
    grown = f"{100 * (washed.low - 1):.0f}–{100 * (washed.high - 1):.0f} % thicker"
    return WashedWords(_variant(washed), f"{display.length(washed.diameter)}, then {grown}")


def _variant(washed: Washed) -> str:
    if washed.fibre:
        return washed.fibre.name
    if washed.prep:
        return f"{washed.prep}, drawn {DRAW_WORDS[washed.draw]}" if washed.draw else washed.prep or ""
    if washed.finish.wash == "none":
        return "not washed"
    return f"{WASH_WORDS[washed.finish.wash]}, {DRYING_WORDS[washed.finish.drying]}"
