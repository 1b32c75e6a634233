"""Yarn measured in a photo: what marks by hand come to, and what looking finds in a process of its own."""

import json
import math
import subprocess
import sys
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from statistics import median

import numpy as np

from pebble_wheel.mechanics.photo.geometry import (
    centre_angle,
    envelope_over_silhouette,
    off_by_pointing,
    surface_angle,
    turns_by_bumps,
    turns_of_fibre,
)
from pebble_wheel.mechanics.photo.measure import Measured, measure
from pebble_wheel.mechanics.photo.scale import Scale, scale_in
from pebble_wheel.mechanics.photo.seen import Line
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
)
from pebble_wheel.notation.marks import Marks
from pebble_wheel.notation.picture import pixels_of

POINTED = 1.0
"""Pixels within which a point is set by hand, a standard deviation (assumed)."""

LONGEST = 15.0
"""Seconds that looking may take."""

BUMPS = 10
"""Bumps apart that two marks of the comb are set, where there are as many."""


def strands_in(model: NodeModel) -> int:
    """Return the strands of a yarn's last step, by which bumps are turns: of what is no ply one."""
    match model:
        case PlyModel():
            return sum(each.count for each in model.strands)
        case ChainModel():
            return 3
        case SingleModel() | BoughtModel() | CoreSpunModel() | WrappedModel():
            return 1


@dataclass(frozen=True)
class Figure:
    """A figure with the standard deviation that pointing gives it, in its own unit."""

    value: float
    off: float


@dataclass(frozen=True)
class Figures:
    """What marks come to; what was not marked is None."""

    px_per_mm: Figure | None = None
    apparent: Figure | None = None
    """mm."""
    enveloping: Figure | None = None
    turns: Figure | None = None
    """t/m, without sign."""
    way: str = ""
    centre: Figure | None = None
    """Angle of the strands' centre-lines [degrees]: what is called angle here; of a single that of its fibres."""
    surface: Figure | None = None
    """At the surface of the enveloping cylinder [degrees]."""


def figures_of(marks: Marks, strands: int) -> Figures:
    """Return what marks come to, with how far pointing may be off.

    Args:
        marks: in pixels.
        strands: of the last step; 1 of a single.
    """
    if marks.scale is None:
        return Figures(way=marks.way or "")
    long = math.dist(*marks.scale)
    scale = Figure(long / marks.apart, long / marks.apart * float(off_by_pointing(POINTED, long)))
    sure = scale.off / scale.value
    apparent = _length(marks.edges, scale.value, sure)
    over = envelope_over_silhouette(strands)
    enveloping = Figure(apparent.value * over, apparent.off * over) if apparent else None
    turns = _turns(marks, strands, scale.value, sure, apparent)
    centre = surface = None
    if turns and enveloping:
        off = math.hypot(turns.off / turns.value, enveloping.off / enveloping.value)
        around = surface_angle(turns.value, enveloping.value)
        inner = around if strands == 1 else centre_angle(turns.value, enveloping.value, strands)
        centre, surface = (_degrees(float(each), off) for each in (inner, around))
    return Figures(scale, apparent, enveloping, turns, _way(marks), centre, surface)


def _length(ends: tuple[float, float] | None, scale: float, sure: float) -> Figure | None:
    if ends is None:
        return None
    pixels = ends[1] - ends[0]
    value = pixels / scale
    return Figure(value, value * math.hypot(float(off_by_pointing(POINTED, pixels)), sure))


def _turns(marks: Marks, strands: int, scale: float, sure: float, apparent: Figure | None) -> Figure | None:
    if strands > 1:
        if marks.comb is None:
            return None
        pixels = marks.comb[1] - marks.comb[0]
        value = float(turns_by_bumps(marks.bumps, pixels / scale, strands))
        return Figure(value, value * math.hypot(float(off_by_pointing(POINTED, pixels)), sure))
    if marks.fibre is None or apparent is None:
        return None
    lean, long = _lean(marks)
    value = float(turns_of_fibre(abs(lean), apparent.value))
    turned = float(off_by_pointing(POINTED, long)) * 2 / max(math.sin(2 * abs(lean)), 0.05)
    return Figure(value, value * math.hypot(turned, apparent.off / apparent.value)) if value else None


def _lean(marks: Marks) -> tuple[float, float]:
    """Return the lean of the fibre to the line [radians; down to the right above zero], and its length [pixels]."""
    assert marks.fibre is not None
    line = marks.line or ((0.0, 0.0), (1.0, 0.0))
    ways = [math.atan2(b[1] - a[1], b[0] - a[0]) for a, b in (marks.fibre, line)]
    lean = (ways[0] - ways[1] + math.pi / 2) % math.pi - math.pi / 2
    return lean, math.dist(*marks.fibre)


def _way(marks: Marks) -> str:
    """Return which way it turns: what was said, else by the fibre that was marked; Z goes down to the right."""
    if marks.way or marks.fibre is None:
        return marks.way or ""
    return "Z" if _lean(marks)[0] > 0 else "S"


def _degrees(radians: float, share: float) -> Figure:
    """Return an angle whose tangent is off by a share."""
    return Figure(math.degrees(radians), math.degrees(share * math.sin(2 * abs(radians)) / 2))


def together(several: Sequence[Figures]) -> Figures:
    """Return the middle of several photos' figures: medians, and the spread of each from photo to photo."""

    def middle(name: str) -> Figure | None:
        own: list[Figure] = [value for each in several if (value := getattr(each, name)) is not None]
        if not own:
            return None
        values = [each.value for each in own]
        spread = float(np.std(values, ddof=1)) if len(values) > 1 else own[0].off
        return Figure(median(values), max(spread, median(each.off for each in own)) / len(values) ** 0.5)

    ways = {each.way for each in several if each.way}
    names = ("px_per_mm", "apparent", "enveloping", "turns", "centre", "surface")
    return Figures(**{name: middle(name) for name in names}, way=ways.pop() if len(ways) == 1 else "")


