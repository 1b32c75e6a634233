"""Twist as it is spun, draft by draft: a running mean, its band, and an alarm where it has left what is wanted."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray

SMOOTHED = 0.2
"""Weight of the newest draft in the running mean."""

LAST, NEAR = 5, 0.05
"""Drafts whose mean is judged, and how close it is near enough."""

USUAL_SPREAD, USUAL_DRAFTS, FARTHEST = 0.10, 15, 0.6
"""Spread of drafts (a standard deviation of the logarithm) that is reckoned with until there are some, how many drafts
that counts as, and the most that one step counts (assumed, tried by simulation)."""

SLACK, LIMIT = 1.0, 3.9
"""Of the cumulative sum, in spreads: what is let go each draft, and where it has had enough. Of 100 honest drafts that
scatter by a tenth under 5 of 100 runs are alarmed; twist a fifth off is told within six drafts in nine of ten."""


@dataclass(frozen=True)
class Watch:
    """What is told of a run of drafts."""

    twist: float
    """Running mean, turns/m; NaN before the first draft."""
    low: float
    high: float
    """Within which the mean of the last drafts lies, eight of ten."""
    off: float
    """Mean of the last drafts over what is wanted, a logarithm."""
    alarm: Literal["", "more", "less"]
    """Whether more or less twist is to be given; empty where nothing is wrong."""
    since: int
    """Draft, from 0, from which on it drifted; −1 where nothing is wrong."""


def spreads_of(logs: FloatArray) -> FloatArray:
    """Return the spread of drafts after each, by the steps from each to the next, so that a drift does not count.

    ``σ² = (½ Σ Δ² + n₀ σ₀²) / (n + n₀)``.
    """
    steps = np.minimum(np.abs(np.diff(logs, prepend=logs[:1])), FARTHEST)
    whole = np.cumsum(steps**2) / 2 + USUAL_DRAFTS * USUAL_SPREAD**2
    return np.asarray(np.sqrt(whole / (np.arange(steps.size) + USUAL_DRAFTS)))


def watch(twists: FloatArray, wanted: float, half_treadle: float) -> Watch:
    """Return what is to be told after so many drafts.

    A sum of what lies beyond its own spread grows in a drift and forgets scatter (Page's cumulative sum, from memory);
    alarm is given where it has had enough and the mean of the last five is off by more than can be left.

    Args:
        twists: of each draft, turns/m, without sign.
        wanted: turns/m.
        half_treadle: half a treadle to a draft, as a share of the twist.
    """
    if not twists.size:
        return Watch(np.nan, np.nan, np.nan, 0.0, "", -1)
    logs = np.log(np.maximum(twists, 1e-6) / wanted)
    spreads = spreads_of(logs)
    mean = float(logs[0])
    above = below = 0.0
    from_above = from_below = 0
    for place, (each, own) in enumerate(zip(logs.tolist(), (logs / spreads).tolist(), strict=True)):
        mean = mean + SMOOTHED * (each - mean)
        above, from_above = _summed(above, own, from_above, place)
        below, from_below = _summed(below, -own, from_below, place)
    last = logs[-LAST:]
    off, within = float(last.mean()), 1.2816 * spreads[-1] / np.sqrt(last.size)
    alarm: Literal["", "more", "less"] = ""
    since = -1
    if last.size == LAST and abs(off) > max(half_treadle, NEAR):
        if above > LIMIT and off > 0:
            alarm, since = "less", from_above
        elif below > LIMIT and off < 0:
            alarm, since = "more", from_below
    ends = wanted * np.exp(off + np.array([-within, within]))
    return Watch(float(wanted * np.exp(mean)), float(ends[0]), float(ends[1]), off, alarm, since)


def _summed(before: float, own: float, since: int, place: int) -> tuple[float, int]:
    total = before + own - SLACK
    return (total, since if before > 0 else place) if total > 0 else (0.0, place + 1)
