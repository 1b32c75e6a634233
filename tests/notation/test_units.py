"""Units people say, and settings that hold everywhere."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.reading.spread import Band
from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.units import read_length, read_mass, read_size, read_twist

METRIC, IMPERIAL = Settings(), Settings(units="imperial", angle_from="crosswise", wpi_method="snug")


@pytest.mark.parametrize(
    ("read", "text", "value"),
    [
        (read_twist, "8 tpi", 8 / 0.0254),
        (read_twist, "220", 220),
        (read_twist, "220 t/m", 220),
        (read_twist, "2,2 turns/cm", 220),
        (read_mass, "4.5 oz", 127.573),
        (read_mass, "100 g", 100),
        (read_length, "3 in", 76.2),
        (read_length, "120 m", 120_000),
    ],
)
def test_quantities(read, text, value):
    unit = {read_twist: "t/m", read_mass: "g", read_length: "mm"}[read]
    assert read(text, unit) == pytest.approx(value, rel=1e-5)


@pytest.mark.parametrize(
    ("text", "tex"),
    [
        ("100 tex", 100),
        ("900 denier", 100),
        ("1200 yd/lb", 413.379),  # 496 055 over 1200
        ("12 000 yd/lb", 41.3379),
        ("240 m/100g", 416.667),
        ("8 Nm", 125),
        ("20 Ne", 590.54 / 20),
        ("10 Nw", 88.58),
    ],
)
def test_sizes_lead_to_tex(text, tex):
    assert read_size(text, "tex").tex == pytest.approx(tex, rel=1e-4)


def test_wraps_and_millimetres_are_gauges():
    assert read_size("22 wpi", "tex").diameter_mm == pytest.approx(25.4 / 22)
    assert read_size("0.8 mm", "tex").diameter_mm == pytest.approx(0.8)


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("", "give a number"),
        ("abc", "is not a number"),
        ("-3", "more than 0"),
        ("0", "more than 0"),
        ("1e400", "beyond any yarn"),
        ("nan", "is not a number"),
        ("8 wpi", "is not a twist"),
        ("8 furlongs", "is not a twist"),
        ("8 zorks", "'zorks' is not known"),
        ("8 $%", "not known"),
        ("8 " + "9**9" * 40, "is not a number with a unit"),
    ],
)
def test_what_is_no_twist_says_so(text, fault):
    with pytest.raises(InputError, match=fault.replace("(", r"\(")):
        read_twist(text, "t/m")


@given(st.text(max_size=50))
def test_units_never_crash_on_junk(text):
    for read in (read_twist, read_size, read_mass, read_length):
        try:
            read(text, "t/m")
        except InputError as error:
            assert error.faults


def test_settings_hold_in_every_figure():
    band = Band(np.radians(20), np.radians(22), np.radians(24))
    assert METRIC.twist(-220.0) == "220 t/m" and IMPERIAL.twist(-220.0) == "5.6 tpi"
    assert METRIC.angle(np.radians(-25)) == "25°" and IMPERIAL.angle(np.radians(-25)) == "65°"
    assert METRIC.angle_range(band) == "20–24°" and IMPERIAL.angle_range(band) == "66–70°"
    assert METRIC.length(1.2) == "1.20 mm" and IMPERIAL.length(1.27) == "0.050 in"
    assert METRIC.grist(310.0) == "323 m/100 g" and IMPERIAL.grist(310.0) == "1,600 yd/lb"
    wpi = Band(10.0, 12.0, 14.0)
    assert METRIC.wpi_range(wpi) == "10–14 wpi" and IMPERIAL.wpi_range(wpi) == "12–16 wpi"
    assert Settings(wpi_method="card").wpi_range(wpi) == "7–17 wpi"


def test_weight_classes_are_a_band():
    # Two tables of the trade, from memory and common practice; their ranges overlap by design.
    assert METRIC.weight_classes(Band(12, 14.5, 17)) == "super fine / fine / light"
    assert Settings(weight_table="relaxed-wraps").weight_classes(Band(12, 14.5, 17)) == "fingering"
    assert METRIC.weight_classes(Band(3, 4, 4.5)) == "jumbo"
