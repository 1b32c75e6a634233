"""Every structure that could be spun to an aim, the best first."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

from pebble_wheel.mechanics.backwards.merits import Aspect, Judged, Merit
from pebble_wheel.mechanics.backwards.solve import Hindrance, Knobs, Wish, factor_for
from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import Range
from pebble_wheel.mechanics.making.amounts import grams_needed, metres_made
from pebble_wheel.mechanics.strand.single import twist_factor
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Node,
    OfBalanced,
    Ply,
    Single,
    Turns,
    Wrapped,
    wrap_of,
)
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.aim import Aim, Core
from pebble_wheel.notation.design import Design, fibre_said, structure_of
from pebble_wheel.notation.draft import Draft, Part, design_of, fresh, parts, replaced
from pebble_wheel.notation.settings import Settings
from pebble_wheel.workshop.colour import LOT_GRAMS, bands_of_lot, colours_of_lot, kept_of
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.refit import refitted
from pebble_wheel.workshop.starts import STARTS, start

USUAL_METRES = 100.0
"""Reckoned with where neither grams nor metres are given."""

BASE_TURNS, BASE_TEX = 220.0, 100.0
"""Of the singles that most starting points have; some have a little more or less twist factor, and keep that share."""

_PLAIN = Settings()


@dataclass(frozen=True)
class Candidate:
    """A structure spun to an aim, or as near to it as can be."""

    name: str
    words: str
    begun: Draft
    """The starting point in the fibre and colours in hand."""
    begun_design: Design
    template: tuple[Hashable, ...]
    """By what it is told from another starting point, in other fibres and colours."""
    knobs: Knobs
    hindrances: tuple[Hindrance, ...]
    judged: Judged | None = None
    """None where nothing can be spun."""
    metres: float = 0.0
    """That the fibre in hand makes, else those wanted, else 100."""
    grams: float = 0.0
    """Of the fibre in hand for these metres."""
    score: float = 0.0

    @property
    def met(self) -> bool:
        """Whether it meets the aim."""
        return not self.hindrances

    def filled(self, settings: Settings) -> Draft:
        """Return the draft with every size and twist filled in."""
        return refitted(self.begun, self.knobs, settings)


def candidates(
    evaluator: Evaluator, aim: Aim, weights: Mapping[Aspect, float], without: frozenset[str] = frozenset()
) -> list[Candidate]:
    """Return every structure spun to an aim: those that meet it by what matters, then the others by the same."""
    found = [_candidate(evaluator, aim, name) for name in STARTS if name not in without]
    scored = [replace(each, score=_score(each.judged.merits, weights) if each.judged else 0.0) for each in found]
    return sorted(scored, key=lambda each: (not each.met, each.judged is None, -each.score))


def _score(merits: Mapping[Aspect, Merit], weights: Mapping[Aspect, float]) -> float:
    """Return the mean of what matters, weighted; of all where nothing does."""
    weights = weights if any(weights.values()) else dict.fromkeys(weights, 1.0)
    total = sum(abs(weight) for weight in weights.values())
    scores = {each: merits[each].score if weight > 0 else 1 - merits[each].score for each, weight in weights.items()}
    return sum(abs(weights[each]) * scores[each] for each in weights) / total


def _candidate(evaluator: Evaluator, aim: Aim, name: str) -> Candidate:
    given = (name, aim.fibre, aim.prep, aim.draw, aim.colours, aim.run, aim.core)
    draft, design, node = evaluator.recall((_template, *given), lambda: _template(*given))
    begun = draft.model_copy(update={"wash": aim.finish.wash, "drying": aim.finish.drying})
    wish = Wish(aim.measure, aim.value, _feel(node, aim), aim.thinnest)
    spun = evaluator.spin_to(node, aim.finish, wish, aim.hands, aim.run)
    judged = _with_colours(evaluator, spun.judged, design, aim) if spun.judged else None
    found = Candidate(name, STARTS[name].words, begun, design, given, spun.knobs, spun.hindrances, judged)
    return _with_enough(found, judged, aim) if judged else found


def _with_colours(evaluator: Evaluator, judged: Judged, design: Design, aim: Aim) -> Judged:
    """Return a candidate with its colours as they come of the very lot, where that has several."""
    lot = aim.lot
    colours = colours_of_lot(lot) if lot else []
    if lot is None or len(colours) < 2:
        return judged
    told = bands_of_lot(lot, {each: place for place, each in enumerate(colours)}).of(
        aim.grams or lot.grams or LOT_GRAMS
    )
    key = (kept_of, judged.made.node, lot.model_dump_json(), told.whole)
    kept = evaluator.recall(key, lambda: kept_of(judged.made, design.yarn, told, len(colours)))
    before = judged.merits["colours"]
    merit = Merit(min(kept, 1.0), before.inputs | {"kept": kept})
    return replace(judged, merits=judged.merits | {"colours": merit})


def _with_enough(found: Candidate, judged: Judged, aim: Aim) -> Candidate:
    """Return a candidate with metres and grams, and with what the fibre in hand falls short of."""
    waste, tex = aim.waste, judged.finished_tex * _share_in_hand(judged)
    made = float(metres_made(aim.grams, tex, waste)) if aim.grams else None
    metres = aim.metres or made or USUAL_METRES
    hindrances = found.hindrances
    if made is not None and made < metres:
        hindrances, metres = (*hindrances, Hindrance("grams", made, metres)), made
    return replace(found, hindrances=hindrances, metres=metres, grams=float(grams_needed(metres, tex, waste)))


def _share_in_hand(judged: Judged) -> float:
    """Return the share of a yarn that is spun of the fibre in hand: neither a core nor a binder is."""
    whole, *inner = judged.levels
    match whole.node:
        case CoreSpun() | Wrapped():
            return 1 - inner[0].grams_per_100_m / whole.grams_per_100_m
        case Single() | Bought() | Ply() | Chain():
            return 1.0


def usual_factor(fibre: str, prep: Prep, draw: Draw) -> Range:
    """Return the usual range of the twist factor of a single of the fibre in hand."""
    return Single(fibre_said(fibre), prep, draw, BASE_TEX, Turns(BASE_TURNS)).usual_factor


def _feel(node: Node, aim: Aim) -> Knobs:
    """Return the knobs of twist and lay that make a structure feel as it should.

    The turns that wind a wrap round a core stand as they are for what is usual in the middle.
    """
    usual = usual_factor(aim.fibre, aim.prep, aim.draw)
    stands_for = sum(usual) / 2 if wrap_of(node) else float(twist_factor(BASE_TURNS, BASE_TEX))
    laid = node.twist.multiple if isinstance(node.twist, OfBalanced) else None
    return Knobs(twist=float(factor_for(aim.firm, usual)) / stands_for, lay=aim.ratio / laid if laid else 1.0)


def _on_core(begun: Draft, core: Core | None) -> Draft:
    """Return a starting point wrapped or wound round a strand in hand, if there is one."""
    if core is None:
        return begun
    held = fresh("bought", size=f"{core.tex:.4g} tex", nature=core.nature, direction="S")

    def take(_: Address, part: Part) -> Part:
        match part.kind:
            case "core-spun":
                return part.with_inner((held,))
            case "wrapped":
                return part.with_inner((held, part.inner[1]))
            case "single" | "bought" | "ply" | "chain":
                return part

    return replaced(begun, take)


def _template(
    name: str, fibre: str, prep: Prep, draw: Draw, colours: tuple[str, ...], run: float, core: Core | None
) -> tuple[Draft, Design, Node]:
    """Return a starting point in the fibre and the colours in hand: each strand begins with the next colour.

    A core stays what it is, unless one in hand is to be used.
    """
    begun = _on_core(start(name), core)
    spun = [path for path, part in parts(begun.yarn) if part.kind in ("single", "core-spun") and not path.in_core]

    def dress(path: Address, part: Part) -> Part:
        if path not in spun:
            return part
        turn = spun.index(path) % len(colours)
        coloured = {"colours": " ".join((*colours[turn:], *colours[:turn])), "run": f"{run / 1000:.4g} m"}
        return part.with_typed({"fibre": fibre, "prep": prep, "draw": draw, **coloured})

    draft = replaced(begun, dress)
    design = design_of(draft, _PLAIN)
    return draft, design, structure_of(design.yarn)
