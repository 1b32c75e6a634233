"""Every picture measures what it did when it was last looked at."""

import json

import pytest

from tests.drawing.record import FILE, measured, pictures

RECORD = json.loads(FILE.read_text("utf-8")) if FILE.exists() else {}


@pytest.fixture(scope="module")
def drawn():
    return dict(pictures())


def test_no_picture_is_missing(drawn):
    assert set(drawn) == set(RECORD)


@pytest.mark.parametrize("name", RECORD)
def test_each_picture_is_that_of_record(drawn, name):
    found = measured(drawn[name])
    assert set(found) == set(RECORD[name])
    for kind, sums in RECORD[name].items():
        assert found[kind] == pytest.approx(sums, rel=2e-5, abs=1e-3), kind
