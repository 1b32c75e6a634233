"""The program as it is run: several processes behind one address, hard stops, slow senders, and who may write."""

import asyncio
import os
import re
import signal
import socket
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest

from pebble_wheel.notation.draft import write_draft
from pebble_wheel.web import guard, serving
from pebble_wheel.workshop.starts import start
from tests.conftest import PATIENCE


def free_port() -> int:
    with socket.create_server(("127.0.0.1", 0)) as found:
        return found.getsockname()[1]


@contextmanager
def running(*arguments: str, folder: Path, workers: int = 2):
    """The program itself, with its address; it is told to end, and does."""
    port = free_port()
    program = str(Path(sys.executable).with_name("pebble-wheel"))
    command = [program, "serve", "--port", str(port), "--workers", str(workers), *arguments]
    environment = {**os.environ, "TMPDIR": str(folder), "OPENBLAS_NUM_THREADS": "1"}
    program = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        assert "Pebble Wheel on" in program.stdout.readline(), program.stderr.read()
        yield f"http://127.0.0.1:{port}", program
        if program.poll() is None:
            program.send_signal(signal.SIGTERM)
            assert program.wait(15) == 0, program.stderr.read()
    finally:
        program.kill()
        program.wait()
        for stream in (program.stdout, program.stderr):
            stream.close()


def children(program, count: int) -> list[int]:
    """The processes that answer, once there are so many."""
    deadline = time.monotonic() + PATIENCE
    while True:
        told = Path(f"/proc/{program.pid}/task/{program.pid}/children").read_text().split()
        if len(told) == count:
            return [int(each) for each in told]
        assert time.monotonic() < deadline, told
        time.sleep(0.02)


def sent(name: str) -> dict[str, str]:
    return {"draft": write_draft(start("2-ply")), "of": "yarn", "at": "yarn", "name": name}


def test_several_processes_answer_and_one_that_dies_is_replaced(tmp_path):
    with running("--demo", folder=tmp_path) as (address, program):
        assert len(list(tmp_path.iterdir())) == 1
        before = children(program, 2)
        os.kill(before[0], signal.SIGKILL)
        deadline = time.monotonic() + PATIENCE
        while before[0] in children(program, 2):
            assert time.monotonic() < deadline
            time.sleep(0.02)
        for _ in range(6):  # each by a connection of its own
            assert httpx.get(f"{address}/", timeout=PATIENCE).status_code == 200
    assert list(tmp_path.iterdir()) == []  # and no folder is left


def test_folders_of_demos_that_were_killed_are_cleared_away(tmp_path):
    with running("--demo", folder=tmp_path, workers=1) as (_, program):
        workers = children(program, 1)
        program.kill()
        program.wait()
        for each in workers:  # which end by themselves, their foreman being gone
            deadline = time.monotonic() + PATIENCE
            while Path(f"/proc/{each}").exists() and "Z" not in Path(f"/proc/{each}/stat").read_text().split()[2]:
                assert time.monotonic() < deadline
                time.sleep(0.02)
    assert len(list(tmp_path.iterdir())) == 1
    with running("--demo", folder=tmp_path, workers=1):
        assert len(list(tmp_path.iterdir())) == 1


def test_a_head_that_is_half_sent_is_hung_up_on(monkeypatch, address):
    monkeypatch.setattr(serving, "HEAD_PATIENCE", 0.3)
    host, port = re.match(r"http://(.*):(\d+)", address).groups()
    whole, half = b"GET /static/x/y HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n", b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n"
    for first, said in ((b"", b""), (b"", half), (whole, half)):
        with socket.create_connection((host, int(port)), 5) as slow:
            slow.settimeout(5)
            if first:
                slow.sendall(first)
                assert slow.recv(65536).startswith(b"HTTP/1.1 404")
            slow.sendall(said)
            began = time.monotonic()
            while slow.recv(4096):
                pass
            assert time.monotonic() - began < 4


