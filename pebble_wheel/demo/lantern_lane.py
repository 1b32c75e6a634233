"""The yarn room of the puppet theatre "Lantern Lane": an invented scenario, as data."""

import sqlite3
from typing import Any

from pebble_wheel.demo import photos
from pebble_wheel.demo.again import spun_again
from pebble_wheel.demo.practice import practised
from pebble_wheel.demo.trail import trail
from pebble_wheel.notation.design import Design, new_design
from pebble_wheel.notation.draft import Draft, design_of, fresh, replaced, write_draft
from pebble_wheel.notation.log import Planned
from pebble_wheel.notation.lot import read_lot
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.texture import Row, Texture
from pebble_wheel.notation.tool import read_tool
from pebble_wheel.store import lots, spinners, tools
from pebble_wheel.store.designs import find, keep_new
from pebble_wheel.store.records import FIRST, keep_plan, note, refer_to
from pebble_wheel.workshop.gestures import sections_of


def _plied(
    name: str, multiple: str, colours: tuple[str, ...], wash: str = "snap", drying: str = "free", **spun: str
) -> Draft:
    singles = tuple(fresh("single", colours=colour, **spun) for colour in colours)
    return Draft(name=name, wash=wash, drying=drying, yarn=fresh("ply", singles, twist=multiple))


TYPED: tuple[Draft, ...] = (
    _plied(
        "Hedgehog's soft waistcoat",
        "0.9",
        ("#7a5a45", "#b59a7c"),
        "thwack",
        fibre="shetland",
        prep="carded",
        draw="long",
        size="230 tex",
        twist="100 t/m",
    ),
    _plied(
        "Moth's lace wings",
        "1.0",
        ("#cfd6d2", "#b9a9c4"),
        "soak",
        "light",
        fibre="polwarth",
        size="32 tex",
        twist="340 t/m",
    ),
    _plied(
        "Stage-door mittens",
        "1.15",
        ("#b3562f", "#c98f3a", "#b3562f", "#c98f3a"),
        fibre="bfl",
        prep="semi",
        size="120 tex",
        twist="5 tpi",
    ),
    _plied("Fisher's jersey", "1.1", ("#31507a", "#5f7f9d", "#9db3bf"), size="120 tex", twist="220 t/m"),
)
"""As a person would type them, the last changed last."""


def _twist(direction: str, **how: float) -> dict[str, object]:
    return {**how, "direction": direction}


def _single(fibre: str, tex: float, turns: float, colour: str, **more: object) -> dict[str, Any]:
    spun = {"kind": "single", "fibre": fibre, "prep": "combed", "tex": tex, "colours": [colour]}
    return {**spun, "twist": _twist("Z", turns_per_m=turns), **more}


_GRADIENT = ["#2f6f6b", "#3f8f6b", "#8fae4b", "#d9b23f", "#c9702e"]

