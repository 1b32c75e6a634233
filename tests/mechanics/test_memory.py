"""What was worked out lately: known again by its key, forgotten in order, and hashes kept."""

from dataclasses import dataclass, replace

import pytest

from pebble_wheel.mechanics.memory import Memory, with_kept_hash


def test_what_was_not_asked_for_longest_is_forgotten_first():
    memory, worked = Memory(2), []

    def ask(key):
        return memory.recall(key, lambda: worked.append(key) or len(worked))

    assert [ask(key) for key in "abaca"] == [1, 2, 1, 3, 1] and worked == ["a", "b", "c"]
    assert ask("b") == 4 and "c" not in memory and "a" in memory


def test_nothing_is_an_answer_and_what_fails_is_none():
    memory, answers = Memory(2), iter([None, "again"])
    assert memory.recall("none", lambda: next(answers)) is None
    assert memory.recall("none", lambda: next(answers)) is None
    with pytest.raises(ZeroDivisionError):
        memory.recall("fails", lambda: 1 / 0)
    assert memory.recall("fails", lambda: 7) == 7


class Deep:
    """Counts how often it is hashed."""

    asked = 0

    def __hash__(self):
        self.asked += 1
        return 5


@with_kept_hash
@dataclass(frozen=True)
class Holder:
    inner: object
    count: int = 1


def test_a_kept_hash_is_worked_out_once_and_tells_as_well():
    deep = Deep()
    holder = Holder(deep)
    assert hash(holder) == hash(holder) and {holder: 1}[holder] == 1 and deep.asked == 1
    alike, other = Holder(deep), replace(holder, count=2)
    assert alike == holder and hash(alike) == hash(holder) and other != holder and hash(other) != hash(holder)
    assert len({holder, alike, other}) == 2
