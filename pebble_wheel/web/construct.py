"""The construction screen: what is spun, how many of it are plied, and the yarn that comes of it."""

from collections.abc import Mapping
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.mechanics.fibres import FIBRES
from pebble_wheel.mechanics.spread import DRAWS
from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.entries import START, by_field, complete, read_entries
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import designs
from pebble_wheel.web.look import Look, look_at
from pebble_wheel.web.page import Chosen, Database, Number, is_htmx, render
from pebble_wheel.web.yarn import show_yarn

router = APIRouter()

WASH_WORDS = {
    "none": "not at all",
    "steam": "steamed",
    "soak": "soaked",
    "snap": "soaked, snapped",
    "thwack": "soaked, thwacked",
    "full": "lightly fulled",
}
DRYING_WORDS = {"free": "hung free", "light": "light weight", "heavy": "heavy weight"}


async def sent_entries(request: Request) -> tuple[dict[str, str], int | None]:
    """Return the entries of a form as typed, and the number of the design they are of."""
    form = await request.form()
    typed = {field: value for field, value in form.items() if isinstance(value, str)}
    number = typed.get("id", "")
    return complete(typed), int(number) if number.isdecimal() and len(number) < 18 else None


Sent = Annotated[tuple[dict[str, str], int | None], Depends(sent_entries)]


@router.get("/construct")
def new(request: Request, chosen: Chosen) -> Response:
    """Begin a yarn."""
    return _page(request, chosen, dict(START), None, {})


@router.get("/designs/{number}")
def open_design(request: Request, connection: Database, chosen: Chosen, number: Number, kept: bool = False) -> Response:
    """Open a design from the shelf."""
    found = designs.find(connection, number)
    if not found.typed:
        return show_yarn(request, chosen, found)
    return _page(request, chosen, complete(found.typed), number, {}, said="Kept." if kept else "")


@router.post("/construct/look")
def look(request: Request, chosen: Chosen, sent: Sent) -> Response:
    """Show the yarn of the entries as they stand: parts of the page for htmx, else the whole page."""
    typed, number = sent
    if not is_htmx(request):
        return _page(request, chosen, typed, number, {})
    try:
        seen = _entered(typed, chosen)
    except InputError as error:
        return render(request, "construct_faults.html", 422, faults=_messages(error), fields=START, stale=True)
    return render(request, "construct_look.html", look=seen, faults={}, fields=START, **_shared(chosen))


@router.post("/construct/keep")
def keep(request: Request, connection: Database, chosen: Chosen, sent: Sent) -> Response:
    """Keep the design; on a fault nothing is kept and everything typed stays."""
    typed, number = sent
    try:
        design = _entered(typed, chosen).design
    except InputError as error:
        return _page(request, chosen, typed, number, _messages(error))
    if number is None:
        number = designs.keep_new(connection, design, typed)
    else:
        designs.keep(connection, number, design, typed)
    return RedirectResponse(f"/designs/{number}?kept=1", 303)


def _entered(typed: Mapping[str, str], chosen: Settings) -> Look:
    """Return what the screen shows of the entries; the place of a fault is its field."""
    try:
        return look_at(read_entries(typed, chosen), chosen)
    except InputError as error:
        raise by_field(error) from None


def _page(
    request: Request,
    chosen: Settings,
    typed: Mapping[str, str],
    number: int | None,
    faults: Mapping[str, str],
    said: str = "",
) -> Response:
    """Return the whole page; where the entries make no yarn it says so in the yarn's place."""
    seen: Look | None = None
    try:
        seen = _entered(typed, chosen)
    except InputError as error:
        faults = faults or _messages(error)
    status = 422 if faults else 200
    return render(
        request,
        "construct.html",
        status,
        typed=typed,
        number=number,
        look=seen,
        faults=faults,
        fields=START,
        said=said,
        fibre_options=[(fibre.id, fibre.name) for fibre in FIBRES.values()],
        wash_words=WASH_WORDS,
        drying_words=DRYING_WORDS,
        **_shared(chosen),
    )


def _shared(chosen: Settings) -> dict[str, object]:
    return {"chosen": chosen, "draws": DRAWS}


def _messages(error: InputError) -> dict[str, str]:
    faults: dict[str, str] = {}
    for fault in error.faults:
        faults.setdefault(fault.place, fault.message)
    return faults
