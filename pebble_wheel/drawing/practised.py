"""The eye practised: a yarn by itself, what is turned on it, the answer laid on it, and how the eye has read."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.drawing.yarn import Frame, Relief, yarn_svg
from pebble_wheel.mechanics.strand.state import Made

ALONE = Frame(width=760, height=250, tallest=136, join_from=-140, join_to=-20)
"""A yarn whose strands have come together before the picture begins, so that nobody can count them there."""

LIFE = 12.0
"""Pixels to a mm of a yarn that the page shows as large as life."""

LIFE_WIDE, LIFE_HIGH = 110.0, 22.0
"""mm that are seen of it."""

ARM = 100.0
"""Pixels of the line that is turned."""

WIDE, HIGH, LEFT, TOP, BOTTOM = 260.0, 140.0, 4.0, 18.0, 38.0
RUNNING = 10
"""Answers that a running mean is taken over."""


def alone_svg(made: Made, dress: Dress, relief: Relief, title: str, over: str = "") -> str:
    """Return a yarn by itself, with what is laid over it."""
    return yarn_svg(made, dress, None, False, title, over=over, frame=ALONE, relief=relief, ruled=False)


def life_svg(made: Made, dress: Dress, relief: Relief, title: str, wraps: float | None = None) -> str:
    """Return a yarn that the page shows as large as life; once answered with an inch of wraps beneath it."""
    frame = Frame(width=LIFE_WIDE * LIFE, height=LIFE_HIGH * LIFE, join_from=-140, join_to=-20)
    over = _wraps(wraps, frame) if wraps else ""
    return yarn_svg(made, dress, None, False, title, scale=LIFE, over=over, frame=frame, relief=relief, ruled=False)


def _wraps(wraps: float, frame: Frame) -> str:
    """Return an inch divided into wraps."""
    inch, y = 25.4 * LIFE, frame.height - 8
    ticks = "".join(f"M{20 + inch * each / wraps:.1f} {y}v-26" for each in range(int(wraps) + 1))
    return tag("path", d=f"M20 {y}H{20 + inch:.1f}{ticks}M{20 + inch:.1f} {y}v-40", class_="practised-wraps")


@dataclass(frozen=True)
class Lies:
    """Where a yarn lies in a picture."""

    at: tuple[float, float] = (ALONE.width / 2, ALONE.height / 2)
    """Its middle [pixels]."""
    along: float = 0.0
    """By which it falls to the right [degrees]."""
    arm: float = ARM
    """Half of the line that is turned on it [pixels]."""


def turned(angle: float, z: bool, crosswise: bool, kind: Literal["asked", "given", "truth"], lies: Lies) -> str:
    """Return a line laid on a yarn; of the one that is moved also what it is turned from.

    Args:
        angle: degrees from the axis.
        z: whether the strands go down to the right.
        crosswise: whether the angle is taken from crosswise.
        kind: the one that is moved, or once it is answered what was said and what is true.
        lies: where the yarn lies.
    """
    lean = angle if z else -angle
    line = f"M{-lies.arm:.0f} 0H{lies.arm:.0f}"
    parts = [tag("path", d=line, transform=f"rotate({lean:.2f})", class_="turned-line")]
    if kind == "asked":
        parts.insert(0, tag("path", d=line, transform=f"rotate({90 if crosswise else 0})", class_="turned-base"))
    place = f"translate({lies.at[0]:.1f} {lies.at[1]:.1f}) rotate({lies.along:.2f})"
    return group(parts, transform=place, class_=f"turned {kind}", data_z="yes" if z else "no")


def photo_svg(address: str, width: int, height: int, title: str, over: str) -> str:
    """Return a photo with what lies on it."""
    picture = tag("image", href=address, width=width, height=height)
    return tag(
        "svg",
        words("title", title) + picture + over,
        viewBox=f"0 0 {width} {height}",
        role="img",
        class_="practised-photo",
    )


@dataclass(frozen=True)
class Over:
    """Answers over a time."""

    offs: Sequence[float]
    """By which each was off, the first first; of one that is right or wrong 0 or 1."""
    days: tuple[str, str]
    """Of the first and the last."""


def errors_svg(over: Over, bias: float, spread: float, title: str, ends: tuple[str, str]) -> str:
    """Return answers in their order as dots about zero, with the bias and the spread of the eye.

    Args:
        over: answers.
        bias: of the eye now.
        spread: of single answers about it.
        title: what the picture says.
        ends: what the upper and the lower side mean.
    """
    offs = over.offs
    reach = max(1.1 * float(np.max(np.abs(offs))) if len(offs) else 1.0, abs(bias) + 1.4 * spread)

    def x(place: float) -> float:
        return LEFT + (WIDE - 2 * LEFT) * (place + 0.5) / max(len(offs), 1)

    def y(value: float) -> float:
        return TOP + (HIGH - TOP - BOTTOM) * (0.5 - value / (2 * reach))

    high, low = y(bias + 1.2816 * spread), y(bias - 1.2816 * spread)
    parts = [
        words("title", title),
        tag("rect", x=LEFT, y=high, width=WIDE - 2 * LEFT, height=max(low - high, 1.0), class_="band-usual"),
        tag("path", d=f"M{LEFT} {y(0):.1f}H{WIDE - LEFT:.1f}", class_="band-zero"),
        tag("path", d=f"M{LEFT} {y(bias):.1f}H{WIDE - LEFT:.1f}", class_="band-middle"),
        *(tag("circle", cx=x(place), cy=y(off), r=3.2, class_="eye-dot") for place, off in enumerate(offs)),
        *_labels(ends, over.days),
    ]
    return tag("svg", "".join(parts), viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", class_="eye-picture")


def misses_svg(over: Over, title: str, ends: tuple[str, str]) -> str:
    """Return the share of wrong answers over the last :data:`RUNNING`, as it went, wrong ones as crosses beneath."""
    wrong = over.offs
    window = [float(np.mean(wrong[max(0, place - RUNNING + 1) : place + 1])) for place in range(len(wrong))]

    def x(place: float) -> float:
        return LEFT + (WIDE - 2 * LEFT) * (place + 0.5) / max(len(wrong), 1)

    def y(share: float) -> float:
        return TOP + (HIGH - TOP - BOTTOM) * (1 - share)

    line = "L".join(f"{x(place):.1f} {y(share):.1f}" for place, share in enumerate(window))
    parts = [
        words("title", title),
        tag("path", d=f"M{LEFT} {y(0):.1f}H{WIDE - LEFT:.1f}M{LEFT} {y(1):.1f}H{WIDE - LEFT:.1f}", class_="band-zero"),
        tag("path", d=f"M{line}", class_="band-middle") if window else "",
        *(
            tag("path", d=f"M{x(place) - 3:.1f} {y(0) - 3:.1f}l6 6m0 -6l-6 6", class_="eye-wrong")
            for place, each in enumerate(wrong)
            if each
        ),
        *_labels(ends, over.days),
    ]
    return tag("svg", "".join(parts), viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", class_="eye-picture")


def _labels(ends: tuple[str, str], days: tuple[str, str]) -> Iterator[str]:
    """Yield what is up and down, and the first day and the last."""
    yield words("text", ends[0], x=LEFT, y=12, class_="band-label")
    yield words("text", ends[1], x=LEFT, y=HIGH - BOTTOM + 16, class_="band-label")
    yield words("text", days[0], x=LEFT, y=HIGH - 4, class_="band-label")
    if days[1] != days[0]:
        yield words("text", days[1], x=WIDE - LEFT, y=HIGH - 4, text_anchor="end", class_="band-label")
