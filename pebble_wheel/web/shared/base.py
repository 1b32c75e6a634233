"""Templates, and what every screen needs at hand: the database, the evaluator and the settings."""

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path as FilePath
from typing import Annotated, Any

from fastapi import Depends, Path, Request
from fastapi.templating import Jinja2Templates

from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.database import opened
from pebble_wheel.store.settings import load
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.evaluator import Evaluator

WEB = FilePath(__file__).parent.parent

templates = Jinja2Templates(WEB)
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.globals["asset"] = ASSETS.address


def database(request: Request) -> Iterator[sqlite3.Connection]:
    """Open the database for one request."""
    with opened(request.app.state.database) as connection:
        yield connection


Database = Annotated[sqlite3.Connection, Depends(database)]


async def evaluator_of(request: Request) -> Evaluator:
    """Return the evaluator of the application; at once, and not by way of a thread."""
    evaluator: Evaluator = request.app.state.evaluator
    return evaluator


Evaluating = Annotated[Evaluator, Depends(evaluator_of)]


@dataclass(frozen=True)
class Desk:
    """What a screen works with: the evaluator, and figures as the person reads them."""

    evaluator: Evaluator
    display: Display

    @property
    def settings(self) -> Settings:
        """What the person chose."""
        return self.display.settings


def desk_of(evaluator: Evaluating, connection: Database) -> Desk:
    """Return the application's evaluator with the person's settings, loaded for one request."""
    return Desk(evaluator, Display(load(connection)))


AtDesk = Annotated[Desk, Depends(desk_of)]

Number = Annotated[int, Path(ge=1, le=2**53)]
"""A design's number in an address."""


def is_htmx(request: Request) -> bool:
    """Return whether htmx asks, which wants parts of a page."""
    return request.headers.get("hx-request") == "true"


def render(request: Request, name: str, view: object, status: int = 200) -> Any:
    """Return a page or parts of one: a template shows a view, and nothing else."""
    return templates.TemplateResponse(request, name, {"view": view}, status_code=status)
