"""What readings teach: the posterior of a spinner's factors, exactly, whatever the order they came in.

A yarn j, of what is spun of a group g, differs from what is reckoned by ``x = u + v_g + w_j``: what the spinner keeps,
what goes with fibre and preparation, and what is other in every yarn. A reading of it is off by
``y = J x + δ + b + e``: the mechanics' own error in the group, the bias of the method, and noise.

With θ = (u, v, δ, b), and ``C_j = λ² J D Jᵀ + R`` in which the yarn's own factors are integrated out,
``Λ = P⁻¹ + Σ Aᵀ C⁻¹ A`` and ``mean = Λ⁻¹ Σ Aᵀ C⁻¹ y``: a sum over yarns, so that leaving one out is leaving out its
term. How steady the hands are, λ, and how far what persists spreads, τ, lie on grids weighted by the evidence.
"""

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from types import MappingProxyType

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.learning.factors import FACTORS, GROUP, SPINNER, YARN, Column, Group, squares
from pebble_wheel.mechanics.learning.noise import OWN_ERROR, Method, noise_of
from pebble_wheel.mechanics.learning.outcomes import Outcome
from pebble_wheel.mechanics.memory import Memory

SCALES, SCALES_SPREAD = 7, 0.4
"""Points of the grids of λ and τ, and the standard deviation of their logarithm before anything was measured."""

REMEMBERED = 128
"""Sets of factors whose posterior is kept at hand."""

DOUBTFUL = 4.0
"""Standard deviations from what all other readings say, from which on a reading is asked about."""


@dataclass(frozen=True, eq=False)
class Measured:
    """One reading against what was reckoned."""

    off: float
    """Measured less reckoned; see ``outcomes.natural``."""
    leans: FloatArray
    """By each column of its yarn."""
    scatter: float
    """Standard deviation of what is neither of the factors nor of a bias."""
    outcome: Outcome
    group: Group
    """Of the strand that was measured."""
    method: Method
    entry: Hashable = None
    """Where it was noted."""


@dataclass(frozen=True, eq=False)
class YarnMeasured:
    """Readings of one yarn, spun at one go."""

    columns: tuple[Column, ...]
    readings: tuple[Measured, ...]

    @cached_property
    def leans(self) -> FloatArray:
        """Shape (readings, columns)."""
        return np.array([each.leans for each in self.readings]).reshape(len(self.readings), len(self.columns))

    @cached_property
    def off(self) -> FloatArray:
        """Of each reading."""
        return np.array([each.off for each in self.readings])

    @cached_property
    def scatter(self) -> FloatArray:
        """Variances of each reading."""
        return np.array([each.scatter**2 for each in self.readings])

    @cached_property
    def own(self) -> FloatArray:
        """Covariance of what is other in every yarn, a row a column."""
        return np.diag(squares(YARN, self.columns))


@dataclass(frozen=True)
class _Layout:
    """Where each unknown stands: u, then v by group, then the mechanics' error and the biases."""

    groups: tuple[Group, ...]
    errors: tuple[tuple[Group, Outcome], ...]
    biases: tuple[Method, ...]
    prior: FloatArray
    """Variances."""

    @property
    def persistent(self) -> int:
        """How many unknowns τ scales: u and v come first."""
        return len(FACTORS) * (1 + len(self.groups))

    def scaled(self, tau: float) -> FloatArray:
        """Return the prior variances at a scale of what persists."""
        return np.concatenate([tau**2 * self.prior[: self.persistent], self.prior[self.persistent :]])

    def rows(self, yarn: YarnMeasured) -> FloatArray:
        """Return how each reading of a yarn leans on each unknown."""
        found = np.zeros((len(yarn.readings), self.prior.size))
        found[:, : self.persistent] = yarn.leans @ self.kept(yarn.columns)
        after = self.persistent
        for row, each in enumerate(yarn.readings):
            if OWN_ERROR[each.outcome]:
                found[row, after + self.errors.index((each.group, each.outcome))] = 1.0
            if noise_of(each.outcome, each.method).bias:
                found[row, after + len(self.errors) + self.biases.index(each.method)] = 1.0
        return found

    def kept(self, columns: Sequence[Column]) -> FloatArray:
        """Return which unknowns make up u + v of each column; v of a group never measured is none of them."""
        found = np.zeros((len(columns), self.persistent))
        for row, (factor, group) in enumerate(columns):
            place = FACTORS.index(factor)
            found[row, place] = 1.0
            if group in self.groups:
                found[row, len(FACTORS) * (1 + self.groups.index(group)) + place] = 1.0
        return found


