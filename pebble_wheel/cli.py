"""The command line: ``pebble-wheel serve`` and ``pebble-wheel evaluate``.

What only one command needs is imported in it, so that each starts as light as it can.
"""

import socket
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
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
    demo: Annotated[bool, typer.Option("--demo", help="start on a fresh demo database")] = False,
) -> None:
    """Run the application."""
    import uvicorn

    from pebble_wheel.web.app import create_app, warm

    if demo and db and db.exists():
        _fail(f"{db} exists already; --demo wants a fresh file, so name another or leave --db out")
    if _taken(host, port):
        _fail(f"port {port} on {host} is taken; stop what runs there, or choose another with --port {port + 1}")
    with tempfile.TemporaryDirectory(prefix="pebble-wheel-") as scratch:
        kept = Path(typer.get_app_dir("pebble-wheel")) / "pebble-wheel.sqlite3"
        file = db or (Path(scratch) / "demo.sqlite3" if demo else kept)
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            application = create_app(file, hosts=[host], demo=demo)
        except (OSError, ValueError) as error:
            _fail(f"cannot use the database {file}: {error}")
        warm(application.state.evaluator)
        typer.echo(f"Pebble Wheel on http://{host}:{port}   (database {file}; stop with Ctrl+C)")
        uvicorn.run(application, host=host, port=port, log_level="warning", server_header=False)


def main() -> None:
    """Run the command line."""
    app()


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


def _taken(host: str, port: int) -> bool:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return True
    return False
