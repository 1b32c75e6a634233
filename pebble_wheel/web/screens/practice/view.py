"""What is shown when the eye is practised."""

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.practised import Lies, Over, alone_svg, errors_svg, life_svg, misses_svg, photo_svg, turned
from pebble_wheel.drawing.yarn import Relief
from pebble_wheel.mechanics.learning.practice import GOOD
from pebble_wheel.notation.guess import About
from pebble_wheel.notation.practice import MEASURED, Asked, Practised, miss
from pebble_wheel.store.practice import Answer
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.drawn import strands_address
from pebble_wheel.wording.guesses import ABOUT_WORDS, GUESS_ENDS, GUESS_TITLE, figure_guess_words, other_guess_words
from pebble_wheel.wording.practice import (
    CHOICE_WORDS,
    ERROR_ENDS,
    EYE_TITLE,
    LEAVE_ASKED,
    LOOP_SHOWN,
    MISS_ENDS,
    NO_ANSWERS,
    PHOTO_SHOWN,
    SKILL_WORDS,
    YARN_SHOWN,
    answer_words,
    asked_words,
    due_words,
    eye_words,
    hung_words,
    leave_words,
    nearness,
    round_words,
    skill_words,
    taken_words,
)
from pebble_wheel.wording.thread import day_words
from pebble_wheel.workshop.guesses import FIGURES, Guessed, guesser, missed
from pebble_wheel.workshop.practice import Question, Skill, Tried, eye_for, standings_of, taken_of, told_apart

KINDS: tuple[Practised, ...] = ("way", "angle", "other", "balance", "wraps", "plies", "prep")
SHOWN = 120
"""Answers of a kind in its picture, the last."""


@dataclass(frozen=True)
class Seen:
    """How the eye reads one kind."""

    kind: Practised | About
    name: str
    words: str
    picture: Markup | None
    """None where it was not tried yet."""
    due: bool


@dataclass(frozen=True)
class PracticeView:
    """The page."""

    spinner: str
    intro: str
    due: str
    seen: list[Seen]
    counts: bool
    leave: str
    """What leave does, or is asked for; empty where no angle was tried yet."""
    guesses: list[Seen]
    """How good guesses before the wash have become, of what was guessed."""


def view_of_practice(
    tried: list[Tried], guessed: list[Guessed], counts: bool, now: datetime, desk: Desk
) -> PracticeView:
    """Return what the page shows."""
    standings = standings_of(tried, now)
    due = [skill for skill, standing in standings.items() if standing.due]
    angle = eye_for("angle", tried, now)
    return PracticeView(
        desk.learned.spinner.name,
        NO_ANSWERS,
        due_words(sorted(due, key=lambda each: -standings[each].need), bool(tried)),
        [_seen(kind, tried, now, any(each.kind == kind for each in due)) for kind in KINDS],
        counts,
        (leave_words(angle) if counts else LEAVE_ASKED) if angle.count else "",
        [_guessing(about, guessed, now) for about in ABOUT_WORDS if any(each.guess.about == about for each in guessed)],
    )


def _guessing(about: About, guessed: list[Guessed], now: datetime) -> Seen:
    own = [each for each in guessed if each.guess.about == about][-SHOWN:]
    over = _over_time([each.answer.off for each in own], [now - timedelta(days=each.age) for each in own])
    title = GUESS_TITLE.format(ABOUT_WORDS[about])
    if about in FIGURES:
        eye = guesser(about, guessed)
        words, picture = (
            figure_guess_words(about, eye),
            errors_svg(over, eye.bias, eye.spread, title, GUESS_ENDS[about]),
        )
    else:
        words, picture = other_guess_words(missed(about, guessed)), misses_svg(over, title, MISS_ENDS)
    return Seen(about, ABOUT_WORDS[about], words, Markup(picture), False)


def _over_time(offs: list[float], at: list[datetime]) -> Over:
    days = [day_words(each.astimezone()) for each in (at[0], at[-1])] if at else ["", ""]
    return Over(offs, (days[0], days[1]))


def _seen(kind: Practised, tried: list[Tried], now: datetime, due: bool) -> Seen:
    own = [each for each in tried if each.skill.kind == kind][-SHOWN:]
    over = _over_time([each.off for each in own], [each.at for each in own])
    title = EYE_TITLE.format(SKILL_WORDS[kind])
    if kind in MEASURED:
        eye = eye_for(kind, tried, now)
        words = eye_words(kind, eye)
        picture = errors_svg(over, eye.bias, eye.spread, title, ERROR_ENDS[kind])
    else:
        fine, thick = (taken_of(kind, each, tried) for each in (True, False))
        words, picture = taken_words(taken_of(kind, None, tried), fine, thick), misses_svg(over, title, MISS_ENDS)
    return Seen(kind, SKILL_WORDS[kind], words, Markup(picture) if own else None, due)


