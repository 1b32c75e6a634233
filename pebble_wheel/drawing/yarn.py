"""The yarn across the screen: singles from the left run together and lie as a ply, to scale, with a ruler.

All sizes come from a settled state of the mechanics; only the short stretch where the singles come together is a
picture and not a measurement.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from pebble_wheel.drawing.svg import CSS_PX_PER_MM, group, tag, words
from pebble_wheel.drawing.tubes import LAYERS, NESTED_LAYERS, Tube, paint
from pebble_wheel.mechanics import kinds
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.state import Made, MadeLeaf, MadeNest, NestState, Seated, State
from pebble_wheel.mechanics.structure import CoreSpun, Wrapped

APART = 1.12
"""Space of a strand beside its neighbours, in its diameters."""

SCALES = (6, 9, 13, 20, 30, 45, 65, 95, 140, 210, 310)
"""Pixels per mm to choose from, so that a thicker yarn looks thicker until the next step."""

SAMPLES_PER_TURN = 36


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


def scale_for(made: Made, frame: Frame) -> float:
    """Return the pixels per mm at which the yarn fills the frame without touching it."""
    state = made.state
    thick = beside = float(state.diameter)
    if isinstance(state, NestState) and isinstance(made, MadeNest):
        outer = [2 * _reach(state, place) + float(each.state.diameter) for place, each in enumerate(state.seats)]
        thick = max(float(state.diameter) if isinstance(made.node, CoreSpun) else 0.0, *outer)
        beside = sum(APART * each.count * float(_own(made, each).diameter) for each in state.seats)
    fits = [each for each in SCALES if each * thick <= frame.tallest and each * beside <= 0.82 * frame.height]
    return float(fits[-1] if fits else min(frame.tallest / thick, 0.82 * frame.height / beside))


def draw_yarn(made: Made, colours: list[str], wedge: Wedge | None, imperial: bool, title: str) -> str:
    """Return the large drawing: the strands as made, the yarn, the angle laid on it, and the ruler."""
    frame = Frame()
    scale = scale_for(made, frame)
    tubes = strands_of(made, colours, frame, scale)
    parts = [words("title", title), paint(tubes, "yarn", **_depth(made)), _ruler(frame, scale, imperial)]
    if wedge and isinstance(made, MadeNest):
        parts.append(_wedge(float(made.state.angle), wedge, frame))
    size = f"0 0 {frame.width:.0f} {frame.height:.0f}"
    return tag("svg", "".join(parts), viewBox=size, preserveAspectRatio="xMinYMid slice", role="img", class_="yarn")


def draw_life_size(made: Made, colours: list[str], imperial: bool, title: str) -> str:
    """Return the drawing as a file of its own, as large in print as the yarn is."""
    frame = Frame()
    scale = scale_for(made, frame)
    tubes = paint(strands_of(made, colours, frame, scale), "yarn", **_depth(made))
    return tag(
        "svg",
        words("title", title) + tubes + _ruler(frame, scale, imperial),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {frame.width:.0f} {frame.height:.0f}",
        width=f"{frame.width / scale:.4f}mm",
        height=f"{frame.height / scale:.4f}mm",
    )


def draw_small(made: Made, colours: list[str], name: str, title: str) -> str:
    """Return the yarn alone as a small drawing for a list; all small drawings share one scale while they fit."""
    frame = Frame(width=420, height=72, tallest=66, join_from=-300, join_to=-200)
    scale = min(20.0, scale_for(made, frame))
    return tag(
        "svg",
        words("title", title) + paint(strands_of(made, colours, frame, scale), name, fibres=0, **_depth(made)),
        viewBox=f"0 0 {frame.width:.0f} {frame.height:.0f}",
        preserveAspectRatio="xMinYMid slice",
        role="img",
        class_="small-yarn",
    )


def magnification(made: Made) -> float:
    """Return how many times life size the large drawing is on a nominal screen."""
    return scale_for(made, Frame()) / CSS_PX_PER_MM


def _depth(made: Made) -> dict[str, Any]:
    """Return how finely to layer the drawing, and that only a plain ply hides its own back."""
    plain = isinstance(made, MadeLeaf) or (made.layout.plain and isinstance(made.members[0], MadeLeaf))
    if plain and not isinstance(made.node, CoreSpun):
        return {"layers": LAYERS}
    return {"layers": NESTED_LAYERS, "hidden": 1.0}


def strands_of(made: Made, colours: list[str], frame: Frame, scale: float) -> list[Tube]:
    """Return every single in pixels: as made and side by side on the left, laid on the right, smoothly between."""
    longest = 2.0 if isinstance(made.node, CoreSpun) else 6.0  # a growing wrap wants short pieces
    step = min(longest, max(1.0, 1000 * scale / (SAMPLES_PER_TURN * max(_fastest(made), 1e-6))))
    x = np.arange(min(-10.0, frame.join_from), frame.width + 12, step)
    together = _smooth((x - frame.join_from) / (frame.join_to - frame.join_from))
    middle = np.stack([x, np.full_like(x, frame.height / 2), np.zeros_like(x)])
    pen = _Pen(scale, step, together, iter(colours * (1 + 64 // len(colours))))
    if not isinstance(made, MadeNest):
        link = float(made.state.twist_now) / 1000
        return [pen.leaf(made, made.state, middle, link, link)]
    return list(
        pen.nest(made, made.state, middle, None, float(made.state.twist_now) / 1000, 1 / float(made.state.length))
    )


@dataclass
class _Pen:
    """Draws a structure level by level.

    Seen from outside, the members of a strand turn round its path by its link: what was inserted in it and in all
    that it is part of. That is additive, and so needs no frame carried along the path.
    """

    scale: float
    step: float
    together: FloatArray
    colours: Iterator[str]

    def leaf(self, made: MadeLeaf, now: State, path: FloatArray, loose: float, laid: float) -> Tube:
        """Return a single along its path, given its links as made and as laid [turns/mm of yarn]."""
        width = self._blend(float(made.state.diameter), float(now.diameter)) * self.scale
        return Tube(path[0], path[1], path[2], width, next(self.colours), self._turned(loose, laid))

    def nest(
        self, made: MadeNest, now: NestState, path: FloatArray, loose: float | None, laid: float, pieces: float
    ) -> Iterator[Tube]:
        """Yield the singles of a strand along its path.

        Args:
            made: the strand.
            now: its state in the yarn.
            path: centre-line in pixels: across, down, towards the eye.
            loose: its link as made [turns/mm]; None for the yarn itself, whose members come in side by side.
            laid: its link in the yarn [turns/mm of yarn].
            pieces: of it in a mm of yarn.
        """
        seen = list(made.state.seats)
        sizes = [float(_own(made, each).diameter) for each in seen]
        r = [float(member.state.diameter) / 2 for member in made.members]
        around = made.layout.azimuths([np.asarray(each) for each in r], [each**4 for each in r])
        beside = -sum(APART * size * each.count for size, each in zip(sizes, seen, strict=True)) / 2 * self.scale
        across, down = _frame(path)
        for place, (each, as_made) in enumerate(zip(now.seats, seen, strict=True)):
            member = made.members[each.member]
            radius = self._blend(float(as_made.radius), _reach(now, place)) * self.scale
            for direction in around[place]:
                beside += APART * sizes[place] * self.scale / 2
                turned = self._turned(0.0 if loose is None else loose, laid) + float(direction)
                if loose is None:
                    radius_here, off = self.together * radius, (1 - self.together) * beside
                else:
                    radius_here, off = radius, np.zeros_like(radius)
                own = path - radius_here * np.cos(turned) * across + radius_here * np.sin(turned) * down
                own[1] += off
                beside += APART * sizes[place] * self.scale / 2
                yield from self._member(member, each, as_made, own, loose, laid, pieces)
        if isinstance(made.node, CoreSpun):
            core, whole = float(made.members[0].state.diameter), float(now.diameter)
            begun = self.together > 0.02
            wrap = (self._blend(core, whole) * self.scale)[begun]
            x, y, depth = path[:, begun]
            yield Tube(x, y, depth + wrap, wrap, next(self.colours), self._turned(laid, laid)[begun])

    def _member(
        self,
        member: Made,
        each: Seated,
        as_made: Seated,
        path: FloatArray,
        loose: float | None,
        laid: float,
        pieces: float,
    ) -> Iterator[Tube]:
        own = pieces * float(each.feed)
        link = float(member.inserted) / 1000 * own + laid
        if loose is None:
            before = float(member.inserted) / 1000 / float(member.state.length)
        else:
            before = loose + float(member.inserted) / 1000 * own
        if isinstance(member, MadeNest):
            assert isinstance(each.state, NestState)
            yield from self.nest(member, each.state, path, before, link, own)
        else:
            yield self.leaf(member, each.state, path, before, link)

    def _blend(self, before: float, after: float) -> FloatArray:
        return (1 - self.together) * before + self.together * after

    def _turned(self, before: float, after: float) -> FloatArray:
        """Return the angle turned through along the picture, of links [turns/mm]."""
        return np.cumsum(2 * np.pi / self.scale * self._blend(before, after) * self.step)


def _frame(path: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the unit vectors square to a path: down the page, and towards the eye."""
    along = np.gradient(path, axis=1)
    along /= np.linalg.norm(along, axis=0)
    eye = np.array([[0.0], [0.0], [1.0]]) - along[2] * along
    eye /= np.linalg.norm(eye, axis=0)
    return np.cross(eye, along, axis=0), eye


