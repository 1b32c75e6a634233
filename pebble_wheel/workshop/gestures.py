"""Texture as gestures: what is held straight, what is laid round it and how much of it, as structure."""

import json
from collections.abc import Sequence
from functools import lru_cache
from typing import Any, Literal, cast

import numpy as np
from pydantic import TypeAdapter

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.running import POWERS, runs_to
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.notation.design import (
    BoughtModel,
    Design,
    NodeModel,
    RepeatModel,
    SectionModel,
    Sections,
    SingleModel,
    WrappedModel,
    structure_of,
    walk,
)
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.texture import MOST_ROWS, TEXTURE_FIELDS, Row, Texture

SECTIONS: TypeAdapter[Sections] = TypeAdapter(Sections)

Gesture = Literal["plain", "thick", "spiral", "turned", "coils", "packed", "bobble"]

OVERFEED: dict[Gesture, float] = {
    "plain": 1.0,
    "thick": 2.0,
    "spiral": 1.15,
    "turned": 1.3,
    "coils": 3.0,
    "packed": 1.0,
    "bobble": 5.0,
}
"""Metres of what is laid round to one of yarn: common practice, no source; coils that touch take what they take,
and a thick place is so many times as heavy."""

TURNS: dict[Gesture, float] = {"spiral": 150.0, "turned": 250.0, "coils": 160.0, "bobble": 400.0}
"""t/m at which it is laid (assumed); of coils that touch as many as there is room for."""

TOUCHING, MOST_TURNS, HALVED = 0.98, 5000.0, 12
"""Coils to the most that there is room for, turns/m beyond which none are sought, and steps in which they are."""

THREAD_TEX, THREAD_TURNS = 60.0, 400.0
"""Of a thread where the yarn has none (assumed)."""

STANDS_OFF, LOCKS, SHORT = 2.0, 4.0, 60.0
"""Overfeed from which on coils stand off, and a bobble locks; mm of a bobble at the most."""


def single_of(design: Design) -> SingleModel | None:
    """Return the single of which texture is made: the stoutest that is spun."""
    singles = [each for _, _, each in walk(design.yarn) if isinstance(each, SingleModel)]
    return max(singles, key=lambda each: each.tex, default=None)


def thread_of(design: Design) -> dict[str, Any]:
    """Return the thread of a yarn, else a fine one."""
    threads = [each for _, _, each in walk(design.yarn) if isinstance(each, BoughtModel)]
    if threads:
        return threads[0].model_copy(update={"count": 1}).model_dump(exclude_none=True)
    return {"kind": "bought", "tex": THREAD_TEX, "twist": {"turns_per_m": THREAD_TURNS, "direction": "S"}}


def tree_of(gesture: Gesture, overfeed: float, design: Design) -> dict[str, Any] | None:
    """Return what a gesture makes of a yarn's single and its thread; None for the yarn as it is."""
    single = single_of(design)
    if gesture in ("plain", "thick") or single is None:
        return None
    spun, thread = single.model_copy(update={"count": 1}).model_dump(exclude_none=True), thread_of(design)
    binder, wrapper = (spun, thread) if gesture in ("turned", "bobble") else (thread, spun)
    tree = {"kind": "wrapped", "binder": binder, "wrapper": wrapper, "overfeed": overfeed}
    turns = TURNS[gesture] if gesture != "packed" else _touching(json.dumps(tree), single.twist.direction)
    return {**tree, "twist": {"turns_per_m": turns, "direction": single.twist.direction}}


@lru_cache(maxsize=128)
def _touching(tree: str, direction: str) -> float:
    """Return the turns/m at which the coils of a wrapped yarn touch: as many as there is room for."""
    low, high = MOST_TURNS / 100, MOST_TURNS
    for _ in range(HALVED):
        turns = (low * high) ** 0.5
        twist = {"turns_per_m": turns, "direction": direction}
        state = make(structure_of(_WRAPPED.validate_python({**json.loads(tree), "twist": twist}))).state
        full = isinstance(state, NestState) and kinds.wrapped(state).coverage >= TOUCHING
        low, high = (low, turns) if full else (turns, high)
    return round(high, 1)


