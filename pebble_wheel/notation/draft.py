"""A yarn while it is being built: the tree of its parts with every field as typed, and the design it means."""

from collections.abc import Callable, Iterator, Mapping
from typing import Annotated, Any, Literal, TypeVar, get_args

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from pebble_wheel.mechanics.fibre.packing import Draw, Prep, usual_draw
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.strand.layout import EVEN
from pebble_wheel.mechanics.strand.single import tex_of_firm_thread
from pebble_wheel.mechanics.strand.structure import Hand, Locks, Nature
from pebble_wheel.mechanics.wash.bloom import Blocking, Drying, Wash
from pebble_wheel.notation.address import WHOLE, Address, parted
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.colour import UNDYED
from pebble_wheel.notation.design import (
    MOST_DEPTH,
    MOST_STRANDS,
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    Direction,
    FibreModel,
    FinishModel,
    NodeModel,
    PlyModel,
    SingleModel,
    TwistModel,
    WrapModel,
    WrappedModel,
    inner_of,
    new_design,
    parse_json,
)
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.spinning import TWIST_BY, read_spinning
from pebble_wheel.notation.units import read_length, read_size, read_twist

Read = TypeVar("Read")
Kind = Literal["single", "bought", "ply", "chain", "core-spun", "wrapped"]

_SPUN = {"fibre": "corriedale", "prep": "combed", "draw": "short", "size": "100 tex"}
_IN_HAND = {"nature": "smooth", "fibre": "", "size": "50 tex", "thick": ""}
_TURNED = {"by": "turns", "twist": "220 t/m", "found": ""}
_COLOURED = {"colours": UNDYED, "run": "2 m"}
_LAID = {"by": "balance", "twist": "1.0", "direction": "S"}

FIELDS: dict[Kind, dict[str, str]] = {
    "single": {**_SPUN, **_TURNED, "direction": "Z", **_COLOURED, "count": "1"},
    "bought": {**_IN_HAND, "twist": "450 t/m", "direction": "Z", **_COLOURED, "count": "1"},
    "ply": {**_LAID, "share": f"{EVEN:g}", "count": "1"},
    "chain": {"loop": "160 mm", **_LAID, "count": "1"},
    "core-spun": {
        "by": "turns",
        "twist": "175 t/m",
        "direction": "S",
        "fibre": "corriedale",
        "prep": "carded",
        "size": "800 tex",
        "width": "10 mm",
        "pressed": "even",
        "locks": "none",
        "covers": "100",
        **_COLOURED,
        "count": "1",
    },
    "wrapped": {"overfeed": "2.2", "by": "turns", "twist": "200 t/m", "direction": "Z", "count": "1"},
}
"""What can be typed for each kind of part, and what a fresh one holds."""

COLOUR_FIELDS = ("colours", "run")

INNER: dict[Kind, tuple[str, ...]] = {
    "single": (),
    "bought": (),
    "ply": (),
    "chain": ("strand",),
    "core-spun": ("core",),
    "wrapped": ("binder", "wrapper"),
}
"""The names of what a part is laid from; a ply has strands by number instead."""

_FIELD_OF_PLACE = {
    "tex": "size",
    "strip_tex": "size",
    "strip_width_mm": "width",
    "turns_per_m": "twist",
    "of_balanced": "twist",
    "loop_mm": "loop",
    "diameter_mm": "thick",
    "colour_run_m": "run",
    "colour_lengths_m": "run",
    "tension_share": "share",
    "strands": "count",
    "hand": "pressed",
}

_CHOICES: dict[str, tuple[str, ...]] = {
    "prep": get_args(Prep),
    "draw": get_args(Draw),
    "direction": get_args(Direction),
    "nature": get_args(Nature),
    "pressed": get_args(Hand),
    "locks": get_args(Locks),
}


def _ways_of_twist(kind: Kind) -> tuple[str, ...]:
    return TWIST_BY if kind == "single" else ("turns", "balance")


