"""What readings teach, against least squares, a general library's densities, and spinners whose factors are known."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import chi2, multivariate_normal

from pebble_wheel.mechanics.learning.factors import FACTORS, GROUP, SPINNER, YARN
from pebble_wheel.mechanics.learning.model import DOUBTFUL, Figure, Measured, YarnMeasured, learn, learn_over
from tests.mechanics.learning.simulated import ALPACA, CORRIEDALE, LEANS, MERINO, USUAL, Spinner

OF_MERINO = tuple((factor, MERINO) for factor in FACTORS)


def some_yarns(seed=1, several=6):
    spinner = Spinner(np.random.default_rng(seed))
    return [spinner.yarn((MERINO, CORRIEDALE)[place % 2], entry=place) for place in range(several)]


def test_the_posterior_is_a_ridge_with_each_yarns_own_factors_spelled_out():
    """numpy.linalg.lstsq on whitened readings stacked over a whitened prior, w of every yarn an unknown of its own."""
    yarns = some_yarns()
    lessons = learn(yarns)
    layout = lessons.layout
    for cell in (0, 24, 48):
        lam, tau = lessons.lambdas[cell], lessons.taus[cell]
        width = layout.prior.size + 8 * len(yarns)
        rows, told = [], []
        for place, yarn in enumerate(yarns):
            block = np.zeros((len(yarn.readings), width))
            block[:, : layout.prior.size] = layout.rows(yarn)
            block[:, layout.prior.size + 8 * place :][:, :8] = yarn.leans
            rows.append(block / np.sqrt(yarn.scatter)[:, None])
            told.append(yarn.off / np.sqrt(yarn.scatter))
        prior = np.concatenate([np.sqrt(layout.scaled(tau)), *[lam * YARN] * len(yarns)])
        stacked = np.concatenate([*rows, np.diag(1 / prior)])
        found, *_ = np.linalg.lstsq(stacked, np.concatenate([*told, np.zeros(width)]), rcond=None)
        np.testing.assert_allclose(lessons.means[cell], found[: layout.prior.size], atol=1e-12)
        spread = np.linalg.inv(stacked.T @ stacked)
        np.testing.assert_allclose(
            lessons.covariances[cell], spread[: layout.prior.size, : layout.prior.size], atol=1e-12
        )


def test_a_yarns_own_readings_are_taken_in_as_if_its_factors_were_unknowns():
    """Against the whole Gaussian of θ and w of that yarn, conditioned at once."""
    yarns = some_yarns(several=5)
    lessons = learn(yarns)
    means, covariances = [], []
    for cell in range(len(lessons.weights)):
        lam = lessons.lambdas[cell]
        prior = np.diag(np.concatenate([lessons.layout.scaled(lessons.taus[cell]), *[lam**2 * YARN**2] * 5]))
        size = lessons.layout.prior.size
        rows = np.zeros((25, size + 40))
        for place, yarn in enumerate(yarns):
            rows[5 * place :][:5, :size] = lessons.layout.rows(yarn)
            rows[5 * place :][:5, size + 8 * place :][:, :8] = yarn.leans
        noise = np.diag(np.concatenate([yarn.scatter for yarn in yarns]))
        gain = prior @ rows.T @ np.linalg.inv(rows @ prior @ rows.T + noise)
        whole, spread = gain @ np.concatenate([yarn.off for yarn in yarns]), prior - gain @ rows @ prior
        read = np.zeros((8, size + 40))
        read[:, : lessons.layout.persistent] = lessons.layout.kept(OF_MERINO)
        read[:, size + 16 :][:, :8] = np.eye(8)
        means.append(read @ whole)
        covariances.append(read @ spread @ read.T)
    mean = lessons.weights @ np.array(means)
    apart = np.array(means) - mean
    mixed = np.einsum("c,cij->ij", lessons.weights, covariances) + np.einsum(
        "c,ci,cj->ij", lessons.weights, apart, apart
    )
    found, covariance = lessons.of_yarn(OF_MERINO, lessons.yarns[2])
    np.testing.assert_allclose(found, mean, atol=1e-11)
    np.testing.assert_allclose(covariance, mixed, atol=1e-11)


def test_the_order_of_samples_does_not_matter():
    yarns = some_yarns(several=9)
    one, other = learn(yarns), learn(yarns[::-1])
    for first, second in zip(one.of_new(OF_MERINO), other.of_new(OF_MERINO), strict=True):
        np.testing.assert_allclose(first, second, atol=1e-12)


def test_a_sample_left_out_is_as_if_it_had_never_been():
    """Of a sum over yarns a term is left out: what is left equals what the others alone say."""
    yarns = some_yarns(several=7)
    rest = yarns[:3] + yarns[4:]
    whole, part = learn(yarns), learn(rest)
    layout = whole.layout
    for cell in (3, 30):
        lam = whole.lambdas[cell]
        rows, left = layout.rows(yarns[3]), yarns[3]
        weigh = np.linalg.inv(lam**2 * left.leans @ left.own @ left.leans.T + np.diag(left.scatter))
        precision = np.linalg.inv(whole.covariances[cell])
        without = np.linalg.inv(precision - rows.T @ weigh @ rows)
        mean = without @ (precision @ whole.means[cell] - rows.T @ weigh @ left.off)
        np.testing.assert_allclose(mean, part.means[cell], atol=1e-10)
        np.testing.assert_allclose(without, part.covariances[cell], atol=1e-10)


def test_the_evidence_is_the_density_of_all_readings():
    yarns = some_yarns(several=4)
    lessons = learn(yarns)
    rows = np.concatenate([lessons.layout.rows(yarn) for yarn in yarns])
    off = np.concatenate([yarn.off for yarn in yarns])
    for cell in (0, 17, 48):
        covariance = rows @ np.diag(lessons.layout.scaled(lessons.taus[cell])) @ rows.T
        for place, yarn in enumerate(yarns):
            at = slice(5 * place, 5 * place + 5)
            covariance[at, at] += lessons.lambdas[cell] ** 2 * yarn.leans @ yarn.own @ yarn.leans.T + np.diag(
                yarn.scatter
            )
        expected = multivariate_normal.logpdf(off, np.zeros(len(off)), covariance)
        assert lessons.evidences[cell] == pytest.approx(expected, abs=1e-9)


def test_the_weights_are_those_of_bayes_rule():
    lessons = learn(some_yarns())
    nothing = learn([])
    odds = lessons.weights / nothing.weights * np.exp(-(lessons.evidences - lessons.evidences.max()))
    np.testing.assert_allclose(odds, odds[0], rtol=1e-9)


def test_without_samples_all_is_as_usual():
    """Squares of what persists and of what does not add up to the spreads of typical spinning."""
    mean, covariance = learn([]).of_new(OF_MERINO)
    assert not mean.any()
    np.testing.assert_allclose(covariance, np.diag(SPINNER**2 + GROUP**2 + YARN**2), rtol=1e-12)
    usual = {
        "size": 0.12,
        "twist": 0.10,
        "ply": 0.10,
        "packing": 0.35,
        "stiffness": 0.25 / 1.5,
        "set": 0.05,
        "bloom": 0.3,
    }
    for place, factor in enumerate(FACTORS[:-1]):
        assert np.sqrt(covariance[place, place]) == pytest.approx(usual[factor], rel=0.035)


def test_brute_force_over_two_factors():
    """Bayes' rule integrated on a grid of two factors, all others and all biases held at nothing by their priors."""
    group, outcome = MERINO, "tex"
    yarns = [
        YarnMeasured((("size", group),), (Measured(off, np.array([1.0]), 0.04, outcome, group, "weighed"),))
        for off in (0.10, 0.16)
    ]
    lessons = learn(yarns)
    at = np.linspace(-0.6, 0.6, 601)
    spinner, grouped = np.meshgrid(at, at, indexing="ij")
    total, mean, square = 0.0, 0.0, 0.0
    for cell, weight in enumerate(learn([]).weights):
        lam, tau = lessons.lambdas[cell], lessons.taus[cell]
        density = np.exp(-((spinner / (tau * SPINNER[0])) ** 2 + (grouped / (tau * GROUP[0])) ** 2) / 2) / tau**2
        spread = (lam * YARN[0]) ** 2 + 0.04**2
        for off in (0.10, 0.16):
            density *= np.exp(-((off - spinner - grouped) ** 2) / (2 * spread)) / np.sqrt(spread)
        kept = spinner + grouped
        total += weight * density.sum()
        mean += weight * (density * kept).sum()
        square += weight * (density * kept**2).sum()
    found, covariance = lessons.kept((("size", group),))
    assert found[0] == pytest.approx(mean / total, rel=1e-3)
    assert np.sqrt(covariance[0, 0]) == pytest.approx(np.sqrt(square / total - (mean / total) ** 2), rel=1e-3)


