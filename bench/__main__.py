"""The speed table."""

import itertools
import json
import multiprocessing
import re
import socket
import sqlite3
import statistics
import tempfile
import time
import zlib
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import replace
from multiprocessing.connection import Connection
from multiprocessing.synchronize import Event
from pathlib import Path
from urllib.parse import urlencode
from weakref import WeakKeyDictionary

import httpx
import numpy as np
from fastapi import FastAPI
from playwright.sync_api import sync_playwright
from scipy.optimize import minimize_scalar

from bench.cable import CABLE
from bench.serving import serving
from pebble_wheel.mechanics.backwards.solve import Knobs
from pebble_wheel.mechanics.fibre.table import FIBRES
from pebble_wheel.mechanics.finish.moments import MOMENTS
from pebble_wheel.mechanics.learning.factors import FACTORS, Group
from pebble_wheel.mechanics.learning.model import Measured, YarnMeasured, learn
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.reading.draws import normals
from pebble_wheel.mechanics.reading.reading import read
from pebble_wheel.mechanics.reading.spread import Spread, causes_of, spread
from pebble_wheel.mechanics.rest import balance
from pebble_wheel.mechanics.strand.settling import make
from pebble_wheel.mechanics.strand.state import MadeNest
from pebble_wheel.mechanics.strand.structure import (
    Leaf,
    Member,
    Node,
    OfBalanced,
    Ply,
    Rod,
    Single,
    Turns,
    equal_ply,
    with_members,
)
from pebble_wheel.mechanics.wash.bloom import Finish, growth
from pebble_wheel.notation.aim import Aim, read_aim, weights_of
from pebble_wheel.notation.design import structure_of, write_design
from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.notation.search import read_search
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.database import opened, prepare, transaction
from pebble_wheel.store.designs import keep_new
from pebble_wheel.store.records import FIRST as FIRST_SPINNER
from pebble_wheel.store.rows import insert
from pebble_wheel.store.search import Facts, find, keep_facts
from pebble_wheel.store.words import words_of_design, words_of_entry
from pebble_wheel.web.app import create_app, warm
from pebble_wheel.web.serving import serve
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.web.shared.drawn import strands_address
from pebble_wheel.workshop.aim import candidates
from pebble_wheel.workshop.colour import Palette
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.refit import refitted
from pebble_wheel.workshop.starts import STARTS, start

