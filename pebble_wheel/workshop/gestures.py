"""Texture as gestures: what is held straight, what is laid round it and how much of it, as structure."""

import json
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, Literal, cast

import numpy as np
from pydantic import TypeAdapter

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.running import POWERS, runs_to
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
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

Gesture = Literal[
    "plain",
    "thick",
    "spiral",
    "turned",
    "tied",
    "coils",
    "packed",
    "bobble",
    "wound",
    "lofty",
    "locks",
    "loose-locks",
    "looped",
]

OVERFEED: dict[Gesture, float] = {
    "plain": 1.0,
    "thick": 2.0,
    "spiral": 1.15,
    "turned": 1.3,
    "tied": 2.5,
    "coils": 3.0,
    "packed": 1.0,
    "bobble": 5.0,
    "wound": 8.0,
    "lofty": 8.0,
    "locks": 10.0,
    "loose-locks": 10.0,
    "looped": 2.5,
}
"""Metres of what is laid round to one of yarn: common practice, no source. Coils that touch take what they take, a
thick place is so many times as heavy as the thin ones, and fibre wound round a core as its core."""

RUNS: tuple[Gesture, ...] = ("plain", "thick", "turned", "tied")
"""Gestures in which a single lies all along, so that twist runs from one of their places to another."""

THICK: tuple[Gesture, ...] = ("thick", "tied")

WINDS: tuple[Gesture, ...] = ("wound", "lofty", "locks", "loose-locks", "looped")
"""Gestures in which fibre itself is wound round a core."""

TURNS: dict[Gesture, float] = {"spiral": 150.0, "turned": 250.0, "tied": 250.0, "coils": 160.0, "bobble": 400.0}
"""t/m at which it is laid (assumed); of coils that touch as many as there is room for."""

STRIP_TEX, STRIP_WIDE, STRIP_TURNS = 800.0, 10.0, 175.0
"""A strip that is wound round a core, its width [mm] and turns/m (handbook of the trade); a heavier one is wider in
proportion and laid with fewer turns, by the root (assumed)."""

SHOWING, LOOPED_TURNS = 0.6, 400.0
"""Share of a looped core that is covered on purpose, and the turns/m at which it is (assumed)."""

LOOPED_TEX = 120.0
"""Of a looped thread, where the yarn has none."""

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


def tree_of(gesture: Gesture, fed: float, design: Design) -> dict[str, Any] | None:
    """Return what a gesture makes of a yarn's single and its thread; None for the yarn as it is.

    Args:
        gesture: what is done.
        fed: see :data:`OVERFEED`.
        design: the yarn as it is constructed.
    """
    single = single_of(design)
    if gesture in ("plain", "thick") or single is None:
        return None
    if gesture in WINDS:
        return _wound(gesture, fed, design, single)
    spun, thread = single.model_copy(update={"count": 1}).model_dump(exclude_none=True), thread_of(design)
    binder, wrapper = (spun, thread) if gesture in ("turned", "tied", "bobble") else (thread, spun)
    overfeed = OVERFEED["turned"] if gesture == "tied" else fed
    tree = {"kind": "wrapped", "binder": binder, "wrapper": wrapper, "overfeed": overfeed}
    turns = TURNS[gesture] if gesture != "packed" else _touching(json.dumps(tree), single.twist.direction)
    return {**tree, "twist": {"turns_per_m": turns, "direction": single.twist.direction}}


def _wound(gesture: Gesture, fed: float, design: Design, single: SingleModel) -> dict[str, Any]:
    """Return a yarn's fibre wound round its thread, or round the core that it has."""
    own = design.yarn
    of = own.wrap if isinstance(own, CoreSpunModel) else single
    core = own.core if isinstance(own, CoreSpunModel) else _BOUGHT.validate_python(thread_of(design))
    if gesture == "looped" and not (isinstance(core, BoughtModel) and core.nature == "looped"):
        core = BoughtModel(kind="bought", nature="looped", tex=LOOPED_TEX, twist=core.twist)
    tex = fed * _heavy(core)
    worn = {"colours": of.colours, "colour_run_m": of.colour_run_m, "colour_lengths_m": of.colour_lengths_m}
    wrap = {"fibre": of.fibre, "prep": of.prep, "strip_tex": tex, **worn, **_ON_WRAP[gesture]}
    tree = {
        "kind": "core-spun",
        "core": core.model_dump(exclude_none=True),
        "wrap": {**wrap, "strip_width_mm": tex / STRIP_TEX * STRIP_WIDE},
        "twist": {
            "turns_per_m": LOOPED_TURNS
            if gesture == "looped"
            else min(STRIP_TURNS * (STRIP_TEX / tex) ** 0.5, MOST_WOUND),
            "direction": own.twist.direction if of is not single else FACE,
        },
    }
    model = _CORE_SPUN.validate_python(tree)
    if gesture == "looped":
        model = _half_bare(model.model_dump_json())
    return model.model_dump(exclude_none=True)