def ranks(spinners, yarns, draws=39, seed=7):
    """Return the rank of the true factors of new yarns among draws of what was learned, a row a spinner."""
    rng = np.random.default_rng(seed)
    scales = learn([])
    found = []
    for _ in range(spinners):
        cell = rng.choice(len(scales.weights), p=scales.weights)
        lam, tau = scales.lambdas[cell], scales.taus[cell]
        spinner = Spinner(rng, (MERINO, CORRIEDALE))
        spinner.own *= tau
        spinner.by_group = {group: tau * each for group, each in spinner.by_group.items()}

        def factors(group, spinner=spinner, lam=lam):
            return spinner.own + spinner.by_group[group] + rng.normal(0, lam * YARN)

        measured = [
            spinner.yarn(group, factors=factors(group))
            for group in [(MERINO, CORRIEDALE)[place % 2] for place in range(yarns)]
        ]
        lessons = learn(measured)
        truth = factors(MERINO)
        kept = lessons.layout.kept(OF_MERINO)
        drawn = []
        for chosen in rng.choice(len(lessons.weights), draws, p=lessons.weights):
            size = lessons.layout.persistent
            root = np.linalg.cholesky(lessons.covariances[chosen])
            theta = lessons.means[chosen] + root @ rng.normal(size=len(root))
            drawn.append(kept @ theta[:size] + rng.normal(0, lessons.lambdas[chosen] * YARN))
        found.append((np.array(drawn) < truth).sum(axis=0))
    return np.array(found)


