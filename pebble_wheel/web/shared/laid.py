"""What lies within a window on a yarn that changes along its length, with the colours that its strands have there."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.sequence import BESIDE, Laid, sequence_scale
from pebble_wheel.notation.design import Design
from pebble_wheel.workshop.colour import own_bands, own_colours
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.running import Run, dressed_at, run_along

WIDEST, CLOSEST = 1500.0, 6.0
"""mm of yarn that are looked at together at the most, and of it in its thickness at the least."""


@dataclass(frozen=True)
class Window:
    """A piece of a yarn that is looked at."""

    laid: list[Laid]
    begins: float
    """mm along the yarn of its left edge."""
    wide: float
    """mm."""

    @property
    def scale(self) -> float:
        """Pixels per mm of the picture."""
        return sequence_scale(self.laid, self.wide)


def window_on(design: Design, evaluator: Evaluator, at: float, wide: float) -> Window:
    """Return what lies round a place of a yarn [mm], so many mm of it.

    Raises:
        InputError: where a section cannot be made.
    """
    run = run_along(design, evaluator.made)
    course = run.course
    ends = course.ends
    whole = float(ends[-1])
    wide = min(wide, WIDEST, whole)
    left = float(np.clip(at - wide / 2, 0.0, whole - wide))
    new = np.flatnonzero(np.diff(course.order, prepend=-1))  # what is alike goes on without a joint
    starts, ends = np.concatenate([[0.0], ends[:-1]])[new], np.append(ends[new[1:] - 1], whole)
    seen = np.flatnonzero((ends > left - BESIDE) & (starts < left + wide + BESIDE))
    return Window([_laid(run, starts[each], ends[each], left) for each in seen], left, wide)


def _laid(run: Run, begins: float, ends: float, left: float) -> Laid:
    colours = list(dict.fromkeys(each for strand in run.strands for each in own_colours(strand.model)))
    numbers = {each: place for place, each in enumerate(colours)}
    whole = float(run.course.ends[-1])
    used = run.course.used
    told = {each.key: own_bands(each.model, numbers, used.get(each.key, 0.0) * whole + 1) for each in run.strands}
    own = dressed_at(run, told, colours, float(begins))
    return Laid(own.made, dress_of(own.yarn), own.names, float(begins) - left, float(ends) - left, own.place)
