"""The yarn room of the puppet theatre "Lantern Lane": an invented scenario, as data."""

import sqlite3

from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.entries import complete, read_entries
from pebble_wheel.store.designs import keep_new

DESIGNS: tuple[dict[str, str], ...] = (
    {
        "name": "Hedgehog's soft waistcoat",
        "fibre": "shetland",
        "prep": "carded",
        "draw": "long",
        "size": "130 tex",
        "twist": "135 t/m",
        "strands": "2",
        "ply_twist": "0.9",
        "colour1": "#7a5a45",
        "colour2": "#b59a7c",
        "wash": "thwack",
    },
    {
        "name": "Moth's lace wings",
        "fibre": "polwarth",
        "size": "32 tex",
        "twist": "340 t/m",
        "strands": "2",
        "ply_twist": "1.0",
        "colour1": "#cfd6d2",
        "colour2": "#b9a9c4",
        "wash": "soak",
        "drying": "light",
    },
    {
        "name": "Stage-door mittens",
        "fibre": "bfl",
        "prep": "semi",
        "size": "80 tex",
        "twist": "6 tpi",
        "strands": "4",
        "ply_twist": "1.15",
        "colour1": "#b3562f",
        "colour2": "#c98f3a",
        "colour3": "#b3562f",
        "colour4": "#c98f3a",
    },
    {
        "name": "Fisher's jersey",
        "fibre": "corriedale",
        "size": "100 tex",
        "twist": "230 t/m",
        "strands": "3",
        "ply_twist": "1.1",
        "colour1": "#31507a",
        "colour2": "#5f7f9d",
        "colour3": "#9db3bf",
    },
)
"""As a person would type them, the last changed last."""


def fill(connection: sqlite3.Connection) -> None:
    """Put the scenario's designs on an empty shelf."""
    for typed in DESIGNS:
        entries = complete(typed)
        keep_new(connection, read_entries(entries, Settings()), entries)
