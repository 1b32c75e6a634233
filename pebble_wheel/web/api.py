"""The evaluation for programs: ``POST /api/evaluate`` answers a design file like the command line does."""

import asyncio

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from pebble_wheel.notation.design import read_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.workshop.answer import Answer, answer_of, read_of

router = APIRouter(prefix="/api")


@router.post("/evaluate")
async def evaluate(request: Request) -> Response:
    """Answer a design, or name its faults, one a line."""
    data = await request.body()
    try:
        answer = await asyncio.to_thread(_answer, data)
    except InputError as error:
        faults = [{"place": fault.place, "message": fault.message} for fault in error.faults]
        return JSONResponse({"error": str(error), "faults": faults}, 422)
    return Response(answer.model_dump_json(), media_type="application/json")


def _answer(data: bytes) -> Answer:
    design = read_design(data)
    return answer_of(design, read_of(design))
