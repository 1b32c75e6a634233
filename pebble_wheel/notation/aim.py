"""What a spinner aims for, as typed."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, get_args

from pydantic import ValidationError

from pebble_wheel.mechanics.backwards.merits import Aspect, Hands
from pebble_wheel.mechanics.backwards.solve import Measure
from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.making.amounts import WASTE
from pebble_wheel.mechanics.strand.single import tex_of_firm_thread
from pebble_wheel.mechanics.strand.structure import Nature
from pebble_wheel.mechanics.wash.bloom import Drying, Finish, Wash
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.design import fibre_said
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.lot import LotModel
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import Stage, read_length, read_mass, read_size

Colouring = Literal["either", "keep", "blend"]

STAGES: tuple[Stage, ...] = ("finished", "plied")
ASPECTS: tuple[Aspect, ...] = get_args(Aspect)
RANKED = tuple(aspect for aspect in ASPECTS if aspect != "colours")
"""What is ranked by as much as it matters; whether colours are kept is asked apart."""

MOST_WEIGHT = 3
LEAST_RATIO, MOST_RATIO = 0.9, 1.35
"""Ends of the way from quiet to elastic, ply twist over balance; what is typed may lie beyond."""

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
    "core": "",
    "core_nature": "hairy",
    "made_on": "",
    "wash": "snap",
    "drying": "free",
    **{f"matter-{aspect}": "0" for aspect in RANKED},
    "matter-round": "2",
    "matter-elastic": "2",
    "matter-wear": "1",
}
"""What can be typed, and what a fresh aim holds; besides these the colours in hand and the structures left out."""


USUAL = Hands((6.0, 9.0, 12.0))
"""Of a spinner who told of no wheel: assumed."""


@dataclass(frozen=True)
class Core:
    """A strand in hand to wrap or wind round."""

    tex: float
    nature: Nature


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
    """By its id, or as its JSON gives it."""
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
    core: Core | None = None
    """What is wrapped or wound round, where one in hand is to be used."""
    lot: LotModel | None = None
    """Of which it is spun, where that is in hand."""
    own_waste: float | None = None
    """Share of the fibre that is lost on the way, where it is known of this very fibre."""

    @property
    def waste(self) -> float:
        """Share of the fibre that is lost on the way."""
        return WASTE[self.prep] if self.own_waste is None else self.own_waste


def read_aim(typed: Mapping[str, str], colours: tuple[str, ...], settings: Settings, hands: Hands = USUAL) -> Aim:
    """Return the aim that was typed, to be made by somebody's hands.

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
        size = read_size(text, "wpi", place, settings)
        finished = typed.get("stage", "finished") == "finished"
        if size.diameter_mm is not None:
            return ("finished diameter" if finished else "diameter"), size.diameter_mm
        return ("finished tex" if finished else "tex"), size.tex or 1.0

    def gauge(text: str, place: str) -> float:
        size = read_size(text, "wpi", place, settings)
        if size.diameter_mm is None:
            raise InputError(Fault(place, "give the thinnest single by its gauge, like 40 wpi or 0.5 mm"))
        return size.diameter_mm

    def core(text: str, place: str) -> float:
        size = read_size(text, settings.size, place, settings)
        return float(tex_of_firm_thread(size.diameter_mm)) if size.diameter_mm is not None else size.tex or 1.0

    def maybe(how: Any) -> Any:
        return lambda text, place: how(text, place) if text.strip() else None

    measured = read("size", wanted)
    aim = {
        "firm": read("firm", _between(0, 100)),
        "ratio": read("ratio", _between(0.5, 2)),
        "fibre": read("fibre", _fibre),
        "prep": read("prep", _one_of(get_args(Prep))),
        "draw": read("draw", _one_of(get_args(Draw))),
        "stage": read("stage", _one_of(get_args(Stage))),
        "run": read("run", lambda text, place: _run(read_length(text, settings.long_unit, place), place)),
        "thinnest": read("thinnest", maybe(gauge)),
        "core": read("core", maybe(core)),
        "core_nature": read("core_nature", _one_of(get_args(Nature))),
        "wash": read("wash", _one_of(get_args(Wash))),
        "drying": read("drying", _one_of(get_args(Drying))),
        "grams": read("grams", maybe(lambda text, place: read_mass(text, settings.mass, place))),
        "metres": read("metres", maybe(lambda text, place: read_length(text, settings.long_unit, place))),
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
        hands=hands,
        finish=Finish(aim["wash"], aim["drying"]),
        grams=aim["grams"],
        metres=aim["metres"] and aim["metres"] / 1000,
        core=Core(aim["core"], aim["core_nature"]) if aim["core"] else None,
    )


def weights_of(typed: Mapping[str, str]) -> dict[Aspect, float]:
    """Return how much each merit matters; what cannot be read does not. Colours to be blended weigh against."""
    weights: dict[Aspect, float] = {}
    for aspect in ASPECTS:
        text = typed.get(f"matter-{aspect}", FIELDS.get(f"matter-{aspect}", "0"))
        weights[aspect] = float(text) if text in {str(each) for each in range(MOST_WEIGHT + 1)} else 0.0
    weights["colours"] = {"keep": 2.0, "blend": -2.0}.get(typed.get("colouring", "either"), 0.0)
    return weights


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


def _fibre(text: str, place: str) -> str:
    """Return a fibre by its id, or as its JSON gives it."""
    try:
        fibre_said(text)
    except (KeyError, ValidationError):
        raise InputError(Fault(place, f"choose one of {', '.join(FIBRES)}, or a lot in hand")) from None
    return text
