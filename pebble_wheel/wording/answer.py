"""The answer to an evaluation, one shape for the command line and for programs."""

import math

from pydantic import BaseModel

from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.wash.bloom import WASH
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import Design, Direction
from pebble_wheel.notation.iso1139 import fold_to_single, unsayable
from pebble_wheel.wording.advice import advice_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.texture import ISO_CANNOT, member_words
from pebble_wheel.workshop.lines import designation_of, lines_of
from pebble_wheel.workshop.sequence import Along

METRIC = Display()


class BandAnswer(BaseModel):
    """Tenth, fiftieth and ninetieth percentile of quasi-random variants."""

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


class SectionAnswer(BaseModel):
    """One section of a yarn that changes along its length."""

    length_mm: float
    times: int
    kind: str
    resultant_tex: float
    diameter_mm: BeforeAfter
    wpi: BeforeAfter
    packed: bool
    locked: bool


class MemberAnswer(BaseModel):
    """A strand that runs through all sections."""

    name: str
    metres: float
    grams: float


class AlongAnswer(BaseModel):
    """A yarn that changes along its length."""

    metres: float
    grams: float
    mean_tex: float
    members: list[MemberAnswer]
    sections: list[SectionAnswer]


class AnswerAlong(Answer):
    """The whole answer, of such a yarn; what it says besides is of its main structure."""

    along: AlongAnswer


def with_sections(answer: Answer, along: Along) -> AnswerAlong:
    """Return an answer with what its sections come to."""
    told = AlongAnswer(
        metres=along.whole.metres,
        grams=along.whole.grams,
        mean_tex=along.whole.mean_tex,
        members=[MemberAnswer(name=member_words(each), metres=each.metres, grams=each.grams) for each in along.members],
        sections=[
            SectionAnswer(
                length_mm=each.section.length_mm,
                times=each.times,
                kind=each.design.yarn.kind,
                resultant_tex=each.reading.resultant_tex,
                diameter_mm=_before_after(each.reading.diameter_as_plied, each.reading.diameter_finished),
                wpi=_before_after(each.reading.wpi_as_plied, each.reading.wpi_finished),
                packed=each.packed,
                locked=each.locked,
            )
            for each in along.parts
        ],
    )
    return AnswerAlong(**dict(answer), along=told)


WASH_A_SWATCH = WarningAnswer(
    code="finished-is-a-band",
    text="The finished size is a prediction with a wide band.",
    why="Fibre, preparation, packing, wash and drying are counted, by factors that are calibrated and not your own.",
    do="Wash a swatch: nothing replaces it.",
)


def answer_of(design: Design, reading: Reading, display: Display = METRIC) -> Answer:
    """Return the answer for a reading of a design."""
    balance = reading.balance
    warnings = [
        WarningAnswer(code=each.code, text=each.text, why=each.why, do=each.do)
        for each in advice_of(design, reading, Display())
    ]
    if WASH[design.finish.wash] > 0:
        warnings.append(WASH_A_SWATCH)
    return Answer(
        designation="" if design.sections else designation_of(design, reading),
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


def answer_words(design: Design, answer: Answer, stated_tex: float | None, display: Display) -> str:
    """Return an answer in words, with what a designation stated beside what was computed."""
    per = f"{display.settings.long_unit} in 1 {display.settings.long_unit}"
    plied, washed, balance = answer.wpi.as_plied, answer.wpi.finished, answer.balance
    lines = [
        f"{design.name}",
        f"  designation   {answer.designation or (ISO_CANNOT if design.sections else unsayable(design.yarn))}",
        f"  size          {display.grist(answer.resultant_tex)}",
    ]
    made = {Address(level.path): level.turns_per_m_as_made for level in answer.levels}
    if folded := fold_to_single(design.yarn, made, answer.resultant_tex):
        lines.append(f"  fold first    {folded}")
    if stated_tex is not None:
        off = 100 * (answer.resultant_tex / stated_tex - 1)
        lines.append(f"  stated        R {stated_tex:g} tex; computed is {off:+.1f} % off it")
    lines += [
        f"  wraps/inch    {plied.p10:.0f} to {plied.p90:.0f} as plied, {washed.p10:.0f} to {washed.p90:.0f} finished",
        f"  diameter      {display.length(answer.diameter_mm.as_plied.p50)} as plied, "
        f"{display.length(answer.diameter_mm.finished.p50)} finished",
        f"  balance       {balance.verdict}"
        + (f", {balance.ratio:.2f} of the balanced twist" if balance.ratio is not None else "")
        + (
            "; the strands hang quiet by themselves"
            if balance.balanced_turns_per_m == 0 and len(answer.levels) > 1
            else ""
        ),
        f"  room          strands {answer.jamming:.0%} full of turns",
        f"  level                      made       now   angle  take-up  lies  {per:>8s}",
    ]
    for level in answer.levels:
        lines.append(
            f"  {level.path:22s} {level.direction} {display.twist(level.turns_per_m_as_made):>9s}"
            f" {display.twist(level.turns_per_m_now):>9s}"
            f"  {level.angle_deg:5.1f}°  {level.take_up_percent:5.1f} %  {level.lies_deg:3.0f}°"
            f"  {level.metres_per_metre:6.2f}" + (f"  × {level.count}" if level.count > 1 else "")
        )
    if isinstance(answer, AnswerAlong):
        lines += _along_lines(answer.along, display)
    for warning in answer.warnings:
        lines += ["", f"  {warning.text}", f"    why: {warning.why}", f"    do:  {warning.do}"]
    return "\n".join(lines)


def _along_lines(along: AlongAnswer, display: Display) -> list[str]:
    """Return what the sections of a yarn come to, line by line."""
    whole = f"{display.metres(along.metres)}, {display.grams(along.grams)}, {display.grist(along.mean_tex)}"
    lines = [f"  all along     {whole}"]
    for each in along.sections:
        state = f"{', coils touch' if each.packed else ''}{'' if each.locked else ', slides'}"
        size = f"{each.wpi.finished.p10:.0f} to {each.wpi.finished.p90:.0f} wraps/inch"
        lines.append(f"  {each.times:5d} × {display.width(each.length_mm):>9s}  {each.kind}, {size}{state}")
    return [*lines, *(f"  takes         {display.metres(each.metres)} of {each.name}" for each in along.members)]
