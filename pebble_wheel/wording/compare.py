"""What is said of yarns laid side by side."""

from pebble_wheel.mechanics.learning.outcomes import PLAIN
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.sampling import OUTCOME_WORDS, figure_words
from pebble_wheel.workshop.measured import Measured, Of

NOT_MEASURED = "–"


def measured_label(of: Of) -> str:
    """Return what was measured, and of what."""
    outcome, single = of
    return f"single: {OUTCOME_WORDS[outcome]}" if single else OUTCOME_WORDS[outcome]


def measured_words(measured: Measured, display: Display) -> str:
    """Return a figure as it was measured, how far it may be off, of how many readings, and what was planned."""
    off = f"± {measured.sd:.1f}" if measured.outcome in PLAIN else f"± {100 * measured.sd:.0f} %"
    times = f", {measured.readings} times" if measured.readings > 1 else ""
    own, planned = (figure_words(measured.outcome, each, display) for each in (measured.figure, measured.reckoned))
    return f"{own} {off}{times} (planned {planned})"
