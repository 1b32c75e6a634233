"""No figure of the mechanics drifts unseen; see ``record``."""

import json
import math

import pytest

from tests.mechanics.record import FILE, figures

CLOSE = 2e-4
"""Relative: searches end where their tolerance lets them."""


@pytest.fixture(scope="module")
def now():
    return figures()


KEPT = json.loads(FILE.read_text(encoding="utf-8"))


@pytest.mark.parametrize("name", KEPT)
def test_figures_are_those_of_record(now, name):
    off = list(differences(KEPT[name], now[name], name))
    assert not off, "\n".join(off[:12])
    assert set(now) == set(KEPT)


def differences(kept, found, place):
    if isinstance(kept, dict) and isinstance(found, dict) and list(kept) == list(found):
        for key in kept:
            yield from differences(kept[key], found[key], f"{place}.{key}")
    elif isinstance(kept, list) and isinstance(found, list) and len(kept) == len(found):
        for index, (one, other) in enumerate(zip(kept, found, strict=True)):
            yield from differences(one, other, f"{place}[{index}]")
    elif isinstance(kept, int | float) and isinstance(found, int | float):
        same = (math.isnan(kept) and math.isnan(found)) or math.isclose(kept, found, rel_tol=CLOSE, abs_tol=1e-6)
        if not same:
            yield f"{place}: {found} is not {kept}"
    elif kept != found:
        yield f"{place}: {found} is not {kept}"
