"""What is said of samples: what was measured, how it compares, and what to change at the wheel."""

import math
from dataclasses import dataclass

from pebble_wheel.mechanics.counts import INCH, wraps_per_inch
from pebble_wheel.mechanics.learning.correct import Deviation, Treadling, let_back
from pebble_wheel.mechanics.learning.outcomes import PLAIN, Outcome
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    fibre_of,
)
from pebble_wheel.notation.sample import Counted, FoldWord, Sample, Taken, Tug
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.learn import Told
from pebble_wheel.workshop.verdict import DRAFT, SPENT, Change, Judged

OUTCOME_WORDS: dict[Outcome, str] = {
    "thick": "thick",
    "finished thick": "thick, washed",
    "tex": "grist",
    "finished tex": "grist, washed",
    "turns": "turns counted in",
    "fold": "ply-back",
    "fold angle": "ply-back leans",
    "loop": "loop",
    "angle": "leans",
    "take-up": "taken up",
    "wash length": "drawn up by washing",
}
FOLD_WORDS: dict[FoldWord, str] = {
    "wide": "wide loop",
    "right": "as it should",
    "tight": "tight",
    "kinks": "kinks",
}
TUG_WORDS: dict[Tug, str] = {"held": "held", "drifted": "drifted apart", "broke": "broke"}
TAKEN_WORDS: dict[Taken, str] = {"bobbin": "off the bobbin", "yarn": "picked out of the yarn"}
COUNTED_WORDS: dict[Counted, str] = {"bumps": "bumps", "turns": "turns"}
SPUN_AS_WORDS = {"plan": "as planned", "told": "as last told"}
"""How a sample was spun."""

TIMES_FAULT = "say how many times too much twist it has, like 2"
SAMPLE_KEPT = "Noted."
LEAVE_IT = "Within what your measuring can tell. Leave it."
_NOTHING_TOLD = "Noted. Nothing in it says how near it came: a gauge, a ply-back, an angle or a weight would."
_RESTED_KINKS = (
    "Its singles have rested, so that it looks overplied and kinks: no alarm. Wet a piece, let it hang, and look again."
)
_FRESH_KINKS = "It kinks fresh: hang a loop and count its turns, and less ply twist shows by how much."
_WEIGH_FIRST = "Whether it is too thick or too thin cannot be told yet: weigh a skein, and note its length."
_INTAKE_LAST = "Let twist and size be right first; then try the intake, a hook at a time."


@dataclass(frozen=True)
class ReadingWords:
    """One reading in words."""

    outcome: Outcome
    what: str
    measured: str
    planned: str
    within: bool
    off: str


@dataclass(frozen=True)
class VerdictWords:
    """A sample in words."""

    head: str
    steps: tuple[str, ...]
    """What to do at the wheel, in order."""
    asides: tuple[str, ...]
    """Why not, where there is nothing to do."""
    alarm: bool


def reading_words(told: Told, display: Display) -> ReadingWords:
    """Return one reading against what was planned."""
    within = abs(told.off) <= P90 * told.sd
    return ReadingWords(
        told.outcome,
        OUTCOME_WORDS[told.outcome],
        figure_words(told.outcome, told.measured, display),
        figure_words(told.outcome, told.reckoned, display),
        within,
        "as planned, as far as this can tell" if within else _off_words(told),
    )


def figure_words(outcome: Outcome, value: float, display: Display) -> str:
    """Return a figure of an outcome as a person reads it."""
    match outcome:
        case "thick" | "finished thick":
            return f"{display.settings.wraps(float(wraps_per_inch(value))):.3g} wpi, {display.length(value)}"
        case "tex" | "finished tex":
            return display.grist(value)
        case "turns" | "fold":
            return display.twist(value)
        case "fold angle" | "angle":
            return display.angle(math.radians(value))
        case "loop":
            turns = display.hung_turns(value)
            return f"{abs(turns):.1f} {'Z' if turns > 0 else 'S'}"
        case "take-up" | "wash length":
            return f"{100 * (1 - value):.1f} %"


