"""Figures as a person reads them."""

import numpy as np

from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.notation.settings import Settings
from pebble_wheel.wording.display import Display

METRIC = Display()
IMPERIAL = Display(Settings(units="imperial", angle_from="crosswise", wpi_method="snug"))


def test_settings_hold_in_every_figure():
    band = Band(np.radians(20), np.radians(22), np.radians(24))
    assert METRIC.twist(-220.0) == "220 t/m" and IMPERIAL.twist(-220.0) == "5.6 tpi"
    assert METRIC.angle(np.radians(-25)) == "25°" and IMPERIAL.angle(np.radians(-25)) == "65°"
    assert METRIC.angle_range(band) == "20–24°" and IMPERIAL.angle_range(band) == "66–70°"
    assert METRIC.length(1.2) == "1.20 mm" and IMPERIAL.length(1.27) == "0.050 in"
    assert METRIC.grist(310.0) == "323 m/100 g" and IMPERIAL.grist(310.0) == "1,600 yd/lb"
    wpi = Band(10.0, 12.0, 14.0)
    assert METRIC.wpi_range(wpi) == "10–14 wpi" and IMPERIAL.wpi_range(wpi) == "12–16 wpi"
    assert Display(Settings(wpi_method="card")).wpi_range(wpi) == "7–17 wpi"


def test_weight_classes_are_a_band():
    # Two tables of the trade, from memory and common practice; their ranges overlap by design.
    assert METRIC.weight_classes(Band(12, 14.5, 17)) == "super fine / fine / light"
    assert Display(Settings(weight_table="relaxed-wraps")).weight_classes(Band(12, 14.5, 17)) == "fingering"
    assert METRIC.weight_classes(Band(3, 4, 4.5)) == "jumbo"
