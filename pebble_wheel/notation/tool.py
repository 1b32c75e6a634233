"""What a person makes yarn with: treadle wheels, motor spinners, spindles and bobbins, as typed and as kept."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal, NoReturn, cast, get_args

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from pebble_wheel.mechanics.making.tools import counted_speed
from pebble_wheel.notation.amounts import plain, read_number, read_ratio
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length, read_mass

Kind = Literal["wheel", "motor", "spindle", "bobbins"]
Treadles = Literal["single", "double"]
Drive = Literal["flyer-lead", "bobbin-lead", "double"]
Seen = Literal["above", "below"]
"""From which end of a spindle one looks at its turning."""

LEAST_RATIO, MOST_RATIO, MOST_RATIOS = 0.5, 60.0, 20
MOST_BOBBINS, WIDEST = 200, 500.0
"""Of one sort, and mm."""
FEWEST_MARKS, MOST_MARKS, MOST_COUNTED, MOST_PLACE = 2, 5, 1000.0, 1000.0
MOST_TURNS = 200.0
"""Of one flick or roll."""

TOOL_FIELDS: dict[str, str] = {
    "kind": "wheel",
    "name": "",
    "ratios": "",
    "treadles": "double",
    "drive": "flyer-lead",
    "orifice": "",
    **{f"mark-{place}": "" for place in range(1, MOST_MARKS + 1)},
    **{f"count-{place}": "" for place in range(1, MOST_MARKS + 1)},
    "roll": "",
    "flick": "",
    "seen": "above",
    "size": "",
    "many": "",
    "empty": "",
}
"""What can be typed of a tool, and what a new one holds; each kind reads its own."""

Name = Annotated[str, Field(min_length=1, max_length=60)]
Length = Annotated[float, Field(gt=0, le=WIDEST)]
Ratio = Annotated[float, Field(ge=LEAST_RATIO, le=MOST_RATIO)]
Turns = Annotated[float, Field(gt=0, le=MOST_TURNS)]


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    name: Name


class WheelModel(_Model):
    """A treadle wheel."""

    kind: Literal["wheel"]
    ratios: Annotated[list[Ratio], Field(min_length=1, max_length=MOST_RATIOS)]
    """By whorl: turns of what is driven, for one turn of the wheel."""
    treadles: Treadles
    drive: Drive
    orifice_mm: Length | None = None


class MarkModel(BaseModel):
    """Turns that were counted at a place of a dial."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    at: Annotated[float, Field(ge=0, le=MOST_PLACE)]
    turns_per_min: Annotated[float, Field(gt=0)]


class MotorModel(_Model):
    """A motor spinner, whose dial was calibrated by counting."""

    kind: Literal["motor"]
    marks: Annotated[list[MarkModel], Field(min_length=FEWEST_MARKS, max_length=MOST_MARKS)]
    """Rising."""
    orifice_mm: Length | None = None


class SpindleModel(_Model):
    """A spindle."""

    kind: Literal["spindle"]
    roll: Turns | None = None
    """Turns of one roll on the thigh."""
    flick: Turns | None = None
    """Turns of one flick of the fingers, until it is caught."""
    seen: Seen


class BobbinsModel(_Model):
    """Bobbins of one size."""

    kind: Literal["bobbins"]
    outer_mm: Length
    """Over the flanges."""
    core_mm: Length
    width_mm: Length
    empty_g: Annotated[list[Annotated[float, Field(ge=0, le=1e5)]], Field(min_length=1, max_length=MOST_BOBBINS)]
    """Of each."""


ToolModel = WheelModel | MotorModel | SpindleModel | BobbinsModel
_CHECKED: TypeAdapter[ToolModel] = TypeAdapter(Annotated[ToolModel, Field(discriminator="kind")])


def check_tool(text: str) -> ToolModel:
    """Return a tool as it was kept.

    Raises:
        InputError: where it is none.
    """
    try:
        return _CHECKED.validate_json(text)
    except ValidationError as error:
        raise InputError(*(Fault(".".join(map(str, each["loc"])), each["msg"]) for each in error.errors())) from None


def read_tool(typed: Mapping[str, str], settings: Settings) -> ToolModel:
    """Return a tool as it was typed.

    Raises:
        InputError: with every fault at its field.
    """
    form = Form(typed, TOOL_FIELDS)
    kind = cast(Kind, form.one_of("kind", get_args(Kind)))
    name = form.text("name")[:60]
    if not name:
        form.faults.append(Fault("name", "give it a name you will know it by"))
    told: dict[str, Any] = {"kind": kind, "name": name}
    match kind:
        case "wheel":
            told |= {
                "ratios": list(form.read("ratios", read_ratios) or ()),
                "treadles": form.one_of("treadles", get_args(Treadles)),
                "drive": form.one_of("drive", get_args(Drive)),
                "orifice_mm": _orifice(form, settings),
            }
            _wanted(form, "ratios", bool(told["ratios"]), "give its ratios, a whorl each, like 6 9 12")
        case "motor":
            told |= {"marks": _marks(form), "orifice_mm": _orifice(form, settings)}
            enough = len(told["marks"]) >= FEWEST_MARKS
            _wanted(form, "count-1", enough, "count the turns at two marks of the dial at least")
        case "spindle":
            told |= {name: form.read(name, _mean) for name in ("roll", "flick")}
            told["seen"] = form.one_of("seen", get_args(Seen))
            _wanted(form, "roll", bool(told["roll"] or told["flick"]), "count the turns of a roll or a flick, thrice")
        case "bobbins":
            told |= _bobbins(form, settings)
    form.refuse()
    return _CHECKED.validate_python(told)