STRUCTURES: tuple[tuple[str, dict[str, Any]], ...] = (
    (
        "Lion's coiled mane",
        {
            "kind": "wrapped",
            "binder": {"kind": "bought", "tex": 70, "twist": _twist("S", turns_per_m=350), "colours": ["#3f2d20"]},
            "wrapper": _single("mohair", 400, 66, "#d08a2e", prep="semi"),
            "overfeed": 2.4,
            "twist": _twist("Z", turns_per_m=160),
        },
    ),
    (
        "Marionette hair",
        {
            "kind": "core-spun",
            "core": {
                "kind": "ply",
                "strands": [_single("bfl", 60, 280, "#d9d2c3", count=2)],
                "twist": _twist("S", of_balanced=1.0),
            },
            "wrap": {
                "fibre": "wensleydale",
                "prep": "combed",
                "strip_tex": 900,
                "strip_width_mm": 12,
                "colours": ["#8a4b2d"],
            },
            "twist": _twist("S", turns_per_m=200),
        },
    ),
    (
        "Dragon's scarf",
        {
            "kind": "chain",
            "strand": {**_single("polwarth", 100, 225, ""), "colours": _GRADIENT, "colour_run_m": 5},
            "loop_mm": 160,
            "twist": _twist("S", of_balanced=1.05),
        },
    ),
    (
        "Queen's collar",
        {
            "kind": "ply",
            "strands": [
                {
                    "kind": "ply",
                    "strands": [_single("merino", 38, 420, colour) for colour in ("#b03a5b", "#d98aa0")],
                    "twist": _twist("S", of_balanced=1.6),
                },
                _single("merino", 80, 340, "#f0e2c8", twist=_twist("S", turns_per_m=340)),
            ],
            "twist": _twist("Z", of_balanced=0.85),
        },
    ),
    (
        "Bell-pull",
        {
            "kind": "ply",
            "strands": [
                {
                    "kind": "ply",
                    "strands": [_single("romney", 150, 130, colour, count=2)],
                    "twist": _twist("S", of_balanced=1.8),
                }
                for colour in ("#7b2f3c", "#c9a24a", "#7b2f3c")
            ],
            "twist": _twist("Z", of_balanced=1.0),
        },
    ),
)
"""As design files hold them."""

TEXTURES: dict[str, Texture] = {
    "Lion's coiled mane": Texture(
        None,
        None,
        24,
        (Row("turned", 220.0, 1.3), Row("bobble", 20.0, 5.0), Row("plain", 120.0, None), Row("bobble", 20.0, 5.0)),
    )
}
"""How those change along their length that do, by name."""


def designs() -> dict[str, Design]:
    """Return the yarns of the room as they are planned, by name, of fibre as in the table."""
    found = {name: _textured(new_design(name, yarn)) for name, yarn in STRUCTURES}
    return found | {each.name: design_of(each, Settings()) for each in TYPED}


def _textured(design: Design) -> Design:
    texture = TEXTURES.get(design.name)
    return design.model_copy(update={"version": 2, "sections": sections_of(texture, design)}) if texture else design


FIRST_NAME, SECOND_NAME = "Wick", "Tallow"
"""Who spins at Lantern Lane."""

MEASURED: dict[str, tuple[Skein | Swatch, ...]] = {
    "Fisher's jersey": (
        Skein("plied", False, None, None, 17.0, "relaxed", 2.0, "off the wheel"),
        Skein("finished", False, 262.0, 108.0, 15.0, "relaxed", 1.5, "first skein"),
        Skein("finished", False, 214.0, 88.0, 17.5, "snug", 2.5, "second skein, spun on a tired evening"),
        Swatch(3.25, 29.0, 27.0, 40.0, 39.0, 900.0, "yes", "the puppet's chest, ribbed hem"),
    ),
    "Dragon's scarf": (
        Skein("finished", True, None, None, 14.0, "relaxed", None, "still wet, could not wait"),
        Skein("finished", False, 310.0, 103.0, 16.0, "card", 0.5, ""),
        Swatch(4.0, 24.0, 23.0, 33.0, 33.0, 300.0, "unsure", "gauge moved, the stitches look as crisp as before"),
    ),
}
"""By the name of the design: what differs from plan, in the invented yarn room."""


LOTS: tuple[dict[str, str], ...] = (
    {
        "name": "Harbour blues",
        "fibres": "corriedale",
        "grams": "3 x 250 g",
        "colours": "#31507a #5f7f9d #9db3bf",
        "run": "1.2 m",
        "note": "Three bumps of combed top, one a colour, for the fisher's jersey.",
    },
    {
        "name": "Two dragon braids",
        "fibres": "polwarth",
        "grams": "96 + 138 g",
        "colours": "#2f6f6b #3f8f6b #8fae4b #d9b23f #c9702e",
        "lengths": "3 2 2 1.5 2",
        "edges": "blended",
        "run": "0.4 m",
        "note": "Dyed by the lighting booth; one braid longer than the other.",
    },
    {"name": "Queen's half and half", "fibres": "50 merino, 50 silk", "grams": "110 g", "colours": "#f0e2c8"},
    {
        "name": "Unknown grey fleece",
        "fibres": "medium wool",
        "prep": "carded",
        "draw": "long",
        "grams": "640 g",
        "staple": "70-90 mm",
        "colours": "#8d8a84",
        "waste": "15",
        "note": "From under the stage. Hand-carded; short bits and dust fall out.",
    },
    {"name": "Wig locks", "fibres": "wensleydale", "grams": "220 g", "colours": "#8a4b2d", "prep": "semi"},
)
"""Fibre in hand, as a person would type it."""

