"""The sample screen: a strand is measured at the stool, judged, kept, and may become the one to match or the plan."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.draft import draft_of, write_draft
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.sample import Asked, read_sample
from pebble_wheel.notation.units import read_length
from pebble_wheel.store import designs, records
from pebble_wheel.web.screens.sample.view import Away, Entry, SampleView, strands_in, view_of_sample
from pebble_wheel.web.shared.again import aimed
from pebble_wheel.web.shared.base import AtDesk, Database, Desk, Number, Writing, render
from pebble_wheel.web.shared.bench import Bench
from pebble_wheel.web.shared.forms import Sent, texts
from pebble_wheel.web.shared.thread import thread_of
from pebble_wheel.wording.messages import Message
from pebble_wheel.wording.sampling import SAMPLE_KEPT, TIMES_FAULT, let_back_words

router = APIRouter(prefix="/designs/{number}/sample")


@router.get("")
def show(request: Request, connection: Database, desk: AtDesk, number: Number) -> Response:
    """Show the newest sample of a strand, and the form for another."""
    query = request.query_params
    struck, confirm = (_entry(query.get(each, "")) for each in ("struck", "confirm"))
    said = SAMPLE_KEPT if "noted" in query else ""
    entry = Entry({}, said=said, struck=struck, confirm=confirm, away=_got_away(dict(query), desk))
    return _page(request, connection, desk, number, query.get("strand", ""), entry)


@router.post("")
def note(
    request: Request, connection: Database, writing: Writing, desk: AtDesk, number: Number, sent: Sent
) -> Response:
    """Keep a sample; on a fault nothing is kept and what was typed stays."""
    typed = texts(sent)
    if typed.get("slot") and not typed.get("gauge", "").strip():
        typed |= {"gauge": typed["slot"], "method": "card"}
    kept = designs.find(connection, number)
    bench = _bench(connection, desk, kept, typed.get("strand", ""))
    typed["strand"] = bench.strand
    try:
        sample = read_sample(typed, kept.design, desk.settings, _asked(bench, typed.get("spun_as", "plan")))
        bench.node()
    except InputError as error:
        return _page(request, connection, desk, number, bench.strand, Entry(typed, error.faults))
    except NoBalanceError:
        return _page(request, connection, desk, number, bench.strand, Entry(typed, (_UNMADE,)))
    spinner = desk.learned.spinner.uid
    done = writing.tried(lambda own: records.note(own, number, sample, spinner, typed))
    if isinstance(done, Message):
        return _page(request, connection, desk, number, bench.strand, Entry(typed, unkept=done.words))
    return RedirectResponse(f"{_address(number, bench.strand)}&noted=1", 303)


@router.post("/{entry}/strike")
def strike(connection: Database, number: Number, entry: Number, sent: Sent) -> Response:
    """Strike a sample out."""
    records.strike_out(connection, "sample", number, entry)
    return RedirectResponse(f"{_address(number, texts(sent).get('strand', ''))}&struck={entry}", 303)


@router.post("/{entry}/back")
def bring_back(connection: Database, number: Number, entry: Number, sent: Sent) -> Response:
    """Bring a struck-out sample back."""
    records.bring_back(connection, "sample", number, entry)
    return RedirectResponse(_address(number, texts(sent).get("strand", "")), 303)


@router.post("/{entry}/match")
def match(connection: Database, number: Number, entry: Number, sent: Sent) -> Response:
    """Make a sample the one to match; where another is, that is asked first."""
    typed = texts(sent)
    strand = typed.get("strand", "")
    own = [each for each in records.samples(connection, number) if each.record.strand == strand]
    if all(each.id != entry for each in own):
        raise designs.NotKeptError(f"no such sample {entry}")
    if any(each.reference and each.id != entry for each in own) and typed.get("instead") != "yes":
        return RedirectResponse(f"{_address(number, strand)}&confirm={entry}", 303)
    records.refer_to(connection, number, entry)
    return RedirectResponse(_address(number, strand), 303)


@router.post("/{entry}/take")
def take(connection: Database, desk: AtDesk, number: Number, entry: Number, sent: Sent) -> Response:
    """Take a sample as the plan; the plan of before stays as an earlier version."""
    kept = designs.find(connection, number)
    bench = _bench(connection, desk, kept, texts(sent).get("strand", ""))
    noted = next((each for each in bench.samples if each.id == entry), None)
    if noted is None:
        raise designs.NotKeptError(f"no such sample {entry}")
    taken = bench.taken(noted)
    if taken is None:
        raise InputError(Fault("strand", "nothing was measured that a plan could be made of"))
    desk.evaluator.read(taken.design)
    designs.keep(connection, number, taken.design, write_draft(draft_of(taken.design)), kept.mark)
    return RedirectResponse(f"/designs/{number}?kept=1", 303)


_UNMADE = Fault("strand", "this strand cannot be made as it is planned; put the plan right first")


def _got_away(typed: dict[str, str], desk: Desk) -> Away:
    """Return what to do where twist ran into a short piece."""
    piece, times = typed.get("piece", "")[:40], typed.get("times", "")[:20]
    if not piece and not times:
        return Away()
    try:
        length = read_length(piece, desk.settings.width_unit, "piece")
        excess = read_number(times.strip().removesuffix("x").removesuffix("×"), "times")
    except InputError as error:
        return Away(piece, times, fault=error.faults[0].message)
    if not 1 < excess <= MOST_TIMES:
        return Away(piece, times, fault=TIMES_FAULT)
    return Away(piece, times, let_back_words(length, excess, desk.display))


MOST_TIMES = 20.0


def _entry(text: str) -> int | None:
    return int(text) if text.isdecimal() and len(text) < 18 else None


def _address(number: int, strand: str) -> str:
    return f"/designs/{number}/sample?strand={strand if strand.isprintable() else ''}"


def _asked(bench: Bench, spun_as: str) -> Asked:
    """Return how the spinner was told to spin by the last sample, where they say that they did."""
    if spun_as != "told":
        return Asked()
    if not bench.samples:
        return bench.begun
    judged = bench.judged(bench.samples[-1])
    return judged.asked if judged else Asked()


def _bench(connection: Database, desk: Desk, kept: designs.Kept, strand: str) -> Bench:
    known = [each.value for each in strands_in(kept.design)]
    if not known:
        raise InputError(Fault("strand", "nothing of this yarn is spun or plied here"))
    last = records.samples(connection, kept.id)
    chosen = strand if strand in known else last[-1].record.strand if last and last[-1].record.strand in known else ""
    own = chosen or known[0]
    samples = [each for each in last if each.record.strand == own]
    begun = aimed(kept.id, kept.design, records.spun_again(connection, kept.id), desk).asked
    return Bench(kept.id, kept.design, own, desk.for_yarn(kept.id, kept.design), samples, begun)


def _page(request: Request, connection: Database, desk: Desk, number: int, strand: str, entry: Entry) -> Response:
    kept = designs.find(connection, number)
    bench = _bench(connection, desk, kept, strand)
    thread = thread_of(connection, number, "sample")
    view: SampleView = view_of_sample(bench, records.samples(connection, number), kept.design.name, thread, entry)
    status = 422 if entry.faults else 503 if entry.unkept else 200
    return render(request, "screens/sample/page.html", view, status)
