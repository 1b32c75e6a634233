"""Guesses before the wash are read, answered by what is measured after it, and say how good they have become."""

import math

import numpy as np
import pytest

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.guess import Guess, read_guess
from pebble_wheel.notation.log import Note
from pebble_wheel.notation.record import Skein, Swatch
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.workshop.guesses import TOLD, USUAL, Guessed, answer_of, guesser, guesses_in, missed

PLAIN = Settings()


def read(about, text, settings=PLAIN):
    return read_guess({"about": about, "guess": text}, settings)


def skein(stage, wraps=None, metres=None, grams=None, loop=None, wet=False, method="relaxed"):
    return Skein(stage, wet, metres, grams, wraps, method, loop, "")


def test_guesses_are_read_as_people_say_them():
    assert read("wraps", "14 wpi").figure == read("wraps", "14 wraps").figure == 14
    assert read("wraps", "23", Settings(wpi_method="snug")).figure == pytest.approx(20)
    assert read("growth", "8 % thicker").figure == 8 and read("length", "0").figure == 0
    assert read("gauge", "5.5 per inch").figure == pytest.approx(55 / 2.54)
    assert read("gauge", "22", in_units(PLAIN, "imperial")).figure == pytest.approx(22 / 1.016)
    assert [read("balance", text).hangs for text in ("open", "quiet", "S", "turns Z", "s a little")] == [
        "open",
        "open",
        "S",
        "Z",
        "S",
    ]
    assert read("words", "pressed crimp will plump").words == "pressed crimp will plump"


@pytest.mark.parametrize(
    ("about", "text"),
    [
        ("wraps", ""),
        ("wraps", "many"),
        ("wraps", "900"),
        ("growth", "-3"),
        ("length", "140 %"),
        ("balance", "sideways"),
        ("words", "x" * 400),
        ("nothing", "3"),
        ("gauge", "3 pigs"),
    ],
)
def test_what_nobody_can_answer_is_refused(about, text):
    with pytest.raises(InputError):
        read(about, text)


@pytest.mark.parametrize(
    ("about", "text", "before", "after", "hit", "figure"),
    [
        ("wraps", "14", [], [skein("finished", 14.6)], True, 14.6),
        (
            "wraps",
            "14",
            [],
            [skein("plied", 14.0), skein("finished", 14.0, wet=True), skein("finished", 17.0)],
            False,
            17.0,
        ),
        ("wraps", "20", [], [skein("finished", 23.0, method="snug")], True, 20.0),
        ("growth", "10", [skein("plied", 17.6)], [skein("finished", 16.0)], True, 10.0),
        (
            *("growth", "10", [skein("plied", 17.6)]),
            *([skein("finished", 16.0), skein("plied", 30.0), skein("finished", 12.0)], True, 10.0),
        ),
        ("growth", "40", [skein("plied", 17.6)], [skein("finished", 16.0)], False, 10.0),
        ("length", "5", [], [Sample("yarn", wash_length=0.951)], True, 4.9),
        (
            "length",
            "5",
            [skein("plied", metres=100.0, grams=50.0)],
            [skein("finished", metres=90.0, grams=50.0)],
            False,
            10.0,
        ),
        ("gauge", "20", [], [Swatch(None, 22.0, 20.4, None, None, None, "yes", "")], True, 20.4),
        ("balance", "open", [], [skein("finished", loop=0.5)], True, 0.5),
        ("balance", "S", [], [skein("finished", loop=2.5)], False, 2.5),
        ("balance", "Z", [], [skein("finished", loop=2.5)], True, 2.5),
    ],
)
def test_a_guess_is_answered_by_what_is_measured_after_it(about, text, before, after, hit, figure):
    answer = answer_of(read(about, text), before, after)
    assert answer.hit == hit and answer.figure == pytest.approx(figure)


def test_by_how_much_is_told_as_a_logarithm_of_what_the_wash_makes_of_the_yarn():
    off = answer_of(read("growth", "40"), [skein("plied", 17.6)], [skein("finished", 16.0)]).off
    assert off == pytest.approx(math.log(1.4 / 1.1))
    off = answer_of(read("length", "5"), [], [Sample("yarn", wash_length=0.9)]).off
    assert off == pytest.approx(math.log(0.9 / 0.95))
    assert answer_of(read("balance", "S"), [], [skein("finished", loop=2.5)]).off == 1


def test_a_guess_waits_until_something_tells():
    waiting = [Note("soaked"), skein("plied", 17.0), skein("finished", metres=80.0)]
    for about, text in (("wraps", "14"), ("growth", "5"), ("length", "5"), ("gauge", "20"), ("balance", "open")):
        assert answer_of(read(about, text), [], waiting) is None
    unlike = [skein("plied", metres=100.0, grams=50.0), skein("finished", metres=90.0, grams=80.0)]
    assert answer_of(read("length", "5"), [], unlike) is None  # two skeins, not one
    words = read("words", "it will plump")
    assert answer_of(words, [], waiting) is None
    assert answer_of(Guess("words", words="it will plump", came="partly"), [], []).hit is False


def test_what_was_measured_before_the_guess_answers_nothing():
    log = [skein("finished", 14.0), read("wraps", "14"), Note("hung up"), skein("finished", 18.0)]
    assert [(place, answer.figure) for place, answer in guesses_in(log)] == [(1, 18.0)]


def test_how_good_guesses_have_become_is_found_of_a_simulated_guesser():
    rng = np.random.default_rng(5)
    several = []
    for age in range(60, 0, -1):
        came = 15.0
        guess = read("wraps", f"{came * math.exp(rng.normal(0.12, 0.06)):.2f}")
        several.append(Guessed(guess, answer_of(guess, [], [skein("finished", came)]), float(age)))
    eye = guesser("wraps", several)
    assert eye.bias == pytest.approx(0.12, abs=0.03) and eye.spread == pytest.approx(0.06, rel=0.35)
    assert guesser("gauge", several).count == 0
    share = missed("wraps", several)
    assert share.low < np.mean([not each.answer.hit for each in several]) < share.high


def test_how_far_measuring_may_be_off_and_what_guessers_are_usually_like_do_not_drift():
    """Wraps by noise.WRAPS, lengths by noise.WASH_LENGTH, a stitch in some thirty; bloom is of two counts of wraps."""
    assert {about: round(sd, 4) for about, sd in TOLD.items()} == {
        "wraps": 0.062,
        "growth": 0.0877,
        "length": 0.012,
        "gauge": 0.03,
    }
    assert USUAL == {"wraps": (0.08, 0.12), "growth": (0.08, 0.12), "length": (0.02, 0.03), "gauge": (0.05, 0.08)}
    near, far = (read("wraps", f"{14.6 * math.exp(by * 1.2816 * 0.062):.4f}") for by in (0.98, 1.02))
    assert answer_of(near, [], [skein("finished", 14.6)]).hit and not answer_of(far, [], [skein("finished", 14.6)]).hit
    assert [
        answer_of(read("balance", "open"), [], [skein("finished", loop=turns)]).hit for turns in (1.0, 1.1, -1.1)
    ] == [
        True,
        False,
        False,
    ]
