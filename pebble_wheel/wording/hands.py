"""What is said of a spinner's hands: factors, how far they are learned, what to measure next."""

import math
from functools import lru_cache

from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.learning.factors import Factor, Group, main_group
from pebble_wheel.mechanics.learning.model import Lessons
from pebble_wheel.mechanics.learning.noise import Method
from pebble_wheel.mechanics.learning.outcomes import Outcome
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import P90
from pebble_wheel.mechanics.strand.structure import Node
from pebble_wheel.wording.sampling import OUTCOME_WORDS
from pebble_wheel.workshop.known import LEARNED, PARTLY, SKEIN, Doubt, Foretold, KnownFigure, Narrowing, Next

FACTOR_WORDS: dict[Factor, str] = {
    "size": "weight of singles",
    "twist": "twist of singles",
    "ply": "twist of plies",
    "packing": "how closely fibres pack",
    "stiffness": "how stiffly it bends",
    "set": "twist that has set",
    "bloom": "bloom",
    "draws up": "drawn up by washing",
}
"""Over what was meant to be spun, or over what is usual."""

_MEANT: tuple[Factor, ...] = ("size", "twist", "ply")

FIGURE_WORDS: dict[Outcome, str] = {
    "finished thick": "thickness, finished",
    "turns": "twist of singles",
    "loop": "balance",
    "angle": "how it leans",
    "tex": "weight of a length",
    "wash length": "length lost in washing",
}

FORETOLD = "Readings against what was foretold before each yarn was spun"
ENDS = ("less than foretold", "more")
YARN_TO_YARN = "What is left is from yarn to yarn: only measuring this one goes below it."
NO_SAMPLES = "Nothing was sampled yet. Spin a length, note one thing of it, and the bands begin to be yours."
WIDER = (
    "Your yarns differ from each other more than is usual, so the bands have grown: a slip of the pen does that too, "
    "and is asked about below."
)
STEADIER = "Your yarns are more alike than is usual, and the bands narrower for it."
SLIP = "a slip of the pen, or really so?"
CARD_ONLY = "You have only the card’s word for sizes: what the card will say is learned quickly, true size slowly."


def factor_title(narrowing: Narrowing) -> str:
    """Return what the picture of a factor shows."""
    return f"{FACTOR_WORDS[narrowing.factor]} over {narrowing.at[-1][0]} yarns"


def factor_words(narrowing: Narrowing) -> str:
    """Return what was learned of a factor: by how much, and the band of a next yarn."""
    _, mean, sd = narrowing.at[-1]
    low, high = mean - P90 * sd, mean + P90 * sd
    meant = "meant" if narrowing.factor in _MEANT else "usual"
    said, about = f"{_off(narrowing.factor, low)} to {_off(narrowing.factor, high)}", _off(narrowing.factor, mean)
    amount, way = about[1:], "more" if about.startswith("+") else "less"
    so = f"as {meant}" if amount.startswith("0\u00a0") else f"about {amount} {way} than {meant}"
    return f"{so}; eight of ten {said}"


def band_ends(narrowing: Narrowing) -> tuple[str, str]:
    """Return what the ends of the usual band come to."""
    reach = P90 * narrowing.usual
    return _off(narrowing.factor, -reach), _off(narrowing.factor, reach)


def _off(factor: Factor, value: float) -> str:
    if factor == "set":
        return f"{100 * value:+.0f}\u00a0of\u00a0100".replace("-", "−")
    return f"{100 * math.expm1(value):+.0f}\u00a0%".replace("-", "−")


def share_words(known: KnownFigure) -> str:
    """Return how far a figure is learned."""
    learned = "not yet learned" if known.share < PARTLY else "partly learned" if known.share < LEARNED else "learned"
    readings = f"{known.readings} reading{'' if known.readings == 1 else 's'}"
    return f"{learned}, from {readings}"


def width_words(known: KnownFigure) -> str:
    """Return how wide a figure's band is beside the usual one."""
    return f"{100 * known.narrower:.0f} % of the usual band"


def coverage_words(foretold: list[Foretold]) -> str:
    """Return how many of the last readings fell inside their bands."""
    inside = sum(each.inside for each in foretold)
    return f"{inside} of your last {len(foretold)} readings fell inside the band that holds eight of ten."


def next_words(each: Next) -> str:
    """Return what to measure next, and what it is worth."""
    takes = f"takes some {100 * each.narrows:.0f} % off the band of that yarn’s thickness"
    return f"{_what(each.outcome, each.method)}: {takes}."


def _what(outcome: Outcome, method: Method) -> str:
    match outcome, method:
        case "finished thick", _:
            return "Count wraps of a washed skein at four places"
        case "tex", _:
            return f"Weigh a skein of some {SKEIN:.0f} g and measure its length"
        case "wash length", _:
            return "Measure a length before and after washing"
        case "thick", _:
            return "Count wraps of a single at five places"
        case "fold", _:
            return "Count the ply-back of a fresh single at four places"
        case _:
            return "Count the treadles into a length of a single"


def group_words(group: Group) -> str:
    """Return what a group is called."""
    fibre = FIBRES[group.fibre].name if group.fibre in FIBRES else group.fibre
    return f"{fibre}, {group.prep}" if group.prep else fibre or "thread in hand"


def doubt_words(doubt: Doubt) -> str:
    """Return what is asked about a reading."""
    side = "above" if doubt.off > 0 else "below"
    return f"{OUTCOME_WORDS[doubt.outcome]} lies far {side} what all your others say: {SLIP}"


def behind_words(constants: Constants, node: Node) -> str:
    """Return from how many samples of whom the figures of a yarn come."""
    if constants.lessons is None:
        return "No own samples yet: as for anybody."
    said = _counted(constants.lessons, main_group(node))
    whose = f"{constants.whose}’s" if constants.whose else "your"
    own = " This very yarn was measured." if constants.measured else ""
    return f"From {constants.own_samples} of {whose} samples ({said}).{own}"


@lru_cache(maxsize=16)
def _counted(lessons: Lessons, group: Group) -> str:
    """Return how many samples were of a fibre, how many were washed and how many weighed."""
    readings = [each for yarn in lessons.yarns for each in yarn.readings]
    ways = (
        ("in this fibre", {each.entry for each in readings if each.group == group}),
        ("washed", {each.entry for each in readings if each.outcome in WASHED}),
        ("weighed", {each.entry for each in readings if each.method == "weighed"}),
    )
    return ", ".join(f"{len(entries)} {words}" for words, entries in ways)


WASHED: tuple[Outcome, ...] = ("finished thick", "finished tex", "wash length")
