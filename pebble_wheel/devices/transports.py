"""What carries the lines of a counter: a serial port, TCP, a file or standard input, all of one shape."""

import socket
import sys
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from urllib.parse import urlsplit

import serial

BAUD = 115_200
LONGEST_READ = 4096


class SourceError(ValueError):
    """A source that cannot be opened, or does not go on."""


def lines_from(source: str) -> Iterator[str]:
    """Yield the lines of a counter as they come, whatever carries them.

    Args:
        source: ``/dev/ttyUSB0``, ``tcp://host:port``, a file, or ``-`` for standard input.

    Raises:
        SourceError: where it cannot be opened or breaks off.
    """
    try:
        if source == "-":
            yield from (line.rstrip("\r\n") for line in sys.stdin)
        elif source.startswith("tcp://"):
            yield from _by_tcp(source)
        elif source.startswith("/dev/") or source.upper().startswith("COM"):
            yield from _by_serial(source)
        else:
            with Path(source).open(encoding="utf-8", errors="replace") as file:
                yield from (line.rstrip("\r\n") for line in file)
    except OSError as error:
        raise SourceError(f"{source}: {error.strerror or error}") from error


def _by_tcp(source: str) -> Iterator[str]:
    told = urlsplit(source)
    try:
        host, port = told.hostname, told.port
    except ValueError:
        host, port = None, None
    if not host or not port:
        raise SourceError(f"{source}: write it like tcp://host:port")
    with socket.create_connection((host, port), timeout=10) as connection:
        connection.settimeout(None)
        with connection.makefile("r", encoding="utf-8", errors="replace", newline="\n") as stream:
            yield from (line.rstrip("\r\n") for line in stream)


def _by_serial(source: str) -> Iterator[str]:
    try:
        port = serial.Serial(source, BAUD, timeout=None)
    except serial.SerialException as error:
        raise SourceError(f"{source}: {error}") from error
    with closing(port):
        while True:
            line = port.readline(LONGEST_READ)
            if not line:
                return
            yield line.decode("utf-8", "replace").rstrip("\r\n")