def test_ranks_of_the_truth_are_uniform():
    """Simulation-based calibration (Talts and others 2018, from memory): on linear truth, for each factor."""
    for factor, own in zip(FACTORS, ranks(160, 4).T, strict=True):
        counts, _ = np.histogram(own, bins=8, range=(0, 40))
        assert chi2.sf(((counts - 20) ** 2 / 20).sum(), 7) > 0.001, factor


@pytest.mark.parametrize("several", [0, 1, 3, 8, 15])
def test_eight_of_ten_yarns_fall_within_the_band(several):
    """Thickness and ply-back of a new yarn, in a group measured before and in one never met."""
    rng = np.random.default_rng(several)
    inside = {(group, outcome): [] for group in (MERINO, ALPACA) for outcome in ("thick", "fold")}
    for _ in range(120):
        spinner = Spinner(rng)
        lessons = learn([spinner.yarn((MERINO, CORRIEDALE)[place % 2]) for place in range(several)])
        for (group, outcome), found in inside.items():
            mean, covariance = lessons.of_new(tuple((factor, group) for factor in FACTORS))
            leans = LEANS[outcome]
            for _ in range(6):
                off = leans @ spinner.factors(group) - leans @ mean
                found.append(abs(off) < 1.2816 * np.sqrt(leans @ covariance @ leans))
    for case, found in inside.items():
        assert 0.72 < np.mean(found) < 0.88, case  # of 120 spinners, 3 standard errors


