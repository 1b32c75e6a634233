"""A yarn as arrays, from which a browser draws it in relief: every single's path, thickness, fibre angle and look.

A piece of data is a length of four bytes, a JSON head of so many, and behind it planes of whole numbers. A plane holds
the differences along one strand from sample to sample, the first from zero, folded so that small ones of either sign
are small (``2d`` or ``−2d − 1``): first the low bytes of all, then the high ones. x runs along the yarn, y up, z to the
eye.
"""

import json
import zlib
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby
from typing import Any, Literal

import numpy as np

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.look import look_of
from pebble_wheel.drawing.paths import Stretch, fastest, strands_along, strands_round
from pebble_wheel.drawing.svg import CSS_PX_PER_MM
from pebble_wheel.drawing.tubes import Tube
from pebble_wheel.drawing.yarn import WIDE, depth_of, scale_for, strands_within, thickness
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.finish.knit import Knit, row
from pebble_wheel.mechanics.strand.state import LeafState, Made, State
from pebble_wheel.mechanics.strand.structure import wrap_of
from pebble_wheel.mechanics.wash.bloom import Finish, growth, shrinkage

Span = Literal["near", "far"]
"""As much as fills the picture on the table, or as much as it holds at life size."""

PER_TURN: dict[Span, int] = {"near": 30, "far": 12}
"""Samples to a turn of the fastest winding."""

BEYOND = 1.75
"""Of what fills the picture on the table, in the near data: as much again can be seen from a little farther."""

STEPS: dict[Span, tuple[float, float]] = {"near": (1.6, 9.0), "far": (1.2, 3.0)}
"""Shortest and longest step between samples, in pixels of the farthest view of such data."""

MOST_SAMPLES: dict[Span, int] = {"near": 9_000, "far": 36_000}

COUNTS, ANGLE, SHADES = 30_000, 1e-4, 1e-3
"""Counts to the farthest place; radians, and colours, to a count."""

UNEVEN, WAVES = 0.022, (3.1, 7.3, 17.0)
"""How thick and thin a strand is drawn, a standard deviation, and over how many mm (a picture)."""


WALES, COURSES, LEAST_STITCH, MOST_STITCH = 12, 12, 36, 110
"""Stitches and rows of a swatch, and samples in a stitch."""


def packed(made: Made, dress: Dress, finish: Finish, span: Span = "near", at: float | None = None) -> bytes:
    """Return a yarn as plied and as it is washed: strands grow where they lie, and the yarn draws up.

    Args:
        made: the yarn.
        dress: its colours, and the paths of its parts.
        finish: how it is washed and dried.
        span: how much of it.
        at: which piece, mm from its beginning; None for one in which a colour changes.
    """
    table = scale_for(made, WIDE)
    shorter = float(shrinkage(made.state, finish))
    head = {
        "table": table,
        "thick": thickness(made),
        "covered": depth_of(made)["hidden"],
        "join": [WIDE.join_from / table, WIDE.join_to / table],
        "shorter": shorter,
    }
    return packed_tubes(head, _tubes(made, dress, span, table, shorter, at), finish)


def packed_swatch(made: Made, dress: Dress, finish: Finish, cloth: Knit) -> bytes:
    """Return a row of a plain knit of a yarn as :func:`packed` does, to be drawn again and again above itself."""
    per_stitch = int(np.clip(PER_TURN["near"] / 2 * cloth.length * fastest(made) / 1000, LEAST_STITCH, MOST_STITCH))
    tubes = strands_round(made, dress, row(cloth, WALES, per_stitch))
    head = {
        "table": 1.0,
        "thick": thickness(made),
        "covered": 1.0,
        "join": [0.0, 0.0],
        "shorter": 0.0,
        "rows": {"apart": cloth.course, "count": COURSES, "wale": cloth.wale},
    }
    return packed_tubes(head, tubes, finish)


