"""The wheel screen: a run is begun, counted by taps or by a counter, followed live, and ends in the log."""

import asyncio
import json
from collections.abc import AsyncIterator, Iterator
from contextlib import suppress
from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import PlainTextResponse, RedirectResponse, Response, StreamingResponse

from pebble_wheel.devices.protocol import Line, Together, read_line, write_line
from pebble_wheel.devices.simulated import Script, simulated
from pebble_wheel.mechanics.making.wheel import TREADLED
from pebble_wheel.mechanics.strand.structure import Single
from pebble_wheel.notation.amounts import read_ratio
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.sample import Sample
from pebble_wheel.notation.units import read_length
from pebble_wheel.store import designs, records, runs
from pebble_wheel.web.screens.wheel.countings import Countings, Told, told_by
from pebble_wheel.web.screens.wheel.countings import take as take_in
from pebble_wheel.web.screens.wheel.view import DRAFT_MM, At, Made, live_of, standing, step_at, view_of_wheel
from pebble_wheel.web.shared.again import aimed
from pebble_wheel.web.shared.base import STORE_FAULTS, AtDesk, Database, Desk, Number, Writing, render
from pebble_wheel.web.shared.bench import Bench
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.planned import planned_of
from pebble_wheel.wording.again import size_words
from pebble_wheel.wording.messages import Message

router = APIRouter(prefix="/designs/{number}/wheel")

COUNTINGS = Countings()

Source = Annotated[str, Query(pattern="^[a-z0-9-]*$", max_length=40)]
"""By which the counters of one run are told apart."""

SIMULATED = "tap-simulated"

EVERY = 0.25
"""Seconds between two looks for more."""

LEAST_BEAT, MOST_BEAT = 0.1, 200.0
"""Turns of one beat."""

PLAYED, PLAYED_EVERY = 60, 0.15
"""Moments of a run that are played again, and seconds between them."""

LONGEST_WATCH = 3600.0
"""Seconds that one page is told of a run before it asks again."""


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number) -> Response:
    """Show a step at the wheel, where its count stands."""
    kept = designs.find(connection, number)
    desk = desk.for_yarn(number, kept.design)
    asked, planned = dict(request.query_params), planned_of(connection, number)
    made = step_at(kept.design, desk, asked.get("strand", ""), planned, asked.get("on"))
    run = runs.open_run(connection, number, made.step.level.path)
    if run:
        made = step_at(kept.design, desk, run.strand, planned, run.tool)
    before = runs.of_design(connection, number, made.step.level.path)
    played = next((each for each in before if str(each.id) == asked.get("replay")), None) if not run else None
    shown = run or played
    live = live_of(shown, COUNTINGS.of(connection, shown), made, desk) if shown else None
    view = view_of_wheel(
        number,
        made,
        At(
            shown,
            live,
            played is not None,
            before,
            _bench(connection, desk, kept, made),
            _again(connection, desk, kept, made),
        ),
        desk,
        *_typed(asked, desk),
    )
    return render(request, "screens/wheel/page.html", view)


def _again(connection: Database, desk: Desk, kept: designs.Kept, made: Made) -> list[str]:
    """Return how thick to aim for a single of a yarn that is spun again; of twist the count tells."""
    if not isinstance(made.step.level.node, Single):
        return []
    told = aimed(kept.id, kept.design, records.spun_again(connection, kept.id), desk)
    return size_words(told.asked, told.aimed_mm, told.spin_mm, desk.display)


def _bench(connection: Database, desk: Desk, kept: designs.Kept, made: Made) -> Bench:
    """Return the strand with what was sampled of it."""
    strand = made.step.level.path
    samples = [each for each in records.samples(connection, kept.id) if each.record.strand == strand]
    return Bench(kept.id, kept.design, strand, desk, samples)


