"""A year of practice at Lantern Lane: what Wick answered, drawn once by ``scripts/practice.py`` and kept as data."""

import csv
import sqlite3
from importlib.resources import files

from pebble_wheel.notation.practice import read_asked
from pebble_wheel.store import practice
from pebble_wheel.store.database import transaction
from pebble_wheel.store.records import FIRST

FILE = "practice.csv"


def practised(connection: sqlite3.Connection) -> None:
    """Keep the answers of the year."""
    text = (files("pebble_wheel.demo") / FILE).read_text("utf-8")
    with transaction(connection):
        for at, question, truth, given in list(csv.reader(text.splitlines()))[1:]:
            practice.keep(connection, FIRST, read_asked(question), truth, given, at)
