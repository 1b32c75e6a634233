"""The command line: ``pebble-wheel serve`` and ``pebble-wheel evaluate``.

What only one command needs is imported in it, so that each starts as light as it can.
"""

import errno
import io
import os
import shutil
import socket
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn, cast
from urllib.parse import urlsplit

import typer

from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.wash.bloom import DRYING, WASH
from pebble_wheel.notation.design import FinishModel, read_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.iso1139 import DEFAULT_FIBRE, read_designation
from pebble_wheel.notation.settings import UNIT_SETS, Settings, in_units

if TYPE_CHECKING:
    from pebble_wheel.store.pool import Connections

BAD_INPUT = 2

app = typer.Typer(add_completion=False, no_args_is_help=True, help="Construct yarn before you spin it.")


@app.command()
def evaluate(
    design: Annotated[str, typer.Argument(help="a design file, or an ISO 1139 designation in quotes")],
    as_json: Annotated[bool, typer.Option("--json", help="print the answer as JSON")] = False,
    fibre: Annotated[str, typer.Option(help="for a designation, which names no fibre")] = DEFAULT_FIBRE,
    prep: Annotated[str, typer.Option(help="for a designation: combed, semi or carded")] = "semi",
    wash: Annotated[str, typer.Option(help=f"for a designation: {', '.join(WASH)}")] = "snap",
    drying: Annotated[str, typer.Option(help=f"for a designation: {', '.join(DRYING)}")] = "free",
    units: Annotated[str, typer.Option(help=f"that figures are printed in: {', '.join(UNIT_SETS)}")] = "metric",
) -> None:
    """Print the reading of a design."""
    from pebble_wheel.notation.aim import USUAL
    from pebble_wheel.wording.answer import answer_of, answer_words, with_sections
    from pebble_wheel.wording.display import Display
    from pebble_wheel.workshop.evaluator import Evaluator
    from pebble_wheel.workshop.sequence import read_along

    if units not in UNIT_SETS:
        _fail(f"--units takes {', '.join(UNIT_SETS)}")
    display = Display(in_units(Settings(), units))
    with _faults_to_exit():
        stated = None
        if design.endswith(".json") or _is_file(design):
            read = read_design(_file_bytes(design))
        else:
            if wash not in WASH or drying not in DRYING:
                _fail(f"--wash takes {', '.join(WASH)}; --drying takes {', '.join(DRYING)}")
            finish = FinishModel(wash=wash, drying=drying)
            said = read_designation(design, fibre, cast(Prep, prep), finish=finish)
            read, stated = said.design, said.resultant_tex
        evaluator = Evaluator()
        answer = answer_of(read, evaluator.read(read, display.settings), display)
        if read.sections:
            answer = with_sections(answer, read_along(read, evaluator, display.settings, USUAL))
    typer.echo(answer.model_dump_json(indent=1) if as_json else answer_words(read, answer, stated, display))


@app.command()
def serve(
    db: Annotated[Path | None, typer.Option(help="the database file; made if missing")] = None,
    host: Annotated[str, typer.Option(help="address to listen on")] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535, help="port to listen on")] = 8000,
    workers: Annotated[int, typer.Option(min=0, max=64, help="processes that answer; 0 for one a core, at most 4")] = 0,
    proxied: Annotated[str, typer.Option(help="address under which a proxy on this machine gives it to others")] = "",
    demo: Annotated[bool, typer.Option("--demo", help="start on a fresh demo database")] = False,
) -> None:
    """Run the application; beyond this machine for paired devices only."""
    from pebble_wheel.store.copies import copy_daily
    from pebble_wheel.store.database import DamagedFileError
    from pebble_wheel.web.app import create_app, warm
    from pebble_wheel.web.serving import serve as serve_application
    from pebble_wheel.web.serving import usual_workers

    if demo and db and db.exists():
        _fail(f"{db} exists already; --demo wants a fresh file, so name another or leave --db out")
    with _bound(host, port) as listener, _scratch() as scratch:
        file = db or (scratch / "demo.sqlite3" if demo else _usual_database())
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            names, paired_at = _known_as(host, port, proxied)
            application = create_app(file, hosts=names, demo=demo, paired_at=paired_at)
        except DamagedFileError as error:
            _fail(f"the database {file} is damaged: {error}\n{_what_to_do(file)}")
        except (OSError, ValueError) as error:
            _fail(f"cannot use the database {file}: {error}")
        warm(application.state.evaluator)
        if not demo:
            copy_daily(file)

        def ready() -> None:
            typer.echo(f"Pebble Wheel on http://{_address(host)}:{port}   (database {file}; stop with Ctrl+C)")
            if paired_at:
                _offer_pairing(application.state.connections, paired_at)
            sys.stdout.flush()

        now_and_then = (lambda: None) if demo else (lambda: copy_daily(file))
        serve_application(application, listener, workers or usual_workers(), ready, now_and_then)


