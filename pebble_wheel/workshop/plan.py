"""A plan reckoned: grams of every lot in every strand, bobbins, what ends first, what is left, and the days."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.backwards.merits import Hands, steps_of
from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.learning.factors import Group, group_of, main_group
from pebble_wheel.mechanics.making.amounts import WASTE
from pebble_wheel.mechanics.making.splitting import (
    PLIED_BULK,
    SINGLE_BULK,
    RunOut,
    Ways,
    filled,
    run_out,
    split,
    spun,
    ways_with,
)
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.reading import Level, Reading
from pebble_wheel.mechanics.rest.balance import resolve_made
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import Made, NestState, mass
from pebble_wheel.mechanics.strand.structure import (
    CHAIN_LEGS,
    Bought,
    Chain,
    Node,
    OfBalanced,
    Ply,
    Rod,
    Single,
    equal_ply,
    turns_of,
)
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    new_design,
    walk,
)
from pebble_wheel.notation.plan import Plan, Way
from pebble_wheel.workshop.calendar import Dated, Task, scheduled, scheduled_by
from pebble_wheel.workshop.lines import Line, lines_of
from pebble_wheel.workshop.sequence import Along, bobbin_key, times_plain
from pebble_wheel.workshop.tools import Bobbin, Tools

MOST_BOBBINS = 24
"""That are weighed one by one."""

SKEIN_HOURS, MEASURE_HOURS = 0.5, 0.25
"""To wind and tie a skein, and to measure it (assumed)."""

LEFT_OVER = "make-leftovers"
"""The step in which leftovers are plied or chained."""

SOAK_HOURS = 1 / 3
"""A soak of 20 minutes."""

CHAIN_LOOP = 150.0
"""mm: of loops in which leftovers are chained (assumed)."""


@dataclass(frozen=True)
class Strand:
    """What is spun of fibre: all strands of one line of the design."""

    path: Address
    model: SingleModel | CoreSpunModel
    level: Level
    count: int
    per_metre: float
    """Grams of all of them in a metre of yarn."""
    times: float = 1.0
    """How much more of it the yarn takes than where it is as constructed."""


@dataclass(frozen=True)
class Laid:
    """One strand of the last step, on its bobbin."""

    path: Address
    level: Level
    per_metre: float
    """Grams in a metre of yarn."""


@dataclass(frozen=True)
class Needs:
    """What a yarn is made of."""

    strands: tuple[Strand, ...]
    bobbins: tuple[Laid, ...]
    """Of the last step; none of a bare single."""
    tex: float
    """Resultant, as plied."""


def needs_of(design: Design, reading: Reading, along: Along | None = None) -> Needs:
    """Return what is spun for a yarn, and what its last step lays together, as heavy as the spinner's hands make it.

    Args:
        design: the yarn.
        reading: of it as it is constructed.
        along: how it changes along its length; None where it does not.
    """
    heavy = _heavier(reading)
    times = times_plain(along) if along else {}
    lines = lines_of(design, reading)
    totals: dict[Address, int] = {}
    strands: list[Strand] = []
    bobbins: list[Laid] = []
    for line in lines:
        many = line.count * totals.get(line.path.above, 1)
        totals[line.path] = totals.get(line.path, 0) + many
        more = times.get(_bobbin(line.node), 1.0)
        found = _strand(line, many, reading, more)
        if found:
            strands.append(found)
        if line.path.depth == 1:
            own = Laid(line.path, line.level, heavy * more * line.level.grams_per_100_m / 100)
            bobbins += [own] * line.count
    tex = along.whole.mean_tex if along else reading.resultant_tex
    return Needs(tuple(_merged(strands)), tuple(bobbins[:MOST_BOBBINS]), heavy * tex)


def _bobbin(model: NodeModel) -> str:
    """Return off which kind of bobbin a strand comes; nothing of what is laid of others."""
    match model:
        case SingleModel() | BoughtModel():
            return bobbin_key(model)
        case CoreSpunModel():
            return bobbin_key(model.wrap)
        case PlyModel() | ChainModel() | WrappedModel():
            return ""


def _times(reading: Reading, group: Group) -> float:
    """Return by how much heavier than planned a spinner's singles of a group come out, as samples have taught."""
    if reading.constants.lessons is None:
        return 1.0
    mean, _ = reading.constants.known((("size", group),))
    return float(np.exp(mean[0]))


