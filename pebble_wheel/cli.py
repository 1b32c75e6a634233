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
from typing import Annotated, NoReturn, cast

import typer

from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.wash.bloom import DRYING, WASH
from pebble_wheel.notation.design import FinishModel, read_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.iso1139 import DEFAULT_FIBRE, read_designation

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
) -> None:
    """Print the reading of a design."""
    from pebble_wheel.wording.answer import answer_of, answer_words
    from pebble_wheel.workshop.evaluator import Evaluator

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
        answer = answer_of(read, Evaluator().read(read))
    typer.echo(answer.model_dump_json(indent=1) if as_json else answer_words(read, answer, stated))


@app.command()
def serve(
    db: Annotated[Path | None, typer.Option(help="the database file; made if missing")] = None,
    host: Annotated[str, typer.Option(help="address to listen on")] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535, help="port to listen on")] = 8000,
    workers: Annotated[int, typer.Option(min=0, max=64, help="processes that answer; 0 for one a core, at most 4")] = 0,
    demo: Annotated[bool, typer.Option("--demo", help="start on a fresh demo database")] = False,
) -> None:
    """Run the application."""
    from pebble_wheel.web.app import create_app, warm
    from pebble_wheel.web.serving import serve as serve_application
    from pebble_wheel.web.serving import usual_workers

    if demo and db and db.exists():
        _fail(f"{db} exists already; --demo wants a fresh file, so name another or leave --db out")
    with _bound(host, port) as listener, _scratch() as scratch:
        file = db or (scratch / "demo.sqlite3" if demo else _usual_database())
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            application = create_app(file, hosts=[host], demo=demo)
        except (OSError, ValueError) as error:
            _fail(f"cannot use the database {file}: {error}")
        warm(application.state.evaluator)
        typer.echo(f"Pebble Wheel on http://{_address(host)}:{port}   (database {file}; stop with Ctrl+C)")
        sys.stdout.flush()
        serve_application(application, listener, workers or usual_workers())


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
