"""What could stand in an empty field, in the units of the person."""

from dataclasses import dataclass

from pebble_wheel.notation.settings import Settings


@dataclass(frozen=True)
class Like:
    """An example for each field of a quantity."""

    metres: str
    grams: str
    skein: str
    weighed: str
    needle: str
    garment: str
    staple: str
    run: str
    gauge: str
    core: str
    hung: str
    crimp: str


def like(settings: Settings) -> Like:
    """Return the examples in the units of settings."""
    inches, ounces = settings.inches, settings.mass == "oz"
    return Like(
        "440 yd" if inches else "400 m",
        "4 + 5 oz" if ounces else "96 + 138 g",
        "200 yd" if inches else "180 m",
        "2 1/4 oz" if ounces else "64 g",
        "US 6" if settings.needle == "US" else "4 mm",
        "40 in" if inches else "100 cm",
        "4 in" if inches else "100 mm",
        "1/2 yd" if inches else "0.4 m",
        "22 in 4 in" if inches else "22 in 10 cm",
        "5000 yd/lb" if settings.size == "yd/lb" else "0.5 mm",
        "1 lb" if ounces else "500 g",
        "10" if inches else "4",
    )
