"""What yarn is made with: wheels, motor spinners, spindles and bobbins."""

import json
import sqlite3
from dataclasses import dataclass

from pebble_wheel.notation.tool import ToolModel, check_tool
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import DamagedError, change, insert, seal, sound


class NoToolError(LookupError):
    """No such tool, or it was put away."""


@dataclass(frozen=True)
class Tool:
    """A tool as it is kept."""

    id: int
    uid: str
    model: ToolModel
    typed: dict[str, str]


@dataclass(frozen=True)
class DamagedTool:
    """A tool that cannot be read, with what can be had of it."""

    id: int
    name: str
    text: str


def keep(connection: sqlite3.Connection, tool: ToolModel, typed: dict[str, str], number: int | None = None) -> None:
    """Keep a tool, or overwrite one.

    Raises:
        NoToolError: where the one to be overwritten is not there.
    """
    with transaction(connection):
        keep_within(connection, tool, typed, number)


def keep_within(
    connection: sqlite3.Connection, tool: ToolModel, typed: dict[str, str], number: int | None = None
) -> None:
    """Keep a tool within a transaction; see :func:`keep`."""
    written, when = json.dumps(typed, separators=(",", ":"), ensure_ascii=False), now()
    values = {"name": tool.name, "body": tool.model_dump_json(), "typed": written, "changed_at": when}
    if number is None:
        insert(connection, "tool", {"created_at": when, "chosen_at": when, **values})
        return
    _row(connection, number)
    change(connection, "tool", number, values)
    seal(connection, "tool", number)


def choose(connection: sqlite3.Connection, number: int) -> None:
    """Use a tool wherever nothing else is said."""
    with transaction(connection):
        _row(connection, number)
        change(connection, "tool", number, {"chosen_at": now()})


def put_away(connection: sqlite3.Connection, number: int) -> None:
    """Put a tool away; :func:`bring_back` undoes it."""
    _move(connection, number, now())


def bring_back(connection: sqlite3.Connection, number: int) -> None:
    """Bring a tool back that was put away."""
    _move(connection, number, None)


def _move(connection: sqlite3.Connection, number: int, when: str | None) -> None:
    with transaction(connection):
        if connection.execute("SELECT 1 FROM tool WHERE id = ?", (number,)).fetchone() is None:
            raise NoToolError(f"no tool {number}")
        change(connection, "tool", number, {"deleted_at": when})


def find(connection: sqlite3.Connection, number: int) -> Tool:
    """Return one tool.

    Raises:
        NoToolError: where it is not there.
        DamagedError: where it cannot be read.
    """
    return _tool(_row(connection, number))


def shelf(connection: sqlite3.Connection) -> list[Tool | DamagedTool]:
    """Return all tools, the one chosen last first."""
    found: list[Tool | DamagedTool] = []
    for row in connection.execute(
        "SELECT * FROM tool WHERE deleted_at IS NULL ORDER BY chosen_at DESC, created_at, id"
    ):
        try:
            found.append(_tool(row))
        except DamagedError:
            found.append(DamagedTool(row["id"], str(row["name"]), str(row["body"])))
    return found


def usable(connection: sqlite3.Connection) -> list[Tool]:
    """Return all tools that can be read, the one chosen last first."""
    return [each for each in shelf(connection) if isinstance(each, Tool)]


def _tool(row: sqlite3.Row) -> Tool:
    sound("tool", row)
    try:
        return Tool(row["id"], row["uid"], check_tool(row["body"]), json.loads(row["typed"]))
    except ValueError as error:
        raise DamagedError(str(error), dict(row)) from error


def _row(connection: sqlite3.Connection, number: int) -> sqlite3.Row:
    row = connection.execute("SELECT * FROM tool WHERE id = ? AND deleted_at IS NULL", (number,)).fetchone()
    if row is None:
        raise NoToolError(f"no tool {number}")
    found: sqlite3.Row = row
    return found
