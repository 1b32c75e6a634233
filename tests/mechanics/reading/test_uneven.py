"""How sure a figure is: draws, spreads, and percentiles against plain draws of the very mechanics."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm, spearmanr

from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.learning.model import learn
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import RANKED, VARIANTS, Band, band, normals, scores, spearman
from pebble_wheel.mechanics.reading.spread import BLOOM, bloom_spread, causes_of, shift_of, spread
from pebble_wheel.mechanics.reading.surface import MOST_CROSSED, probes, surface, surfaces, turning
from pebble_wheel.mechanics.reading.uneven import vary
from pebble_wheel.mechanics.rest.balance import (
    VARIANTS_STEPS,
    _Around,
    balanced_near,
    balanced_turns,
    offered,
    ratio_of,
    twist_scale,
)
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.state import MadeNest
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Member,
    OfBalanced,
    Ply,
    Rod,
    Turns,
    Wrap,
    equal_ply,
    turns_of,
)
from pebble_wheel.mechanics.wash.bloom import Finish, growth
from tests.examples import some
from tests.mechanics.learning.simulated import CORRIEDALE, MERINO, Spinner
from tests.yarns import TYPICAL, ply, read, single

FREE = Finish("snap", "free")
THREAD, STRIP = Bought(60.0, 0.29, Turns(-400.0)), Wrap(FIBRES["merino"], "carded", 800.0, 12.0)
PLAIN_DRAWS, AT_ONCE = 200_000, 10_000
OF_UNLIKE, OF_MANY_STRANDS = 20_000, 4_000
"""Which take long: so many draws are by themselves uncertain by 0.1 % of sizes and 0.3 % of ratios at the most."""


def varied_by(node, table):
    return spread(node, TYPICAL, table)


def test_quasi_random_draws_are_standard_normal():
    table = normals(9)
    assert table.shape == (9, VARIANTS)
    for row in table:
        assert np.sort(row) == pytest.approx(norm.ppf((np.arange(VARIANTS) + 0.5) / VARIANTS))  # reference: scipy
    assert np.abs(np.corrcoef(table) - np.eye(9)).max() < 0.02


def test_draws_are_a_power_of_two():
    with pytest.raises(ValueError, match="power of two"):
        normals(3, 1000)


def test_spreads_are_those_stated():
    yarn = ply(single(), 3, -150.0)
    varied = varied_by(yarn, normals(len(causes_of(yarn))))
    strand = varied.node.members[0].node
    assert np.std(strand.tex) / 100 == pytest.approx(0.12, abs=0.002)
    assert np.std(strand.twist.per_m) / 220 == pytest.approx(0.10, abs=0.002)
    assert np.std(np.log(strand.squeeze_factor)) == pytest.approx(0.35, abs=0.005)
    assert np.std(varied.node.twist.per_m) / 150 == pytest.approx(0.10, abs=0.002)
    assert np.std(varied.rod.bend_to_twist) == pytest.approx(0.25, abs=0.005)
    assert np.std(varied.rod.set_share) == pytest.approx(0.05, abs=0.002)
    assert np.std(bloom_spread(TYPICAL, normals(1)[0])) == pytest.approx(0.30, abs=0.005)


def test_each_kind_has_causes_of_its_own():
    unlike = Ply((Member(single()), Member(THREAD)), Turns(-120.0))
    cored = CoreSpun(THREAD, STRIP, Turns(175.0))
    said = {node: [cause.what for cause in causes_of(node)] for node in (cored, unlike)}
    assert list(said.values()) == [
        ["bending", "setting", "twist", "strip", "wrap packing", "bloom"],
        ["bending", "setting", "twist", "tension", "twist", "size", "packing", "bloom"],
    ]
    chain = Chain(single(), 150.0, Turns(-145.0))
    varied = varied_by(chain, normals(len(causes_of(chain)))).node
    assert np.std(np.log(varied.loop)) == pytest.approx(np.sqrt(np.log1p(0.15**2)), rel=0.02)
    varied = varied_by(unlike, normals(len(causes_of(unlike)))).node
    assert np.std(np.log(varied.tension)) == pytest.approx(0.63, rel=0.02)
    wrap = varied_by(cored, normals(len(causes_of(cored)))).node.wrap
    assert np.std(np.log(wrap.tex)) == pytest.approx(np.sqrt(np.log1p(0.12**2)), rel=0.02)
    assert np.std(np.log(wrap.packing_factor)) == pytest.approx(np.sqrt(np.log1p(0.30**2)), rel=0.02)


def learned_of(group):
    return Constants(lessons=learn([Spinner(np.random.default_rng(1)).yarn(group)]))


def test_a_learned_size_is_as_unsure_as_learning_and_a_card_together_leave_it():
    """Variances of what is independent add up."""
    constants = learned_of(CORRIEDALE)

    def variance(off: float) -> float:
        judged = replace(single(), size_off=off)
        row = [cause.what for cause in causes_of(judged)].index("size")
        shift = shift_of(judged, constants)
        own = shift.root[shift.rows.index(row)]
        return float(own @ own) * (np.log1p(constants.spreads.tex**2) + off**2)

    assert variance(0.0) > 0
    assert variance(0.3) - variance(0.0) == pytest.approx(0.3**2, rel=1e-6)


def test_bloom_is_shifted_with_turned_draws_as_it_is_with_all_of_them():
    yarn, constants = (
        ply(single(), 3, -150.0),
        Constants(lessons=learn([Spinner(np.random.default_rng(1)).yarn(MERINO)])),
    )
    shift, table = shift_of(yarn, constants), normals(len(causes_of(yarn)), 64)
    turn = turning(np.linspace(-1, 2, len(table) - 1))
    whole = shift.of(np.concatenate([turn @ table[:-1], table[-1:]]))
    assert len(table) - 1 in shift.rows and not np.allclose(whole[-1], table[-1])
    assert shift.last(table, turn) == pytest.approx(whole[-1])


def test_draws_of_the_rod_stay_in_their_physical_range():
    """However stiff or set a rod is said to be, no draw bends for nothing and none is more than half set."""
    table = normals(len(causes_of(single())))
    varied = spread(single(), Constants(Rod(0.6, 0.48)), table).rod
    assert np.min(varied.bend_to_twist) == 0.5 and np.max(varied.set_share) == 0.5
    assert np.min(spread(single(), Constants(Rod(0.6, 0.02)), table).rod.set_share) == 0.0


def test_a_band_leaves_out_what_has_no_value():
    assert band(np.array([np.nan, 1.0, 2.0, 3.0])).p50 == 2
    assert band(np.array([np.inf, 1.0, 2.0, 3.0, -np.inf])).p50 == 2
    assert np.isnan(band(np.array([np.nan])).p50)


@some
@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=40))
def test_a_band_is_numpy_s_percentiles(values):
    found = band(np.array(values))
    assert [found.p10, found.p50, found.p90] == pytest.approx(np.percentile(values, [10, 50, 90]))  # reference: numpy


def test_rank_correlations_are_spearman_s():
    """Of the diameter, the angle and what neither bends nor leans, against ranks of plain draws of the mechanics."""
    yarn = equal_ply(single(), 3, Turns(-150.0))
    varied = vary(make(yarn), FREE, TYPICAL)
    table = np.random.default_rng(3).standard_normal((len(varied.causes), 20_000))
    each = make(varied_by(yarn, table).node).state
    finished = each.diameter * (1 + (growth(each, FREE) - 1) * bloom_spread(TYPICAL, table[-1]))
    for sample, outcome in (
        (varied.plied, each.diameter),
        (varied.finished, finished),
        (varied.angle, abs(each.angle)),
    ):
        plain = [spearmanr(row, outcome).statistic for row in table]  # general-purpose reference: scipy
        assert sample.correlations() == pytest.approx(plain, abs=0.03)
    level = replace(varied.plied, values=np.full(VARIANTS, 2.0))
    assert not level.correlations().any()


def test_variants_without_an_outcome_count_as_its_middle():
    draws = normals(2)
    outcome = np.where(draws[1] > 1.5, np.nan, draws[0])
    filled = np.where(np.isnan(outcome), np.nanmedian(outcome[:RANKED]), outcome)
    assert scores(draws, outcome) == pytest.approx(scores(draws, filled))
    assert spearman(scores(draws, draws[0]))[0] == pytest.approx(1.0, abs=0.01)


def curved(at, cube=0.0):
    """A surface of the second order, with so much of a cube along the way in which it leans."""
    along = 0.6 * at[0] - 0.8 * at[2]
    return 3.0 + 0.5 * along + 0.1 * at[0] * at[1] - 0.2 * at[2] ** 2 + cube * along**3


def read_off(figure, draws):
    return surface(figure, len(draws)).at(draws)


def test_a_surface_of_the_second_order_is_read_off_as_it_is():
    assert read_off(curved(probes(3)), normals(3)) == pytest.approx(curved(normals(3)), abs=1e-9)


def test_several_surfaces_are_each_as_if_alone():
    figures = [curved(probes(3)), 7.0, -2.0 * curved(probes(3), 0.05), np.full(probes(3).shape[1], np.nan)]
    for own, figure in zip(surfaces(figures, 3), figures, strict=True):
        assert own.at(normals(3)) == pytest.approx(read_off(figure, normals(3)), abs=1e-12, nan_ok=True)


@some
@given(st.lists(st.floats(-1, 1), min_size=3, max_size=3).filter(lambda lean: np.linalg.norm(lean) > 0.01))
def test_draws_are_turned_into_the_way_in_which_a_figure_leans(lean):
    found = surface(np.array(lean) @ probes(3) + 0.1 * probes(3)[1] ** 2, 3)
    turn = turning(found.lean)
    assert turn @ turn.T == pytest.approx(np.eye(3), abs=1e-9)  # a turn changes no length and no angle
    assert abs(turn[:, 0] @ lean) == pytest.approx(np.linalg.norm(lean), rel=1e-6)
    assert found.turned(turn).at(normals(3)) == pytest.approx(found.at(turn @ normals(3)), abs=1e-9)


def test_percentiles_along_the_way_are_as_good_as_exact():
    """Of what goes all one way by a normal cause: its percentiles are those of the normal distribution, by scipy."""
    found = surface(np.array([0.3, -0.5, 0.8, 0.2]) @ probes(4), 4)
    assert found.turned(turning(found.lean)).at(normals(4)) == pytest.approx(
        np.sqrt(0.3**2 + 0.5**2 + 0.8**2 + 0.2**2) * normals(4)[0], abs=1e-9
    )
    values = found.turned(turning(found.lean)).at(normals(4))
    assert band(values).p90 == pytest.approx(1.00995 * norm.ppf(0.9), rel=1e-3)


def test_most_of_a_cube_along_the_way_it_leans_is_seen():
    off = read_off(curved(probes(8), 0.05), normals(8)) - curved(normals(8), 0.05)
    assert np.std(off) < 0.1 * 0.05 * np.std(normals(1) ** 3)


def test_of_many_causes_what_bends_is_read_off_along_the_way_they_lean_together():
    many = MOST_CROSSED + 1
    weights = np.linspace(-1, 1, many) / np.sqrt(many)

    def figure(at):
        return weights @ at + 0.05 * (weights @ at) ** 2

    off = read_off(figure(probes(many)), normals(many)) - figure(normals(many))
    assert np.std(off) < 0.02 * np.std(figure(normals(many)))


def test_what_does_not_vary_is_read_off_as_it_is():
    assert np.ptp(read_off(7.0 + 1e-14 * probes(3)[0], normals(3))) == 0 and read_off(-7.0, normals(3))[0] == -7


def test_probes_without_a_value_are_left_out():
    figure = curved(probes(3))
    figure[[1, 5]] = np.nan
    assert read_off(figure, normals(3)) == pytest.approx(curved(normals(3)), abs=1e-9)
    assert np.all(np.isnan(read_off(np.full(probes(3).shape[1], np.nan), normals(3))))


def test_where_few_probes_have_a_value_a_figure_is_known_well_or_not_at_all():
    """Ten numbers make up a surface over three causes, and three more what is bent along its way."""
    for few in range(9, 24):
        figure = np.where(np.arange(probes(3).shape[1]) < few, curved(probes(3)), np.nan)
        found = read_off(figure, normals(3))
        assert np.isnan(found).all() if few < 18 else found == pytest.approx(curved(normals(3)), abs=1e-8)


LIVELY = equal_ply(single(50.0, 300.0), 2, OfBalanced(1.7, -1))
YARNS = {
    "single": single(),
    "2-ply": ply(single(), 2, -150.0),
    "3-ply": equal_ply(single(), 3, OfBalanced(1.1, -1)),
    "full of turns": ply(single(), 5, -190.0),
    "unlike": Ply((Member(single()), Member(single(60.0, 300.0), 2)), Turns(-120.0)),
    "cable": equal_ply(LIVELY, 3, OfBalanced(1.0, 1)),
    "24 singles": equal_ply(
        equal_ply(equal_ply(single(50.0, 320.0), 2, OfBalanced(1.8, -1)), 3, OfBalanced(1.5, 1)), 4, OfBalanced(1.0, -1)
    ),
    "core-spun": CoreSpun(
        Bought(60.0, 0.29, Turns(-400.0)), Wrap(FIBRES["merino"], "carded", 800.0, 12.0), Turns(175.0)
    ),
}


def near(found: Band, plain: np.ndarray, to: float) -> None:
    for own, share in ((found.p10, 0.1), (found.p50, 0.5), (found.p90, 0.9)):
        assert own == pytest.approx(np.quantile(plain, share), rel=to)


OF = {"unlike": OF_UNLIKE, "eight unlike": OF_MANY_STRANDS}
YARNS["by card"] = equal_ply(replace(single(200.0, 140.0), size_off=0.64), 3, Turns(-90.0))
YARNS["eight unlike"] = Ply(
    tuple(Member(single(20.0 * 1.06**place, 400.0 - 6 * place)) for place in range(8)), Turns(-70.0)
)


@pytest.mark.parametrize("name", YARNS)
def test_percentiles_are_those_of_plain_draws(name):
    """Of 200,000 independent draws, each made by the mechanics: sizes and wraps to 0.5 %, ratios to 1 %.

    A single judged by a card varies five times as much as an uneven hand: of its yarn sizes are asked to 1 %.

    The plain draws are a sample too: their own percentiles are uncertain by some 0.1 % of these.
    """
    reading = read(YARNS[name], FREE)
    made = reading.made
    chance = np.random.default_rng(8)
    causes = causes_of(made.node)
    rest = balanced_turns(made.node, TYPICAL.rod, made.members) if isinstance(made, MadeNest) else 0.0
    plied, finished, ratios = [], [], []
    plain_draws, at_once = OF.get(name, PLAIN_DRAWS), 1000 if name in OF else AT_ONCE
    for _ in range(plain_draws // at_once):
        table = chance.standard_normal((len(causes), at_once))
        varied = varied_by(made.node, table)
        each = make(varied.node, made, 1e-5)
        bloom = bloom_spread(TYPICAL, table[causes.index(BLOOM)])
        plied.append(np.broadcast_to(each.state.diameter, (at_once,)))
        finished.append(plied[-1] * (1 + (growth(each.state, FREE) - 1) * bloom))
        if np.isfinite(reading.balance.ratio):
            start = rest * np.asarray(turns_of(varied.node.members[0].node)) / turns_of(made.members[0].node)
            around = _Around(varied.node, each.members, varied.rod, made.state)
            around.enough = 0.999  # of ten thousand; what the last ten do moves no percentile
            own = balanced_near(varied.node, each.members, start, varied.rod, 2 * VARIANTS_STEPS, around)
            told = offered(own, twist_scale(made.node, made.members))
            ratios.append(ratio_of(turns_of(varied.node), told))
    plied, finished = np.concatenate(plied), np.concatenate(finished)
    to = 1e-2 if name == "by card" else 5e-3
    near(reading.diameter_as_plied, plied, to)
    near(reading.diameter_finished, finished, to)
    near(reading.wpi_as_plied, wraps_per_inch(plied), to)
    near(reading.wpi_finished, wraps_per_inch(finished), to)
    if ratios:
        known = np.concatenate(ratios)
        near(reading.balance.ratio_band, known[np.isfinite(known)], 1e-2)
