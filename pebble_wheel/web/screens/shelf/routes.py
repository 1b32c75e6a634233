"""The shelf: the designs kept, page by page, with small pictures of their yarns; design files are brought in here."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from starlette.background import BackgroundTask

from pebble_wheel.notation.design import read_design
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.search import MOST_WORDS, SEARCH_FIELDS, Sought, read_search
from pebble_wheel.notation.weights import WEIGHT_TABLES
from pebble_wheel.store import designs, records
from pebble_wheel.store.search import find, how_many_unknown, plain, unknown
from pebble_wheel.store.spinners import spinners
from pebble_wheel.web.screens.shelf.view import A_PAGE, MOST_AWAY, Asked, NameFault, view_of_shelf
from pebble_wheel.web.shared.assets import ASKED_AGAIN, KEPT
from pebble_wheel.web.shared.base import AtDesk, Database, Number, SmallPictures, render
from pebble_wheel.web.shared.choices import Choice
from pebble_wheel.web.shared.facts import AT_A_TIME, BY_AND_BY, reckon_facts, reckon_later
from pebble_wheel.web.shared.small import content_of, content_of_kept, kept_small
from pebble_wheel.wording.search import sought_words
from pebble_wheel.workshop.colour import Palette

router = APIRouter()

MOST_PAGES, AT_ONCE = 10**6, 12
"""Pages; and designs that are worked out while somebody waits."""


@router.get("/")
def show(
    request: Request,
    connection: Database,
    desk: AtDesk,
    pictures: SmallPictures,
    page: Annotated[int, Query(ge=1, le=MOST_PAGES)] = 1,
    away: int | None = None,
) -> Response:
    """Show the shelf; a first visit goes straight to a yarn."""
    shelf = _Shelf(request, connection, desk, pictures)
    typed = {name: request.query_params.get(name, "")[:MOST_WORDS] for name in SEARCH_FIELDS}
    if not any(typed.values()) and shelf.bare:
        return RedirectResponse("/construct", 303)
    return shelf.shown(typed, page, gone=away)


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
        words = " ".join(plain(designs.find(connection, number).design.name).split()[:4])  # so that its card is shown
        return _Shelf(request, connection, desk, pictures).shown({"q": words}, fault=fault)
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


def _by_facts(sought: Sought) -> bool:
    """Return whether what is looked for has to be worked out of designs."""
    return bool(sought.wraps or sought.weight or sought.colour or sought.state == "short")


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
        typed: dict[str, str] | None = None,
        page: int = 1,
        gone: int | None = None,
        fault: NameFault | None = None,
        file_faults: tuple[Fault, ...] = (),
    ) -> Response:
        """Return the page; what is not known yet of designs is worked out once it has left."""
        connection, display, typed = self._connection, self._desk.display, {**SEARCH_FIELDS, **(typed or {})}
        sought, faults = read_search(typed, display.settings)
        near = Palette((sought.colour,)).labs[0].tolist() if sought.colour else ()
        if _by_facts(sought):
            reckon_facts(connection, self._desk, unknown(connection, AT_ONCE))
        found = find(connection, sought, near, A_PAGE, A_PAGE * (page - 1))
        asked = self._asked(typed, page, found.count, sought, faults)
        shelf = designs.these(connection, found.ids)
        away = designs.away(connection, typed["q"], MOST_AWAY)
        known_by = self._desk.evaluator.constants.known_by
        kept = [each for each in shelf if isinstance(each, designs.Kept)]
        smalls = self._pictures.find([content_of_kept(each, how) for each in kept for how in {known_by, ""}])
        hits = {number: records.these(connection, each) for number, each in found.hits.items()}
        view = view_of_shelf(asked, shelf, away, smalls, hits, display, gone, fault, file_faults, known_by)
        response = render(self._request, "screens/shelf/page.html", view, 422 if fault or file_faults else 200)
        if asked.unknown or not asked.asks:
            most = AT_A_TIME if asked.unknown else BY_AND_BY
            response.background = BackgroundTask(reckon_later, self._request.app.state.connections, self._desk, most)
        return response

    def _asked(self, typed: dict[str, str], page: int, count: int, sought: Sought, faults: tuple[Fault, ...]) -> Asked:
        connection, settings = self._connection, self._desk.display.settings
        everybody = spinners(connection)
        return Asked(
            typed,
            page,
            count,
            self._away,
            tuple(sought_words(sought, typed, {each.uid: each.name for each in everybody}, settings)),
            {each.place: each.message for each in faults},
            tuple(Choice(str(each), str(each)) for each in records.years(connection)),
            tuple(Choice(name, name) for name, _, _ in WEIGHT_TABLES[settings.weight_table]),
            tuple(Choice(each.uid, each.name) for each in everybody) if len(everybody) > 1 else (),
            how_many_unknown(connection) if _by_facts(sought) else 0,
        )