def test_a_steady_hand_is_told_from_an_uneven_one():
    """Without λ a steady spinner's bands stay too wide, an uneven one's too narrow."""
    rng = np.random.default_rng(5)
    found = {}
    for scale in (0.4, 1.0, 1.8):
        spinner = Spinner(rng, (MERINO,))
        yarns = []
        for _ in range(20):
            factors = spinner.own + spinner.by_group[MERINO] + rng.normal(0, scale * YARN)
            yarns.append(spinner.yarn(MERINO, (("turns", "count"), ("tex", "weighed"), ("fold", "fold")), factors, 20))
        found[scale] = learn(yarns).steadiness
    assert found[0.4] < 0.7
    assert 0.85 < found[1.0] < 1.3 < found[1.8]


def test_what_was_learned_narrows_but_not_below_what_is_other_in_every_yarn():
    """By the mean over spinners: one whose yarns turn out very unlike gets wider bands, and should."""
    rng = np.random.default_rng(3)
    widths = []
    for several in (0, 3, 15, 60):
        own = []
        for _ in range(12):
            spinner = Spinner(rng, (MERINO,))
            _, covariance = learn([spinner.yarn(MERINO) for _ in range(several)]).of_new(OF_MERINO)
            own.append(np.sqrt(covariance[0, 0]))
        widths.append(np.mean(own))
    assert widths == sorted(widths, reverse=True)
    assert 0.5 * widths[0] < widths[-1] < 0.75 * widths[0]


def test_a_slip_of_the_pen_is_found_and_an_honest_reading_is_not():
    """One reading of ten samples typed ten times too large; of honest ones hardly any is asked about."""
    rng = np.random.default_rng(2)
    found, false, honest = 0, 0, 0
    for _ in range(40):
        spinner = Spinner(rng, (MERINO, CORRIEDALE))
        yarns = [spinner.yarn((MERINO, CORRIEDALE)[place % 2], entry=place) for place in range(10)]
        doubts = learn(yarns).doubts()
        false += sum(abs(each) > DOUBTFUL for several in doubts.values() for each in several)
        honest += 50
        slip = yarns[4].readings[1]
        wrong = Measured(
            slip.off + np.log(10), *(getattr(slip, name) for name in ("leans", "scatter", "outcome", "group", "method"))
        )
        yarns[4] = YarnMeasured(yarns[4].columns, (yarns[4].readings[0], wrong, *yarns[4].readings[2:]))
        found += abs(learn(yarns).doubts()[4][1]) > DOUBTFUL
    assert found >= 38
    assert false / honest < 0.002


def test_a_card_alone_teaches_its_own_reading_and_a_second_method_teaches_the_size():
    """What the card will say is learned quickly, the true size slowly; wraps of one yarn part the two."""
    spinner = Spinner(np.random.default_rng(9), (MERINO,))
    spinner.biases["card"] = 0.3
    card = [spinner.yarn(MERINO, (("thick", "card"),)) for _ in range(10)]
    alone, thick = learn(card), Figure("thick", MERINO, OF_MERINO, LEANS["thick"])

    def widths(lessons):
        return [np.sqrt(lessons.outcome(thick, method)[1]) for method in (None, "card")]

    before, after = widths(learn([])), widths(alone)
    assert after[1] < 0.5 * before[1]
    assert after[0] > 0.8 * before[0]
    both = learn([*card, spinner.yarn(MERINO, (("thick", "card"), ("thick", "wraps")), places=10)])
    assert widths(both)[0] < 0.9 * after[0]
    assert both.bias("card", 0.25)[1] < 0.9 * alone.bias("card", 0.25)[1]


def test_a_thread_that_was_never_measured_is_reckoned_with_as_usual():
    lessons = learn(some_yarns())
    mean, covariance = lessons.kept(tuple((factor, ALPACA) for factor in FACTORS))
    own, known = lessons.kept(OF_MERINO)
    assert (np.diag(covariance) > np.diag(known)).all()
    assert np.abs(mean - own).max() > 0


