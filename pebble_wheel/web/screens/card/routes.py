"""The wheel card of a yarn: made anew and kept in its log, and given again from there unchanged."""

from datetime import UTC, datetime
from typing import cast, get_args

from fastapi import APIRouter
from fastapi.responses import RedirectResponse, Response
from pydantic import TypeAdapter, ValidationError

from pebble_wheel.drawing.card import Card, Paper, card_svg
from pebble_wheel.notation.log import Printed
from pebble_wheel.store import designs, records
from pebble_wheel.store.records import Noted
from pebble_wheel.store.rows import DamagedError
from pebble_wheel.web.screens.card.view import card_of
from pebble_wheel.web.shared.base import AtDesk, Database, Number, Writing
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.pdf import card_pdf
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}/card")

_CARD = TypeAdapter(Card)


@router.post("")
def make(connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Make a card of the yarn as it is planned now, keep it in the log, and give it."""
    typed = texts(sent)
    kept = designs.find(connection, number)
    paper = cast(Paper, typed["paper"]) if typed.get("paper") in get_args(Paper) else "A5"
    card = card_of(
        kept.design, desk.for_yarn(number, kept.design), datetime.now(UTC), paper, _metres(connection, number)
    )
    printed = Printed(_CARD.dump_json(card).decode())
    done = writing.tried(lambda own: records.note(own, number, printed, desk.learned.spinner.uid))
    if isinstance(done, Message):  # what cannot be kept is printed all the same
        return _pdf(card)
    kind = "svg" if typed.get("as") == "svg" else "pdf"
    return RedirectResponse(f"/designs/{number}/card/{done}.{kind}", 303)


@router.get("/{entry}.pdf")
def give_pdf(connection: Database, number: Number, entry: Number) -> Response:
    """Give a card of the record as PDF."""
    return _pdf(_kept(connection, number, entry))


@router.get("/{entry}.svg")
def give_svg(connection: Database, number: Number, entry: Number) -> Response:
    """Give a card of the record as a drawing."""
    headers = {"content-disposition": 'inline; filename="card.svg"'}
    return Response(card_svg(_kept(connection, number, entry)), media_type="image/svg+xml", headers=headers)


def _metres(connection: Database, number: int) -> float | None:
    """Return the metres of the skein that was measured last; None where none was."""
    measured = [each.record.metres for each in records.skeins(connection, number) if each.record.metres]
    return measured[-1] if measured else None


def _pdf(card: Card) -> Response:
    headers = {"content-disposition": 'inline; filename="card.pdf"'}
    return Response(card_pdf(card), media_type="application/pdf", headers=headers)


def _kept(connection: Database, number: int, entry: int) -> Card:
    for each in records.entries(connection, number):
        if isinstance(each, Noted) and each.id == entry and isinstance(each.record, Printed):
            try:
                return _CARD.validate_json(each.record.card)
            except ValidationError as error:
                raise DamagedError("this card cannot be read", {}) from error
    raise designs.NotKeptError(f"no such card {entry}")
