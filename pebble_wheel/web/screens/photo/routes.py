"""Photos of a yarn: kept, measured in, noted as samples, put away."""

from collections.abc import Mapping
from dataclasses import replace

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import UploadFile

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.marks import MARK_FIELDS, read_marks, starting_marks
from pebble_wheel.notation.picture import MOST_BYTES, read_picture
from pebble_wheel.notation.sample import Sample, strand_of
from pebble_wheel.store import designs, photos, records
from pebble_wheel.web.screens.photo.view import chosen_of, view_of_photo, view_of_photos
from pebble_wheel.web.shared.assets import KEPT
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, is_htmx, render
from pebble_wheel.web.shared.forms import Fields, Sent, SentWithFiles, several, texts
from pebble_wheel.wording.messages import Message
from pebble_wheel.workshop.photographed import figures_of, look, strands_in, together

router = APIRouter()

LARGER = {"/photos": MOST_BYTES + 100_000}
"""Bytes that may be sent with a picture."""

MOST_TYPED = 20


@router.get("/designs/{number}/photo")
def show(request: Request, connection: Database, desk: AtDesk, number: Number, away: int | None = None) -> Response:
    """Show the photos of a yarn, and the form for another."""
    return _list(request, connection, desk, number, away=away)


@router.post("/photos")
def keep(request: Request, connection: Database, writing: Writing, desk: AtDesk, sent: SentWithFiles) -> Response:
    """Keep a picture, taken or chosen, with a strand of a yarn."""
    fields = texts(sent)
    design = int(fields["design"]) if fields.get("design", "").isdecimal() and len(fields["design"]) < 16 else 0
    kept = designs.find(connection, design)
    data = next(
        (each.file.read() for each in sent.getlist("picture") if isinstance(each, UploadFile) and each.size), b""
    )
    strand = fields.get("strand") or "yarn"
    try:
        model = strand_of(kept.design, strand)
        read = read_picture(data)
    except InputError as error:
        return _list(request, connection, desk, design, faults=error.faults)
    strands = strands_in(model)
    body = photos.Body(read.width, read.height, strands, starting_marks(read.width, read.height, strands))
    whole, spinner = data if fields.get("original") else None, desk.learned.spinner.uid
    told = writing.tried(lambda own: photos.keep_new(own, design, strand, read.data, body, whole, spinner))
    if isinstance(told, Message):
        return _list(request, connection, desk, design, unkept=told.words)
    return RedirectResponse(f"/designs/{design}/photo/{told}", 303)


@router.get("/photos/{uid}.jpg")
def give(connection: Database, uid: str) -> Response:
    """Give the picture that is kept, to be kept for good: its name is never another's."""
    return Response(photos.picture(connection, uid), media_type="image/jpeg", headers=KEPT)


@router.get("/designs/{number}/photo/{photo}")
def measure(request: Request, connection: Database, desk: AtDesk, number: Number, photo: Number) -> Response:
    """Show a photo with its marks."""
    return _page(request, connection, desk, number, _own(connection, number, photo), None)


@router.post("/designs/{number}/photo/{photo}/follow")
def follow(request: Request, connection: Database, desk: AtDesk, number: Number, photo: Number, sent: Sent) -> Response:
    """Show what comes of marks as they are dragged or typed."""
    return _page(request, connection, desk, number, _own(connection, number, photo), _typed(sent))


@router.post("/designs/{number}/photo/{photo}")
def keep_marks(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, photo: Number, sent: Sent
) -> Response:
    """Keep the marks; or look, take what was found, leave it, or note what they come to as a sample."""
    own, typed, doing = _own(connection, number, photo), _typed(sent), texts(sent).get("do", "")
    try:
        marks = read_marks(typed, desk.settings)
    except InputError:
        return _page(request, connection, desk, number, own, typed)
    body = replace(own.body, typed=typed)
    if doing == "look":
        found = look(
            photos.picture(connection, own.uid), body.strands, marks.line if texts(sent).get("along") else None
        )
        body = replace(body, found=found.typed, refused=found.refused, uneven=found.uneven, looked=True, accepted=False)
    elif doing == "take":
        body = replace(body, typed={**typed, **body.found}, accepted=True, marked=True)
    elif doing == "leave":
        body = replace(body, found={}, refused=(), uneven=None, looked=False, accepted=False)
    else:
        body = replace(body, marked=True)
    told = writing.tried(lambda each: photos.keep(each, photo, body))
    if isinstance(told, Message):
        return _page(request, connection, desk, number, own, typed, unkept=told.words)
    return RedirectResponse(f"/designs/{number}/photo/{photo}?kept=1", 303)


