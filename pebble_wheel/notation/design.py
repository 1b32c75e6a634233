"""The design file, versions 1 and 2, which may change along its length: strict, with the place of every fault.

The models mirror the file; :func:`structure_of` turns them into the tree the mechanics work on.
"""

import json
import unicodedata
from collections.abc import Iterator
from typing import Annotated, Any, Literal, NoReturn

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Discriminator,
    Field,
    Tag,
    ValidationError,
    model_validator,
)

from pebble_wheel.mechanics.fibre.packing import Draw, Prep, usual_draw
from pebble_wheel.mechanics.fibre.table import FIBRES, MEDIUM, Family, Fibre
from pebble_wheel.mechanics.strand.layout import EVEN
from pebble_wheel.mechanics.strand.single import firm_thread
from pebble_wheel.mechanics.strand.structure import (
    Bought,
    Chain,
    CoreSpun,
    Hand,
    Locks,
    Member,
    Nature,
    Node,
    OfBalanced,
    Ply,
    Single,
    Turns,
    Wrap,
    Wrapped,
)
from pebble_wheel.mechanics.wash.bloom import Blocking, Drying, Finish, Wash
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.colour import Colour
from pebble_wheel.notation.faults import Fault, InputError

MOST_BYTES = 1_000_000
MOST_WHOLE = 10**15
"""Of whole numbers, to be said in full."""
MOST_DEPTH = 6
MOST_STRANDS = 64

Direction = Literal["S", "Z"]
SIGN: dict[Direction, int] = {"Z": 1, "S": -1}

KINDS = ("single", "bought", "ply", "chain", "core-spun", "wrapped")


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False, frozen=True)


class TwistModel(_Strict):
    """``turns_per_m`` as made, or ``of_balanced``; with a direction."""

    turns_per_m: Annotated[float, Field(gt=0, le=20_000)] | None = None
    of_balanced: Annotated[float, Field(gt=0, le=10)] | None = None
    direction: Direction

    @model_validator(mode="after")
    def _one_of(self) -> "TwistModel":
        if (self.turns_per_m is None) == (self.of_balanced is None):
            raise ValueError("give either turns_per_m or of_balanced")
        return self

    def times(self, by: float) -> "TwistModel":
        """Return so many times the twist, on four figures."""
        if self.of_balanced is not None:
            return self.model_copy(update={"of_balanced": float(f"{self.of_balanced * by:.4g}")})
        return self.model_copy(update={"turns_per_m": float(f"{(self.turns_per_m or 0.0) * by:.4g}")})


class ShareModel(_Strict):
    """One fibre of a blend."""

    fibre: str
    share: Annotated[float, Field(gt=0, le=1)]