def _wanted(form: Form, place: str, there: bool, message: str) -> None:
    if not there and not form.faults:
        form.faults.append(Fault(place, message))


def _orifice(form: Form, settings: Settings) -> float | None:
    return form.read("orifice", lambda text, place: _length(text, settings, place))


def _length(text: str, settings: Settings, place: str) -> float:
    mm = read_length(text, settings.small_unit, place)
    return _within(0.1, WIDEST, mm, place)


def _marks(form: Form) -> list[dict[str, float]]:
    """Return the marks that were counted, by where they are; those with the same place count once, the last."""
    found: dict[float, float] = {}
    for place in range(1, MOST_MARKS + 1):
        at = form.read(f"mark-{place}", lambda text, field: _within(0, MOST_PLACE, read_number(text, field), field))
        turns = form.read(
            f"count-{place}", lambda text, field: _within(1, MOST_COUNTED, read_number(text, field), field)
        )
        if turns is not None:
            found[place if at is None else at] = float(counted_speed(turns))
    return [{"at": float(at), "turns_per_min": found[at]} for at in sorted(found)]


def _mean(text: str, place: str) -> float:
    """Return the mean of what was counted several times: ``13 14 15``."""
    each = [_within(0.1, MOST_TURNS, read_number(piece, place), place) for piece in text.replace(",", " ").split()]
    return sum(each) / len(each)


def _bobbins(form: Form, settings: Settings) -> dict[str, Any]:
    size = form.read("size", lambda text, place: _size(text, settings, place))
    many = form.read("many", lambda text, place: int(_within(1, MOST_BOBBINS, read_number(text, place), place))) or 1
    empty = form.read("empty", lambda text, place: _masses(text, settings, place)) or [0.0]
    _wanted(form, "size", size is not None, "give flange, shaft and width, like 120 x 30 x 90 mm")
    if len(empty) not in (1, many):
        form.faults.append(Fault("empty", f"say what one weighs, or what each of the {many} does, not {len(empty)}"))
    outer, core, width = size or (0.0, 0.0, 0.0)
    return {
        "outer_mm": outer,
        "core_mm": core,
        "width_mm": width,
        "empty_g": empty * many if len(empty) == 1 else empty,
    }


def _masses(text: str, settings: Settings, place: str) -> list[float]:
    """Return what bobbins weigh: ``52 g``, or one for each: ``52 54 51 g``."""
    pieces = plain(text).replace(",", " ").replace(";", " ").split()
    unit = pieces.pop() if len(pieces) > 1 and pieces[-1].isalpha() else settings.mass
    return [
        read_mass(each if any(letter.isalpha() for letter in each) else f"{each} {unit}", unit, place)
        for each in pieces
    ]


def _size(text: str, settings: Settings, place: str) -> tuple[float, float, float]:
    """Return the size of a bobbin, written like ``120 x 30 x 90 mm``: flanges, shaft, width."""
    pieces = [each.strip() for each in plain(text).lower().replace("/", "x").split("x")]
    unit = pieces[-1].lstrip("0123456789., ").strip() or settings.small_unit
    if len(pieces) != 3:
        _refuse(place, "give flange, shaft and width, like 120 x 30 x 90 mm")
    outer, core, width = (
        read_length(each if any(letter.isalpha() for letter in each) else f"{each} {unit}", unit, place)
        for each in pieces
    )
    if not 0 < core < outer <= WIDEST or not 0 < width <= WIDEST:
        _refuse(place, "a bobbin is wider over its flanges than its shaft, and no larger than half a metre")
    return outer, core, width


def read_ratios(text: str, place: str = "ratios") -> tuple[float, ...]:
    """Return wheel ratios, written like ``6 9 12``, ``6:1, 9:1`` or ``1:6``.

    Raises:
        InputError: where they cannot be read.
    """
    each = text.replace(" :", ":").replace(": ", ":").replace(",", " ").replace(";", " ").split()
    found = tuple(sorted({_within(LEAST_RATIO, MOST_RATIO, read_ratio(piece, place), place) for piece in each}))
    if not found or len(found) > MOST_RATIOS:
        _refuse(place, "give the ratios of your wheel, like 6 9 12")
    return found


def _within(low: float, high: float, number: float, place: str) -> float:
    if not low <= number <= high:
        _refuse(place, f"must lie between {low:g} and {high:g}, not {number:g}")
    return number


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message)) from None
