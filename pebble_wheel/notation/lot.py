"""Fibre in hand: a lot as typed, and as it is kept; what it is spun like is worked out once, on the way in."""

import re
from collections.abc import Mapping
from difflib import get_close_matches
from typing import Annotated, Literal, NoReturn, cast

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from pebble_wheel.mechanics.counts import INCH
from pebble_wheel.mechanics.fibre.blend import blend
from pebble_wheel.mechanics.fibre.packing import Draw, Prep
from pebble_wheel.mechanics.fibre.table import FIBRES, UNKNOWN_BREEDS, Fibre
from pebble_wheel.mechanics.making.amounts import WASTE
from pebble_wheel.notation.amounts import plain, range_of, read_number
from pebble_wheel.notation.colour import UNDYED, Colour, read_colours
from pebble_wheel.notation.design import FibreModel, ShareModel
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.units import read_length, read_mass

Edges = Literal["sharp", "blended"]
"""How colours meet along fibre."""

Order = Literal["turn", "random", "heather"]
"""Colours one after the other, in pieces at random, or mixed in the fibre itself."""

MOST_WASTE = 60.0
"""Percent."""

LOT_FIELDS: dict[str, str] = {
    "name": "",
    "fibres": "medium wool",
    "micron": "",
    "staple": "",
    "crimp": "",
    "prep": "combed",
    "draw": "short",
    "grams": "",
    "colours": UNDYED,
    "lengths": "",
    "edges": "sharp",
    "order": "turn",
    "seed": "",
    "run": "",
    "waste": "",
    "note": "",
}
"""What can be typed of a lot, and what a new one holds."""

_ALSO_SAID = {
    "wool": "medium wool",
    "outerwear wool": "medium wool",
    "outer wear wool": "medium wool",
    "silk": "silk, mulberry",
    "alpaca": "alpaca, huacaya",
    "bfl": "bluefaced leicester",
    "angora": "angora rabbit",
    "dog": "dog undercoat",
    "camel": "camel down",
    "linen": "flax",
    "merino": "merino, fine",
    "down": "down type",
}
_SHARES = {"half": 50.0, "a third": 100 / 3, "two thirds": 200 / 3, "a quarter": 25.0, "three quarters": 75.0}
_PIECE = re.compile(r"\s*(?P<share>\d+(?:[.,]\d+)?)?\s*%?\s*(?:of\s+)?(?P<name>[a-z][a-z ,'-]*?)\s*", re.IGNORECASE)
_BETWEEN = re.compile(r"\s*(?:\+|/|;|&|\band\b|\bwith\b|,(?=\s*(?:\d|half|a\b|two|three)))\s*", re.IGNORECASE)


