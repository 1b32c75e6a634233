"""What holds of any yarn at all: mirror, mass and length balance, order of the bands, continuity and steadiness.

A few dozen yarns in the suite, thousands under the profile ``long``.
"""

from dataclasses import replace

import numpy as np
from hypothesis import assume, example, given
from hypothesis import strategies as st

from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.reading.reading import JammedError, fullness
from pebble_wheel.mechanics.rest.balance import (
    NOISE,
    NoBalanceError,
    balanced_turns,
    fold_turns,
    resolve_made,
    twist_scale,
)
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.single import turns_for_factor
from pebble_wheel.mechanics.strand.state import MadeNest, State, mass, nests
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Leaf,
    Member,
    Node,
    OfBalanced,
    Ply,
    Rod,
    Single,
    Turns,
    Wrap,
    Wrapped,
    turns_of,
    with_members,
)
from pebble_wheel.mechanics.wash.bloom import Finish
from tests.yarns import mirrored, read

ROD, FREE = Rod(), Finish()
NEAR_ZERO = {"twist": 5.0, "loop": 2.0}
"""Where a reading is so small that a share of it says nothing: turns a metre, turns of a hung loop."""

STRAIGHT = 5e-4
"""A strand that lies all but straight leans by the root of what it is longer: its length then is what moves little."""

HOLLOW = 5e-3
"""A strand in the hollow between thick ones adds nothing to the width, and may lay them a little closer; coils stand
off by what they are fed, not by how thick they are."""

ways = st.sampled_from([-1, 1])


def _single(fibre, kind, tex, share, way):
    factor = sum(FIBRES[fibre].factor) / 2 * share
    return Single(FIBRES[fibre], *kind, tex, Turns(way * float(turns_for_factor(factor, tex))))


leaves = st.builds(
    _single,
    st.sampled_from(["merino", "romney", "cotton", "tussah", "corriedale"]),
    st.sampled_from([("combed", "short"), ("semi", "short"), ("carded", "long"), ("combed", "long")]),
    st.floats(20, 400),
    st.floats(0.7, 1.4),
    ways,
) | st.builds(
    lambda tex, turns, way: Bought(tex, 0.0374 * tex**0.5, Turns(way * turns)),
    st.floats(20, 200),
    st.floats(150, 450),
    ways,
)


def thickness(node: Node) -> float:
    return float(make(node).state.diameter)


def lean(node: Node, share: float, way: int) -> Turns:
    """A twist that makes a strand of this thickness lean about so much."""
    return Turns(way * share * 1000 / (np.pi * thickness(node)))


def laid(inner):
    few = st.lists(st.tuples(inner, st.integers(1, 3)), min_size=1, max_size=2)

    def plied(members, share, tension, way):
        found = tuple(Member(node, count + (len(members) == 1)) for node, count in members)
        return Ply(found, lean(members[0][0], share, way), tension)

    def chained(node, loop, share, way):
        return Chain(node, loop, lean(node, share, way))

    def cored(core, tex, width, share, way):
        return CoreSpun(core, Wrap(FIBRES["bfl"], "carded", tex, width), lean(core, share, way))

    def coiled(binder, wrapper, over, share, way):
        return Wrapped(binder, wrapper, over, lean(wrapper, share, way))

    held = st.sampled_from([0.5, 0.5, 0.8, 1.0, 0.0])
    return st.one_of(
        st.builds(plied, few, st.floats(0.1, 0.35), held, ways),
        st.builds(chained, inner, st.floats(40, 300), st.floats(0.1, 0.35), ways),
        st.builds(cored, inner, st.floats(200, 3000), st.floats(3, 40), st.floats(0.05, 0.3), ways),
        st.builds(coiled, leaves, inner, st.floats(1.0, 4.0), st.floats(0.05, 0.3), ways),
    )


yarns = st.recursive(leaves, laid, max_leaves=3).filter(lambda node: not isinstance(node, Leaf))


THREAD = Bought(20.0, 0.1672578847169843, Turns(-150.0))
COILS = Wrapped(_single("merino", ("combed", "short"), 125.0, 1.0, -1), THREAD, 1.0, Turns(-475.78))
COILS_ON_COILS = Wrapped(THREAD, COILS, 1.0, Turns(-126.13))
"""The inner coils stand steeper than strands of a ply ever could."""
CHAINED = Chain(_single("romney", ("semi", "short"), 65.0, 0.703125, -1), 40.0, Turns(0.0))
CHAINED = replace(CHAINED, twist=lean(CHAINED.strand, 0.1484375, 1))
COILED_CHAIN = Wrapped(
    _single("merino", ("combed", "short"), 391.0, 1.0, 1), CHAINED, 1.1, lean(CHAINED, 0.12424524180329541, 1)
)
"""Its fold rests on either side of twists at which its strands are full."""
Z_THREAD, S_THREAD = (Bought(78.0, 0.0374 * 78**0.5, Turns(turns)) for turns in (294.0, -293.0))
Z_AND_S = Ply((Member(Z_THREAD, 3), Member(S_THREAD, 3)), lean(Z_THREAD, 0.19204801538264785, -1))
"""The slope of its fold turns twice in one valley."""
NEARLY_AS_THICK = Ply(
    (
        Member(Chain(_single("merino", ("combed", "short"), 39.0, 1.25, -1), 40.0, Turns(220.0)), 3),
        Member(_single("merino", ("combed", "short"), 138.0, 1.0, -1), 3),
    ),
    Turns(-106.0),
)
"""Of six strands the thinnest lie inside: of an uneven spinner's these are now the ones, now the others."""

