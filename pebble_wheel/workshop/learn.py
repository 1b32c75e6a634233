"""From samples as they were noted to what they teach: each reading against what was reckoned of its strand then."""

from collections.abc import Hashable, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.learning.factors import Column, Group, main_group
from pebble_wheel.mechanics.learning.model import Measured, YarnMeasured
from pebble_wheel.mechanics.learning.noise import BY_WORD, Method, interval_off, noise_of, scatter
from pebble_wheel.mechanics.learning.outcomes import FOLDED, Outcome, Reckoned, natural, reckon, told
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.rest.balance import NoBalanceError, resolve
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.structure import Node, Rod, Single
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.mechanics.wash.resting import REST_OFF, rested
from pebble_wheel.mechanics.wash.swelling import wet_over_dry
from pebble_wheel.notation.design import Design, finish_of, structure_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.record import KITCHEN_SCALE, Skein
from pebble_wheel.notation.sample import Asked, FoldWord, Sample, strand_of

WORDS: dict[FoldWord, float] = {"wide": -0.25, "right": 0.0, "tight": 0.22, "kinks": 0.45}
"""What a ply-back told by a word is taken for: the logarithm of its turns over those it should have (assumed)."""

SHEEPISH = 0.15
"""Standard deviation of "as it should", which nobody counted (assumed)."""


Key = tuple[str, Asked, int]
"""By what a yarn is known: its plan, how it was asked to be spun, and which of those it is."""


@dataclass(frozen=True)
class Noted:
    """A sample with the design that it was spun for."""

    entry: Hashable
    design: Design
    plan: str
    """By which the yarn is known: the design, and its file as it was then."""
    sample: Sample
    struck: frozenset[str] = frozenset()
    """Readings of it that are not to count."""
    noted_at: datetime | None = None
    whole: bool = False
    """Whether it is a skein: of one yarn several may be measured."""


@dataclass(frozen=True)
class Told:
    """One reading of a sample against what was reckoned, both dry and fresh."""

    outcome: Outcome
    method: Method
    measured: float
    """mm, tex, turns/m, degrees or turns of 30 cm; see ``outcomes.natural``."""
    reckoned: float
    off: float
    scatter: float
    leans: FloatArray
    columns: tuple[Column, ...]
    group: Group
    as_measured: float
    """Before it was brought to dry and fresh."""

    @property
    def sd(self) -> float:
        """How far it may be off, the bias of its method taken in."""
        return float(np.hypot(self.scatter, noise_of(self.outcome, self.method).bias))


def sample_of(skein: Skein) -> Sample:
    """Return a measured skein as a sample of the whole yarn."""
    relaxed = skein.relaxed_wraps
    return Sample(
        strand="yarn",
        stage=skein.stage,
        wet=skein.wet,
        places=3,
        thick_mm=INCH / relaxed if relaxed else None,
        thick_by="card" if skein.method == "card" else "wraps",
        loop_turns=skein.loop_turns,
        metres=None if skein.wet else skein.metres,
        grams=None if skein.wet else skein.grams,
        note=skein.note,
    )


def node_of(design: Design, path: str, rod: Rod, memory: Memory | None = None) -> Node:
    """Return a strand of a design by itself, with every twist given outright.

    Raises:
        InputError: where there is none such.
        NoBalanceError: where a multiple of balance has no answer.
    """
    return resolve(structure_of(strand_of(design, path)), rod, memory)


def told_of(sample: Sample, node: Node, rod: Rod, finish: Finish, memory: Memory | None = None) -> list[Told]:
    """Return what a sample of a strand tells, each reading brought to dry and fresh."""
    given = _given(sample, isinstance(node, Single))
    if not given or sample.taken == "yarn":
        return []
    fresh = reckon(node, rod, finish, [each.outcome for each in given], memory)
    shown = fresh
    if sample.rested_hours and any(each.outcome in FOLDED for each in given):
        shown = reckon(node, rested(rod, sample.rested_hours), finish, [each.outcome for each in given], memory)
    return [_told(each, sample, node, fresh, shown) for each in given]


@dataclass(frozen=True)
class _Given:
    """A figure as it was measured."""

    outcome: Outcome
    method: Method
    value: float | None
    """None where only a word was given, which is told by ``off``."""
    extra: float = 0.0
    off: float = 0.0


