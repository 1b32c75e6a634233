"""Turns at evaluating: in order, none too long, the short ones let in, and none for nobody."""

import threading
import time

import pytest

from pebble_wheel.mechanics.patience import go_on
from pebble_wheel.notation.design import new_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.workshop import evaluator as evaluator_module
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.turns import SLICE, NobodyWaitsError, TooLongError, Turns, waited_for


def work(seconds: float) -> None:
    until = time.thread_time() + seconds
    while time.thread_time() < until:
        go_on()


def test_turns_are_taken_one_at_a_time_and_within_ones_own_at_once():
    turns, inside, most = Turns(), [], []

    def take() -> None:
        with turns, turns:
            inside.append(1)
            most.append(len(inside))
            time.sleep(0.005)
            inside.pop()

    threads = [threading.Thread(target=take) for _ in range(12)]
    for each in threads:
        each.start()
    for each in threads:
        each.join(5)
    assert most == [1] * 12


def test_a_long_turn_lets_a_short_one_in_and_goes_on():
    turns, done = Turns(), []

    def take(name: str, seconds: float) -> None:
        with turns:
            work(seconds)
            done.append(name)

    long = threading.Thread(target=take, args=("long", 5 * SLICE))
    long.start()
    time.sleep(SLICE / 4)
    short = threading.Thread(target=take, args=("short", SLICE / 4))
    short.start()
    long.join(5)
    short.join(5)
    assert done == ["short", "long"]
    with turns:  # free again
        pass


def test_a_turn_that_takes_too_long_is_ended_and_the_next_begins():
    turns = Turns(longest=SLICE)
    with pytest.raises(TooLongError), turns:
        work(10 * SLICE)
    with turns:
        work(SLICE / 10)


def test_a_turn_that_had_to_wait_is_not_ended_for_that():
    """A machine that stands still, or works for others, makes no yarn a long one."""
    with Turns(longest=SLICE):
        for _ in range(3):
            time.sleep(1.5 * SLICE)
            go_on()


def test_nothing_is_worked_out_for_nobody():
    turns, here = Turns(), [True]
    token = waited_for.set(lambda: here[0])
    try:
        threading.Timer(SLICE / 2, lambda: here.__setitem__(0, False)).start()
        began = time.monotonic()
        with pytest.raises(NobodyWaitsError), turns:
            work(20 * SLICE)
        assert time.monotonic() - began < 10 * SLICE
        with pytest.raises(NobodyWaitsError), turns:
            pytest.fail("nobody waits")
        here[0] = True
        with turns:
            pass
    finally:
        waited_for.reset(token)


def test_a_yarn_that_takes_too_long_is_said_beside_it(monkeypatch):
    single = {"kind": "single", "fibre": "merino", "prep": "combed", "twist": {"turns_per_m": 300, "direction": "Z"}}
    strands = [{**single, "tex": 20 + place} for place in range(48)]
    yarn = {"kind": "ply", "strands": strands, "twist": {"turns_per_m": 9, "direction": "S"}}
    monkeypatch.setattr(evaluator_module, "Turns", lambda: Turns(longest=0.01))
    with pytest.raises(InputError, match=r"more than 4\.5 s") as refused:
        Evaluator().read(new_design("Monster", yarn))
    assert refused.value.faults[0].place == "yarn"