@lru_cache(maxsize=64)
def _half_bare(tree: str) -> CoreSpunModel:
    """Return a core-spun yarn whose strip is as wide as lets as much of its core show as is meant."""
    model = _CORE_SPUN.validate_json(tree)
    state = make(structure_of(model)).state
    assert isinstance(state, NestState)
    wide = model.wrap.strip_width_mm * SHOWING / kinds.core_spun(state).coverage
    return model.model_copy(update={"wrap": model.wrap.model_copy(update={"strip_width_mm": round(wide, 3)})})


FACE = "S"
"""Direction in which a right-handed spinner sees the face of what is wound (common practice, no source)."""

MOST_WOUND = 500.0
"""t/m."""

_ON_WRAP: dict[Gesture, dict[str, Any]] = {
    "wound": {"hand": "closed"},
    "lofty": {"hand": "open"},
    "locks": {"locks": "caught"},
    "loose-locks": {"hand": "open", "locks": "free"},
    "looped": {"covers": SHOWING},
}
"""How fibre is wound, by gesture."""


def _heavy(core: NodeModel) -> float:
    """Return the linear density of a core [tex], take-up apart."""
    match core:
        case SingleModel() | BoughtModel():
            return core.tex
        case PlyModel():
            return sum(_heavy(each) * each.count for each in core.strands)
        case ChainModel():
            return CHAIN_LEGS * _heavy(core.strand)
        case CoreSpunModel():
            return _heavy(core.core)
        case WrappedModel():
            return _heavy(core.binder) + core.overfeed * _heavy(core.wrapper)


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


_WRAPPED, _BOUGHT, _CORE_SPUN = TypeAdapter(WrappedModel), TypeAdapter(BoughtModel), TypeAdapter(CoreSpunModel)


def uneven(rows: Sequence[Row], power: float = POWERS[1]) -> list[tuple[float, float] | None]:
    """Return how heavy a single is in each section, and how much of its twist is there, of what it is on the whole.

    Twist runs from the thick places into the thin.

    Args:
        rows: sections; those in which it does not lie all along are None, and all where it is even.
        power: see :func:`runs_to`.
    """
    own = [row for row in rows if row.gesture in RUNS]
    heavy = np.array([_times(row) for row in own])
    if not own or (heavy == 1).all():
        return [None] * len(rows)
    turned = runs_to(1.0, heavy, np.array([row.length for row in own]), power)
    more = iter(zip(heavy.tolist(), turned.tolist(), strict=True))
    return [next(more) if row.gesture in RUNS else None for row in rows]


def _gesture(row: Row) -> Gesture:
    return cast("Gesture", row.gesture)


def _times(row: Row) -> float:
    return (row.fed or OVERFEED[_gesture(row)]) if row.gesture in THICK else 1.0


def _row_tree(row: Row, place: tuple[float, float] | None, design: Design) -> dict[str, Any] | None:
    """Return what a section is, with its single as heavy and as much twisted as it is there."""
    gesture = _gesture(row)
    if place and gesture in ("plain", "thick"):
        return _spun(design.yarn.model_dump(exclude_none=True), *place)
    tree = tree_of(gesture, row.fed or OVERFEED[gesture], design)
    return {**tree, "binder": _spun(tree["binder"], *place)} if tree and place else tree


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
    """Return by which gesture a section was made, and what it was fed; None of one that no gesture makes."""
    if model is None:
        return "plain", 1.0
    if isinstance(model, CoreSpunModel) and not _like_own(model, design.yarn):
        return _winding_in(model)
    before, now = single_of(design), single_of(design.model_copy(update={"yarn": model}))
    heavy = round(now.tex / before.tex, 3) if before and now else 1.0
    if model.kind == design.yarn.kind and before and now and model.kind != "wrapped":
        return ("plain", 1.0) if heavy == 1 else ("thick", heavy)
    return _coiled_in(model, heavy) if isinstance(model, WrappedModel) else None


