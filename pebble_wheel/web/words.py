"""Small turns of phrase that several screens share."""

from pebble_wheel.mechanics.balance import Verdict
from pebble_wheel.notation.design import NodeModel, SingleModel, fibre_of

UNDYED = "#dcc9a3"


def structure_words(yarn: NodeModel) -> str:
    """Return what a yarn is: ``3-ply of Corriedale``."""
    if isinstance(yarn, SingleModel):
        return f"single of {fibre_of(yarn.fibre).name}"
    strands = sum(strand.count for strand in yarn.strands)
    inner = yarn.strands[0]
    if isinstance(inner, SingleModel):
        return f"{strands}-ply of {fibre_of(inner.fibre).name}"
    return f"{strands} strands, each a {structure_words(inner)}"


def verdict_words(verdict: Verdict, yarn: NodeModel) -> str:
    """Return the verdict on balance; a bare single is always lively."""
    return "lively single" if isinstance(yarn, SingleModel) else verdict


def colours_of(yarn: NodeModel) -> list[str]:
    """Return a colour for each strand of the topmost ply."""
    if isinstance(yarn, SingleModel):
        return [yarn.colours[0] if yarn.colours else UNDYED]
    return [colours_of(strand)[0] for strand in yarn.strands for _ in range(strand.count)]
