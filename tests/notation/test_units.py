"""Units people say, and settings that hold everywhere."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings, in_units
from pebble_wheel.notation.units import read_length, read_mass, read_size, read_twist

METRIC, IMPERIAL = Settings(), in_units(Settings(angle_from="crosswise", wpi_method="snug"), "imperial")


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
        ("8 mm", "is not a twist"),
        ("8 furlongs", "'furlongs' is not known"),
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
