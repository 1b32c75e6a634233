"""Forms as they were sent."""

from collections.abc import AsyncIterator
from typing import Annotated, Any

from fastapi import Depends, Request
from starlette.datastructures import ImmutableMultiDict

Fields = ImmutableMultiDict[str, Any]
"""Of a form or of a query."""


async def sent_form(request: Request) -> AsyncIterator[Fields]:
    """Give the form as it was sent; what it asks for is done off the event loop, where it may take its time."""
    async with request.form() as form:
        yield form


Sent = Annotated[Fields, Depends(sent_form)]


def texts(fields: Fields) -> dict[str, str]:
    """Return what was typed, by field; of several entries the last."""
    return {field: value for field, value in fields.items() if isinstance(value, str)}


def several(fields: Fields, name: str) -> tuple[str, ...]:
    """Return every entry of a field."""
    return tuple(value for value in fields.getlist(name) if isinstance(value, str))
