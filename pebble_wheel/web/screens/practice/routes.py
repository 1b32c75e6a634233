"""Practice: rounds of ten yarns, the answer on each at once, and how the eye reads over time."""

from datetime import UTC, datetime
from urllib.parse import urlencode

import numpy as np
from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.mechanics.learning.practice import round_of
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.guess import Guess
from pebble_wheel.notation.practice import Asked, read_asked, read_given
from pebble_wheel.store import practice, records
from pebble_wheel.web.screens.practice.photos import own_photos
from pebble_wheel.web.screens.practice.view import Round, view_of_practice, view_of_question, view_of_round
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Writing, render
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.learned import tried_of
from pebble_wheel.wording.messages import Message
from pebble_wheel.workshop.guesses import Guessed, guesses_in
from pebble_wheel.workshop.practice import DAY, SKILLS, Question, question_of, questions, standings_of

router = APIRouter(prefix="/practice")

A_ROUND = 10
MOST_ROUND = 1000
"""Letters of the questions of a round in an address."""


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk) -> Response:
    """Show how the eye reads, and what is due."""
    spinner = desk.learned.spinner.uid
    tried = tried_of(practice.answers(connection, spinner))
    now = datetime.now(UTC)
    view = view_of_practice(tried, _guessed(connection, spinner, now), practice.counts(connection, spinner), now, desk)
    return render(request, "screens/practice/page.html", view)


@router.post("")
def begin(connection: Database, desk: AtDesk, sent: Sent) -> Response:
    """Begin a round: of what is due, or of one kind."""
    rng, only = np.random.default_rng(), texts(sent).get("only", "")
    standings = standings_of(tried_of(practice.answers(connection, desk.learned.spinner.uid)), datetime.now(UTC))
    skills = [each for each in SKILLS if each.kind == only]
    chosen = [skills[place % 2] for place in range(A_ROUND)] if skills else round_of(standings, A_ROUND, rng)
    photos = [each.id for each in own_photos(connection)]
    asked = [each.written() for each in questions(chosen, photos, rng)]
    return RedirectResponse(_address(",".join(asked), 0), 303)


@router.get("/round")
def ask(request: Request, connection: Database, desk: AtDesk, q: str = "", at: int = 0, answer: int = 0) -> Response:
    """Ask a question of a round; show its answer once it has one; and how the round went at its end."""
    going = _round(q, at)
    answers = practice.answers(connection, desk.learned.spinner.uid)
    if at >= len(going.asked):
        return render(request, "screens/practice/round.html", view_of_round(answers[-len(going.asked) :]))
    given = next((each.given for each in answers if each.id == answer), None) if answer else None
    return _page(request, connection, desk, going, given)


@router.post("/round")
def take(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, sent: Sent, q: str = "", at: int = 0
) -> Response:
    """Take an answer, and show what is true."""
    going = _round(q, at)
    if at >= len(going.asked):
        return RedirectResponse(_address(q, at), 303)
    text = texts(sent).get("given", "")
    try:
        given = read_given(text, going.now.kind, desk.settings)
    except InputError as error:
        return _page(request, connection, desk, going, None, text, error.faults[0].message)
    spinner = desk.learned.spinner.uid
    before = practice.given_to(connection, spinner, going.now)
    if before is not None:  # the answer was shown: only what was said before it counts
        return RedirectResponse(_address(q, at, before), 303)
    truth = _question(connection, desk, going.now).truth
    done = writing.tried(lambda own: practice.keep(own, spinner, going.now, truth, given))
    if isinstance(done, Message):
        return _page(request, connection, desk, going, None, text, done.words)
    return RedirectResponse(_address(q, at, done), 303)


@router.post("/leave")
def leave(connection: Database, desk: AtDesk, sent: Sent) -> Response:
    """Let what was practised count as how the eye reads, or no more."""
    practice.let_count(connection, desk.learned.spinner.uid, texts(sent).get("given") == "yes")
    return RedirectResponse("/practice", 303)


def _guessed(connection: Database, spinner: str, now: datetime) -> list[Guessed]:
    """Return somebody's guesses that were answered, the first first."""
    found = []
    for log in records.with_guesses(connection, spinner):
        for place, answer in guesses_in([each.record for each in log]):
            noted = log[place]
            if answer and noted.spinner == spinner and isinstance(noted.record, Guess):
                age = (now - datetime.fromisoformat(noted.noted_at)).total_seconds() / DAY
                found.append(Guessed(noted.record, answer, age))
    return sorted(found, key=lambda each: -each.age)


def _round(q: str, at: int) -> Round:
    if len(q) > MOST_ROUND or not 0 <= at <= 2 * A_ROUND:
        raise InputError(Fault("q", "this names no round"))
    return Round(q, tuple(read_asked(each) for each in q.split(",")[: 2 * A_ROUND]), at)


def _address(q: str, at: int, answer: int = 0) -> str:
    return "/practice/round?" + urlencode({"q": q, "at": at, **({"answer": answer} if answer else {})}, safe=",")


def _question(connection: Database, desk: Desk, asked: Asked) -> Question:
    return question_of(asked, desk.plain, own_photos(connection) if asked.photo is not None else ())


def _page(
    request: Request,
    connection: Database,
    desk: Desk,
    going: Round,
    given: str | None,
    typed: str = "",
    fault: str = "",
) -> Response:
    question = _question(connection, desk, going.now)
    view = view_of_question(going, question, given, typed, fault, desk)
    return render(request, "screens/practice/round.html", view, 422 if fault else 200)