@router.post("/runs")
def begin(connection: Database, desk: AtDesk, number: Number, sent: Sent) -> Response:
    """Begin a run; of a strand that has one that goes on, go on with it."""
    typed = texts(sent)
    kept = designs.find(connection, number)
    own = desk.for_yarn(number, kept.design)
    made = step_at(kept.design, own, typed.get("strand", ""), planned_of(connection, number), typed.get("on"))
    strand, hands = made.step.level.path, made.hands
    ratio, draft = _typed(typed, desk)
    if not made.counted:
        return RedirectResponse("/tools#another", 303)
    if runs.open_run(connection, number, strand) is None:
        told = (ratio or made.step.ratio, draft or DRAFT_MM, desk.learned.spinner.uid)
        runs.begin(connection, number, strand, *told, made.on, hands.beat, hands.laps)
    return RedirectResponse(f"/designs/{number}/wheel?strand={strand}", 303)


@router.post("/runs/{run}/lines")
async def take(request: Request, writing: Writing, number: Number, run: Number, source: Source = "") -> Response:
    """Keep the lines of a counter, one JSON object a line; what is none is counted and set aside."""
    body = (await request.body()).decode("utf-8", "replace")
    read = [read_line(each) for each in body.splitlines() if each.strip()]
    good = [write_line(each) for each in read if isinstance(each, Line)]
    aside = sum(each is None for each in read)

    def keep() -> object:
        return writing.tried(lambda own: runs.add(own, _own(runs.find(own, run), number).id, good, aside, source))

    done = await asyncio.to_thread(keep)
    if isinstance(done, Message):
        return PlainTextResponse(f"{done.words}\n", 503)
    return PlainTextResponse(f"{len(good)} {aside}\n")


@router.post("/runs/{run}/believe")
def believe(connection: Database, number: Number, run: Number, source: Source) -> Response:
    """Count the turns of another counter from now on."""
    runs.add(connection, _own(runs.find(connection, run), number).id, [runs.BELIEVE], 0, source)
    return PlainTextResponse("")


@router.get("/runs/{run}/lines")
def give(connection: Database, number: Number, run: Number) -> Response:
    """Give a recording, as it can be played again."""
    found = _own(runs.find(connection, run), number)
    headers = {"content-disposition": f'attachment; filename="run-{run}.ndjson"'}
    together = Together()
    told = (take_in(together, text, source) for _, text, source in runs.lines_after(connection, found.id, 0))
    text = "".join(f"{each}\n" for each in told if each)
    return Response(text, media_type="application/x-ndjson", headers=headers)


@router.get("/runs/{run}/live")
async def follow(request: Request, desk: AtDesk, number: Number, run: Number) -> Response:
    """Tell a page how a run stands, whenever it stands otherwise; the store is the bus between processes."""
    connections = request.app.state.connections

    def look() -> tuple[Made, runs.Run, Told]:
        with connections.lent() as own:
            kept = designs.find(own, number)
            found = _own(runs.find(own, run), number)
            own_desk = desk.for_yarn(number, kept.design)
            made = step_at(kept.design, own_desk, found.strand, planned_of(own, number), found.tool)
            return made, found, COUNTINGS.of(own, found)

    def state() -> tuple[int, int, str]:
        with connections.lent() as own:
            return runs.last_line(own, run)

    await asyncio.to_thread(look)

    async def told() -> AsyncIterator[str]:
        known: tuple[int, int, str] | None = None
        for _ in range(int(LONGEST_WATCH / EVERY)):
            if await request.is_disconnected():
                return
            with suppress(*STORE_FAULTS):
                now = await asyncio.to_thread(state)
                if now != known:
                    known = now
                    made, found, count = await asyncio.to_thread(look)
                    yield f"data: {json.dumps(asdict(live_of(found, count, made, desk)))}\n\n"
                    if found.ended_at:
                        return
            await asyncio.sleep(EVERY)

    return StreamingResponse(told(), media_type="text/event-stream", headers={"cache-control": "no-store"})


