"""Questions to practise the eye by: a yarn drawn at random by a number, whose truth the mechanics know."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import assert_never, cast

import numpy as np

from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.learning.eye import Eye, Taken, eye_of, taken_for
from pebble_wheel.mechanics.learning.noise import EYE
from pebble_wheel.mechanics.learning.practice import Answered, Standing, standing_of
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.wash.resting import hidden_by_rest
from pebble_wheel.notation.design import Design, new_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.practice import MOST_SEED, Asked, Practised, Resting, Way, miss, off
from pebble_wheel.workshop.evaluator import Evaluator

SPUN_OF = ("merino", "corriedale", "bfl", "romney", "shetland", "polwarth", "alpaca", "wensleydale")
DYED = ("#b3562f", "#31507a", "#8fae4b", "#d9b23f", "#7b2f3c", "#5f7f9d", "#cfd6d2", "#8a4b2d", "#2f6f6b")
FINE_TEX, THICK_TEX = (22.0, 60.0), (110.0, 300.0)
TOLD_APART = ("#d9b23f", "#31507a", "#b3562f", "#cfd6d2", "#2f6f6b", "#7b2f3c")
"""Of the strands of a yarn whose plies were to be counted: light and dark by turns."""

RATIOS: dict[Resting, tuple[float, float]] = {"under": (0.5, 0.78), "balanced": (0.985, 1.015), "over": (1.3, 1.7)}
"""Of chosen over balanced ply twist."""

RESTED, LONGEST = 0.4, 60.0
"""Share of the loops that hang of rested yarn, and the most hours that it rested."""

TRIES, SHARE_OF_PHOTOS = 40, 0.3
"""To draw a fair question; and of one's own photos among questions that can be asked of one."""

MOST_SEEN = 5
"""Plies: of six one lies in the middle, where nobody sees it."""

USUAL_WRAPS = (0.15, 0.15)
"""Bias and spread of wraps guessed at life size, logarithms: assumed."""

PREPS: tuple[Prep, ...] = ("combed", "semi", "carded")


OF_PHOTOS: tuple[Practised, ...] = ("way", "angle")
"""What can be asked of an own photo."""


@dataclass(frozen=True)
class OwnPhoto:
    """A photo of one's own in which way and angle were measured."""

    id: int
    uid: str
    width: int
    height: int
    way: Way
    angle: float
    """Of its strands' centre-lines, degrees from the axis."""
    at: tuple[float, float]
    """Middle of the yarn in it [pixels]."""
    along: float
    """By which the yarn falls to the right [degrees]."""


@dataclass(frozen=True)
class Question:
    """A yarn, and what is true of it."""

    asked: Asked
    design: Design | None
    """None of a photo."""
    truth: str
    photo: OwnPhoto | None = None
    rested_hours: float = 0.0
    """Of the yarn in whose loop it hangs; 0 where that is fresh."""
    loop_turns: float = 0.0
    """Of its loop as it hangs, Z positive."""
    loop_fresh: float = 0.0
    """Of the same fresh."""
    way: Way = "S"
    """Of the yarn's last step."""


def question_of(asked: Asked, evaluator: Evaluator, photos: Sequence[OwnPhoto] = ()) -> Question:
    """Return the question of a number: always the same.

    Args:
        asked: the number, and of what kind.
        evaluator: as for anybody.
        photos: one's own.

    Raises:
        InputError: where it names none that can be drawn, or a photo that is not there.
    """
    if asked.photo is not None:
        photo = next((each for each in photos if each.id == asked.photo), None)
        if photo is None or asked.kind not in OF_PHOTOS:
            raise InputError(Fault("asked", "this photo is not there any more"))
        return Question(asked, None, photo.way if asked.kind == "way" else f"{photo.angle:.4g}", photo, way=photo.way)
    like = "angle" if asked.kind == "other" else asked.kind  # the same yarn in both conventions
    rng = np.random.default_rng([asked.seed, int(asked.fine), *like.encode()])
    for _ in range(TRIES):
        wanted = _choice(rng, ("under", "balanced", "over"))
        design, count = _drawn(rng, asked, cast(Resting, wanted) if asked.kind == "balance" else None)
        try:
            reading = evaluator.read(design)
        except InputError:
            continue
        found = _asked_of(asked, design, reading, count, rng)
        if found is not None:
            return found
    raise InputError(Fault("asked", "no yarn can be drawn of this number"))


def _drawn(rng: np.random.Generator, asked: Asked, resting: Resting | None) -> tuple[Design, int]:
    fibre, prep = FIBRES[_choice(rng, SPUN_OF)], PREPS[int(rng.integers(len(PREPS)))]
    count = int(rng.integers(2, 1 + (MOST_SEEN if asked.kind == "plies" else 4)))
    low, high = FINE_TEX if asked.fine else THICK_TEX
    tex = float(np.exp(rng.uniform(math.log(low), math.log(high)))) / (count / 2) ** 0.5
    factor = float(rng.uniform(*fibre.factor))
    way = _choice(rng, ("S", "Z"))
    ratio = float(rng.uniform(*(RATIOS[resting] if resting else (0.7, 1.5))))
    one = asked.kind in ("plies", "way", "prep", "wraps") or rng.random() < 0.3
    dyes = [_choice(rng, DYED)] * count if one else [_choice(rng, DYED) for _ in range(count)]
    strands = [
        {
            **{"kind": "single", "fibre": fibre.id, "prep": prep, "tex": round(tex, 1), "colours": [dye]},
            "twist": {"turns_per_m": round(100 * factor / tex**0.5), "direction": "Z" if way == "S" else "S"},
        }
        for dye in dyes
    ]
    twist = {"of_balanced": round(ratio, 3), "direction": way}
    return new_design("practice", {"kind": "ply", "strands": strands, "twist": twist}), count


