"""The entries of a log in words."""

from typing import assert_never

from pebble_wheel.mechanics.finish.moments import AtMoment
from pebble_wheel.notation.guess import Guess
from pebble_wheel.notation.log import Again, NextTime, Note, Planned, Printed, Record, Sleep
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.sample import Sample
from pebble_wheel.wording.again import again_words
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.finishing import skein_words, swatch_words
from pebble_wheel.wording.guesses import guess_words
from pebble_wheel.wording.sampling import sample_words
from pebble_wheel.wording.thread import slept_words

PLAN_KEPT = "of the making"
CARD_PRINTED = "made, to hang at the wheel"
UNMADE = "of a plan that cannot be made any more."


def record_kind(record: Record) -> str:
    """Return what an entry is."""
    match record:
        case Sample():
            return "sample"
        case Skein():
            return "skein"
        case Swatch():
            return "swatch"
        case Note():
            return "note"
        case Sleep():
            return "rest"
        case Printed():
            return "card"
        case Planned():
            return "plan"
        case NextTime():
            return "next time"
        case Again():
            return "begun"
        case Guess():
            return "guess"
        case _:
            assert_never(record)


def record_words(record: Record, predicted: tuple[AtMoment, AtMoment] | None, display: Display) -> str:
    """Return what an entry says.

    Args:
        record: the entry.
        predicted: its yarn as plied and as finished; None where it cannot be made any more.
        display: units.
    """
    match record:
        case Sample():
            return sample_words(record, display)
        case Skein():
            if predicted is None:
                return f"{UNMADE} {record.note}".strip()
            return skein_words(record, predicted[record.stage == "finished"], display)
        case Swatch():
            if predicted is None:
                return f"{UNMADE} {record.note}".strip()
            return swatch_words(record, predicted[1].grown_from(predicted[0]), display)
        case Note():
            return record.words
        case Sleep():
            return slept_words(record.what, record.hours)
        case Printed():
            return CARD_PRINTED
        case NextTime():
            return record.words
        case Again():
            return again_words(record)
        case Guess():
            return guess_words(record, display)
        case Planned():
            steps = "1 step" if len(record.done) == 1 else f"{len(record.done)} steps"
            return f"{PLAN_KEPT}, {steps} done" if record.done else PLAN_KEPT
        case _:
            assert_never(record)


def taken_words(added: int, known: int) -> str:
    """Return what came of a table that was taken in."""
    there = f", {known} were there already" if known else ""
    return f"{added} {'entry' if added == 1 else 'entries'} taken in{there}."