TWO_RESTS = Ply((Member(_single("merino", ("combed", "short"), 338.0, 0.875, 1), 4),), Turns(0.0), 1.0)
TWO_RESTS = replace(TWO_RESTS, twist=lean(TWO_RESTS.members[0].node, 0.20055980386426914, 1))
"""Its fold rests in two valleys, the deeper of them much the steeper."""


def settled(node: Node) -> State:
    state = make(node).state
    assume(float(fullness(state)) < 0.95)
    return state


@given(yarns)
def test_the_mirror_image_of_any_yarn_is_its_mirror_image(yarn):
    plain, other = settled(yarn), settled(mirrored(yarn))
    for one, two in zip(nests(plain), nests(other), strict=True):
        for figure in ("length", "diameter", "jamming", "wrap_mass"):
            assert np.isclose(getattr(one, figure), getattr(two, figure), rtol=1e-6), figure
        for figure in ("twist_now", "angle"):
            assert np.isclose(getattr(one, figure), -getattr(two, figure), rtol=1e-5, atol=1e-4), figure
        for a, b in zip(one.seats, two.seats, strict=True):
            assert np.isclose(a.feed, b.feed, rtol=1e-6) and np.isclose(a.radius, b.radius, rtol=1e-5, atol=1e-7)


@example(COILS_ON_COILS)
@example(NEARLY_AS_THICK)
@given(yarns)
def test_strands_weigh_what_the_yarn_weighs_and_are_as_long_as_it_is(yarn):
    made = make(yarn)
    assume(float(fullness(made.state)) < 0.95)
    for state in nests(made.state):
        for each in state.seats:
            along = each.feed * each.state.length * np.cos(each.angle)
            assert np.isclose(along, state.length, rtol=1e-5)
    try:
        levels = read(yarn, FREE, variants=8).levels
    except JammedError:
        assume(False)
    spun = sum(level.grams_per_100_m * level.strands for level in levels if isinstance(level.node, Leaf))
    wraps = sum(
        float(level.now.wrap_mass / level.now.length) / 10 * level.strands * level.metres_per_metre
        for level in levels
        if isinstance(level.node, CoreSpun)
    )
    assert np.isclose(spun + wraps, levels[0].grams_per_100_m, rtol=1e-6)
    assert np.isclose(levels[0].grams_per_100_m, float(mass(made.state) / made.state.length) / 10, rtol=1e-6)


@given(yarns)
def test_every_reading_is_a_number_and_every_band_in_order(yarn):
    try:
        reading = read(yarn, FREE, variants=64)
    except JammedError:
        assume(False)
    for band in (
        reading.diameter_as_plied,
        reading.diameter_finished,
        reading.wpi_as_plied,
        reading.wpi_finished,
        reading.angle_band,
    ):
        assert np.isfinite([band.p10, band.p50, band.p90]).all() and 0 <= band.p10 <= band.p50 <= band.p90
    for level in reading.levels:
        figures = [
            level.turns_per_m_now,
            level.angle,
            level.take_up,
            level.diameter,
            level.metres_per_metre,
            level.lies,
        ]
        assert np.isfinite(figures).all() and level.diameter > 0 and level.metres_per_metre > 0
    assert reading.finished_tex >= reading.resultant_tex > 0


def nudged(node: Node, by: float) -> Node:
    """Every strand a little thicker and twisted a little more."""
    own = replace(node, twist=Turns(turns_of(node) * (1 + by)))
    if isinstance(node, Single):
        return replace(own, tex=own.tex * (1 + by))
    if isinstance(node, Bought):
        return own
    inner = with_members(own, tuple(nudged(member.node, by) for member in node.members))
    if isinstance(inner, CoreSpun):
        return replace(inner, wrap=replace(inner.wrap, tex=inner.wrap.tex * (1 + by)))
    if isinstance(inner, Ply) and inner.tension_share not in (0.0, 0.5):
        return replace(inner, tension_share=inner.tension_share - by)
    return inner


def readings(node: Node) -> list[tuple[str, float]]:
    made = resolve_made(node, ROD)
    assume(float(fullness(made.state)) < 0.95)
    found = [("tex", float(mass(made.state) / made.state.length))]
    for state in nests(made.state):
        found += [("diameter", float(state.diameter)), ("angle", float(state.angle)), ("twist", float(state.twist_now))]
        for each in state.seats:
            found += [
                ("feed", float(each.feed * each.consumption)),
                ("angle", float(each.angle)),
                ("angle", float(each.state.angle)),
            ]
            found += [("twist", float(each.state.twist_now)), ("diameter", float(each.state.diameter))]
    return found


