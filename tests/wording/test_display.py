"""Figures as a person reads them."""

import numpy as np

from pebble_wheel.mechanics.reading.draws import Band
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.wording.display import Display

METRIC = Display()
IMPERIAL = Display(in_units(Settings(angle_from="crosswise", wpi_method="snug"), "imperial"))


def test_settings_hold_in_every_figure():
    band = Band(np.radians(20), np.radians(22), np.radians(24))
    assert METRIC.twist(-220.0) == "220 t/m" and IMPERIAL.twist(-220.0) == "5.6 tpi"
    assert METRIC.angle(np.radians(-25)) == "25°" and IMPERIAL.angle(np.radians(-25)) == "65°"
    assert METRIC.angle_range(band) == "20–24°" and IMPERIAL.angle_range(band) == "66–70°"
    assert METRIC.length(1.2) == "1.20 mm" and IMPERIAL.length(1.27) == "0.050 in"
    assert METRIC.grist(310.0) == "323 m/100 g" and IMPERIAL.grist(310.0) == "1,600 yd/lb"
    wpi = Band(10.0, 12.0, 14.0)
    assert METRIC.wpi_range(wpi) == "10–14 wpi" and IMPERIAL.wpi_range(wpi) == "12–16 wpi"
    # A card's bias and scatter of 25 % and 20 % (assumed) with the yarn's own spread: exp(±1.28 σ) about 12.
    assert Display(Settings(wpi_method="card")).wpi_range(wpi) == "8–19 wpi"
    assert METRIC.needle_range(3.6, 4.4) == "3.6–4.4 mm" and IMPERIAL.needle_range(3.6, 4.4) == "US 4–7"
    assert METRIC.width(1016) == "102 cm" and IMPERIAL.width(1016) == "40 in"
    assert (
        Display(Settings(size="tex")).grist(310.0) == "310 tex"
        and Display(Settings(size="tex")).grist(31.4) == "31.4 tex"
    )


def test_weight_classes_are_a_band():
    # Two tables of the trade, from memory and common practice; their ranges overlap by design.
    council = Display(Settings(weight_table="council"))
    assert council.weight_classes(Band(12, 14.5, 17)) == "super fine / fine / light"
    assert METRIC.weight_classes(Band(12, 14.5, 17)) == "fingering"
    assert council.weight_classes(Band(3, 4, 4.5)) == "jumbo"
