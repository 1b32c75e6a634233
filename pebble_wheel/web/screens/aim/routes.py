"""The aiming screen: how the yarn is to be, and every structure that could be spun to it, side by side."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Annotated, Any
from urllib.parse import parse_qsl, urlencode

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response
from markupsafe import Markup
from starlette.datastructures import ImmutableMultiDict

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.grips import AIMED, grips, halo
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.yarn import Wedge, arm, hanging_scale, hanging_svg, scale_for, yarn_svg
from pebble_wheel.mechanics.backwards.merits import Judged
from pebble_wheel.mechanics.backwards.solve import firmness
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.rest.balance import fold_turns, loop_turns
from pebble_wheel.mechanics.strand.structure import Leaf, Rod
from pebble_wheel.notation.draft import UNDYED, design_of
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.units import read_number
from pebble_wheel.notation.weights import WEIGHT_TABLES
from pebble_wheel.web.screens.aim.compare import Compared, compared
from pebble_wheel.web.screens.construct import routes as construct
from pebble_wheel.web.shared.base import Displayed, is_htmx, render, templates
from pebble_wheel.wording.candidate import Cell, cells, in_the_way, steps_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.merits import MERITS
from pebble_wheel.wording.washing import DRYING_WORDS, WASH_WORDS
from pebble_wheel.wording.why_aim import candidate_why
from pebble_wheel.workshop.aim import (
    FIELDS,
    MOST_WEIGHT,
    Aim,
    Candidate,
    candidates,
    read_aim,
    usual_factor,
    weights_of,
)
from pebble_wheel.workshop.answer import IN_TURN
from pebble_wheel.workshop.starts import STARTS

router = APIRouter(prefix="/aim")

templates.env.globals["asks"] = Markup(' hx-post="/aim/look" hx-target="#aim" hx-swap="none" hx-sync="#aim:queue all"')

ADVANCED = ("draw", "thinnest", "ratios", "pace", "run", "wash", "drying")
"""Fields that are folded away."""

MOST_PINS = 4
MOST_COLOURS = 12
_COLOUR = re.compile("#[0-9a-fA-F]{6}")
COLOURING_WORDS = {"either": "either", "keep": "kept", "blend": "blended"}

Sent = ImmutableMultiDict[str, Any]


@dataclass(frozen=True)
class Asked:
    """What the page holds."""

    typed: dict[str, str]
    colours: tuple[str, ...]
    without: tuple[str, ...]
    """Structures left out."""
    pins: tuple[str, ...]
    """Each an aim and a structure, as a query; what is pinned stays as it was."""
    at: str
    """The structure in hand; empty for the best."""
    asked: str
    scale: float | None
    """Pixels per mm of the picture, while a hand has hold of it."""
    said: str = ""

    @property
    def query(self) -> str:
        """The aim as a query, what was left as it was left out."""
        own = [(field, value) for field, value in self.typed.items() if value != FIELDS[field]]
        return urlencode([*own, *(("colours", colour) for colour in self.colours if self.colours != (UNDYED,))])


@dataclass(frozen=True)
class Hung:
    """A candidate as it hangs on the rail."""

    found: Candidate
    drawing: Markup
    cells: dict[str, Cell]


@dataclass(frozen=True)
class Picture:
    """The yarn aimed for, with what a hand that takes hold of it needs to know."""

    drawing: Markup
    scale: float
    """Pixels per mm."""
    across: float
    """Thickness aimed for, mm."""
    apex: float
    middle: float
    """Where the arms of the angle meet, pixels."""


@router.get("")
def show(request: Request, display: Displayed) -> Response:
    """Show what could be spun to an aim."""
    return _answer(request, display, _asked(request.query_params))


@router.post("/look")
def look(request: Request, display: Displayed, sent: Annotated[Sent, Depends(construct.sent_form)]) -> Response:
    """Show the same while the aim is moved: parts of the page."""
    return _answer(request, display, _asked(sent))


@router.get("/open")
def open_candidate(request: Request, display: Displayed, structure: str) -> Response:
    """Open a structure spun to an aim in the construction screen, with everything filled in."""
    found = _pinned(urlencode(request.query_params.multi_items()), display)
    if found is None or found.judged is None:
        return _answer(request, display, _asked(request.query_params))
    return construct.begin(request, display, found.filled(display.settings))


def _asked(sent: Sent) -> Asked:
    """Read what a page sent, and do what a button asked for."""
    typed = {field: str(sent[field])[:200] for field in FIELDS if field in sent}
    typed |= {"size": str(sent["class"])[:200]} if sent.get("class") else {}
    several = {name: tuple(str(each) for each in sent.getlist(name)) for name in ("colours", "without", "pin")}
    asked = Asked(
        {**FIELDS, **typed},
        tuple(each for each in several["colours"] if _COLOUR.fullmatch(each))[:MOST_COLOURS] or (UNDYED,),
        tuple(name for name in several["without"] if name in STARTS),
        tuple(dict.fromkeys(several["pin"]))[:MOST_PINS],
        str(sent.get("at", "")),
        str(sent.get("ask", sent.get("asked", ""))),
        _scale(str(sent.get("scale", ""))),
    )
    return _done(asked, str(sent.get("do", "")))


def _scale(text: str) -> float | None:
    try:
        return min(max(read_number(text), 1.0), 400.0)
    except InputError:
        return None


def _done(asked: Asked, action: str) -> Asked:
    """Return what the page holds after a button."""
    what, _, name = action.partition("-")
    changed: dict[str, Any] = {}
    match what:
        case "pin" if name in STARTS:
            pins = dict.fromkeys((*asked.pins, f"structure={name}&{asked.query}".rstrip("&")))
            full = len(pins) > MOST_PINS
            changed = {"said": f"{MOST_PINS} are pinned: let one go first."} if full else {"pins": tuple(pins)}
        case "unpin":
            changed = {"pins": tuple(pin for place, pin in enumerate(asked.pins) if str(place) != name)}
        case "leave" if name in STARTS:
            changed = {"without": (*asked.without, name), "at": ""}
        case "bring":
            changed = {"without": tuple(each for each in asked.without if each != name)}
        case "more":
            changed = {"colours": (*asked.colours, UNDYED)[:MOST_COLOURS]}
        case "fewer":
            changed = {"colours": asked.colours[:-1] or (UNDYED,)}
    return replace(asked, **changed)


def _answer(request: Request, display: Display, asked: Asked) -> Response:
    faults: tuple[Fault, ...] = ()
    values: dict[str, Any] = {}
    try:
        aim = read_aim(asked.typed, asked.colours, display.settings)
        values = _shown(aim, asked, display)
    except InputError as error:
        faults = error.faults
    page = {
        "asked": asked,
        "display": display,
        "faults": {fault.place: fault.message for fault in faults},
        "fields": FIELDS,
        "fibre_options": [(fibre.id, fibre.name) for fibre in FIBRES.values()],
        "wash_words": WASH_WORDS,
        "drying_words": DRYING_WORDS,
        "colouring_words": COLOURING_WORDS,
        "starts": STARTS,
        "merits": MERITS,
        "most_weight": MOST_WEIGHT,
        "classes": _classes(display),
        "held": None,
        "more_open": any(fault.place in ADVANCED for fault in faults),
        **values,
    }
    return render(
        request,
        "screens/aim/follow.html" if is_htmx(request) else "screens/aim/page.html",
        422 if faults else 200,
        **page,
    )


def _shown(aim: Aim, asked: Asked, display: Display) -> dict[str, Any]:
    """Return all that hangs on an aim that could be read."""
    found = candidates(aim, weights_of(asked.typed), frozenset(asked.without))
    held = next((each for each in found if each.name == asked.at), found[0] if found else None)
    aspect, _, name = asked.asked.partition("@")
    about = next((each for each in found if each.name == name), None)
    reason = candidate_why(aspect, about, aim, display) if about else None
    usual = usual_factor(aim.fibre, aim.prep, aim.draw)
    low, high = (100 * float(firmness(each, usual)) for each in usual)
    return {
        "aim": aim,
        "rail": _rail(found, display),
        "held": held,
        "picture": _picture(held, aim, asked.scale, display) if held and held.judged else None,
        "loop": _loop(held.judged, held) if held and held.judged else "",
        "steps": steps_of(held, display) if held else [],
        "way": in_the_way(held, aim, display) if held else [],
        "usual": (low, high),
        "reason": reason,
        "compared": _compared(asked.pins, display),
    }


def _rail(found: Iterable[Candidate], display: Display) -> list[Hung]:
    """Return the candidates drawn at one scale."""
    found = list(found)
    scale = hanging_scale(each.judged.made for each in found if each.judged)
    return [Hung(each, _hanging(each, scale), cells(each, display)) for each in found]


def _hanging(found: Candidate, scale: float) -> Markup:
    if not found.judged:
        return Markup("")
    dress = dress_of(found.begun_design.yarn)
    return Markup(hanging_svg(found.judged.made, dress, f"hung-{found.name}", f"A {found.words}, drawn", scale))


def _picture(held: Candidate, aim: Aim, scale: float | None, display: Display) -> Picture:
    """Return the yarn in hand with what can be taken hold of on it."""
    assert held.judged
    made, top = held.judged.made, held.judged.levels[0]
    plied = float(made.state.diameter)
    aimed = aim.value if aim.measure.endswith("diameter") else plied
    scale = scale or min(scale_for(made, AIMED), AIMED.height / max(aimed, 1e-3))
    wedge = None
    if not isinstance(made.node, Leaf):
        wedge = Wedge(abs(top.angle), display.settings.angle_from == "crosswise", display.angle(top.angle))
    over = grips(made, wedge, aimed, scale)
    title = f"The yarn aimed for, spun as a {held.words}, to scale"
    dress = dress_of(held.begun_design.yarn)
    drawn = yarn_svg(
        made,
        dress,
        wedge,
        display.settings.imperial,
        title,
        scale=scale,
        under=halo(aimed, scale),
        over=over,
        frame=AIMED,
    )
    apex, middle, *_ = arm(0.0, wedge or Wedge(0.0, False, ""), AIMED)
    return Picture(Markup(drawn), scale, aimed, apex, middle)


def _loop(judged: Judged, held: Candidate) -> Markup:
    with IN_TURN:
        turns = float(loop_turns(fold_turns(judged.made.node, Rod(), judged.made)))
    colours = list(dress_of(held.begun_design.yarn).shown())
    said = f"A hung loop of 30 cm: {abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}"
    return Markup(loop_svg(turns, judged.levels[0].diameter, colours, said))


def _classes(display: Display) -> list[tuple[str, str]]:
    """Return the weight classes, thickest first, each with a size in its middle."""
    found = []
    for name, low, high in reversed(WEIGHT_TABLES[display.settings.weight_table]):
        middle = (low or 0.75 * high) * 1.1 if high > 100 or not low else (low + high) / 2
        found.append((name, f"{display.settings.wraps(middle):.3g} wpi"))
    return found


def _pinned(pin: str, display: Display) -> Candidate | None:
    """Return the structure and the aim that a pin holds; None where it cannot be read."""
    sent = ImmutableMultiDict(parse_qsl(pin, keep_blank_values=True)[:60])
    asked = _asked(sent)
    name = str(sent.get("structure", ""))
    if name not in STARTS:
        return None
    try:
        aim = read_aim(asked.typed, asked.colours, display.settings)
    except InputError:
        return None
    found = candidates(aim, weights_of(asked.typed), frozenset(STARTS) - {name})[0]
    size = f"{asked.typed['size']} {'finished' if asked.typed['stage'] == 'finished' else 'as plied'}"
    return replace(found, begun=found.begun.model_copy(update={"name": f"{found.words}, {size}"}))


def _compared(pins: Iterable[str], display: Display) -> Compared | None:
    found = [(pin, _pinned(pin, display)) for pin in pins]
    kept = [
        (pin, each, design_of(each.filled(display.settings), display.settings))
        for pin, each in found
        if each and each.judged
    ]
    return compared(kept, display) if kept else None