class Part(BaseModel):
    """One strand of the tree: what was typed for it, and what it is laid from."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    kind: Kind
    typed: dict[str, Annotated[str, Field(max_length=2000)]] = {}
    inner: tuple["Part", ...] = ()
    apart: Annotated[str, Field(max_length=20)] = ""
    """Of one that was made unlike on purpose, a word that no other has: it changes with none."""

    def of(self, field: str) -> str:
        """Return what stands in a field."""
        return self.typed.get(field, FIELDS[self.kind].get(field, ""))

    def with_typed(self, typed: Mapping[str, str]) -> "Part":
        """Return the part with other entries in the fields it has."""
        own = {field: value for field, value in typed.items() if field in FIELDS[self.kind]}
        return self.model_copy(update={"typed": {**self.typed, **own}})

    def with_inner(self, inner: tuple["Part", ...]) -> "Part":
        """Return the part laid from others."""
        return self.model_copy(update={"inner": inner})

    @property
    def count(self) -> int:
        """How many such strands its ply holds; 1 where what was typed is no number."""
        text = self.of("count").strip()
        return max(int(text), 1) if text.isdecimal() and len(text) < 4 else 1

    @property
    def colours(self) -> tuple[str, ...]:
        """The colours typed, in their order along it; undyed where none is."""
        return tuple(self.of("colours").lower().replace(",", " ").split()) or (UNDYED,)

    def names(self) -> list[str]:
        """Return the name, as in the design file, of each part it is laid from."""
        if self.kind == "ply":
            return [f"strands[{index}]" for index in range(len(self.inner))]
        return list(INNER[self.kind])


class Draft(BaseModel):
    """A whole yarn while it is being built."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    name: Annotated[str, Field(max_length=2000)] = "A first yarn"
    wash: Annotated[str, Field(max_length=20)] = "snap"
    drying: Annotated[str, Field(max_length=20)] = "free"
    mill_ironed: bool = False
    blocking: Annotated[str, Field(max_length=20)] = "none"
    again: bool = False
    warm: bool = False
    hung_grams: float | None = None
    hung_rounds: int | None = None
    yarn: Part


def fresh(kind: Kind, inner: tuple[Part, ...] = (), /, **typed: str) -> Part:
    """Return a new part."""
    return Part(kind=kind, typed={**FIELDS[kind], **typed}, inner=inner)


def parts(part: Part, path: Address = WHOLE) -> Iterator[tuple[Address, Part]]:
    """Yield every part with its path in the design file, the whole first."""
    yield path, part
    for name, inner in zip(part.names(), part.inner, strict=True):
        yield from parts(inner, path.inner(name))


def part_at(draft: Draft, path: str) -> Part:
    """Return the part at a path.

    Raises:
        KeyError: where there is none.
    """
    first, *names = path.split(".")
    if first != WHOLE:
        raise KeyError(path)
    part = draft.yarn
    for name in names:
        part = dict(zip(part.names(), part.inner, strict=True))[name]
    return part


def replaced(draft: Draft, change: Callable[[Address, Part], Part]) -> Draft:
    """Return the draft with every part as ``change(path, part)`` gives it, innermost first."""
    return draft.model_copy(update={"yarn": _replaced(draft.yarn, WHOLE, change)})


def _replaced(part: Part, path: Address, change: Callable[[Address, Part], Part]) -> Part:
    inner = tuple(
        _replaced(each, path.inner(name), change) for name, each in zip(part.names(), part.inner, strict=True)
    )
    return change(path, part.with_inner(inner))


MOST_PARTS = 4 * MOST_STRANDS
"""That a draft may hold while it is being built; a design of more strands than may be is told so beside it."""


def too_many(draft: Draft) -> bool:
    """Return whether a draft holds more parts than one may."""
    return sum(1 for _ in parts(draft.yarn)) > MOST_PARTS


def read_draft(text: str) -> Draft:
    """Return the draft that a page sent back.

    Raises:
        InputError: where it is none.
    """
    try:
        draft = _CHECKED.validate_json(text)
        if not _sound(draft.yarn, 1) or too_many(draft):
            raise InputError(Fault("yarn", "this is not a yarn that this page could have made"))
    except (ValidationError, RecursionError) as error:
        raise InputError(Fault("yarn", "this is not a yarn that this page could have made")) from error
    return draft


