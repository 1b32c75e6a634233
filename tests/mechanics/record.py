"""Figures of record: what the mechanics say of a yarn of every kind, so that none of them drifts unseen.

They are no outside check, those stand in the other files: they only notice. Where a figure is meant to change,
``python -m tests.mechanics.record`` writes them anew, and the change is read line by line before it is kept.
"""

import json
from dataclasses import asdict, fields, is_dataclass
from pathlib import Path

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Hands, judge
from pebble_wheel.mechanics.backwards.solve import Knobs, Wish, fit
from pebble_wheel.mechanics.fibre.packing import LOOSEST, packing_fraction
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.finish import cloth
from pebble_wheel.mechanics.finish.alternatives import washed_over
from pebble_wheel.mechanics.finish.moments import at_moments
from pebble_wheel.mechanics.making import amounts as making
from pebble_wheel.mechanics.making import wheel
from pebble_wheel.mechanics.reading.findings import findings_of
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.reading.uneven import vary
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.gauge import tex_of_diameter
from pebble_wheel.mechanics.strand.helix import lay
from pebble_wheel.mechanics.strand.rings import rings
from pebble_wheel.mechanics.strand.section import circularity, cut, definition, groove
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Member,
    OfBalanced,
    Ply,
    Rod,
    Turns,
    Wrap,
    Wrapped,
    equal_ply,
)
from pebble_wheel.mechanics.wash.bloom import Finish, growth, shrinkage
from pebble_wheel.mechanics.wash.swelling import swelling, wet_length, wet_over_dry
from pebble_wheel.wording.advice import said_of
from pebble_wheel.wording.display import Display
from tests.yarns import TYPICAL, ply, read, single

FILE = Path(__file__).with_name("record.json")
ROD = Rod()

THREAD = Bought(60.0, 0.29, Turns(-400.0))
STRIP = Wrap(FIBRES["merino"], "carded", 800.0, 12.0)
LIVELY = equal_ply(single(50.0, 300.0), 2, OfBalanced(1.7, -1))

YARNS = {
    "single": single(prep="carded", draw="long"),
    "thin single": single(8.0, 700.0, "merino"),
    "2-ply": ply(single(), 2, -150.0),
    "3-ply": equal_ply(single(prep="semi"), 3, OfBalanced(1.1, -1)),
    "5-ply": equal_ply(single(60.0, 280.0), 5, OfBalanced(0.8, -1)),
    "unlike": Ply((Member(single()), Member(single(60.0, 300.0), 2)), Turns(-120.0)),
    "four unlike": Ply((Member(single(30.0, 350.0)), Member(single(90.0, 210.0), 3)), Turns(-100.0)),
    "uneven": Ply((Member(single(), 3),), Turns(-120.0), 0.8),
    "one straight": Ply((Member(single(), 2),), Turns(-130.0), 1.0),
    "with thread": Ply((Member(single()), Member(THREAD)), Turns(-120.0)),
    "seven": ply(single(40.0, 350.0), 7, -60.0),
    "twelve unlike": Ply((Member(single(30.0, 350.0), 4), Member(single(50.0, 300.0), 8)), Turns(-40.0)),
    "ten mixed": Ply((Member(single(20.0, 400.0)), Member(single(60.0, 280.0), 9)), Turns(-45.0)),
    "cable": equal_ply(LIVELY, 3, OfBalanced(1.0, 1)),
    "uneven cable": equal_ply(Ply((Member(single(50.0, 300.0), 2),), Turns(-260.0), 0.9), 2, Turns(60.0)),
    "crepe": Ply((Member(LIVELY), Member(single(100.0, -260.0))), OfBalanced(1.0, 1)),
    "chain": Chain(single(), 150.0, Turns(-145.0)),
    "short chain": Chain(single(), 20.0, Turns(-145.0)),
    "core-spun": CoreSpun(THREAD, STRIP, Turns(175.0)),
    "core of ply": CoreSpun(ply(single(60.0, 260.0), 2, -400.0), STRIP, Turns(175.0)),
    "core of single": CoreSpun(single(60.0, 150.0), STRIP, Turns(-140.0)),
    "wrapped": Wrapped(THREAD, single(150.0, 160.0), 2.0, Turns(250.0)),
    "calm cable": ply(ply(single(), 2, -155.0), 2, 30.0),
}
FINISHES = (Finish(), Finish("thwack", "heavy", ironed=True), Finish("steam", "light", blocking="severe"))


