"""What hangs on a skein."""

from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.record import Skein
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.plan import energised_words
from pebble_wheel.wording.washing import DRYING_WORDS, WASH_WORDS

LIFE = "as thick as this"


def skein_lines(
    structure: str,
    design: Design,
    reading: Reading,
    skein: Skein | None,
    wraps: float,
    day: str,
    by: str,
    display: Display,
) -> list[str]:
    """Return the lines of a label: what it is, how much, how thick and lively, how it was washed, when and by whom.

    Args:
        structure: in words.
        design: of the yarn.
        reading: of the same.
        skein: as it was measured; None of one that was not.
        wraps: relaxed, of the finished yarn.
        day: in words.
        by: who spun it; empty where only one does.
        display: units.
    """
    amounts = []
    if skein and skein.metres:
        amounts.append(display.metres(skein.metres))
    if skein and skein.grams:
        amounts.append(display.grams(skein.grams))
    wpi = display.settings.wraps(wraps)
    washed = f"{WASH_WORDS[design.finish.wash]}, {DRYING_WORDS[design.finish.drying]}"
    kept = f" · {skein.tied}" if skein and skein.tied else ""
    return [
        structure,
        " · ".join(amounts) or "…… m · …… g",
        f"{wpi:.3g} wpi · {energised_words(reading)}",
        washed,
        f"{day}{f' · {by}' if by else ''}{kept}",
    ]
