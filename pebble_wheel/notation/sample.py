"""A sample as it was measured at the wheel, of a single, a ply or the yarn: read with the place of every fault."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, assert_never, cast, get_args

from pebble_wheel.mechanics.learning.noise import interval_off
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.amounts import plain, range_of, read_number, read_ratio
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    SingleModel,
    WrappedModel,
    sections_in,
    walk,
)
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.form import Form
from pebble_wheel.notation.record import FOOT, HUNG, MOST_TIED, read_turns
from pebble_wheel.notation.settings import Settings, WpiMethod
from pebble_wheel.notation.spinning import read_treadled
from pebble_wheel.notation.units import Stage, read_length, read_mass, read_size

FoldWord = Literal["wide", "right", "tight", "kinks"]
"""How a ply-back hangs: as a wide loop, as it should, tighter, or in kinks."""

Tug = Literal["held", "drifted", "broke"]
Counted = Literal["bumps", "turns"]
Taken = Literal["bobbin", "yarn"]
"""Where a strand was taken from: off its own step, or picked out of what it lies in."""

GaugeBy = Literal["wraps", "card", "mm", "photo"]

MOST_PLACES, MOST_REST, STEEPEST = 100, 2000.0, 89.0
THINNEST, THICKEST = 0.05, 40.0
"""mm."""
MOST_TURNS = 20_000.0
BUMPS = 2
"""To a turn of two strands, one of each."""

FOLD_OVER, FOLD_OVER_INCHES = "50 mm", "2 in"
"""A length over which a ply-back is usually counted."""

SAMPLE_FIELDS: dict[str, str] = {
    "strand": "",
    "taken": "bobbin",
    "stage": "plied",
    "wet": "dry",
    "rest": "",
    "places": "1",
    "gauge": "",
    "method": "relaxed",
    "fold": "",
    "fold_over": "",
    "counted": "bumps",
    "fold_angle": "",
    "fold_word": "",
    "angle": "",
    "loop": "",
    "way": "Z",
    "treadles": "",
    "metres": "",
    "grams": "",
    "singles_in": "",
    "yarn_out": "",
    "before": "",
    "after": "",
    "stretch": "",
    "back": "",
    "tug": "",
    "ratio": "",
    "brake": "",
    "drive": "",
    "dial": "",
    "hand": "",
    "spun_as": "plan",
    "note": "",
    "tied": "",
}
"""What can be typed, and what an empty form holds."""

SETTING_FIELDS = ("ratio", "brake", "drive", "dial", "hand")
MOST_SETTING = 40


@dataclass(frozen=True)
class Asked:
    """By how much a spinner aimed otherwise than planned, as logarithms."""

    size: float = 0.0
    twist: float = 0.0
    ply: float = 0.0


@dataclass(frozen=True)
class Sample:
    """A sample of a strand; what was not measured is None."""

    strand: str
    taken: Taken = "bobbin"
    stage: Stage = "plied"
    wet: bool = False
    rested_hours: float = 0.0
    """On the bobbin; 0 where it is fresh."""
    places: int = 1
    """Along the strand, at which it was measured."""
    thick_mm: float | None = None
    """Apparent, as relaxed wraps give it."""
    thick_off: float = 0.0
    """Standard deviation of its logarithm by what lies between two slots or figures."""
    thick_by: GaugeBy = "wraps"
    fold_turns: float | None = None
    """Turns/m of the fold, without sign."""
    fold_angle: float | None = None
    """Degrees from the axis, as other angles."""
    fold_word: FoldWord | None = None
    angle: float | None = None
    loop_turns: float | None = None
    """Of 30 cm hung up, Z positive."""
    turns_per_m: float | None = None
    """Counted into it, without sign."""
    metres: float | None = None
    grams: float | None = None
    take_up: float | None = None
    """Length of yarn over that of its singles."""
    wash_length: float | None = None
    """Length after washing over that before."""
    stretch: float | None = None
    """Percent by which it gives."""
    springs_back: float | None = None
    """Percent of that."""
    tug: Tug | None = None
    ratio: float | None = None
    brake: str = ""
    drive: str = ""
    dial: str = ""
    hand: str = ""
    asked: Asked = Asked()
    note: str = ""
    pace: float | None = None
    """Treadles a minute, pauses apart, of a run that was counted."""
    photos: tuple[str, ...] = ()
    """Uids of the photos that it was measured in, which also tell its angle."""
    tied: str = ""
    """To what, or where, the piece is tied or kept."""

    @property
    def tex(self) -> float | None:
        """Linear density, where both metres and grams are known."""
        return 1000 * self.grams / self.metres if self.grams and self.metres else None

    @property
    def empty(self) -> bool:
        """Whether nothing was measured."""
        return all(getattr(self, each) is None for each in _MEASURED) and self.tex is None


_MEASURED = (
    *("thick_mm", "fold_turns", "fold_angle", "fold_word", "angle", "loop_turns", "turns_per_m", "take_up"),
    *("wash_length", "stretch", "tug"),
)


def strand_of(design: Design, path: str) -> NodeModel:
    """Return a strand of a design by its address, that of a section by its place in the file.

    Raises:
        InputError: where the design has none there.
    """
    for place, _, model in walk(design.yarn):
        if place == path:
            return model
    for where, section in sections_in(design):
        if section.yarn and path.startswith(f"{where}."):
            own = f"{WHOLE}{path.removeprefix(f'{where}.{WHOLE}')}"
            found = next((model for inner, _, model in walk(section.yarn) if inner == own), None)
            if found:
                return found
    raise InputError(Fault("strand", "this yarn has no such strand any more; choose one of its own"))


def read_sample(typed: Mapping[str, str], design: Design, settings: Settings, asked: Asked | None = None) -> Sample:
    """Return a sample of a strand of a design.

    Args:
        typed: the fields.
        design: the strand is of.
        settings: units, angle convention and how wraps are counted.
        asked: how the spinner was told to spin it, where that was otherwise than planned.

    Raises:
        InputError: with every fault at its field; also where nothing was measured, or where such a strand cannot be
            measured so.
    """
    form = Form(typed, SAMPLE_FIELDS)
    strand = form.text("strand") or "yarn"
    wet = form.one_of("wet", ("dry", "wet")) == "wet"
    metres = form.read("metres", lambda text, place: read_length(text, settings.long_unit, place) / 1000)
    grams = form.read("grams", lambda text, place: read_mass(text, settings.mass, place))
    gauge = form.read("gauge", lambda text, place: _gauge(text, place, form.text("method"), settings))
    over = form.text("fold_over") or (FOLD_OVER_INCHES if settings.inches else FOLD_OVER)
    in_30_cm = FOOT / HUNG if settings.inches else 1.0
    sample = Sample(
        strand=strand,
        taken=cast(Taken, form.one_of("taken", get_args(Taken))),
        stage=cast(Stage, form.one_of("stage", get_args(Stage))),
        wet=wet,
        rested_hours=form.read("rest", lambda text, place: _between(text, place, 0, MOST_REST, "hours of rest")) or 0.0,
        places=int(form.read("places", _whole) or 1),
        thick_mm=gauge.mm if gauge else None,
        thick_off=gauge.off if gauge else 0.0,
        thick_by=gauge.by if gauge else "wraps",
        fold_turns=form.read("fold", lambda text, place: _fold(text, place, form.text("counted"), over, settings)),
        fold_angle=form.read("fold_angle", lambda text, place: read_angle(text, place, settings)),
        fold_word=cast(FoldWord | None, form.one_of("fold_word", ("", *get_args(FoldWord))) or None),
        angle=form.read("angle", lambda text, place: read_angle(text, place, settings)),
        loop_turns=form.read("loop", lambda text, place: read_turns(text, place, form.text("way")) / in_30_cm),
        turns_per_m=form.read("treadles", lambda text, place: _treadled(text, place, form.text("ratio"), settings)),
        metres=metres,
        grams=grams,
        take_up=_over(form, "yarn_out", "singles_in", settings),
        wash_length=_over(form, "after", "before", settings),
        stretch=form.read("stretch", lambda text, place: _between(text, place, 0, 300, "percent")),
        springs_back=form.read("back", lambda text, place: _between(text, place, 0, 100, "percent")),
        tug=cast(Tug | None, form.one_of("tug", ("", *get_args(Tug))) or None),
        ratio=form.read("ratio", read_ratio),
        brake=form.text("brake")[:MOST_SETTING],
        drive=form.text("drive")[:MOST_SETTING],
        dial=form.text("dial")[:MOST_SETTING],
        hand=form.text("hand")[:MOST_SETTING],
        asked=asked or Asked(),
        note=form.note("note"),
        tied=form.text("tied")[:MOST_TIED],
    )
    form.faults.extend(_unlike(sample, design))
    form.refuse()
    if sample.empty:
        raise InputError(Fault("gauge", "note at least one thing: the gauge, a ply-back, an angle, a loop, a weight"))
    return sample


@dataclass(frozen=True)
class _Gauge:
    mm: float
    off: float
    by: GaugeBy


def _gauge(text: str, place: str, method: str, settings: Settings) -> _Gauge:
    """Return a thickness: wraps by a method, two slots of a card, or a length across."""
    if method not in get_args(WpiMethod):
        raise InputError(Fault("method", "choose how the wraps were counted"))
    by = Settings(wpi_method=cast(WpiMethod, method), length=settings.length)
    ends = range_of(text) or (text, text)
    sizes = [read_size(each, "wpi", place, by) for each in _named(ends)]
    mm = sorted(each.diameter_mm or 0.0 for each in sizes)
    if not mm[0]:
        raise InputError(Fault(place, "give what lies across: 24 wpi, between 20 and 26, or 0.9 mm"))
    if not THINNEST <= mm[0] <= mm[1] <= THICKEST:
        raise InputError(
            Fault(place, f"no yarn is so thin or so thick; it must be {THINNEST:g} to {THICKEST:g} mm across")
        )
    across = not sizes[-1].method
    said: GaugeBy = "mm" if across else "card" if sizes[-1].method == "card" else "wraps"
    return _Gauge((mm[0] * mm[1]) ** 0.5, interval_off(mm[0], mm[1]) if mm[1] > mm[0] else 0.0, said)


def _named(ends: tuple[str, str]) -> tuple[str, str]:
    """Return both ends of a range with the unit that is written at its end."""
    low, high = ends
    unit = "".join(each for each in plain(high) if not (each.isdigit() or each in ".,/ ")).strip()
    bare = not any(each.isalpha() for each in low)
    return (f"{low} {unit}" if unit and bare else low), high


def _fold(text: str, place: str, counted: str, over: str, settings: Settings) -> float:
    """Return the turns/m of a ply-back, of bumps or turns counted over a length."""
    if counted not in get_args(Counted):
        raise InputError(Fault("counted", "say whether bumps or whole turns were counted"))
    number = read_number(text, place)
    length = read_length(over, settings.small_unit, "fold_over")
    turns = 1000 * number / length / (BUMPS if counted == "bumps" else 1)
    if not 0 < turns <= MOST_TURNS:
        raise InputError(
            Fault(place, f"nobody can count that; more than 0 and at most {MOST_TURNS:g} turns in a metre")
        )
    return turns


def read_angle(text: str, place: str, settings: Settings) -> float:
    """Return an angle in degrees from the axis, typed in the convention in use.

    Raises:
        InputError: where it is none that a yarn can have.
    """
    number = read_number(text.strip().removesuffix("°"), place)
    if not 90 - STEEPEST <= number <= STEEPEST:
        raise InputError(Fault(place, f"an angle lies between {90 - STEEPEST:g}° and {STEEPEST:g}°, not {number:g}°"))
    return 90 - number if settings.angle_from == "crosswise" else number


def _treadled(text: str, place: str, ratio: str, settings: Settings) -> float:
    """Return the turns/m of counted treadles; the ratio may stand in its own field: ``9 in 40 cm``."""
    if ratio.strip() and " at " not in text and ":" not in text:
        count, _, length = plain(text).partition(" in ")
        text = f"{count} at {ratio} in {length}"
    return read_treadled(text, settings, place)


def _over(form: Form, above: str, below: str, settings: Settings) -> float | None:
    """Return one length over another; both or neither are given."""
    lengths = [
        form.read(each, lambda text, place: read_length(text, settings.width_unit, place)) for each in (above, below)
    ]
    given = [bool(form.text(each)) for each in (above, below)]
    if given[0] != given[1]:
        form.faults.append(Fault((above, below)[given[0]], "give both lengths, or neither"))
    if lengths[0] is None or lengths[1] is None:
        return None
    share = lengths[0] / lengths[1]
    if not 0.05 <= share <= 2:
        form.faults.append(Fault(above, "these two lengths cannot be of one piece of yarn"))
    return share


def _whole(text: str, place: str) -> float:
    number = read_number(text, place)
    if number != int(number) or not 1 <= number <= MOST_PLACES:
        raise InputError(Fault(place, f"count the places, 1 to {MOST_PLACES}"))
    return number


def _between(text: str, place: str, low: float, high: float, what: str) -> float:
    number = read_number(text.removesuffix("%").removesuffix("h"), place)
    if not low <= number <= high:
        raise InputError(Fault(place, f"must lie between {low:g} and {high:g} {what}, not {number:g}"))
    return number


def _unlike(sample: Sample, design: Design) -> list[Fault]:
    """Return what cannot be measured of such a strand, or not so."""
    try:
        model = strand_of(design, sample.strand)
    except InputError as error:
        return list(error.faults)
    faults = _wrongly(sample)
    folded = sample.fold_turns is not None or sample.fold_angle is not None
    match model:
        case BoughtModel():
            faults.append(Fault("strand", "a bought thread is as it was made; measure what you spin or ply"))
        case SingleModel():
            if sample.take_up is not None:
                faults.append(Fault("yarn_out", "a single is not plied of anything, so it takes nothing up"))
            if sample.loop_turns is not None:
                faults.append(Fault("loop", "a single is folded and counted: note its ply-back instead"))
        case PlyModel() | ChainModel() | CoreSpunModel() | WrappedModel():
            if folded:
                faults.append(
                    Fault("fold", "a ply-back is of a single; of a plied strand hang a loop, and say which way")
                )
        case _:
            assert_never(model)
    if sample.taken == "yarn" and Address(sample.strand).depth == 0:
        faults.append(Fault("taken", "the yarn itself lies in nothing; choose the strand that was picked out"))
    return faults


def _wrongly(sample: Sample) -> list[Fault]:
    faults = []
    if sample.wet and sample.grams is not None:
        faults.append(Fault("grams", "let it dry first: the water weighs too"))
    if sample.wet and sample.angle is not None:
        faults.append(Fault("angle", "let it dry first: wet yarn is swollen and leans otherwise"))
    if (sample.metres is None) != (sample.grams is None) and sample.grams is not None:
        faults.append(Fault("metres", "give its length too: a weight alone says nothing of its size"))
    if sample.wash_length is not None and sample.stage != "finished":
        faults.append(Fault("after", "a length after washing is of the finished yarn; say so above"))
    return faults