@router.post("/designs/{number}/photo/{photo}/away")
def put_away(connection: Database, number: Number, photo: Number) -> Response:
    """Put a photo away; what was noted by it stays."""
    photos.put_away(connection, _own(connection, number, photo).id)
    return RedirectResponse(f"/designs/{number}/photo?away={photo}", 303)


@router.post("/designs/{number}/photo/{photo}/back")
def bring_back(connection: Database, number: Number, photo: Number) -> Response:
    """Bring a photo back."""
    photos.bring_back(connection, photo)
    return RedirectResponse(f"/designs/{number}/photo/{photo}", 303)


@router.post("/designs/{number}/photo/{photo}/delete")
def delete(connection: Database, number: Number, photo: Number) -> Response:
    """Delete a photo that was put away for good."""
    photos.delete(connection, photo)
    return RedirectResponse(f"/designs/{number}/photo", 303)


@router.post("/designs/{number}/photo")
def note(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Note the middle of the photos that were chosen as a sample of their strand."""
    chosen = chosen_of(photos.of_design(connection, number), several(Fields(sent), "photo"))
    chosen = [each for each in chosen if each.body.marked]
    sample = _sample(chosen, desk)
    if sample is None:
        return _list(request, connection, desk, number, nothing=True)
    spinner = desk.learned.spinner.uid
    told = writing.tried(lambda own: records.note(own, number, sample, spinner))
    if isinstance(told, Message):
        return _list(request, connection, desk, number, unkept=told.words)
    return RedirectResponse(f"/designs/{number}/sample?strand={sample.strand}&noted=1", 303)


def _sample(chosen: list[photos.Photo], desk: Desk) -> Sample | None:
    """Return what photos of one strand come to together; None where they tell nothing, or are of several."""
    if not chosen or len({each.strand for each in chosen}) > 1:
        return None
    marks = [read_marks(each.body.typed, desk.settings) for each in chosen]
    middle = together([figures_of(own, each.body.strands) for own, each in zip(marks, chosen, strict=True)])
    if middle.apparent is None and middle.centre is None:
        return None
    return Sample(
        strand=chosen[0].strand,
        stage="plied",
        wet=any(each.wet for each in marks),
        places=len(chosen),
        thick_mm=middle.apparent.value if middle.apparent else None,
        thick_off=middle.apparent.off / middle.apparent.value if middle.apparent else 0.0,
        thick_by="photo",
        angle=middle.centre.value if middle.centre else None,
        photos=tuple(each.uid for each in chosen),
    )


def _own(connection: Database, number: int, photo: int) -> photos.Photo:
    found = photos.find(connection, photo)
    if found.design != number:
        raise designs.NotKeptError(f"no such photo {photo}")
    return found


def _typed(sent: Fields) -> dict[str, str]:
    told = texts(sent)
    return {name: told.get(name, usual)[:MOST_TYPED] for name, usual in MARK_FIELDS.items()}


def _page(
    request: Request,
    connection: Database,
    desk: Desk,
    number: int,
    photo: photos.Photo,
    typed: Mapping[str, str] | None,
    unkept: str = "",
) -> Response:
    kept = designs.find(connection, number)
    view = view_of_photo(kept.design, photo, typed, desk, unkept, "kept" in request.query_params)
    name = "follow" if is_htmx(request) else "measure"
    status = 503 if unkept else 422 if view.faults else 200
    return render(request, f"screens/photo/{name}.html", view, status)


def _list(
    request: Request,
    connection: Database,
    desk: Desk,
    number: int,
    faults: tuple[object, ...] = (),
    unkept: str = "",
    away: int | None = None,
    nothing: bool = False,
) -> Response:
    kept = designs.find(connection, number)
    said = [str(getattr(each, "message", each)) for each in faults]
    spoilt = len(photos.damaged(connection, number))
    own = photos.of_design(connection, number)
    view = view_of_photos(number, kept.design, own, desk, said, unkept, away, nothing, spoilt)
    status = 422 if said or nothing else 503 if unkept else 200
    return render(request, "screens/photo/page.html", view, status)
