"""The screen of a yarn that came as a design file: drawn, read level by level, its file open to change."""

from fastapi import Request
from fastapi.responses import Response

from pebble_wheel.mechanics.spread import DRAWS
from pebble_wheel.notation.design import write_design
from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.faults import Fault
from pebble_wheel.store.designs import Kept
from pebble_wheel.web.look import look_at
from pebble_wheel.web.page import render
from pebble_wheel.web.words import levels_of


def show_yarn(
    request: Request, chosen: Settings, kept: Kept, text: str | None = None, faults: tuple[Fault, ...] = ()
) -> Response:
    """Return the screen; with faults, the text that has them stays as it was typed."""
    seen = look_at(kept.design, chosen)
    return render(
        request,
        "yarn.html",
        422 if faults else 200,
        look=seen,
        number=kept.id,
        levels=levels_of(seen.reading),
        text=write_design(kept.design) if text is None else text,
        faults=faults,
        chosen=chosen,
        draws=DRAWS,
    )
