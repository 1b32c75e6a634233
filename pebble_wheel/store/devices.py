"""Devices that were paired, and links that pair one more. Of secrets only a digest is kept."""

import hashlib
import secrets
import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from pebble_wheel.store.database import now, transaction

LINK_DAYS = 1
"""That a pairing link holds if nobody uses it."""

MOST_NAME = 60


@dataclass(frozen=True)
class Device:
    """A paired device."""

    id: int
    name: str
    paired_at: str
    seen_at: str
    """The day it was last seen."""


class NoSuchLinkError(LookupError):
    """A pairing link that was never made, was used, or was withdrawn."""


def new_link(connection: sqlite3.Connection) -> str:
    """Return the code of a link that pairs one device; links before it are withdrawn."""
    code = secrets.token_urlsafe(18)
    with transaction(connection):
        connection.execute("DELETE FROM pairing")
        connection.execute("INSERT INTO pairing VALUES (?, ?)", (_digest(code), now()))
    return code


def withdraw_link(connection: sqlite3.Connection) -> None:
    """Withdraw the link, used or not."""
    with transaction(connection):
        connection.execute("DELETE FROM pairing")


def is_link(connection: sqlite3.Connection, code: str) -> bool:
    """Return whether a link would pair a device."""
    since = (datetime.now(UTC) - timedelta(days=LINK_DAYS)).isoformat()
    found = connection.execute(
        "SELECT 1 FROM pairing WHERE code = ? AND made_at > ?", (_digest(code), since)
    ).fetchone()
    return found is not None


def pair(connection: sqlite3.Connection, code: str, name: str) -> str:
    """Pair a device by a link, which is used up by it, and return the secret that the device keeps.

    Raises:
        NoSuchLinkError: where the link pairs none.
    """
    secret, moment = secrets.token_urlsafe(32), now()
    with transaction(connection):
        if not is_link(connection, code):
            raise NoSuchLinkError
        connection.execute("DELETE FROM pairing WHERE code = ?", (_digest(code),))
        called = " ".join(name.split())[:MOST_NAME] or "device"
        values = (called, _digest(secret), moment, moment[:10])
        connection.execute("INSERT INTO device (name, secret, paired_at, seen_at) VALUES (?, ?, ?, ?)", values)
    return secret


def is_paired(connection: sqlite3.Connection, secret: str) -> bool:
    """Return whether a device with this secret is paired; the day it was seen is noted."""
    row = connection.execute("SELECT id, seen_at FROM device WHERE secret = ?", (_digest(secret),)).fetchone()
    if row is None:
        return False
    today = now()[:10]
    if row["seen_at"] != today:
        with transaction(connection):
            connection.execute("UPDATE device SET seen_at = ? WHERE id = ?", (today, row["id"]))
    return True


def devices(connection: sqlite3.Connection) -> list[Device]:
    """Return the paired devices, the last first."""
    rows = connection.execute("SELECT id, name, paired_at, seen_at FROM device ORDER BY id DESC")
    return [Device(*row) for row in rows]


def revoke(connection: sqlite3.Connection, number: int) -> None:
    """Let a device see nothing any more."""
    with transaction(connection):
        connection.execute("DELETE FROM device WHERE id = ?", (number,))


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode("utf-8", "surrogatepass")).hexdigest()