def _sound(part: Part, depth: int) -> bool:
    fits = len(part.inner) >= 1 if part.kind == "ply" else len(part.inner) == len(INNER[part.kind])
    return fits and depth <= 2 * MOST_DEPTH and all(_sound(each, depth + 1) for each in part.inner)


_CHECKED = TypeAdapter(Draft)


def write_draft(draft: Draft) -> str:
    """Return the draft as text for :func:`read_draft`."""
    return draft.model_dump_json()


def place_of(place: str) -> tuple[Address, str]:
    """Return the path of the part and the field that a fault's place belongs to; no path for the yarn's own fields."""
    path, rest = parted(place)
    last = rest.rpartition(".")[2]
    if not path:
        return path, last
    last = last.partition("[")[0]
    return path, _FIELD_OF_PLACE.get(last, last)


def design_of(draft: Draft, settings: Settings) -> Design:
    """Return the design that a draft means.

    Raises:
        InputError: with every fault; its place is the path of the part and the field, or ``name`` and the like.
    """
    faults: list[Fault] = []
    for field, choices in (
        ("wash", get_args(Wash)),
        ("drying", get_args(Drying)),
        ("blocking", get_args(Blocking)),
    ):
        _choose(faults, field, getattr(draft, field), choices)
    yarn = _node(draft.yarn, WHOLE, settings, faults)
    if faults:
        raise InputError(*faults)
    try:
        finish = FinishModel.model_validate({field: getattr(draft, field) for field in FinishModel.model_fields})
        return new_design(draft.name.strip(), yarn, finish)
    except InputError as error:
        raise in_fields(error) from None
    except ValidationError as error:
        raise InputError(*(Fault(str(each["loc"][0]), each["msg"]) for each in error.errors())) from None


def in_fields(error: InputError) -> InputError:
    """Return the faults of a design file as those of the fields that were typed."""
    places = [place_of(fault.place) for fault in error.faults]
    named = [f"{path}.{field}".strip(".") for path, field in places]
    return InputError(*(Fault(place, fault.message) for place, fault in zip(named, error.faults, strict=True)))


def _node(part: Part, path: Address, settings: Settings, faults: list[Fault]) -> dict[str, Any]:
    """Return the node of a design file that a part means, as far as its fields can be read."""

    def read(field: str, how: Callable[[str, str], Read]) -> Read | None:
        try:
            return how(part.of(field), f"{path}.{field}")
        except InputError as error:
            faults.extend(error.faults)
            return None

    node: dict[str, Any] = {"kind": part.kind}
    inner = [
        _node(each, path.inner(name), settings, faults) for name, each in zip(part.names(), part.inner, strict=True)
    ]
    if part.kind == "ply":
        node |= {"strands": inner}
    else:
        node |= dict(zip(INNER[part.kind], inner, strict=True))
    for field, choices in _CHOICES.items():
        if field in FIELDS[part.kind]:
            _choose(faults, f"{path}.{field}", part.of(field), choices)
    if "by" in FIELDS[part.kind]:
        _choose(faults, f"{path}.by", part.of("by"), _ways_of_twist(part.kind))
    if part.kind != "single":
        node |= {"twist": read("twist", lambda text, place: _twist(part, text, settings, place))}
    node |= _own(part, path, settings, read, faults)
    if path.place is not None:
        node |= {"count": read("count", _whole)}
    return node


