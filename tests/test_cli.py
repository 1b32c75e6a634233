"""The command line: what it prints and how it refuses."""

import json
import os
import socket
import subprocess
import sys
from pathlib import Path

import pytest
from typer.testing import CliRunner

from pebble_wheel.cli import app
from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.store import copies, database
from tests.web.test_pages import DESIGN

COMMAND = str(Path(sys.executable).with_name("pebble-wheel"))


def run(*arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([COMMAND, *arguments], capture_output=True, text=True, timeout=60, check=False)


@pytest.fixture
def design(tmp_path):
    file = tmp_path / "cable.json"
    file.write_text(json.dumps(DESIGN), "utf-8")
    return file


def test_a_file_and_the_web_answer_alike(design, demo_http):
    printed = run("evaluate", str(design), "--json")
    assert printed.returncode == 0
    assert json.loads(printed.stdout) == demo_http.post("/api/evaluate", json=DESIGN).json()


def test_a_designation_is_read_in_words():
    printed = run("evaluate", "34 tex S 600 x 2 Z 400; R 69,3 tex", "--fibre", "merino", "--prep", "combed")
    assert printed.returncode == 0
    assert "34 tex S 600 x 2 Z 400; R" in printed.stdout and "stated        R 69.3 tex" in printed.stdout
    assert "Z 400/2 S 600; 34 tex" in printed.stdout


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (["34 tex Q"], "character 8: expected a twist"),
        (["34 tex S 600", "--fibre", "unicorn"], "unknown fibre 'unicorn'"),
        (["34 tex S 600", "--prep", "boiled"], "yarn.prep"),
        (["34 tex S 600", "--wash", "boil"], "--wash takes none, steam"),
        (["3" * 400], "character 10: expected a single"),
        (["3" * 5000 + ".json"], "cannot be read"),
        (["missing.json"], "missing.json: cannot be read"),
        (["34 tex S 600 x 3 Z 2000"], "yarn.twist: no more turns fit"),
    ],
)
def test_bad_input_is_exit_2_with_one_line_a_fault(arguments, message):
    refused = CliRunner().invoke(app, ["evaluate", *arguments])
    assert refused.exit_code == 2 and refused.stdout == ""
    assert message in refused.stderr and isinstance(refused.exception, SystemExit)


def test_every_fault_of_a_file_has_its_line(tmp_path):
    bad = tmp_path / "bad.json"
    bad.write_text(json.dumps(DESIGN).replace('"tex": 150', '"tex": -1, "weight": 2'), "utf-8")
    refused = run("evaluate", str(bad))
    assert refused.returncode == 2
    assert {line.split(": ")[0] for line in refused.stderr.splitlines()} == {
        "yarn.strands[0].strands[0].tex",
        "yarn.strands[0].strands[0].weight",
    }


def test_a_taken_port_is_said_plainly(tmp_path):
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        refused = run("serve", "--db", str(tmp_path / "a.sqlite3"), "--port", str(port))
    assert refused.returncode == 2 and f"port {port} on 127.0.0.1 is taken" in refused.stderr
    assert "--port" in refused.stderr


def test_a_file_that_is_no_database_is_refused(tmp_path):
    notes = tmp_path / "notes.txt"
    notes.write_text("a fleece, washed twice\n" * 60)
    refused = run("serve", "--db", str(notes), "--port", "1")
    assert refused.returncode == 2 and "Traceback" not in refused.stderr
    demo = run("serve", "--demo", "--db", str(notes), "--port", "8999")
    assert demo.returncode == 2 and "exists already" in demo.stderr


def test_evaluating_imports_neither_pages_nor_units_nor_solvers():
    """What it does not need and is slow to import would be most of its time."""
    script = (
        "import sys; from typer.testing import CliRunner; from pebble_wheel.cli import app; "
        "done = CliRunner().invoke(app, ['evaluate', '34 tex S 600 x 2 Z 400']); assert done.exit_code == 0, done; "
        "print([each for each in ('scipy', 'pint', 'fastapi', 'jinja2', 'sqlite3', 'uvicorn') if each in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_output_that_cannot_be_written_is_said(tmp_path):
    with Path("/dev/full").open("w") as full:
        command = [COMMAND, "evaluate", "34 tex S 600 x 2 Z 400"]
        done = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert done.returncode == 1 and "could not be written: No space left" in done.stderr
    assert "Traceback" not in done.stderr
    narrow = subprocess.run(
        command, capture_output=True, env={**os.environ, "PYTHONIOENCODING": "ascii", "LC_ALL": "C"}, check=False
    )
    assert narrow.returncode == 0 and b"34 tex S 600 x 2 Z 400" in narrow.stdout


@pytest.mark.parametrize(
    ("host", "message"), [("192.0.2.77", "is not an address of this machine"), ("no.such.host.invalid", "is not known")]
)
def test_a_host_that_is_not_here_is_said_as_such(tmp_path, host, message):
    refused = run("serve", "--db", str(tmp_path / "a.sqlite3"), "--host", host, "--port", "8997")
    assert refused.returncode == 2 and f"{host} {message}" in refused.stderr


def test_the_store_is_copied_written_out_and_back_on_the_command_line(tmp_path):
    first, second = (["--db", str(tmp_path / f"{name}.sqlite3")] for name in ("first", "second"))
    database.prepare(tmp_path / "first.sqlite3")
    with database.opened(tmp_path / "first.sqlite3") as connection:
        fill(connection)
    copy, written = str(tmp_path / "copy.sqlite3"), str(tmp_path / "all.zip")
    for arguments, said in (
        (["backup", copy, *first], f"copied to {copy}"),
        (["backup", *first], "first-copies"),
        (["export", written, *first], f"written to {written}"),
        (["import", written, *second], "482 added, 1 changed, 0 there already"),
        (["import", written, *second], "0 added, 0 changed, 483 there already"),
        (["check", *second], "whole\n11 designs"),
        (["restore", copy, *second], "what it was stands in"),
    ):
        done = CliRunner().invoke(app, arguments)
        assert done.exit_code == 0 and said in done.stdout, (arguments, done.output)
    for arguments, said in (
        (["backup", copy, *first], "exists already"),
        (["export", written, *first], "exists already"),
        (["import", copy, *first], "no zip file"),
        (["restore", written, *first], "it is no database"),
        (["check", "--db", str(tmp_path / "none.sqlite3")], "there is no such file"),
        (["export", str(tmp_path / "b.zip"), "--db", str(tmp_path / "none.sqlite3")], "there is no such file"),
    ):
        refused = CliRunner().invoke(app, arguments)
        assert refused.exit_code == 2 and said in refused.stderr, (arguments, refused.output)
    with database.opened(tmp_path / "first.sqlite3") as connection:
        connection.execute("UPDATE design SET name = 'Other' WHERE id = 1")
    damaged = CliRunner().invoke(app, ["check", *first, "--salvage", str(tmp_path / "saved.sqlite3")])
    assert damaged.exit_code == 1 and "design 1, “Other”" in damaged.stdout and "479 rows saved" in damaged.stdout


def test_a_broken_database_is_refused_with_what_to_do(tmp_path):
    file = tmp_path / "yarn.sqlite3"
    database.prepare(file)
    copies.copy_beside(file)
    raw = bytearray(file.read_bytes())
    raw[4096:4300] = b"\xff" * 204
    file.write_bytes(raw)
    refused = run("serve", "--db", str(file), "--port", "8996")
    assert refused.returncode == 2 and "is damaged" in refused.stderr and "Traceback" not in refused.stderr
    assert f"pebble-wheel restore --db {file}" in refused.stderr and "--salvage" in refused.stderr
