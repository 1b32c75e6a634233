"""The loops of a plain knit: as long and as wide as the gauge says, and linked as knitting is.

References:
    [1] Munden 1959 (from memory): stitches ``k₃/ℓ`` and rows ``k₂/ℓ``; checked through ``cloth``.
    [2] Of a plain knit's face, legs lie in front and heads behind: a fact of the trade, common practice, no source.
"""

import numpy as np
import pytest

from pebble_wheel.mechanics.finish.cloth import DRY, WET, off_the_needles, stitches
from pebble_wheel.mechanics.finish.knit import before_and_after, knit, row

SAMPLES = 400


@pytest.mark.parametrize("loops", [DRY, WET])
@pytest.mark.parametrize("gauge", [12.0, 20.0, 34.0])
def test_a_row_is_as_wide_and_as_long_as_its_gauge(loops, gauge):
    cloth = knit(gauge, loops, 0.46 * 100 / gauge)
    path = row(cloth, 5, SAMPLES)
    assert path[0, -1] - path[0, 0] == pytest.approx(5 * 100 / gauge)
    assert np.linalg.norm(np.diff(path, axis=1), axis=0).sum() / 5 == pytest.approx(
        loops.stitches * 100 / gauge, rel=2e-3
    )
    assert 100 / cloth.course == pytest.approx(gauge * loops.rows / loops.stitches)


def test_every_stitch_is_the_same_and_its_own_mirror():
    cloth = knit(22.0, WET, 2.0)
    one, two = np.split(row(cloth, 2, SAMPLES)[:, :-1], 2, axis=1)
    assert two - one == pytest.approx(np.broadcast_to([[cloth.wale], [0], [0]], one.shape), abs=1e-9)
    mirrored = one[:, :0:-1] * [[-1], [1], [1]] + [[cloth.wale], [0], [0]]
    assert np.abs(one[:, 1:] - mirrored).max() < 0.02


def test_each_row_is_drawn_through_the_one_below():
    """Legs stand before the heads that they come through, and every head reaches above the feet of the next row."""
    cloth = knit(22.0, WET, 2.0)
    path = row(cloth, 1, SAMPLES)[:, :-1]
    foot, leg, head = (path[:, round(share * SAMPLES)] for share in (0.0, 0.25, 0.5))
    assert leg[2] > 0 > head[2] and foot[2] < 0
    assert head[1] > foot[1] + cloth.course
    above = path[1] + cloth.course
    for own in np.flatnonzero(path[1] > above.min() + 0.3):
        beside = np.hypot(path[0] - path[0, own], above - path[1, own])
        crossing = int(np.argmin(beside))
        if beside[crossing] < 0.05 and path[0, own] > path[0, SAMPLES // 4 :].min() and 0.1 < crossing / SAMPLES < 0.9:
            assert path[2, crossing] > path[2, own]


def test_washing_makes_stitches_wider_as_the_gauge_does():
    before, after = before_and_after(12.0, 1.8, 1.15)
    assert after.wale == pytest.approx(100 / stitches(12.0))
    assert before.wale == pytest.approx(100 / off_the_needles(stitches(12.0), 1.15))
    assert after.diameter == pytest.approx(1.15 * before.diameter)
