"""The answer to an evaluation, one shape for the command line and the web."""

import math
import threading
from collections.abc import Iterator
from dataclasses import dataclass

from pydantic import BaseModel

from pebble_wheel.mechanics.reading.advice import Advice, advise
from pebble_wheel.mechanics.reading.reading import JammedError, Level, Reading, read
from pebble_wheel.mechanics.reading.spread import Band
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.mechanics.strand.structure import Node
from pebble_wheel.mechanics.wash.bloom import WASH
from pebble_wheel.notation.design import (
    USUAL_RUN_M,
    BoughtModel,
    Design,
    Direction,
    NodeModel,
    PlyModel,
    SingleModel,
    finish_of,
    inner_of,
    place_in_file,
    structure_of,
    walk,
)
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.iso1139 import designation


class BandAnswer(BaseModel):
    """Tenth, fiftieth and ninetieth percentile of 2,000 quasi-random variants."""

    p10: float
    p50: float
    p90: float


class BeforeAfter(BaseModel):
    """One figure before and after finishing."""

    as_plied: BandAnswer
    finished: BandAnswer


class BalanceAnswer(BaseModel):
    """Twists without sign of direction: chosen counts positive, balance on the other side negative."""

    chosen_turns_per_m: float
    balanced_turns_per_m: float | None
    ratio: float | None
    verdict: str
    loop_turns_30cm: float | None
    """Signed, Z positive; ``null`` where the fold would jam before it rests."""


class LevelAnswer(BaseModel):
    """One strand of the yarn; metres and grams are those of one such strand.

    Where strands of one path lie on unlike seats (held unevenly, in a ring and in the middle) each seat has its own.
    """

    path: str
    count: int
    """Strands that lie so, in one of what they are part of."""
    lies_deg: float
    """Angle from the axis at which it lies in what it is part of; 0 is straight."""
    kind: str
    direction: Direction
    turns_per_m_as_made: float
    turns_per_m_now: float
    angle_deg: float
    take_up_percent: float
    diameter_mm: float
    metres_per_metre: float
    grams_per_100_m: float


class WarningAnswer(BaseModel):
    """A warning with its reason and its remedy."""

    code: str
    text: str
    why: str
    do: str


class Answer(BaseModel):
    """The whole answer."""

    designation: str
    resultant_tex: float
    grist_yd_per_lb: float
    jamming: float
    diameter_mm: BeforeAfter
    wpi: BeforeAfter
    balance: BalanceAnswer
    levels: list[LevelAnswer]
    warnings: list[WarningAnswer]


WASH_A_SWATCH = WarningAnswer(
    code="finished-is-a-band",
    text="The finished size is a prediction with a wide band.",
    why="Fibre, preparation, packing, wash and drying are counted, by factors that are calibrated and not your own.",
    do="Wash a swatch: nothing replaces it.",
)


IN_TURN = threading.Lock()
"""Readings take turns: many small array operations in several threads at once only hinder each other."""


def read_of(design: Design) -> Reading:
    """Return the reading of a design.

    Raises:
        InputError: where a level jams or a multiple of balance has no answer, with its place.
    """
    try:
        with IN_TURN:
            return read(structure_of(design.yarn), finish_of(design))
    except JammedError as error:
        raise InputError(Fault(f"{place_in_file(design.yarn, error.path)}.twist", error.reason)) from None
    except NoBalanceError as error:
        place = place_in_file(design.yarn, error.path)
        raise InputError(Fault(f"{place}.twist.of_balanced", error.reason)) from None


def answer_of(design: Design, reading: Reading) -> Answer:
    """Return the answer for a reading of a design."""
    balance = reading.balance
    warnings = [
        WarningAnswer(code=each.code, text=each.text, why=each.why, do=each.do) for each in advice_of(design, reading)
    ]
    if WASH[design.finish.wash] > 0:
        warnings.append(WASH_A_SWATCH)
    return Answer(
        designation=designation_of(design, reading),
        resultant_tex=reading.resultant_tex,
        grist_yd_per_lb=reading.grist_yd_per_lb,
        jamming=reading.jamming,
        diameter_mm=_before_after(reading.diameter_as_plied, reading.diameter_finished),
        wpi=_before_after(reading.wpi_as_plied, reading.wpi_finished),
        balance=BalanceAnswer(
            chosen_turns_per_m=balance.chosen,
            balanced_turns_per_m=_known(balance.balanced),
            ratio=_known(balance.ratio),
            verdict=balance.verdict,
            loop_turns_30cm=_known(balance.loop_turns),
        ),
        levels=_levels(design, reading),
        warnings=warnings,
    )