def leaps(values) -> bool:
    """Whether what moves over ten steps of a nudge moves by more than a quarter of its way in one of them."""
    steps = np.abs(np.diff(values))
    return bool(steps.max() >= abs(values[-1] - values[0]) / 4)


TENTHS = np.linspace(0, 1e-3, 11)


@given(yarns)
def test_a_nudge_moves_no_reading_by_much(yarn):
    """A thousandth more of everything: no reading moves by more than 2 % unless it is near zero, or moves steeply."""
    for place, ((what, one), (_, other)) in enumerate(zip(readings(yarn), readings(nudged(yarn, 1e-3)), strict=True)):
        near = max(abs(one), abs(other)) < NEAR_ZERO.get(what, 0.0)
        straight = what == "angle" and abs(np.cos(other) - np.cos(one)) < STRAIGHT
        if abs(other - one) > 0.02 * abs(one) and not near and not straight:
            assert abs(other - one) <= 0.05 * abs(one), (what, one, other)
            assert not leaps([readings(nudged(yarn, by))[place][1] for by in TENTHS]), (what, one, other)


def rests(yarn: Node, by: float) -> tuple[float, float]:
    """Turns of the hung loop and balanced twist of a yarn nudged."""
    node = nudged(yarn, by)
    made = make(node)
    assume(isinstance(made, MadeNest) and float(fullness(made.state)) < 0.9)
    return fold_turns(node, ROD, made) * 0.15, balanced_turns(node, ROD, made.members)


def coils_of_core_spun(node: Node) -> bool:
    """Whether a core-spun yarn is coiled in it: its wrap stores no torque, and nothing says how its coils rest."""
    own = isinstance(node, Wrapped) and isinstance(node.wrapper, CoreSpun)
    return own or (not isinstance(node, Leaf) and any(coils_of_core_spun(member.node) for member in node.members))


@example(COILED_CHAIN)
@example(Z_AND_S)
@example(TWO_RESTS)
@given(yarns.filter(lambda yarn: not coils_of_core_spun(yarn)))
def test_a_nudge_moves_the_loop_and_the_balance_by_little(yarn):
    """Near zero are two turns of the loop, and twice what is not told from no balance.

    Balance is a difference of torques: what it moves by is measured against a tenth of their scale at least. Where a
    rest is about to vanish it moves steeply, but without a leap.
    """
    scale = float(twist_scale(yarn, make(yarn).members))
    found = rests(yarn, 0.0), rests(yarn, 1e-3)
    for which, (least, told) in enumerate(((NEAR_ZERO["loop"], 0.0), (2 * NOISE * scale, scale / 10))):
        one, other = (each[which] for each in found)
        if np.nanmax(np.abs([one, other, 0.0])) < least:  # no rest at all is as good as hanging all but quiet
            continue
        assert np.isfinite(one) == np.isfinite(other), found
        if abs(other - one) > 0.02 * max(abs(one), told):
            assert not leaps([rests(yarn, by)[which] for by in TENTHS]), (which, found)


@given(yarns, st.floats(1.02, 1.3))
def test_thicker_strands_make_a_thicker_and_heavier_yarn(yarn, by):
    def thicker(node):
        if isinstance(node, Single):
            return replace(node, tex=node.tex * by)
        if isinstance(node, Leaf):
            return node
        return with_members(node, tuple(thicker(member.node) for member in node.members))

    more = thicker(yarn)
    assume(more != yarn)
    plain, grown = settled(yarn), settled(more)
    assert grown.diameter > plain.diameter * (1 - HOLLOW)
    assert mass(grown) / grown.length > mass(plain) / plain.length


def coiled_within(node: Node) -> bool:
    """Whether a strand of it is coiled: twisted on its coils draw in, and the whole may lean less for being thinner."""
    return not isinstance(node, Leaf) and any(
        isinstance(member.node, Wrapped) or coiled_within(member.node) for member in node.members
    )


@given(yarns.filter(lambda yarn: not coiled_within(yarn)), st.floats(1.02, 1.3))
def test_more_twist_on_top_leans_more(yarn, by):
    plain, tighter = settled(yarn), settled(replace(yarn, twist=Turns(turns_of(yarn) * by)))
    if isinstance(yarn, Wrapped):
        assert abs(tighter.angle) >= abs(plain.angle) - 1e-9
    else:
        assert abs(tighter.angle) > abs(plain.angle)


@given(yarns, st.sampled_from([0.5, 1.0, 1.4]), ways)
def test_a_multiple_of_balance_is_laid_or_refused_with_its_place(yarn, multiple, way):
    try:
        made = resolve_made(replace(yarn, twist=OfBalanced(multiple, way)), ROD)
    except NoBalanceError as refused:
        assert refused.path == "yarn" and refused.cause
        return
    rest = balanced_turns(made.node, ROD, made.members)
    assert np.isclose(turns_of(made.node), multiple * rest, rtol=1e-6) and turns_of(made.node) * way > 0
