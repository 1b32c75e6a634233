"""What pictures show, for those who do not see them."""

from pebble_wheel.mechanics.finish.moments import Moment
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.moments import MOMENT_WORDS

UNROLLED = "Twist level by level: as made, now, at rest"
AS_PLIED = "The yarn as plied"
THICKER = "thicker or thinner"
FIRMER = "firmer or softer"


def along(structure: str) -> str:
    """Return what the picture along a yarn shows."""
    return f"The yarn, a {structure}, to scale"


def across(structure: str) -> str:
    """Return what the picture across a yarn shows."""
    return f"The yarn, a {structure}, cut across"


def aimed(structure: str) -> str:
    """Return what the picture of a yarn that is aimed for shows."""
    return f"The yarn aimed for, spun as a {structure}, to scale"


def hanging(structure: str) -> str:
    """Return what the small picture of a structure shows."""
    return f"A {structure}, drawn"


def kept(name: str) -> str:
    """Return what the small picture of a design on the shelf shows."""
    return f"Drawing of {name}"


def loop(turns: float, display: Display) -> str:
    """Return what the picture of a hung loop shows."""
    turns = display.hung_turns(turns)
    return f"A hung loop of {display.hung}: {abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}"


def scale(reading: Reading, display: Display) -> str:
    """Return what the scale of balance shows."""
    balance = reading.balance
    return f"Ply twist is {balance.ratio:.2f} of the balanced {display.twist(balance.balanced)}"


def at_moment(moment: Moment) -> str:
    """Return what the picture of a yarn at a moment of its finishing shows."""
    return f"The yarn, {MOMENT_WORDS[moment]}"


def skein(moment: Moment) -> str:
    """Return what the picture of a hanging skein shows."""
    return f"The skein hanging, {MOMENT_WORDS[moment]}"


def relaxed_wraps(words: str) -> str:
    """Return what an axis of wraps counts."""
    return f"relaxed wraps per inch, {words}"


def measured(what: str) -> str:
    """Return what an axis of measurements shows."""
    return f"{what}, measured against predicted"


def counted(what: str) -> str:
    """Return what an axis of counted stitches shows."""
    return f"{what}, counted against predicted"


def grown(name: str) -> str:
    """Return what the picture of a yarn end on shows."""
    return f"{name}: as plied within as finished"


SWATCHES = ("off the needles", "washed")
"""A plain knit before and after."""
