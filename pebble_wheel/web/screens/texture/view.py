"""What the texture screen shows: the strip of sections, each with its yarn, what all of it takes, and advice."""

from dataclasses import dataclass

from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.finish import State, length_scale, length_svg
from pebble_wheel.drawing.texture import TOLD, Piece, gesture_svg, strip_svg
from pebble_wheel.drawing.yarn import Relief, thickness
from pebble_wheel.notation.design import Design, RepeatModel, WrappedModel
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.texture import MOST_ROWS, TEXTURE_FIELDS, Texture
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.drawn import strands_address
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording import titles
from pebble_wheel.wording.texture import (
    GESTURE_DO,
    GESTURE_WORDS,
    NO_GESTURES,
    NO_SINGLE,
    START_WORDS,
    STRIP,
    along_advice,
    member_words,
    part_words,
    taken_words,
    weft_words,
    whole_words,
)
from pebble_wheel.workshop.gestures import OVERFEED, sections_of, single_of, texture_in, texture_typed
from pebble_wheel.workshop.sequence import Along, Part, read_along


@dataclass(frozen=True)
class Taken:
    """A strand with how much of it the sequence takes."""

    name: str
    words: str


@dataclass(frozen=True)
class Drawn:
    """One section, close."""

    words: str
    picture: Markup


@dataclass(frozen=True)
class TextureParts:
    """What changes while one types."""

    strip: Markup
    whole: str
    members: list[Taken]
    advice: list[str]
    sections: list[Drawn]


@dataclass(frozen=True)
class Gestured:
    """A gesture to be chosen."""

    value: str
    words: str
    do: str
    picture: Markup


@dataclass(frozen=True)
class TextureView:
    """The page."""

    number: int
    name: str
    thread: Thread | None
    typed: dict[str, str]
    faults: dict[str, str]
    parts: TextureParts | None
    kept: bool
    changed: bool
    unkept: str
    said: str

    rows = range(MOST_ROWS)
    gestures = (Choice("", "–"), *choices_of(GESTURE_WORDS))
    starts = choices_of(START_WORDS)

    @property
    def fed(self) -> dict[str, str]:
        """The usual overfeed of each gesture."""
        return {gesture: f"{often:g}" for gesture, often in OVERFEED.items()}

    @property
    def shown(self) -> int:
        """How many rows there are to type in."""
        used = [place for place in range(MOST_ROWS) if self.typed[f"gesture-{place}"]]
        return min((used[-1] + 2) if used else 2, MOST_ROWS)

    @property
    def how(self) -> list[Gestured]:
        """How each gesture is made."""
        return [
            Gestured(each, words, GESTURE_DO[each], Markup(gesture_svg(each, words)))
            for each, words in GESTURE_WORDS.items()
        ]


def view_of_texture(
    number: int,
    design: Design,
    typed: dict[str, str] | None,
    texture: Texture | None,
    faults: tuple[Fault, ...],
    desk: Desk,
    kept: bool,
    changed: bool,
    unkept: str,
) -> TextureView:
    """Return what the page shows."""
    desk = desk.for_yarn(number, design)
    own = texture_in(design)
    said = NO_SINGLE if single_of(design) is None else NO_GESTURES if own is None and design.sections else ""
    fields = typed if typed is not None else texture_typed(own, desk.settings) if own else {}
    along: Along | None = None
    if not faults:
        try:
            sections = sections_of(texture, design) if texture is not None else design.sections
            changing = design.model_copy(update={"version": 2 if sections else 1, "sections": sections})
            along = read_along(changing, desk.evaluator, desk.settings, desk.hands)
        except InputError as error:
            faults = error.faults
    return TextureView(
        number,
        design.name,
        desk.load_thread(number, "construct"),
        {**TEXTURE_FIELDS, **fields},
        {_field(fault.place): fault.message for fault in faults},
        _parts(along, desk) if along else None,
        kept,
        changed,
        unkept,
        said,
    )


def _field(place: str) -> str:
    """Return the field at which a fault stands: that of the first section, where it is one of the yarn."""
    return place if place in TEXTURE_FIELDS else "gesture-0"


def _parts(along: Along, desk: Desk) -> TextureParts:
    thickest = max(thickness(each.reading.made) for each in along.parts)
    owned = desk.tools.named("")
    orifice = owned.orifice if owned else None
    return TextureParts(
        Markup(_strip(along)),
        whole_words(along, desk.display),
        [Taken(member_words(each), taken_words(each, desk.display)) for each in along.members],
        [*along_advice(along, thickest, orifice, desk.display), weft_words(along, desk.display)],
        [_drawn(along, place, desk) for place in range(len(along.parts))],
    )


def _strip(along: Along) -> str:
    """Return the sections in their order, a repeat as often as it can be seen."""
    order: list[Piece] = []
    many = max(len(each.of) for each in along.pieces if isinstance(each, RepeatModel)) if _repeats(along) else 1
    parts = iter(along.parts)
    for place, piece in enumerate(along.pieces):
        if isinstance(piece, RepeatModel):
            inner = [_piece(next(parts), f"length-{row}") for row in range(len(piece.of))]
            order += inner * max(min(piece.repeat, TOLD // many), 1)
        else:
            order.append(_piece(next(parts), "begins" if place == 0 else "ends"))
    return strip_svg(order, STRIP)


def _repeats(along: Along) -> bool:
    return any(isinstance(each, RepeatModel) for each in along.pieces)


def _piece(part: Part, field: str) -> Piece:
    colours = list(dress_of(part.design.yarn).shown())
    coiled = isinstance(part.section.yarn, WrappedModel)
    return Piece(part.section.length_mm, thickness(part.reading.made), colours[-1], coiled, field)


def _drawn(along: Along, place: int, desk: Desk) -> Drawn:
    part = along.parts[place]
    made = part.reading.made
    relief = Relief(strands_address(part.design, part.reading.constants.middle_of(made.node)), True)
    scale = min(length_scale(each.reading.made, 1.0) for each in along.parts)
    plied = State(bloomed=False, thick=1.0, length=1.0)
    sizes = part.reading.diameter_as_plied
    dress = dress_of(part.design.yarn)
    svg = length_svg(made, dress, f"part-{place}", titles.AS_PLIED, scale, 1.0, sizes, False, relief, plied)
    return Drawn(part_words(part, desk.display), Markup(svg))