def _asked_of(asked: Asked, design: Design, reading: Reading, count: int, rng: np.random.Generator) -> Question | None:
    """Return what is asked of a yarn; None where it would not be a fair question."""
    way: Way = "Z" if reading.levels[0].angle > 0 else "S"
    match asked.kind:
        case "way":
            return Question(asked, design, way, way=way)
        case "angle" | "other":
            return Question(asked, design, f"{math.degrees(abs(reading.levels[0].angle)):.4g}", way=way)
        case "wraps":
            return Question(asked, design, f"{float(wraps_per_inch(reading.levels[0].diameter)):.4g}", way=way)
        case "plies":
            return Question(asked, design, str(count), way=way)
        case "prep":
            strand = design.model_dump()["yarn"]["strands"][0]
            return Question(asked, design, strand["prep"], way=way)
        case "balance":
            return _hung(asked, design, reading, way, rng)
        case _:
            assert_never(asked.kind)


def _hung(asked: Asked, design: Design, reading: Reading, way: Way, rng: np.random.Generator) -> Question | None:
    """Return the question of a loop, which may hang of yarn that has rested: it shows less than there is."""
    fresh = reading.balance.loop_turns
    ratio = reading.balance.ratio or 1.0
    truth: Resting = "under" if ratio < 0.9 else "over" if ratio > 1.15 else "balanced"
    hours = float(rng.uniform(12, LONGEST)) if rng.random() < RESTED else 0.0
    shown = fresh * (1 - float(hidden_by_rest(hours)))
    if (truth == "balanced") != (abs(shown) < 1.0):
        return None
    return Question(asked, design, truth, None, float(round(hours)), shown, fresh, way)


def told_apart(design: Design) -> Design:
    """Return a yarn with every ply in a colour of its own."""
    told = design.model_dump(exclude_none=True)
    strands = told["yarn"]["strands"]
    for place, strand in enumerate(strands):
        strand["colours"] = [TOLD_APART[place % len(TOLD_APART)]]
    return new_design(design.name, told["yarn"])


def _choice(rng: np.random.Generator, several: tuple[str, ...]) -> str:
    return several[int(rng.integers(len(several)))]


@dataclass(frozen=True)
class Skill:
    """What is practised: a kind, on fine yarn or on thick."""

    kind: Practised
    fine: bool


SKILLS: tuple[Skill, ...] = tuple(
    Skill(kind, fine)
    for kind in ("way", "angle", "other", "balance", "wraps", "plies", "prep")
    for fine in (False, True)
)


@dataclass(frozen=True)
class Tried:
    """An answer with its truth."""

    skill: Skill
    truth: str
    given: str
    at: datetime

    @property
    def off(self) -> float:
        """By how much it was off; see ``practice.off``."""
        return off(self.skill.kind, self.truth, self.given)


def standings_of(tried: list[Tried], now: datetime) -> dict[Skill, Standing]:
    """Return how every skill stands."""
    found: dict[Skill, list[Answered]] = {each: [] for each in SKILLS}
    for each in tried:
        bad = miss(each.skill.kind, each.truth, each.given)
        found[each.skill].append(Answered(each.at.timestamp() / DAY, bad))
    return {skill: standing_of(own, now.timestamp() / DAY) for skill, own in found.items()}


DAY = 86_400.0


def eye_for(kind: Practised, tried: list[Tried], now: datetime) -> Eye:
    """Return how an eye reads a figure."""
    own = [each for each in tried if each.skill.kind == kind]
    bias, spread = USUAL_WRAPS if kind == "wraps" else (EYE.bias, EYE.scatter)
    return eye_of([each.off for each in own], bias, spread, [(now - each.at).total_seconds() / DAY for each in own])


def taken_of(kind: Practised, fine: bool | None, tried: list[Tried]) -> Taken:
    """Return how often an eye takes one for another; on fine yarn, on thick, or on both."""
    own = [each for each in tried if each.skill.kind == kind and fine in (None, each.skill.fine)]
    return taken_for(sum(each.off for each in own), len(own))


def questions(skills: Sequence[Skill], photos: Sequence[int], rng: np.random.Generator) -> list[Asked]:
    """Return a question for each skill; where both conventions are practised, of the same yarn.

    Args:
        skills: of a round.
        photos: numbers of one's own, of which some are asked.
        rng: by which they are drawn.
    """
    found: list[Asked] = []
    for skill in skills:
        seed = int(rng.integers(0, MOST_SEED))
        if skill.kind in OF_PHOTOS and photos and rng.random() < SHARE_OF_PHOTOS:
            found.append(Asked(skill.kind, skill.fine, seed, photos[seed % len(photos)]))
            continue
        pair = {"angle": "other", "other": "angle"}.get(skill.kind)
        taken = {each.seed for each in found if each.kind == skill.kind}
        both = [each.seed for each in found if each.kind == pair and each.fine == skill.fine and each.photo is None]
        found.append(Asked(skill.kind, skill.fine, next((each for each in both if each not in taken), seed)))
    return found
