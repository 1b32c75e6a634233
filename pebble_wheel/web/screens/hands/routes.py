"""My hands: who spins, what was learned of them, and which readings count."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.mechanics.learning.outcomes import Outcome
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import records, spinners
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.web.screens.hands.view import view_of_hands
from pebble_wheel.web.shared.base import COUNTED, SPINNER, AtDesk, Database, Number, Writing, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/hands")

YEAR = 365 * 24 * 3600


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk) -> Response:
    """Show what was learned."""
    group = request.query_params.get("group", "0")
    place = int(group) if group.isdecimal() and len(group) < 6 else 0
    return render(request, "screens/hands/page.html", view_of_hands(desk, spinners.spinners(connection), place))


@router.post("/spinner")
def choose(connection: Database, sent: Sent) -> Response:
    """Say who spins at this device."""
    chosen = spinners.known(connection, texts(sent).get("spinner", ""))
    return _remembering(SPINNER, chosen.uid)


@router.post("/counted")
def count(sent: Sent) -> Response:
    """Let what was learned count on this device, or not."""
    return _remembering(COUNTED, "no" if texts(sent).get("counted") == "no" else "yes")


@router.post("/people")
def add(request: Request, connection: Database, writing: Writing, desk: AtDesk, sent: Sent) -> Response:
    """Add somebody that spins, who then spins at this device; or give the one who does another name."""
    typed = texts(sent)
    name, renaming = typed.get("name", ""), "rename" in typed

    def write(own: Database) -> str:
        if renaming:
            spinners.rename(own, desk.learned.spinner.uid, name)
            return desk.learned.spinner.uid
        return spinners.add(own, name)

    try:
        done = writing.tried(write)
    except InputError as error:
        view = view_of_hands(desk, spinners.spinners(connection), 0, error.faults[0].message, name)
        return render(request, "screens/hands/page.html", view, 422)
    if isinstance(done, Message):
        view = view_of_hands(desk, spinners.spinners(connection), 0, done.words, name)
        return render(request, "screens/hands/page.html", view, 503)
    return _remembering(SPINNER, done)


@router.post("/readings/{design}/{entry}/{outcome}/{what}")
def strike(connection: Database, desk: AtDesk, design: Number, entry: Number, outcome: Outcome, what: str) -> Response:
    """Let a reading count no more, or again."""
    noted = next((each for each in desk.learned.entries if each.id == entry and each.design == design), None)
    if noted is None:
        raise NotKeptError(f"no such sample {entry}")
    struck = noted.struck | {outcome} if what == "strike" else noted.struck - {outcome}
    records.count_out(connection, design, entry, frozenset(struck))
    return RedirectResponse("/hands#samples", 303)


@router.post("/sure/{design}/{entry}")
def sure(connection: Database, design: Number, entry: Number) -> Response:
    """Say of a sample that was asked about that it is really so."""
    records.make_sure(connection, design, entry)
    return RedirectResponse("/hands#samples", 303)


def _remembering(name: str, value: str) -> Response:
    answer = RedirectResponse("/hands", 303)
    answer.set_cookie(name, value, max_age=YEAR, path="/", httponly=True, samesite="lax")
    return answer