def _layout(yarns: Iterable[YarnMeasured], known: Mapping[Method, float]) -> _Layout:
    readings = [each for yarn in yarns for each in yarn.readings]
    groups = tuple(sorted({group for yarn in yarns for _, group in yarn.columns}, key=repr))
    errors = tuple(sorted({(each.group, each.outcome) for each in readings if OWN_ERROR[each.outcome]}, key=repr))
    biased = {each.method: noise_of(each.outcome, each.method).bias for each in readings}
    biased |= {method: sd for method, sd in known.items() if method in biased}
    biases = tuple(sorted(method for method, bias in biased.items() if bias))
    prior = np.concatenate(
        [
            SPINNER**2,
            *(GROUP**2 for _ in groups),
            np.array([OWN_ERROR[outcome] ** 2 for _, outcome in errors]),
            np.array([biased[method] ** 2 for method in biases]),
        ]
    )
    return _Layout(groups, errors, biases, prior)


@lru_cache(maxsize=1)
def _scales() -> tuple[FloatArray, FloatArray]:
    """Return the points of a grid of scales and their weights: log-normal, of mean square 1."""
    logs = np.linspace(-2, 2, SCALES) * SCALES_SPREAD
    weights = np.exp(-((logs / SCALES_SPREAD) ** 2) / 2)
    weights /= weights.sum()
    scales = np.exp(logs)
    return scales / np.sqrt(weights @ scales**2), weights


@dataclass(frozen=True, eq=False)
class Figure:
    """An outcome of a yarn, and how it leans on the factors."""

    outcome: Outcome
    group: Group
    """Of the strand."""
    columns: tuple[Column, ...]
    leans: FloatArray