def _fastest(made: Made) -> float:
    """Return the fastest winding of any strand that has members [turns/m]."""
    if not isinstance(made, MadeNest):
        return 0.0
    return max(abs(float(made.state.twist_now)), *(_fastest(member) for member in made.members))


def _reach(state: NestState, place: int) -> float:
    """Return how far from the axis a seat's centre-line is drawn: a wrapper stands off by its coils."""
    if isinstance(state.node, Wrapped) and place == 1:
        return kinds.wrapped(state).coil_radius
    return float(state.seats[place].radius)


def _own(made: MadeNest, each: Seated) -> State:
    return made.members[each.member].state


def _smooth(share: FloatArray) -> FloatArray:
    share = np.clip(share, 0, 1)
    return share**2 * (3 - 2 * share)


def _ruler(frame: Frame, scale: float, imperial: bool) -> str:
    unit_mm, small, name = (INCH, 1 / 32, "in") if imperial else (1.0, 0.2, "mm")
    per_unit = unit_mm * scale
    while small * per_unit < 5:
        small *= 2 if imperial else 5
    labelled = next((each for each in _labels(imperial) if each * per_unit >= 42), _labels(imperial)[-1])
    base = frame.height - 20
    ticks, figures = [], []
    for number in range(int(frame.width / (small * per_unit)) + 1):
        x, value = number * small * per_unit, number * small
        labels = abs(value / labelled - round(value / labelled)) < 1e-6
        ticks.append(f"M{x:.1f} {base}v{9 if labels else 4}")
        if labels and number and x < frame.width - 20:
            figures.append(words("text", _ruler_label(value, imperial), x=x, y=base + 19, text_anchor="middle"))
    figures.append(words("text", name, x=4, y=base + 19))
    line = tag(
        "path", d=f"M0 {base}H{frame.width:.0f}" + "".join(ticks), class_="ruler-line", stroke="#333", fill="none"
    )
    return group([line, *figures], class_="ruler")


def _labels(imperial: bool) -> tuple[float, ...]:
    return (1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4, 8) if imperial else (0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)


def _ruler_label(value: float, imperial: bool) -> str:
    if not imperial:
        return f"{value:g}"
    whole, part = divmod(round(value * 16), 16)
    fraction = {0: "", 4: "¼", 8: "½", 12: "¾"}.get(part, f"{part}/16" if part % 2 else f"{part // 2}/8")
    return f"{whole or ''}{fraction}" or "0"


def _wedge(angle: float, wedge: Wedge, frame: Frame) -> str:
    """Return the angle between the axis (or crosswise) and the lean of the strand nearest the eye."""
    x, y = 560.0, frame.height / 2
    steepest = np.pi / 2 if wedge.from_crosswise else wedge.angle
    length = min(118.0, 88.0 / max(np.sin(steepest), 0.1))  # the arms stay clear of the ruler
    # Z twist descends to the right where the yarn runs across the page; y points down the page.
    lean = wedge.angle * (1 if angle >= 0 else -1)
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