REQUESTS, USERS, TURNS = 240, 8, 6
IN_TURN, FIRST = 24, 2
"""Requests of a kind in turn, of which the first do not count."""
CHANGE = """POST /construct/follow HTTP/1.1\r
Host: {host}\r
Content-Type: application/x-www-form-urlencoded\r
Content-Length: {length}\r
HX-Request: true\r
"""
LENGTH = re.compile(rb"HTTP/1\.1 200 .*?\ncontent-length: (\d+)\r\n.*?\r\n\r\n", re.DOTALL)
"""The head of a change, no longer than the server needs, and that of its answer."""
DESIGNS, PICTURES = 1000, 16
SAMPLES = 500
"""On a full shelf, and small pictures that a browser fetches before any scrolling."""
BROWSER = ["--no-sandbox", "--disable-background-networking", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
RELIEF = {"relief": "yes"}
"""Said by a browser that draws the yarn itself, from its strands."""
VARIANTS, ONE_BY_ONE = 2048, 40
"""Evaluated in one call, and singly; the time for all is reckoned from those."""


def main() -> None:
    """Print the table."""
    print(f"{'what':58s} {'time':>12s}  ratio")
    _mechanics()
    _learning()
    _finding()
    _growth()
    _solving()
    _web()
    _frames()


def _mechanics() -> None:
    single = Single(FIBRES["corriedale"], "combed", "short", 100.0, Turns(230.0))
    three = equal_ply(single, 3, OfBalanced(1.1, -1))
    fine = replace(single, tex=50.0, twist=Turns(320.0))
    cable: Node = fine
    for strands, multiple, direction in ((2, 1.8, -1), (3, 1.5, 1), (4, 1.0, -1)):
        cable = equal_ply(cable, strands, OfBalanced(multiple, direction))
    for name, node in (("3-ply", three), ("2×3×4 cable, 24 singles", cable)):
        whole = balance.resolve(node, Rod())
        made = make(whole)
        balanced = balance.balanced_turns(whole, Rod(), made.members)
        together = _best(lambda whole=whole, made=made, balanced=balanced: _variants(whole, made, balanced))
        one = _best(lambda whole=whole, balanced=balanced: _one_by_one(whole, balanced), 1) / ONE_BY_ONE * VARIANTS
        print(f"{name + f': {VARIANTS:,} variants with balance, one call':58s} {1000 * together:9.1f} ms  1")
        print(f"{name + ': the same, one variant at a time':58s} {1000 * one:9.0f} ms  {one / together:.0f}")
        whole_reading = _best(lambda node=node: read(_fresh(node), Finish(), Constants()))
        print(f"{name + ': the whole reading':58s} {1000 * whole_reading:9.1f} ms  {whole_reading / together:.1f}")


def _learning() -> None:
    """Print what learning from many samples takes, beside one reading."""
    columns = tuple((factor, Group("corriedale", "combed")) for factor in FACTORS)
    chance = np.random.default_rng(1)

    def sample(entry: int) -> YarnMeasured:
        readings = tuple(
            Measured(chance.normal(0, 0.1), chance.normal(0, 0.5, 8), 0.08, outcome, columns[0][1], method, entry)
            for outcome, method in (("thick", "wraps"), ("fold", "fold"), ("turns", "count"), ("tex", "weighed"))
        )
        return YarnMeasured(columns, readings)

    single = Single(FIBRES["corriedale"], "combed", "short", 100.0, Turns(230.0))
    one = _best(lambda: read(_fresh(equal_ply(single, 3, OfBalanced(1.1, -1))), Finish(), Constants()))
    samples = [sample(entry) for entry in range(SAMPLES)]
    taken = _best(lambda: learn(samples), 5)
    print(f"{f'learning from {SAMPLES} samples':58s} {1000 * taken:9.1f} ms  {taken / one:.1f} readings")


def _growth() -> None:
    """Print how the whole reading grows with strands in one ply and with depth."""
    fine = Single(FIBRES["corriedale"], "combed", "short", 20.0, Turns(400.0))
    base = None
    for strands in (2, 3, 5, 8, 16, 32, 64):
        laid = equal_ply(fine, strands, Turns(-300.0 / strands))
        spent = _best(lambda laid=laid: read(_fresh(laid), Finish(), Constants()), 5)
        base = base or spent
        print(f"{f'{strands} strands in one ply: the whole reading':58s} {1000 * spent:9.1f} ms  {spent / base:.1f}")
    for strands in (16, 64):
        members = tuple(Member(replace(fine, tex=20.0 + place)) for place in range(strands))
        began = time.process_time()
        read(Ply(members, Turns(-600.0 / strands)), Finish(), Constants())
        spent = time.process_time() - began
        print(f"{f'{strands} unlike strands in one ply: the whole reading':58s} {spent:9.2f} s of CPU")
    node: Node = fine
    for depth in range(1, 6):
        node = equal_ply(node, 2, Turns((-1) ** depth * 300.0 / 1.9**depth))
        spent = _best(lambda node=node: read(_fresh(node), Finish(), Constants()), 5)
        print(f"{f'{depth} levels of 2-ply: the whole reading':58s} {1000 * spent:9.1f} ms  {spent / base:.1f}")


def _solving() -> None:
    """Print how long it takes to spin every starting structure to one aim, ranked, against a general minimiser."""
    weights, evaluator = weights_of({}), Evaluator()
    ours = _best(lambda: candidates(evaluator, _aim(), weights))
    print(f"{'all starts spun to one aim, ranked':58s} {1000 * ours:9.1f} ms  1")
    theirs = _best(lambda: [_minimised(name, _aim()) for name in STARTS], 3)
    print(f"{'the same sizes by a general minimiser, not ranked':58s} {1000 * theirs:9.1f} ms  {theirs / ours:.1f}")


def _finding() -> None:
    """Print what finding takes among many yarns and entries of their logs, to looking through all words."""
    rng = np.random.default_rng(1)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "yarn.sqlite3"
        prepare(file)
        with opened(file) as connection:
            _many_yarns(connection, rng)
            scanned = _best(lambda: connection.execute(_SCAN, ("%lantern%",)).fetchall(), 5)
            print(
                f"{f'{YARNS:,} yarns, {YARNS * NOTES:,} entries, all looked through':58s} {1000 * scanned:9.1f} ms  1"
            )
            for typed in SOUGHT:
                sought, _ = read_search(typed, Settings())
                near = Palette((sought.colour,)).labs[0].tolist() if sought.colour else ()
                spent = _best(lambda sought=sought, near=near: find(connection, sought, near, 24), 9)
                said = ", ".join(typed.values())
                print(f"{f'found: {said}':58s} {1000 * spent:9.1f} ms  {spent / scanned:.2f}")


YARNS, NOTES = 10_000, 5
SOUGHT: tuple[dict[str, str], ...] = (
    {"q": "m"},
    {"q": "lantern"},
    {"q": "lion kinked w"},
    {"q": "9 wpi"},
    {"weight": "DK"},
    {"q": "2024 by me"},
    {"state": "drying"},
    {"q": "near teal"},
    {"q": "scarf 9 wpi 2024 by me near teal", "state": "short"},
)
_SCAN = """SELECT DISTINCT design.id FROM design JOIN entry ON entry.design = design.id
    WHERE design.words LIKE ?1 OR entry.words LIKE ?1"""
_WORDS = (
    *("mane", "lion", "scarf", "dragon", "cord", "bell", "soft", "merino", "romney", "kinked", "sample", "tight"),
    *("wheel", "curtain", "lantern", "prop", "moth", "wing", "puppet", "hat", "blue", "teal", "madder", "fringe"),
)


def _many_yarns(connection: sqlite3.Connection, rng: np.random.Generator) -> None:
    designs = [design_of(start(name), Settings()) for name in STARTS]
    with transaction(connection):
        for number in range(YARNS):
            design = designs[number % len(designs)].model_copy(update={"name": " ".join(rng.choice(_WORDS, 3))})
            at = f"20{rng.integers(15, 27)}-{rng.integers(1, 13):02}-01T08:00:00.000+00:00"
            own = {"name": design.name, "body": write_design(design), "typed": "{}", "words": words_of_design(design)}
            kept = insert(connection, "design", {**own, "created_at": at, "changed_at": at})
            for place in range(NOTES):
                kind, told = ("note", {"words": " ".join(rng.choice(_WORDS, 12))})
                if not place:
                    kind, told = "sleep", {"what": "dry", "hours": "36"}
                body = json.dumps(told)
                entry = {
                    "design": kept,
                    "spinner": FIRST_SPINNER,
                    "kind": kind,
                    "body": body,
                    "typed": "{}",
                    "plan": "{}",
                }
                words = {"words": words_of_entry(kind, body), "noted_at": at, "changed_at": at}
                insert(connection, "entry", {**entry, **words})
    wraps = rng.uniform(5, 20, YARNS).tolist()
    keep_facts(
        connection,
        {
            number: Facts(0.9 * each, each, 1.1 * each, max(0.0, float(rng.uniform(-9, 1))), _lab(rng))
            for number, each in enumerate(wraps, 1)
        },
    )


def _lab(rng: np.random.Generator) -> tuple[tuple[float, float, float], ...]:
    return tuple((float(rng.random()), *(float(each) for each in rng.uniform(-0.2, 0.2, 2))) for _ in range(3))


def _aim() -> Aim:
    """Return an aim so little unlike the last that nothing is remembered: neither size, feel nor fibre colours."""
    step = next(_nudge)
    typed = {"size": f"{12 + step / 1000} wpi", "firm": f"{35 + step / 100}", "grams": "230 g"}
    return read_aim(typed, (f"#{step:06x}",), Settings())


def _minimised(name: str, aim: Aim) -> float:
    """Return the knob of size that scipy's bounded minimiser finds with the ordinary evaluator."""

    def off(log_size: float) -> float:
        draft = refitted(start(name), Knobs(size=float(np.exp(log_size))), Settings())
        made = balance.resolve_made(structure_of(design_of(draft, Settings()).yarn), Rod())
        return float(np.log(made.state.diameter * growth(made.state, aim.finish) / aim.value) ** 2)

    return float(minimize_scalar(off, bounds=(np.log(0.02), np.log(400)), method="bounded", options={"xatol": 1e-4}).x)


_nudge = itertools.count(1)


def _fresh(node: Node) -> Node:
    """Return a structure so little thicker that all comes out the same and no balance is remembered."""
    if isinstance(node, Single):
        return replace(node, tex=float(np.asarray(node.tex)) * (1 + 1e-9 * next(_nudge)))
    assert not isinstance(node, Leaf)
    return with_members(node, tuple(_fresh(member.node) for member in node.members))


def _spread(whole: Node) -> Spread:
    return spread(whole, Constants(), normals(len(causes_of(whole)), VARIANTS))


def _variants(whole: Node, made: MadeNest, balanced: float) -> None:
    varied = _spread(whole)
    balance.balanced_variants(make(varied.node), varied.rod, made, Rod(), balanced)


def _one_by_one(whole: Node, balanced: float) -> None:
    varied = _spread(whole)
    for number in range(ONE_BY_ONE):
        rod = Rod(float(varied.rod.bend_to_twist[number]), float(varied.rod.set_share[number]))
        one = make(_variant(varied.node, number))
        balance.balanced_near(one.node, one.members, balanced, rod, balance.VARIANTS_STEPS)


def _variant(node: Node, number: int) -> Node:
    twist = Turns(float(np.asarray(node.twist.per_m)[number]))
    if isinstance(node, Single):
        factor = float(np.asarray(node.squeeze_factor)[number])
        return replace(node, tex=float(np.asarray(node.tex)[number]), twist=twist, squeeze_factor=factor)
    assert not isinstance(node, Leaf)
    return replace(with_members(node, tuple(_variant(m.node, number) for m in node.members)), twist=twist)


def _best(work: Callable[[], object], times: int = 15) -> float:
    work()
    spent = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        spent.append(time.perf_counter() - begin)
    return statistics.median(spent)


def _hello() -> FastAPI:
    app = FastAPI()

    @app.get("/")
    def hello() -> dict[str, str]:
        return {"hello": "spinner"}

    return app


def _serve(what: str, pipe: Connection, stop: Event) -> None:
    application = _hello() if what == "hello" else None
    filled = _many_designs if what == "shelf" else None
    with serving(demo=True, application=application, filled=filled, warmed=application is None) as address:
        pipe.send(address)
        stop.wait()


def _serve_by_two(listener: socket.socket, folder: str) -> None:
    app = create_app(Path(folder) / "yarn.sqlite3", demo=True)
    warm(app.state.evaluator)
    serve(app, listener, 2)


@contextmanager
def _two_workers() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as folder, socket.create_server(("127.0.0.1", 0)) as listener:
        program = multiprocessing.Process(target=_serve_by_two, args=(listener, folder))
        program.start()
        try:
            yield f"http://127.0.0.1:{listener.getsockname()[1]}"
        finally:
            program.terminate()
            program.join()


def _many_designs(connection: sqlite3.Connection) -> None:
    kinds = list(STARTS)
    for number in range(DESIGNS):
        draft = start(kinds[number % len(kinds)]).model_copy(update={"name": f"Yarn {number}"})
        keep_new(connection, design_of(draft, Settings()), write_draft(draft))


@contextmanager
def _server(what: str) -> Iterator[str]:
    ours, theirs = multiprocessing.Pipe()
    stop = multiprocessing.Event()
    server = multiprocessing.Process(target=_serve, args=(what, theirs, stop))
    server.start()
    try:
        yield ours.recv()
    finally:
        stop.set()
        server.join()


SCREENS = {
    "change": "a design change of a 3-ply",
    "cable nudge": "the 24-single cable: its plies twisted otherwise",
    "cable change": "the 24-single cable: its singles changed too",
    "cable": "evaluating the 24-single cable",
    "finish": "finishing a 3-ply, scrubbed along",
    "aim": "an aim made thicker, all starts anew",
}


def _web() -> None:
    """Print what a request takes of one user, turn about with a bare hello: both meet one machine."""
    with _server("hello") as hello, _server("app") as app:
        for what, name in SCREENS.items():
            own, base = _turn_about(hello, app, what)
            print(f"{name + ': 95th percentile':58s} {1000 * own:9.1f} ms  {own / base:.1f}")
        print(f"{'a bare JSON hello: 95th percentile, in the last of these':58s} {1000 * base:9.1f} ms  1")
        with _server("shelf") as shelf:
            own, base = _turn_about(hello, shelf, "shelf")
            full = f"the shelf with {DESIGNS:,} designs"
            print(f"{full + ': 95th percentile':58s} {1000 * own:9.1f} ms  {own / base:.1f}")
            print(f"{full + ', all that a first visit takes':58s} {_first_visit(shelf) / 1000:9.0f} kB")
    with _two_workers() as address:
        _load(address, 2)
        turns = [(_load(address, 1), _load(address, USERS)) for _ in range(TURNS)]
        one, many = (min(each) for each in zip(*turns, strict=True))  # what the machine does besides only adds
        print(f"{'a design change, one user: 95th percentile, least of turns':58s} {1000 * one:9.1f} ms  1")
        many_users = f"the same, {USERS} users, two workers, least of {TURNS} turns"
        print(f"{many_users:58s} {1000 * many:9.1f} ms  {many / one:.1f}")


FRAMES = """async ([module, url, before, asked]) => {
  const wool = await import(module);
  const { width, height, times } = asked;
  const still = { left: 0, bloom: 0, length: 1, thick: 1, wet: 0, held: "", ground: [0, 0, 0] };
  const frame = (drawn, part) => {
    const from = performance.now();
    const canvas = wool.draw(drawn, { width, height, scale: drawn.yarn.table, ...still, ...part });
    canvas.getContext("webgl2").readPixels(0, 0, 1, 1, 6408, 5121, new Uint8Array(4)); // until it is there
    return performance.now() - from;
  };
  const first = async (address) => {
    const from = performance.now();
    if (!wool.ready()) throw new Error("no relief");
    const drawn = wool.laid(wool.strandsIn(await (await fetch(address)).arrayBuffer()));
    frame(drawn, {});
    return [performance.now() - from, drawn];
  };
  const [cold] = await first(before);
  const [warm, drawn] = await first(url);
  const spent = (part) => {
    const taken = Array.from({ length: times }, (_, turn) => frame(drawn, { ...part, turned: 0.01 * turn }));
    return taken.sort((a, b) => a - b)[times >> 1];
  };
  const moving = { width: width / 2, height: height / 2, scale: drawn.yarn.table / 2, draft: true };
  return [spent({}), spent(moving), warm, cold];
}"""
"""Draws one yarn, and then another again and again: the median of whole frames of that, of frames while it moves, and
what its first frame took, and that of the yarn before it, when nothing was warm."""


FRAME_PARTS = ("a whole frame", "a frame while it moves", "the first frame", "a 2-ply before it, nothing warm")


def _frames() -> None:
    """Print what a browser that draws by software takes for a frame."""
    designs = {"3-ply": design_of(start("3-ply"), Settings()), "24-single cable": design_of(CABLE, Settings())}
    with serving(demo=True) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=BROWSER)
        for name, design in designs.items():
            page = browser.new_page()
            page.goto(f"{address}/settings")
            asked = {"width": 1280, "height": 280, "times": 9}
            before = strands_address(design_of(start("2-ply"), Settings()))
            given = page.evaluate(FRAMES, [ASSETS.address("wool.js"), strands_address(design), before, asked])
            for part, spent in zip(FRAME_PARTS, given, strict=True):
                print(f"{f'{name} in the browser, by software: {part}':58s} {spent:9.0f} ms")
            sent = len(zlib.compress(httpx.get(f"{address}{strands_address(design)}").content, 1))
            print(f"{f'{name}: its strands, packed':58s} {sent / 1000:9.1f} kB")
            page.close()
        browser.close()