def _own(
    part: Part, path: Address, settings: Settings, read: Callable[..., Any], faults: list[Fault]
) -> dict[str, Any]:
    """Return what only this kind of part has."""

    def small(text: str, place: str) -> float:
        return read_length(text, settings.small_unit, place)

    match part.kind:
        case "single":
            own = _fibre(part, path, faults) | {"draw": part.of("draw")}
            return own | _spun(part, path, settings, faults) | _colours(part, read, settings)
        case "bought":
            own = {"tex": read("size", lambda text, place: _thread_tex(text, settings, place))}
            thick = {"diameter_mm": read("thick", small)} if part.of("thick").strip() else {}
            thick |= {"nature": part.of("nature")} if part.of("nature") != "smooth" else {}
            thick |= {"fibre": _fibre(part, path, faults)["fibre"]} if part.of("fibre") else {}
            return own | thick | _colours(part, read, settings)
        case "chain":
            return {"loop_mm": read("loop", small)}
        case "core-spun":
            wrap = _fibre(part, path, faults) | _colours(part, read, settings)
            wrap |= {"strip_tex": read("size", lambda text, place: _weighed(text, settings, place))}
            wrap |= {"strip_width_mm": read("width", small)}
            covers = read("covers", _percent)
            told = {"hand": part.of("pressed")} if part.of("pressed") != "even" else {}
            told |= {"locks": part.of("locks")} if part.of("locks") != "none" else {}
            return {"wrap": wrap | told | ({"covers": covers} if covers != 1 else {})}
        case "wrapped":
            return {"overfeed": read("overfeed", read_number)}
        case "ply":
            return {"tension_share": read("share", read_number)}


def _percent(text: str, place: str) -> float:
    number = read_number(text.strip().removesuffix("%"), place)
    if not LEAST_COVERED <= number <= 100:
        raise InputError(Fault(place, f"must lie between {LEAST_COVERED:g} and 100 %, not {number:g}"))
    return number / 100


LEAST_COVERED = 1.0
"""% of a core."""


def _choose(faults: list[Fault], place: str, value: str, choices: tuple[str, ...]) -> None:
    if value not in choices:
        faults.append(Fault(place, f"choose one of {', '.join(choices)}"))


def _twist(part: Part, text: str, settings: Settings, place: str) -> dict[str, Any]:
    direction = {"direction": part.of("direction")}
    if part.kind == "bought" or part.of("by") == "turns":
        return {"turns_per_m": read_twist(text, settings.twist, place), **direction}
    return {"of_balanced": read_number(text.strip().removesuffix("×").removesuffix("x"), place), **direction}


def _spun(part: Part, path: Address, settings: Settings, faults: list[Fault]) -> dict[str, Any]:
    """Return size and twist of a single."""
    try:
        spun = read_spinning(part.of, settings, path)
    except InputError as error:
        faults.extend(error.faults)
        return {}
    twist = {"turns_per_m": spun.turns_per_m, "direction": part.of("direction")}
    return {"tex": spun.tex, "twist": twist} | ({"tex_off": spun.tex_off} if spun.tex_off else {})


def _whole(text: str, place: str) -> int:
    try:
        return int(text.strip())
    except ValueError:
        raise InputError(Fault(place, f"'{text.strip()[:40]}' is not a whole number")) from None


def _fibre(part: Part, path: str, faults: list[Fault]) -> dict[str, Any]:
    """Return fibre and preparation; a fibre given in place is typed as its JSON."""
    fibre: Any = part.of("fibre")
    if fibre.startswith("{"):
        try:
            fibre = parse_json(fibre.encode())
        except InputError as error:
            faults.extend(Fault(f"{path}.fibre", fault.message) for fault in error.faults)
    elif fibre not in FIBRES:
        faults.append(Fault(f"{path}.fibre", f"choose one of {', '.join(FIBRES)}"))
    return {"fibre": fibre, "prep": part.of("prep")}


def _colours(part: Part, read: Callable[..., Any], settings: Settings) -> dict[str, Any]:
    """Return the colours along a strand, and how long each runs where there are several."""
    if len(part.colours) < 2:
        return {"colours": list(part.colours)}
    several = part.of("run").split()
    if len(several) > 2:
        lengths = read("run", lambda text, place: _runs(text, len(part.colours), settings, place))
        return {"colours": list(part.colours), "colour_lengths_m": lengths}
    run = read("run", lambda text, place: read_length(text, settings.long_unit, place))
    return {"colours": list(part.colours), "colour_run_m": run and run / 1000}