def _coiled_in(model: WrappedModel, heavy: float) -> tuple[Gesture, float]:
    straight = isinstance(model.binder, BoughtModel)
    if straight and model.overfeed == OVERFEED["packed"]:
        return "packed", model.overfeed
    if straight:
        return ("coils" if model.overfeed >= STANDS_OFF else "spiral"), model.overfeed
    if heavy != 1:
        return "tied", heavy
    return ("bobble" if model.overfeed >= LOCKS else "turned"), model.overfeed


def _like_own(model: CoreSpunModel, yarn: NodeModel) -> bool:
    return isinstance(yarn, CoreSpunModel) and _wound_as(model) == _wound_as(yarn)


def _wound_as(model: CoreSpunModel) -> dict[str, Any]:
    told = {"hand": model.wrap.hand, "locks": model.wrap.locks, "covers": model.wrap.covers}
    return {name: value for name, value in told.items() if value is not None}


def _winding_in(model: CoreSpunModel) -> tuple[Gesture, float] | None:
    fed = round(model.wrap.strip_tex / _heavy(model.core), 3)
    found = next((gesture for gesture, how in _ON_WRAP.items() if how == _wound_as(model)), None)
    return (found, fed) if found else None


def meant_of(model: NodeModel | None, design: Design) -> NodeModel:
    """Return a section as heavy as its strands are on the whole: a thick place is of the same single as a thin."""
    if model is None:
        return design.yarn
    own, single = gesture_in(model, design), single_of(design)
    if own is None or own[0] not in RUNS or single is None:
        return model
    if isinstance(model, WrappedModel):
        return model.model_copy(update={"binder": single.model_copy(update={"count": 1})})
    return design.yarn


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


def alone(design: Design, section: SectionModel) -> Design:
    """Return a section as a design of its own."""
    return design.model_copy(update={"version": 1, "sections": None, "yarn": section.yarn or design.yarn})


def one_by_one(sections: Sections) -> list[int]:
    """Return the sections as they come, all times, by their numbers in :func:`in_order`."""
    found: list[int] = []
    first = 0
    for piece in sections:
        many, times = (len(piece.of), piece.repeat) if isinstance(piece, RepeatModel) else (1, 1)
        found += list(range(first, first + many)) * times
        first += many
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
    for row, place in zip(texture.rows, uneven(texture.rows), strict=True):
        tree = _row_tree(row, place, design)
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
    "slubs": (("tied", 60.0, 2.5), ("turned", 140.0, 1.3)),
    "thick": (("thick", 60.0, 2.5), ("plain", 140.0, 1.0)),
    "spiral": (("spiral", 1000.0, 1.15),),
    "beads": (("plain", 120.0, 1.0), ("bobble", 15.0, 5.0)),
    "turned": (("turned", 400.0, 1.3), ("plain", 100.0, 1.0)),
    "locks": (("wound", 150.0, 8.0), ("locks", 60.0, 10.0)),
    "looped": (("looped", 1000.0, 2.5),),
}
"""Ready textures: gesture, mm, metres fed."""


def started(name: str, settings: Settings) -> dict[str, str]:
    """Return the fields of a ready texture, with plain ends; of none such, of a yarn that is the same all along."""
    rows = tuple(Row(gesture, long, fed) for gesture, long, fed in STARTS.get(name, ()))
    return texture_typed(Texture(PLAIN_END, PLAIN_END, 30, rows) if rows else Texture(None, None, 1, ()), settings)


def plain_ends(typed: Mapping[str, str], settings: Settings) -> dict[str, str]:
    """Return fields with plain ends to cast on from and to tie, where there are none."""
    usual = texture_typed(Texture(PLAIN_END, PLAIN_END, 1, ()), settings)
    return {**typed, **{field: usual[field] for field in ("begins", "ends") if not typed[field].strip()}}


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