def _turn_about(hello: str, address: str, what: str) -> tuple[float, float]:
    """Return the 95th percentiles of the time of a request and of a bare hello, so many of each in turn."""
    own, base = [], []
    with httpx.Client(headers={"hx-request": "true"}) as client:
        for begin in range(0, REQUESTS, IN_TURN):
            base += [_ask(client, hello, "hello", number) for number in range(IN_TURN)][FIRST:]
            own += [_ask(client, address, what, begin + number) for number in range(IN_TURN)][FIRST:]
    return float(np.percentile(own, 95)), float(np.percentile(base, 95))


def _first_visit(address: str) -> int:
    """Return the bytes sent for the shelf with all that it names, and the pictures that a browser fetches unasked."""
    with httpx.Client(base_url=address, headers={"accept-encoding": "gzip"}) as client:
        page = client.get("/")
        named = re.findall(r'(?:src|href)="(/static/[^"]+)"', page.text)
        pictures = re.findall(r'src="(/designs/[^"]+\.svg)"', page.text)[:PICTURES]
        answers = [page, *(client.get(each) for each in dict.fromkeys([*named, *pictures]))]
        return sum(answer.num_bytes_downloaded for answer in answers)


def _load(address: str, users: int) -> float:
    """Return the 95th percentile of the time of a design change, of so many users at once.

    A user's machine is its own: what they send is written before, and they do as little as can be besides.
    """
    host, port = address.removeprefix("http://").split(":")

    def session(requests: list[bytes]) -> list[float]:
        with socket.create_connection((host, int(port))) as connection:
            return [_sent(connection, each) for each in requests][FIRST:]

    def request() -> bytes:
        size = f"{50 + next(_nudge) / 1000:.3f} tex"  # one that nobody has asked about
        body = urlencode(_changed("change", 0) | {"size": size})
        return f"{CHANGE.format(host=host, length=len(body))}\r\n{body}".encode()

    asked = [[request() for _ in range(REQUESTS // users + FIRST)] for _ in range(users)]
    with ThreadPoolExecutor(users) as pool:
        return float(np.percentile([each for own in pool.map(session, asked) for each in own], 95))


def _sent(connection: socket.socket, request: bytes) -> float:
    begin = time.perf_counter()
    connection.sendall(request)
    answer, length = b"", None
    while length is None or len(answer) < length:
        come = connection.recv(1 << 17)
        if not come:
            raise RuntimeError("a change was hung up on")
        answer += come
        if told := LENGTH.match(answer):
            length = told.end() + int(told[1])
        elif b"\r\n\r\n" in answer:
            raise RuntimeError(f"a change was answered otherwise than well: {answer[:200]!r}")
    spent = time.perf_counter() - begin
    if b"data-given" not in answer:
        raise RuntimeError("a change was answered without its strands")
    return spent


def _changed(what: str, number: int) -> dict[str, str]:
    """Return what the page sends: a ply is nudged, or the singles get another size and nothing is as it was."""
    draft = CABLE if what.startswith("cable") else start("3-ply")
    of = "yarn.strands[0]" + ".strands[0].strands[0]" * what.startswith("cable")
    step = 7 * number % 97
    typed = {"size": f"{50 + step / 5:.1f} tex"}
    if what.endswith("nudge"):
        of, typed = "yarn.strands[0]", {"twist": f"{1.3 + step / 500:.3f}"}
    return {"draft": write_draft(draft), "of": of, "at": of, "name": "Bench", "together": "on", **typed, **RELIEF}


def _cable_file(tex: float) -> dict[str, object]:
    twist = {"turns_per_m": 320, "direction": "Z"}
    yarn: dict[str, object] = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": tex, "twist": twist}
    for strands, multiple, direction in ((2, 1.8, "S"), (3, 1.5, "Z"), (4, 1.0, "S")):
        turned = {"of_balanced": multiple, "direction": direction}
        yarn = {"kind": "ply", "strands": [{**yarn, "count": strands}], "twist": turned}
    return {"format": "pebble-wheel-design", "version": 1, "name": "Cable", "yarn": yarn}


_kept: WeakKeyDictionary[httpx.Client, set[str]] = WeakKeyDictionary()


def _ask(client: httpx.Client, address: str, what: str, number: int) -> float:
    """Return how long the answer to a request takes, in seconds."""
    begin = time.perf_counter()
    match what:
        case "hello" | "shelf":
            answer = client.get(f"{address}/")
        case "aim":
            answer = client.post(f"{address}/aim/follow", data={"size": f"{8 + number / 20} wpi", **RELIEF})
        case "finish":
            at = MOMENTS[number % len(MOMENTS)]
            answer = client.post(f"{address}/designs/9/finish/follow", data={"at": at, **RELIEF})
        case "cable":
            answer = client.post(f"{address}/api/evaluate", json=_cable_file(50 + number / 7))
        case _:
            answer = client.post(f"{address}/construct/follow", data=_changed(what, number))
    spent = time.perf_counter() - begin
    strands = re.search(r'data-strands="([^"]+)"(?!.*data-given)', answer.text)
    kept = _kept.setdefault(client, set())
    if strands and strands[1] not in kept:  # what it has, a browser does not ask for again
        begin = time.perf_counter()
        client.get(f"{address}{strands[1]}").raise_for_status()
        spent += time.perf_counter() - begin
        kept.add(strands[1])
    answer.raise_for_status()
    return spent


if __name__ == "__main__":
    main()
