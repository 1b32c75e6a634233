"""What a spinner aims for, as typed, and every structure that could be spun to it, the best first."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Literal, get_args

from pebble_wheel.mechanics.backwards.merits import Aspect, Hands, Judged, Merit, judge
from pebble_wheel.mechanics.backwards.solve import Hindrance, Knobs, Measure, Wish, factor_for, fit
from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import FIBRES, Range
from pebble_wheel.mechanics.making.amounts import WASTE, grams_needed, metres_made
from pebble_wheel.mechanics.making.wheel import TREADLES_PER_MINUTE
from pebble_wheel.mechanics.strand.single import twist_factor
from pebble_wheel.mechanics.strand.structure import CoreSpun, Node, OfBalanced, Rod, Single, Turns, Wrapped
from pebble_wheel.mechanics.wash.bloom import Drying, Finish, Wash
from pebble_wheel.notation.design import Design, structure_of
from pebble_wheel.notation.draft import UNDYED, Draft, Part, design_of, parts, replaced
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length, read_mass, read_number, read_size
from pebble_wheel.workshop.answer import IN_TURN
from pebble_wheel.workshop.refit import refitted
from pebble_wheel.workshop.starts import STARTS, start

Stage = Literal["finished", "plied"]
Colouring = Literal["either", "keep", "blend"]

ASPECTS = get_args(Aspect)
MOST_WEIGHT = 3

FIELDS: dict[str, str] = {
    "size": "12 wpi",
    "stage": "finished",
    "firm": "35",
    "ratio": "1.00",
    "fibre": "corriedale",
    "prep": "combed",
    "draw": "short",
    "grams": "",
    "metres": "",
    "run": "4 m",
    "colouring": "either",
    "thinnest": "",
    "ratios": "6 9 12",
    "pace": f"{TREADLES_PER_MINUTE:.0f}",
    "wash": "snap",
    "drying": "free",
    **{f"matter-{aspect}": "0" for aspect in ASPECTS if aspect != "colours"},
    "matter-round": "2",
    "matter-elastic": "2",
    "matter-wear": "1",
}
"""What can be typed, and what a fresh aim holds; besides these the colours in hand and the structures left out."""

USUAL_METRES = 100.0
"""Reckoned with where neither grams nor metres are given."""

BASE_TURNS, BASE_TEX = 220.0, 100.0
"""Of the singles that most starting points have; some have a little more or less twist factor, and keep that share."""

_PLAIN = Settings()


@dataclass(frozen=True)
class Aim:
    """What is aimed for."""

    measure: Measure
    value: float
    """mm or tex."""
    firm: float
    """0 the softest, 1 the firmest."""
    ratio: float
    """Of the whole, to its balance."""
    fibre: str
    prep: Prep
    draw: Draw
    colours: tuple[str, ...]
    run: float
    """Length of strand in one colour, mm."""
    thinnest: float
    """Bobbin diameter, mm; 0 for any."""
    hands: Hands
    finish: Finish
    grams: float | None
    """In hand."""
    metres: float | None
    """Wanted."""


@dataclass(frozen=True)
class Candidate:
    """A structure spun to an aim, or as near to it as can be."""

    name: str
    words: str
    begun: Draft
    """The starting point in the fibre and colours in hand."""
    begun_design: Design
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


def read_aim(typed: Mapping[str, str], colours: tuple[str, ...], settings: Settings) -> Aim:
    """Return the aim that was typed.

    Raises:
        InputError: with every fault, placed at its field.
    """
    faults: list[Fault] = []

    def read(field: str, how: Any) -> Any:
        try:
            return how(typed.get(field, FIELDS[field]), field)
        except InputError as error:
            faults.extend(error.faults)
            return None

    def wanted(text: str, place: str) -> tuple[Measure, float]:
        size = read_size(text, "wpi", place, settings.wraps(1.0))
        finished = typed.get("stage", "finished") == "finished"
        if size.diameter_mm is not None:
            return ("finished diameter" if finished else "diameter"), size.diameter_mm
        return ("finished tex" if finished else "tex"), size.tex or 1.0

    def gauge(text: str, place: str) -> float:
        size = read_size(text, "wpi", place, settings.wraps(1.0))
        if size.diameter_mm is None:
            raise InputError(Fault(place, "give the thinnest single by its gauge, like 40 wpi or 0.5 mm"))
        return size.diameter_mm

    def maybe(how: Any) -> Any:
        return lambda text, place: how(text, place) if text.strip() else None

    small, mass, long = ("yd", "oz", "yd") if settings.imperial else ("m", "g", "m")
    measured = read("size", wanted)
    aim = {
        "firm": read("firm", _between(0, 100)),
        "ratio": read("ratio", _between(0.5, 2)),
        "fibre": read("fibre", _one_of(tuple(FIBRES))),
        "prep": read("prep", _one_of(get_args(Prep))),
        "draw": read("draw", _one_of(get_args(Draw))),
        "stage": read("stage", _one_of(get_args(Stage))),
        "run": read("run", lambda text, place: _run(read_length(text, small, place), place)),
        "thinnest": read("thinnest", maybe(gauge)),
        "ratios": read("ratios", _ratios),
        "pace": read("pace", _between(5, 300)),
        "wash": read("wash", _one_of(get_args(Wash))),
        "drying": read("drying", _one_of(get_args(Drying))),
        "grams": read("grams", maybe(lambda text, place: read_mass(text, mass, place))),
        "metres": read("metres", maybe(lambda text, place: read_length(text, long, place))),
    }
    if faults:
        raise InputError(*faults)
    measure, value = measured
    return Aim(
        measure=measure,
        value=value,
        firm=aim["firm"] / 100,
        ratio=aim["ratio"],
        fibre=aim["fibre"],
        prep=aim["prep"],
        draw=aim["draw"],
        colours=colours or (UNDYED,),
        run=aim["run"],
        thinnest=aim["thinnest"] or 0.0,
        hands=Hands(aim["ratios"], aim["pace"]),
        finish=Finish(aim["wash"], aim["drying"]),
        grams=aim["grams"],
        metres=aim["metres"] and aim["metres"] / 1000,
    )


def weights_of(typed: Mapping[str, str]) -> dict[Aspect, float]:
    """Return how much each merit matters; what cannot be read does not. Colours to be blended weigh against."""
    weights: dict[Aspect, float] = {}
    for aspect in ASPECTS:
        text = typed.get(f"matter-{aspect}", FIELDS.get(f"matter-{aspect}", "0"))
        weights[aspect] = float(text) if text in {str(each) for each in range(MOST_WEIGHT + 1)} else 0.0
    weights["colours"] = {"keep": 2.0, "blend": -2.0}.get(typed.get("colouring", "either"), 0.0)
    return weights


def candidates(aim: Aim, weights: Mapping[Aspect, float], without: frozenset[str] = frozenset()) -> list[Candidate]:
    """Return every structure spun to an aim: those that meet it by what matters, then the others by the same."""
    found = [_candidate(aim, name) for name in STARTS if name not in without]
    scored = [replace(each, score=_score(each.judged.merits, weights) if each.judged else 0.0) for each in found]
    return sorted(scored, key=lambda each: (not each.met, each.judged is None, -each.score))


def _score(merits: Mapping[Aspect, Merit], weights: Mapping[Aspect, float]) -> float:
    """Return the mean of what matters, weighted; of all where nothing does."""
    weights = weights if any(weights.values()) else dict.fromkeys(weights, 1.0)
    total = sum(abs(weight) for weight in weights.values())
    scores = {each: merits[each].score if weight > 0 else 1 - merits[each].score for each, weight in weights.items()}
    return sum(abs(weights[each]) * scores[each] for each in weights) / total


@lru_cache(maxsize=512)
def _candidate(aim: Aim, name: str) -> Candidate:
    draft, design, node = _template(name, aim.fibre, aim.prep, aim.draw, aim.colours, aim.run)
    begun = draft.model_copy(update={"wash": aim.finish.wash, "drying": aim.finish.drying})
    with IN_TURN:
        fitted = fit(node, aim.finish, Wish(aim.measure, aim.value, _feel(node, aim), aim.thinnest), Rod())
        judged = judge(fitted.made, aim.finish, Rod(), aim.hands, aim.run, fitted.varied) if fitted.made else None
    found = Candidate(name, STARTS[name][0], begun, design, fitted.knobs, fitted.hindrances, judged)
    return _with_enough(found, judged, aim) if judged else found


def _with_enough(found: Candidate, judged: Judged, aim: Aim) -> Candidate:
    """Return a candidate with metres and grams, and with what the fibre in hand falls short of."""
    waste, tex = WASTE[aim.prep], judged.finished_tex * _share_in_hand(judged)
    made = float(metres_made(aim.grams, tex, waste)) if aim.grams else None
    metres = aim.metres or made or USUAL_METRES
    hindrances = found.hindrances
    if made is not None and made < metres:
        hindrances, metres = (*hindrances, Hindrance("grams", made, metres)), made
    return replace(found, hindrances=hindrances, metres=metres, grams=float(grams_needed(metres, tex, waste)))


def _share_in_hand(judged: Judged) -> float:
    """Return the share of a yarn that is spun of the fibre in hand: neither a core nor a binder is."""
    whole, *inner = judged.levels
    if isinstance(whole.node, CoreSpun | Wrapped):
        return 1 - inner[0].grams_per_100_m / whole.grams_per_100_m
    return 1.0


def usual_factor(fibre: str, prep: Prep, draw: Draw) -> Range:
    """Return the usual range of the twist factor of a single of the fibre in hand."""
    return Single(FIBRES[fibre], prep, draw, BASE_TEX, Turns(BASE_TURNS)).usual_factor


def _feel(node: Node, aim: Aim) -> Knobs:
    """Return the knobs of twist and lay that make a structure feel as it should.

    The turns that wind a wrap round a core stand as they are for what is usual in the middle.
    """
    usual = usual_factor(aim.fibre, aim.prep, aim.draw)
    stands_for = sum(usual) / 2 if isinstance(node, CoreSpun) else float(twist_factor(BASE_TURNS, BASE_TEX))
    laid = node.twist.multiple if isinstance(node.twist, OfBalanced) else None
    return Knobs(twist=float(factor_for(aim.firm, usual)) / stands_for, lay=aim.ratio / laid if laid else 1.0)


@lru_cache(maxsize=512)
def _template(
    name: str, fibre: str, prep: Prep, draw: Draw, colours: tuple[str, ...], run: float
) -> tuple[Draft, Design, Node]:
    """Return a starting point in the fibre and the colours in hand: each strand begins with the next colour.

    A core stays what it is.
    """
    begun = start(name)
    spun = [path for path, part in parts(begun.yarn) if part.kind in ("single", "core-spun") and ".core" not in path]

    def dress(path: str, part: Part) -> Part:
        if path not in spun:
            return part
        turn = spun.index(path) % len(colours)
        coloured = {"colours": " ".join((*colours[turn:], *colours[:turn])), "run": f"{run / 1000:.4g} m"}
        return part.with_typed({"fibre": fibre, "prep": prep, "draw": draw, **coloured})

    draft = replaced(begun, dress)
    design = design_of(draft, _PLAIN)
    return draft, design, structure_of(design.yarn)


def _between(low: float, high: float) -> Any:
    def read(text: str, place: str) -> float:
        number = read_number(text, place)
        if not low <= number <= high:
            raise InputError(Fault(place, f"must lie between {low:g} and {high:g}, not {number:g}"))
        return number

    return read


def _run(mm: float, place: str) -> float:
    if not 10 <= mm <= 1e7:
        raise InputError(Fault(place, "a colour runs between a centimetre and 10 km"))
    return mm


def _one_of(choices: tuple[str, ...]) -> Any:
    def read(text: str, place: str) -> str:
        if text not in choices:
            raise InputError(Fault(place, f"choose one of {', '.join(choices)}"))
        return text

    return read


def _ratios(text: str, place: str) -> tuple[float, ...]:
    """Return wheel ratios, written like ``6 9 12`` or ``6:1, 9:1``."""
    each = [piece.removesuffix(":1") for piece in text.replace(",", " ").replace(";", " ").split()]
    found = tuple(sorted({_between(0.5, 60)(piece, place) for piece in each}))
    if not found or len(found) > 20:
        raise InputError(Fault(place, "give the ratios of your wheel, like 6 9 12"))
    return found
