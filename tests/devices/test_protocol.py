"""The line protocol: whatever a counter sends, nothing that can be is lost, and nothing crashes."""

import json
import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.devices.protocol import LONGEST, Hello, Line, Together, counted, read_line, write_line
from pebble_wheel.devices.simulated import PAUSE, Script, simulated
from pebble_wheel.mechanics.making.live import watch

numbers = st.floats(0, 1e6).map(lambda each: round(each, 3))
lines = st.builds(
    Line,
    numbers,
    st.none() | numbers,
    st.none() | numbers,
    st.none() | st.sampled_from(["draft", "stop", "start", "join"]),
    st.none() | st.sampled_from(["Z", "S"]),
).filter(lambda each: each.turns is not None or each.mm is not None or each.mark)


@given(lines)
def test_a_line_written_is_read_again(line):
    assert read_line(write_line(line)) == line


def test_a_greeting_is_read_again():
    assert read_line(write_line(Hello("my wheel", 0.25))) == Hello("my wheel", 0.25)
    assert read_line('{"hello": "pebble-wheel-count", "version": 1}') == Hello("", 1.0)


@pytest.mark.parametrize(
    "junk",
    [
        *("", "x", "[1]", "3", '{"t": 1}', '{"turns": 3}', '{"t": "1", "turns": 2}', '{"t": 1, "turns": -2}'),
        *('{"t": 1, "turns": 1e99}', '{"t": 1, "turns": true}', '{"t": 1, "mark": "jump"}', '{"t": NaN, "turns": 1}'),
        *('{"t": 1, "turns": 2, "way": "up"}', '{"hello": "another", "version": 1}', "{" * 300),
        *('{"hello": "pebble-wheel-count", "version": 2}', '{"t": 1, "turns": ' + "1" * LONGEST + "}"),
    ],
)
def test_what_cannot_be_is_set_aside(junk):
    assert read_line(junk) is None


@given(st.text(max_size=500))
def test_no_text_crashes_it(text):
    read_line(text)


def of(script):
    return [each for each in simulated(script) if isinstance(each, Line)]


def test_drafts_come_out_as_they_were_spun():
    found = counted(of(Script(drafts=30, spread=0.0)))
    assert len(found.drafts) == 30
    np.testing.assert_allclose([each.turns for each in found.drafts[1:]], 56.0, rtol=1e-3)  # 140 t/m × 0.4 m
    assert found.turns == pytest.approx(56 * 30, rel=0.01) and found.aside == 0 and found.way == "Z"
    lengths = counted(of(Script(drafts=10, tells_length=True))).drafts
    assert all(300 < each.mm < 500 for each in lengths[1:])


def test_lost_and_doubled_lines_cost_nothing():
    own = of(Script(drafts=20))
    plain = counted(own)
    chance = random.Random(3)
    kept = [each for each in own if each.mark or chance.random() > 0.3]
    doubled = [each for each in own for _ in range(1 + (each.mark is None and chance.random() > 0.5))]
    assert counted(doubled).drafts == plain.drafts
    assert counted(kept).turns == pytest.approx(plain.turns, rel=0.01)


def test_lines_out_of_order_are_put_right_within_two_seconds():
    own = of(Script(drafts=20))
    chance = random.Random(4)
    jumbled = sorted(own, key=lambda each: each.t + chance.uniform(0, 1.5) * (each.mark is None))
    assert counted(jumbled).turns == pytest.approx(counted(own).turns, rel=0.01)


def test_a_counter_that_starts_again_goes_on():
    first, second = of(Script(drafts=10)), of(Script(drafts=10, seed=2))
    found = counted([*first, *second])
    assert found.turns == pytest.approx(counted(first).turns + counted(second).turns)
    assert len(found.drafts) == 20


def test_ten_thousand_lines_of_junk_among_ten_thousand_good_ones():
    good = [write_line(each) for each in of(Script(drafts=830))][:10_000]
    chance, told = random.Random(27), []
    for line in good:
        told += [
            line,
            chance.choice(["", "{", "[]", '{"t": 1}', "\x00\xff", json.dumps({"t": -1, "turns": 3}), "9" * 999]),
        ]
    read = [read_line(each) for each in told]
    assert sum(each is None for each in read) == 10_000
    found, plain = (
        counted([each for each in several if isinstance(each, Line)]) for several in (read, map(read_line, good))
    )
    assert found == plain and len(found.drafts) > 500


