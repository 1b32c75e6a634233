"""The evaluation for programs: ``POST /api/evaluate`` answers a design file like the command line does."""

import asyncio

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from pebble_wheel.notation.aim import USUAL
from pebble_wheel.notation.design import read_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.web.shared.base import Evaluating
from pebble_wheel.wording.answer import Answer, answer_of, with_sections
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.sequence import read_along

router = APIRouter(prefix="/api")


@router.post("/evaluate")
async def evaluate(request: Request, evaluator: Evaluating) -> Response:
    """Answer a design, or name its faults, one a line."""
    data = await request.body()
    try:
        answer = await asyncio.to_thread(_answer, evaluator, data)
    except InputError as error:
        faults = [{"place": fault.place, "message": fault.message} for fault in error.faults]
        return JSONResponse({"error": str(error), "faults": faults}, 422)
    return Response(answer.model_dump_json(), media_type="application/json")


def _answer(evaluator: Evaluator, data: bytes) -> Answer:
    design = read_design(data)
    answer = answer_of(design, evaluator.read(design))
    return with_sections(answer, read_along(design, evaluator, Settings(), USUAL)) if design.sections else answer
