"""A plan in words: strands, bobbins, what ends first, what to do with what is left, the days, and cautions."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.finish.projects import Project
from pebble_wheel.mechanics.making.splitting import PLIED_BULK, SINGLE_BULK, Ways, reads_when_halved
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.strand.structure import Bought, Chain, CoreSpun, Ply, Single, Wrapped
from pebble_wheel.notation.plan import Want, Way
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.wording.names import level_words
from pebble_wheel.wording.projects import PROJECT_WORDS
from pebble_wheel.wording.thread import day_words
from pebble_wheel.workshop.calendar import Dated, Task
from pebble_wheel.workshop.plan import LEFT_OVER, Accent, Laid, Reckoned, StrandPlan
from pebble_wheel.workshop.tools import Bobbin

WANT_WORDS: dict[Want, str] = {"all": "all of the fibre", "metres": "so much yarn", "thing": "enough for"}
THING_WORDS: dict[Project, str] = PROJECT_WORDS
REST_WORDS = {"yes": "let bobbins rest", "no": "ply at once"}
OTHER_FIBRE = "other fibre"
NO_FIBRE = "Say what it is spun of: choose a lot, or type its grams."
FLOW = "Fibre flowing into strands, and strands into the yarn, as wide as they are heavy"
SCALE_OFF = 1.0
"""Grams by which a kitchen scale may be off: assumed."""

SOFT_AND_FIRM = "A soft bobbin looks fuller than a firm one of the same weight: go by grams, never by eye."
BALL = "A centre-pull ball wants strong, calm singles and a tube inside; lively ones tangle."
NOT_KEPT = "not yet kept"
YARN_SO_FAR = "of the yarn, so far"

FAULTS: dict[str, tuple[str, ...]] = {
    "spin": (
        "A thin spot breaks: overlap loose fibre and let twist run in; never pull on a slub.",
        "Neps left by sparing the combing waste: accept the waste.",
    ),
    "ply": (
        "Keep tension even: a slack strand winds round the tight one.",
        "The bobbin holder wants a light brake, more for lively singles: an overrunning bobbin tangles.",
        "Slippery fibre slides when pushed with one hand: move both.",
    ),
    "soak": ("Wool felts by rubbing and by sudden change of warmth. Hot water scalds.",),
    "dry": ("A hung weight is tied, or it falls.",),
    "rest": ("Rested singles make a well-plied yarn look overplied on the wheel.",),
    "skein": ("Tie it loosely in three or four places.",),
    "measure": (),
}
"""Small faults and cautions, at the step where they are."""


@dataclass(frozen=True)
class StrandWords:
    """One line of the design in a plan."""

    name: str
    each: str
    of_lots: str
    metres: str
    state: str
    short: bool


def strand_words(planned: StrandPlan, lots: list[tuple[str, float]], display: Display) -> StrandWords:
    """Return what goes into a line of the design."""
    strand = planned.strand
    many = f" × {strand.count}" if strand.count > 1 else ""
    each = f"{_grams(planned.each, display)} each" if strand.count > 1 else _grams(planned.has, display)
    of = " + ".join(f"{_grams(grams / strand.count, display)} {name}" for name, grams in lots if grams > 0)
    if planned.short > SCALE_OFF:
        state, short = f"{_grams(planned.short, display)} short", True
    elif planned.over > SCALE_OFF:
        state, short = f"{_grams(planned.over, display)} over", False
    else:
        state, short = "enough", False
    bobbins = f"{planned.bobbins} bobbin{'' if planned.bobbins == 1 else 's'}"
    return StrandWords(
        f"{level_words(strand.level)}{many}",
        f"{each} ± {display.light(SCALE_OFF)}",
        of,
        f"{display.metres(planned.metres)}{' each' if strand.count > 1 else ''}, {bobbins}",
        state,
        short,
    )


def _grams(grams: float, display: Display) -> str:
    if display.settings.mass == "oz":
        return display.grams(grams)
    return f"{grams:.1f} g" if grams < 100 else f"{grams:.0f} g"


def grams_words(grams: float, display: Display) -> str:
    """Return grams as a plan says them."""
    return _grams(grams, display)


def yarn_words(reckoned: Reckoned, display: Display) -> str:
    """Return what comes of it."""
    bobbins = f"{reckoned.yarn_bobbins} bobbin{'' if reckoned.yarn_bobbins == 1 else 's'}"
    said = f"{display.metres(reckoned.metres)} of yarn, {_grams(reckoned.grams, display)}, on {bobbins}"
    if reckoned.weighed is not None:
        said += ", by the scale"
    if reckoned.done:
        said += f"; {display.metres(reckoned.done)} are made, {display.metres(reckoned.metres - reckoned.done)} to go"
    return f"{said}; and {display.metres(reckoned.extra)} of leftovers" if reckoned.extra else said


def bobbin_advice(reckoned: Reckoned, bobbins: Sequence[Bobbin], reading: Reading, display: Display) -> list[str]:
    """Return what is to be said of bobbins; nothing where none are owned, as far as was told."""
    said = []
    owned = len(bobbins)
    if bobbins and reckoned.at_once > owned:
        said.append(
            f"It wants {reckoned.at_once} bobbins at once, and you own {owned}. {instead_words(reading, owned)}"
        )
    if bobbins:
        single, plied = (
            _between([each.holds(bulk) for each in bobbins], display) for bulk in (SINGLE_BULK, PLIED_BULK)
        )
        said.append(f"One of yours holds about {single} of singles, {plied} of plied yarn. {SOFT_AND_FIRM}")
    return said


def _between(grams: Sequence[float], display: Display) -> str:
    """Return grams, from the least to the most where they are not alike."""
    low, high = display.grams(min(grams)), display.grams(max(grams))
    return high if low == high else f"{low.split()[0]}–{high}"


def instead_words(reading: Reading, owned: int) -> str:
    """Return what else would do where there are not bobbins enough."""
    match reading.node:
        case Ply():
            folds = "Wind a bobbin off into a ball, or chain it from one" if owned >= 2 else "Ply both ends of one ball"
            return f"{folds}; storage bobbins and balls count too."
        case Chain() | CoreSpun() | Wrapped() | Single() | Bought():
            return "Wind one off into a ball; storage bobbins and balls count too."


def orifice_words(thickest: float, orifice: float | None, display: Display) -> str:
    """Return whether the thickest place passes the orifice; empty where it does."""
    if orifice is None or thickest <= orifice:
        return ""
    return (
        f"The thickest place is some {display.length(thickest)}, the orifice {display.length(orifice)}: it will not "
        "pass. Spin it finer, or on a wheel with a wider orifice."
    )


def accent_words(accent: Accent, reading: Reading, reckoned: Reckoned, display: Display) -> str:
    """Return what an accent of the same single comes to, beside the yarn."""
    wraps = [
        display.settings.wraps(float(wraps_per_inch(each.diameter_finished.p50))) for each in (accent.reading, reading)
    ]
    return (
        f"The accent, chained: {display.metres(accent.metres)} at {wraps[0]:.0f} wpi. "
        f"The yarn: {display.metres(reckoned.metres)} at {wraps[1]:.0f} wpi."
    )


def ends_first_words(reckoned: Reckoned, bobbins: list[Laid], minutes: float, display: Display) -> list[str]:
    """Return which bobbin ends first, when, and what the others keep; empty until all were weighed.

    Args:
        reckoned: the plan.
        bobbins: that are plied.
        minutes: until the first of them ends.
        display: units.
    """
    weighed = reckoned.weighed
    if weighed is None:
        return []
    first = bobbins[weighed.first]
    said = [
        f"Bobbin {weighed.first + 1} ({level_words(first.level)}) ends first, "
        f"in {display.metres(weighed.metres)} of yarn, some {hours_words(minutes / 60)}."
    ]
    kept = [
        f"bobbin {place + 1} keeps {_grams(float(grams), display)}, "
        f"{display.metres(float(grams) / bobbins[place].per_metre * bobbins[place].level.metres_per_metre)}"
        for place, grams in enumerate(weighed.left)
        if grams > 0.05
    ]
    return [*said, *([f"{'; '.join(kept)}.".capitalize()] if kept else [])]


@dataclass(frozen=True)
class WayWords:
    """One way to use leftovers."""

    key: Way
    words: str
    metres: str
    booked: bool = False
    """Whether it is what is planned."""


def way_words(reckoned: Reckoned, ways: Ways, empty: float, booked: Way, display: Display) -> list[WayWords]:
    """Return the ways to use what is left, with the metres of each.

    Args:
        reckoned: the plan, with what was weighed.
        ways: what each makes.
        empty: what the bobbin weighs that it is wound over to [g].
        booked: the way that is planned.
        display: units.
    """
    weighed = reckoned.weighed
    assert weighed is not None
    only = [float(grams) for grams in weighed.left if grams > 0.05]
    if not only:
        return []
    halved = ""
    if len(only) == 1 and len(weighed.left) == 2:
        halved = f" until the scale reads {_grams(float(reads_when_halved(only[0], empty)), display)}"
    told: list[tuple[Way, str, float]] = [
        ("accept", "Keep it for mending, and let it be", 0.0),
        ("even", f"Wind it over, so that every bobbin has its part{halved}, and ply on", ways.evened),
        ("ball", f"Ply both ends of a ball. {BALL}", ways.folded),
        ("bracelet", "Ply it off a bracelet on the wrist", ways.folded),
        ("chain", "Chain the rest: as thick as a 3-ply of it", ways.chained),
    ]
    return [WayWords(key, words, display.metres(metres), key == booked) for key, words, metres in told]


def unbooked_words(way: WayWords) -> str:
    """Return what the log says of a leftover whose way is taken back."""
    return f"Not after all: {way.words}"


def task_words(task: Task, names: dict[str, str]) -> str:
    """Return what a step is."""
    what = names.get(task.what, "")
    match task.doing:
        case "spin":
            return f"Spin: {what}"
        case "ply":
            return "Ply the leftovers" if task.what == LEFT_OVER else f"Ply: {what}" if what else "Ply"
        case "rest":
            return f"Let it rest: {what}"
        case "skein":
            return "Wind and tie the skein"
        case "soak":
            return "Soak"
        case "dry":
            return "Hang to dry"
        case "measure":
            return "Measure the dry skein"


def task_time(dated: Dated) -> str:
    """Return how long a step takes, and when it falls."""
    hours = hours_words(dated.task.hours)
    begins, ends = moment_words(dated.begins), moment_words(dated.ends)
    same = dated.begins.date() == dated.ends.date()
    return f"{hours} · {begins}" if same else f"{hours} · {begins} to {ends}"


def pace_words(pace: float) -> str:
    """Return how fast was reckoned with, where one's pace was counted."""
    return f"at {pace:.0f} treadles a minute, as counted"


def moment_words(moment: datetime) -> str:
    """Return a day and a time."""
    return f"{day_words(moment).rsplit(' ', 1)[0]}, {moment.hour}:{moment.minute:02d}"


def label_lines(reading: Reading, metres: float | None, day: str, display: Display) -> list[str]:
    """Return what hangs on the skein: what it is, how much, how thick and how lively, and when.

    Args:
        reading: of the yarn.
        metres: of the skein; None where that is not known yet.
        day: in words.
        display: units.
    """
    wraps = display.settings.wraps(float(wraps_per_inch(reading.diameter_finished.p50)))
    length = f"{display.metres(metres)} · {display.grams(metres * reading.finished_tex / 1000)}" if metres else "…"
    return [level_words(reading.levels[0]), length, f"{wraps:.0f} wpi · {energised_words(reading)}", day]


def energised_words(reading: Reading) -> str:
    """Return what a label says of how lively a yarn is."""
    lively = reading.balance.verdict in ("energised", "slightly over")
    return (
        "energised: wet a bit first"
        if lively
        else "balanced"
        if reading.balance.verdict == "balanced"
        else reading.balance.verdict
    )