def test_turns_that_no_wheel_makes_are_set_aside_and_counted():
    own = of(Script(drafts=10))
    mad = [*own[:20], Line(own[19].t + 0.01, turns=9e5), *own[20:]]
    assert counted(mad).aside >= 1 and counted(mad).turns == pytest.approx(counted(own).turns)


def test_in_a_pause_nothing_counts():
    own = counted(of(Script(drafts=20, pause_at=9)))
    plain = counted(of(Script(drafts=20)))
    assert own.drafts[-1].ends == pytest.approx(plain.drafts[-1].ends + PAUSE, abs=0.2)
    assert own.seconds <= plain.seconds + 1
    stopped = counted([Line(0, turns=0), Line(1, turns=5), Line(1.1, mark="stop"), Line(3, turns=9)])
    assert stopped.turns == 5 and not stopped.running


def test_a_scripted_drift_is_alarmed_and_a_wrong_way_is_told():
    drafts = counted(of(Script(drafts=40, drift_from=20))).drafts
    twists = np.array([each.turns / 0.4 for each in drafts])
    at = next(count for count in range(1, 40) if watch(twists[:count], 140.0, 0.5 / 8).alarm)
    assert 20 < at <= 26 and watch(twists[:at], 140.0, 0.5 / 8).alarm == "more"
    wrong = counted(of(Script(drafts=1, wrong_way=True, way="S")))
    assert wrong.drafts[0].way == "Z"


@given(st.lists(lines, max_size=60))
def test_any_lines_come_to_something(several):
    found = counted(several)
    assert found.turns >= 0 and found.in_hand >= 0 and found.seconds >= 0 and 0 <= found.aside <= len(several)


def together(told):
    found = Together()
    for line, source in told:
        found.take(line, source)
    return found


@given(st.integers(0, 2**32 - 1), st.booleans())
def test_drafts_tapped_beside_a_counter_count_as_its_own(seed, doubled):
    """The counter tells turns, a hand tells drafts by a clock of its own: the same count as of one that tells both."""
    own = of(Script(drafts=8, seed=seed % 1000))
    told = []
    for line in own:
        if line.mark is None:
            told += [(line, "counter")] * (2 if doubled else 1)
        else:
            told.append((replace(line, t=line.t + 40_000), "tap"))
    found, alone = together(told), counted(own)
    count = found.counting.count()
    assert [each.turns for each in count.drafts] == pytest.approx([each.turns for each in alone.drafts])
    assert count.turns == pytest.approx(alone.turns) and found.believed == "counter" and found.others == 0


@given(st.randoms(use_true_random=False))
def test_turns_of_another_counter_are_set_aside_however_they_fall_between(chance):
    """Two wheels in one run: the first counts, and every line of the other that tells turns is counted as set aside."""
    own = [(line, "one") for line in of(Script(drafts=5, seed=1))]
    other = [(line, "two") for line in of(Script(drafts=5, seed=2)) if line.turns is not None]
    mixed = [own.pop(0)]
    rest = [own, other]
    while any(rest):
        mixed.append(chance.choice([each for each in rest if each]).pop(0))
    found = together(mixed)
    assert found.counting.count() == counted(of(Script(drafts=5, seed=1)))
    assert found.others == len([each for each in mixed if each[1] == "two"]) > 10


def test_another_counter_is_believed_from_when_it_says_so():
    first, second = of(Script(drafts=4, seed=1)), of(Script(drafts=3, seed=2))
    found = together([(line, "one") for line in first])
    found.believe("two")
    for line in second:
        found.take(line, "two")
    assert len(found.counting.count().drafts) == 7 and found.others == 0
    begun = second[0].turns  # what it had turned before it was first heard is nobody's
    whole = counted(first).turns + counted(second).turns
    assert found.counting.count().turns == pytest.approx(whole, abs=begun)
    found.take(first[-2], "one")
    assert found.others == 1
