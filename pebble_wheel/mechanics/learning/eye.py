"""How an eye reads: its bias and its spread from answers whose truth is known, and how often it takes one for another.

An answer is off by ``e = b + ε``, b the bias of the eye, ``ε ~ N(0, s²)``. Both are learned from a prior of what eyes
are usually like, so that a few answers claim little.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import betaincinv

from pebble_wheel.mechanics.arrays import FloatArray, Floats

GRID, REACH = 81, 2.0
"""Points of the grid of s, and how far its logarithm is looked at about the usual one."""

SPREAD_OFF = 0.5
"""Standard deviation of the logarithm of s over the usual one before any answer (assumed)."""

HALF_LIFE = 60.0
"""Days after which an answer counts half: eyes are trained (assumed)."""


@dataclass(frozen=True)
class Eye:
    """How an eye reads."""

    bias: float
    """By which it reads too much."""
    bias_sd: float
    """How sure that is."""
    spread: float
    """Of single readings about it."""
    count: int
    """Answers that it rests on."""


def eye_of(errors: Sequence[float], usual_bias: float, usual_spread: float, ages: Sequence[float] = ()) -> Eye:
    """Return how an eye reads by its errors: the mean of b, its standard deviation, and the mean of s.

    On a grid of s with a log-normal prior, b is integrated out: with weights w, ``n = Σw``, ``ē = Σwe/n``,
    ``1/v = 1/τ² + n/s²``, ``b | s ~ N(v n ē/s², v)``,
    ``ln p(e | s) = −n ln s − Σw(e − ē)²/2s² − ē²/2(τ² + s²/n) − ½ ln(1 + nτ²/s²)``.

    Args:
        errors: answer less truth, in any unit.
        usual_bias: τ, the standard deviation of b among eyes.
        usual_spread: of single readings of a usual eye.
        ages: days since each; none where all count alike.

    Example:
        >>> eye = eye_of([5.0, 7.0] * 20, 1.5, 2.6)
        >>> round(eye.bias, 1), eye.count
        (5.9, 40)
    """
    off = np.asarray(errors, float)
    weights = 0.5 ** (np.asarray(ages, float) / HALF_LIFE) if len(ages) else np.ones(off.size)
    number = float(weights.sum())
    mean = float(weights @ off / number) if number else 0.0
    apart = float(weights @ (off - mean) ** 2)
    logs = np.linspace(-REACH, REACH, GRID)
    spreads = usual_spread * np.exp(logs)
    per = spreads**2 / max(number, 1e-12)
    fit = -number * np.log(spreads) - apart / (2 * spreads**2)
    fit += -(mean**2) / (2 * (usual_bias**2 + per)) - np.log1p(usual_bias**2 / per) / 2 if number else 0.0
    fit -= (logs / SPREAD_OFF) ** 2 / 2
    likely: FloatArray = np.exp(fit - fit.max())
    likely /= likely.sum()
    variance = 1 / (1 / usual_bias**2 + (1 / per if number else 0.0))
    means = variance * mean / per if number else np.zeros(GRID)
    bias = float(likely @ means)
    return Eye(bias, float(np.sqrt(likely @ (variance + (means - bias) ** 2))), float(likely @ spreads), off.size)


@dataclass(frozen=True)
class Taken:
    """How often an eye takes one thing for another."""

    share: float
    low: float
    """Band of eight in ten."""
    high: float
    count: int


def taken_for(wrong: Floats, asked: Floats, usual: float = 0.15) -> Taken:
    """Return how often an eye is wrong: a beta posterior from the weight of two answers, wrong as often as is usual.

    Example:
        >>> taken_for(0, 0).share, round(taken_for(8, 16).share, 2)
        (0.15, 0.46)
    """
    wrong_, asked_ = float(wrong), float(asked)
    a, b = 2 * usual + wrong_, 2 * (1 - usual) + asked_ - wrong_
    low, high = (float(betaincinv(a, b, each)) for each in (0.1, 0.9))
    return Taken(a / (a + b), low, high, round(asked_))