def _heavier(reading: Reading) -> float:
    """Return the same of the whole yarn, by its main fibre."""
    return _times(reading, main_group(reading.node))


def _strand(line: Line, many: int, reading: Reading, more: float) -> Strand | None:
    model, level = line.node, line.level
    if isinstance(model, SingleModel) and isinstance(level.node, Single):
        times = more * _times(reading, group_of(level.node))
        return Strand(line.path, model, level, many, times * many * level.grams_per_100_m / 100, more)
    if isinstance(model, CoreSpunModel) and isinstance(level.now, NestState):
        grams = kinds.core_spun(level.now).wrap_grams_per_m * level.metres_per_metre
        return Strand(line.path.inner("wrap"), model, level, many, more * many * grams, more)
    return None


def _merged(strands: Sequence[Strand]) -> list[Strand]:
    """Return strands with the seats of one line together."""
    found: dict[Address, Strand] = {}
    for each in strands:
        before = found.get(each.path)
        many, grams = (before.count, before.per_metre) if before else (0, 0.0)
        found[each.path] = replace(each, count=many + each.count, per_metre=grams + each.per_metre)
    return list(found.values())


@dataclass(frozen=True)
class Fibre:
    """Fibre for a plan: how much there is, and what of it is lost."""

    name: str
    grams: float
    waste: float
    short: bool = False
    """Whether nobody said how much there is."""


@dataclass(frozen=True)
class StrandPlan:
    """One line of the design, as planned."""

    strand: Strand
    has: float
    """Grams of fibre that go into it."""
    wants: float
    """Grams of fibre that it takes, waste included."""
    metres: float
    """Of each such strand."""
    bobbins: int
    """That all of them take."""

    @property
    def each(self) -> float:
        """Grams of fibre for one of them."""
        return self.has / self.strand.count

    @property
    def short(self) -> float:
        """Grams that are wanting; 0 where there is enough."""
        return max(self.wants - self.has, 0.0)

    @property
    def over(self) -> float:
        """Grams that are not needed."""
        return max(self.has - self.wants, 0.0)


@dataclass(frozen=True)
class Reckoned:
    """A plan reckoned."""

    needs: Needs
    metres: float
    """Of yarn."""
    grams: float
    parts: FloatArray
    """Of each lot in each line [g], shape (lots, lines)."""
    strands: tuple[StrandPlan, ...]
    yarn_bobbins: int
    at_once: int
    """Bobbins that the last step wants, its own included."""
    first: int | None
    """Which line's fibre ends first; None where it goes by metres wanted."""
    weighed: RunOut | None
    """By what the scale says of the bobbins; None until all of them were weighed."""
    ways: Ways | None
    done: float = 0.0
    """Metres of yarn that are made already, by the scale."""
    extra: float = 0.0
    """Metres that leftovers are to make besides."""


def reckon_plan(
    plan: Plan, needs: Needs, fibres: Sequence[Fibre], wanted: float | None, bobbins: Sequence[Bobbin] = ()
) -> Reckoned:
    """Return a plan reckoned.

    Args:
        plan: as typed.
        needs: of the yarn.
        fibres: of each lot of the plan, in order.
        wanted: metres of yarn; None where all the fibre is to be used.
        bobbins: owned; none where nobody said.
    """
    takes = np.array([each.per_metre for each in needs.strands])
    shares = np.array([_shares(lot.shares, takes) for lot in plan.lots]).reshape(len(plan.lots), len(takes))
    parts = split(np.array([each.grams for each in fibres]), shares)
    usable = split(np.array([float(spun(each.grams, each.waste)) for each in fibres]), shares).sum(axis=0)
    has = parts.sum(axis=0)
    waste = np.where(usable > 0, has / np.where(usable > 0, usable, 1.0) - 1, _usual_waste(needs))
    reach = run_out(usable, takes) if len(takes) and fibres else None
    metres = wanted if wanted is not None else (1 - plan.accent) * reach.metres if reach else 0.0
    done = _done(plan, needs, bobbins)
    on = _on_bobbins(plan, needs, bobbins)
    weighed = run_out(on, np.array([each.per_metre for each in needs.bobbins])) if on is not None else None
    ways = _ways(weighed, needs) if weighed else None
    extra = _extra(plan.leftover, ways) if ways else 0.0
    if weighed is not None:  # what is spun says how far it goes
        spun_for = done + weighed.metres + (extra if plan.leftover == "even" else 0.0)
        metres = min(wanted, spun_for) if wanted is not None else spun_for
    strands = tuple(
        StrandPlan(
            each,
            float(has[place]),
            float(metres * takes[place] * (1 + waste[place])),
            metres * each.level.metres_per_metre * each.times,
            _taken(metres * takes[place], each.count, bobbins, SINGLE_BULK),
        )
        for place, each in enumerate(needs.strands)
    )
    grams = metres * needs.tex / 1000
    bare = not needs.bobbins
    return Reckoned(
        needs,
        metres,
        grams,
        parts,
        strands,
        _taken(grams, 1, bobbins, SINGLE_BULK if bare else PLIED_BULK),
        1 + len(needs.bobbins) if not bare else 1,
        reach.first if reach and wanted is None else None,
        weighed,
        ways,
        done,
        0.0 if plan.leftover == "even" else extra,
    )


