"""The pictures of record: what every drawing measures, so that a change of any of them is seen.

``python -m tests.drawing.record`` writes them anew, after they have been looked at. Of each kind of element in a
picture its count, and the sums of its figures, of their sizes, of their squares and of its colours.
"""

import json
import re
from collections.abc import Iterator
from pathlib import Path
from xml.etree import ElementTree

import numpy as np

from pebble_wheel.drawing.cut import CutAt, cut_svg
from pebble_wheel.drawing.finish import (
    Measured,
    axis_svg,
    growth_scale,
    growth_svg,
    length_scale,
    length_svg,
    skein_svg,
)
from pebble_wheel.drawing.grips import AIMED, grips, halo
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.scale import scale_svg
from pebble_wheel.drawing.tree import grow
from pebble_wheel.drawing.unrolled import Flat, unrolled_svg
from pebble_wheel.drawing.yarn import (
    Wedge,
    hanging_scale,
    hanging_svg,
    life_size_svg,
    scale_for,
    small_svg,
    yarn_svg,
)
from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import Bought, Chain, Turns, Wrapped
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.starts import STARTS, start
from tests.mechanics.strand.test_kinds import EVERY_KIND
from tests.yarns import dress, ply, read, single

FILE = Path(__file__).with_name("record.json")
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
COLOUR = re.compile(r"#[0-9a-f]{3,6}")
THREE = make(ply(single(), 3, -150.0))
WEDGE = Wedge(0.4, False, "23°")


def pictures() -> Iterator[tuple[str, str]]:
    """Yield every kind of drawing by name."""
    for kind, node in EVERY_KIND.items():
        reading = read(node, Finish(), variants=64)
        made, worn = reading.made, dress(reading.made.node)
        held = [*_parts(worn), "yarn"][1]
        yield f"along {kind}", yarn_svg(made, worn, WEDGE, False, "t", "table", held)
        yield f"cut {kind}", cut_svg(made, worn, [CutAt("a", 1.0, "x"), CutAt("b", 1.3, "y")], "t", held)
        flats = [Flat(level, level.path, level.path) for level in reading.levels]
        yield f"unrolled {kind}", unrolled_svg(flats, Display(), "t", "yarn")
        yield f"rests {kind}", scale_svg(reading.balance, reading.schools, "t") or "<svg/>"
        yield f"grips {kind}", f"<svg>{grips(made, WEDGE, 2.0, 40.0)}{halo(1.7, 33.0)}</svg>"
    for overfeed, turns in ((2.5, 700.0), (6.0, -400.0), (12.0, 900.0)):
        steep = make(Wrapped(Bought(60.0, 0.4, Turns(-300.0)), single(150.0, 160.0), overfeed, Turns(turns)))
        sizes = [CutAt("a", 1.0, "x"), CutAt("b", 1.3, "y")]
        yield f"cut coils {overfeed:g}", cut_svg(steep, dress(steep.node), sizes, "t", "yarn.1")
        yield f"coils {overfeed:g}", yarn_svg(steep, dress(steep.node), None, False, "t")
    crowd = make(ply(ply(ply(single(50.0, 320.0), 2, -500.0), 3, 250.0), 4, -80.0))
    yield "24 singles", yarn_svg(crowd, dress(crowd.node), None, True, "t")
    chain = make(Chain(single(), 12.0, Turns(-150.0)))
    yield "links", yarn_svg(chain, dress(chain.node), None, False, "t", "near")
    worn = dress(THREE.node)
    for reach in ("arm", "hand", "near", "loupe"):
        yield f"from {reach}", yarn_svg(THREE, worn, Wedge(0.4, True, "67°"), reach == "hand", "t", reach)
    yield "aimed", yarn_svg(THREE, worn, None, False, "t", scale=scale_for(THREE, AIMED), frame=AIMED)
    for imperial in (False, True):
        yield f"life size {imperial}", life_size_svg(THREE, worn, imperial, "t")
    yield "small", small_svg(THREE, worn, "s", "t")
    yield "hanging", hanging_svg(THREE, worn, "h", "t", hanging_scale([THREE, make(ply(single(), 2, 90.0))]), fine=True)
    for turns in (-7.3, -0.2, 0.0, 2.5, 60.0):
        yield f"loop {turns}", loop_svg(turns, 1.5, ["#dcc9a3", "#8fa3a0"], "t")
        yield f"thick loop {turns}", loop_svg(turns, 9.0, ["#dcc9a3"], "t")
    for weight in ("free", "light", "heavy"):
        for wet in (False, True):
            yield f"skein {weight} {wet}", skein_svg(3.0, ["#dcc9a3", "#8fa3a0"], wet, weight, "t")
            scale = length_scale(THREE, 1.2)
            yield f"length {weight} {wet}", length_svg(THREE, worn, "n", "t", scale, 1.1, Band(1.0, 1.3, 1.6), wet)
    yield "axis", axis_svg(Band(10.0, 12.0, 14.0), [Measured(12.0, 0.5, "a"), Measured(19.0, 2.5, "b")], "wpi", "t")
    yield "far axis", axis_svg(Band(1.0, 1.1, 1.2), [Measured(90.0, 0.5, "a"), Measured(-90.0, 0.5, "b")], "wpi", "t")
    yield "narrow axis", axis_svg(Band(5.0, 5.0, 5.0), [], "wpi", "t")
    yield "growth", growth_svg(2.0, 1.2, 1.1, 1.3, growth_scale(2.6), "t")
    for name in STARTS:
        tree = grow(start(name))
        places = "".join(f'<g x="{each.row}" y="{each.column}" width="{each.rows}"/>' for each in tree.branches)
        yield f"tree {name}", f"<svg>{tree.strands}{places}</svg>"
    yield (
        "unrolled, in inches",
        unrolled_svg(
            [Flat(level, "n", level.path) for level in read(ply(single(), 2, -99.0), Finish(), variants=64).levels],
            Display(in_units(Settings(), "imperial")),
            "t",
        ),
    )


def _parts(worn) -> Iterator[str]:
    yield worn.part
    for strands in worn.members:
        for strand in strands:
            yield from _parts(strand)


def measured(svg: str) -> dict[str, list[float]]:
    """Return what the elements of a picture measure, by their kind."""
    found: dict[str, list[np.ndarray]] = {}
    for each in ElementTree.fromstring(svg).iter():
        texts = {key: value for key, value in each.attrib.items() if key not in ("class", "id", "data-part", "href")}
        written = " ".join([*texts.values(), each.text or ""])
        colours = [int(colour[1:], 16) % 9973 for colour in COLOUR.findall(written)]
        numbers = np.array([float(number) for number in NUMBER.findall(COLOUR.sub(" ", written))] or [0.0])
        sums = np.array([1, numbers.sum(), np.abs(numbers).sum(), (numbers**2).sum(), sum(colours)])
        found.setdefault(f"{each.tag.rpartition('}')[2]}.{each.get('class', '')}", []).append(sums)
    return {kind: [float(f"{total:.9g}") for total in np.sum(each, axis=0)] for kind, each in found.items()}


def main() -> None:
    """Write the record."""
    lines = [f"{json.dumps(name)}: {json.dumps(measured(svg))}" for name, svg in pictures()]
    FILE.write_text("{\n" + ",\n".join(lines) + "\n}\n", encoding="utf-8")


if __name__ == "__main__":
    main()