@router.get("/runs/{run}/replay")
async def replay(request: Request, desk: AtDesk, number: Number, run: Number) -> Response:
    """Tell a page how a run stood all along, in as many seconds as one likes to watch."""
    connections = request.app.state.connections

    def states() -> Iterator[str]:
        with connections.lent() as own:
            kept = designs.find(own, number)
            found = _own(runs.find(own, run), number)
            made = step_at(
                kept.design, desk.for_yarn(number, kept.design), found.strand, planned_of(own, number), found.tool
            )
            lines = runs.lines_after(own, found.id, 0)
        together, every = Together(), max(len(lines) // PLAYED, 1)
        for place, (_, text, source) in enumerate(lines, 1):
            take_in(together, text, source)
            if place % every == 0 or place == len(lines):
                yield json.dumps(asdict(live_of(found, told_by(together), made, desk)))

    own_states = await asyncio.to_thread(lambda: list(states()))

    async def told() -> AsyncIterator[str]:
        for each in own_states:
            if await request.is_disconnected():
                return
            yield f"data: {each}\n\n"
            await asyncio.sleep(PLAYED_EVERY)

    return StreamingResponse(told(), media_type="text/event-stream", headers={"cache-control": "no-store"})


@router.post("/runs/{run}/spin")
async def spin(request: Request, desk: AtDesk, writing: Writing, number: Number, run: Number, sent: Sent) -> Response:
    """Let the simulated wheel spin a few drafts of a run, at once."""
    typed = texts(sent)
    connections = request.app.state.connections

    def keep() -> object:
        with connections.lent() as own:
            kept, found = designs.find(own, number), _own(runs.find(own, run), number)
            made = step_at(kept.design, desk.for_yarn(number, kept.design), found.strand)
            script = Script(
                made.wanted,
                found.draft_mm,
                found.per_beat(made.wanted),
                drafts=12,
                way=made.direction,
                drift_from=4 if typed.get("drift") else -1,
                wrong_way=bool(typed.get("wrong")),
                seed=runs.last_line(own, run)[0] + 1,
            )
            told = [write_line(each) for each in simulated(script) if isinstance(each, Line)]
            lines = [runs.BELIEVE, *told]
        return writing.tried(lambda later: runs.add(later, run, lines, 0, SIMULATED))

    done = await asyncio.to_thread(keep)
    if isinstance(done, Message):
        return PlainTextResponse(f"{done.words}\n", 503)
    return RedirectResponse(f"/designs/{number}/wheel?strand={typed.get('strand', '')}", 303)


@router.post("/runs/{run}/end")
def end(connection: Database, desk: AtDesk, number: Number, run: Number) -> Response:
    """End a run: it becomes an entry of the log, from which hands are learned."""
    found = _own(runs.find(connection, run), number)
    kept = designs.find(connection, number)
    made = step_at(kept.design, desk.for_yarn(number, kept.design), found.strand)
    count = COUNTINGS.of(connection, found).count
    told, treadled = standing(found, count, made), found.beat == TREADLED
    if found.ended_at is None and told.drafts and told.metres:
        twist = 1000 * (told.turns - told.in_hand) / (1000 * told.metres)
        sample = Sample(
            found.strand,
            places=min(told.drafts, 100),
            turns_per_m=twist,
            ratio=found.ratio if treadled else None,
            pace=60 * count.turns / found.per_beat(made.wanted) / count.seconds if treadled and count.seconds else None,
            note=f"{told.drafts} × {found.draft_mm:.0f} mm",
        )
        records.note(connection, number, sample, desk.learned.spinner.uid)
    runs.end(connection, run)
    return RedirectResponse(f"/designs/{number}/log", 303)


def _own(run: runs.Run, number: int) -> runs.Run:
    if run.design != number:
        raise designs.NotKeptError(f"no such run {run.id} of this yarn")
    return run


def _typed(typed: dict[str, str], desk: Desk) -> tuple[float | None, float | None]:
    """Return ratio and draft [mm] as they are typed; None of what cannot be read."""
    ratio = draft = None
    with suppress(InputError):
        ratio = min(max(read_ratio(typed["ratio"]), LEAST_BEAT), MOST_BEAT) if typed.get("ratio") else None
    with suppress(InputError):
        length = read_length(typed["draft"], desk.settings.width_unit) if typed.get("draft") else None
        draft = min(max(length, 20.0), 5000.0) if length else None
    return ratio, draft
