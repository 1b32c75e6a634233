"""Templates, and what every screen needs at hand: the database and the settings."""

import hashlib
import sqlite3
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path as FilePath
from typing import Annotated, Any

from fastapi import Depends, Path, Request
from fastapi.templating import Jinja2Templates

from pebble_wheel.store.database import opened
from pebble_wheel.store.settings import load
from pebble_wheel.wording.display import Display

HERE = FilePath(__file__).parent
STATIC = HERE / "static"

templates = Jinja2Templates(HERE.parent)
templates.env.trim_blocks = templates.env.lstrip_blocks = True


@lru_cache(maxsize=32)
def asset(name: str) -> str:
    """Return the address of a static file with a mark of its content, so that it may be cached for good."""
    mark = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?{mark}"


templates.env.globals["asset"] = asset


def database(request: Request) -> Iterator[sqlite3.Connection]:
    """Open the database for one request."""
    with opened(request.app.state.database) as connection:
        yield connection


Database = Annotated[sqlite3.Connection, Depends(database)]


def display_of(connection: Database) -> Display:
    """Load the person's settings for one request."""
    return Display(load(connection))


Displayed = Annotated[Display, Depends(display_of)]


Number = Annotated[int, Path(ge=1, le=2**53)]
"""A design's number in an address."""


def is_htmx(request: Request) -> bool:
    """Return whether htmx asks, which wants a part of a page."""
    return request.headers.get("hx-request") == "true"


def render(request: Request, name: str, status: int = 200, /, **values: Any) -> Any:
    """Return a page or a part of one."""
    return templates.TemplateResponse(request, name, values, status_code=status)
