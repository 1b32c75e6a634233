"""The construction screen: what is spun, how many of it are plied, and the yarn that comes of it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from pebble_wheel.drawing.loop import draw_loop
from pebble_wheel.drawing.scale import draw_scale
from pebble_wheel.drawing.yarn import Wedge, draw_yarn, magnification
from pebble_wheel.mechanics.advice import Advice, advise
from pebble_wheel.mechanics.fibres import FIBRES
from pebble_wheel.mechanics.reading import Reading
from pebble_wheel.mechanics.spread import DRAWS
from pebble_wheel.notation.answer import designation_of, read_of
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.entries import START, by_field, complete, read_entries
from pebble_wheel.notation.faults import InputError
from pebble_wheel.store import designs
from pebble_wheel.web.page import Chosen, Database, Number, is_htmx, render
from pebble_wheel.web.words import colours_of, structure_words, verdict_words

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


@dataclass(frozen=True)
class Look:
    """Everything the screen shows of a yarn."""

    design: Design
    reading: Reading
    structure: str
    verdict: str
    designation: str
    yarn: Markup
    loop: Markup
    scale: Markup
    magnification: float
    advice: tuple[Advice, ...]


def look_at(design: Design, chosen: Settings) -> Look:
    """Return what the screen shows of a design.

    Raises:
        InputError: where it cannot be made, the place being the field.
    """
    try:
        reading = read_of(design)
    except InputError as error:
        raise by_field(error) from None
    colours, balance = colours_of(design.yarn), reading.balance
    top = reading.levels[0]
    verdict = verdict_words(balance.verdict, design.yarn)
    wedge = Wedge(abs(top.angle), chosen.angle_from == "crosswise", chosen.angle(top.angle))
    structure = structure_words(design.yarn)
    sense = "Z" if balance.loop_turns > 0 else "S"
    return Look(
        design=design,
        reading=reading,
        structure=structure,
        verdict=verdict,
        designation=designation_of(design, reading),
        yarn=Markup(draw_yarn(reading.made, colours, wedge, chosen.imperial, f"The yarn, a {structure}, to scale")),
        loop=Markup(
            draw_loop(
                balance.loop_turns,
                top.diameter,
                colours,
                f"A hung loop of 30 cm: {abs(balance.loop_turns):.1f} turns {sense}",
            )
        ),
        scale=Markup(draw_scale(balance, reading.schools, chosen)),
        magnification=magnification(reading.made),
        advice=advise(reading),
    )


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
    return _page(request, chosen, complete(found.typed), number, {}, said="Kept." if kept else "")


@router.post("/construct/look")
def look(request: Request, chosen: Chosen, sent: Sent) -> Response:
    """Show the yarn of the entries as they stand: parts of the page for htmx, else the whole page."""
    typed, number = sent
    if not is_htmx(request):
        return _page(request, chosen, typed, number, {})
    try:
        seen = look_at(read_entries(typed, chosen), chosen)
    except InputError as error:
        return render(request, "construct_faults.html", 422, faults=_messages(error), fields=START, stale=True)
    return render(request, "construct_look.html", look=seen, faults={}, fields=START, **_shared(chosen))


@router.post("/construct/keep")
def keep(request: Request, connection: Database, chosen: Chosen, sent: Sent) -> Response:
    """Keep the design; on a fault nothing is kept and everything typed stays."""
    typed, number = sent
    try:
        design = read_entries(typed, chosen)
        look_at(design, chosen)
    except InputError as error:
        return _page(request, chosen, typed, number, _messages(error))
    if number is None:
        number = designs.keep_new(connection, design, typed)
    else:
        designs.keep(connection, number, design, typed)
    return RedirectResponse(f"/designs/{number}?kept=1", 303)


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
        seen = look_at(read_entries(typed, chosen), chosen)
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