def _given(sample: Sample, single: bool) -> list[_Given]:
    """Return the figures of a sample that can be learned from."""
    finished = sample.stage == "finished" and not single
    found: list[_Given] = []
    if sample.thick_mm is not None:
        by: Method = sample.thick_by if sample.thick_by in ("card", "photo") else "wraps"
        found.append(_Given("finished thick" if finished else "thick", by, sample.thick_mm, sample.thick_off))
    if sample.tex is not None and sample.grams is not None:
        weighed = KITCHEN_SCALE / sample.grams
        found.append(_Given("finished tex" if finished else "tex", "weighed", sample.tex, weighed))
    if sample.turns_per_m is not None:
        found.append(_Given("turns", "count", sample.turns_per_m))
    if sample.fold_turns is not None:
        found.append(_Given("fold", "fold", sample.fold_turns))
    elif sample.fold_word is not None and single:
        off = SHEEPISH if sample.fold_word == "right" else BY_WORD
        found.append(_Given("fold", "fold", None, off, WORDS[sample.fold_word]))
    if sample.fold_angle is not None:
        found.append(_Given("fold angle", "fold", sample.fold_angle))
    if sample.angle is not None:
        found.append(_Given("angle", "photo" if sample.photos else "eye", sample.angle))
    if sample.loop_turns is not None:
        found.append(_Given("loop", "fold", sample.loop_turns))
    if sample.take_up is not None:
        found.append(_Given("take-up", "laid out", sample.take_up))
    if sample.wash_length is not None:
        found.append(_Given("wash length", "laid out", sample.wash_length))
    return found


def _told(given: _Given, sample: Sample, node: Node, fresh: Reckoned, shown: Reckoned) -> Told:
    outcome = given.outcome
    reckoned, extra = shown.middle[outcome], given.extra
    moved = fresh.middle[outcome] - reckoned
    extra = float(np.hypot(extra, REST_OFF * abs(moved)))
    if sample.wet and outcome in ("thick", "finished thick"):
        low, high = (float(each) for each in wet_over_dry(make(node).state))
        reckoned += float(np.log(low * high)) / 2
        moved -= float(np.log(low * high)) / 2
        extra = float(np.hypot(extra, interval_off(low, high) if high > low else 0.0))
    value = reckoned + given.off if given.value is None else natural(outcome, given.value)
    noise = scatter(outcome, given.method, sample.places, isinstance(node, Single), extra)
    return Told(
        outcome,
        given.method,
        told(outcome, value + moved),
        told(outcome, fresh.middle[outcome]),
        value - reckoned,
        noise,
        shown.leans[outcome],
        fresh.columns,
        main_group(node),
        told(outcome, value),
    )


def yarns_of(several: Iterable[Noted], rod: Rod, memory: Memory | None = None) -> dict[Key, YarnMeasured]:
    """Return the yarns that samples are of, in the order in which they were begun.

    Samples of one plan, spun as it was asked for, are of one yarn, until a strand is sampled anew or a month has gone
    by. A sample whose strand is not there any more, or that cannot be made, teaches nothing.

    Args:
        several: the samples of one spinner, the first first.
        rod: of the energy model, untaught.
        memory: of what was reckoned lately.
    """
    told_by: dict[Key, list[tuple[Noted, Told]]] = {}
    begun: dict[tuple[str, Asked], _Begun] = {}
    for noted in several:
        try:
            node = node_of(noted.design, noted.sample.strand, rod, memory)
            readings = told_of(noted.sample, node, rod, finish_of(noted.design), memory)
        except (InputError, NoBalanceError):
            continue
        of = noted.plan, noted.sample.asked
        begun[of] = begun.get(of, _NOTHING_BEGUN).with_one(noted)
        own = told_by.setdefault((*of, begun[of].number), [])
        own.extend((noted, each) for each in readings if each.outcome not in noted.struck)
    return {key: _yarn(readings) for key, readings in told_by.items() if readings}


@dataclass(frozen=True)
class _Begun:
    """How far a yarn has come: which of its plan it is, what of it was sampled, and when last."""

    number: int
    sampled: frozenset[str]
    last: datetime | None

    def with_one(self, noted: Noted) -> "_Begun":
        """Return the same, or the next one begun, with another sample."""
        strand, again = noted.sample.strand, noted.sample.strand in self.sampled and not noted.whole
        late = self.last is not None and noted.noted_at is not None and noted.noted_at - self.last > LATE
        if again or late:
            return _Begun(self.number + 1, frozenset({strand}), noted.noted_at)
        return _Begun(self.number, self.sampled | {strand}, noted.noted_at)


_NOTHING_BEGUN = _Begun(1, frozenset(), None)

LATE = timedelta(days=30)
"""After which what is sampled of a plan is another yarn (assumed)."""


def _yarn(readings: list[tuple[Noted, Told]]) -> YarnMeasured:
    columns = tuple(dict.fromkeys(column for _, each in readings for column in each.columns))
    place = {column: index for index, column in enumerate(columns)}
    measured = []
    for noted, each in readings:
        leans = np.zeros(len(columns))
        leans[[place[column] for column in each.columns]] = each.leans
        asked = _asked(noted.sample.asked, columns)
        off = each.off - float(leans @ asked)
        measured.append(Measured(off, leans, each.scatter, each.outcome, each.group, each.method, noted.entry))
    return YarnMeasured(columns, tuple(measured))


def _asked(asked: Asked, columns: tuple[Column, ...]) -> FloatArray:
    by = {"size": asked.size, "twist": asked.twist, "ply": asked.ply}
    return np.array([by.get(factor, 0.0) for factor, _ in columns])