def packed_tubes(head: dict[str, Any], tubes: list[Tube], finish: Finish) -> bytes:
    """Return strands [mm] as a piece of data, with what else its head says."""
    groups = [_Group.of(list(several)) for _, several in groupby(tubes, _kind)]
    unit = max(float(np.abs(group.places).max()) for group in groups) / COUNTS
    alike = {id(tube.now): tube.now for tube in tubes if tube.now is not None}
    kinds = {key: (place, now) for place, (key, now) in enumerate(alike.items())}
    planes = b"".join(group.planes(unit) for group in groups)
    head = {
        **head,
        "unit": unit,
        "angle": ANGLE,
        "shades": SHADES,
        "kinds": [
            {**vars(look_of(now)), "grown": float(growth(now, finish)), "wound": _wrapped(now)}
            for _, now in kinds.values()
        ],
        "strands": [
            {"part": tube.part, "samples": len(tube.x), "colours": tube.colours, "kind": kinds[id(tube.now)][0]}
            for tube in tubes
        ],
    }
    text = json.dumps(head, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    return len(text).to_bytes(4, "little") + text + bytes(planes)


def _tubes(made: Made, dress: Dress, span: Span, table: float, shorter: float, at: float | None = None) -> list[Tube]:
    """Return the strands of a span in mm, the axis of the yarn at the height 0."""
    width = WIDE.width / table
    farthest = table if span == "near" else min(table, CSS_PX_PER_MM)
    shortest, longest = (pixels / farthest for pixels in STEPS[span])
    step = float(np.clip(1000 / (PER_TURN[span] * max(fastest(made), 1e-6)), shortest, longest))
    seen = BEYOND * width if span == "near" else WIDE.width / farthest
    until = seen / (1 - shorter) + 2 * step
    strands = strands_within(made)
    step = max(step, strands * until / MOST_SAMPLES[span])
    return strands_along(made, dress, np.arange(-2 * step, until, step), _stretch(width, table), at=at)


def _stretch(width: float, table: float) -> Stretch:
    return Stretch(1.0, width, 0.0, WIDE.join_from / table, WIDE.join_to / table)


def _wrapped(now: State) -> bool:
    return not isinstance(now, LeafState) and wrap_of(now.node) is not None


def _kind(tube: Tube) -> tuple[int, bool]:
    return len(tube.x), tube.shade is not None


@dataclass(frozen=True)
class _Group:
    """Strands of as many samples, all of one colour or all of several."""

    tubes: list[Tube]
    places: FloatArray
    """x, y and z, shape (strands, 3, samples)."""

    @classmethod
    def of(cls, tubes: list[Tube]) -> "_Group":
        """Return strands as a group."""
        places = np.stack([each for tube in tubes for each in (tube.x, tube.y, tube.depth)])
        places[1::3] *= -1
        return cls(tubes, places.reshape(len(tubes), 3, -1))

    def planes(self, unit: float) -> bytes:
        """Return the planes: x, y, z, radius, angle, and colour of strands of several."""
        tubes, uneven = self.tubes, _uneven(self.places[0, 0], self.tubes[0].part, len(self.tubes))
        thick = np.stack([tube.width for tube in tubes]) * uneven / (2 * unit)
        lean = np.stack([tube.lean for tube in tubes if tube.lean is not None]) / ANGLE
        values = [self.places / unit, thick[:, None], lean[:, None]]
        shades = [tube.shade % (32 * len(tube.colours)) for tube in tubes if tube.shade is not None]
        if shades:
            values.append(np.stack(shades)[:, None] / SHADES)
        counts = np.rint(np.concatenate(values, axis=1)).astype(np.int32)
        steps = counts.copy()
        steps[..., 1:] -= counts[..., :-1]
        folded = ((steps << 1) ^ (steps >> 31)).astype("<u2")  # the sign in the last bit
        return folded[..., None].view(np.uint8).swapaxes(-1, -2).tobytes()


def _uneven(x: FloatArray, name: str, strands: int) -> FloatArray:
    """Return how thick strands side by side are drawn over what they are; the same for the same strands every time."""
    along = _PER_MM * x
    sines, cosines = _begun(name, strands)
    waves = cosines @ np.sin(along) + sines @ np.cos(along)
    return np.asarray(1 + UNEVEN * np.sqrt(2 / len(WAVES)) * waves)


_PER_MM = 2 * np.pi / np.array(WAVES)[:, None]


@lru_cache(maxsize=256)
def _begun(name: str, strands: int) -> tuple[FloatArray, FloatArray]:
    """Return sine and cosine of where in each wave each strand begins, of shape (strands, waves)."""
    phases = 2 * np.pi * np.random.default_rng(zlib.crc32(name.encode())).random((len(WAVES), strands)).T
    return np.sin(phases), np.cos(phases)
