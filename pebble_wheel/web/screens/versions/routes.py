"""The earlier versions of a design: looked at, and brought back."""

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.store import designs
from pebble_wheel.web.shared.base import Database, Number, render
from pebble_wheel.wording.messages import day_and_time
from pebble_wheel.wording.names import structure_words

router = APIRouter(prefix="/designs/{number}/versions")


@dataclass(frozen=True)
class Line:
    """One version."""

    id: int
    name: str
    structure: str
    when: str


@dataclass(frozen=True)
class VersionsView:
    """The page."""

    number: int
    name: str
    lines: list[Line]


@router.get("")
def show(request: Request, connection: Database, number: Number) -> Response:
    """Show what a design was before, the last first."""
    lines = [
        Line(each.id, each.design.name, structure_words(each.design.yarn), day_and_time(each.changed_at))
        for each in designs.versions(connection, number)
    ]
    view = VersionsView(number, designs.name_of(connection, number), lines)
    return render(request, "screens/versions/page.html", view)


@router.post("/{which}/back")
def bring_back(connection: Database, number: Number, which: Number) -> Response:
    """Make a design what it once was; what it is now becomes an earlier version."""
    found = designs.version(connection, number, which)
    designs.keep(connection, number, found.design, found.typed)
    return RedirectResponse(f"/designs/{number}?kept=1", 303)
