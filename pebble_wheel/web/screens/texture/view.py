"""What the texture screen shows: the strip of sections, each with its yarn, what all of it takes, and advice."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.finish import State, length_scale, length_svg
from pebble_wheel.drawing.sequence import sequence_svg
from pebble_wheel.drawing.texture import TOLD, Patch, Piece, gesture_svg, patch_svg, strip_svg
from pebble_wheel.drawing.yarn import Relief, thickness
from pebble_wheel.mechanics.colour.fabric import knitted, warp_over
from pebble_wheel.mechanics.colour.fabric import woven as woven_places
from pebble_wheel.notation.design import Design, RepeatModel, WrappedModel
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.texture import HELD, MOST_HELD, MOST_ROWS, TEXTURE_FIELDS, Texture, is_held, read_texture
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.drawn import sequence_address, strands_address, swatches_of
from pebble_wheel.web.shared.laid import CLOSEST, WIDEST, window_on
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording import titles
from pebble_wheel.wording.texture import (
    ALONG,
    GESTURE_DO,
    GESTURE_HOLDS,
    GESTURE_WORDS,
    KNIT,
    NO_GESTURES,
    NO_SINGLE,
    START_WORDS,
    STRIP,
    WOVEN,
    along_advice,
    amount_words,
    between_picks,
    ends_words,
    field_words,
    member_words,
    part_words,
    taken_words,
    weft_words,
    whole_words,
)
from pebble_wheel.workshop.gestures import OVERFEED, STANDS_OFF, sections_of, single_of, texture_in, texture_typed
from pebble_wheel.workshop.running import run_along
from pebble_wheel.workshop.sequence import Along, Part, ends_first, read_along

ACROSS = 1.2
"""Of what comes again and again, seen together at the most."""

ROWS, STITCHES, PICKS, ENDS = 22, 30, 40, 60
"""Of cloth that is drawn."""


@dataclass(frozen=True)
class Looking:
    """What is looked at: where along the yarn, and from how near, both from 0 to 1."""

    at: float = 0.08
    zoom: float = 0.25
    painted: bool = True
    """Whether the browser wants it painted."""


@dataclass(frozen=True)
class Taken:
    """A strand with how much of it the sequence takes."""

    name: str
    words: str
    field: str
    """Of what is on its bobbin."""


@dataclass(frozen=True)
class Drawn:
    """One section, close."""

    words: str
    amount: str
    picture: Markup


@dataclass(frozen=True)
class TextureParts:
    """What changes while one types."""

    strip: Markup
    along: Markup
    """A window on it."""
    whole: str
    members: list[Taken]
    first: str
    """Which strand ends first; nothing where nobody said what there is."""
    advice: list[str]
    sections: list[Drawn]
    knit: Markup
    woven: Markup


@dataclass(frozen=True)
class Gestured:
    """A gesture to be chosen."""

    value: str
    words: str
    do: str
    holds: str
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
    looking: Looking
    kept: bool
    changed: bool
    unkept: str
    refill: bool
    """Whether what is typed in the sections is other than what was sent."""
    said: str

    rows = range(MOST_ROWS)
    called = staticmethod(field_words)
    gestures = (Choice("", "–"), *choices_of(GESTURE_WORDS))
    starts = choices_of(START_WORDS)

    @property
    def fed(self) -> dict[str, str]:
        """The usual overfeed of each gesture."""
        return {gesture: f"{often:g}" for gesture, often in OVERFEED.items()}

    @property
    def held(self) -> list[str]:
        """Fields of bobbins in which something stands."""
        return [field for field in self.typed if is_held(field) and self.typed[field]]

    @property
    def shown(self) -> int:
        """How many rows there are to type in."""
        used = [place for place in range(MOST_ROWS) if self.typed[f"gesture-{place}"]]
        return min((used[-1] + 2) if used else 2, MOST_ROWS)

    @property
    def how(self) -> list[Gestured]:
        """How each gesture is made."""
        return [
            Gestured(each, words, GESTURE_DO[each], GESTURE_HOLDS[each], Markup(gesture_svg(each, words)))
            for each, words in GESTURE_WORDS.items()
        ]


def view_of_texture(
    number: int,
    design: Design,
    typed: dict[str, str] | None,
    texture: Texture | None,
    held: Mapping[str, str],
    looking: Looking,
    faults: tuple[Fault, ...],
    desk: Desk,
    kept: bool,
    changed: bool,
    unkept: str,
    refill: bool,
) -> TextureView:
    """Return what the page shows."""
    desk = desk.for_yarn(number, design)
    own = texture_in(design)
    said = NO_SINGLE if single_of(design) is None else NO_GESTURES if own is None and design.sections else ""
    fields = typed if typed is not None else {**(texture_typed(own, desk.settings) if own else {}), **held}
    along: Along | None = None
    parts: TextureParts | None = None
    if not faults:
        try:
            sections = sections_of(texture, design) if texture is not None else design.sections
            changing = design.model_copy(update={"version": 2 if sections else 1, "sections": sections})
            along = read_along(changing, desk.evaluator, desk.settings, desk.hands)
            weighed = texture.held if texture else _weighed(held, desk)
            parts = _parts(changing, along, weighed, looking, desk)
        except InputError as error:
            faults = error.faults
    return TextureView(
        number,
        design.name,
        desk.load_thread(number, "construct"),
        {**TEXTURE_FIELDS, **fields},
        {_field(fault.place): fault.message for fault in faults},
        parts,
        looking,
        kept,
        changed,
        unkept,
        refill,
        said,
    )


def _field(place: str) -> str:
    """Return the field at which a fault stands: that of the first section, where it is one of the yarn."""
    return place if place in TEXTURE_FIELDS else "gesture-0"


def _weighed(held: Mapping[str, str], desk: Desk) -> tuple[float | None, ...]:
    return read_texture({**TEXTURE_FIELDS, **held}, (), desk.settings).held


def _parts(design: Design, along: Along, held: tuple[float | None, ...], looking: Looking, desk: Desk) -> TextureParts:
    thickest = max(thickness(each.reading.made) for each in along.parts)
    owned = desk.tools.named("")
    orifice = owned.orifice if owned else None
    first = ends_first(along, held)
    return TextureParts(
        Markup(_strip(along)),
        _window(design, along, looking, thickest, desk),
        whole_words(along, thickest, desk.display),
        [
            Taken(member_words(each), taken_words(each, desk.display), f"{HELD}{place}" if place < MOST_HELD else "")
            for place, each in enumerate(along.members)
        ],
        ends_words(along, first, desk.display) if first else "",
        [*along_advice(along, thickest, orifice, desk.display), weft_words(along, desk.display)],
        [_drawn(along, place, desk) for place in range(len(along.parts))],
        _patch(design, along, False, desk),
        _patch(design, along, True, desk),
    )


def _window(design: Design, along: Along, looking: Looking, thickest: float, desk: Desk) -> Markup:
    """Return a window on the yarn: from what comes again and again, down to a coil."""
    whole = 1000 * along.whole.metres
    repeats = [sum(each.length_mm for each in piece.of) for piece in along.pieces if isinstance(piece, RepeatModel)]
    widest = min(WIDEST, whole, ACROSS * max(repeats, default=whole))
    closest = min(CLOSEST * thickest, widest)
    wide = widest * (closest / widest) ** looking.zoom
    at = looking.at * whole
    window = window_on(design, desk.evaluator, at, wide)
    address = sequence_address(design, desk.evaluator.middle_of(design), at, wide)
    relief = Relief(address, looking.painted)
    return Markup(sequence_svg(window.laid, window.scale, desk.display.settings.inches, ALONG, relief))


def _patch(design: Design, along: Along, woven: bool, desk: Desk) -> Markup:
    """Return cloth of the yarn, each stitch as thick as what lies in it."""
    course = run_along(design, desk.evaluator.made).course
    thick, colours = [0.0] * len(course.stretches), [""] * len(course.stretches)
    for each in along.parts:
        place = next(at for at, own in enumerate(course.stretches) if own.made is each.reading.made)
        thick[place] = each.reading.diameter_finished.p50
        colours[place] = _colour(each)
    if woven:
        between = between_picks(along)
        places = woven_places(PICKS, ENDS, between)
        patch = Patch(between, between, True)
    else:
        knit = swatches_of(along.plain)[1]
        places = knitted(ROWS, STITCHES, knit.length)
        patch = Patch(knit.wale, knit.course, False)
    sections = course.order[course.sections_at(places)]
    shown = np.where(warp_over(PICKS, ENDS), -1, sections) if woven else sections
    return Markup(patch_svg(shown, thick, colours, patch, WOVEN if woven else KNIT))


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
    coiled = isinstance(part.design.yarn, WrappedModel)
    return Piece(part.section.length_mm, thickness(part.reading.made), _colour(part), coiled, field)


def _colour(part: Part) -> str:
    """Return the colour that shows most of a section: of coils that stand off or touch that of the wrapper."""
    yarn = part.design.yarn
    if isinstance(yarn, WrappedModel):
        yarn = yarn.wrapper if part.packed or yarn.overfeed >= STANDS_OFF else yarn.binder
    return list(dress_of(yarn).shown())[-1]


def _drawn(along: Along, place: int, desk: Desk) -> Drawn:
    part = along.parts[place]
    made = part.reading.made
    relief = Relief(strands_address(part.design, part.reading.constants.middle_of(made.node)), True)
    scale = min(length_scale(each.reading.made, 1.0) for each in along.parts)
    plied = State(bloomed=False, thick=1.0, length=1.0)
    sizes = part.reading.diameter_as_plied
    dress = dress_of(part.design.yarn)
    svg = length_svg(made, dress, f"part-{place}", titles.AS_PLIED, scale, 1.0, sizes, False, relief, plied)
    return Drawn(part_words(part, desk.display), amount_words(part, desk.display), Markup(svg))
