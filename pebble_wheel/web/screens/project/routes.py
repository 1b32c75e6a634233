"""From a project, or a pattern's gauge and needle, to yarns that would do and whether the fibre in hand is enough."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import hanging_scale, hanging_svg
from pebble_wheel.mechanics.finish.projects import metres_for
from pebble_wheel.notation.aim import weights_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.project import PROJECT_FIELDS, Wanted, read_project
from pebble_wheel.web.shared.aimed import aim_of, read_aimed
from pebble_wheel.web.shared.base import AtDesk, Desk, render
from pebble_wheel.web.shared.choices import Choice, choices_of
from pebble_wheel.web.shared.forms import Fields, texts
from pebble_wheel.wording import titles
from pebble_wheel.wording.candidate import Cell, cells, steps_of
from pebble_wheel.wording.examples import Like, like
from pebble_wheel.wording.making import StepRow
from pebble_wheel.wording.projects import (
    LARGE_WORDS,
    PROJECT_WORDS,
    enough_words,
    grams_range,
    needle_words,
    thickness_words,
)
from pebble_wheel.workshop.aim import Candidate, candidates

router = APIRouter(prefix="/project")

MOST_TYPED = 200
SHOWN = 4
"""Structures, the best first."""


@dataclass(frozen=True)
class Yarn:
    """One structure that would do."""

    name: str
    words: str
    drawing: Markup
    cells: dict[str, Cell]
    grams: str
    enough: str
    address: str
    in_hand: bool


@dataclass(frozen=True)
class Found:
    """What a project asks for, and what would do."""

    thickness: str
    needle: str
    metres: str
    yarns: list[Yarn]
    steps: list[StepRow]
    """Of the structure in hand, for the most metres."""
    of: str
    aim: str
    """Address of the aim with all of this filled in."""


@dataclass(frozen=True)
class ProjectView:
    """The page."""

    typed: dict[str, str]
    faults: dict[str, str]
    found: Found | None
    fibres: list[Choice]
    like: Like
    wraps: str
    """How wraps are counted."""

    projects = choices_of(PROJECT_WORDS)
    larges = choices_of(LARGE_WORDS)


@router.get("")
def show(request: Request, desk: AtDesk) -> Response:
    """Show what a project asks for."""
    typed = {**PROJECT_FIELDS, **{key: value[:MOST_TYPED] for key, value in texts(request.query_params).items()}}
    faults: dict[str, str] = {}
    found = None
    try:
        found = _found(read_project(typed, desk.settings), typed, desk)
    except InputError as error:
        faults = {fault.place: fault.message for fault in reversed(error.faults)}
    view = ProjectView(
        typed, faults, found, desk.fibre_choices(typed["fibre"]), like(desk.settings), desk.display.wpi_words
    )
    return render(request, "screens/project/page.html", view, 422 if faults else 200)


def _found(wanted: Wanted, typed: Mapping[str, str], desk: Desk) -> Found:
    low, high = (float(each) for each in metres_for(wanted.project, wanted.large, wanted.stitches))
    size = f"{desk.settings.wraps(wanted.wraps):.3g} wpi"
    sent = {"size": size, "metres": f"{high:.0f} m", "fibre": typed["fibre"]}
    lot = desk.lot(typed["fibre"])
    if lot:
        sent |= {"prep": lot.lot.prep, "draw": lot.lot.draw}
    aimed = read_aimed(Fields(sent))
    aim = aim_of(aimed, desk)
    own = replace(aim, grams=None)
    best = [each for each in candidates(desk.evaluator, own, weights_of(aimed.typed)) if each.judged][:SHOWN]
    at = typed["at"] if typed["at"] in {each.name for each in best} else best[0].name
    held = next(each for each in best if each.name == at)
    scale = hanging_scale(each.judged.made for each in best if each.judged)
    yarns = [_yarn(each, (low, high), aim.grams, scale, each.name == at, aimed.query, desk) for each in best]
    return Found(
        thickness_words(wanted, desk.display),
        needle_words(wanted, desk.display),
        desk.display.metres_range(low, high),
        yarns,
        steps_of(held, desk.display),
        held.words,
        f"/aim?{aimed.query}",
    )


def _yarn(
    found: Candidate,
    metres: tuple[float, float],
    in_hand: float | None,
    scale: float,
    held: bool,
    query: str,
    desk: Desk,
) -> Yarn:
    assert found.judged
    per_metre = found.grams / found.metres
    needed = metres[0] * per_metre, metres[1] * per_metre
    made, title = found.judged.made, titles.hanging(found.words)
    drawing = hanging_svg(made, dress_of(found.begun_design.yarn), f"p-{found.name}", title, scale)
    own = cells(found, desk.display, len(desk.tools.bobbins))
    return Yarn(
        found.name,
        found.words,
        Markup(drawing),
        {label: own[label] for label in ("singles", "finished", "as aimed")},
        grams_range(*needed, desk.display),
        enough_words(needed, in_hand, desk.display),
        f"/construct/aimed?{urlencode({'structure': found.name})}&{query}",
        held,
    )