def _extra(way: Way, ways: Ways) -> float:
    """Return the metres that leftovers make the way that was chosen."""
    match way:
        case "" | "accept":
            return 0.0
        case "even":
            return ways.evened
        case "ball" | "bracelet":
            return ways.folded
        case "chain":
            return ways.chained


def _shares(typed: Sequence[float | None], takes: FloatArray) -> FloatArray:
    """Return shares by strand: as typed, else as much as the strand takes."""
    told = np.array([np.nan if each is None else each for each in typed])
    if np.isnan(told).all():
        return takes
    return np.nan_to_num(told)


def _usual_waste(needs: Needs) -> FloatArray:
    preps: list[Prep] = [
        each.model.prep if isinstance(each.model, SingleModel) else each.model.wrap.prep for each in needs.strands
    ]
    return np.array([WASTE[each] for each in preps])


def _taken(grams: float, count: int, bobbins: Sequence[Bobbin], bulk: float) -> int:
    """Return how many bobbins so many strands take; one each where none are known."""
    if not bobbins:
        return count
    holds = np.array([each.holds(bulk) for each in bobbins])
    return sum(map(len, filled(np.full(count, grams / count), holds)))


def bobbin_for(plan: Plan, place: int, bobbins: Sequence[Bobbin]) -> Bobbin | None:
    """Return the bobbin that a strand of the last step is on: the one chosen, else the next of those owned."""
    chosen = next((each for each in bobbins if each.key == plan.on.get(place)), None)
    return chosen or (bobbins[place % len(bobbins)] if bobbins else None)


def _on_bobbins(plan: Plan, needs: Needs, bobbins: Sequence[Bobbin]) -> FloatArray | None:
    """Return the grams on each bobbin, its own weight taken off; None until all were weighed."""
    weights = plan.weights[: len(needs.bobbins)]
    if not weights or any(each is None for each in weights):
        return None
    own = [bobbin_for(plan, place, bobbins) for place in range(len(weights))]
    empty = np.array([each.empty if each else 0.0 for each in own])
    return np.maximum(np.array([each or 0.0 for each in weights]) - empty, 0.0)


def _done(plan: Plan, needs: Needs, bobbins: Sequence[Bobbin]) -> float:
    """Return the metres of yarn that are made, by what its bobbin weighs with them."""
    if plan.yarn_weighs is None or not needs.bobbins:
        return 0.0
    own = bobbin_for(plan, len(needs.bobbins), bobbins)
    return max(plan.yarn_weighs - (own.empty if own else 0.0), 0.0) * 1000 / needs.tex


def _ways(weighed: RunOut, needs: Needs) -> Ways:
    each = [bobbin.level for bobbin in needs.bobbins]
    return ways_with(
        weighed.left,
        np.array([bobbin.per_metre for bobbin in needs.bobbins]),
        np.array([_grams_of(level, equal_ply(level.node, 2, _balanced(level.node))) for level in each]),
        np.array([_grams_of(level, Chain(level.node, CHAIN_LOOP, _balanced(level.node))) for level in each]),
    )


def _balanced(node: Node) -> OfBalanced:
    return OfBalanced(1.0, -1 if float(turns_of(node)) > 0 else 1)


def _grams_of(level: Level, yarn: Ply | Chain) -> float:
    """Return what a metre of a yarn of a strand weighs [g]; of strands that hang quiet, by their number alone."""
    legs = CHAIN_LEGS if isinstance(yarn, Chain) else 2
    alone = legs * float(mass(level.made) / level.made.length) / 1000
    try:
        made: Made = resolve_made(yarn, _ROD, memory=_MADE)
    except ValueError:
        return alone
    return float(mass(made.state) / made.state.length) / 1000