@dataclass(frozen=True)
class Round:
    """A round, and where one stands in it."""

    q: str
    asked: tuple[Asked, ...]
    at: int

    @property
    def now(self) -> Asked:
        """What is asked now."""
        return self.asked[self.at]


@dataclass(frozen=True)
class QuestionView:
    """A question of a round, or its answer."""

    q: str
    at: int
    count: int
    skill: str
    ask: str
    picture: Markup
    drawn: bool
    """Whether it is a drawn yarn, and no photo of one's own."""
    beside: Markup | None
    """A loop that hangs."""
    hung: str
    kind: Practised
    choices: tuple[Choice, ...]
    low: int
    """Of a figure, the least that the slider gives, and the most."""
    high: int
    crosswise: bool
    typed: str
    fault: str
    said: str
    """Whether it was right; empty until it is answered."""
    why: str
    ended = False


@dataclass(frozen=True)
class EndView:
    """How a round went."""

    words: str
    lines: list[tuple[str, str, bool]]
    """What was asked, what came of it, whether it was well seen."""
    ended = True


def view_of_question(
    going: Round, question: Question, given: str | None, typed: str, fault: str, desk: Desk
) -> QuestionView:
    """Return what a question shows, or its answer."""
    kind = question.asked.kind
    said, why = answer_words(question, given, desk.display) if given is not None else ("", "")
    crosswise = (desk.settings.angle_from == "crosswise") != (kind == "other")
    low, high = (3, 80) if kind == "wraps" else (1, 89)
    return QuestionView(
        going.q,
        going.at,
        len(going.asked),
        skill_words(Skill(kind, question.asked.fine)) if question.photo is None else SKILL_WORDS[kind],
        asked_words(question, desk.display),
        Markup(_picture(question, given, crosswise, desk)),
        question.photo is None,
        Markup(_loop(question, given is not None)) if kind == "balance" else None,
        hung_words(question, given is not None) if kind == "balance" else "",
        kind,
        choices_of(CHOICE_WORDS[kind]) if kind in CHOICE_WORDS else (),
        low,
        high,
        crosswise,
        typed or _middle(kind),
        fault,
        said,
        why,
    )


def _middle(kind: Practised) -> str:
    """Return where a figure begins."""
    return "20" if kind == "wraps" else "45"


def _picture(question: Question, given: str | None, crosswise: bool, desk: Desk) -> str:
    kind, photo = question.asked.kind, question.photo
    if photo is not None:
        lies = Lies(photo.at, photo.along, photo.height / 5)
        over = _over(question, given, crosswise, lies)
        return photo_svg(f"/photos/{photo.uid}.jpg", photo.width, photo.height, PHOTO_SHOWN, over)
    assert question.design is not None
    design = told_apart(question.design) if kind == "plies" and given is not None else question.design
    made = desk.plain.made(design)
    address, dress = strands_address(design), dress_of(design.yarn)
    if kind == "wraps":
        truth = float(question.truth) if given is not None else None
        return life_svg(made, dress, Relief(f"{address}&span=far"), YARN_SHOWN, truth)
    over = _over(question, given, crosswise, Lies())
    if kind == "way" and given is not None:
        over = turned(abs(math.degrees(float(made.state.angle))), question.way == "Z", False, "truth", Lies())
    return alone_svg(made, dress, Relief(address), YARN_SHOWN, over)


def _over(question: Question, given: str | None, crosswise: bool, lies: Lies) -> str:
    """Return what lies on a yarn: the line that is turned, or once it is answered both."""
    kind, z = question.asked.kind, question.way == "Z"
    if kind not in ("angle", "other"):
        return ""
    if given is None:
        return turned(45.0, z, crosswise, "asked", lies)
    truth = turned(float(question.truth), z, crosswise, "truth", lies)
    return turned(float(given), z, crosswise, "given", lies) + truth


def _loop(question: Question, fresh: bool) -> str:
    """Return the loop as it hangs; once it is answered as it would fresh."""
    assert question.design is not None
    dress = dress_of(question.design.yarn)
    turns = question.loop_fresh if fresh else question.loop_turns
    return loop_svg(turns, 1.0, list(dress.shown()), LOOP_SHOWN)


def view_of_round(answers: list[Answer]) -> EndView:
    """Return how a round went."""
    missed = [miss(each.asked.kind, each.truth, each.given) for each in answers]
    lines = []
    for each, bad in zip(answers, missed, strict=True):
        said = nearness(each.asked.kind, each.truth, each.given)
        lines.append((skill_words(Skill(each.asked.kind, each.asked.fine)), said, bad <= GOOD))
    return EndView(round_words(missed), lines)