Database = Annotated[Path | None, typer.Option("--db", help="the database file; the usual one if left out")]


@app.command()
def backup(
    to: Annotated[Path | None, typer.Argument(help="the copy's file; beside the database if left out")] = None,
    db: Database = None,
) -> None:
    """Copy the database, also while it is in use."""
    from pebble_wheel.store.copies import copy_beside, copy_to

    file = db or _usual_database()
    with _store_faults_to_exit(file):
        if to is not None and to.exists():
            _fail(f"{to} exists already; name a new file")
        if to is None:
            to = copy_beside(file)
        else:
            copy_to(file, to)
    typer.echo(f"copied to {to}")


@app.command()
def restore(
    copy: Annotated[Path, typer.Argument(help="a copy that backup made, or that was made of itself")],
    db: Database = None,
) -> None:
    """Make the database what a copy of it is; what it was is copied beside it first."""
    from pebble_wheel.store.copies import put_back

    file = db or _usual_database()
    with _store_faults_to_exit(copy):
        before = put_back(copy, file)
    typer.echo(f"{file} is what {copy} is" + (f"; what it was stands in {before}" if before else ""))


@app.command(name="export")
def export_all(
    to: Annotated[Path, typer.Argument(help="the file to write, a zip of JSON")],
    db: Database = None,
) -> None:
    """Write everything that is kept into one open file."""
    from pebble_wheel.store.database import opened, prepare
    from pebble_wheel.store.notebook import export

    file = db or _usual_database()
    if to.exists():
        _fail(f"{to} exists already; name a new file")
    with _store_faults_to_exit(file):
        _there(file)
        prepare(file)
        with opened(file) as connection:
            packed = export(connection)
    _write_whole(to, packed)
    typer.echo(f"written to {to}")


@app.command(name="import")
def import_all(
    packed: Annotated[Path, typer.Argument(metavar="FILE", help="a file that export wrote")],
    db: Database = None,
) -> None:
    """Take in everything that a file holds; what is there already is not doubled."""
    from pebble_wheel.store.copies import copy_beside
    from pebble_wheel.store.database import opened, prepare
    from pebble_wheel.store.notebook import read

    file, data = db or _usual_database(), _file_bytes(str(packed))
    with _store_faults_to_exit(file), _faults_to_exit():
        file.parent.mkdir(parents=True, exist_ok=True)
        prepare(file, before=lambda old, _: copy_beside(old))
        copy_beside(file)
        with opened(file) as connection:
            taken = read(connection, data)
    typer.echo(f"{taken.added} added, {taken.changed} changed, {taken.known} there already")


@app.command()
def check(
    db: Database = None,
    salvage: Annotated[Path | None, typer.Option(help="save what can be read into this new database")] = None,
) -> None:
    """Look through the database whole; nothing of it is changed."""
    from pebble_wheel.store.check import check as looked_through
    from pebble_wheel.store.check import salvage as saved_into

    file = db or _usual_database()
    with _store_faults_to_exit(file):
        report = looked_through(file)
        for line in (*report.faults, *report.damaged):
            typer.echo(line)
        typer.echo("whole" if report.whole else "damaged; --salvage FILE saves what can be read")
        typer.echo(f"{report.count} designs")
        if salvage is not None:
            done = saved_into(file, salvage)
            typer.echo(f"{done.saved} rows saved into {salvage}, {done.lost} could not be read")
    if not report.whole:
        sys.exit(1)


