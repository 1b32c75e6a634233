"""Forms as they were sent."""

from collections.abc import AsyncIterator
from typing import Annotated, Any
from urllib.parse import parse_qsl, quote

from fastapi import Depends, HTTPException, Request
from starlette.datastructures import ImmutableMultiDict

Fields = ImmutableMultiDict[str, Any]
"""Of a form or of a query."""


MOST_FIELDS = 1000

WRITTEN_OUT = "application/x-www-form-urlencoded"
"""How a form without files is sent."""


_MARKS = tuple((mark, quote(mark, safe="")) for mark in '":,{}[]#')


async def sent_form(request: Request) -> Fields:
    """Return the form as it was sent, without files; what it asks for is done off the event loop.

    One that can hold no files is read at once: byte by byte, as it comes in, takes ten times as long.
    """
    if request.headers.get("content-type", "").partition(";")[0].strip().lower() == WRITTEN_OUT:
        try:
            fields = parse_qsl(_eased((await request.body()).decode("latin-1")), True, max_num_fields=MOST_FIELDS)
        except ValueError as error:
            raise HTTPException(400, f"more than {MOST_FIELDS} fields") from error
        return ImmutableMultiDict(fields)
    async with request.form() as form:
        return ImmutableMultiDict([(field, value) for field, value in form.multi_items() if isinstance(value, str)])


def _eased(text: str) -> str:
    """Return a form as it was sent with the marks of JSON as themselves, none of which parts fields.

    A draft is for the most part these, and one by one they take three times as long.
    """
    for mark, written in _MARKS:
        text = text.replace(written, mark)
    return text


async def form_with_files(request: Request) -> AsyncIterator[Fields]:
    """Give the form with the files sent in it, which are let go when all is done."""
    async with request.form() as form:
        yield form


Sent = Annotated[Fields, Depends(sent_form)]
SentWithFiles = Annotated[Fields, Depends(form_with_files)]


def texts(fields: Fields) -> dict[str, str]:
    """Return what was typed, by field; of several entries the last."""
    return {field: value for field, value in fields.items() if isinstance(value, str)}


def several(fields: Fields, name: str) -> tuple[str, ...]:
    """Return every entry of a field."""
    return tuple(value for value in fields.getlist(name) if isinstance(value, str))