@dataclass(frozen=True, eq=False)
class Lessons:
    """What readings have taught of one spinner: a mixture of normal distributions over the scales."""

    yarns: tuple[YarnMeasured, ...]
    layout: _Layout
    weights: FloatArray
    """Of each pair of scales."""
    lambdas: FloatArray
    taus: FloatArray
    means: FloatArray
    """Shape (pairs, unknowns)."""
    covariances: FloatArray
    """Shape (pairs, unknowns, unknowns)."""
    evidences: FloatArray
    """Logarithm of the probability density of all readings, at each pair."""
    known: Mapping[Method, float] = field(default_factory=dict)
    """Ways of measuring whose bias was found otherwise."""
    _remembered: Memory = field(default_factory=lambda: Memory(REMEMBERED))

    @property
    def steadiness(self) -> float:
        """How much yarns differ from each other, over what is usual: the root mean square of λ."""
        return float(np.sqrt(self.weights @ self.lambdas**2))

    @cached_property
    def entries(self) -> frozenset[Hashable]:
        """Where the readings were noted."""
        return frozenset(each.entry for yarn in self.yarns for each in yarn.readings)

    def kept(self, columns: Sequence[Column]) -> tuple[FloatArray, FloatArray]:
        """Return mean and covariance of what persists of columns, u + v."""
        return self._mixed(*self._kept(columns))

    def of_new(self, columns: tuple[Column, ...]) -> tuple[FloatArray, FloatArray]:
        """Return mean and covariance of the columns of a yarn not measured yet, u + v + w."""

        def work() -> tuple[FloatArray, FloatArray]:
            means, covariances = self._kept(columns)
            own = np.diag(squares(YARN, columns))
            return self._mixed(means, covariances + self.lambdas[:, None, None] ** 2 * own)

        return self._remembered.recall(columns, work)

    def of_yarn(self, columns: tuple[Column, ...], yarn: YarnMeasured) -> tuple[FloatArray, FloatArray]:
        """Return mean and covariance of the columns of a yarn whose readings are among those learned from.

        Its own factors, given all unknowns θ, lie about ``D Jᵀ C⁻¹ (y − A θ)``.
        """
        return self._remembered.recall((columns, yarn), lambda: self._of_yarn(columns, yarn))

    def _of_yarn(self, columns: tuple[Column, ...], yarn: YarnMeasured) -> tuple[FloatArray, FloatArray]:
        means, covariances = self._kept(columns)
        kept, rows = self.layout.kept(columns), self.layout.rows(yarn)
        inside = np.array([[float(column == each) for each in yarn.columns] for column in columns])
        squared = self.lambdas[:, None, None] ** 2
        spread = squared * (yarn.leans @ yarn.own)
        within = spread @ yarn.leans.T + np.diag(yarn.scatter)
        towards = spread @ inside.T
        gain = np.linalg.solve(within, towards).swapaxes(1, 2)
        means = means + np.einsum("cij,cj->ci", gain, yarn.off - self.means @ rows.T)
        crossed = kept @ self.covariances[:, : self.layout.persistent] @ rows.T @ gain.swapaxes(1, 2)
        told = gain @ (rows @ self.covariances @ rows.T) @ gain.swapaxes(1, 2)
        own = squared * np.diag(squares(YARN, columns)) - gain @ towards
        return self._mixed(means, covariances + own + told - crossed - crossed.swapaxes(1, 2))

    def bias(self, method: Method, usual: float) -> tuple[float, float]:
        """Return mean and standard deviation of the bias of a method; as usual where it was never used."""
        if method not in self.layout.biases:
            return 0.0, usual
        at = self.layout.persistent + len(self.layout.errors) + self.layout.biases.index(method)
        mean, variance = self._mixed(self.means[:, [at]], self.covariances[:, [at]][:, :, [at]])
        return float(mean[0]), float(np.sqrt(variance[0, 0]))

    def outcome(self, figure: "Figure", method: Method | None) -> tuple[float, float, float]:
        """Return by how much an outcome of a new yarn is other than reckoned: mean, its variance, and what persists.

        Args:
            figure: the outcome.
            method: as it will read by this; None for what is true.
        """
        row, extra = self._row(figure, method)
        means = self.means @ row
        lasting = np.einsum("i,cij,j->c", row, self.covariances, row) + extra
        own = self.lambdas**2 * float(figure.leans**2 @ squares(YARN, figure.columns))
        mean = float(self.weights @ means)
        spread = float(self.weights @ (means - mean) ** 2)
        return mean, float(self.weights @ (lasting + own)) + spread, float(self.weights @ lasting) + spread

    def narrowed(self, figure: "Figure", by: "Figure", method: Method, noise: float, same: bool) -> float:
        """Return the share of a figure's band that a reading would take off it.

        Args:
            figure: what is predicted.
            by: what is read.
            method: in which way.
            noise: standard deviation of the reading, apart from its bias.
            same: whether of the very yarn that is predicted; else of another.
        """
        best = int(np.argmax(self.weights))
        covariance, scale = self.covariances[best], self.lambdas[best] ** 2
        (target, unmet), (row, extra) = self._row(figure, None), self._row(by, method)
        own = [scale * float(each.leans**2 @ squares(YARN, each.columns)) for each in (figure, by)]
        both = float(target @ covariance @ row) + (scale * _shared(figure, by) if same else 0.0)
        told = both**2 / (float(row @ covariance @ row) + float(np.mean(extra)) + own[1] + noise**2)
        whole = float(target @ covariance @ target) + float(np.mean(unmet)) + own[0]
        return 1 - float(np.sqrt(max(whole - told, 0.0) / whole))

    def _row(self, figure: "Figure", method: Method | None) -> tuple[FloatArray, FloatArray]:
        """Return how a figure leans on all unknowns, and the variance by what was never met, at each pair."""
        layout, outcome = self.layout, figure.outcome
        row = np.zeros(layout.prior.size)
        row[: layout.persistent] = figure.leans @ layout.kept(figure.columns)
        extra = self._unmet(figure.leans, figure.columns)
        after = layout.persistent
        if OWN_ERROR[outcome]:
            if (figure.group, outcome) in layout.errors:
                row[after + layout.errors.index((figure.group, outcome))] = 1.0
            else:
                extra = extra + OWN_ERROR[outcome] ** 2
        usual = noise_of(outcome, method).bias if method else 0.0
        if usual and method:
            if method in layout.biases:
                row[after + len(layout.errors) + layout.biases.index(method)] = 1.0
            else:
                extra = extra + usual**2
        return row, extra

    def doubts(self) -> dict[int, list[float]]:
        """Return for the readings of each yarn, by its place, how far each lies from what all others say.

        ``z = [S⁻¹ y]ᵢ / √[S⁻¹]ᵢᵢ``, S the covariance of all readings, at the likeliest scales.
        """
        best = int(np.argmax(self.weights))
        lam, mean, covariance = self.lambdas[best], self.means[best], self.covariances[best]
        found: dict[int, list[float]] = {}
        for place, yarn in enumerate(self.yarns):
            rows = self.layout.rows(yarn)
            inner = np.linalg.inv(lam**2 * yarn.leans @ yarn.own @ yarn.leans.T + np.diag(yarn.scatter))
            known = inner - inner @ rows @ covariance @ rows.T @ inner
            pull = inner @ (yarn.off - rows @ mean)
            found[place] = list(pull / np.sqrt(np.maximum(np.diag(known), 1e-12)))
        return found

    def _kept(self, columns: Sequence[Column]) -> tuple[FloatArray, FloatArray]:
        kept, size = self.layout.kept(columns), self.layout.persistent
        covariances = kept @ self.covariances[:, :size, :size] @ kept.T
        groups = [group for _, group in columns]
        unmet = np.array([group not in self.layout.groups for group in groups])
        alone = np.diag(np.where(unmet, squares(GROUP, columns), 0.0))
        return self.means[:, :size] @ kept.T, covariances + self.taus[:, None, None] ** 2 * alone

    def _unmet(self, leans: FloatArray, columns: Sequence[Column]) -> FloatArray:
        """Return the variance by groups never measured, at each pair of scales."""
        unmet = np.array([group not in self.layout.groups for _, group in columns])
        return np.asarray(self.taus**2 * float((leans**2 * unmet) @ squares(GROUP, columns)))

    def _mixed(self, means: FloatArray, covariances: FloatArray) -> tuple[FloatArray, FloatArray]:
        mean = self.weights @ means
        apart = means - mean
        return mean, np.einsum("c,cij->ij", self.weights, covariances) + np.einsum(
            "c,ci,cj->ij", self.weights, apart, apart
        )


