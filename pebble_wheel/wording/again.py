"""What is said of a yarn that is spun again."""

import math

from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.notation.log import Again
from pebble_wheel.notation.sample import Asked, Sample
from pebble_wheel.wording.display import Display

AGAIN = "{} again"


def again_words(record: Again) -> str:
    """Return in a line that a yarn is another one spun again."""
    done = f": {', '.join(record.done)}" if record.done else ""
    return f"as {record.name}, spun again{done}"


def named_again(name: str, taken: int) -> str:
    """Return the name of a yarn that is spun again, the first time or later."""
    return AGAIN.format(name[:100]) if taken < 1 else f"{AGAIN.format(name[:100])} {taken + 1}"


def asked_words(asked: Asked, aimed_mm: float | None, spin_mm: float | None, display: Display) -> list[str]:
    """Return what hands are to do otherwise, each with why."""
    said = size_words(asked, aimed_mm, spin_mm, display)
    if asked.twist:
        said.append(
            f"Your singles come out {_off(asked.twist)} twisted than meant: count, or treadle {_as(asked.twist)}."
        )
    if asked.ply:
        said.append(f"Your plies come out {_off(asked.ply)} twisted than meant: count, or treadle {_as(asked.ply)}.")
    return said or ["Nothing learned of your hands calls for aiming otherwise."]


def size_words(asked: Asked, aimed_mm: float | None, spin_mm: float | None, display: Display) -> list[str]:
    """Return how thick to aim otherwise, and why; nothing where that is not called for."""
    if not asked.size or not aimed_mm or not spin_mm:
        return []
    thick = 100 * (aimed_mm / spin_mm - 1)
    aimed, spin = (_halves(display.settings.wraps(float(wraps_per_inch(each)))) for each in (aimed_mm, spin_mm))
    side = "thick" if thick > 0 else "thin"
    return [f"Your hands come out {abs(thick):.0f} % {side} in this fibre: {aimed} wraps wanted, spin {spin}."]


def _halves(wraps: float) -> str:
    """Return wraps as a person would count them, to half a wrap."""
    halves = round(2 * wraps)
    return f"{halves // 2}{'½' if halves % 2 else ''}"


def _off(asked: float) -> str:
    return f"{100 * abs(math.expm1(-asked)):.0f} % {'less' if asked > 0 else 'more'}"


def _as(asked: float) -> str:
    return f"as if for {100 * abs(math.expm1(asked)):.0f} % {'more' if asked > 0 else 'less'}"


def settings_words(sample: Sample) -> str:
    """Return how a wheel was set for a sample; empty where nobody said."""
    ratio = f"{sample.ratio:.3g}:1" if sample.ratio else ""
    told = (("", ratio), ("brake ", sample.brake), ("drive ", sample.drive), ("dial ", sample.dial), ("", sample.hand))
    return ", ".join(f"{before}{said}" for before, said in told if said)
