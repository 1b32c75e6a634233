"""The yarn across the screen: singles from the left run together and lie as a ply, to scale, with a ruler.

All sizes come from a settled state of the mechanics; only the short stretch where the singles come together is a
picture and not a measurement.
"""

import math
import zlib
from base64 import b64encode
from collections.abc import Hashable, Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal, get_args

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.paths import APART, Stretch, fastest, own_state, strands_along, thinnest
from pebble_wheel.drawing.svg import CSS_PX_PER_MM, group, tag, words
from pebble_wheel.drawing.tubes import CROWDED_LAYERS, HANGING_LAYERS, LAYERS, NESTED_LAYERS, Tube, paint
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import Made, MadeLeaf, MadeNest, NestState, State
from pebble_wheel.mechanics.strand.structure import coiled, loop_of, wrap_of

SCALES = (6, 9, 13, 20, 30, 45, 65, 95, 140, 210, 310)
"""Pixels per mm to choose from, so that a thicker yarn looks thicker until the next step."""

Reach = Literal["arm", "hand", "table", "near", "loupe"]
REACHES = get_args(Reach)
"""How close one looks: at arm's length as large as life, on the table so that the yarn fills the picture."""

_CLOSER = {"near": 1.6, "loupe": 2.6}


ARM_AT = 115.0
"""Pixels from where the strands have come together to where the angle is laid on."""


PITCH_STEP = 1.03
"""By what a turn must be longer for small pictures to be told apart; of thickness and place it is a pixel."""

COVERED, COVERED_BY_MANY = {1: 1.0, 2: 1.0, 3: 0.9}, 0.75
"""Share of the depth behind which round strands in one ring lie wholly behind nearer ones, by their number."""

CROWD = 12
"""Strands, from which on each is too thin in the picture for fine layers."""

SAMPLES_PER_TURN, FEWEST_SAMPLES = 36, 8
"""Of the fastest winding: fewer where it is so thin that its bends cannot be seen."""

BEND_SEEN = 50.0
"""Pixels of strand from which on a bend is drawn finest."""

QUICKLY = 1
"""Of the levels of packing: finer ones save a twentieth and take three times as long."""


@dataclass(frozen=True)
class Frame:
    """The picture to fill."""

    width: float = 1280.0
    height: float = 240.0
    tallest: float = 136.0
    """The most pixels the yarn may be thick."""
    join_from: float = 285.0
    join_to: float = 445.0
    """Where the singles come together."""

    def stretch(self, scale: float) -> Stretch:
        """Return what is seen of a yarn at so many pixels per mm."""
        return Stretch(scale, self.width, self.height, self.join_from, self.join_to)


WIDE = Frame()

HANGING = Frame(width=170, height=112, tallest=96, join_from=-300, join_to=-200)
"""Across is down: a length of yarn that hangs."""


@dataclass(frozen=True)
class Wedge:
    """The angle to lay on the yarn."""

    angle: float
    """Radians from the axis, without sign."""
    from_crosswise: bool
    label: str


@dataclass(frozen=True)
class Relief:
    """Where the strands of a yarn are given, for a browser that draws it in relief beneath what is laid over it."""

    address: str
    painted: bool = True
    """Whether the yarn is painted here as well, for a browser that cannot."""
    given: str = ""
    """The strands themselves, :func:`closely` written, where a browser is sure to want them at once; none where it may
    have them already."""

    def told(self, frame: Frame, held: str = "", scale: float | None = None) -> dict[str, str | float]:
        """Return what the picture tells of it; the scale only where it is another than on the table."""
        told: dict[str, str | float] = {"data_strands": self.address, "data_join": frame.join_to, "data_held": held}
        if self.given:
            told["data_given"] = self.given
        return told if scale is None else {**told, "data_scale": f"{scale:.5g}"}


def closely(strands: bytes) -> str:
    """Return strands written so that they can stand in a page."""
    return b64encode(zlib.compress(strands, QUICKLY)).decode()


