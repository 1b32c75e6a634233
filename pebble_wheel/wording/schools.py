"""Where practitioners differ, at the step where it matters: common practice, no source; each is right somewhere."""

from collections.abc import Iterator
from dataclasses import dataclass

from pebble_wheel.mechanics.rest.balance import Verdict
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    FibreModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    walk,
)


@dataclass(frozen=True)
class School:
    """One matter, and what two schools say of it."""

    matter: str
    one: str
    another: str


_SPINNING = (
    School("Gauge", "card slots", "wraps round a ruler, relaxed or snug"),
    School("Distance to the orifice", "long evens the twist out", "close tightens"),
    School("Winding in", "push in with one hand", "feed with both alternating, for an even intake"),
    School("Clockwise", "makes Z, seen by the spinner", "said of S on a spindle: ask which end is looked at"),
)
_PLYING = (
    School("Ply twist is judged", "by the angle laid on the yarn", "by a fresh ply-back, or by counting"),
    School("Strands at the fingers", "apart, one between each", "together, one finger between"),
    School("Bobbin holder", "low, behind you, braked", "level, at your side"),
    School("The V of the strands", "a wide V plies tighter", "turns are revolutions against feed, whatever the V"),
)
_CORE = (
    School("Direction of a core", "S for the right-handed, who see its face", "either"),
    School("Hand on the wrap", "closed, and firm", "off: it locks by itself"),
    School("The core", "must be hairy", "anything, slick ones with care"),
    School("In cloth", "weft only", "sturdy enough for warp"),
)
_TEXTURED = (School("Textured ply", "the thread is held straight", "the handspun is held straight"),)
_COLOURED = (School("Colours", "bold runs", "blended, or a striped accent of the same gauge"),)
_ENERGISED = (School("Energised yarn", "a fault, weak as warp", "a feature to design with"),)
_LINEN = (School("Linen", "blooms", "does not"),)


def schools(design: Design, verdict: Verdict) -> list[School]:
    """Return the matters on which a design meets two schools, in the order of work, each once."""
    found: dict[School, None] = {}
    for _, _, model in walk(design.yarn):
        found |= dict.fromkeys(_of(model))
    if verdict == "energised":
        found |= dict.fromkeys(_ENERGISED)
    return list(found)


def _of(model: NodeModel) -> Iterator[School]:
    match model:
        case SingleModel():
            yield from _SPINNING
            yield from _COLOURED if len(set(model.colours or ())) > 1 else ()
            yield from _LINEN if _is_linen(model.fibre) else ()
        case PlyModel() | ChainModel():
            yield from _PLYING
        case CoreSpunModel():
            yield from _CORE
        case WrappedModel():
            yield from _TEXTURED
        case BoughtModel():
            return


def _is_linen(fibre: str | FibreModel) -> bool:
    return fibre == "flax" if isinstance(fibre, str) else any(each.fibre == "flax" for each in fibre.shares or ())