class FibreModel(_Strict):
    """A fibre given in place, with the fields of the fibre table."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    density: Annotated[float, Field(ge=0.5, le=3)]
    micron: Annotated[list[Annotated[float, Field(ge=1, le=500)]], Field(min_length=2, max_length=2)]
    staple: Annotated[list[Annotated[float, Field(ge=1, le=5000)]], Field(min_length=2, max_length=2)]
    crimp: Annotated[list[Annotated[float, Field(ge=0, le=50)]], Field(min_length=2, max_length=2)] | None = None
    bloom: Annotated[float, Field(ge=0, le=1)]
    family: Family | None = None
    """Wool where it is left out."""
    factor: Annotated[list[Annotated[float, Field(ge=1, le=100)]], Field(min_length=2, max_length=2)] | None = None
    """Usual tex twist factor; that of medium wool where it is left out."""
    shares: Annotated[list[ShareModel], Field(min_length=2, max_length=12)] | None = None
    """Of a blend, by mass."""
    lot: Annotated[str, Field(min_length=1, max_length=64)] | None = None
    """The lot in hand that it is, by its uid."""


Count = Annotated[int, Field(ge=1, le=MOST_STRANDS)]
Colours = Annotated[list[Colour], Field(min_length=1, max_length=200)]
FibreField = str | FibreModel
Lengths = Annotated[list[Annotated[float, Field(gt=0, le=10_000)]], Field(min_length=1, max_length=200)]
"""Metres of strand in each of its colours, where they are not alike."""
Run = Annotated[float, Field(ge=0.01, le=10_000)]
"""Metres of strand in one run of colour."""

USUAL_RUN_M = 2.0
"""Where several colours are given and no length for them: assumed."""


class SingleModel(_Strict):
    """One drafted strand, as spun."""

    kind: Literal["single"]
    fibre: FibreField
    prep: Prep
    draw: Draw | None = None
    tex: Annotated[float, Field(ge=0.5, le=50_000)]
    tex_off: Annotated[float, Field(ge=0, le=2)] | None = None
    """How far it may be off as it was measured, a standard deviation of its logarithm."""
    twist: TwistModel
    colours: Colours | None = None
    colour_run_m: Run | None = None
    colour_lengths_m: Lengths | None = None
    count: Count = 1


class BoughtModel(_Strict):
    """A bought thread, at rest with its twist as bought."""

    kind: Literal["bought"]
    nature: Nature | None = None
    """Smooth where it is left out."""
    fibre: FibreField | None = None
    """What it is of, where that is known."""
    tex: Annotated[float, Field(ge=0.5, le=50_000)]
    diameter_mm: Annotated[float, Field(ge=0.01, le=50)] | None = None
    twist: TwistModel
    colours: Colours | None = None
    colour_run_m: Run | None = None
    colour_lengths_m: Lengths | None = None
    count: Count = 1


class PlyModel(_Strict):
    """Strands twisted together."""

    kind: Literal["ply"]
    strands: Annotated[list["NodeModel"], Field(min_length=1, max_length=MOST_STRANDS)]
    twist: TwistModel
    tension_share: Annotated[float, Field(ge=0, le=1)] = EVEN
    count: Count = 1


class ChainModel(_Strict):
    """Three legs of one strand, pulled loop through loop."""

    kind: Literal["chain"]
    strand: "NodeModel"
    loop_mm: Annotated[float, Field(ge=5, le=3000)]
    twist: TwistModel
    count: Count = 1


class WrapModel(_Strict):
    """Drafted fibre wound round a core."""

    fibre: FibreField
    prep: Prep
    strip_tex: Annotated[float, Field(ge=0.5, le=50_000)]
    strip_width_mm: Annotated[float, Field(ge=0.2, le=300)]
    hand: Hand | None = None
    """Even where it is left out."""
    locks: Locks | None = None
    """None where it is left out."""
    covers: Annotated[float, Field(gt=0, le=1)] | None = None
    """Share of the core that is meant to be covered; all of it where it is left out."""
    colours: Colours | None = None
    colour_run_m: Run | None = None
    colour_lengths_m: Lengths | None = None


class CoreSpunModel(_Strict):
    """Fibre wrapped round a core that passes straight through."""

    kind: Literal["core-spun"]
    core: "NodeModel"
    wrap: WrapModel
    twist: TwistModel
    count: Count = 1


class WrappedModel(_Strict):
    """A straight binder with a wrapper fed round it."""

    kind: Literal["wrapped"]
    binder: "NodeModel"
    wrapper: "NodeModel"
    overfeed: Annotated[float, Field(ge=1, le=30)]
    twist: TwistModel
    count: Count = 1


def _printable(name: str) -> str:
    if any(unicodedata.category(character) in ("Cc", "Cs") for character in name):
        raise ValueError("a name has no control characters")
    return name


NodeModel = Annotated[
    SingleModel | BoughtModel | PlyModel | ChainModel | CoreSpunModel | WrappedModel, Field(discriminator="kind")
]


class FinishModel(_Strict):
    """How the yarn is washed and dried."""

    wash: Wash = "snap"
    drying: Drying = "free"
    mill_ironed: bool = False
    """The mill pressed the crimp flat, and the fibre has not been wet since."""
    blocking: Blocking = "none"
    """In the cloth."""
    again: bool = False
    """Soaked a second time, until the water is clear."""
    warm: bool = False
    """Soaked warm, to lift grease."""
    hung_grams: Annotated[float, Field(gt=0, le=100_000)] | None = None
    """Weight hung in the skein while it dries."""
    hung_rounds: Annotated[int, Field(ge=1, le=100_000)] | None = None
    """Of the skein that it hangs in."""


Join = Literal["on", "new"]
"""How a section begins: strands run on from the one before, or are joined anew."""

MOST_SECTIONS, MOST_REPEATS = 24, 10_000


class SectionModel(_Strict):
    """A piece of a yarn that changes along its length."""

    length_mm: Annotated[float, Field(ge=1, le=1e7)]
    yarn: NodeModel | None = None
    """What it is there; the yarn of the design where that is left out."""
    join: Join = "on"


class RepeatModel(_Strict):
    """Sections that come again and again."""

    repeat: Annotated[int, Field(ge=1, le=MOST_REPEATS)]
    of: Annotated[list[SectionModel], Field(min_length=1, max_length=MOST_SECTIONS)]


def _kind_of_piece(value: Any) -> str:
    own = value.get("of") if isinstance(value, dict) else getattr(value, "of", None)
    return PIECES[0] if own is None else PIECES[1]


PIECES = ("one section", "several sections")
"""Tags by which pieces are told apart; no field is called so."""

Piece = Annotated[
    Annotated[SectionModel, Tag(PIECES[0])] | Annotated[RepeatModel, Tag(PIECES[1])], Discriminator(_kind_of_piece)
]
Sections = Annotated[list[Piece], Field(min_length=1, max_length=MOST_SECTIONS)]


class Design(_Strict):
    """A whole design file."""

    format: Literal["pebble-wheel-design"]
    version: Literal[1, 2]
    name: Annotated[str, Field(min_length=1, max_length=120), AfterValidator(_printable)] = "Untitled"
    yarn: NodeModel
    sections: Sections | None = None
    """Of one that changes along its length, from its beginning; in version 2."""
    finish: FinishModel = FinishModel()


def parse_json(data: bytes) -> Any:
    """Return the JSON value of a UTF-8 text, held to the letter.

    Raises:
        InputError: for a text too large, not UTF-8, not JSON, with NaN or Infinity, a name given twice in one
            object, or nested beyond reason.
    """
    if len(data) > MOST_BYTES:
        _refuse("", f"the text is {len(data):,} bytes; a design may have at most {MOST_BYTES:,}")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        _refuse(f"byte {error.start}", "this is not UTF-8 text; save the file as UTF-8")
    try:
        value = json.loads(text, parse_constant=_no_constant, object_pairs_hook=_no_twins)
        if "\\ud" in text.lower():
            json.dumps(value, ensure_ascii=False).encode()
        return value
    except UnicodeEncodeError:
        _refuse("", "this JSON holds half a letter: a surrogate without its other")
    except json.JSONDecodeError as error:
        _refuse(f"line {error.lineno} column {error.colno}", f"this is not JSON: {error.msg}")
    except RecursionError:
        _refuse("", "this is nested far too deep to be a design")
    except InputError:
        raise
    except ValueError as error:  # a whole number of thousands of digits
        _refuse("", f"this JSON cannot be read: {error}")


def read_design(data: bytes) -> Design:
    """Return the design in a file's bytes.

    Raises:
        InputError: with every fault and its place.
    """
    return check_design(parse_json(data))


def check_design(value: Any) -> Design:
    """Return the design of a JSON value.

    Raises:
        InputError: with every fault and its place.
    """
    depth = _depth(value)
    if depth > 4 * MOST_DEPTH + 12:  # each level of the yarn is an object, a list and its twist
        _refuse("yarn", f"the structure is deeper than {MOST_DEPTH} levels")
    try:
        design = Design.model_validate(value)
    except ValidationError as error:
        raise InputError(*_faults(error)) from None
    faults = list(_yarn_faults(design.yarn, WHOLE))
    if design.sections is not None and design.version == 1:
        faults.append(Fault("sections", "a yarn that changes along its length is of version 2"))
    for place, section in sections_in(design):
        faults += _yarn_faults(section.yarn, Address(f"{place}.yarn")) if section.yarn else ()
    if faults:
        raise InputError(*faults)
    return design


def _yarn_faults(yarn: NodeModel, path: Address) -> Iterator[Fault]:
    yield from _structure_faults(yarn, path, 1)
    if ends_of(yarn) > MOST_STRANDS:
        yield Fault(path, f"{ends_of(yarn)} strands in all; at most {MOST_STRANDS} are allowed")


def sections_in(design: Design) -> Iterator[tuple[str, SectionModel]]:
    """Yield the sections of a design once each, with their places in the file."""
    for number, piece in enumerate(design.sections or ()):
        match piece:
            case SectionModel():
                yield f"sections[{number}]", piece
            case RepeatModel():
                yield from ((f"sections[{number}].of[{place}]", each) for place, each in enumerate(piece.of))


def new_design(name: str, yarn: dict[str, Any], finish: FinishModel | None = None) -> Design:
    """Return a checked design of one structure all along; the yarn as in a file.

    Raises:
        InputError: with every fault and its place.
    """
    head = {"format": "pebble-wheel-design", "version": 1, "name": name}
    finish = finish or FinishModel()
    return check_design({**head, "yarn": yarn, "finish": finish.model_dump()})


def write_design(design: Design, close: bool = False) -> str:
    """Return the design as JSON text, a field to a line or all close together; reading it gives the same design."""
    value = design.model_dump(mode="json", exclude_none=True)
    _drop_single_counts(value["yarn"])
    for section in _written_sections(value.get("sections", [])):
        if "yarn" in section:
            _drop_single_counts(section["yarn"])
        if section["join"] == "on":
            del section["join"]
    for field, usual in (("mill_ironed", False), ("blocking", "none"), ("again", False), ("warm", False)):
        if value["finish"][field] == usual:
            del value["finish"][field]
    if close:
        return json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    return json.dumps(value, ensure_ascii=False, indent=1) + "\n"


def _written_sections(pieces: list[dict[str, Any]]) -> Iterator[dict[str, Any]]:
    for piece in pieces:
        yield from piece.get("of", [piece])


def structure_of(model: NodeModel) -> Node:
    """Return the tree that the mechanics work on: strands of a ply that are alike but for colour stand once."""
    sign = SIGN[model.twist.direction]
    if model.twist.of_balanced is not None:
        twist: Turns | OfBalanced = OfBalanced(model.twist.of_balanced, sign)
    else:
        twist = Turns(sign * float(model.twist.turns_per_m or 0.0))
    match model:
        case SingleModel():
            draw = model.draw or usual_draw(model.prep)
            off = float(model.tex_off or 0.0)
            return Single(fibre_of(model.fibre), model.prep, draw, float(model.tex), twist, size_off=off)
        case BoughtModel():
            thick = model.diameter_mm or firm_thread(model.tex)
            fibre = None if model.fibre is None else fibre_of(model.fibre)
            return Bought(float(model.tex), float(thick), twist, model.nature or "smooth", fibre)
        case PlyModel():
            return Ply(tuple(_members(model)), twist, model.tension_share)
        case ChainModel():
            return Chain(structure_of(model.strand), float(model.loop_mm), twist)
        case CoreSpunModel():
            wrap = model.wrap
            width, tex = float(wrap.strip_width_mm), float(wrap.strip_tex)
            hand, locks, covers = wrap.hand or "even", wrap.locks or "none", float(wrap.covers or 1.0)
            laid = Wrap(fibre_of(wrap.fibre), wrap.prep, tex, width, hand=hand, locks=locks, covers=covers)
            return CoreSpun(structure_of(model.core), laid, twist)
        case WrappedModel():
            return Wrapped(structure_of(model.binder), structure_of(model.wrapper), float(model.overfeed), twist)


def _members(model: PlyModel) -> list[Member]:
    counts: dict[Node, int] = {}
    for strand in model.strands:
        node = structure_of(strand)
        counts[node] = counts.get(node, 0) + strand.count
    return [Member(node, count) for node, count in counts.items()]


def finish_of(design: Design) -> Finish:
    """Return washing and drying as the mechanics take them."""
    own = design.finish
    return Finish(own.wash, own.drying, own.mill_ironed, own.blocking)


def fibre_of(fibre: str | FibreModel) -> Fibre:
    """Return a fibre of the table, or the one given in place."""
    if isinstance(fibre, str):
        return FIBRES[fibre]
    crimp = fibre.crimp or [0.0, 0.0]
    return Fibre(
        "own",
        fibre.name,
        fibre.family or "wool",
        fibre.density,
        (fibre.micron[0], fibre.micron[1]),
        (fibre.staple[0], fibre.staple[1]),
        (crimp[0], crimp[1]),
        fibre.bloom,
        (fibre.factor[0], fibre.factor[1]) if fibre.factor else MEDIUM,
        "given in place",
        tuple((FIBRES[each.fibre], each.share) for each in fibre.shares or () if each.fibre in FIBRES),
    )


def fibre_said(text: str) -> Fibre:
    """Return a fibre by its id, or as its JSON gives it.

    Raises:
        KeyError: for an id that none has.
        ValidationError: for JSON that is no fibre.
    """
    return fibre_of(FibreModel.model_validate_json(text) if text.startswith("{") else text)


def inner_of(model: NodeModel) -> list[tuple[str, NodeModel]]:
    """Return what a node is laid from, each with its name in the file."""
    match model:
        case PlyModel():
            return [(f"strands[{index}]", strand) for index, strand in enumerate(model.strands)]
        case ChainModel():
            return [("strand", model.strand)]
        case CoreSpunModel():
            return [("core", model.core)]
        case WrappedModel():
            return [("binder", model.binder), ("wrapper", model.wrapper)]
        case SingleModel() | BoughtModel():
            return []


def walk(
    model: NodeModel, path: Address = WHOLE, place: Address = WHOLE
) -> Iterator[tuple[Address, Address, NodeModel]]:
    """Yield every node, the yarn first: its path in the file, that of its like in the structure, and the node."""
    yield path, place, model
    alike: list[Node] = []
    for name, inner in inner_of(model):
        own = name
        if isinstance(model, PlyModel):
            node = structure_of(inner)
            if node not in alike:
                alike.append(node)
            own = f"strands[{alike.index(node)}]"
        yield from walk(inner, path.inner(name), place.inner(own))


def place_in_file(model: NodeModel, place: str) -> Address:
    """Return the path in the file of a node of the structure, where strands that are alike stand once."""
    return next(path for path, own, _ in walk(model) if own == place)


def ends_of(model: NodeModel) -> int:
    """Return how many strands that are not plied a node stands for, its count included."""
    inner = inner_of(model)
    return model.count * (sum(ends_of(each) for _, each in inner) if inner else 1)


def _structure_faults(model: NodeModel, path: Address, depth: int) -> Iterator[Fault]:
    if depth > MOST_DEPTH:
        yield Fault(path, f"the structure is deeper than {MOST_DEPTH} levels")
        return
    if path.place is None and model.count != 1:
        yield Fault(f"{path}.count", "this is one strand; a count belongs to the strands of a ply")
    inner = inner_of(model)
    if not inner and model.twist.of_balanced is not None:
        yield Fault(f"{path}.twist.of_balanced", f"a {model.kind} strand has no balanced twist; give turns_per_m")
    for name, fibre in _fibres(model):
        if isinstance(fibre, str) and fibre not in FIBRES:
            yield Fault(f"{path}.{name}", f"unknown fibre '{fibre}'; known are {', '.join(FIBRES)}")
        for place, part in enumerate((fibre.shares if isinstance(fibre, FibreModel) else None) or ()):
            if part.fibre not in FIBRES:
                yield Fault(f"{path}.{name}.shares[{place}].fibre", f"unknown fibre '{part.fibre}'")
    for name, each in inner:
        yield from _structure_faults(each, path.inner(name), depth + 1)
    if isinstance(model, PlyModel) and sum(strand.count for strand in model.strands) < 2:
        yield Fault(f"{path}.strands", "a ply needs at least two strands")


def _fibres(model: NodeModel) -> list[tuple[str, FibreField]]:
    """Return the fibres that a node is spun of, each with its field."""
    match model:
        case SingleModel():
            return [("fibre", model.fibre)]
        case CoreSpunModel():
            return [("wrap.fibre", model.wrap.fibre)]
        case BoughtModel():
            return [] if model.fibre is None else [("fibre", model.fibre)]
        case PlyModel() | ChainModel() | WrappedModel():
            return []


def _faults(error: ValidationError) -> Iterator[Fault]:
    for fault in error.errors(include_url=False):
        place = _place(fault["loc"])
        kind, context, given = fault["type"], fault.get("ctx", {}), fault["input"]
        if kind == "extra_forbidden":
            message = "unknown field"
        elif kind == "missing":
            message = "is missing"
        elif kind == "union_tag_not_found":
            place, message = f"{place}.kind", f"is missing; one of {', '.join(KINDS)}"
        elif kind == "union_tag_invalid":
            place, tag = f"{place}.kind", str(context.get("tag"))[:40]
            message = f"unknown kind '{tag}'; one of {', '.join(KINDS)}"
        elif kind in ("model_type", "model_attributes_type", "dict_type"):
            place, message = place or "design", "must be an object with named fields"
        elif kind == "value_error":
            message = str(context["error"])
        elif kind == "finite_number":
            message = "must be a finite number"
        else:
            message = fault["msg"].removeprefix("Input ").replace("should", "must", 1)
            if isinstance(given, int | float | str) and not isinstance(given, bool):
                message += f", not {_shown(given)}"
        yield Fault(place, message)


def _shown(given: float | str) -> str:
    """Return what was given, as much of it as anybody reads."""
    match given:
        case str():
            return repr(given[:40])
        case int():
            return str(given) if abs(given) < MOST_WHOLE else "a whole number that long"
        case float():
            return f"{given:.12g}"


def _place(location: tuple[int | str, ...]) -> str:
    place = ""
    for part in location:
        if isinstance(part, int):
            place += f"[{part}]"
        elif part not in (*KINDS, *PIECES, "str", "FibreModel"):  # the tags of unions, not fields
            place += f".{part}" if place else part
    return place


def _depth(value: Any) -> int:
    deepest, layer = 0, [value]
    while layer:
        deepest += 1
        inner = [list(each.values()) if isinstance(each, dict) else each for each in layer]
        layer = [child for each in inner if isinstance(each, list) for child in each]
    return deepest


def _drop_single_counts(node: dict[str, Any]) -> None:
    if node["count"] == 1:
        del node["count"]
    inner = [
        *node.get("strands", []),
        *(node[name] for name in ("strand", "core", "binder", "wrapper") if name in node),
    ]
    for strand in inner:
        _drop_single_counts(strand)


def _no_constant(name: str) -> NoReturn:
    _refuse("", f"{name} is not a number a yarn can have")


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    value = dict(pairs)
    if len(value) < len(pairs):
        names = [name for name, _ in pairs]
        twin = next(name for name in names if names.count(name) > 1)
        _refuse(twin[:60], "is given twice in one object")
    return value


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message)) from None
