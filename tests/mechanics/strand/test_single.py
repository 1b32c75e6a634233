"""A single: size, angle, retraction and the spinner's measures, against standards and worked values."""

import numpy as np
import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics import counts
from pebble_wheel.mechanics.fibre.packing import LOOSEST, SQUEEZE, character, compaction, packing_fraction, usual_draw
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.strand.gauge import tex_of_diameter
from pebble_wheel.mechanics.strand.single import (
    diameter,
    fibre_tex,
    fibres_across,
    retraction,
    surface_angle,
    turns_for_factor,
    twist_factor,
)


def test_cotton_diameter_is_peirce_s():
    # Peirce (from memory): 1/(28 √Ne) inch at a specific volume of 1.1 cm³/g.
    for count in (10.0, 30.0):
        packing = 1 / 1.1 / 1.54
        assert diameter(counts.COTTON_COUNT_TEX / count, 1.54, packing) == pytest.approx(
            counts.INCH / (28 * count**0.5), rel=0.01
        )


def test_worsted_diameters_per_inch_are_ashenhurst_s():
    # Ashenhurst (from memory): 0.9 √(yd/lb) diameters per inch, a packing of about 0.605.
    thick = diameter(float(counts.grist_yd_per_lb(5600.0)), 1.31, 0.605)
    assert counts.wraps_per_inch(thick) == pytest.approx(0.9 * 5600**0.5, rel=0.01)


def test_retraction_at_30_degrees():
    # Hearle, Grosberg & Backer 1969 (from memory): 7.18 %.
    assert retraction(np.radians(30)) == pytest.approx(0.0718, abs=5e-5)


def test_a_wool_fibre_of_20_microns():
    # Worked example of the trade's equations: 0.41 tex.
    assert fibre_tex(1.31, 20.0) == pytest.approx(0.41, abs=0.005)
    assert fibres_across(41.2, 1.31, 20.0) == pytest.approx(100, abs=0.5)


@pytest.mark.parametrize(("ours", "unit"), [(counts.DENIER_PER_TEX, "denier"), (counts.METRIC_COUNT_TEX, "meter/gram")])
def test_counts_agree_with_pint(ours, unit):
    # General-purpose reference: pint's own textile units.
    assert pint.UnitRegistry()(unit).units is not None
    amount = pint.UnitRegistry().Quantity(1, unit)
    one = amount.to("tex") if amount.check("[mass]/[length]") else (1 / amount).to("tex")
    assert (1 / ours if unit == "denier" else ours) == pytest.approx(one.magnitude)


def test_indirect_counts_agree_with_pint_and_the_handbook_figures():
    units = pint.UnitRegistry()
    assert (1 / units.Quantity(1, "number_english")).to("tex").magnitude == pytest.approx(counts.COTTON_COUNT_TEX)
    assert (1 / units.Quantity(1, "yard/pound")).to("tex").magnitude == pytest.approx(counts.YARDS_PER_POUND_TEX)
    # Common textile constants: 590.54 (cotton), 885.8 (worsted), 496 055 (yd/lb).
    assert pytest.approx(590.54, abs=0.01) == counts.COTTON_COUNT_TEX
    assert pytest.approx(885.8, abs=0.05) == counts.WORSTED_COUNT_TEX
    assert pytest.approx(496_055, abs=1) == counts.YARDS_PER_POUND_TEX


@given(st.floats(0.02, 0.75))
def test_packing_inverts_the_compaction_law(fraction):
    # Neckář's form (from memory): f(φ) = f(φ0) + Q t² T^0.5, read backwards.
    share = compaction(fraction) - compaction(LOOSEST["woollen"])
    if share > 0:
        found = packing_fraction(LOOSEST["woollen"], share / SQUEEZE / 100**0.5, 100.0)
        assert found == pytest.approx(fraction, rel=1e-4)


@given(st.floats(10, 500), st.floats(50, 500), st.floats(1.05, 2))
def test_more_twist_packs_tighter_and_thinner_and_leans_more(tex, turns, more):
    low, high = (packing_fraction(LOOSEST["semi"], (turns * by) ** 2, tex) for by in (1, more))
    assert low < high < 0.8
    thick, thin = (diameter(tex, 1.31, packing) for packing in (low, high))
    assert thin < thick
    assert surface_angle(thin, turns * more) > surface_angle(thick, turns)


@given(st.floats(5, 800), st.floats(30, 900))
def test_gauge_leads_back_to_linear_density(tex, turns):
    thick = diameter(tex, 1.31, packing_fraction(LOOSEST["worsted"], turns**2, tex))
    assert tex_of_diameter(thick, turns, 1.31, LOOSEST["worsted"]) == pytest.approx(tex, rel=1e-6)


def test_twist_factor_is_turns_per_cm_times_root_tex():
    # ISO 2061 terms: 220 t/m on 100 tex is 2.2 · 10 = 22.
    assert twist_factor(-220.0, 100.0) == pytest.approx(22)
    assert turns_for_factor(22.0, 100.0) == pytest.approx(220)


def test_preparation_and_draw_are_two_choices():
    # Common practice, no source: combed and short is worsted, carded and long woollen, the mixed pairs lie between.
    assert character("combed", usual_draw("combed")) == "worsted"
    assert character("carded", usual_draw("carded")) == "woollen"
    assert character("combed", "long") == character("carded", "short") == character("semi", "short") == "semi"


def test_the_fibre_table_is_whole():
    assert len(FIBRES) == 36
    for fibre in FIBRES.values():
        assert 1.1 < fibre.density < 1.6
        for low, high in (fibre.micron, fibre.staple, fibre.crimp, fibre.factor):
            assert 0 <= low <= high
        assert 0.02 <= fibre.bloom <= 0.34