def _shared(one: Figure, other: Figure) -> float:
    """Return the covariance of two figures of one yarn by what is other in every yarn."""
    leans = dict(zip(other.columns, other.leans, strict=True))
    variances = squares(YARN, one.columns)
    return float(sum(a * leans.get(c, 0.0) * v for c, a, v in zip(one.columns, one.leans, variances, strict=True)))


NOT_KNOWN: Mapping[Method, float] = MappingProxyType({})


def learn(yarns: Iterable[YarnMeasured], known: Mapping[Method, float] = NOT_KNOWN) -> Lessons:
    """Return what the readings of one spinner's yarns teach; without any, what is usual.

    Args:
        yarns: measured.
        known: of ways of measuring whose bias was found otherwise and taken off, its standard deviation.
    """
    measured = tuple(yarn for yarn in yarns if yarn.readings)
    (lessons,) = learn_over(measured, [len(measured)], known)
    return lessons


def learn_over(
    yarns: Sequence[YarnMeasured], cuts: Sequence[int], known: Mapping[Method, float] = NOT_KNOWN
) -> list[Lessons]:
    """Return what the first so many yarns teach, for each of several numbers in rising order; see :func:`learn`."""
    layout = _layout(yarns, known)
    scales, _ = _scales()
    sums = [(np.zeros((layout.prior.size, layout.prior.size)), np.zeros(layout.prior.size), 0.0) for _ in scales]
    found, before = [], 0
    for cut in cuts:
        more = _summed(yarns[before:cut], layout, scales)
        sums = [(a + d, b + e, c + f) for (a, b, c), (d, e, f) in zip(sums, more, strict=True)]
        found.append(replace(_taught(tuple(yarns[:cut]), layout, sums), known=known))
        before = cut
    return found


