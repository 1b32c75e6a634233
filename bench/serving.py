"""A real server on a free port of this machine, for measuring, for pictures and for the browser tests."""

import socket
import sqlite3
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import uvicorn
from fastapi import FastAPI

from pebble_wheel.store.database import opened
from pebble_wheel.web.app import create_app, warm
from pebble_wheel.web.serving import config_of


@contextmanager
def serving(
    demo: bool = False,
    application: FastAPI | None = None,
    filled: Callable[[sqlite3.Connection], None] | None = None,
    warmed: bool = False,
) -> Iterator[str]:
    """Serve the application on a fresh database, or another application, and yield its address.

    ``warmed`` as the program itself is before it answers.
    """
    # Naming the protocol makes asyncio send small answers at once, as it does when it binds the port itself.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    with tempfile.TemporaryDirectory() as folder, listener:
        listener.bind(("127.0.0.1", 0))
        file = Path(folder) / "yarn.sqlite3"
        app = application or create_app(file, demo=demo)
        if filled:
            with opened(file) as connection:
                filled(connection)
        if warmed:
            warm(app.state.evaluator)
        server = uvicorn.Server(config_of(app))
        thread = threading.Thread(target=server.run, args=([listener],), daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.01)
        try:
            yield f"http://127.0.0.1:{listener.getsockname()[1]}"
        finally:
            server.should_exit = True
            thread.join(10)
