"""Forms as they were sent."""

from collections.abc import AsyncIterator
from typing import Annotated, Any
from urllib.parse import parse_qsl

from fastapi import Depends, HTTPException, Request
from starlette.datastructures import ImmutableMultiDict

Fields = ImmutableMultiDict[str, Any]
"""Of a form or of a query."""


MOST_FIELDS = 1000

WRITTEN_OUT = "application/x-www-form-urlencoded"
"""How a form without files is sent."""


async def sent_form(request: Request) -> AsyncIterator[Fields]:
    """Give the form as it was sent; what it asks for is done off the event loop, where it may take its time.

    One without files is read at once: byte by byte, as it comes in, takes ten times as long.
    """
    if request.headers.get("content-type", "").partition(";")[0].strip().lower() == WRITTEN_OUT:
        try:
            fields = parse_qsl((await request.body()).decode("latin-1"), True, max_num_fields=MOST_FIELDS)
        except ValueError as error:
            raise HTTPException(400, f"more than {MOST_FIELDS} fields") from error
        yield ImmutableMultiDict(fields)
        return
    async with request.form() as form:
        yield form


Sent = Annotated[Fields, Depends(sent_form)]


def texts(fields: Fields) -> dict[str, str]:
    """Return what was typed, by field; of several entries the last."""
    return {field: value for field, value in fields.items() if isinstance(value, str)}


def several(fields: Fields, name: str) -> tuple[str, ...]:
    """Return every entry of a field."""
    return tuple(value for value in fields.getlist(name) if isinstance(value, str))
