"""What was learned of a spinner, as pictures: bands that narrow, and readings against what was foretold."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.svg import tag, words
from pebble_wheel.mechanics.reading.draws import P90

WIDE, HIGH, LEFT, TOP, BOTTOM = 300.0, 120.0, 6.0, 10.0, 22.0
ACROSS, ROW, BESIDE = 620.0, 30.0, 150.0
MOST_OFF = 4.0
"""Standard deviations that fit the axis; what lies farther is drawn at its end."""


@dataclass(frozen=True)
class Dot:
    """A reading on the axis."""

    off: float
    """In standard deviations of what was foretold."""
    words: str


def narrowing_svg(usual: float, at: Sequence[tuple[int, float, float]], title: str, ends: tuple[str, str]) -> str:
    """Return a factor's band over the yarns in time, on the band of a spinner of whom nothing is known.

    Args:
        usual: standard deviation of that band, about zero.
        at: after so many yarns, mean and standard deviation.
        title: what the picture says.
        ends: what the lower and the upper end of the usual band come to.
    """
    reach = max(1.35 * P90 * usual, *(abs(mean) + 1.1 * P90 * sd for _, mean, sd in at))
    last = max(at[-1][0], 1)

    def x(count: float) -> float:
        return LEFT + (WIDE - 2 * LEFT - 66) * count / last

    def y(value: float) -> float:
        return TOP + (HIGH - TOP - BOTTOM) * (0.5 - value / (2 * reach))

    band = [(x(count), y(mean + side * P90 * sd)) for side in (1, -1) for count, mean, sd in at[::side]]
    middle = [(x(count), y(mean)) for count, mean, _ in at]
    high, low = y(P90 * usual), y(-P90 * usual)
    parts = [
        words("title", title),
        tag("rect", x=LEFT, y=high, width=x(last) - LEFT, height=low - high, class_="band-usual"),
        tag("path", d=f"M{LEFT} {y(0):.1f}H{x(last):.1f}", class_="band-zero"),
        tag("path", d=f"M{_line(band)}Z", class_="band-own"),
        tag("path", d=f"M{_line(middle)}", class_="band-middle"),
        words("text", ends[1], x=x(last) + 6, y=high + 5, class_="band-label"),
        words("text", ends[0], x=x(last) + 6, y=low + 5, class_="band-label"),
        words("text", "0", x=LEFT, y=HIGH - 6, class_="band-label"),
        words("text", f"{at[-1][0]}", x=x(last), y=HIGH - 6, text_anchor="end", class_="band-label"),
    ]
    return tag("svg", "".join(parts), viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", class_="narrowing")


def _line(points: Sequence[tuple[float, float]]) -> str:
    return "L".join(f"{a:.1f} {b:.1f}" for a, b in points)


def foretold_svg(rows: Sequence[tuple[str, Sequence[Dot]]], title: str, ends: tuple[str, str]) -> str:
    """Return readings against what was foretold, an outcome a row: the band holds eight of ten.

    Args:
        rows: outcomes in words with their readings.
        title: what the picture says.
        ends: what lies on the left and on the right.
    """
    high = 34 + ROW * len(rows)

    def x(off: float) -> float:
        return BESIDE + (ACROSS - BESIDE - 12) * (0.5 + float(np.clip(off, -MOST_OFF, MOST_OFF)) / (2 * MOST_OFF))

    parts = [
        words("title", title),
        tag("rect", x=x(-P90), y=22, width=x(P90) - x(-P90), height=high - 30, class_="axis-band"),
        tag("path", d=f"M{x(0):.1f} 22V{high - 8}", class_="axis-middle"),
        words("text", ends[0], x=x(-MOST_OFF), y=14, class_="axis-label"),
        words("text", ends[1], x=x(MOST_OFF), y=14, text_anchor="end", class_="axis-label"),
    ]
    for place, (name, dots) in enumerate(rows):
        y = 40 + ROW * place
        parts.append(words("text", name, x=0, y=y + 5, class_="axis-words"))
        for each in dots:
            inside = abs(each.off) <= P90
            circle = tag(
                "circle",
                words("title", each.words),
                cx=x(each.off),
                cy=y,
                r=6,
                class_="dot-in" if inside else "dot-out",
            )
            parts.append(circle)
    return tag("svg", "".join(parts), viewBox=f"0 0 {ACROSS:.0f} {high:.0f}", role="img", class_="foretold")
