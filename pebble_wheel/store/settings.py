"""The settings that hold everywhere."""

import sqlite3
from dataclasses import asdict

from pydantic import TypeAdapter

from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.database import transaction

_CHECKED = TypeAdapter(Settings)


def load(connection: sqlite3.Connection) -> Settings:
    """Return the settings; what was never set has its usual value."""
    return _CHECKED.validate_python(dict(connection.execute("SELECT name, value FROM setting").fetchall()))


def save(connection: sqlite3.Connection, settings: Settings) -> None:
    """Keep the settings."""
    with transaction(connection):
        connection.executemany(
            "INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
            asdict(settings).items(),
        )