def scale_for(made: Made, frame: Frame, reach: Reach = "table") -> float:
    """Return the pixels per mm: on the table as many as let the yarn fill the frame without touching it."""
    fits = _fitting(made, frame)
    if reach == "arm":
        return min(fits, CSS_PX_PER_MM)
    if reach == "hand":
        return min(fits, (fits * CSS_PX_PER_MM) ** 0.5)
    return fits * _CLOSER.get(reach, 1.0)


def thickness(made: Made) -> float:
    """Return how thick a yarn is at its thickest view [mm]."""
    state = made.state
    if not isinstance(state, NestState):
        return float(state.diameter)
    outer = [2 * kinds.away(state, place) + float(each.state.diameter) for place, each in enumerate(state.seats)]
    return max(float(state.diameter) if wrap_of(made.node) else 0.0, *outer)


def _fitting(made: Made, frame: Frame) -> float:
    thick = beside = thickness(made)
    if isinstance(made, MadeNest):
        beside = sum(APART * each.count * float(own_state(made, each).diameter) for each in made.state.seats)
    fits = [each for each in SCALES if each * thick <= frame.tallest and each * beside <= 0.82 * frame.height]
    return float(fits[-1] if fits else min(frame.tallest / thick, 0.82 * frame.height / beside))


def yarn_svg(
    made: Made,
    dress: Dress,
    wedge: Wedge | None,
    inches: bool,
    title: str,
    reach: Reach = "table",
    held: str = "",
    scale: float | None = None,
    under: str = "",
    over: str = "",
    frame: Frame = WIDE,
    relief: Relief | None = None,
    ruled: bool = True,
) -> str:
    """Return the large drawing: the strands as made, the yarn, the angle laid on it, and the ruler.

    Args:
        made: the yarn.
        dress: its colours, and the paths of its parts.
        wedge: the angle to lay on it.
        inches: for the ruler.
        title: what the picture says, in words.
        reach: how close one looks.
        held: path of the part in hand, which is outlined.
        scale: pixels per mm, where it is not to be chosen here.
        under: what to draw beneath the yarn.
        over: and above all.
        frame: the picture to fill.
        relief: where its strands are given.
        ruled: whether a ruler lies at its foot.
    """
    told = relief.told(frame, held, scale) if relief else {}
    scale = scale or scale_for(made, frame, reach)
    painted = ""
    if relief is None or relief.painted:
        close = reach in _CLOSER
        tubes = strands_of(made, dress, frame, scale, held)
        painted = tag("g", paint(tubes, "yarn", 10 if close else 6, **depth_of(made, close)), class_="painted")
    parts = [words("title", title), under, painted, ruler(frame, scale, inches) if ruled else ""]
    if wedge and isinstance(made, MadeNest) and reach not in ("arm", "hand"):
        parts.append(_wedge(float(made.state.angle), wedge, frame))
    parts.append(over)
    return tag(
        "svg",
        "".join(parts),
        viewBox=f"0 0 {frame.width:.0f} {frame.height:.0f}",
        preserveAspectRatio="xMinYMid slice",
        role="img",
        class_="yarn",
        **told,
    )


def life_size_svg(made: Made, dress: Dress, inches: bool, title: str) -> str:
    """Return the drawing as a file of its own, as large in print as the yarn is."""
    frame = Frame()
    scale = scale_for(made, frame)
    tubes = paint(strands_of(made, dress, frame, scale), "yarn", **depth_of(made))
    return tag(
        "svg",
        words("title", title) + tubes + ruler(frame, scale, inches),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {frame.width:.0f} {frame.height:.0f}",
        width=f"{frame.width / scale:.4f}mm",
        height=f"{frame.height / scale:.4f}mm",
    )


def small_svg(made: Made, dress: Dress, name: str, title: str) -> str:
    """Return the yarn alone as a small picture, a file of its own; all of them share one scale while they fit."""
    frame = Frame(width=420, height=72, tallest=66, join_from=-300, join_to=-200)
    scale = min(20.0, scale_for(made, frame))
    return tag(
        "svg",
        words("title", title) + paint(strands_of(made, dress, frame, scale), name, fibres=0, **depth_of(made)),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {frame.width:.0f} {frame.height:.0f}",
        width=frame.width,
        height=frame.height,
        preserveAspectRatio="xMinYMid slice",
        role="img",
    )


