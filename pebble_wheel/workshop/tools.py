"""The wheels, spinners, spindles and bobbins that a person owns, as what is reckoned with."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from pebble_wheel.mechanics.backwards.merits import Hands
from pebble_wheel.mechanics.making.splitting import capacity, half_full
from pebble_wheel.mechanics.making.tools import dial_speed, laps_per_m
from pebble_wheel.mechanics.making.wheel import TREADLES_PER_MINUTE, TURNS_A_MINUTE, Tool
from pebble_wheel.notation.aim import USUAL
from pebble_wheel.notation.tool import (
    BobbinsModel,
    MotorModel,
    SpindleModel,
    ToolModel,
    WheelModel,
)

USUAL_BUILD = 50.0
"""mm: how thick a bobbin has grown on the whole, where none is known (assumed)."""

SECONDS = 60.0
"""Beats a minute of a motor: its seconds are counted."""


@dataclass(frozen=True)
class Bobbin:
    """A bobbin owned."""

    key: str
    """By which a plan names it."""
    name: str
    outer: float
    """Over the flanges [mm]."""
    core: float
    width: float
    empty: float
    """Grams."""

    def holds(self, bulk: float) -> float:
        """Return what it holds [g]."""
        return float(capacity(self.outer, self.core, self.width, bulk))


@dataclass(frozen=True)
class Owned:
    """A tool that twists, with the name by which a plan chooses it."""

    uid: str
    model: WheelModel | MotorModel | SpindleModel

    @property
    def orifice(self) -> float | None:
        """How wide it is [mm]; None where nobody said, or there is none."""
        return None if isinstance(self.model, SpindleModel) else self.model.orifice_mm


@dataclass(frozen=True)
class Tools:
    """What a person makes yarn with, as far as they told; the tool that is used most stands first."""

    owned: tuple[Owned, ...] = ()
    bobbins: tuple[Bobbin, ...] = ()
    pace: float = TREADLES_PER_MINUTE
    """Treadles a minute."""

    @cached_property
    def build(self) -> float:
        """How thick a bobbin has grown on the whole [mm]."""
        if not self.bobbins:
            return USUAL_BUILD
        return float(np.mean([half_full(each.outer, each.core) for each in self.bobbins]))

    def named(self, choice: str) -> Owned | None:
        """Return a tool by its uid; the first for none, and None for one of a sort or one that is there no more."""
        if choice:
            return next((each for each in self.owned if each.uid == choice), None)
        return self.owned[0] if self.owned else None

    def hands(self, choice: str = "") -> Hands:
        """Return how a person spins on a tool of theirs, on one of a sort (``motor``), or on that used most."""
        found = self.named(choice)
        if found is not None:
            return self._hands(found.model, self.build)
        sort: Tool = "motor" if choice == "motor" else "spindle" if choice == "spindle" else "wheel"
        if sort == "wheel":
            return replace(USUAL, pace=self.pace)
        return Hands((TURNS_A_MINUTE[sort] / SECONDS,), SECONDS, "second")

    def _hands(self, model: WheelModel | MotorModel | SpindleModel, build: float) -> Hands:
        match model:
            case WheelModel():
                laps = float(laps_per_m(build)) if model.drive == "bobbin-lead" else 0.0
                return Hands(tuple(model.ratios), self.pace, "treadle", laps)
            case MotorModel():
                return Hands(tuple(each.turns_per_min / SECONDS for each in model.marks), SECONDS, "second")
            case SpindleModel():
                turns = model.roll or model.flick or 1.0
                return Hands((turns,), TURNS_A_MINUTE["spindle"] / turns, "roll" if model.roll else "flick")


def tools_of(kept: Iterable[tuple[str, ToolModel]], pace: float) -> Tools:
    """Return tools as they are reckoned with.

    Args:
        kept: uid and tool, the one used most first.
        pace: treadles a minute.
    """
    owned: list[Owned] = []
    bobbins: list[Bobbin] = []
    for uid, model in kept:
        match model:
            case BobbinsModel():
                bobbins += _bobbins(uid, model)
            case WheelModel() | MotorModel() | SpindleModel():
                owned.append(Owned(uid, model))
    return Tools(tuple(owned), tuple(bobbins), pace)


def _bobbins(uid: str, model: BobbinsModel) -> list[Bobbin]:
    return [
        Bobbin(
            f"{uid}-{place}",
            f"{model.name} {place}" if len(model.empty_g) > 1 else model.name,
            model.outer_mm,
            model.core_mm,
            model.width_mm,
            empty,
        )
        for place, empty in enumerate(model.empty_g, 1)
    ]


def speed_at(model: MotorModel, at: float) -> float:
    """Return the turns a minute at a place of a dial; NaN beyond what was counted."""
    marks = np.array([[each.at, each.turns_per_min] for each in model.marks])
    return float(dial_speed(marks[:, 0], marks[:, 1], at))