@app.command()
def count(
    source: Annotated[str, typer.Option("--from", help="/dev/ttyUSB0, tcp://host:port, a file, or -")],
    to: Annotated[str, typer.Option("--to", help="address of the run, as the wheel screen says it")],
) -> None:
    """Send the lines of a counter to a run."""
    from pebble_wheel.devices.sending import NotTakenError, send
    from pebble_wheel.devices.transports import SourceError, lines_from

    try:
        sent = send(lines_from(source), to)
    except (SourceError, NotTakenError) as error:
        _fail(str(error))
    typer.echo(f"{sent} lines sent")


@app.command()
def simulate_wheel(
    turns_per_m: Annotated[float, typer.Option(min=1, max=5000, help="twist that is spun")] = 140.0,
    draft: Annotated[float, typer.Option(min=10, max=5000, help="length of a draft, mm")] = 400.0,
    ratio: Annotated[float, typer.Option(min=0.5, max=60, help="flyer turns to a treadle")] = 7.0,
    drafts: Annotated[int, typer.Option(min=1, max=100_000, help="how many")] = 60,
    way: Annotated[str, typer.Option(help="Z or S")] = "Z",
    drift_from: Annotated[int, typer.Option(help="draft from which on the twist is short; none below 0")] = -1,
    pause_at: Annotated[int, typer.Option(help="draft after which it stands still a while; none below 0")] = -1,
    wrong_way: Annotated[bool, typer.Option("--wrong-way", help="turn the other way")] = False,
    live: Annotated[bool, typer.Option("--live", help="as fast as a wheel, not at once")] = False,
    seed: Annotated[int, typer.Option(help="another spinner")] = 1,
) -> None:
    """Print what a counter on a simulated wheel tells."""
    import time

    from pebble_wheel.devices.protocol import Line, Way, write_line
    from pebble_wheel.devices.simulated import Script, simulated

    if way not in ("Z", "S"):
        _fail("--way takes Z or S")
    script = Script(
        turns_per_m,
        draft,
        ratio,
        drafts=drafts,
        way=cast(Way, way),
        drift_from=drift_from,
        pause_at=pause_at,
        wrong_way=wrong_way,
        seed=seed,
    )
    before = 0.0
    for line in simulated(script):
        if live and isinstance(line, Line):
            time.sleep(max(line.t - before, 0.0))
            before = line.t
        typer.echo(write_line(line))
        sys.stdout.flush()


def main() -> None:
    """Run the command line; what cannot be written where it was sent is said."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # of a terminal that has not all letters
    try:
        try:
            app()
        finally:
            sys.stdout.flush()
    except BrokenPipeError:
        _let_go_of_output()
        sys.exit(1)
    except OSError as error:
        _let_go_of_output()
        with suppress(OSError):
            typer.echo(f"this could not be written: {error.strerror or error}", err=True)
        sys.exit(1)


def _let_go_of_output() -> None:
    """Send what is still to be written nowhere, or Python would try again on its way out."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _usual_database() -> Path:
    return Path(typer.get_app_dir("pebble-wheel")) / "pebble-wheel.sqlite3"


_SCRATCH = "pebble-wheel-"


@contextmanager
def _scratch() -> Iterator[Path]:
    """Yield a folder for a demo; folders of runs that were killed are cleared away."""
    for left in Path(tempfile.gettempdir()).glob(f"{_SCRATCH}*"):
        owner = left.name.removeprefix(_SCRATCH).partition("-")[0]
        if owner.isdecimal() and not _runs(int(owner)):
            shutil.rmtree(left, ignore_errors=True)
    with tempfile.TemporaryDirectory(prefix=f"{_SCRATCH}{os.getpid()}-") as folder:
        yield Path(folder)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


@contextmanager
def _faults_to_exit() -> Iterator[None]:
    try:
        yield
    except InputError as error:
        _fail(str(error))


@contextmanager
def _store_faults_to_exit(file: Path) -> Iterator[None]:
    from pebble_wheel.store.database import DatabaseError

    try:
        yield
    except DatabaseError as error:
        _fail(f"{file}: {error}")


