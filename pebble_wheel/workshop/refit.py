"""A draft with its knobs turned, and what if: some readings held, one moved, and the rest of the draft follows."""

from collections.abc import Iterable
from dataclasses import dataclass
from math import degrees, radians, sqrt, tan

from pebble_wheel.mechanics.backwards.solve import Handle, Knobs, NoSuchYarnError
from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    walk,
)
from pebble_wheel.notation.draft import Draft, Part, design_of, replaced
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.spinning import follows, respun, twist_text
from pebble_wheel.notation.units import read_size
from pebble_wheel.workshop.evaluator import Evaluator

KNOBS_THAT_MATTER = 3
STEEPEST = 75.0
"""Degrees; far past jamming."""

FILL_UP: tuple[Handle, ...] = ("size", "ratio", "twist", "angle")
"""What is held where a person holds too little to leave one answer."""


def refitted(draft: Draft, knobs: Knobs, settings: Settings) -> Draft:
    """Return the draft with every size and twist as its knobs have them, on four figures; see ``solve.turned``.

    Raises:
        InputError: where the draft is no design.
    """
    design = design_of(draft, settings)
    models = {path: model for path, _, model in walk(design.yarn)}
    size, twist = float(knobs.size), float(knobs.twist)
    thicker = sqrt(size)

    def turn(path: Address, part: Part) -> Part:
        model = models[path]
        if isinstance(model, BoughtModel) or path.in_core:
            return part
        lay = float(knobs.lay) if path == "yarn" else 1.0
        typed: dict[str, str] = {}
        turns = 0.0
        if model.twist.of_balanced is not None:
            typed["twist"] = f"{model.twist.of_balanced * lay:.4g}"
        else:
            turns = (model.twist.turns_per_m or 0.0) * twist * lay / thicker
            typed["twist"] = twist_text(turns, settings)
        match model:
            case SingleModel():
                tex = model.tex * size
                typed |= {
                    "size": f"{tex:.4g} tex",
                    **respun(follows(part.of("by"), part.of("twist")), turns, tex, settings),
                }
            case CoreSpunModel():
                typed["size"] = f"{model.wrap.strip_tex * size:.4g} tex"
                typed["width"] = f"{model.wrap.strip_width_mm * thicker:.4g} mm"
            case PlyModel() | ChainModel() | WrappedModel():
                pass  # sized by its strands
        return part.with_typed(typed)

    return replaced(draft, turn)


@dataclass(frozen=True)
class Held:
    """A reading that can be held or moved, at what it stands."""

    handle: Handle
    value: float
    """Finished diameter [mm], twist factor, angle from the axis [degrees], or ratio."""


def readings_to_hold(evaluator: Evaluator, reading: Reading) -> tuple[Held, ...]:
    """Return the readings of a yarn that can be held or moved."""
    single = next(iter(reading.singles.values()), None)
    values: dict[Handle, float] = {
        "size": INCH / reading.wpi_finished.p50,
        "twist": single.twist_factor if single else 0.0,
        "angle": abs(degrees(reading.levels[0].angle)),
        "ratio": reading.balance.ratio,
    }
    return tuple(Held(each, values[each]) for each in evaluator.handles(reading) if values[each] > 0)


def moved(
    evaluator: Evaluator, draft: Draft, name: str, typed: str, holding: Iterable[str], settings: Settings
) -> Draft:
    """Return the draft with one reading moved to what was typed, others held, and sizes and twists following.

    Raises:
        InputError: where the value cannot be read, too much is held, or no such yarn can be made; placed at
            ``if-`` and the reading. Where the draft itself is no yarn, at its own fields.
    """
    place = f"if-{name}"
    design = design_of(draft, settings)
    reading = evaluator.read(design)
    known = {each.handle: each.value for each in readings_to_hold(evaluator, reading)}
    handle = next((each for each in known if each == name), None)
    if handle is None:
        raise InputError(Fault(place, "this yarn has no such reading to move"))
    wanted: dict[Handle, float] = {handle: _factor(handle, typed, known[handle], place, settings)}
    held = [each for each in known if each in set(holding) and each != handle]
    matter = min(len(known), KNOBS_THAT_MATTER)
    if len(held) >= matter:
        raise InputError(Fault(place, f"{len(held)} are held already: let one go, so that something can follow"))
    for each in (*held, *FILL_UP):
        if each in known and len(wanted) < matter:
            wanted.setdefault(each, 1.0)
    try:
        knobs = evaluator.hold(design, reading, wanted)
    except NoSuchYarnError as error:
        if error.full:
            raise InputError(Fault(place, "the strands would be full of turns; nothing was changed")) from None
        raise InputError(Fault(place, "no size and twist of these strands does that; nothing was changed")) from None
    return refitted(draft, knobs, settings)


def _factor(handle: Handle, typed: str, now: float, place: str, settings: Settings) -> float:
    """Return by what a reading is to change; of an angle, its tangent."""
    if handle == "size":
        size = read_size(typed, "wpi", place, settings)
        if size.diameter_mm is None:
            raise InputError(Fault(place, "give wraps or thickness, like 12 wpi or 2 mm"))
        return size.diameter_mm / now
    if handle == "angle":
        angle = read_number(typed.replace("°", ""), place)
        from_axis = 90 - angle if settings.angle_from == "crosswise" else angle
        if not 0 < from_axis < STEEPEST:
            raise InputError(Fault(place, "no ply leans so"))
        return tan(radians(from_axis)) / tan(radians(now))
    number = read_number(typed.replace("×", ""), place)
    if not 0 < number < 10 * now:
        raise InputError(Fault(place, f"{number:g} is beyond any yarn like this; it stands at {now:.3g}"))
    return number / now
