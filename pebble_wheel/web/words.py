"""Small turns of phrase that several screens share."""

from dataclasses import dataclass

from pebble_wheel.mechanics import kinds
from pebble_wheel.mechanics.balance import Verdict
from pebble_wheel.mechanics.reading import Level, Reading
from pebble_wheel.mechanics.state import NestState
from pebble_wheel.mechanics.structure import Bought, Chain, CoreSpun, Node, Ply, Single, Wrapped
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    fibre_of,
    inner_of,
    structure_of,
)

UNDYED = "#dcc9a3"


def structure_words(yarn: NodeModel) -> str:
    """Return what a yarn is: ``3-ply of Corriedale``."""
    match yarn:
        case SingleModel():
            words = f"single of {fibre_of(yarn.fibre).name}"
        case BoughtModel():
            words = "bought thread"
        case ChainModel():
            words = f"chain ply of a {structure_words(yarn.strand)}"
        case CoreSpunModel():
            words = f"{fibre_of(yarn.wrap.fibre).name} spun round a {structure_words(yarn.core)}"
        case WrappedModel():
            words = f"{structure_words(yarn.wrapper)} coiled on a {structure_words(yarn.binder)}"
        case PlyModel():
            words = _ply_words(yarn)
    return words


def _ply_words(yarn: PlyModel) -> str:
    strands = sum(strand.count for strand in yarn.strands)
    kinds = list(dict.fromkeys(structure_words(strand) for strand in yarn.strands))
    if len(kinds) == 1 and isinstance(yarn.strands[0], SingleModel):
        return f"{strands}-ply of {fibre_of(yarn.strands[0].fibre).name}"
    if len(kinds) == 1:
        return f"{strands} strands, each a {kinds[0]}"
    return "ply of " + " and ".join(kinds)


_CAUSES = {
    "twist": "twist of the {0}",
    "size": "thickness of the {0}",
    "packing": "how tightly the {0} packs",
    "loop": "length of the loops",
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


def facts_of(reading: Reading) -> list[tuple[str, str]]:
    """Return what only the kind of this yarn has, as labels and figures."""
    state = reading.made.state
    if not isinstance(state, NestState):
        return []
    facts: list[tuple[str, str]] = []
    match reading.node:
        case Chain():
            links = kinds.chain(state)
            facts = [
                ("links in a metre", f"{links.links_per_m:.0f}"),
                ("at a link", f"{links.bump:.2f}× as thick"),
                ("overlaps take", f"{links.overlap_share:.1%} more"),
            ]
        case CoreSpun():
            spun = kinds.core_spun(state)
            facts = [
                ("core covered", f"{spun.coverage:.0%}"),
                ("wrap in a metre", f"{spun.wrap_grams_per_m:.2f} g"),
                ("core twist", f"{spun.core_change:+.0%}"),
            ]
        case Wrapped():
            wound = kinds.wrapped(state)
            facts = [
                ("coils in a cm", f"{wound.coils_per_cm:.1f}"),
                ("coils packed", f"{wound.coverage:.0%}"),
                ("coils stand off", f"{wound.coil_radius:.1f} mm"),
            ]
    return facts


def matters_of(reading: Reading) -> list[tuple[str, list[Bar]]]:
    """Return what matters most for each outcome that anything matters for."""
    names: dict[Node, str] = {}
    for row in levels_of(reading):
        names.setdefault(row.level.node, row.name if row.depth else "yarn")
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
class LevelWords:
    """A level of a structure, named for a table."""

    depth: int
    name: str
    level: Level


def levels_of(reading: Reading) -> list[LevelWords]:
    """Return the levels of a reading with their names."""
    return [LevelWords(level.path.count("."), _level_words(level), level) for level in reading.levels]


def _level_words(level: Level) -> str:
    match level.node:
        case Single():
            words = f"single of {level.node.fibre.name}"
        case Bought():
            words = "bought thread"
        case Ply():
            words = f"{level.node.strands}-ply"
        case Chain():
            words = "chain ply"
        case CoreSpun():
            words = f"{level.node.wrap.fibre.name} round a core"
        case Wrapped():
            words = "wrapper coiled on a binder"
    return words


def verdict_words(verdict: Verdict, yarn: NodeModel) -> str:
    """Return the verdict on balance; a bare single is always lively."""
    return "lively single" if isinstance(yarn, SingleModel) else verdict


def colours_of(yarn: NodeModel) -> list[str]:
    """Return a colour for each single of a yarn in the order they are written, a wrap after its core."""
    own = getattr(yarn, "colours", None)
    if isinstance(yarn, SingleModel | BoughtModel):
        return [own[0] if own else UNDYED]
    inner = [each for _, each in inner_of(yarn)]
    if isinstance(yarn, PlyModel):  # strands that are alike are laid together, in the order they first come
        alike = list(dict.fromkeys(structure_of(each) for each in inner))
        inner.sort(key=lambda each: alike.index(structure_of(each)))
    found = [colour for each in inner for _ in range(each.count) for colour in colours_of(each)]
    if isinstance(yarn, CoreSpunModel):
        found.append(yarn.wrap.colours[0] if yarn.wrap.colours else UNDYED)
    return found
