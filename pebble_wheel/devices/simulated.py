"""A simulated wheel: a spinner whose pace wanders, with drafts of uneven length, pauses, a drift, a wrong way."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pebble_wheel.devices.protocol import Hello, Line, Mark, Way


@dataclass(frozen=True)
class Script:
    """What happens at the wheel."""

    turns_per_m: float = 140.0
    draft_mm: float = 400.0
    ratio: float = 7.0
    pace: float = 60.0
    """Treadles a minute."""
    drafts: int = 60
    spread: float = 0.06
    """Of the twist from draft to draft, a standard deviation of its logarithm."""
    way: Way = "Z"
    drift_from: int = -1
    """Draft, from 0, from which on the twist is other; none below zero."""
    drift: float = 6.5 / 8
    """Of what is wanted."""
    wrong_way: bool = False
    pause_at: int = -1
    """Draft after which it stands still for a while; none below zero."""
    tells_length: bool = False
    seed: int = 1


PAUSE = 20.0
"""Seconds."""

TOLD_EVERY = 0.5
"""Seconds between two lines of turns."""


def simulated(script: Script) -> Iterator[Hello | Line]:
    """Yield the lines of a wheel, as a counter on it would tell them: the same for the same script."""
    rng = np.random.default_rng(script.seed)
    yield Hello("simulated wheel", 1.0)
    way: Way = ("S" if script.way == "Z" else "Z") if script.wrong_way else script.way
    t = turns = mm = 0.0
    for draft in range(script.drafts):
        pace = script.pace * float(np.exp(rng.normal(0, 0.05)))
        long = script.draft_mm * (float(np.exp(rng.normal(0, 0.04))) if script.tells_length else 1.0)
        wanted = script.turns_per_m * long / 1000 * float(np.exp(rng.normal(0, script.spread)))
        wanted *= script.drift if 0 <= script.drift_from <= draft else 1.0
        takes = 60 * wanted / (pace * script.ratio)
        steps = max(int(takes / TOLD_EVERY), 1)
        for step in range(1, steps + 1):
            at = t + takes * step / steps
            yield Line(round(at, 3), turns=round(turns + wanted * step / steps, 3), way=way)
        t, turns, mm = t + takes, turns + wanted, mm + long
        if script.tells_length:
            yield Line(round(t, 3), mm=round(mm, 1))
        yield Line(round(t, 3), mark="draft")
        if draft == script.pause_at:
            for mark, later in (("stop", 0.1), ("start", PAUSE)):
                told: Mark = "stop" if mark == "stop" else "start"
                yield Line(round(t + later, 3), mark=told)
            t += PAUSE