def advice_of(design: Design, reading: Reading) -> tuple[Advice, ...]:
    """Return what a teacher would say to a design, its colours counted in."""
    runs = {
        place: 1000 * (node.colour_run_m or USUAL_RUN_M)
        for _, place, node in walk(design.yarn)
        if isinstance(node, SingleModel | BoughtModel) and len(set(node.colours or ())) > 1
    }
    return advise(reading, runs)


def designation_of(design: Design, reading: Reading) -> str:
    """Return the ISO 1139 designation of a design, its multiples of balance worked out."""
    made = {level.place: level.turns_per_m_as_made for level in reading.levels}
    turns = {path: made[place] for path, place, _ in walk(design.yarn)}
    return designation(design.yarn, turns, reading.resultant_tex)


@dataclass(frozen=True)
class Line:
    """Strands of one entry of the design that lie alike, with their level of the reading."""

    path: str
    """In the file."""
    node: NodeModel
    level: Level
    count: int
    """In one of what they are part of."""
    seats: int
    """On how many unlike seats it and its likes lie."""


def lines_of(design: Design, reading: Reading) -> list[Line]:
    """Return the strands of a design, the yarn first, one line for each seat where seats differ."""
    within: dict[str, list[Level]] = {}
    for level in reading.levels:
        within.setdefault(level.path.rpartition(".")[0], []).append(level)
    return list(_lines(Line("yarn", design.yarn, reading.levels[0], 1, 1), within))


def _lines(line: Line, within: dict[str, list[Level]]) -> Iterator[Line]:
    """Yield a line and those of what it is laid from: entries that are alike take the strands of seats in turn."""
    yield line
    left = {level.path: level.strands // line.level.strands for level in within.get(line.level.path, [])}
    alike: list[Node] = []
    for name, inner in inner_of(line.node):
        place = name
        if isinstance(line.node, PlyModel):
            node = structure_of(inner)
            alike += [] if node in alike else [node]
            place = f"strands[{alike.index(node)}]"
        seats = [level for level in within[line.level.path] if level.place.endswith(f".{place}")]
        wanted, taken = inner.count, []
        for level in seats:
            count = min(wanted, left[level.path])
            if count:
                taken.append((level, count))
                left[level.path] -= count
                wanted -= count
        for level, count in taken:
            yield from _lines(Line(f"{line.path}.{name}", inner, level, count, len(seats)), within)


def _levels(design: Design, reading: Reading) -> list[LevelAnswer]:
    answers = []
    for line in lines_of(design, reading):
        level = line.level
        sense = math.copysign(1, level.turns_per_m_as_made)
        answers.append(
            LevelAnswer(
                path=line.path,
                count=line.count,
                lies_deg=math.degrees(abs(level.lies)),
                kind=line.node.kind,
                direction=line.node.twist.direction,
                turns_per_m_as_made=abs(level.turns_per_m_as_made),
                turns_per_m_now=sense * level.turns_per_m_now,
                angle_deg=sense * math.degrees(level.angle),
                take_up_percent=100 * level.take_up,
                diameter_mm=level.diameter,
                metres_per_metre=level.metres_per_metre,
                grams_per_100_m=level.grams_per_100_m,
            )
        )
    return answers


def _before_after(plied: Band, finished: Band) -> BeforeAfter:
    return BeforeAfter(as_plied=_band(plied), finished=_band(finished))


def _band(band: Band) -> BandAnswer:
    return BandAnswer(p10=band.p10, p50=band.p50, p90=band.p90)


def _known(value: float) -> float | None:
    return value if math.isfinite(value) else None