def figures() -> dict[str, object]:
    """Everything that is kept, as plain data."""
    found: dict[str, object] = {f"yarn: {name}": _yarn(node) for name, node in YARNS.items()}
    found |= {f"solved: {name}": _solved(name) for name in ("single", "3-ply", "cable", "core-spun", "wrapped")}
    found["fibres"] = {name: [*_plain(fibre).values(), _plain(swelling(fibre))] for name, fibre in FIBRES.items()}
    found["packing"] = {
        kind: [float(packing_fraction(loosest, t**2, T, 1.2)) for t, T in ((100, 300), (300, 60), (900, 9))]
        for kind, loosest in LOOSEST.items()
    }
    found["gauge"] = [float(tex_of_diameter(d, t, 1.31, 0.05)) for d, t in ((0.5, 300.0), (1.2, 90.0))]
    found["lays"] = {
        str(n): [lay(n).peak_angle, lay(n).peak_turns, *np.asarray(lay(n).ratio_at(np.array([0.2, 0.6, 0.9]))).tolist()]
        for n in (2, 3, 4, 5, 7)
    }
    found["rings"] = {str(n): [list(rings(n).sizes), list(rings(n).radii)] for n in (6, 9, 10, 11, 12, 20, 33)}
    found["cloth"] = [
        cloth.sett(1.7, cloth.PLAIN), cloth.sett(1.7, cloth.TWILL), cloth.stitches(12.0), cloth.needle(2.1),
        cloth.rows(22.0, cloth.WET), cloth.stitch_length(22.0, cloth.DRY), cloth.swatch_yarn(100.0, 22.0),
        cloth.settled(22.0, 1.1, cloth.SETTLES[1], cloth.BLOOM_SHOWS),
        cloth.settled(30.0, 1.1, cloth.ROWS_SETTLE[1], cloth.BLOOM_SHOWS_IN_ROWS),
        cloth.change(20.0, 19.0), cloth.width_error(400.0, 20.0, 19.0),
    ]  # fmt: skip
    found["making"] = [making.grams_needed(300.0, 250.0, each) for each in making.WASTE.values()]
    found["wheel"] = [
        wheel.treadles(0.5, -210.0, 9.0),
        float(wheel.metres_per_minute(210.0, 9.0, 60.0, 4.0)),
        float(wheel.hours(300.0, 210.0, 9.0, 60.0, 1.5)),
        wheel.best_ratio((6.0, 9.0, 14.0), 260.0, 60.0, 2.5),
        *(wheel.feeding(node) for node in YARNS.values()),
    ]
    washed = YARNS["3-ply"]
    for over in ("finish", "preparation"):
        found[f"washed over {over}"] = [
            [value for value in asdict(each).values() if not isinstance(value, dict)]
            + list(asdict(each.finish).values())
            for each in washed_over(washed, Finish(), over, TYPICAL)
        ]
    return json.loads(json.dumps(found), parse_float=lambda text: float(f"{float(text):.6g}"))


def _plain(value: object) -> object:
    return asdict(value) if is_dataclass(value) and not isinstance(value, type) else value


