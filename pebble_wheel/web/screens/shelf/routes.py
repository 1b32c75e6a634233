"""The shelf: the designs kept, page by page, with small pictures of their yarns; design files are brought in here."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from starlette.background import BackgroundTask

from pebble_wheel.notation.design import read_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.store import designs
from pebble_wheel.web.screens.shelf.view import A_PAGE, MOST_AWAY, Found, NameFault, view_of_shelf
from pebble_wheel.web.shared.assets import ASKED_AGAIN, KEPT
from pebble_wheel.web.shared.base import AtDesk, Database, Number, SmallPictures, render
from pebble_wheel.web.shared.small import content_of, kept_small

router = APIRouter()

MOST_WORDS, MOST_PAGES = 200, 10**6


@router.get("/")
def show(
    request: Request,
    connection: Database,
    desk: AtDesk,
    pictures: SmallPictures,
    q: Annotated[str, Query(max_length=MOST_WORDS)] = "",
    page: Annotated[int, Query(ge=1, le=MOST_PAGES)] = 1,
    away: int | None = None,
) -> Response:
    """Show the shelf; a first visit goes straight to a yarn."""
    shelf = _Shelf(request, connection, desk, pictures)
    if not q and shelf.bare:
        return RedirectResponse("/construct", 303)
    return shelf.shown(q, page, gone=away)


@router.post("/designs")
def bring_in(
    request: Request,
    connection: Database,
    desk: AtDesk,
    pictures: SmallPictures,
    file: Annotated[UploadFile, File()],
) -> Response:
    """Put a design file on the shelf and open it; on a fault nothing is kept."""
    try:
        design = read_design(file.file.read())
        desk.evaluator.read(design)
    except InputError as error:
        return _Shelf(request, connection, desk, pictures).shown(file_faults=error.faults)
    later = BackgroundTask(kept_small, pictures, design, desk.evaluator)
    return RedirectResponse(f"/designs/{designs.keep_new(connection, design)}", 303, background=later)


@router.get("/designs/{number}/small/{content}.svg")
def picture(connection: Database, desk: AtDesk, pictures: SmallPictures, number: Number, content: str) -> Response:
    """Give the small picture of a design, made where it has not been yet; by its content it never changes."""
    design = designs.find(connection, number).design
    svg, own = kept_small(pictures, design, desk.evaluator).svg, content_of(design, desk.evaluator.constants.known_by)
    return Response(svg, media_type="image/svg+xml", headers=KEPT if content == own else ASKED_AGAIN)


@router.post("/designs/{number}/rename")
def rename(
    request: Request,
    connection: Database,
    desk: AtDesk,
    pictures: SmallPictures,
    number: Number,
    name: Annotated[str, Form()] = "",
) -> Response:
    """Rename a design; a name it cannot have stays in its field."""
    try:
        designs.rename(connection, number, name.strip())
    except InputError as error:
        fault = NameFault(number, name, error.faults[0].message)
        words = designs.find(connection, number).design.name  # so that its card is among those shown
        return _Shelf(request, connection, desk, pictures).shown(words, fault=fault)
    return RedirectResponse("/", 303)


@router.post("/designs/{number}/duplicate")
def duplicate(connection: Database, number: Number) -> Response:
    """Copy a design and open the copy."""
    return RedirectResponse(f"/designs/{designs.duplicate(connection, number)}", 303)


@router.post("/designs/{number}/delete")
def delete(connection: Database, number: Number) -> Response:
    """Put a design away, with the way back on the next page."""
    designs.put_away(connection, number)
    return RedirectResponse(f"/?away={number}", 303)


@router.post("/designs/{number}/restore")
def restore(connection: Database, number: Number) -> Response:
    """Bring a design back to the shelf."""
    designs.bring_back(connection, number)
    return RedirectResponse("/", 303)


@router.get("/designs/{number}/as-it-stands.txt")
def as_it_stands(connection: Database, number: Number) -> Response:
    """Give what can be had of a design that is damaged."""
    text = designs.damaged(connection, number).text
    headers = {"content-disposition": f'attachment; filename="design-{number}.txt"'}
    return Response(text, media_type="text/plain; charset=utf-8", headers=headers)


class _Shelf:
    """The shelf as it stands in a request."""

    def __init__(self, request: Request, connection: Database, desk: AtDesk, pictures: SmallPictures) -> None:
        self._request, self._connection, self._desk, self._pictures = request, connection, desk, pictures
        self._away = designs.how_many(connection, away=True)

    @property
    def bare(self) -> bool:
        """Whether nothing was ever kept."""
        return not self._away and not designs.how_many(self._connection)

    def shown(
        self,
        words: str = "",
        page: int = 1,
        gone: int | None = None,
        fault: NameFault | None = None,
        file_faults: tuple[Fault, ...] = (),
    ) -> Response:
        """Return the page."""
        connection, display = self._connection, self._desk.display
        found = Found(words, page, designs.how_many(connection, words), self._away)
        shelf = designs.shelf(connection, words, A_PAGE, A_PAGE * (page - 1))
        away = designs.away(connection, words, MOST_AWAY)
        known_by = self._desk.evaluator.constants.known_by
        kept = [each.design for each in shelf if isinstance(each, designs.Kept)]
        smalls = self._pictures.find([content_of(each, how) for each in kept for how in {known_by, ""}])
        view = view_of_shelf(found, shelf, away, smalls, display, gone, fault, file_faults, known_by)
        return render(self._request, "screens/shelf/page.html", view, 422 if fault or file_faults else 200)