_WRAPPED = TypeAdapter(WrappedModel)


def uneven(design: Design, rows: Sequence[Row], power: float = POWERS[1]) -> list[dict[str, Any] | None]:
    """Return what plain and thick places of one single make of a yarn: twist runs from the thick into the thin.

    Args:
        design: the yarn as it is constructed.
        rows: sections; those of other gestures have no part in it, and are None.
        power: see :func:`runs_to`.
    """
    own = [row for row in rows if row.gesture in ("plain", "thick")]
    heavy = np.array([row.fed or OVERFEED["thick"] if row.gesture == "thick" else 1.0 for row in own])
    if not own or (heavy == 1).all():
        return [None] * len(rows)
    more = iter(zip(heavy, runs_to(1.0, heavy, np.array([row.length for row in own]), power), strict=True))
    return [
        _spun(design.yarn.model_dump(exclude_none=True), *next(more)) if row.gesture in ("plain", "thick") else None
        for row in rows
    ]


def _spun(tree: dict[str, Any], heavy: float, turned: float) -> dict[str, Any]:
    """Return a yarn whose singles are so much heavier and so much more twisted."""
    if tree["kind"] == "single":
        twist = {**tree["twist"], "turns_per_m": tree["twist"]["turns_per_m"] * turned}
        return {**tree, "tex": tree["tex"] * heavy, "twist": twist}
    inner: dict[str, Any] = {
        name: _spun(tree[name], heavy, turned) for name in ("strand", "core", "binder", "wrapper") if name in tree
    }
    if "strands" in tree:
        inner["strands"] = [_spun(each, heavy, turned) for each in tree["strands"]]
    return {**tree, **inner}


def gesture_in(model: NodeModel | None, design: Design) -> tuple[Gesture, float] | None:
    """Return by which gesture a section was made, and its overfeed; None of one that no gesture makes."""
    if model is None:
        return "plain", 1.0
    before, now = single_of(design), single_of(design.model_copy(update={"yarn": model}))
    if model.kind == design.yarn.kind and before and now and model.kind != "wrapped":
        heavy = round(now.tex / before.tex, 3)
        return ("plain", 1.0) if heavy == 1 else ("thick", heavy)
    if not isinstance(model, WrappedModel):
        return None
    straight = isinstance(model.binder, BoughtModel)
    if straight and model.overfeed == OVERFEED["packed"]:
        return "packed", model.overfeed
    if straight:
        return ("coils" if model.overfeed >= STANDS_OFF else "spiral"), model.overfeed
    return ("bobble" if model.overfeed >= LOCKS else "turned"), model.overfeed


def locks(section: SectionModel) -> bool:
    """Return whether a section is a bobble that locks what lies beside it."""
    own = section.yarn
    tossed = isinstance(own, WrappedModel) and not isinstance(own.binder, BoughtModel) and own.overfeed >= LOCKS
    return tossed and section.length_mm <= SHORT


def in_order(sections: Sections) -> list[tuple[SectionModel, int]]:
    """Return sections as they come, those of a repeat with how often; neighbours stand beside each other."""
    found: list[tuple[SectionModel, int]] = []
    for piece in sections:
        match piece:
            case SectionModel():
                found.append((piece, 1))
            case RepeatModel():
                found += [(each, piece.repeat) for each in piece.of]
    return found


def neighbours(sections: Sections, wanted: SectionModel) -> list[SectionModel]:
    """Return what lies before and after a section, round a repeat too."""
    found: list[SectionModel] = []
    flat: list[SectionModel] = []
    for piece in sections:
        if isinstance(piece, RepeatModel):
            flat += piece.of * min(piece.repeat, 2)
        else:
            flat.append(piece)
    for place, each in enumerate(flat):
        if each is wanted:
            found += flat[max(place - 1, 0) : place] + flat[place + 1 : place + 2]
    return found


