"""Pictures of finishing: yarn at one moment, a hanging skein, what was measured against a band, growth end on."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.svg import CSS_PX_PER_MM, mix, tag, words
from pebble_wheel.drawing.tubes import Tube, paint
from pebble_wheel.drawing.yarn import Frame, Relief, depth_of, strands_of, thickness
from pebble_wheel.mechanics.finish.knit import Knit, row
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.strand.state import Made

LENGTH = Frame(width=900, height=112, tallest=84, join_from=-300, join_to=-200)


@dataclass(frozen=True)
class State:
    """How a yarn stands at a moment, for a browser that draws it."""

    bloomed: bool
    thick: float
    """Thickness beside its bloom, over that as plied."""
    length: float
    """Over that as plied."""

    def told(self, wet: bool) -> dict[str, str | float]:
        """Return what the picture tells of it."""
        return {
            "data_bloom": int(self.bloomed),
            "data_thick": f"{self.thick:.4f}",
            "data_length": f"{self.length:.4f}",
            "data_wet": int(wet),
        }


WET = 0.32
"""How much darker wet fibre looks."""

SKEIN_STRANDS = 9
SKEIN_TURN = 0.5
"""Turns of the hanging skein to those of the loop: a picture, not a measurement."""


SKEIN_WIDTH, SKEIN_HEIGHT, SKEIN_TOP = 120.0, 220.0, 16.0
SKEIN_PULLED = {"free": 1.0, "light": 0.72, "heavy": 0.5}
"""How wide the skein gapes by the weight hung on it: a picture, not a measurement."""

SKEIN_LOADS = {"free": 0.0, "light": 12.0, "heavy": 24.0}
"""Pixels that a weight is high."""


def length_scale(made: Made, most: float) -> float:
    """Return the pixels per mm at which a yarn fits its picture when it has grown to ``most`` times its thickness."""
    return LENGTH.tallest / (thickness(made) * most)


def length_svg(
    made: Made,
    dress: Dress,
    name: str,
    title: str,
    scale: float,
    grown: float,
    sizes: Band,
    wet: bool,
    relief: Relief | None = None,
    state: State | None = None,
    at: float | None = None,
) -> str:
    """Return a length of yarn at one moment.

    Args:
        made: the yarn as plied.
        dress: its colours.
        name: unique in the page.
        title: what it shows, in words.
        scale: pixels per mm.
        grown: thickness of its strands over that as plied.
        sizes: apparent diameter, mm: eight of ten lengths lie between the lines.
        wet: whether it is wet, and looks darker.
        relief: where its strands are given.
        state: what a browser that draws them is told of the moment.
        at: which piece, mm from its beginning; None for one in which a colour changes.
    """
    painted = ""
    if relief is None or relief.painted:
        tubes = [
            replace(tube, width=tube.width * grown, colours=_wet(tube.colours, wet))
            for tube in strands_of(made, dress, LENGTH, scale, at=at)
        ]
        painted = tag("g", paint(tubes, name, **depth_of(made)), class_="painted")
    told = {**relief.told(LENGTH, scale=scale), **state.told(wet)} if relief and state else {}
    middle = LENGTH.height / 2
    edges = [middle + side * size * scale / 2 for size in (sizes.p10, sizes.p90) for side in (-1, 1)]
    lines = tag("path", d="".join(f"M0 {edge:.1f}h{LENGTH.width:.0f}" for edge in edges), class_="rim")
    return tag(
        "svg",
        words("title", title) + painted + lines,
        viewBox=f"0 0 {LENGTH.width:.0f} {LENGTH.height:.0f}",
        preserveAspectRatio="xMinYMid slice",
        role="img",
        class_="length",
        **told,
    )


@dataclass(frozen=True)
class Patch:
    """A patch of plain knit as a picture."""

    width: float
    height: float
    scale: float
    """Pixels per mm."""


CLOSE = (150.0, 120.0)
PRESSED = 0.85
"""Of its thickness, that a yarn in cloth is drawn: its loops press on each other (assumed)."""

STITCH_PIXELS = 34.0
"""Of a stitch off the needles, seen close."""


def patches(before: Knit) -> dict[str, Patch]:
    """Return a patch seen close, and as many stitches as fit it at life size."""
    return {
        "close": Patch(*CLOSE, STITCH_PIXELS / before.wale),
        "life": Patch(8.4 * before.wale * CSS_PX_PER_MM, 7.4 * before.course * CSS_PX_PER_MM, CSS_PX_PER_MM),
    }


def swatch_svg(
    cloth: Knit, patch: Patch, colours: tuple[str, ...], name: str, title: str, relief: Relief, bloomed: bool
) -> str:
    """Return a patch of plain knit, each row the way its yarn runs, as thick as that is.

    Args:
        cloth: the knit.
        patch: how much of it, and how large.
        colours: of the yarn's strands; without relief rows have them in turn.
        name: unique in the page.
        title: what it shows, in words.
        relief: where a row of it is given, strand by strand.
        bloomed: whether it has been washed.
    """
    tubes = []
    if relief.painted:
        x, y, z = row(cloth, int(patch.width / patch.scale / cloth.wale) + 3, 40) * patch.scale
        for number in range(int(patch.height / patch.scale / cloth.course) + 3):
            up = patch.height + (0.5 - number) * cloth.course * patch.scale - y
            wide = np.full_like(x, PRESSED * cloth.diameter * patch.scale)
            colour = (colours[number % len(colours)],)
            tubes.append(Tube(x - cloth.wale * patch.scale, up, z, wide, colour, np.zeros_like(x)))
    painted = tag("g", paint(tubes, name, fibres=0), class_="painted") if tubes else ""
    return tag(
        "svg",
        words("title", title) + painted,
        viewBox=f"0 0 {patch.width:.0f} {patch.height:.0f}",
        width=patch.width,
        height=patch.height,
        preserveAspectRatio="xMinYMid slice",
        role="img",
        class_="swatch",
        data_strands=relief.address,
        data_join=-cloth.wale * patch.scale,
        data_scale=f"{patch.scale:.5g}",
        data_length="1",
        data_thick=f"{PRESSED:g}",
        data_bloom=int(bloomed),
    )


def _wet(colours: tuple[str, ...], wet: bool) -> tuple[str, ...]:
    return tuple(mix(colour, "#06100c", WET) for colour in colours) if wet else colours


def skein_strands(turns: float, colours: Sequence[str], wet: bool, weight: str) -> tuple[list[Tube], float]:
    """Return the strands of a hanging skein from the peg down, and where across the picture its axis hangs."""
    down = np.linspace(0, 1, 90)
    turned = 2 * np.pi * SKEIN_TURN * float(np.clip(turns, -8, 8)) * down
    spread = (9 + 20 * np.sin(np.pi * np.clip(down * 0.94 + 0.04, 0, 1)) ** 0.6) * SKEIN_PULLED[weight]
    tubes = []
    for strand in range(SKEIN_STRANDS):
        side = 2 * np.pi * strand / SKEIN_STRANDS
        x = SKEIN_WIDTH / 2 + spread * np.cos(side + turned)
        depth = spread * np.sin(side + turned)
        y = SKEIN_TOP + down * (_skein_bottom(weight) - SKEIN_TOP)
        own = _wet((colours[strand % len(colours)],), wet)
        tubes.append(Tube(x, y, depth, np.full_like(x, 7.0), own, np.zeros_like(x)))
    return tubes, SKEIN_WIDTH / 2


def _skein_bottom(weight: str) -> float:
    return SKEIN_HEIGHT - 16 - SKEIN_LOADS[weight]


def skein_svg(turns: float, colours: Sequence[str], wet: bool, weight: str, title: str) -> str:
    """Return a hanging skein: open where the yarn is quiet, twisted on itself where it is not.

    Args:
        turns: of 30 cm of the yarn hung up, signed.
        colours: of its strands.
        wet: whether it is wet.
        weight: hung on it: ``free``, ``light`` or ``heavy``.
        title: what it shows, in words.
    """
    tubes, axis = skein_strands(turns, colours, wet, weight)
    load = SKEIN_LOADS[weight]
    hung = [tag("rect", x=axis - 30, y=6, width=60, height=10, rx=5, class_="peg")]
    if load:
        y = _skein_bottom(weight) - 2
        hung.append(tag("rect", x=axis - load * 0.7, y=y, width=load * 1.4, height=load, rx=4, class_="peg"))
    if wet:
        hung += [tag("path", d=f"M{x} {SKEIN_HEIGHT - 12:.0f}v9", class_="drip") for x in (46, 60, 74)]
    return tag(
        "svg",
        words("title", title) + paint(tubes, "skein", fibres=0, layers=11) + "".join(hung),
        viewBox=f"0 0 {SKEIN_WIDTH:.0f} {SKEIN_HEIGHT:.0f}",
        role="img",
        class_="skein",
    )


ROW = 36.0
"""Pixels for each measurement on an axis."""


@dataclass(frozen=True)
class Measured:
    """One measurement on an axis, with how far it may be off."""

    value: float
    off: float
    words: str


def axis_svg(predicted: Band, measured: list[Measured], unit: str, title: str) -> str:
    """Return a band with what was measured against it, on one axis."""
    low = min([predicted.p10, *(each.value - each.off for each in measured)])
    high = max([predicted.p90, *(each.value + each.off for each in measured)])
    room = 0.15 * (high - low) or abs(high) * 0.1 or 1.0
    low, high = low - room, high + room

    def x(value: float) -> float:
        return 8 + 584 * (value - low) / (high - low)

    height = 60 + ROW * len(measured)
    parts = [
        words("title", title),
        tag(
            "rect",
            x=x(predicted.p10),
            y=24,
            width=x(predicted.p90) - x(predicted.p10),
            height=height - 34,
            class_="axis-band",
        ),
        tag("path", d=f"M{x(predicted.p50):.1f} 24V{height - 10}", class_="axis-middle"),
    ]
    for value, anchor in ((predicted.p10, "end"), (predicted.p90, "start")):
        shift = -4 if anchor == "end" else 4
        parts.append(words("text", f"{value:.3g}", x=x(value) + shift, y=40, text_anchor=anchor, class_="axis-label"))
    parts.append(
        words("text", f"predicted, {unit}", x=x(predicted.p50), y=16, text_anchor="middle", class_="axis-label")
    )
    for place, each in enumerate(measured):
        y = 78 + ROW * place
        whisker = f"M{x(each.value - each.off):.1f} {y}H{x(each.value + each.off):.1f}"
        parts.append(tag("path", d=whisker, class_="axis-whisker"))
        parts.append(tag("circle", cx=x(each.value), cy=y, r=6, class_="axis-dot"))
        middle = float(np.clip(x(each.value), 90, 510))
        parts.append(words("text", each.words, x=middle, y=y - 11, text_anchor="middle", class_="axis-words"))
    return tag("svg", "".join(parts), viewBox=f"0 0 600 {height}", role="img", class_="axis")


def growth_scale(widest: float) -> float:
    """Return the pixels per mm at which the thickest of several yarns [mm] fits :func:`growth_svg`."""
    return 64 / widest


def growth_svg(diameter: float, growth: float, low: float, high: float, scale: float, title: str) -> str:
    """Return a yarn end on, as plied within as finished, with the band of its growth."""
    middle = 34.0
    radius = diameter / 2 * scale
    parts = [
        words("title", title),
        tag("circle", cx=middle, cy=middle, r=radius * high, class_="growth-most"),
        tag("circle", cx=middle, cy=middle, r=radius * growth, class_="growth-own"),
        tag("circle", cx=middle, cy=middle, r=radius * low, class_="growth-least"),
        tag("circle", cx=middle, cy=middle, r=radius, class_="growth-plied"),
    ]
    return tag("svg", "".join(parts), viewBox="0 0 68 68", role="img", class_="growth")
