"""Small turns of phrase that several screens share."""

import math
from dataclasses import dataclass

from pydantic import ValidationError

from pebble_wheel.mechanics.reading.reading import Balance, Level, Reading
from pebble_wheel.mechanics.rest.balance import Verdict
from pebble_wheel.mechanics.strand.structure import Bought, Chain, CoreSpun, Node, Ply, Single, Wrapped
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    fibre_of,
    fibre_said,
)
from pebble_wheel.notation.draft import Part
from pebble_wheel.notation.settings import WpiMethod
from pebble_wheel.notation.units import Stage
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.edits import ActionName
from pebble_wheel.workshop.lines import Line, lines_of


def structure_words(yarn: NodeModel) -> str:
    """Return what a yarn is: ``3-ply of Corriedale``."""
    match yarn:
        case SingleModel():
            return f"single of {fibre_of(yarn.fibre).name}"
        case BoughtModel():
            return "bought thread"
        case ChainModel():
            return f"chain ply of a {structure_words(yarn.strand)}"
        case CoreSpunModel():
            return f"{fibre_of(yarn.wrap.fibre).name} spun round a {structure_words(yarn.core)}"
        case WrappedModel():
            return f"{structure_words(yarn.wrapper)} coiled on a {structure_words(yarn.binder)}"
        case PlyModel():
            return _ply_words(yarn)


def _ply_words(yarn: PlyModel) -> str:
    strands = sum(strand.count for strand in yarn.strands)
    kinds = list(dict.fromkeys(structure_words(strand) for strand in yarn.strands))
    if len(kinds) == 1 and isinstance(yarn.strands[0], SingleModel):
        return f"{strands}-ply of {fibre_of(yarn.strands[0].fibre).name}"
    if len(kinds) == 1:
        return f"{strands} strands, each a {kinds[0]}"
    return "ply of " + " and ".join(kinds)


def trade_names(yarn: NodeModel) -> tuple[str, ...]:
    """Return what the trade calls a yarn besides what it is: cabled, crepe, coiled; common practice, no source."""
    match yarn:
        case PlyModel():
            plied = [isinstance(each, PlyModel | ChainModel) for each in yarn.strands]
            if all(plied):
                return ("cable", "cabled")
            return ("crepe",) if any(plied) else ()
        case WrappedModel():
            return ("coiled", "textured")
        case SingleModel() | BoughtModel() | ChainModel() | CoreSpunModel():
            return ()


_CAUSES = {
    "twist": "twist of the {0}",
    "size": "thickness of the {0}",
    "packing": "how tightly the {0} packs",
    "loop": "length of the loops",
    "tension": "tension in plying",
    "strip": "thickness of the strip",
    "wrap packing": "how firmly the wrap is laid",
    "bending": "stiffness of the fibre",
    "setting": "how much twist has set",
    "bloom": "how much it blooms",
}

OUTCOMES = {"balance": "How it rests", "thickness": "How thick it comes out", "angle": "How it leans"}


@dataclass(frozen=True)
class Bar:
    """A cause in words, with its rank correlation."""

    words: str
    correlation: float


def matters_of(reading: Reading) -> list[tuple[str, list[Bar]]]:
    """Return what matters most for each outcome that anything matters for."""
    names: dict[Node, str] = {}
    for level in reading.levels:
        names.setdefault(level.node, level_words(level) if level.path != "yarn" else "yarn")
    found = []
    for outcome, matters in reading.matters.items():
        bars = [
            Bar(_CAUSES[each.cause.what].format(names[each.cause.node] if each.cause.node else ""), each.correlation)
            for each in matters
        ]
        if bars:
            found.append((OUTCOMES[outcome], bars))
    return found


@dataclass(frozen=True)
class Row:
    """A strand of the design with its level of the reading; where its like lie on unlike seats, one of several."""

    path: Address
    name: str
    level: Level


def rows_of(design: Design, reading: Reading) -> list[Row]:
    """Return the strands of a design, the yarn first."""
    return [
        Row(line.path, level_words(line.level) + _seat_words(line), line.level) for line in lines_of(design, reading)
    ]