class LotModel(BaseModel):
    """A lot of fibre as it is kept."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    name: Annotated[str, Field(min_length=1, max_length=80)]
    fibre: FibreModel
    prep: Prep
    draw: Draw
    grams: Annotated[float, Field(gt=0, le=1e6)] | None = None
    """As it was bought or washed; what was spun of it is taken off where it is shown."""
    colours: Annotated[list[Colour], Field(min_length=1, max_length=200)] = [UNDYED]
    run_m: Annotated[float, Field(ge=0.001, le=10_000)] | None = None
    """Length of fibre in one colour."""
    lengths: Annotated[list[Annotated[float, Field(gt=0, le=1e6)]], Field(min_length=1, max_length=200)] | None = None
    """How much of each colour there is along it, in any unit; of all alike where nobody said."""
    edges: Edges = "sharp"
    order: Order = "turn"
    seed: Annotated[int, Field(ge=0, le=999_999)] = 1
    """Of a random order."""

    @model_validator(mode="after")
    def _one_length_each(self) -> "LotModel":
        if self.lengths is not None and len(self.lengths) != len(self.colours):
            raise ValueError(f"give a length for each of the {len(self.colours)} colours, not {len(self.lengths)}")
        return self

    waste: Annotated[float, Field(ge=0, le=MOST_WASTE / 100)]
    note: Annotated[str, Field(max_length=500)] = ""


def read_lot(typed: Mapping[str, str], settings: Settings, uid: str) -> LotModel:
    """Return a lot as it was typed.

    Args:
        typed: by field.
        settings: units where none is written.
        uid: by which yarns know it.

    Raises:
        InputError: with every fault at its field.
    """
    faults: list[Fault] = []
    given = {field: typed.get(field, usual).strip() for field, usual in LOT_FIELDS.items()}

    def read(field: str, how: object) -> object:
        if not given[field]:
            return None
        try:
            return how(given[field], field)  # type: ignore[operator]
        except InputError as error:
            faults.extend(error.faults)
            return None

    shares = cast("list[tuple[Fibre, float]] | None", read("fibres", read_fibres))
    micron = read("micron", lambda text, place: _range(text.lower().replace("µm", "").replace("micron", ""), place))
    staple = read("staple", lambda text, place: _lengths(text, settings.small_unit, place))
    per_cm = 10 / INCH if settings.inches else 1.0
    crimp = read("crimp", lambda text, place: _crimps(text, place, per_cm))
    grams = read("grams", lambda text, place: read_mass(text, settings.mass, place))
    run = cast("float | None", read("run", lambda text, place: read_length(text, settings.long_unit, place)))
    waste = cast("float | None", read("waste", _percent))
    lengths = read("lengths", lambda text, place: [read_number(each, place) for each in text.replace(",", " ").split()])
    seed = read("seed", lambda text, place: int(_seed(text, place)))
    if not given["name"]:
        faults.append(Fault("name", "give it a name you will know it by"))
    if faults or shares is None:
        raise InputError(*(faults or [Fault("fibres", "say what it is, like 50 merino, 50 silk")]))
    mixed = blend(given["name"][:80], shares)
    fibre = {
        "name": given["name"],
        "density": mixed.density,
        "micron": list(cast("tuple[float, float]", micron or mixed.micron)),
        "staple": list(cast("tuple[float, float]", staple or mixed.staple)),
        "crimp": list(cast("tuple[float, float]", crimp or mixed.crimp)),
        "bloom": mixed.bloom,
        "family": mixed.family,
        "factor": list(mixed.factor),
        "shares": _shares(mixed),
        "lot": uid,
    }
    try:
        return LotModel(
            name=given["name"],
            fibre=FibreModel(**fibre),  # type: ignore[arg-type]
            prep=cast(Prep, given["prep"]),
            draw=cast(Draw, given["draw"]),
            grams=cast("float | None", grams),
            colours=read_colours(given["colours"]) or [UNDYED],
            run_m=run / 1000 if run else None,
            lengths=cast("list[float] | None", lengths),
            edges=cast(Edges, given["edges"]),
            order=cast(Order, given["order"]),
            seed=cast("int | None", seed) or 1,
            waste=WASTE[given["prep"]] if waste is None and given["prep"] in WASTE else (waste or 0.0),
            note=given["note"],
        )
    except ValidationError as error:
        raise InputError(*(Fault(_field_of(each["loc"]), each["msg"]) for each in error.errors())) from None


def check_lot(text: str) -> LotModel:
    """Return a lot as it was kept.

    Raises:
        InputError: where it is none.
    """
    try:
        return LotModel.model_validate_json(text)
    except ValidationError as error:
        raise InputError(*(Fault(".".join(map(str, each["loc"])), each["msg"]) for each in error.errors())) from None


def _shares(mixed: Fibre) -> list[ShareModel] | None:
    """Return what a blend is of, where all of it is in the table."""
    if not mixed.shares or any(each.id not in FIBRES for each, _ in mixed.shares):
        return None
    return [ShareModel(fibre=each.id, share=share) for each, share in mixed.shares]


def _seed(text: str, place: str) -> float:
    number = read_number(text, place)
    if number != int(number) or not 0 <= number <= 999_999:
        _refuse(place, "a whole number of at most six figures")
    return number


def _field_of(place: tuple[int | str, ...]) -> str:
    names = [str(each) for each in place if str(each) in LOT_FIELDS]
    return names[0] if names else "name" if place else "lengths"


def read_fibres(text: str, place: str = "fibres") -> list[tuple[Fibre, float]]:
    """Return fibres with their shares: ``merino``, ``50 merino, 50 silk``, ``half merino half silk``, ``fine wool``.

    Raises:
        InputError: where a fibre is not known, with the nearest that is.
    """
    said = f" {plain(text).lower()[:200]} "
    for words, share in sorted(_SHARES.items(), key=lambda each: -len(each[0])):
        said = re.sub(rf"\b{words}\b(?:\s+of)?", f" ; {share:g} ", said)
    whole = _fibre_named(text)
    if whole:
        return [(whole, 1.0)]
    found: list[tuple[Fibre, float | None]] = []
    for piece in (each for each in _BETWEEN.split(said) if each.strip(" ,")):
        match = _PIECE.fullmatch(piece.strip(" ,"))
        fibre = match and _fibre_named(match["name"])
        if not match or not fibre:
            near = get_close_matches((match["name"] if match else piece).strip(), sorted(_NAMED), 1, 0.5)
            hint = f"; nearest is {near[0]}" if near else "; or say fine, medium or coarse wool"
            _refuse(place, f"'{piece.strip()[:40]}' is not a fibre known here{hint}")
        found.append((fibre, read_number(match["share"], place) if match["share"] else None))
    if not found:
        _refuse(place, "say what it is, like merino, or 50 merino, 50 silk")
    told = sum(share for _, share in found if share)
    left = [share for _, share in found if share is None]
    rest = max(100.0 - told, 0.0) / len(left) if left and told else 1.0
    shares = [(fibre, rest if share is None else share) for fibre, share in found]
    if not all(share > 0 for _, share in shares):
        _refuse(place, "every fibre named has a share above 0")
    return shares


def _fibre_named(text: str) -> Fibre | None:
    name = " ".join(text.lower().split()).strip(" ,.")
    return _NAMED.get(name) or _NAMED.get(_ALSO_SAID.get(name, ""))


_NAMED: dict[str, Fibre] = {
    **{fibre.name.lower(): fibre for fibre in FIBRES.values()},
    **{fibre.id: fibre for fibre in FIBRES.values() if fibre.id not in _ALSO_SAID},
    **UNKNOWN_BREEDS,
    **{f"{name}, breed unknown": fibre for name, fibre in UNKNOWN_BREEDS.items()},
    **{f"{name.split()[0]}": fibre for name, fibre in UNKNOWN_BREEDS.items()},
}


def _range(text: str, place: str) -> tuple[float, float]:
    ends = range_of(text)
    low, high = sorted(read_number(each, place) for each in (ends or (text, text)))
    return low, high


def _crimps(text: str, place: str, per_cm: float) -> tuple[float, float]:
    low, high = _range(text, place)
    return low * per_cm, high * per_cm


def _lengths(text: str, unit: str, place: str) -> tuple[float, float]:
    ends = range_of(text)
    if ends is None:
        return (read_length(text, unit, place),) * 2
    written = ends[1].lstrip("0123456789., /½¼¾").strip() or unit
    low, high = sorted((read_length(ends[0], written, place), read_length(ends[1], unit, place)))
    return low, high


def _percent(text: str, place: str) -> float:
    number = read_number(text.replace("%", ""), place)
    if not 0 <= number <= MOST_WASTE:
        _refuse(place, f"must lie between 0 and {MOST_WASTE:g} %, not {number:g}")
    return number / 100


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message)) from None
