"""What a connection remembers: as long as nothing changes, whoever changes it, and never what came to nothing."""

import sqlite3
import time

import pytest

from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import database, settings

LENT = Settings(pace="90")


class Asked:
    """A reading of the settings that counts how often it was done."""

    def __init__(self, connection):
        self.connection, self.times = connection, 0

    def __call__(self):
        self.times += 1
        return settings.load(self.connection)

    def again(self):
        return self.connection.unchanged("settings", self)


@pytest.fixture
def asked(connection):
    return Asked(connection)


def test_what_nobody_changed_is_read_once(asked):
    assert asked.again() == asked.again() == Settings() and asked.times == 1
    assert asked.connection.at_hand("settings") == Settings()


def test_a_change_of_one_s_own_is_seen(asked):
    asked.again()
    settings.save(asked.connection, LENT)
    assert asked.connection.at_hand("settings") is None
    assert asked.again() == LENT and asked.times == 2
    assert asked.again() == LENT and asked.times == 2  # and remembered from then on


def test_a_change_by_another_process_is_seen(asked, file):
    asked.again()
    with database.opened(file) as other:
        settings.save(other, LENT)
    assert asked.again() == LENT and asked.times == 2


def test_what_is_taken_back_was_never_remembered(asked):
    asked.connection.execute("BEGIN IMMEDIATE")
    settings.save_within(asked.connection, LENT)
    assert asked.again() == LENT
    asked.connection.execute("ROLLBACK")
    assert asked.again() == Settings()


def test_it_remembers_no_more_than_it_should(connection):
    for number in range(3 * database.MOST_READ):
        assert connection.unchanged(number, lambda kept=number: kept) == number
    known = [number for number in range(3 * database.MOST_READ) if connection.at_hand(number) is not None]
    assert known[-1] == 3 * database.MOST_READ - 1 and len(known) <= database.MOST_READ


def test_what_is_at_hand_is_not_waited_for(tmp_path):
    """A database that another program holds for itself alone makes a reader wait, but not one who asks at once."""
    file = tmp_path / "held.sqlite3"
    with sqlite3.connect(file, isolation_level=None) as holder:  # in SQLite's usual journal readers do wait
        holder.execute("CREATE TABLE own (value)")
        reader = database.connect(file)
        assert reader.unchanged("own", lambda: 7) == 7
        holder.execute("BEGIN EXCLUSIVE")
        holder.execute("INSERT INTO own VALUES (1)")
        begin = time.perf_counter()
        assert reader.at_hand("own") is None
        assert time.perf_counter() - begin < database.PATIENCE / 2
        holder.execute("COMMIT")
    assert reader.execute("PRAGMA busy_timeout").fetchone()[0] == 1000 * database.PATIENCE
    reader.close()
    holder.close()
