"""The command line: ``pebble-wheel serve`` and ``pebble-wheel evaluate``."""

import socket
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, NoReturn, cast

import typer
import uvicorn

from pebble_wheel.mechanics.fibre.packing import Prep
from pebble_wheel.mechanics.wash.bloom import DRYING, WASH
from pebble_wheel.notation.design import Design, FinishModel, read_design
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.iso1139 import DEFAULT_FIBRE, fold_to_single, read_designation, unsayable
from pebble_wheel.web.app import create_app, warm
from pebble_wheel.workshop.answer import Answer, answer_of, read_of

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
        answer = answer_of(read, read_of(read))
    typer.echo(answer.model_dump_json(indent=1) if as_json else _in_words(read, answer, stated))


@app.command()
def serve(
    db: Annotated[Path | None, typer.Option(help="the database file; made if missing")] = None,
    host: Annotated[str, typer.Option(help="address to listen on")] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535, help="port to listen on")] = 8000,
    demo: Annotated[bool, typer.Option("--demo", help="start on a fresh demo database")] = False,
) -> None:
    """Run the application."""
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
        warm()
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


def _in_words(design: Design, answer: Answer, stated_tex: float | None) -> str:
    plied, washed, balance = answer.wpi.as_plied, answer.wpi.finished, answer.balance
    lines = [
        f"{design.name}",
        f"  designation   {answer.designation or unsayable(design.yarn)}",
        f"  size          {answer.resultant_tex:.0f} tex, {answer.grist_yd_per_lb:.0f} yd/lb",
    ]
    made = {level.path: level.turns_per_m_as_made for level in answer.levels}
    if folded := fold_to_single(design.yarn, made, answer.resultant_tex):
        lines.append(f"  fold first    {folded}")
    if stated_tex is not None:
        off = 100 * (answer.resultant_tex / stated_tex - 1)
        lines.append(f"  stated        R {stated_tex:g} tex; computed is {off:+.1f} % off it")
    lines += [
        f"  wraps/inch    {plied.p10:.0f} to {plied.p90:.0f} as plied, {washed.p10:.0f} to {washed.p90:.0f} finished",
        f"  diameter      {answer.diameter_mm.as_plied.p50:.2f} mm as plied, "
        f"{answer.diameter_mm.finished.p50:.2f} mm finished",
        f"  balance       {balance.verdict}"
        + (f", {balance.ratio:.2f} of the balanced twist" if balance.ratio is not None else "")
        + (
            "; the strands hang quiet by themselves"
            if balance.balanced_turns_per_m == 0 and len(answer.levels) > 1
            else ""
        ),
        f"  room          strands {answer.jamming:.0%} full of turns",
        "  level                     made        now   angle  take-up  lies  m in 1 m",
    ]
    for level in answer.levels:
        lines.append(
            f"  {level.path:22s} {level.direction} {level.turns_per_m_as_made:5.0f} t/m  {level.turns_per_m_now:5.0f}"
            f"  {level.angle_deg:5.1f}°  {level.take_up_percent:5.1f} %  {level.lies_deg:3.0f}°"
            f"  {level.metres_per_metre:6.2f}" + (f"  × {level.count}" if level.count > 1 else "")
        )
    for warning in answer.warnings:
        lines += ["", f"  {warning.text}", f"    why: {warning.why}", f"    do:  {warning.do}"]
    return "\n".join(lines)
