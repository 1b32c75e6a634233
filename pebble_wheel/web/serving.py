"""The application served by several processes: one takes in connections and hands them out, the others answer.

What was made ready before the first visitor is shared between them, since they are forked from one process.
"""

import asyncio
import os
import selectors
import signal
import socket
import sys
from collections.abc import Callable
from contextlib import suppress
from types import FrameType

import uvicorn
from starlette.types import ASGIApp
from uvicorn.protocols.http.h11_impl import H11Protocol

MOST_WORKERS = 4
HEAD_PATIENCE = 10.0
"""Seconds that the head of a request may take to be sent."""
_ENDS = {signal.SIGINT, signal.SIGTERM}
TICK, DYING = 30.0, 10.0
"""Seconds between two looks at what is to be done now and then, and that a process is given to end."""


def usual_workers() -> int:
    """Return how many processes answer where none are named: one a core."""
    return min(os.cpu_count() or 1, MOST_WORKERS)


class PatientProtocol(H11Protocol):
    """HTTP that hangs up where the head of a request is not sent whole in good time."""

    _head: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:
        """Begin to wait."""
        super().connection_made(transport)
        self._wait_for_head()

    def data_received(self, data: bytes) -> None:
        """Take data in, and wait on where it was not the whole head."""
        super().data_received(data)
        if self.cycle is None or self.cycle.response_complete:
            if self._head is None:
                self._wait_for_head()
        else:
            self._stop_waiting()

    def connection_lost(self, exc: Exception | None) -> None:
        """Wait no more."""
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait_for_head(self) -> None:
        self._head = self.loop.call_later(HEAD_PATIENCE, self.transport.close)

    def _stop_waiting(self) -> None:
        if self._head is not None:
            self._head.cancel()
            self._head = None


def config_of(application: ASGIApp) -> uvicorn.Config:
    """Return how an application is served."""
    return uvicorn.Config(application, log_level="warning", server_header=False, http=PatientProtocol, lifespan="off")


class _Worker(uvicorn.Server):
    """A server that is handed its connections."""

    def __init__(self, application: ASGIApp, channel: socket.socket) -> None:
        super().__init__(config_of(application))
        self._channel = channel
        self._opening: set[asyncio.Task[object]] = set()

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Begin to take connections."""
        await self.lifespan.startup()
        self.servers: list[asyncio.Server] = []
        self._channel.setblocking(False)
        asyncio.get_running_loop().add_reader(self._channel, self._taken)
        self.started = True

    def _taken(self) -> None:
        loop = asyncio.get_running_loop()
        with suppress(BlockingIOError):
            _, handles, _, _ = socket.recv_fds(self._channel, 1, 1)
            if not handles:  # the one that hands them out has gone
                loop.remove_reader(self._channel)
                self.should_exit = True
                return
            opened = loop.connect_accepted_socket(self._protocol, socket.socket(fileno=handles[0]))
            task: asyncio.Task[object] = loop.create_task(opened)
            self._opening.add(task)
            task.add_done_callback(self._opening.discard)

    def _protocol(self) -> asyncio.Protocol:
        return PatientProtocol(self.config, self.server_state, self.lifespan.state, asyncio.get_running_loop())


class Foreman:
    """Takes in connections and hands them to workers in turn; a worker that died is replaced."""

    def __init__(self, application: ASGIApp, listener: socket.socket, workers: int) -> None:
        self._application, self._listener = application, listener
        self._workers: dict[int, socket.socket] = {}
        self._count = workers
        self._ending = False

    def run(self, ready: Callable[[], object], now_and_then: Callable[[], object]) -> None:
        """Serve until told to stop."""
        for each in (signal.SIGINT, signal.SIGTERM, signal.SIGCHLD):
            signal.signal(each, self._told)
        for _ in range(self._count):
            self._hire()
        self._listener.setblocking(False)
        woken, wakes = socket.socketpair()
        with selectors.DefaultSelector() as come, woken, wakes:
            woken.setblocking(False)
            wakes.setblocking(False)
            signal.set_wakeup_fd(wakes.fileno(), warn_on_full_buffer=False)
            come.register(self._listener, selectors.EVENT_READ)
            come.register(woken, selectors.EVENT_READ)
            ready()
            while not self._ending:
                if not come.select(TICK):
                    now_and_then()
                self._replace()
                with suppress(BlockingIOError):
                    woken.recv(64)
                with suppress(BlockingIOError, InterruptedError, ConnectionAbortedError):
                    self._hand_out(self._listener.accept()[0])
            signal.set_wakeup_fd(-1)
        self._dismiss()

    def _told(self, number: int, frame: FrameType | None) -> None:
        self._ending = self._ending or number != signal.SIGCHLD

    def _hire(self) -> None:
        ours, theirs = socket.socketpair()
        signal.pthread_sigmask(signal.SIG_BLOCK, _ENDS)  # that none is lost between two processes
        child = os.fork()
        if child == 0:
            ours.close()
            self._listener.close()
            for channel in self._workers.values():
                channel.close()
            signal.set_wakeup_fd(-1)
            for each in (signal.SIGINT, signal.SIGTERM, signal.SIGCHLD):
                signal.signal(each, signal.SIG_DFL)
            signal.pthread_sigmask(signal.SIG_UNBLOCK, _ENDS)
            code = 0
            try:
                _Worker(self._application, theirs).run()
            except KeyboardInterrupt:
                pass
            except BaseException as error:
                sys.stderr.write(f"a worker ended: {error!r}\n")
                code = 1
            finally:
                sys.stderr.flush()
                os._exit(code)
        theirs.close()
        self._workers[child] = ours
        signal.pthread_sigmask(signal.SIG_UNBLOCK, _ENDS)

    def _replace(self) -> None:
        for child in list(self._workers):
            if os.waitpid(child, os.WNOHANG)[0]:
                self._workers.pop(child).close()
                self._hire()

    def _hand_out(self, connection: socket.socket) -> None:
        with connection:
            for _ in range(len(self._workers)):
                child, channel = next(iter(self._workers.items()))
                self._workers[child] = self._workers.pop(child)  # next time the next
                with suppress(OSError):
                    socket.send_fds(channel, [b"."], [connection.fileno()])
                    return

    def _dismiss(self) -> None:
        self._listener.close()
        for child in self._workers:
            with suppress(ProcessLookupError):
                os.kill(child, signal.SIGTERM)
        signal.signal(signal.SIGALRM, self._impatient)
        signal.setitimer(signal.ITIMER_REAL, DYING)
        for child in self._workers:
            with suppress(ChildProcessError):
                os.waitpid(child, 0)
        signal.setitimer(signal.ITIMER_REAL, 0)

    def _impatient(self, number: int, frame: FrameType | None) -> None:
        for child in self._workers:
            with suppress(ProcessLookupError):
                os.kill(child, signal.SIGKILL)


def serve(
    application: ASGIApp,
    listener: socket.socket,
    workers: int,
    ready: Callable[[], object] = lambda: None,
    now_and_then: Callable[[], object] = lambda: None,
) -> None:
    """Serve an application on a socket that listens until told to stop; where processes cannot be forked, by one.

    Args:
        application: with all that is to be shared made ready.
        listener: bound, and listening.
        workers: processes that answer.
        ready: called once it can be told to stop.
        now_and_then: called when nobody has come for a while.
    """
    if hasattr(os, "fork"):
        Foreman(application, listener, workers).run(ready, now_and_then)
    else:
        ready()
        uvicorn.Server(config_of(application)).run(sockets=[listener])
