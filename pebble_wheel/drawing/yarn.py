"""The yarn across the screen: singles from the left run together and lie as a ply, to scale, with a ruler.

All sizes come from a settled state of the mechanics; only the short stretch where the singles come together is a
picture and not a measurement.
"""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.svg import CSS_PX_PER_MM, group, tag, words
from pebble_wheel.drawing.tubes import Tube, paint
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.state import PlyState, SingleState, State

SCALES = (6, 9, 13, 20, 30, 45, 65, 95, 140, 210, 310)
"""Pixels per mm to choose from, so that a thicker yarn looks thicker until the next step."""

SAMPLES_PER_TURN = 36
INCH_MM = 25.4


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


@dataclass(frozen=True)
class Wedge:
    """The angle to lay on the yarn."""

    angle: float
    """Radians from the axis, without sign."""
    from_crosswise: bool
    label: str


def scale_for(state: State, frame: Frame) -> float:
    """Return the pixels per mm at which the yarn fills the frame without touching it."""
    if isinstance(state, PlyState):
        thick = 2 * float(state.radius) + float(state.strand.diameter)
        beside = float(state.single.bobbin_diameter) * 1.12 * state.node.strands
    else:
        thick = beside = float(state.diameter)
    fits = [each for each in SCALES if each * thick <= frame.tallest and each * beside <= 0.82 * frame.height]
    return float(fits[-1] if fits else frame.tallest / thick)


def draw_yarn(state: State, colours: list[str], wedge: Wedge | None, imperial: bool, title: str) -> str:
    """Return the large drawing: singles, the ply, the angle laid on it, and the ruler."""
    frame = Frame()
    scale = scale_for(state, frame)
    tubes = _joining(state, colours, frame, scale)
    parts = [words("title", title), paint(tubes, "yarn"), _ruler(frame, scale, imperial)]
    if wedge and isinstance(state, PlyState):
        parts.append(_wedge(state, wedge, frame))
    size = f"0 0 {frame.width:.0f} {frame.height:.0f}"
    return tag("svg", "".join(parts), viewBox=size, preserveAspectRatio="xMinYMid slice", role="img", class_="yarn")


def draw_small(state: State, colours: list[str], name: str, title: str) -> str:
    """Return the yarn alone as a small drawing for a list; all small drawings share one scale."""
    frame = Frame(width=420, height=72, tallest=66, join_from=-300, join_to=-200)
    scale = min(20.0, scale_for(state, frame))
    tubes = _joining(state, colours, frame, scale)
    return tag(
        "svg",
        words("title", title) + paint(tubes, name, fibres=0),
        viewBox=f"0 0 {frame.width:.0f} {frame.height:.0f}",
        preserveAspectRatio="xMinYMid slice",
        role="img",
        class_="small-yarn",
    )


def magnification(state: State) -> float:
    """Return how many times life size the large drawing is on a nominal screen."""
    return scale_for(state, Frame()) / CSS_PX_PER_MM


def _joining(state: State, colours: list[str], frame: Frame, scale: float) -> list[Tube]:
    """Return the strands in pixels: side by side on the left, helices on the right, smoothly between."""
    middle = frame.height / 2
    single = state.single
    spun = 2 * np.pi * float(single.bobbin_twist) / 1000 / scale
    if isinstance(state, SingleState):
        x = np.arange(-10.0, frame.width + 10, 4.0)
        flat = np.zeros_like(x)
        return [Tube(x, flat + middle, flat, flat + float(state.diameter) * scale, colours[0], spun * x)]
    turns_per_px = float(state.twist_now) / 1000 / scale
    step = min(6.0, 1 / (SAMPLES_PER_TURN * max(abs(turns_per_px), 1e-6)))
    x = np.arange(min(-10.0, frame.join_from), frame.width + 12, step)
    together = _smooth((x - frame.join_from) / (frame.join_to - frame.join_from))
    radius = float(state.radius) * scale
    strands = state.node.strands
    inside = state.strand.diameter
    width = scale * ((1 - together) * float(_as_made(state)) + together * float(inside))
    gap = 1.12 * float(_as_made(state)) * scale
    # Seen from outside, a fibre turns with its strand, and a little more as the strand's own path winds.
    angle = float(state.angle)
    winding = (np.tan(angle) - np.sin(angle)) / radius
    in_ply = 2 * np.pi * float(state.strand.twist_now) / 1000 / scale / np.cos(angle) + winding
    turn = np.cumsum(((1 - together) * spun + together * in_ply) * step)
    tubes = []
    for strand in range(strands):
        around = 2 * np.pi * (turns_per_px * (x - frame.join_to) + strand / strands)
        beside = (strand - (strands - 1) / 2) * gap
        y = (1 - together) * beside - together * radius * np.cos(around)
        depth = together * radius * np.sin(around)
        tubes.append(Tube(x, middle + y, depth, width, colours[strand % len(colours)], turn))
    return tubes


def _as_made(state: PlyState) -> FloatArray:
    inner = state.strand
    return inner.bobbin_diameter if isinstance(inner, SingleState) else inner.diameter


def _smooth(share: FloatArray) -> FloatArray:
    share = np.clip(share, 0, 1)
    return share**2 * (3 - 2 * share)


def _ruler(frame: Frame, scale: float, imperial: bool) -> str:
    unit_mm, small, name = (INCH_MM, 1 / 32, "in") if imperial else (1.0, 0.2, "mm")
    per_unit = unit_mm * scale
    while small * per_unit < 5:
        small *= 2 if imperial else 5
    labelled = next(each for each in _labels(imperial) if each * per_unit >= 42)
    base = frame.height - 20
    ticks, figures = [], []
    for number in range(int(frame.width / (small * per_unit)) + 1):
        x, value = number * small * per_unit, number * small
        labels = abs(value / labelled - round(value / labelled)) < 1e-6
        ticks.append(f"M{x:.1f} {base}v{9 if labels else 4}")
        if labels and number and x < frame.width - 20:
            figures.append(words("text", _ruler_label(value, imperial), x=x, y=base + 19, text_anchor="middle"))
    figures.append(words("text", name, x=4, y=base + 19))
    line = tag("path", d=f"M0 {base}H{frame.width:.0f}" + "".join(ticks), class_="ruler-line")
    return group([line, *figures], class_="ruler")


def _labels(imperial: bool) -> tuple[float, ...]:
    return (1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4, 8) if imperial else (0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)


def _ruler_label(value: float, imperial: bool) -> str:
    if not imperial:
        return f"{value:g}"
    whole, part = divmod(round(value * 16), 16)
    fraction = {0: "", 4: "¼", 8: "½", 12: "¾"}.get(part, f"{part}/16" if part % 2 else f"{part // 2}/8")
    return f"{whole or ''}{fraction}" or "0"


def _wedge(state: PlyState, wedge: Wedge, frame: Frame) -> str:
    """Return the angle between the axis (or crosswise) and the lean of the strand nearest the eye."""
    x, y, length = 560.0, frame.height / 2, 118.0
    # Z twist descends to the right where the yarn runs across the page; y points down the page.
    lean = wedge.angle * (1 if float(state.angle) >= 0 else -1)
    start = np.copysign(np.pi / 2, lean) if wedge.from_crosswise else 0.0
    ends = [(x + length * np.cos(a), y + length * np.sin(a)) for a in (start, lean)]
    arc = [(x + 0.72 * length * np.cos(a), y + 0.72 * length * np.sin(a)) for a in (start, lean)]
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
        ]
    )
