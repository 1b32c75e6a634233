"""Blends: one fibre of the means of several."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.fibre.blend import blend
from pebble_wheel.mechanics.fibre.packing import character
from pebble_wheel.mechanics.fibre.table import FIBRES, UNKNOWN_BREEDS
from pebble_wheel.mechanics.wash.swelling import swelling

WOOL_AND_SILK = [(FIBRES["merino"], 1.0), (FIBRES["silk"], 1.0)]


def test_half_merino_half_silk():
    mixed = blend("mixed", WOOL_AND_SILK)
    assert mixed.density == pytest.approx(2 / (1 / 1.31 + 1 / 1.34))  # specific volumes add
    assert mixed.micron == pytest.approx(((18 + 10) / 2, (22 + 13) / 2))
    assert mixed.staple == pytest.approx((2 / (1 / 65 + 1 / 50), 2 / (1 / 100 + 1 / 150)))
    assert mixed.bloom == pytest.approx(0.17) and mixed.factor == pytest.approx(((22 + 17) / 2, (28 + 22) / 2))
    assert mixed.crimp == pytest.approx((2.5, 4.5))
    # Morton & Hearle, from memory: wool 15 to 17 % thicker wet, silk about 17
    assert swelling(mixed).across == pytest.approx((0.155, 0.175))


@given(
    st.lists(st.tuples(st.sampled_from(sorted(FIBRES)), st.floats(0.01, 100)), min_size=1, max_size=5),
    st.floats(0.1, 9),
)
def test_a_blend_lies_between_its_fibres_and_knows_no_scale(parts, times):
    own = [(FIBRES[name], share) for name, share in parts]
    mixed, scaled = blend("m", own), blend("m", [(fibre, share * times) for fibre, share in own])
    for what in ("density", "bloom", "mid_micron", "mid_staple"):
        values = [getattr(fibre, what) for fibre, _ in own]
        if what != "mid_staple":
            assert min(values) - 1e-9 <= getattr(mixed, what) <= max(values) + 1e-9
        assert getattr(mixed, what) == pytest.approx(getattr(scaled, what))
    assert sum(share for _, share in mixed.shares) == pytest.approx(1 if len(parts) > 1 else 0)


def test_the_short_fibre_says_most_of_the_staple():
    short, long = FIBRES["cashmere"], FIBRES["wensleydale"]
    mixed = blend("m", [(short, 1.0), (long, 1.0)])
    assert mixed.mid_staple < (short.mid_staple + long.mid_staple) / 2
    with pytest.raises(ValueError, match="above zero"):
        blend("m", [(short, 0.0)])


def test_wool_of_unknown_breed_stands_among_those_about_as_fine():
    fine, medium, coarse = (UNKNOWN_BREEDS[f"{each} wool"] for each in ("fine", "medium", "coarse"))
    assert fine.mid_micron < medium.mid_micron < coarse.mid_micron
    assert medium.mid_micron == pytest.approx(FIBRES["corriedale"].mid_micron, abs=1)
    assert fine.bloom > medium.bloom > coarse.bloom and fine.factor > medium.factor > coarse.factor


def test_from_the_fold_every_preparation_is_woollen():
    # common practice, no source: fibres drafted from their sides lie every way
    assert {character(prep, "fold") for prep in ("combed", "semi", "carded")} == {"woollen"}
    assert character("combed", "short") == "worsted" and character("combed", "long") == "semi"
