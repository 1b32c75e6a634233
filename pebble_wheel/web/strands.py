"""A yarn as arrays, given at its address by content."""

from typing import Annotated

from fastapi import APIRouter, Query
from starlette.responses import Response

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.sequence import packed_sequence
from pebble_wheel.drawing.wool import Span, packed, packed_swatch
from pebble_wheel.notation.design import finish_of
from pebble_wheel.web.shared.assets import ASKED_AGAIN, KEPT
from pebble_wheel.web.shared.base import Evaluating
from pebble_wheel.web.shared.drawn import drawn_by, hands_in, swatches_of, written_in
from pebble_wheel.web.shared.laid import WIDEST, window_on

router = APIRouter()

Yarn = Annotated[str, Query(max_length=60_000)]
Hands = Annotated[str, Query(max_length=4_000)]
Place = Annotated[float | None, Query(ge=0, le=1e7)]
"""mm of yarn."""
Wide = Annotated[float, Query(ge=1, le=WIDEST)]


@router.get("/swatches/{mark}")
def swatch(evaluator: Evaluating, mark: str, yarn: Yarn, washed: bool = False, hands: Hands = "") -> Response:
    """Give a row of a plain knit of a design, off the needles or washed."""
    design = written_in(yarn)
    reading = evaluator.about(hands_in(hands)).read(design)
    data = packed_swatch(reading.made, dress_of(design.yarn), finish_of(design), swatches_of(reading)[washed])
    return _given(data, mark)


@router.get("/strands/{mark}")
def strands(
    evaluator: Evaluating, mark: str, yarn: Yarn, span: Span = "near", hands: Hands = "", at: Place = None
) -> Response:
    """Give the strands of a design: under the mark of what works them out now, to be kept for good."""
    design = written_in(yarn)
    made = evaluator.about(hands_in(hands)).made(design)
    data = packed(made, dress_of(design.yarn), finish_of(design), span, at)
    return _given(data, mark)


@router.get("/sequences/{mark}")
def sequence(evaluator: Evaluating, mark: str, yarn: Yarn, at: Place, wide: Wide, hands: Hands = "") -> Response:
    """Give a window on a yarn that changes along its length, likewise."""
    design = written_in(yarn)
    window = window_on(design, evaluator.about(hands_in(hands)), at or 0.0, wide)
    return _given(packed_sequence(window.laid, finish_of(design), window.scale), mark)


def _given(data: bytes, mark: str) -> Response:
    headers = KEPT if mark == drawn_by().hex() else ASKED_AGAIN
    return Response(data, media_type="application/octet-stream", headers=headers)