def _runs(text: str, many: int, settings: Settings, place: str) -> list[float]:
    """Return the metres of strand in each colour: ``4 2.5 4 m``."""
    pieces = text.split()
    unit = pieces.pop() if pieces[-1].isalpha() else settings.long_unit
    if len(pieces) != many:
        raise InputError(Fault(place, f"give one length for all {many} colours, or one for each, like 4 2.5 m"))
    return [read_length(f"{each} {unit}", unit, place) / 1000 for each in pieces]


def _thread_tex(text: str, settings: Settings, place: str) -> float:
    size = read_size(text, settings.size, place, settings)
    return float(tex_of_firm_thread(size.diameter_mm)) if size.diameter_mm is not None else size.tex or 1.0


def _weighed(text: str, settings: Settings, place: str) -> float:
    size = read_size(text, settings.size, place, settings)
    if size.tex is None:
        raise InputError(Fault(place, "give the drafted strip by weight, like 400 tex or 2.5 m/100 g"))
    return size.tex


def draft_of(design: Design) -> Draft:
    """Return the draft of a design; reading it gives the same design."""
    return Draft(name=design.name, yarn=_part(design.yarn), **design.finish.model_dump())


def _part(model: NodeModel) -> Part:
    typed = {**_twist_typed(model.twist), "count": str(model.count)}
    match model:
        case SingleModel():
            typed |= {
                "prep": model.prep,
                "draw": model.draw or usual_draw(model.prep),
                "size": f"{_exact(model.tex)} tex" + _off_typed(model.tex_off),
            }
            typed |= _fibre_typed(model.fibre) | _colours_typed(model)
        case BoughtModel():
            thick = "" if model.diameter_mm is None else f"{_exact(model.diameter_mm)} mm"
            typed |= {"size": f"{_exact(model.tex)} tex", "thick": thick, "nature": model.nature or "smooth"}
            typed |= _fibre_typed(model.fibre) if model.fibre else {}
            typed |= _colours_typed(model)
        case PlyModel():
            typed |= {"share": _exact(model.tension_share)}
        case ChainModel():
            typed |= {"loop": f"{_exact(model.loop_mm)} mm"}
        case CoreSpunModel():
            wrap = model.wrap
            typed |= {
                "prep": wrap.prep,
                "size": f"{_exact(wrap.strip_tex)} tex",
                "width": f"{_exact(wrap.strip_width_mm)} mm",
                "pressed": wrap.hand or "even",
                "locks": wrap.locks or "none",
                "covers": _exact(100 * (wrap.covers or 1.0)),
            }
            typed |= _fibre_typed(wrap.fibre) | _colours_typed(wrap)
        case WrappedModel():
            typed |= {"overfeed": _exact(model.overfeed)}
    known = {field: value for field, value in typed.items() if field in FIELDS[model.kind]}
    return fresh(model.kind, tuple(_part(inner) for _, inner in inner_of(model)), **known)


def _exact(value: float) -> str:
    """Return a number as short as it can be written without losing any of it."""
    short = f"{value:.12g}"
    return short if float(short) == value else repr(value)


def _off_typed(off: float | None) -> str:
    """Return how far a size may be off as it is typed; the percentage that reads as the same number."""
    if not off:
        return ""
    percent = f"{100 * off:.12g}"
    return f" ± {percent if float(percent) / 100 == off else repr(100 * off)} %"


def _twist_typed(twist: TwistModel) -> dict[str, str]:
    if twist.of_balanced is not None:
        return {"by": "balance", "twist": _exact(twist.of_balanced), "direction": twist.direction}
    return {"by": "turns", "twist": f"{_exact(twist.turns_per_m or 0.0)} t/m", "direction": twist.direction}


def _fibre_typed(fibre: str | FibreModel) -> dict[str, str]:
    return {"fibre": fibre if isinstance(fibre, str) else fibre.model_dump_json(exclude_none=True)}


def _colours_typed(model: SingleModel | BoughtModel | WrapModel) -> dict[str, str]:
    typed = {"colours": " ".join(model.colours or [UNDYED])}
    if model.colour_lengths_m:
        return typed | {"run": f"{' '.join(_exact(each) for each in model.colour_lengths_m)} m"}
    return typed | ({"run": f"{_exact(model.colour_run_m)} m"} if model.colour_run_m else {})