def _what_to_do(file: Path) -> str:
    from pebble_wheel.store.copies import copies_of

    copies = copies_of(file)
    salvage = f"save what can be read of it: pebble-wheel check --db {file} --salvage NEW-FILE"
    return (
        f"put back the last copy: pebble-wheel restore --db {file} {copies[0].file}\n{salvage}" if copies else salvage
    )


def _there(file: Path) -> None:
    if not file.exists():
        _fail(f"{file}: there is no such file")


def _write_whole(to: Path, data: bytes) -> None:
    """Write a file whole or not at all."""
    half = to.with_name(f".{to.name}.{os.getpid()}.half")
    try:
        half.write_bytes(data)
        half.replace(to)
    except OSError as error:
        with suppress(OSError):
            half.unlink(missing_ok=True)
        _fail(f"{to}: cannot be written: {error.strerror or error}")


def _fail(message: str) -> NoReturn:
    typer.echo(message, err=True)
    sys.exit(BAD_INPUT)


def _is_file(name: str) -> bool:
    try:
        return Path(name).is_file()
    except OSError:  # a designation may be longer than any file name
        return False


def _file_bytes(name: str) -> bytes:
    try:
        return Path(name).read_bytes()
    except OSError as error:
        _fail(f"{name}: cannot be read: {error.strerror}")


def _known_as(host: str, port: int, proxied: str) -> tuple[list[str], str]:
    """Return the names that the application answers to, and the address other devices pair at, if any can come."""
    if proxied:
        told = urlsplit(proxied if "//" in proxied else f"https://{proxied}")
        if not told.hostname:
            _fail(f"{proxied} is no address; --proxied takes one like https://yarn.example")
        return [host, told.hostname], f"{told.scheme}://{told.netloc}"
    if host in _THIS_MACHINE:
        return [host], ""
    shown = _own_address() if host in _EVERYWHERE else host
    return [host, shown, socket.gethostname()], f"http://{_address(shown)}:{port}"


_THIS_MACHINE, _EVERYWHERE = ("127.0.0.1", "localhost", "::1"), ("0.0.0.0", "::")  # noqa: S104 - to tell them apart


def _own_address() -> str:
    """Return the address of this machine in its network; nothing is sent to find out."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # a documentation address, never reached
        except OSError:
            return "127.0.0.1"
        return str(probe.getsockname()[0])


def _offer_pairing(connections: "Connections", paired_at: str) -> None:
    """Print the link that pairs one device, also as a code to be read by its camera."""
    import segno

    from pebble_wheel.store.devices import new_link
    from pebble_wheel.web.pairing import PATH
    from pebble_wheel.wording.messages import UNENCRYPTED

    with connections.lent() as connection:
        link = f"{paired_at}{PATH}{new_link(connection)}"
    typer.echo(f"Pair a device, once, with {link}")
    segno.make(link, micro=False).terminal(compact=True)
    if link.startswith("http://"):
        typer.echo(UNENCRYPTED)


def _address(host: str) -> str:
    return f"[{host}]" if ":" in host else host


_WHY_NOT_BOUND = {
    errno.EADDRINUSE: "port {port} on {host} is taken; stop what runs there, or choose another with --port {next}",
    errno.EADDRNOTAVAIL: "{host} is not an address of this machine; --host 127.0.0.1 is for this machine alone",
    errno.EACCES: "port {port} may not be used by you; choose one above 1023 with --port {usual}",
}


_WAITING = 2048
"""Connections that may wait to be taken in."""


@contextmanager
def _bound(host: str, port: int) -> Iterator[socket.socket]:
    """Yield a socket bound to an address, or say why it cannot be."""
    try:
        family, kind, protocol, _, address = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0]
    except (socket.gaierror, UnicodeError):
        _fail(f"{host} is not known; --host takes an address or a name of this machine")
    with socket.socket(family, kind, protocol) as listener:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(address)
            listener.listen(_WAITING)
        except OSError as error:
            why = _WHY_NOT_BOUND.get(error.errno or 0, "{host}:{port} cannot be listened on")
            _fail(why.format(host=host, port=port, next=port % 65535 + 1, usual=8000))
        yield listener