PLAIN_END = 300.0
"""mm: to cast on from, and to tie (common practice, no source)."""


def sections_of(texture: Texture, design: Design) -> Sections | None:
    """Return the sections that a texture makes of a yarn; None of one that is the same all along."""
    if not texture.rows:
        return None
    rows = []
    for row, spun in zip(texture.rows, uneven(design, texture.rows), strict=True):
        gesture = cast(Gesture, row.gesture)
        tree = spun or tree_of(gesture, row.fed or OVERFEED[gesture], design)
        rows.append({"length_mm": row.length, **({"yarn": tree} if tree else {})})
    pieces: list[dict[str, Any]] = [{"length_mm": texture.begins}] if texture.begins else []
    pieces.append({"repeat": texture.times, "of": rows})
    pieces += [{"length_mm": texture.ends}] if texture.ends else []
    return SECTIONS.validate_python(pieces)


def texture_in(design: Design) -> Texture | None:
    """Return a texture as it would be typed for the sections of a design; None where it cannot be."""
    pieces = list(design.sections or ())
    ends = [each.length_mm if isinstance(each, SectionModel) and each.yarn is None else None for each in pieces]
    begins = ends[0] if len(pieces) > 1 and isinstance(pieces[0], SectionModel) else None
    last = ends[-1] if len(pieces) > 1 and isinstance(pieces[-1], SectionModel) else None
    inner = pieces[begins is not None : len(pieces) - (last is not None)]
    if not pieces:
        return Texture(None, None, 1, ())
    if len(inner) != 1 or not isinstance(inner[0], RepeatModel):
        return None
    rows = [(each, gesture_in(each.yarn, design)) for each in inner[0].of]
    if len(rows) > MOST_ROWS or any(own is None for _, own in rows):
        return None
    told = tuple(
        Row(own[0], each.length_mm, own[1] if own[0] not in ("plain", "packed") else None) for each, own in rows if own
    )
    return Texture(begins, last, inner[0].repeat, told)


STARTS: dict[str, tuple[tuple[Gesture, float, float], ...]] = {
    "coils": (("plain", 250.0, 1.0), ("bobble", 20.0, 5.0), ("coils", 100.0, 3.0), ("bobble", 20.0, 5.0)),
    "packed": (("plain", 200.0, 1.0), ("bobble", 20.0, 5.0), ("packed", 60.0, 1.0), ("bobble", 20.0, 5.0)),
    "slubs": (("thick", 60.0, 2.5), ("plain", 140.0, 1.0)),
    "spiral": (("spiral", 1000.0, 1.15),),
    "beads": (("plain", 120.0, 1.0), ("bobble", 15.0, 5.0)),
    "turned": (("turned", 400.0, 1.3), ("plain", 100.0, 1.0)),
}
"""Ready textures: gesture, mm, metres fed."""


def started(name: str, settings: Settings) -> dict[str, str]:
    """Return the fields of a ready texture, with plain ends; of none such, of a yarn that is the same all along."""
    rows = tuple(Row(gesture, long, fed) for gesture, long, fed in STARTS.get(name, ()))
    return texture_typed(Texture(PLAIN_END, PLAIN_END, 30, rows) if rows else Texture(None, None, 1, ()), settings)


def texture_typed(texture: Texture, settings: Settings) -> dict[str, str]:
    """Return a texture as one would type it in one's units."""

    def said(mm: float | None) -> str:
        if mm is None:
            return ""
        return f"{mm / INCH:.4g} in" if settings.inches else f"{mm / 10:.4g} cm"

    typed = {**TEXTURE_FIELDS, "begins": said(texture.begins), "ends": said(texture.ends), "times": f"{texture.times}"}
    for place, row in enumerate(texture.rows):
        fed = "" if row.fed is None or row.gesture in ("plain", "packed") else f"{row.fed:g}"
        typed |= {f"gesture-{place}": row.gesture, f"length-{place}": said(row.length), f"fed-{place}": fed}
    return typed