def _off_words(told: Told) -> str:
    if told.outcome in PLAIN:
        unit = " turns" if told.outcome == "loop" else "°"
        return f"{abs(told.off):.1f}{unit} {'more' if told.off > 0 else 'less'} than planned, ± {told.sd:.1f}{unit}"
    return f"{part_words(told.off)} {'more' if told.off > 0 else 'less'} than planned, ± {100 * told.sd:.0f} %"


_PARTS = (
    (0.5, "half"),
    (1 / 3, "a third"),
    (0.25, "a quarter"),
    (0.2, "a fifth"),
    (0.15, "a seventh"),
    (0.1, "a tenth"),
)


def part_words(off: float) -> str:
    """Return how large a difference is, given as a logarithm: ``a fifth``, ``7 %``, ``twice as much``."""
    share = abs(math.expm1(off))
    if share >= 0.9:
        return f"{math.exp(off):.1f} times"
    if share < 0.085:
        return f"{100 * share:.0f} %"
    return min(_PARTS, key=lambda each: abs(math.log(each[0] / share)))[1]


def verdict_words(judged: Judged, sample: Sample, weighed: bool, display: Display) -> VerdictWords:
    """Return what a sample says.

    Args:
        judged: the sample, judged.
        sample: as it was measured.
        weighed: whether anything of this spinner was ever weighed.
        display: units.
    """
    if judged.spent is not None:
        return _spent_words(judged.spent)
    asides = _rest_asides(judged, sample, display)
    if sample.fold_word and not judged.told:
        return _word_of_ply(sample, asides)
    if not judged.told:
        return VerdictWords(_NOTHING_TOLD, (), asides, False)
    by_word = sample.fold_word is not None and sample.fold_turns is None and len(judged.told) == 1
    if by_word:
        return _word_of_single(sample, asides)
    steps = [words for each in judged.changes if (words := change_words(each, display))]
    if not steps:
        unsure = [_unsure_words(each) for each in judged.changes if each.verdict == "not sure"]
        head = LEAVE_IT if judged.within or not unsure else "Leave it: it may be chance, or the way it was measured."
        return VerdictWords(head, (), (*asides, *unsure), False)
    if any(each.what == "size" and each.verdict == "not sure" for each in judged.changes) and not weighed:
        asides = (*asides, _WEIGH_FIRST)
    return VerdictWords(_head(judged), (*steps, _INTAKE_LAST), asides, True)


def _head(judged: Judged) -> str:
    against = "the sample to match" if judged.to is not None else "the plan"
    said = []
    for each in judged.changes:
        if each.verdict != "change":
            continue
        more, less = ("too thick", "too thin") if each.what == "size" else ("too much", "too little")
        twist = "" if each.what == "size" else " twist" if each.what == "twist" else " ply twist"
        said.append(f"about {part_words(each.off.mean)} {more if each.off.mean > 0 else less}{twist}{_ends(each.off)}")
    words = "; ".join(said)
    return f"Against {against}: {words}."


def _ends(off: Deviation) -> str:
    low, high = sorted(abs(100 * math.expm1(off.mean + side * off.sd)) for side in (-1, 1))
    return f" ({low:.0f}–{high:.0f} %)"


def change_words(change: Change, display: Display) -> str:
    """Return what to do because of one deviation; empty where nothing is."""
    if change.verdict != "change":
        return ""
    if change.what == "size":
        finer = change.off.mean > 0
        draft, aim = ("finer", "lighter") if finer else ("thicker", "heavier")
        return f"Draft {draft}: aim {part_words(change.off.mean)} {aim}."
    if change.now is None or change.then is None:
        return ""
    said = f"{treadled_words(change.now, display)} becomes {treadled_words(change.then, display, change.now)}"
    if change.then.ratio == change.now.ratio:
        more = change.off.mean < 0
        said += f", or {'a smaller' if more else 'a larger'} whorl"
    time = abs(change.minutes)
    if change.what == "ply" and time >= 1:
        said += f"; {display.hundred} take {time:.0f} min {'longer' if change.minutes > 0 else 'less'}"
    return f"{said[0].upper()}{said[1:]}."