_ROD, _MADE = Rod(), Memory(256)


@dataclass(frozen=True)
class Accent:
    """A chain of the yarn's own single, from a share of its fibre."""

    reading: Reading
    metres: float


def accent_design(design: Design, reading: Reading) -> Design | None:
    """Return the chain of the single that all strands of a yarn are alike; None where they are not."""
    singles = {level.node for level in reading.levels if isinstance(level.node, Single)}
    model = next((model for _, _, model in walk(design.yarn) if isinstance(model, SingleModel)), None)
    if len(singles) != 1 or model is None or not isinstance(reading.node, Ply):
        return None
    twist = model.twist.direction
    yarn = {
        "kind": "chain",
        "strand": model.model_copy(update={"count": 1}).model_dump(exclude_none=True),
        "loop_mm": CHAIN_LOOP,
        "twist": {"of_balanced": 1.0, "direction": "S" if twist == "Z" else "Z"},
    }
    return new_design("accent", yarn, design.finish)


def accent_of(plan: Plan, reckoned: Reckoned, reading: Reading) -> Accent:
    """Return an accent, given what its chain reads."""
    usable = sum(each.has for each in reckoned.strands) * plan.accent
    waste = float(_usual_waste(reckoned.needs)[0])
    return Accent(reading, float(spun(usable, waste)) * 1000 / reading.resultant_tex)


@dataclass(frozen=True)
class Days:
    """The days of a plan."""

    tasks: tuple[Dated, ...]
    hours: float
    """Of work."""


def minutes_for(reading: Reading, metres: float, hands: Hands) -> float:
    """Return the minutes in which so many metres are laid in the last step."""
    return 60 * metres * steps_of(reading.levels[:1], hands)[0].hours


def tasks_of(plan: Plan, reading: Reading, design: Design, reckoned: Reckoned, tools: Tools) -> list[Task]:
    """Return the steps of making a yarn: the singles first, rests between what is laid into each other.

    Args:
        plan: as typed.
        reading: of the yarn.
        design: the yarn.
        reckoned: the plan reckoned: what is made already takes no more time.
        tools: owned, of which the plan chooses for each step.
    """
    tasks: list[Task] = []
    before: Level | None = None
    for level in reversed(_made_once(reading)):
        single = isinstance(level.node, Single)
        if plan.rest_hours and before is not None and not single:
            tasks.append(Task(f"rest-{before.path}", "rest", before.path, plan.rest_hours))
        key = f"make-{level.path}"
        step = steps_of([level], tools.hands(plan.tools.get(key, "")))[0]
        metres = reckoned.metres - (reckoned.done if level is reading.levels[0] else 0.0)
        tasks.append(Task(key, "spin" if single else "ply", level.path, step.hours * max(metres, 0.0)))
        before = level
    if reckoned.extra:
        step = steps_of(reading.levels[:1], tools.hands(plan.tools.get(LEFT_OVER, "")))[0]
        tasks.append(Task(LEFT_OVER, "ply", LEFT_OVER, step.hours * reckoned.extra))
    tasks.append(Task("skein", "skein", "", SKEIN_HOURS))
    if design.finish.wash != "none":
        soaks = 0 if design.finish.wash == "steam" else 2 if design.finish.again else 1
        tasks += [Task(f"soak-{place}", "soak", "", SOAK_HOURS) for place in range(1, soaks + 1)]
        tasks.append(Task("dry", "dry", "", plan.dry_hours))
    tasks.append(Task("measure", "measure", "", MEASURE_HOURS))
    return tasks


def _made_once(reading: Reading) -> list[Level]:
    """Return the levels that are made, those of one node once, with their strands together."""
    return [each for each in reading.levels if not isinstance(each.node, Bought)]


def days_of(plan: Plan, tasks: Sequence[Task], today: date, done: Mapping[str, datetime]) -> Days:
    """Return when each step falls: from its first day on, else so that the last ends when it is due."""
    hours = sum(each.hours for each in tasks if each.doing in ("spin", "ply", "skein", "measure"))
    if plan.due and not plan.start and not done:
        return Days(tuple(scheduled_by(tasks, plan.due, plan.hours_a_day)), hours)
    return Days(tuple(scheduled(tasks, plan.start or today, plan.hours_a_day, dict(done))), hours)