"""The yarn that is folded into the two legs of a loop."""

METHOD_WORDS: dict[WpiMethod, str] = {"relaxed": "relaxed", "snug": "snug", "card": "by card"}
STAGE_WORDS: dict[Stage, str] = {"plied": "as plied", "finished": "finished"}
DRAWN_NOTE = (
    "Sizes, paths, colours and fibre angles are computed; single fibres, light and where strands meet are picture."
)

PICTURE_WORDS = {"along": "along", "across": "cut across", "unrolled": "unrolled"}
REACH_WORDS = {"arm": "arm’s length", "hand": "in the hand", "table": "on the table", "near": "close", "loupe": "loupe"}

STRAIGHT = math.radians(1.0)
"""A strand that leans less is said to lie straight."""


def _seat_words(line: Line) -> str:
    """Return how many such strands there are, and how they lie where their like lie otherwise."""
    many = f" × {line.count}" if line.count > 1 else ""
    if line.seats == 1:
        return many
    return f"{many}, {'straight' if abs(line.level.lies) < STRAIGHT else 'winding'}"


def level_words(level: Level) -> str:
    """Return what a level is, for a table."""
    match level.node:
        case Single():
            return f"single of {level.node.fibre.name}"
        case Bought():
            return "bought thread"
        case Ply():
            return f"{level.node.strands}-ply"
        case Chain():
            return "chain ply"
        case CoreSpun():
            return f"{level.node.wrap.fibre.name} round a core"
        case Wrapped():
            return "coils on a binder"


def part_words(part: Part) -> str:
    """Return what a part is while it is being built, whatever stands in its fields."""
    match part.kind:
        case "single":
            return "single"
        case "bought":
            return "thread"
        case "ply":
            return f"{sum(each.count for each in part.inner)}-ply"
        case "chain":
            return "chain ply"
        case "core-spun":
            return "core-spun"
        case "wrapped":
            return "coiled"


def _fibre_words(fibre: str) -> str:
    """Return what a fibre is called, as it was chosen."""
    try:
        return fibre_said(fibre).name
    except (KeyError, ValidationError):
        return "own fibre"


def part_hint(part: Part) -> str:
    """Return what else tells a part from its like, as it was typed."""
    fibre = _fibre_words(part.of("fibre"))
    match part.kind:
        case "single":
            return f"{part.of('size')} · {fibre}"
        case "core-spun":
            return f"{fibre} wrap"
        case "bought":
            return part.of("size") if part.of("nature") == "smooth" else f"{part.of('size')} · {part.of('nature')}"
        case "ply" | "chain" | "wrapped":
            return f"{part.of('twist')} × balanced" if part.of("by") == "balance" else part.of("twist")


def action_words(name: ActionName) -> str:
    """Return what an action on a part does."""
    match name:
        case "add":
            return "Add a strand"
        case "ply":
            return "Ply two together"
        case "chain":
            return "Fold into a chain"
        case "core":
            return "Wrap fibre round it"
        case "coil":
            return "Coil it on a binder"
        case "duplicate":
            return "Duplicate"
        case "part":
            return "Make one unlike"
        case "swap":
            return "Swap places"
        case "mirror":
            return "Turn over, S for Z"
        case "thread":
            return "Make it a bought thread"
        case "spin":
            return "Spin it instead"
        case "open":
            return "Undo this step of making"
        case "remove":
            return "Take one out"
        case "more-colours":
            return "One more colour"
        case "fewer-colours":
            return "One colour less"


def rest_words(balance: Balance, display: Display) -> str:
    """Return at what twist a yarn rests."""
    if math.isnan(balance.balanced):
        return "never"
    return display.twist_range(balance.balanced_band) if balance.balanced else "hangs quiet by itself"


def verdict_words(verdict: Verdict, yarn: NodeModel) -> str:
    """Return the verdict on balance; a bare single is always lively."""
    return "lively single" if isinstance(yarn, SingleModel) else verdict