def shape_of(made: Made, scale: float) -> tuple[Hashable, ...]:
    """Return all that a small picture shows of a yarn, as finely as it can be seen; of like shape, of like picture."""
    return tuple(_seen(made, made.state, scale))


def _seen(made: Made, now: State, scale: float) -> Iterator[Hashable]:
    twist = float(now.twist_now)
    pitch = np.log(scale / max(abs(twist), 1.0)) / np.log(PITCH_STEP)
    yield round(scale * float(now.diameter)), round(float(pitch)), twist > 0
    if isinstance(made, MadeNest) and isinstance(now, NestState):
        for place, seat in enumerate(now.seats):
            yield seat.member, seat.count, round(scale * kinds.away(now, place))
            yield from _seen(made.members[seat.member], seat.state, scale)


def hanging_scale(yarns: Iterable[Made]) -> float:
    """Return the pixels per mm at which all of several yarns fit side by side as :func:`hanging_svg` draws them."""
    return min((HANGING.tallest / thickness(made) for made in yarns), default=1.0)


def hanging_svg(made: Made, dress: Dress, name: str, title: str, scale: float, fine: bool = False) -> str:
    """Return a length of yarn hanging down, at a scale that several share; many side by side are shaded less finely."""
    depth = depth_of(made) if fine else {**depth_of(made), "layers": HANGING_LAYERS, "fine_from": np.inf}
    tubes = paint(strands_of(made, dress, HANGING, scale), name, fibres=0, **depth)
    return tag(
        "svg",
        words("title", title) + group([tubes], transform=f"translate({HANGING.height:.0f} 0) rotate(90)"),
        viewBox=f"0 0 {HANGING.height:.0f} {HANGING.width:.0f}",
        preserveAspectRatio="xMidYMin meet",
        role="img",
        class_="hanging",
    )


def magnification(made: Made, reach: Reach = "table") -> float:
    """Return how many times life size the large drawing is on a nominal screen."""
    return scale_for(made, Frame(), reach) / CSS_PX_PER_MM


def depth_of(made: Made, close: bool = False) -> dict[str, Any]:
    """Return how finely to layer the drawing, and how far back strands are covered by nearer ones."""
    strands = sum(each.count for each in made.state.seats) if isinstance(made, MadeNest) else 1
    hidden = 1.0 if wrap_of(made.node) or coiled(made.node) else COVERED.get(strands, COVERED_BY_MANY)
    plain = isinstance(made, MadeLeaf) or (made.layout.plain and isinstance(made.members[0], MadeLeaf))
    if plain and not wrap_of(made.node) and loop_of(made.node) is None:
        return {"layers": NESTED_LAYERS if close else LAYERS, "hidden": hidden}
    return {"layers": CROWDED_LAYERS if strands_within(made) > CROWD else NESTED_LAYERS, "hidden": hidden}


def strands_within(made: Made) -> int:
    """Return how many leaves a piece holds."""
    if not isinstance(made, MadeNest):
        return 1
    return sum(each.count * strands_within(made.members[each.member]) for each in made.state.seats)


def strands_of(
    made: Made, dress: Dress, frame: Frame, scale: float, held: str = "", at: float | None = None
) -> list[Tube]:
    """Return every single in pixels: as made and side by side on the left, laid on the right, smoothly between.

    The piece of yarn shown is the one at a place [mm], else one in which a strand of several colours changes.
    """
    longest = 2.0 if wrap_of(made.node) else 6.0  # a growing wrap wants short pieces
    seen = float(np.clip(scale * thinnest(made) / BEND_SEEN, 0, 1))
    samples = FEWEST_SAMPLES + seen * (SAMPLES_PER_TURN - FEWEST_SAMPLES)
    step = min(longest, max(1.0, 1000 * scale / (samples * max(fastest(made), 1e-6))))
    x = np.arange(min(-10.0, frame.join_from), frame.width + 12, step)
    return strands_along(made, dress, x, frame.stretch(scale), held, at)


