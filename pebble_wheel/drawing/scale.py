"""Balance as a scale: where the chosen ply twist lies against the twist that would rest, and the schools' advice."""

import math
from functools import lru_cache

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.mechanics.reading.reading import Balance, School
from pebble_wheel.mechanics.rest.balance import RATIO_LIMITS

WIDTH, HEIGHT, LINE = 330.0, 92.0, 46.0
LOW, HIGH = 0.4, 1.7
ZONES = tuple(zip((LOW, *RATIO_LIMITS), (*RATIO_LIMITS, HIGH), ("under", "rest", "over", "lively"), strict=True))


def scale_svg(balance: Balance, schools: tuple[School, ...], title: str) -> str:
    """Return the scale, or nothing where no balanced twist lies on the chosen side."""
    if not math.isfinite(balance.ratio):
        return ""
    low, high = balance.ratio_band.p10, balance.ratio_band.p90
    band = tag("rect", x=_x(low), y=LINE - 4, width=_x(high) - _x(low), height=8, rx=4, class_="scale-band")
    parts = [_zones(), band]
    for school in schools:
        ratio = abs(school.turns_per_m) / balance.balanced
        parts.append(tag("path", d=f"M{_x(ratio):.1f} {LINE + 9}v9", class_="scale-school"))
    here = _x(balance.ratio)
    parts += [
        tag("path", d=f"M{here:.1f} {LINE - 10}l-8 -13h16z", class_="scale-mark"),
        words(
            "text",
            f"{balance.ratio:.2f}",
            x=min(max(here, 22), WIDTH - 22),
            y=17,
            text_anchor="middle",
            class_="scale-now",
        ),
        _names(),
    ]
    size = f"0 0 {WIDTH:.0f} {HEIGHT:.0f}"
    return tag("svg", words("title", title) + group(parts), viewBox=size, role="img", class_="balance-scale")


@lru_cache(maxsize=1)
def _zones() -> str:
    return "".join(
        tag("rect", x=_x(low), y=LINE - 9, width=_x(high) - _x(low), height=18, class_=f"zone-{name}")
        for low, high, name in ZONES
    )


@lru_cache(maxsize=1)
def _names() -> str:
    places = (("under", 0.66, "middle"), ("at rest", 1.0, "middle"), ("over", 1.17, "start"), ("lively", 1.5, "middle"))
    return "".join(words("text", name, x=_x(at), y=LINE + 34, text_anchor=anchor) for name, at, anchor in places)


def _x(ratio: float) -> float:
    return 4 + (min(max(ratio, LOW), HIGH) - LOW) / (HIGH - LOW) * (WIDTH - 8)
