"""A yarn spun again: made of an old one at one touch, and what came along."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.store import designs, records
from pebble_wheel.store.again import of_uid, spin_again
from pebble_wheel.web.screens.again.view import Old, view_of_again
from pebble_wheel.web.shared.again import known_by
from pebble_wheel.web.shared.base import AtDesk, Database, Number, Writing, render
from pebble_wheel.web.shared.thread import thread_of
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}/again")


@router.post("")
def begin(request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number) -> Response:
    """Put a new yarn of an old one on the shelf, and show what came along."""
    known = known_by(desk, designs.begun_at(connection, number))
    made = writing.tried(lambda own: spin_again(own, number, known, desk.evaluator))
    if isinstance(made, Message):
        return render(request, "shared/message.html", made, 503)
    return RedirectResponse(f"/designs/{made}/again", 303)


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number) -> Response:
    """Show what came along from the old yarn."""
    kept, record = designs.find(connection, number), records.spun_again(connection, number)
    if record is None:
        raise designs.NotKeptError(f"design {number} is no other spun again")
    before = of_uid(connection, record.of)
    old = None
    if before is not None:
        old = Old(before, designs.find(connection, before).design, records.samples(connection, before))
    view = view_of_again(number, kept.design, record, old, thread_of(connection, number, "log"), desk)
    return render(request, "screens/again/page.html", view)
