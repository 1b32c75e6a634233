"""What the photo screens show: the photos of a yarn, and one with its marks and what they come to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from pebble_wheel.drawing.marked import marks_svg
from pebble_wheel.notation.design import BoughtModel, Design, sections_in, walk
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.marks import ALONG, MARK_FIELDS, POINTS, Marks, read_marks
from pebble_wheel.store.photos import Photo
from pebble_wheel.web.shared.base import Desk
from pebble_wheel.web.shared.choices import Choice
from pebble_wheel.web.shared.thread import Thread
from pebble_wheel.wording.photo import (
    CANNOT,
    FOUND_TITLE,
    MARKS_TITLE,
    NOT_YET,
    REFUSED_WORDS,
    TAKE_CARE,
    TRIED,
    UNSCALED,
    photo_lines,
    photo_words,
    uneven_words,
)
from pebble_wheel.wording.sampling import strand_words
from pebble_wheel.workshop.photographed import Figures, figures_of


@dataclass(frozen=True)
class Thumb:
    """A photo among others."""

    id: int
    uid: str
    strand: str
    words: str
    marked: bool


@dataclass(frozen=True)
class PhotosView:
    """The photos of a yarn."""

    number: int
    name: str
    thread: Thread | None
    thumbs: list[Thumb]
    strands: list[Choice]
    faults: list[str]
    unkept: str
    away: int | None
    nothing: bool
    damaged: int
    """How many photos cannot be read."""

    care = TAKE_CARE
    tried = TRIED


@dataclass(frozen=True)
class MarkField:
    """A figure of a mark, to be typed."""

    name: str
    label: str


@dataclass(frozen=True)
class PhotoView:
    """A photo with its marks."""

    number: int
    id: int
    uid: str
    name: str
    strand: str
    thread: Thread | None
    width: int
    height: int
    typed: dict[str, str]
    faults: dict[str, str]
    overlay: Markup
    found: Markup
    """What looking found, until it is taken or left."""
    lines: list[tuple[str, str]]
    found_lines: list[tuple[str, str]]
    refused: list[str]
    uneven: str
    looked: bool
    accepted: bool
    unkept: str
    kept: bool
    single: bool
    marked: bool

    points = tuple(
        MarkField(f"{point}{axis}", f"{words}, {'across' if axis == 'x' else 'down'}")
        for point, words in POINTS.items()
        for axis in "xy"
    )
    along = tuple(MarkField(name, words) for name, words in ALONG.items())
    tried, unscaled, cannot = TRIED, UNSCALED, CANNOT


def view_of_photos(
    number: int,
    design: Design,
    kept: Sequence[Photo],
    desk: Desk,
    faults: list[str],
    unkept: str,
    away: int | None,
    nothing: bool,
    damaged: int,
) -> PhotosView:
    """Return what the list shows."""
    names = dict(_strands(design))
    told = [photo_words(_figures(each, desk), desk.display) if each.body.marked else NOT_YET for each in kept]
    thumbs = [
        Thumb(each.id, each.uid, names.get(each.strand, each.strand), words, each.body.marked)
        for each, words in zip(kept, told, strict=True)
    ]
    strands = [Choice(path, words) for path, words in names.items()]
    thread = desk.load_thread(number, "sample")
    return PhotosView(number, design.name, thread, thumbs, strands, faults, unkept, away, nothing, damaged)


def _strands(design: Design) -> list[tuple[str, str]]:
    """Return what can be photographed of a yarn, the whole first."""
    found = {
        str(path): strand_words(model) for path, _, model in walk(design.yarn) if not isinstance(model, BoughtModel)
    }
    for place, section in sections_in(design):
        if section.yarn:
            found[f"{place}.yarn"] = strand_words(section.yarn)
    return list(found.items())


def _figures(photo: Photo, desk: Desk) -> Figures:
    try:
        return figures_of(read_marks(photo.body.typed, desk.settings), photo.body.strands)
    except InputError:
        return Figures()


def chosen_of(kept: Sequence[Photo], chosen: Sequence[str]) -> list[Photo]:
    """Return the photos that were chosen, by their numbers as typed."""
    return [each for each in kept if str(each.id) in chosen]


def view_of_photo(
    design: Design, photo: Photo, typed: Mapping[str, str] | None, desk: Desk, unkept: str, kept: bool
) -> PhotoView:
    """Return what the page of one photo shows."""
    body = photo.body
    fields = {**MARK_FIELDS, **(body.typed if typed is None else typed)}
    faults: dict[str, str] = {}
    marks: Marks | None = None
    try:
        marks = read_marks(fields, desk.settings)
    except InputError as error:
        faults = {each.place: each.message for each in error.faults}
    found: Marks | None = None
    if body.looked and not body.accepted and body.found:
        found = read_marks({**MARK_FIELDS, **body.found}, desk.settings)
    size, own = (body.width, body.height), body.marked or typed is not None
    return PhotoView(
        photo.design,
        photo.id,
        photo.uid,
        design.name,
        dict(_strands(design)).get(photo.strand, photo.strand),
        desk.load_thread(photo.design, "sample"),
        *size,
        fields,
        faults,
        Markup(marks_svg(marks, *size, MARKS_TITLE)) if marks else Markup(),
        Markup(marks_svg(found, *size, FOUND_TITLE, False, "by-looking")) if found else Markup(),
        photo_lines(figures_of(marks, body.strands), body.strands, desk.display) if marks and own else [],
        photo_lines(figures_of(found, body.strands), body.strands, desk.display) if found else [],
        [REFUSED_WORDS[each] for each in body.refused],
        uneven_words(body.uneven) if body.uneven is not None else "",
        body.looked,
        body.accepted,
        unkept,
        kept,
        body.strands == 1,
        body.marked,
    )
