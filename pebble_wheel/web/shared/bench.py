"""A strand on the bench: what was sampled of it, judged, and drawn beside the plan with its ply-back."""

from dataclasses import dataclass, field
from datetime import datetime

from markupsafe import Markup

from pebble_wheel.drawing.dress import Dress, dress_of
from pebble_wheel.drawing.sampled import Side, side_svg, tallest_of
from pebble_wheel.mechanics.learning.correct import in_hand
from pebble_wheel.mechanics.learning.factors import put_in
from pebble_wheel.mechanics.learning.model import Lessons, learn
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.rest.balance import NoBalanceError, balanced_turns, fold
from pebble_wheel.mechanics.strand.settling import make, make_nest
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.mechanics.strand.structure import Node, Rod, Single
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.sample import Asked, Sample, strand_of
from pebble_wheel.store.measured import noted_of
from pebble_wheel.store.records import Noted
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.wording.sampling import PLAN, REFERENCE, newest_words
from pebble_wheel.wording.thread import day_words
from pebble_wheel.workshop.learn import Noted as Learnable
from pebble_wheel.workshop.learn import node_of, yarns_of
from pebble_wheel.workshop.take import Taken, taken_as_plan
from pebble_wheel.workshop.verdict import Judged, judge_sample


@dataclass(frozen=True)
class SideBySide:
    """A strand as planned, to match or newest."""

    label: str
    picture: Markup


@dataclass(frozen=True)
class Bench:
    """A strand of a design, what was sampled of it, and what was learned."""

    number: int
    design: Design
    strand: str
    desk: Desk
    samples: list[Noted[Sample]]
    """Of this strand, the first first."""
    begun: Asked = field(default_factory=Asked)
    """How a yarn that is spun again is to be spun, before anything of it was sampled."""

    @property
    def rod(self) -> Rod:
        """By which it is reckoned, untaught."""
        return Constants().rod

    @property
    def reference(self) -> Noted[Sample] | None:
        """The sample to match."""
        return next((each for each in self.samples if each.reference), None)

    @property
    def memory(self) -> Memory:
        """Of strands as they are reckoned."""
        return self.desk.learned.reckoned

    def node(self) -> Node:
        """Return the strand itself."""
        return node_of(self.design, self.strand, self.rod, self.memory)

    @property
    def others(self) -> Lessons:
        """What all other yarns have taught."""
        return self.desk.learned.without(self.number, self.design)

    def learnable(self, noted: Noted[Sample]) -> Learnable | None:
        """Return a sample as it can be learned from; None where its plan cannot be read."""
        return noted_of(noted, self.desk.learned.steep)

    def judged(self, noted: Noted[Sample]) -> Judged | None:
        """Return a sample judged; None where its plan cannot be read or made."""
        sample = self.learnable(noted)
        reference = self.reference
        to = self.learnable(reference) if reference and reference.id != noted.id else None
        if sample is None:
            return None
        lessons = self.desk.learned.lessons or learn([])
        try:
            return judge_sample(sample, to, lessons, self.others, self.desk.hands, self.rod, self.memory)
        except (InputError, NoBalanceError):
            return None

    def as_made(self, noted: Noted[Sample]) -> Node:
        """Return the strand as a sample says it was made: the likeliest of all that would read so."""
        learnable = self.learnable(noted)
        yarns = yarns_of([learnable], self.rod, self.memory) if learnable else {}
        node = self.node()
        for yarn in yarns.values():
            found = in_hand(self.others, yarn)
            node, _ = put_in(node, self.rod, {column: each.mean for column, each in found.items()})
        return node

    def taken(self, noted: Noted[Sample]) -> Taken | None:
        """Return the plan that a sample would make; None where it tells nothing of size or twist."""
        learnable = self.learnable(noted)
        if learnable is None or learnable.sample.taken == "yarn":
            return None
        yarns = yarns_of([learnable], self.rod, self.memory)
        if not yarns:
            return None
        found = in_hand(self.others, next(iter(yarns.values())))
        return taken_as_plan(self.design, self.strand, found)


def sides_of(bench: Bench, plain: Made, newest: Noted[Sample] | None) -> list[SideBySide]:
    """Return plan, reference and newest, each with its ply-back, at one scale."""
    dress = _dress_at(bench.design, bench.strand)
    found = [_side(PLAN, "plan", plain, bench.rod, bench.memory)]
    reference = bench.reference
    if reference is not None:
        found.append(_side(REFERENCE, "reference", make(bench.as_made(reference)), bench.rod, bench.memory))
    if newest is not None and newest is not reference:
        day = day_words(datetime.fromisoformat(newest.noted_at).astimezone())
        found.append(_side(newest_words(day), "newest", make(bench.as_made(newest)), bench.rod, bench.memory))
    tallest = tallest_of(found)
    return [SideBySide(each.label, Markup(side_svg(each, dress, tallest))) for each in found]


def to_match(bench: Bench) -> SideBySide | None:
    """Return the sample to match with its ply-back, else the strand as planned; None where it cannot be drawn."""
    reference = bench.reference
    node = bench.as_made(reference) if reference else bench.node()
    try:
        side = _side(REFERENCE if reference else PLAN, "to-match", make(node), bench.rod, bench.memory)
    except (InputError, NoBalanceError):
        return None
    return SideBySide(side.label, Markup(side_svg(side, _dress_at(bench.design, bench.strand), tallest_of([side]))))


def _side(label: str, name: str, made: Made, rod: Rod, memory: Memory) -> Side:
    folded: Made | None = None
    if isinstance(made.node, Single):
        doubled = fold(made.node)
        folded = make_nest(doubled, (made,), balanced_turns(doubled, rod, (made,), memory))
    return Side(label, name, made, folded)


def _dress_at(design: Design, path: str) -> Dress:
    def within(dress: Dress) -> Dress | None:
        if dress.part == path:
            return dress
        for strands in dress.members:
            for strand in strands:
                found = within(strand)
                if found is not None:
                    return found
        return None

    return within(dress_of(design.yarn)) or dress_of(strand_of(design, path))