@lru_cache(maxsize=64)
def ruler(frame: Frame, scale: float, inches: bool) -> str:
    """Return a ruler at the foot of a picture."""
    unit_mm, small, name = (INCH, 1 / 32, "in") if inches else (1.0, 0.2, "mm")
    coarser = 2 if inches else 5
    told: dict[str, str | float] = {
        "data_unit": f"{unit_mm:g}",
        "data_small": f"{small:g}",
        "data_coarser": coarser,
        "data_labels": " ".join(f"{value:g}={_ruler_label(value, inches)}" for value in _labels(inches)),
        "data_name": name,
    }
    per_unit = unit_mm * scale
    while small * per_unit < 5:
        small *= coarser
    labelled = next((each for each in _labels(inches) if each * per_unit >= 42), _labels(inches)[-1])
    base = frame.height - 20
    ticks, figures = [], []
    for number in range(int(frame.width / (small * per_unit)) + 1):
        x, value = number * small * per_unit, number * small
        labels = abs(value / labelled - round(value / labelled)) < 1e-6
        ticks.append(f"M{x:.1f} {base}v{9 if labels else 4}")
        if labels and number and x < frame.width - 20:
            figures.append(words("text", _ruler_label(value, inches), x=x, y=base + 19, text_anchor="middle"))
    figures.append(words("text", name, x=4, y=base + 19))
    line = tag(
        "path", d=f"M0 {base}H{frame.width:.0f}" + "".join(ticks), class_="ruler-line", stroke="#333", fill="none"
    )
    return group([line, *figures], class_="ruler", **told)


def _labels(inches: bool) -> tuple[float, ...]:
    return (1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4, 8) if inches else (0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)


def _ruler_label(value: float, inches: bool) -> str:
    if not inches:
        return f"{value:g}"
    whole, part = divmod(round(value * 16), 16)
    fraction = {0: "", 4: "¼", 8: "½", 12: "¾"}.get(part, f"{part}/16" if part % 2 else f"{part // 2}/8")
    return f"{whole or ''}{fraction}" or "0"


def arm(angle: float, wedge: Wedge, frame: Frame) -> tuple[float, float, float, float]:
    """Return where the arm of the wedge that lies on the strand begins, its length in pixels, and its lean [radians].

    Z twist descends to the right where the yarn runs across the page; y points down the page.
    """
    steepest = math.pi / 2 if wedge.from_crosswise else wedge.angle
    length = min(118.0, 88.0 / max(math.sin(steepest), 0.1))  # the arms stay clear of the ruler
    return frame.join_to + ARM_AT, frame.height / 2, length, wedge.angle * (1 if angle >= 0 else -1)


def _wedge(angle: float, wedge: Wedge, frame: Frame) -> str:
    """Return the angle between the axis (or crosswise) and the lean of the strand nearest the eye."""
    x, y, length, lean = arm(angle, wedge, frame)
    start = math.copysign(math.pi / 2, lean) if wedge.from_crosswise else 0.0
    ends = [(x + length * math.cos(a), y + length * math.sin(a)) for a in (start, lean)]
    arc = [(x + 0.72 * length * math.cos(a), y + 0.72 * length * math.sin(a)) for a in (start, lean)]
    sweep = 1 if lean > start else 0
    (ax, ay), (bx, by) = ends
    (cx, cy), (dx, dy) = arc
    reach = 0.72 * length
    slice_ = f"M{x} {y}L{cx:.1f} {cy:.1f}A{reach} {reach} 0 0 {sweep} {dx:.1f} {dy:.1f}Z"
    lines = f"M{x} {y}L{ax:.1f} {ay:.1f}M{x} {y}L{bx:.1f} {by:.1f}"
    return group(
        [
            tag("path", d=slice_, class_="wedge-fill"),
            tag("path", d=lines, class_="wedge-halo"),
            tag("path", d=lines, class_="wedge-line"),
            tag("rect", x=x + length + 10, y=y - 19, width=70, height=38, rx=8, class_="wedge-plate"),
            words("text", wedge.label, x=x + length + 45, y=y + 8, text_anchor="middle", class_="wedge-label"),
        ],
        class_="wedge",
    )