def _yarn(node: object) -> dict[str, object]:
    reading = read(node, Finish())
    made, balance = reading.made, reading.balance
    found: dict[str, object] = {
        "sizes": [reading.resultant_tex, reading.finished_tex, reading.grist_yd_per_lb, reading.jamming],
        "jammed share": reading.jammed_share,
        "bands": [
            [getattr(each, end.name) for end in fields(each)]
            for each in (
                reading.diameter_as_plied, reading.diameter_finished, reading.wpi_as_plied, reading.wpi_finished,
                reading.angle_band, balance.balanced_band, balance.ratio_band,
            )
        ],
        "balance": [balance.chosen, balance.balanced, balance.ratio, balance.verdict, balance.loop_turns],
        "matters": {key: [[each.cause.what, each.correlation] for each in own] for key, own in reading.matters.items()},
        "schools": [[school.name, school.turns_per_m] for school in reading.schools],
        "levels": [
            [
                level.path, level.turns_per_m_as_made, level.turns_per_m_now, level.angle, level.take_up,
                level.diameter, level.lies, level.strands, level.metres_per_metre, level.grams_per_100_m, level.held_by,
                float(level.at_balance.twist_now) if level.at_balance else None,
            ]
            for level in reading.levels
        ],
        "singles": {path: list(asdict(own).values()) for path, own in reading.singles.items()},
        "advice": _said(reading),
        "grown": [[float(growth(made.state, each)), float(shrinkage(made.state, each))] for each in FINISHES],
        "wet": [*(float(end) for end in wet_over_dry(made.state)), wet_length(made.state)],
        "cut": [circularity(cut(made)), groove(cut(made)), definition(made, 1.15)],
    }  # fmt: skip
    judged = judge(made, Finish(), TYPICAL, Hands((6.0, 9.0, 14.0), 50.0), 700.0)
    found["merits"] = {aspect: [merit.score, *merit.inputs.values()] for aspect, merit in judged.merits.items()}
    found["hours"] = [[step.metres, step.ratio, step.hours] for step in judged.steps]
    uneven = vary(made, FINISHES[1], TYPICAL)
    found["stages"] = [
        [
            each.moment,
            each.diameter.p10,
            each.diameter.p90,
            each.angle.p50,
            each.length,
            each.tex.p50,
            each.loop_turns,
            each.hidden,
            each.tex.p90,
        ]
        for finish in (FINISHES[1], Finish("soak", "light"))
        for each in at_moments(made, finish, uneven, balance.loop_turns, 20.0, TYPICAL.spreads).values()
    ]
    match made.node:
        case Chain():
            found["kind"] = list(asdict(kinds.chain(made.state)).values())
        case CoreSpun():
            found["kind"] = list(asdict(kinds.core_spun(made.state)).values())
        case Wrapped():
            found["kind"] = list(asdict(kinds.wrapped(made.state)).values())
    return found


def _said(reading: Reading) -> list[list[str]]:
    """Return every finding in words, what sounds alike once."""
    found = [(each, said_of(each, reading, Display())) for each in findings_of(reading, {"yarn.strand": 300.0})]
    alike = {(said.code, said.text): [each.code, each.level.path, said.text, said.why, said.do] for each, said in found}
    return list(alike.values())


def _solved(name: str) -> list[object]:
    found = []
    for wish in (
        Wish("finished diameter", 1.8, Knobs(lay=1.1)),
        Wish("tex", 40.0, thinnest=0.3),
        Wish("finished tex", 9000.0, Knobs(twist=0.7)),
    ):
        try:
            own = fit(YARNS[name], Finish(), wish, TYPICAL)
        except NoBalanceError as refused:
            found.append(str(refused))
            continue
        hindrances = [[each.obstacle, each.value, each.limit] for each in own.hindrances]
        diameter = float(own.made.state.diameter) if own.made else None
        found.append([*(float(each) for each in asdict(own.knobs).values()), hindrances, diameter])
    return found


def main() -> None:
    """Write the figures anew."""
    FILE.write_text(_written(figures()) + "\n", encoding="utf-8")


def _written(found: dict[str, object]) -> str:
    """A line for each figure of a yarn, so that a change can be read."""
    blocks = []
    for name, own in found.items():
        if isinstance(own, dict):
            lines = (f"  {json.dumps(key)}: {json.dumps(value, ensure_ascii=False)}" for key, value in own.items())
            blocks.append(f" {json.dumps(name)}: {{\n" + ",\n".join(lines) + "\n }")
        else:
            blocks.append(f" {json.dumps(name)}: {json.dumps(own, ensure_ascii=False)}")
    return "{\n" + ",\n".join(blocks) + "\n}"


if __name__ == "__main__":
    main()
