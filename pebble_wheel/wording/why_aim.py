"""Why each figure of a candidate is as it is; its merits have their own reasons."""

from dataclasses import dataclass

from pebble_wheel.mechanics.backwards.merits import Judged
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.making.wheel import DRAFTING, HANDLING, PLYING
from pebble_wheel.mechanics.reading.draws import VARIANTS
from pebble_wheel.notation.aim import Aim
from pebble_wheel.wording.candidate import bobbins_at_once, in_the_way
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.wording.merits import MERITS, merit_why
from pebble_wheel.wording.tools import BEATS, at_words
from pebble_wheel.wording.why import CALIBRATED, DEFINITION, GEOMETRY, Inputs, Reason, Why
from pebble_wheel.workshop.aim import Candidate


@dataclass(frozen=True)
class _About:
    found: Candidate
    judged: Judged
    aim: Aim
    display: Display


def _wanted(about: _About) -> Inputs:
    aimed = (
        about.display.length(about.aim.value)
        if about.aim.measure.endswith("diameter")
        else about.display.grist(about.aim.value)
    )
    return [("aimed at", aimed), ("comes out", about.display.wpi_range(about.judged.wpi_finished) + " finished")]


def _spun(about: _About) -> Inputs:
    return [
        ("twist factor aimed at, by soft to firm", f"{100 * about.aim.firm:.0f} of 100"),
        ("turns on the strands of the start", f"{float(about.found.knobs.twist):.2f} × as spun there"),
    ]


def _laid(about: _About) -> Inputs:
    return [("times balanced, by quiet to elastic", f"{about.aim.ratio:.2f}")]


def _lean(about: _About) -> Inputs:
    top = about.judged.levels[0]
    return [("twist", about.display.twist(top.turns_per_m_now)), ("thick", about.display.length(top.diameter))]


def _makes(about: _About) -> Inputs:
    return [
        ("grist, finished", about.display.grist(about.judged.finished_tex)),
        ("waste", f"{about.aim.waste:.0%}"),
        ("fibre", about.display.grams(about.found.grams)),
        ("yarn", about.display.metres(about.found.metres)),
    ]


def _takes(about: _About) -> Inputs:
    steps = [
        (
            f"{step.metres:.2f} times the yarn's length {at_words(step.beat, step.ratio)}",
            hours_words(step.hours * about.found.metres),
        )
        for step in reversed(about.judged.steps)
    ]
    hands = about.aim.hands
    return [*steps, (f"{BEATS[hands.beat][1]} a minute", f"{hands.pace:.0f}")]


def _hindered(about: _About) -> Inputs:
    return [(each.text, each.do) for each in in_the_way(about.found, about.aim, about.display)] or [
        ("stands in the way", "nothing")
    ]


_REASONS: dict[str, Reason[_About]] = {
    "well": Reason(
        "How well",
        "Σ weight · merit ÷ Σ weight",
        "The mean of the merits, weighed by how much each matters to you; colours to be blended count the other way.",
        lambda about: [
            (MERITS[aspect].words, f"{100 * merit.score:.0f}") for aspect, merit in about.judged.merits.items()
        ],
        DEFINITION,
    ),
    "as aimed": Reason(
        "As aimed",
        "20 fibres across, 4 turns to a staple, room for all turns, enough fibre",
        "What cannot be spun as aimed is drawn at the nearest that can.",
        _hindered,
        "Common practice, no source; jamming: geometry.",
    ),
    "singles": Reason(
        "Singles",
        "the linear density at which the yarn comes out as aimed",
        "The structure is computed from very fine to very thick at once and read backwards; the figure is the gauge on "
        "the bobbin.",
        _wanted,
        CALIBRATED,
    ),
    "spun": Reason(
        "Twist of the singles",
        "t = 100 K ÷ √T",
        "The twist factor K follows from soft to firm, about what is usual for the fibre and the draw.",
        _spun,
        "Usual factors: common practice, no source.",
    ),
    "laid": Reason(
        "Twist of the whole",
        "multiple · balanced twist",
        "Balanced by energy for these very strands; a wrap and coils have turns of their own.",
        _laid,
        CALIBRATED,
    ),
    "leans": Reason("Angle", "tan β = 2πR t", "How steeply the outermost strand winds.", _lean, GEOMETRY),
    "finished": Reason(
        "Finished",
        f"wpi = {INCH} ÷ (d · b)",
        f"Eight of ten lengths lie within, by {VARIANTS:,} variants.",
        _wanted,
        CALIBRATED,
    ),
    "makes": Reason(
        "What it makes", "weight = length · linear density · (1 + waste)", "Of the fibre in hand.", _makes, DEFINITION
    ),
    "bobbins": Reason(
        "Bobbins at once",
        "strands of the last step + 1",
        "Each strand that is laid comes off a bobbin, and the yarn goes onto one.",
        lambda about: [("wanted", f"{bobbins_at_once(about.judged)}")],
        DEFINITION,
    ),
    "takes": Reason(
        "How long it takes",
        f"metres ÷ min(hands, ratio · treadles ÷ twist) · {1 + HANDLING:g}",
        "As fast as the wheel twists it, at most as fast as hands work: plying goes "
        f"{PLYING / DRAFTING['worsted']:g} times as fast as drafting worsted.",
        _takes,
        "Speeds of hands and handling are assumed.",
    ),
}


def candidate_why(key: str, found: Candidate, aim: Aim, display: Display) -> Why | None:
    """Return the reason of a figure or a merit of a candidate; None where there is none."""
    if found.judged is None:
        return None
    reason = _REASONS.get(key)
    if reason:
        inputs = reason.inputs(_About(found, found.judged, aim, display)) or []
        return Why(
            f"{key}@{found.name}", reason.title, found.words, reason.formula, reason.words, inputs, reason.source
        )
    merit = next((own for aspect, own in found.judged.merits.items() if aspect == key), None)
    return merit_why(key, found.name, found.words, merit, display) if merit else None
