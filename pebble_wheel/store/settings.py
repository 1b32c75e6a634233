"""The settings that hold everywhere."""

import sqlite3
from dataclasses import asdict, fields

from pydantic import TypeAdapter, ValidationError

from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.database import transaction
from pebble_wheel.store.rows import mark_of

_CHECKED = TypeAdapter(Settings)


def load(connection: sqlite3.Connection) -> Settings:
    """Return the settings; what was never set, or cannot be read, has its usual value."""
    rows = connection.execute("SELECT name, value, mark FROM setting").fetchall()
    return usable({name: value for name, value, mark in rows if mark == mark_of(name, value)})


def chosen(connection: sqlite3.Connection) -> bool:
    """Return whether anybody has chosen anything yet."""
    return connection.execute("SELECT 1 FROM setting LIMIT 1").fetchone() is not None


def usable(values: dict[str, str]) -> Settings:
    """Return the settings that values say; one that says nothing usable has its usual value."""
    known = {each.name for each in fields(Settings)}
    found: dict[str, str] = {}
    for name, value in values.items():
        if name in known:
            try:
                _CHECKED.validate_python({name: value})
            except ValidationError:
                continue
            found[name] = value
    return _CHECKED.validate_python(found)


def save(connection: sqlite3.Connection, settings: Settings) -> None:
    """Keep the settings."""
    with transaction(connection):
        save_within(connection, settings)


def save_within(connection: sqlite3.Connection, settings: Settings) -> None:
    """Keep the settings within a transaction."""
    rows = [{"name": name, "value": value} for name, value in asdict(settings).items()]
    connection.executemany(
        """INSERT INTO setting (name, value, mark) VALUES (:name, :value, mark_of(:name, :value))
        ON CONFLICT (name) DO UPDATE SET value = excluded.value, mark = excluded.mark""",
        rows,
    )
