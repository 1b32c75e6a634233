"""Wheels, motor spinners, spindles and bobbins: told of once, counted with guidance, used everywhere."""

from dataclasses import dataclass
from typing import get_args

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.mechanics.making.tools import COUNTED
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.tool import MOST_MARKS, TOOL_FIELDS, Kind, read_tool
from pebble_wheel.store import tools
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, render
from pebble_wheel.web.shared.choices import choices_of
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.messages import Message
from pebble_wheel.wording.tools import (
    COUNT_DIAL,
    COUNT_ROLL,
    DRIVE_WORDS,
    EMPTY,
    KIND_WORDS,
    SEEN_WORDS,
    TREADLES_WORDS,
    tool_lines,
)

router = APIRouter(prefix="/tools")

MOST_TYPED = 600


@dataclass(frozen=True)
class Card:
    """One tool."""

    id: int
    name: str
    kind: str
    lines: list[str]
    first: bool
    """Whether it is used where nothing else is said."""
    can_be_first: bool


@dataclass(frozen=True)
class ToolsView:
    """The page."""

    cards: list[Card]
    damaged: list[tools.DamagedTool]
    typed: dict[str, str]
    faults: dict[str, str]
    inches: bool
    ounces: bool
    number: int | None = None
    """The tool that is being changed."""
    away: int | None = None
    """The tool just put away."""
    unkept: str = ""

    kinds = choices_of(KIND_WORDS)
    treadles = choices_of(TREADLES_WORDS)
    drives = choices_of(DRIVE_WORDS)
    seen = choices_of(SEEN_WORDS)
    marks = range(1, MOST_MARKS + 1)
    count_dial, count_roll, empty = COUNT_DIAL, COUNT_ROLL, EMPTY
    seconds = COUNTED


@router.get("")
def show(
    request: Request,
    connection: Database,
    desk: AtDesk,
    change: int | None = None,
    away: int | None = None,
    kind: str = "",
) -> Response:
    """Show what is owned, and the form for another tool or for one to be changed."""
    typed = tools.find(connection, change).typed if change else {}
    if kind in get_args(Kind):
        typed = {"kind": kind}
    return _answer(request, connection, desk, typed, number=change, away=away)


@router.post("")
def add(request: Request, writing: Writing, connection: Database, desk: AtDesk, sent: Sent) -> Response:
    """Keep another tool, or what one has become."""
    typed = {name: value[:MOST_TYPED] for name, value in texts(sent).items()}
    number = int(typed["id"]) if typed.get("id", "").isdecimal() and len(typed["id"]) < 18 else None
    own = {name: typed[name] for name in TOOL_FIELDS if name in typed}
    if "kind-is" in typed:  # another kind was chosen, with no script at hand
        return _answer(request, connection, desk, own, number=number)
    try:
        tool = read_tool(own, desk.settings)
    except InputError as error:
        faults = {fault.place: fault.message for fault in reversed(error.faults)}
        return _answer(request, connection, desk, own, faults, number, status=422)
    done = writing.tried(lambda to: tools.keep(to, tool, own, number))
    if isinstance(done, Message):
        return _answer(request, connection, desk, own, number=number, unkept=done.words, status=503)
    return RedirectResponse("/tools", 303)


@router.post("/{number}/first")
def choose(connection: Database, number: Number) -> Response:
    """Use a tool where nothing else is said."""
    tools.choose(connection, number)
    return RedirectResponse("/tools", 303)


@router.post("/{number}/away")
def put_away(connection: Database, number: Number) -> Response:
    """Put a tool away; it can come back."""
    tools.put_away(connection, number)
    return RedirectResponse(f"/tools?away={number}", 303)


@router.post("/{number}/back")
def bring_back(connection: Database, number: Number) -> Response:
    """Bring a tool back."""
    tools.bring_back(connection, number)
    return RedirectResponse("/tools", 303)


def _answer(
    request: Request,
    connection: Database,
    desk: Desk,
    typed: dict[str, str],
    faults: dict[str, str] | None = None,
    number: int | None = None,
    away: int | None = None,
    unkept: str = "",
    status: int = 200,
) -> Response:
    kept = tools.shelf(connection)
    whole = [each for each in kept if isinstance(each, tools.Tool)]
    spun_on = [each.id for each in whole if each.model.kind != "bobbins"]
    view = ToolsView(
        [
            Card(
                each.id,
                each.model.name,
                KIND_WORDS[each.model.kind],
                tool_lines(each.model, desk.display),
                spun_on[:1] == [each.id],
                each.id in spun_on[1:],
            )
            for each in whole
        ],
        [each for each in kept if isinstance(each, tools.DamagedTool)],
        {**TOOL_FIELDS, **typed},
        faults or {},
        desk.settings.inches,
        desk.settings.mass == "oz",
        number,
        away,
        unkept,
    )
    return render(request, "screens/tools/page.html", view, status)