def treadled_words(treadling: Treadling, display: Display, now: Treadling | None = None) -> str:
    """Return whole treadles to a draft, on a whorl."""
    count = f"{treadling.count} or {treadling.count + 1}, in turn," if treadling.between else f"{treadling.count}"
    if now is not None and treadling.ratio == now.ratio:
        return count
    draft = f"{DRAFT * 1000 / INCH:.0f} in" if display.settings.inches else f"{DRAFT * 100:.0f} cm"
    return f"{count} treadles to {draft} at {treadling.ratio:g}:1"


def _unsure_words(change: Change) -> str:
    more = change.off.mean > 0
    what = {
        "size": ("thick", "thin"),
        "twist": ("much twist", "little twist"),
        "ply": ("much ply twist", "little ply twist"),
    }
    part = part_words(change.off.mean)
    return f"It may be {part} too {what[change.what][not more]}, but that is within what chance does."


def _word_of_single(sample: Sample, asides: tuple[str, ...]) -> VerdictWords:
    match sample.fold_word:
        case "wide":
            head, step = "Too little twist.", "More treadles to each draft, or a smaller whorl, or a slower intake."
        case "tight" | "kinks":
            head, step = "Too much twist.", "Fewer treadles to each draft, or a larger whorl, or a quicker intake."
        case _:
            return VerdictWords(LEAVE_IT, (), asides, False)
    return VerdictWords(head, (step,), (*asides, "Count the bumps of a ply-back, and it says by how much."), True)


def _word_of_ply(sample: Sample, asides: tuple[str, ...]) -> VerdictWords:
    match sample.fold_word:
        case "kinks" | "tight" if sample.rested_hours:
            return VerdictWords("Leave it.", (), (_RESTED_KINKS,), False)
        case "kinks" | "tight":
            return VerdictWords("Too much ply twist, it seems.", (_FRESH_KINKS,), asides, True)
        case "wide":
            step = "More treadles to each length you feed; hang a loop and count, and it says how many."
            return VerdictWords("Too little ply twist, it seems.", (step,), asides, True)
        case _:
            return VerdictWords(LEAVE_IT, (), asides, False)


def _rest_asides(judged: Judged, sample: Sample, display: Display) -> tuple[str, ...]:
    said = []
    for each in judged.told:
        if each.outcome == "fold" and sample.rested_hours and each.as_measured != each.measured:
            low, fresh = display.twist(each.as_measured), display.twist(each.measured)
            said.append(
                f"{low} after {sample.rested_hours:.3g} h of rest is about {fresh} fresh: do not add twist for that."
            )
        if each.outcome in ("thick", "finished thick") and sample.wet:
            said.append(f"Measured wet; dry it is about {display.length(each.measured)}.")
    return tuple(said)


def _spent_words(left: float) -> VerdictWords:
    if left < SPENT:
        head = f"No further turns: {100 * left:.0f} % of its spun twist is left in this single."
        why = "What holds its fibres is nearly undone; more twist this way lets it drift apart before it is finished."
        return VerdictWords(head, (why,), (), True)
    return VerdictWords(f"{100 * left:.0f} % of its spun twist is left in this single: it holds.", (), (), False)


def let_back_words(length: float, excess: float, display: Display) -> str:
    """Return over how much more length twist is to be let back that ran into a short piece [mm]."""
    return f"Let it back over {display.width(let_back(length, excess))} more, and it is as it should be."