def test_five_hundred_samples_take_a_blink():
    """Exact over all of them: that it is done at once is measured by the bench."""
    spinner = Spinner(np.random.default_rng(4))
    yarns = [spinner.yarn((MERINO, CORRIEDALE, ALPACA)[place % 3], USUAL, entry=place) for place in range(500)]
    lessons = learn(yarns)
    assert len(lessons.entries) == 500
    truth = spinner.own + spinner.by_group[MERINO]
    mean, covariance = lessons.kept(OF_MERINO)
    assert abs(mean[0] - truth[0]) < 4 * np.sqrt(covariance[0, 0]) < 0.1


def test_what_the_first_so_many_taught_is_what_they_teach_alone():
    """Over rising numbers at once, as a picture over time wants it."""
    yarns = some_yarns(several=6)
    for cut, lessons in zip((0, 2, 5), learn_over(yarns, (0, 2, 5)), strict=True):
        alone = learn(yarns[:cut])
        for found, own in zip(lessons.of_new(OF_MERINO), alone.of_new(OF_MERINO), strict=True):
            np.testing.assert_allclose(found, own, atol=1e-12)


def test_what_a_reading_would_narrow_is_what_it_narrows():
    """Reckoned beforehand against the posterior with such a reading in it, at the likeliest scales."""
    yarns = some_yarns(several=6)
    before = learn(yarns)
    thick, tex = (Figure(each, MERINO, OF_MERINO, LEANS[each]) for each in ("finished thick", "tex"))
    reading = Measured(0.0, LEANS["tex"], 0.02, "tex", MERINO, "weighed")
    after = learn([*yarns, YarnMeasured(OF_MERINO, (reading,))])
    best = int(np.argmax(before.weights))

    def width(lessons):
        row, _ = lessons._row(thick, None)
        own = lessons.lambdas[best] ** 2 * LEANS["finished thick"] ** 2 @ YARN**2
        return np.sqrt(row @ lessons.covariances[best] @ row + own)

    narrower = before.narrowed(thick, tex, "weighed", 0.02, same=False)
    assert narrower == pytest.approx(1 - width(after) / width(before), abs=1e-9)
    assert before.narrowed(thick, tex, "weighed", 5.0, same=False) < 1e-4
    own = before.lambdas[best] ** 2 * np.diag(YARN**2)
    rows = np.array([before._row(each, None)[0] for each in (thick, tex)])
    leans = np.array([LEANS["finished thick"], LEANS["tex"]])
    both = rows @ before.covariances[best] @ rows.T + leans @ own @ leans.T + np.diag([0, 0.02**2])
    left = both[0, 0] - both[0, 1] ** 2 / both[1, 1]  # conditioned on the reading
    of_itself = before.narrowed(thick, tex, "weighed", 0.02, same=True)
    assert of_itself == pytest.approx(1 - np.sqrt(left / both[0, 0])) and of_itself > narrower


PLY = FACTORS.index("ply")


def test_an_eye_whose_bias_was_found_by_practice_teaches_more():
    """Of 80 spinners whose eye reads six degrees steep the ply twist is found nearer once that is taken off."""
    rng, errors = np.random.default_rng(12), {"as read": [], "put right": []}
    for _ in range(80):
        spinner = Spinner(rng)
        spinner.biases["eye"] = 6.0 + rng.normal(0, 0.7)
        yarns = [spinner.yarn(MERINO, (("angle", "eye"), ("tex", "weighed"), ("turns", "count"))) for _ in range(6)]
        truth = spinner.own[PLY] + spinner.by_group[MERINO][PLY]
        right = [
            replace(
                yarn,
                readings=tuple(replace(each, off=each.off - 6.0 * (each.method == "eye")) for each in yarn.readings),
            )
            for yarn in yarns
        ]
        for name, lessons in (("as read", learn(yarns)), ("put right", learn(right, {"eye": 0.7}))):
            mean, _ = lessons.kept((("ply", MERINO),))
            errors[name].append(abs(mean[0] - truth))
        assert lessons.known == {"eye": 0.7} and lessons.bias("eye", 1.5)[1] <= 0.7
    assert np.median(errors["put right"]) < 0.75 * np.median(errors["as read"])
