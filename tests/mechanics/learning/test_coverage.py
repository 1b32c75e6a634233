"""Coverage of bands where the truth is the mechanics themselves, straight line or not; the full count takes minutes."""

import numpy as np
import pytest
from hypothesis import settings

from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.learning.factors import FACTORS, Group, put_in
from pebble_wheel.mechanics.learning.model import Measured, YarnMeasured, learn
from pebble_wheel.mechanics.learning.noise import OWN_ERROR, noise_of, scatter
from pebble_wheel.mechanics.learning.outcomes import natural, reckon, unfolded
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import Rod, Single, Turns, equal_ply
from pebble_wheel.mechanics.wash.bloom import Finish
from tests.mechanics.learning.simulated import ALPACA, MERINO, Spinner

LONG = settings.get_current_profile_name() == "long"
SPINNERS, NEW = (400, 10) if LONG else (30, 6)
SAMPLED = (0, 1, 3, 8, 15) if LONG else (0, 5)
SINGLE = Single(FIBRES["merino"], "combed", "short", 60.0, Turns(380.0))
YARN = equal_ply(SINGLE, 3, Turns(-230.0))
OWN = Group("merino", "combed")
READ = (("thick", "wraps"), ("tex", "weighed"), ("angle", "eye"), ("finished thick", "wraps"))
TOLD = ("thick", "finished thick", "angle", "wash length")


def by_the_mechanics(factors):
    """Return every outcome of the yarn at factors of many yarns, a row a factor."""
    offsets = {(factor, OWN): row for factor, row in zip(FACTORS, factors, strict=True)}
    varied, _ = put_in(YARN, Rod(), offsets)
    return {
        outcome: figure if outcome == "angle" else np.log(figure)
        for outcome, figure in unfolded(make(varied, make(YARN)), Finish()).items()
        if outcome in {*TOLD, *(name for name, _ in READ)}
    }


def spinners_yarns(spinner, group, several):
    return np.array([spinner.factors(group) for _ in range(several)]).T


def measured(spinner, group, factors, reckoned):
    """Return yarns with noisy readings of what the mechanics make of their factors."""
    figures, found = by_the_mechanics(factors), []
    for place in range(factors.shape[1]):
        readings = []
        for outcome, method in READ:
            sd = scatter(outcome, method, 4, False)
            error = spinner.errors.setdefault((group, outcome), spinner.rng.normal(0, OWN_ERROR[outcome]))
            bias = spinner.biases.setdefault(method, spinner.rng.normal(0, noise_of(outcome, method).bias))
            off = figures[outcome][place] - reckoned.middle[outcome] + error + bias + spinner.rng.normal(0, sd)
            readings.append(Measured(off, reckoned.leans[outcome], sd, outcome, group, method))
        found.append(YarnMeasured(tuple((factor, group) for factor in FACTORS), tuple(readings)))
    return found


@pytest.mark.parametrize("several", SAMPLED)
def test_eight_of_ten_new_yarns_lie_in_the_band(several):
    """In a group sampled and in one never sampled, by draws put through the mechanics, for skewed figures too."""
    reckoned = reckon(YARN, Rod(), Finish(), tuple({*TOLD, *(name for name, _ in READ)}))
    rng = np.random.default_rng(several)
    inside = {(group, outcome): [] for group in (MERINO, ALPACA) for outcome in TOLD}
    for _ in range(SPINNERS):
        spinner = Spinner(rng, (MERINO, ALPACA))
        lessons = learn(
            measured(spinner, MERINO, spinners_yarns(spinner, MERINO, several), reckoned) if several else []
        )
        for group in (MERINO, ALPACA):
            mean, covariance = lessons.of_new(tuple((factor, group) for factor in FACTORS))
            draws = mean[:, None] + np.linalg.cholesky(covariance) @ rng.normal(size=(8, 400))
            truth = by_the_mechanics(spinners_yarns(spinner, group, NEW))
            for outcome, figure in by_the_mechanics(draws).items():
                if outcome in TOLD:
                    low, high = np.percentile(figure, [10, 90])
                    inside[(group, outcome)] += list((truth[outcome] >= low) & (truth[outcome] <= high))
    near = (0.76, 0.84) if LONG else (0.60, 0.95)
    for case, found in inside.items():
        assert near[0] < np.mean(found) < near[1], case
    for group in (MERINO, ALPACA):
        own = [np.mean(found) for (of, _), found in inside.items() if of == group]
        assert np.mean(own) == pytest.approx(0.80, abs=0.02 if LONG else 0.12), group
    assert np.mean([np.mean(found) for found in inside.values()]) == pytest.approx(0.80, abs=0.02 if LONG else 0.08)


def test_natural_figures_are_those_that_are_reckoned_with():
    figures = by_the_mechanics(np.zeros((8, 1)))
    plain = reckon(YARN, Rod(), Finish(), TOLD)
    for outcome in TOLD:
        assert float(np.ravel(figures[outcome])[0]) == pytest.approx(plain.middle[outcome], rel=1e-6)
    assert natural("thick", 2.0) == pytest.approx(np.log(2))


def test_brute_force_bayes_through_the_mechanics_over_two_factors():
    """Size and packing on a grid, each point put through the mechanics as they are; the posterior of the straight line
    lies within a few hundredths of it."""
    sds = (0.12, 0.35)
    at = [np.linspace(-4 * sd, 4 * sd, 161) for sd in sds]
    size, packing = (each.ravel() for each in np.meshgrid(*at, indexing="ij"))
    grid = np.zeros((8, size.size))
    grid[FACTORS.index("size")], grid[FACTORS.index("packing")] = size, packing
    figures = by_the_mechanics(grid)
    reckoned = reckon(YARN, Rod(), Finish(), ("thick", "tex"))
    noises, offs = {"thick": 0.07, "tex": 0.05}, {"thick": 0.16, "tex": 0.10}
    logs = -((size / sds[0]) ** 2 + (packing / sds[1]) ** 2) / 2
    for outcome, noise in noises.items():
        logs -= ((offs[outcome] - (figures[outcome] - reckoned.middle[outcome])) / noise) ** 2 / 2
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    truth = np.array([weights @ size, weights @ packing])
    spread = np.sqrt([weights @ (size - truth[0]) ** 2, weights @ (packing - truth[1]) ** 2])
    columns = [reckoned.columns.index((factor, OWN)) for factor in ("size", "packing")]
    leans = np.array([reckoned.leans[outcome][columns] for outcome in noises])
    prior, noise = np.diag(np.square(sds)), np.diag(np.square(list(noises.values())))
    gain = prior @ leans.T @ np.linalg.inv(leans @ prior @ leans.T + noise)
    found = gain @ np.array(list(offs.values()))
    np.testing.assert_allclose(found, truth, atol=0.03 * np.array(sds).max())
    np.testing.assert_allclose(np.sqrt(np.diag(prior - gain @ leans @ prior)), spread, rtol=0.06)
