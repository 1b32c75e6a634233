"""What yarn is made with: wheels, motor spinners, spindles and bobbins."""

import json
import sqlite3
from dataclasses import dataclass

from pebble_wheel.notation.tool import ToolModel, check_tool
from pebble_wheel.store import shelved
from pebble_wheel.store.database import now, transaction
from pebble_wheel.store.rows import DamagedError, change, sound


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
        NotThereError: where the one to be overwritten is not there.
    """
    with transaction(connection):
        keep_within(connection, tool, typed, number)


def keep_within(
    connection: sqlite3.Connection, tool: ToolModel, typed: dict[str, str], number: int | None = None
) -> None:
    """Keep a tool within a transaction; see :func:`keep`."""
    written, when = json.dumps(typed, separators=(",", ":"), ensure_ascii=False), now()
    values = {"name": tool.name, "body": tool.model_dump_json(), "typed": written, "changed_at": when}
    shelved.keep_within(connection, "tool", number, values, {"created_at": when, "chosen_at": when})


def choose(connection: sqlite3.Connection, number: int) -> None:
    """Use a tool wherever nothing else is said."""
    with transaction(connection):
        shelved.row(connection, "tool", number)
        change(connection, "tool", number, {"chosen_at": now()})


def put_away(connection: sqlite3.Connection, number: int) -> None:
    """Put a tool away; :func:`bring_back` undoes it."""
    shelved.put_away(connection, "tool", number)


def bring_back(connection: sqlite3.Connection, number: int) -> None:
    """Bring a tool back that was put away."""
    shelved.bring_back(connection, "tool", number)


def find(connection: sqlite3.Connection, number: int) -> Tool:
    """Return one tool.

    Raises:
        NotThereError: where it is not there.
        DamagedError: where it cannot be read.
    """
    return _tool(shelved.row(connection, "tool", number))


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
