"""A yarn room of its own for each test."""

import pytest

from pebble_wheel.store import database


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "yarn.sqlite3"
    database.prepare(path)
    return path


@pytest.fixture
def connection(file):
    with database.opened(file) as opened:
        yield opened
