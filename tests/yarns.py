"""Yarns that several tests share, and strategies that draw them."""

import numpy as np
from hypothesis import strategies as st

from pebble_wheel.mechanics.fibres import FIBRES
from pebble_wheel.mechanics.single import turns_for_factor
from pebble_wheel.mechanics.structure import Ply, Single, Turns, equal_ply


def single(tex=100.0, turns=220.0, fibre="corriedale", prep="combed", draw="short") -> Single:
    return Single(FIBRES[fibre], prep, draw, tex, Turns(turns))


def ply(strand, strands, turns) -> Ply:
    return equal_ply(strand, strands, Turns(turns))


def of_factor(factor: float, tex=100.0, prep="combed", draw="short") -> Single:
    return single(tex, float(turns_for_factor(factor, tex)), prep=prep, draw=draw)


characters = st.sampled_from([("combed", "short"), ("semi", "short"), ("carded", "long"), ("carded", "short")])
singles = st.builds(
    lambda tex, factor, kind: of_factor(factor, tex, *kind), st.floats(15, 400), st.floats(12, 30), characters
)
plies = st.builds(
    lambda strand, strands, share: ply(strand, strands, -share * strand.twist.per_m),
    singles,
    st.integers(2, 5),
    st.floats(0.2, 0.8),
)


def degrees(angle) -> float:
    return float(np.degrees(angle))
