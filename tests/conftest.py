"""One real server for each worker, on a database of each test's own or on the demo."""

import os
import shutil
import ssl
from dataclasses import dataclass
from pathlib import Path

import httpx
import pytest
from fastapi import FastAPI
from hypothesis import settings

from bench.serving import serving
from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.store.database import opened, prepare
from pebble_wheel.store.pool import Connections
from pebble_wheel.web.app import create_app
from pebble_wheel.workshop import photographed

# The programs that tests start read what was compiled once, even where nothing else is to be written.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ["PYTHONPYCACHEPREFIX"] = str(Path(__file__).parent.parent / ".pytest_cache" / "compiled")

settings.register_profile("suite", max_examples=40, deadline=None, derandomize=True)
settings.register_profile("few", max_examples=8, deadline=None, derandomize=True)
settings.register_profile("long", max_examples=3000, deadline=None)
settings.load_profile("suite")

PATIENCE = 60.0
"""Seconds that a busy machine may take for what is not measured."""

UNSIGNED = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)


@pytest.fixture(scope="session", autouse=True)
def patience():
    """Let looking at photos take its time, but where it is tried that it is ended."""
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(photographed, "LONGEST", PATIENCE)
        yield


@dataclass
class Server:
    """The server of a worker; which database it has is for each test to say."""

    address: str
    app: FastAPI
    empty: Path

    def turn_to(self, database: Path) -> str:
        """Serve a database from now on."""
        self.app.state.connections = Connections(database)
        return self.address


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    empty = tmp_path_factory.mktemp("server") / "empty.sqlite3"
    app = create_app(empty)
    with serving(application=app) as address:
        yield Server(address, app, empty)


@pytest.fixture(scope="session")
def demo(tmp_path_factory):
    """A database of the demo that no test changes."""
    file = tmp_path_factory.mktemp("demo") / "demo.sqlite3"
    prepare(file)
    with opened(file) as connection:
        fill(connection)
    return file


@pytest.fixture
def furnish(demo):
    """Make an empty store the demo, page by page."""

    def copied(connection):
        with opened(demo) as source:
            source.backup(connection)

    return copied


@pytest.fixture
def demo_address(server, demo):
    """The server on the demo."""
    return server.turn_to(demo)


@pytest.fixture
def address(server, tmp_path):
    """The server on an empty shelf of the test's own."""
    return server.turn_to(Path(shutil.copy(server.empty, tmp_path / "yarn.sqlite3")))


@pytest.fixture
def http(address):
    with client_of(address) as client:
        yield client


@pytest.fixture
def demo_http(demo_address):
    with client_of(demo_address) as client:
        yield client


def client_of(address: str) -> httpx.Client:
    """Return a client that reads no certificates, which take longer than most of what is asked here."""
    return httpx.Client(base_url=address, timeout=PATIENCE, verify=UNSIGNED)