def test_a_body_that_is_half_sent_is_given_up(monkeypatch, server, address):
    host, port = re.match(r"http://(.*):(\d+)", address).groups()
    assert (
        httpx.get(address, follow_redirects=True, timeout=PATIENCE).status_code == 200
    )  # before the first request there is no stack
    stack = server.app.middleware_stack
    while not isinstance(stack, guard.Guard):
        stack = stack.app
    monkeypatch.setattr(stack, "patience", 0.3)
    with socket.create_connection((host, int(port)), 5) as slow:
        slow.sendall(b"POST /settings HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 50\r\n\r\nunits=")
        assert b"408" in slow.recv(4096).split(b"\r\n")[0]


@pytest.mark.parametrize("length", ["9" * 400, "-1", "x", "1e3", "²"])
def test_a_length_that_is_none_is_refused(address, length):
    host, port = re.match(r"http://(.*):(\d+)", address).groups()
    with socket.create_connection((host, int(port)), 5) as odd:
        odd.sendall(f"POST /settings HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: {length}\r\n\r\n".encode())
        assert odd.recv(4096).split()[1] in (b"400", b"413")


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 303),
        ({"origin": "http://{host}"}, 303),
        ({"origin": "https://{host}"}, 403),
        ({"origin": "https://{host}", "x-forwarded-proto": "https"}, 303),
        ({"origin": "http://["}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://{host}", "sec-fetch-site": "cross-site"}, 403),
        ({"sec-fetch-site": "same-origin", "origin": "http://elsewhere"}, 403),
    ],
)
def test_only_our_own_pages_write(http, headers, status):
    host = http.base_url.netloc.decode()
    given = {name: value.replace("{host}", host) for name, value in headers.items()}
    assert http.post("/settings", data={"units": "imperial"}, headers=given).status_code == status


@pytest.mark.parametrize(
    ("origin", "let_in"), [(b"http://here:8000", True), (b"https://here:8000", False), (b"http://[", False)]
)
def test_a_websocket_passes_the_same_check_as_a_write(origin, let_in):
    came, said = [], []

    async def app(scope, receive, send):
        came.append(scope["path"])

    async def send(message):
        said.append(message["type"])

    scope = {
        "type": "websocket",
        "scheme": "ws",
        "path": "/count",
        "headers": [(b"host", b"here:8000"), (b"origin", origin)],
    }
    with ThreadPoolExecutor(1) as apart:  # a browser of another test may hold the loop of this thread
        apart.submit(asyncio.run, guard.Guard(app)(scope, None, send)).result()
    assert (came, said) == ((["/count"], []) if let_in else ([], ["websocket.close"]))


def test_quick_answers_are_given_in_turn_and_a_long_one_gives_up_its_turn():
    """Each is told how long it takes; what is noted is who began and who was done."""
    noted = []

    async def app(scope, receive, send):
        noted.append(f"{scope['path']} begun")
        await asyncio.sleep(scope["takes"])
        noted.append(f"{scope['path']} done")
        if scope["path"] == "faulty":
            raise ValueError

    async def side_by_side(*several):
        turns = guard.InTurn(app)
        scopes = [{"type": "http", "path": path, "takes": takes} for path, takes in several]
        await asyncio.gather(*(turns(each, None, None) for each in scopes), return_exceptions=True)

    def asked(*several):
        with ThreadPoolExecutor(1) as apart:  # a browser of another test may hold the loop of this thread
            apart.submit(asyncio.run, side_by_side(*several)).result()

    asked(("one", 0.02), ("faulty", 0.02), ("other", 0.0))
    assert noted == [f"{each} {what}" for each in ("one", "faulty", "other") for what in ("begun", "done")]
    noted.clear()
    asked(("long", 4 * guard.LONG), ("quick", 0.0), ("next", 0.0))
    assert noted[0] == "long begun" and noted[-1] == "long done" and "next done" in noted