@dataclass(frozen=True)
class Found:
    """What looking found: marks as they would be typed, and why there are no more."""

    typed: dict[str, str] = field(default_factory=dict)
    refused: tuple[str, ...] = ()
    uneven: float | None = None
    """Standard deviation of the yarn's width along it, as a share."""


TOO_LONG = "too-long"


def look(picture: bytes, strands: int, line: tuple[tuple[float, float], tuple[float, float]] | None = None) -> Found:
    """Return what looking finds in a picture, in a process of its own that is ended when it takes too long.

    Args:
        picture: as it is kept.
        strands: of the last step.
        line: along which the yarn lies, where somebody drew it.
    """
    told = json.dumps({"strands": strands, "line": line}).encode()
    asked = len(told).to_bytes(4, "big") + told + picture
    command = [sys.executable, "-m", "pebble_wheel.workshop.photographed"]
    try:
        done = subprocess.run(command, input=asked, capture_output=True, timeout=LONGEST, check=True)  # noqa: S603
    except subprocess.TimeoutExpired:
        return Found(refused=(TOO_LONG,))
    except subprocess.CalledProcessError:
        return Found(refused=("no-yarn",))
    answer = json.loads(done.stdout)
    return Found(answer["typed"], tuple(answer["refused"]), answer["uneven"])


def seen(picture: bytes, strands: int, line: Sequence[Sequence[float]] | None = None) -> Found:
    """Return what looking finds in a picture, here and now; see :func:`look`."""
    pixels = pixels_of(picture).astype(np.float64)
    from_line = _line_of(line, pixels.shape) if line else None
    return found_in(measure(pixels, strands, from_line), scale_in(pixels.mean(axis=2)), strands, pixels.shape[1])


def _line_of(line: Sequence[Sequence[float]], shape: Sequence[int]) -> Line:
    (x, y), (u, v) = line
    wide = WIDE_BY_HAND * shape[0]
    return Line((x + u) / 2, (y + v) / 2, math.atan2(v - y, u - x), wide, math.inf)


WIDE_BY_HAND = 0.08
"""Of a picture's height, that a yarn is taken to be wide along a line drawn by hand, where nobody said."""


def found_in(measured: Measured, scale: Scale | None, strands: int, wide: int) -> Found:
    """Return what was measured as marks that can be typed and dragged."""
    typed: dict[str, str] = {}
    if scale:
        (ax, ay), (bx, by) = scale.ends
        typed |= _typed(ax=ax, ay=ay, bx=bx, by=by) | {"apart": f"{scale.apart:g} mm"}
    line, widths, turns = measured.line, measured.widths, measured.turns
    if line:
        half = 0.45 * wide / math.cos(line.tilt)
        left = (wide * 0.05 - line.x) / math.cos(line.tilt)
        ends = [
            (line.x + at * math.cos(line.tilt), line.y + at * math.sin(line.tilt)) for at in (left, left + 2 * half)
        ]
        typed |= _typed(px=ends[0][0], py=ends[0][1], qx=ends[1][0], qy=ends[1][1])
        if widths:
            middle = float(np.mean(widths.top + widths.foot)) / 2
            typed |= _typed(up=middle - widths.apparent / 2, down=middle + widths.apparent / 2)
        if turns:
            typed |= {"way": "Z" if turns.per_px > 0 else "S"}
            typed |= _combed(turns.per_px, 2 * half, strands) if strands > 1 else _leaning(measured, ends)
    return Found(typed, measured.refused, widths.uneven if widths else None)


def _combed(per_px: float, long: float, strands: int) -> dict[str, str]:
    """Return two marks of the comb, as many bumps apart as fit, at most :data:`BUMPS`."""
    between = 1 / (abs(per_px) * strands)
    bumps = max(min(BUMPS, int(0.8 * long / between)), 1)
    first = (long - bumps * between) / 2
    return _typed(**{"from": first, "to": first + bumps * between}) | {"bumps": f"{bumps}"}


def _leaning(measured: Measured, ends: Sequence[tuple[float, float]]) -> dict[str, str]:
    """Return a fibre that leans as those of a single do, in the middle of its line."""
    angle, widths, line = measured.angle(1), measured.widths, measured.line
    if angle is None or widths is None or line is None:
        return {}
    (px, py), (qx, qy) = ends
    x, y = (px + qx) / 2, (py + qy) / 2
    half = 0.35 * widths.apparent / max(abs(math.sin(angle)), 0.1)
    dx, dy = half * math.cos(line.tilt + angle), half * math.sin(line.tilt + angle)
    return _typed(lx=x - dx, ly=y - dy, mx=x + dx, my=y + dy)


def _typed(**pixels: float) -> dict[str, str]:
    return {name: f"{value:.1f}" for name, value in pixels.items()}


def main(sent: bytes) -> Mapping[str, object]:
    """Return what looking finds in what was sent: a length of four bytes, what is asked as JSON, and the picture."""
    long = int.from_bytes(sent[:4], "big")
    asked = json.loads(sent[4 : 4 + long])
    found = seen(sent[4 + long :], int(asked["strands"]), asked["line"])
    return {"typed": found.typed, "refused": found.refused, "uneven": found.uneven}


if __name__ == "__main__":
    sys.stdout.write(json.dumps(main(sys.stdin.buffer.read())))
