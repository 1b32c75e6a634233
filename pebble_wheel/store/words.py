"""The words by which designs and entries of their logs are found."""

import json
from collections.abc import Iterator
from typing import Any

from pebble_wheel.mechanics.strand.structure import Bought, Chain, CoreSpun, Node, Ply, Single, Wrapped
from pebble_wheel.mechanics.strand.structure import walk as nodes
from pebble_wheel.notation.design import Design, read_design, structure_of, walk
from pebble_wheel.notation.faults import InputError
from pebble_wheel.wording.names import structure_words, trade_names


def words_of(name: str | bytes, body: str | bytes) -> str:
    """Return what a design is found by; of one that cannot be read its name. As bytes a flipped one does no harm."""
    try:
        return words_of_design(read_design(body if isinstance(body, bytes) else body.encode()))
    except InputError:
        return folded(_text(name))


def words_of_design(design: Design) -> str:
    """Return what a design is found by: its name, what it is, the kinds of its strands, and its fibres."""
    fibres = dict.fromkeys(name for node in nodes(structure_of(design.yarn)) for name in _fibres(node))
    kinds = dict.fromkeys(model.kind for _, _, model in walk(design.yarn))
    said = (structure_words(design.yarn), *trade_names(design.yarn), *(["textured"] if design.sections else []))
    return folded(" ".join((design.name, *said, *kinds, *fibres)))


UNTOLD = ("card", "typed", "done", "strand", "stage", "method", "thick_by", "taken", "photos", "lots")
"""What of an entry nobody searches for by words."""


def words_of_entry(kind: str | bytes, body: str | bytes) -> str:
    """Return what an entry of a log is found by: what kind it is, and all that was written in it; likewise."""
    try:
        return " ".join([_text(kind), *_written(json.loads(_text(body)))])
    except ValueError:
        return _text(kind)


def _text(told: str | bytes) -> str:
    return told.decode("utf-8", "replace") if isinstance(told, bytes) else told


def _written(told: Any) -> Iterator[str]:
    if isinstance(told, str):
        yield told
    elif isinstance(told, list):
        for each in told:
            yield from _written(each)
    elif isinstance(told, dict):
        for name, value in told.items():
            if name not in UNTOLD:
                yield from _written(value)


def folded(text: str) -> str:
    """Return text so that capitals make no difference."""
    return " ".join(text.casefold().split())


def _fibres(node: Node) -> Iterator[str]:
    match node:
        case Single():
            yield node.fibre.name
        case CoreSpun():
            yield node.wrap.fibre.name
        case Bought() | Ply() | Chain() | Wrapped():
            return
