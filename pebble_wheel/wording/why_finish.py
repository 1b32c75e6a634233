"""Why each figure of the finishing screen is as it is."""

import math

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.finish.cloth import (
    BLOOM_SHOWS,
    BLOOM_SHOWS_IN_ROWS,
    DRY,
    NEEDLE,
    PLAIN,
    ROWS_SETTLE,
    SETTLES,
    STITCHES,
    TWILL,
    WET,
)
from pebble_wheel.mechanics.finish.moments import STILL_WET, WEIGHT_HIDES, AtMoment
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.wash.bloom import (
    BLOCKING,
    DRYING,
    FULLY_PACKED,
    IRONED,
    UNEVEN_LEFT,
    WASH,
    Finish,
    growth,
    shrinkage,
)
from pebble_wheel.mechanics.wash.resting import REST_HOURS, RESTS
from pebble_wheel.mechanics.wash.swelling import wet_length, wet_over_dry
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.why import CALIBRATED, DEFINITION, GEOMETRY, TRADE, Inputs, Why

ASHENHURST = "Ashenhurst, from memory."
MUNDEN = "Munden 1959, from memory."


def finish_why(key: str, at: AtMoment, reading: Reading, finish: Finish, display: Display) -> Why | None:
    """Return the reason of a figure at a moment; None where there is no such figure."""
    if not key:
        return None
    reasons: dict[str, tuple[str, str, str, Inputs, str]] = {
        "thick": (
            "Thickness",
            f"d · b,  b = 1 + B (1 − φ/{FULLY_PACKED})₊ p w h m;  wet: × (1 + s)",
            "Each strand blooms by its fibre and by what is done to it, and swells while wet. Eight of ten lie within.",
            [
                ("d, as plied", display.length_range(reading.diameter_as_plied)),
                *_blooming(reading, finish),
                *_swelling(reading, at),
            ],
            CALIBRATED + " Swelling: Morton and Hearle, from memory.",
        ),
        "wraps": (
            "Wraps per inch",
            f"{INCH} ÷ thickness",
            "Of the thickness at this moment.",
            [("thick", display.length_range(at.diameter))],
            DEFINITION,
        ),
        "leans": (
            "Angle",
            "tan β as plied ÷ length;  its unevenness · what handling leaves",
            "Drawn up, yarn has more turns to the length. Snapping and thwacking even its twist, apart from bloom.",
            [
                ("as plied", display.angle_range(reading.angle_band)),
                ("length", f"{at.length:.3f}"),
                ("unevenness left", f"{100 * UNEVEN_LEFT[finish.wash]:.0f} %"),
            ],
            GEOMETRY + " Levelling is assumed.",
        ),
        "length": (
            f"What {display.hundred} become",
            "length · (1 − ε · r);  wet: × (1 + s)",
            "The first wetting lets yarn draw up by ε; weight lets through a share r of it until the next wetting.",
            [
                ("ε · r, dried as chosen", f"{100 * float(shrinkage(reading.made.state, finish)):.1f} %"),
                ("s, wet fibre is longer", f"{100 * (wet_length(reading.made.state) - 1):.1f} %"),
            ],
            CALIBRATED,
        ),
        "grist": (
            "Grist",
            "tex as plied ÷ length",
            "The same fibre in less length. The water in it is not weighed.",
            [("as plied", display.grist(reading.resultant_tex)), ("length", f"{at.length:.3f}")],
            DEFINITION,
        ),
        "loop": (
            "The hung loop",
            "turns of the fresh loop · (1 − what does not show)",
            "Rest and weight only hide torque; water brings it back, and the loop turns as it did fresh.",
            [
                ("fresh", f"{abs(display.hung_turns(reading.balance.loop_turns)):.1f} turns"),
                ("hidden", f"{100 * at.hidden:.0f} %"),
            ],
            "Same energy as balance. " + CALIBRATED,
        ),
        "hidden": (
            "Torque that does not show",
            f"rest: {RESTS:g} (1 − e^(−hours/{REST_HOURS:g}));  weight: a share of its own",
            "Resting on the bobbin and drying under weight set twist for a while, not for good.",
            [(f"dried, {drying}", f"{100 * share:.0f} %") for drying, share in WEIGHT_HIDES.items()],
            CALIBRATED + " Rest uncertain by half; weight assumed.",
        ),
        "knit": (
            "Stitches, once washed",
            f"{STITCHES:g} · wraps per inch",
            "A little under half the wraps; knit a swatch and wash it.",
            [("wraps, finished", display.wpi_range(at.wpi))],
            TRADE,
        ),
        "unwashed": (
            "Stitches to knit",
            f"washed = unwashed · {SETTLES[1]:g} ÷ growth^{BLOOM_SHOWS:g}",
            "The cloth settles whatever the yarn does, and a yarn that blooms wants more room. Rows change less: "
            f"{ROWS_SETTLE[1]:g} ÷ growth^{BLOOM_SHOWS_IN_ROWS:g}.",
            [
                ("the cloth settles to", f"{SETTLES[0]:g} to {SETTLES[-1]:g} of its stitches"),
                ("growth of the yarn", f"{float(growth(reading.made.state, finish)):.2f}"),
            ],
            TRADE + " The powers are assumed: so wools loosen by what the trade finds.",
        ),
        "rows": (
            "Rows, once washed",
            f"stitches · {WET.rows:g} ÷ {WET.stitches:g}",
            "Loops of a plain knit lie in one proportion, relaxed wet.",
            [("wraps, finished", display.wpi_range(at.wpi))],
            MUNDEN,
        ),
        "swatch": (
            "Yarn in a swatch",
            f"stitches · rows · ℓ,  ℓ = {DRY.stitches:g} ÷ stitches in a length",
            "What a plain square takes off the needles, without its edges and tails.",
            [("rows to a stitch", f"{DRY.rows / DRY.stitches:.2f}"), ("wraps, finished", display.wpi_range(at.wpi))],
            MUNDEN,
        ),
        "needle": (
            "Needle to try",
            f"{NEEDLE:g} · thickness",
            "A larger one leaves room to bloom.",
            [("thick", display.length_range(at.diameter))],
            TRADE,
        ),
        "plain": (
            "Sett for plain weave",
            f"{PLAIN:g} of the diameters side by side",
            "As many gaps for the weft as ends.",
            [("thick", display.length_range(at.diameter))],
            ASHENHURST,
        ),
        "twill": (
            "Sett for 2/2 twill",
            "⅔ of the diameters side by side" if math.isclose(TWILL, 2 / 3) else f"{TWILL:g}",
            "Two ends to each gap for the weft.",
            [("thick", display.length_range(at.diameter))],
            ASHENHURST,
        ),
    }
    if key not in reasons:
        return None
    title, formula, words, inputs, source = reasons[key]
    return Why(key, title, "the yarn", formula, words, inputs, source)


def _blooming(reading: Reading, finish: Finish) -> Inputs:
    handled: Inputs = [("w, wash", f"{WASH[finish.wash]:g}"), ("h, drying", f"{DRYING[finish.drying]:g}")]
    if finish.ironed:
        handled.append(("m, crimp pressed flat", f"{IRONED:g}"))
    if finish.blocking != "none":
        handled.append(("blocking", f"{BLOCKING[finish.blocking]:g}"))
    return [*handled, ("b of the whole, dried so", f"{float(growth(reading.made.state, finish)):.2f}")]


def _swelling(reading: Reading, at: AtMoment) -> Inputs:
    if not at.wet:
        return []
    low, high = (float(end) - 1 for end in wet_over_dry(reading.made.state))
    share = STILL_WET if at.moment == "spun-out" else 1.0
    return [("s, swelling", f"{100 * share * low:.0f}–{100 * share * high:.0f} %")]
