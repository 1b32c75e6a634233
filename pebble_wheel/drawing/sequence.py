"""A yarn that changes along its length, its sections end to end: as arrays for a browser, and as a drawing.

Every section is drawn as its own settled state has it; only the short joints, in which strands go over from one section
to the next, are a picture and not a measurement.
"""

from collections import Counter
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.paths import fastest, smooth, strands_straight
from pebble_wheel.drawing.svg import tag, words
from pebble_wheel.drawing.tubes import NESTED_LAYERS, Tube, paint
from pebble_wheel.drawing.wool import PER_TURN, STEPS, packed_tubes
from pebble_wheel.drawing.yarn import Frame, Relief, ruler, thickness
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.mechanics.wash.bloom import Finish

JOINT, MOST_JOINT = 1.5, 0.3
"""Length of half a joint: in thicknesses of the yarn, and of a section at the most."""

TUCKED = 0.05
"""Of its thickness, to which a strand is drawn where it ends in a joint."""

BESIDE = 6.0
"""mm beyond the picture that are worked out with it."""

ALONG = Frame(width=1280.0, height=160.0, tallest=112.0, join_from=-300.0, join_to=0.0)

Name = Hashable


@dataclass(frozen=True)
class Laid:
    """One section where it lies."""

    made: Made
    dress: Dress
    names: Mapping[tuple[str, int], Name]
    """Which strand of the whole yarn each of its strands is, by path and number."""
    begins: float
    """mm from the left edge of the picture."""
    ends: float
    place: float
    """mm of such yarn before it begins."""


def sequence_scale(laid: Sequence[Laid], wide: float) -> float:
    """Return the pixels per mm at which so many mm fill the picture, or the thickest place does."""
    return min(ALONG.width / wide, ALONG.tallest / max(thickness(each.made) for each in laid))


def packed_sequence(laid: Sequence[Laid], finish: Finish, scale: float) -> bytes:
    """Return sections as arrays, as ``wool.packed`` does, to be looked at in so many pixels per mm."""
    head = {
        "table": scale,
        "thick": max(thickness(each.made) for each in laid),
        "covered": 1.0,
        "join": [0.0, 0.0],
        "shorter": 0.0,
    }
    return packed_tubes(head, tubes_of(laid, 1.0, scale), finish)


def sequence_svg(laid: Sequence[Laid], scale: float, inches: bool, title: str, relief: Relief) -> str:
    """Return sections as a drawing with a ruler, to scale."""
    painted = ""
    if relief.painted:
        middle = ALONG.height / 2
        tubes = [replace(each, y=each.y + middle) for each in tubes_of(laid, scale, scale)]
        painted = tag("g", paint(tubes, "along", 0, layers=NESTED_LAYERS, hidden=1.0), class_="painted")
    return tag(
        "svg",
        words("title", title) + painted + ruler(ALONG, scale, inches),
        viewBox=f"0 0 {ALONG.width:.0f} {ALONG.height:.0f}",
        preserveAspectRatio="xMinYMid slice",
        role="img",
        class_="yarn along",
        **relief.told(ALONG, scale=scale),
    )


def tubes_of(laid: Sequence[Laid], units: float, scale: float) -> list[Tube]:
    """Return every single of sections end to end, those of one name meeting where sections do.

    Args:
        laid: sections in their order, each beginning where the one before ends.
        units: of the tubes, to a mm.
        scale: pixels per mm, by which samples are as close as can be seen.
    """
    found = [_tubes(each, units, scale) for each in laid]
    for place, (one, other) in enumerate(pairwise(laid)):
        thick = max(thickness(each.made) for each in (one, other))
        half = min(JOINT * thick, *(MOST_JOINT * (each.ends - each.begins) for each in (one, other))) * units
        _meet(found[place], found[place + 1], one.ends * units, half)
    return [tube for section in found for tube in section.values()]


def _tubes(laid: Laid, units: float, scale: float) -> dict[Name, Tube]:
    """Return the singles of a section by name, as far as they can be seen."""
    begins = max(laid.begins, -BESIDE)
    ends = min(laid.ends, ALONG.width / scale + BESIDE)
    shortest, longest = (pixels / scale for pixels in STEPS["near"])
    turn = 1000 / max(fastest(laid.made), 1e-6)
    step = float(np.clip(turn / PER_TURN["near"], min(shortest, turn / FEWEST_PER_TURN), longest))
    x = np.linspace(begins, ends, int(np.clip(np.ceil((ends - begins) / step), FEWEST, MOST)) + 1) * units
    seen: Counter[str] = Counter()
    named: dict[Name, Tube] = {}
    for tube in strands_straight(laid.made, laid.dress, x, units, laid.place + begins - laid.begins):
        number = seen[tube.part]
        seen[tube.part] += 1
        named[laid.names.get((tube.part, number), (tube.part, number))] = tube
    return named


FEWEST, MOST, FEWEST_PER_TURN = 6, 6000, 10
"""Steps along a section, and along a turn of its fastest strand however small it is seen."""


def _meet(before: dict[Name, Tube], after: dict[Name, Tube], at: float, half: float) -> None:
    """Lead strands of one name to one point where two sections meet, and tuck away those that end there."""
    near = 1e-6 * max(abs(at), 1.0)
    for name in {**before, **after}:
        one, other = before.get(name), after.get(name)
        one = one if one is not None and abs(one.x[-1] - at) < near else None
        other = other if other is not None and abs(other.x[0] - at) < near else None
        ends = [
            np.array([each.y[end], each.depth[end], each.width[end]]) for each, end in ((one, -1), (other, 0)) if each
        ]
        met = np.mean(ends, axis=0) if one and other else np.array([0.0, 0.0, TUCKED * ends[0][2] if ends else 0.0])
        for side, each in ((before, one), (after, other)):
            if each is None:
                continue
            share = smooth(1 - np.abs(each.x - at) / half)
            y, depth, width = (
                (1 - share) * was + share * to for was, to in zip((each.y, each.depth, each.width), met, strict=True)
            )
            side[name] = replace(each, y=y, depth=depth, width=width)
