"""A weight hung in a skein."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.finish.hung import LIGHT, drying_under, hides, per_strand
from pebble_wheel.mechanics.finish.moments import WEIGHT_HIDES


def test_two_strands_of_every_round_carry_the_weight():
    assert per_strand(500.0, 100.0) == 2.5 and per_strand(453.6, 60.0) == pytest.approx(3.78)
    assert (drying_under(4.9), drying_under(LIGHT)) == ("light", "heavy") and LIGHT == 5.0


@given(st.floats(0.01, 500), st.floats(1.01, 3))
def test_more_weight_hides_more_and_never_all(carried, times):
    less, more = (float(hides(each)) for each in (carried, carried * times))
    assert 0 < less <= more <= WEIGHT_HIDES["heavy"] < 1
    assert float(hides(2.5)) == pytest.approx(WEIGHT_HIDES["light"])  # what a light weight hides (assumed)
