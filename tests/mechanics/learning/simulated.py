"""Spinners made up by the model's own rules, for checks of what is learned of them."""

from dataclasses import dataclass

import numpy as np

from pebble_wheel.mechanics.learning.factors import FACTORS, GROUP, SPINNER, YARN, Group
from pebble_wheel.mechanics.learning.model import Measured, YarnMeasured
from pebble_wheel.mechanics.learning.noise import OWN_ERROR, noise_of, scatter

MERINO, CORRIEDALE, ALPACA = Group("merino", "combed"), Group("corriedale", "carded"), Group("alpaca", "semi")

LEANS = {
    "thick": np.array([0.415, -0.338, 0, -0.169, 0, 0, 0, 0]),
    "finished thick": np.array([0.372, -0.269, -0.175, -0.189, 0, 0, 0.095, 0]),
    "tex": np.array([1.0, 0, 0, 0, 0, 0, 0, 0]),
    "turns": np.array([0, 1.0, 0, 0, 0, 0, 0, 0]),
    "fold": np.array([-0.131, 0.793, 0, 0.054, -0.252, -0.889, 0, 0]),
    "angle": np.array([9.11, -5.446, 19.892, -3.769, 0, 0, 0, 0]),
    "wash length": np.array([0.005, 0.011, 0.007, 0.008, 0, 0, 0, -0.05]),
}
"""As reckoned of a middling 3-ply and its single."""

USUAL = (("thick", "wraps"), ("fold", "fold"), ("turns", "count"), ("tex", "weighed"), ("finished thick", "wraps"))


@dataclass
class Spinner:
    """One whose factors are known."""

    rng: np.random.Generator
    groups: tuple[Group, ...] = (MERINO, CORRIEDALE, ALPACA)

    def __post_init__(self):
        self.own = self.rng.normal(0, SPINNER)
        self.by_group = {group: self.rng.normal(0, GROUP) for group in self.groups}
        self.biases, self.errors = {}, {}

    def factors(self, group):
        """Return the factors of a new yarn."""
        return self.own + self.by_group[group] + self.rng.normal(0, YARN)

    def yarn(self, group, measured=USUAL, factors=None, places=4, entry=None):
        """Return a new yarn with readings of it."""
        factors = self.factors(group) if factors is None else factors
        readings = tuple(self._reading(outcome, method, group, factors, places, entry) for outcome, method in measured)
        return YarnMeasured(tuple((factor, group) for factor in FACTORS), readings)

    def _reading(self, outcome, method, group, factors, places, entry):
        def drawn(kept, key, sd):
            if key not in kept:
                kept[key] = self.rng.normal(0, sd)
            return kept[key]

        noise = scatter(outcome, method, places, outcome == "thick")
        off = LEANS[outcome] @ factors + self.rng.normal(0, noise)
        off += drawn(self.errors, (group, outcome), OWN_ERROR[outcome])
        off += drawn(self.biases, method, noise_of(outcome, method).bias)
        return Measured(off, LEANS[outcome], noise, outcome, group, method, entry)