def _taught(
    yarns: tuple[YarnMeasured, ...], layout: _Layout, by_lambda: list[tuple[FloatArray, FloatArray, float]]
) -> Lessons:
    """Return the posterior at every pair of scales, all pairs at once."""
    scales, prior = _scales()
    variances = np.array([layout.scaled(float(tau)) for tau in scales])
    information = np.array([each for each, _, _ in by_lambda])[:, None]
    pull, fit = (
        np.array([each for _, each, _ in by_lambda])[:, None],
        np.array([each for *_, each in by_lambda])[:, None],
    )
    factor = np.linalg.cholesky(information + np.eye(layout.prior.size) / variances[:, None])
    inverse = np.linalg.inv(factor)
    covariances = inverse.swapaxes(-1, -2) @ inverse
    means = np.einsum("ltij,loj->lti", covariances, pull)
    evidences = fit + (np.einsum("loi,lti->lt", pull, means) - np.log(variances).sum(axis=1)) / 2
    evidences = evidences - np.log(np.diagonal(factor, axis1=-2, axis2=-1)).sum(axis=-1)
    logs = (np.log(np.outer(prior, prior)) + evidences).ravel()
    likely = np.exp(logs - logs.max())
    size, count = layout.prior.size, scales.size
    return Lessons(
        yarns,
        layout,
        likely / likely.sum(),
        np.repeat(scales, count),
        np.tile(scales, count),
        means.reshape(-1, size),
        covariances.reshape(-1, size, size),
        evidences.ravel(),
    )


def _summed(
    yarns: Sequence[YarnMeasured], layout: _Layout, scales: FloatArray
) -> list[tuple[FloatArray, FloatArray, float]]:
    """Return ``Σ AᵀC⁻¹A``, ``Σ AᵀC⁻¹y`` and the part of the evidence that hangs on λ alone, at each λ.

    Yarns of as many readings are taken together.
    """
    size = layout.prior.size
    found = [(np.zeros((size, size)), np.zeros(size), 0.0) for _ in scales]
    alike: dict[tuple[int, int], list[YarnMeasured]] = {}
    for yarn in yarns:
        alike.setdefault((len(yarn.readings), len(yarn.columns)), []).append(yarn)
    for (count, _), group in sorted(alike.items()):
        rows = np.array([layout.rows(yarn) for yarn in group])
        told = np.concatenate([rows, np.array([yarn.off for yarn in group])[..., None]], axis=2)
        leans, own = np.array([yarn.leans for yarn in group]), np.array([np.diag(yarn.own) for yarn in group])
        noise = np.array([np.diag(yarn.scatter) for yarn in group])
        spread = np.einsum("yic,yc,yjc->yij", leans, own, leans)
        for place, lam in enumerate(scales):
            root = np.linalg.cholesky(lam**2 * spread + noise)
            white = np.linalg.solve(root, told)
            flat, off = white[..., :-1].reshape(-1, size), white[..., -1]
            logs = float(np.log(np.diagonal(root, axis1=1, axis2=2)).sum())
            fit = float((off**2).sum()) / 2 + logs + len(group) * count * np.log(2 * np.pi) / 2
            information, pull, before = found[place]
            found[place] = (information + flat.T @ flat, pull + flat.T @ off.ravel(), before - fit)
    return found