GONE = "a strand that is no more"
PLAN, REFERENCE, THE_YARN = "as planned", "to match", "the yarn"


def newest_words(day: str) -> str:
    """Return what the newest sample is called where it is drawn."""
    return f"newest, {day}"


def strand_words(model: NodeModel) -> str:
    """Return what a strand is called among those that can be sampled."""
    match model:
        case SingleModel():
            return f"single of {fibre_of(model.fibre).name}"
        case BoughtModel():
            return "thread"
        case PlyModel():
            return f"{sum(each.count for each in model.strands)}-ply"
        case ChainModel():
            return "chain ply"
        case CoreSpunModel():
            return "core-spun"
        case WrappedModel():
            return "coils"


@dataclass(frozen=True)
class Both:
    """A figure of the plan and of the sample taken as the plan."""

    label: str
    before: str
    after: str


def taken_words(before: Reading, after: Reading, display: Display) -> tuple[Both, ...]:
    """Return what changes where a sample is taken as the plan."""
    metres = [100 / each.finished_tex * 1000 for each in (before, after)]
    grams = [each.resultant_tex / 10 for each in (before, after)]
    return (
        Both("finished", *(display.wpi_range(each.wpi_finished) for each in (before, after))),
        Both(f"from {display.grams(100)}", *(display.metres(each) for each in metres)),
        Both(f"for {display.hundred}", *(display.grams_in_100(each) for each in grams)),
        Both("rests", *(f"{each.balance.verdict}" for each in (before, after))),
    )


def sample_words(sample: Sample, display: Display) -> str:
    """Return what was measured, in a line."""
    said = []
    if sample.thick_mm is not None:
        wraps = display.settings.wraps(INCH / sample.thick_mm)
        by = {"card": " by card", "wraps": "", "mm": " across", "photo": " across, by photo"}[sample.thick_by]
        off = f" ± {100 * sample.thick_off:.0f} %" if sample.thick_off else ""
        said.append(
            f"{display.length(sample.thick_mm)}{by}"
            if sample.thick_by in ("mm", "photo")
            else f"{wraps:.3g} wpi{by}{off}"
        )
    if sample.fold_turns is not None:
        said.append(f"ply-back {display.twist(sample.fold_turns)}")
    if sample.fold_word is not None:
        said.append(f"ply-back {FOLD_WORDS[sample.fold_word]}")
    if sample.fold_angle is not None:
        said.append(f"ply-back leans {display.angle(math.radians(sample.fold_angle))}")
    if sample.angle is not None:
        said.append(f"leans {display.angle(math.radians(sample.angle))}")
    if sample.loop_turns is not None:
        said.append(f"loop {figure_words('loop', sample.loop_turns, display)}")
    if sample.turns_per_m is not None:
        said.append(f"{display.twist(sample.turns_per_m)} counted in")
    if sample.pace is not None:
        said.append(f"{sample.pace:.0f} treadles a minute")
    if sample.metres is not None:
        said.append(display.metres(sample.metres))
    if sample.grams is not None:
        said.append(display.grams(sample.grams))
    if sample.take_up is not None:
        said.append(f"taken up {100 * (1 - sample.take_up):.1f} %")
    if sample.wash_length is not None:
        said.append(f"drawn up {100 * (1 - sample.wash_length):.1f} %")
    if sample.stretch is not None:
        back = f", back {sample.springs_back:.0f} %" if sample.springs_back is not None else ""
        said.append(f"gives {sample.stretch:.0f} %{back}")
    if sample.tug is not None:
        said.append(f"tugged: {TUG_WORDS[sample.tug]}")
    if sample.wet:
        said.append("wet")
    if sample.rested_hours:
        said.append(f"rested {sample.rested_hours:.3g} h")
    if sample.places > 1:
        said.append(f"at {sample.places} places")
    said += [f"tied: {sample.tied}"] if sample.tied else []
    return " · ".join([*said, sample.note] if sample.note else said)