TOOLS: tuple[dict[str, str], ...] = (
    {
        "kind": "bobbins",
        "name": "Oak bobbin",
        "size": "115 x 28 x 95 mm",
        "many": "4",
        "empty": "96 94 97 96 g",
    },
    {"kind": "bobbins", "name": "Lace bobbin", "size": "90 x 50 x 90 mm", "many": "2", "empty": "71 g"},
    {
        "kind": "spindle",
        "name": "Thigh spindle",
        "roll": "13 14 15",
        "flick": "8 9 9",
        "seen": "above",
    },
    {
        "kind": "motor",
        "name": "Humming box",
        "mark-1": "1",
        "count-1": "75",
        "mark-2": "2",
        "count-2": "120",
        "mark-3": "3",
        "count-3": "190",
        "orifice": "12 mm",
    },
    {
        "kind": "wheel",
        "name": "Prompt-side wheel",
        "ratios": "6 9 12",
        "treadles": "double",
        "drive": "flyer-lead",
        "orifice": "10 mm",
    },
)
"""As a person would type them, the one used most last."""

PLANNED = {"Dragon's scarf": {"lot-1": "two-dragon-braids", "way-0": "strips", "parts-0": "2", "stitches": "60"}}
"""What is planned of a yarn: which lot it is spun of, and how its colours are prepared."""

IN_LOT = {"Fisher's jersey": "Harbour blues"}
"""Which typed designs are spun of which lot."""


def _uid(name: str) -> str:
    return name.lower().replace("'", "").replace(" ", "-")


def _spun_of(draft: Draft, fibre: str) -> Draft:
    return replaced(draft, lambda _, part: part.with_typed({"fibre": fibre}))


def fill(connection: sqlite3.Connection) -> None:
    """Put the scenario's designs on an empty shelf, with the fibre in hand, who spins, and what was measured."""
    fibres: dict[str, str] = {}
    for typed in LOTS:
        lot = read_lot(typed, Settings(), _uid(typed["name"]))
        lots.keep(connection, lot, typed)
        fibres[lot.name] = lot.fibre.model_dump_json(exclude_none=True)
    for typed in TOOLS:
        tools.keep(connection, read_tool(typed, Settings()), typed)
    numbers = {name: keep_new(connection, _textured(new_design(name, yarn))) for name, yarn in STRUCTURES}
    for each in TYPED:
        draft = _spun_of(each, fibres[IN_LOT[each.name]]) if each.name in IN_LOT else each
        numbers[draft.name] = keep_new(connection, design_of(draft, Settings()), write_draft(draft))
    spinners.rename(connection, FIRST, FIRST_NAME)
    spinners.add(connection, SECOND_NAME, "second")
    kept = {name: find(connection, number).design for name, number in numbers.items()}
    for event in sorted(trail(kept), key=lambda each: each.at):
        spinner = "second" if event.second else FIRST
        entry = note(connection, numbers[event.design], event.record, spinner, noted_at=event.at)
        if event.reference:
            refer_to(connection, numbers[event.design], entry)
    photos.take(connection, numbers)
    for name, fields in PLANNED.items():
        keep_plan(connection, numbers[name], Planned(fields, {}))
    for name, measured in MEASURED.items():
        for record in measured:
            note(connection, numbers[name], record)
    spun_again(connection, numbers)
    practised(connection)
