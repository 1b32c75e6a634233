"""The fibre table, figure by figure: nothing in it drifts unseen."""

import pytest

from pebble_wheel.mechanics.fibre.table import FIBRES

# The table of the trade's handbook that this product was begun with: ranges recalled from general textile references
# (from memory), bloom calibrated for this product, usual twist factors common practice, no source.
HANDBOOK = """
merino      wool        1.31   18-22    65-100   5-9     0.32  22-28
polwarth    wool        1.31   22-26    75-150   4-6     0.3   17-22
romeldale   wool        1.31   18-25    75-125   5-8     0.3   22-28
cormo       wool        1.31   18-25    75-125   5-8     0.3   22-28
targhee     wool        1.31   18-25    75-125   5-8     0.3   22-28
corriedale  wool        1.31   25-31    90-150   3-4     0.28  17-22
shetland    wool        1.31   22-30    60-110   3-5     0.26  17-22
down        wool        1.31   26-33    50-100   4-4     0.34  17-22
finn        wool        1.31   24-31    75-150   2-3     0.22  17-22
bfl         wool        1.31   24-28    75-150   1-2     0.16  17-22
jacob       wool        1.31   27-35    75-150   2-3     0.2   17-22
romney      wool        1.31   32-37    100-200  1-2     0.15  12-17
gotland     wool        1.31   28-35    80-180   0.5-1   0.08  12-17
wensleydale wool        1.31   30-36    150-300  0.5-1   0.06  12-17
teeswater   wool        1.31   30-36    150-300  0.5-1   0.06  12-17
karakul     wool        1.31   25-36    150-300  0-0     0.03  12-17
mohair      hair        1.32   25-38    100-150  0-0     0.04  12-17
llama       hair        1.3    20-35    80-200   1-1     0.1   12-17
alpaca      hair        1.3    20-30    80-130   2-2     0.12  17-22
suri        hair        1.3    20-30    100-200  0-0     0.03  12-17
cashmere    down        1.31   14-20    25-50    3-3     0.2   22-28
yak         down        1.31   14-20    25-50    3-3     0.2   22-28
camel       down        1.31   14-20    25-50    3-3     0.2   22-28
angora      down        1.175  12-14    40-80    0-0     0.3   22-28
dog         down        1.31   15-25    30-60    1-1     0.2   22-28
silk        silk        1.34   10-13    50-150   0-0     0.02  17-22
tussah      silk        1.32   25-30    50-150   0-0     0.02  17-22
cotton      plant       1.54   12-20    13-38    0-0     0.04  33-40
flax        plant       1.5    15-30    100-700  0-0     0.02  12-17
hemp        plant       1.5    15-30    100-700  0-0     0.02  12-17
ramie       plant       1.5    15-30    100-700  0-0     0.02  12-17
viscose     regenerated 1.52   10-20    40-120   0-0     0.02  17-22
lyocell     regenerated 1.52   10-20    40-120   0-0     0.02  17-22
nylon       synthetic   1.14   15-30    40-120   0-0     0.02  17-22
polyester   synthetic   1.38   15-30    40-120   0-0     0.02  17-22
acrylic     synthetic   1.17   15-30    40-120   0-0     0.02  17-22
"""


def ends(text: str) -> tuple[float, float]:
    low, high = text.split("-")
    return float(low), float(high)


@pytest.mark.parametrize("row", HANDBOOK.split("\n")[1:-1], ids=lambda row: row.split()[0])
def test_each_fibre_is_as_the_handbook_has_it(row):
    name, family, density, micron, staple, crimp, bloom, factor = row.split()
    fibre = FIBRES[name]
    assert (fibre.id, fibre.family, fibre.density, fibre.bloom) == (name, family, float(density), float(bloom))
    assert (fibre.micron, fibre.staple) == (ends(micron), ends(staple))
    assert (fibre.crimp, fibre.factor) == (ends(crimp), ends(factor))


def test_no_fibre_is_missing_and_middles_lie_in_the_middle():
    assert [row.split()[0] for row in HANDBOOK.split("\n")[1:-1]] == list(FIBRES)
    assert FIBRES["merino"].mid_micron == 20 and FIBRES["merino"].mid_staple == 82.5
