"""Small turns of phrase that several screens share."""

from pebble_wheel.mechanics.balance import Verdict
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


def verdict_words(verdict: Verdict, yarn: NodeModel) -> str:
    """Return the verdict on balance; a bare single is always lively."""
    return "lively single" if isinstance(yarn, SingleModel) else verdict


def colours_of(yarn: NodeModel) -> list[str]:
    """Return a colour for each single of a yarn in the order they are written, a wrap after its core."""
    own = getattr(yarn, "colours", None)
    if isinstance(yarn, SingleModel | BoughtModel):
        return [own[0] if own else UNDYED]
    found = [colour for _, inner in inner_of(yarn) for _ in range(inner.count) for colour in colours_of(inner)]
    if isinstance(yarn, CoreSpunModel):
        found.append(yarn.wrap.colours[0] if yarn.wrap.colours else UNDYED)
    return found
