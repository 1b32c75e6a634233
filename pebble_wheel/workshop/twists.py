"""How a single's twist is said, and said anew in another way: by character, factor, turns, treadles or ply-back."""

from contextlib import suppress
from dataclasses import replace
from math import sqrt

from scipy.optimize import brentq

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.strand.single import turns_for_factor
from pebble_wheel.mechanics.strand.structure import Single, Turns
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import SingleModel, structure_of, walk
from pebble_wheel.notation.draft import Draft, Part, design_of, parts, replaced
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.spinning import IN_WORDS, twist_text
from pebble_wheel.notation.units import read_twist
from pebble_wheel.workshop.evaluator import Evaluator

USUAL_RATIO, USUAL_DRAFT = 7.0, 600.0
"""Of a wheel, and of a draft [mm], where treadles are first counted (assumed)."""

ROUNDS = 4
LOOSEST_FACTOR, TIGHTEST_FACTOR = 2.0, 150.0
"""Between which a single's twist is looked for by its ply-back."""


def retold(evaluator: Evaluator, before: Draft, draft: Draft, settings: Settings) -> Draft:
    """Return a draft in which the twist of a single is said in another way than before, with the twist it had.

    A ply-back says what twist its single has; that is found here, and anew whenever anything of it changes.
    """
    was = dict(parts(before.yarn))
    now = {path: part for path, part in parts(draft.yarn) if part.kind == "single"}
    otherwise = {path for path, part in now.items() if _says_otherwise(part, was.get(path, part))}
    models: dict[Address, SingleModel] = {}
    if otherwise:
        with suppress(InputError):  # which stands beside its field: what was typed stays
            models = dict(_singles(before, settings))

    def say(path: Address, part: Part) -> Part:
        if path in otherwise and path in models:
            part = part.with_typed({"twist": _twist_as(part.of("by"), evaluator, models[path], part, settings)})
        return _with_found(evaluator, part, settings) if path in now and part.of("by") == "fold" else part

    return replaced(draft, say)


def _says_otherwise(part: Part, old: Part) -> bool:
    return part.of("by") != old.of("by") and part.of("twist") == old.of("twist")


def _singles(draft: Draft, settings: Settings) -> list[tuple[Address, SingleModel]]:
    return [(path, model) for path, _, model in walk(design_of(draft, settings).yarn) if isinstance(model, SingleModel)]


def _twist_as(by: str, evaluator: Evaluator, model: SingleModel, part: Part, settings: Settings) -> str:
    """Return the twist of a single as it is typed when it is said by this."""
    turns = model.twist.turns_per_m or 0.0
    match by:
        case "factor":
            return f"{turns * sqrt(model.tex) / 100:.3g}"
        case "treadles":
            draft = USUAL_DRAFT if not settings.inches else 24 * INCH
            length = f"{draft / INCH:g} in" if settings.inches else f"{draft / 10:g} cm"
            return f"{turns * draft / 1000 / USUAL_RATIO:.3g} at {USUAL_RATIO:g}:1 in {length}"
        case "fold":
            node = structure_of(model)
            assert isinstance(node, Single)
            return twist_text(evaluator.fold_of(node), settings)
        case _:
            return part.of("twist") if by in IN_WORDS else twist_text(turns, settings)


def _with_found(evaluator: Evaluator, part: Part, settings: Settings) -> Part:
    """Return a single with the turns that its ply-back says, as far as that can be read.

    A gauge says another linear density at other turns, so it is looked for anew a few times.
    """
    guess = part.with_typed({"by": "usual", "count": "1"})
    found = ""
    try:
        fold = read_twist(part.of("twist"), settings.twist)
        for _ in range(ROUNDS):
            ((_, model),) = _singles(Draft(yarn=guess), settings)
            found = _turns_of_fold(evaluator, model, fold)
            if not found:
                break
            guess = guess.with_typed({"by": "turns", "twist": found})
    except InputError:
        found = ""
    return part.with_typed({"found": found})


def _turns_of_fold(evaluator: Evaluator, model: SingleModel, fold: float) -> str:
    """Return the twist of a single that plies back so, as it is typed; empty where none does."""
    node = structure_of(model)
    assert isinstance(node, Single)

    def over(turns: float) -> float:
        return evaluator.fold_of(replace(node, twist=Turns(turns))) - fold

    low, high = (float(turns_for_factor(each, model.tex)) for each in (LOOSEST_FACTOR, TIGHTEST_FACTOR))
    if over(low) > 0 or over(high) < 0:
        return ""
    return f"{brentq(over, low, high, xtol=0.01):.5g} t/m"
