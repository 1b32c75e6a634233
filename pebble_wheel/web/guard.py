"""What stands in front of every screen: security headers, same-origin writes, and limits on what is sent."""

import asyncio
from collections.abc import Mapping
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pebble_wheel.wording.messages import OTHER_SITE, TOO_SLOW, too_large
from pebble_wheel.workshop.turns import NobodyWaitsError, waited_for

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
MOST_BODY = 1_000_000
PATIENCE = 10.0
"""Seconds that a request may take to be sent."""
LONG = 0.1
"""Seconds after which an answer is no quick one."""


class BodyTooLargeError(Exception):
    """More was sent than the request needs."""


class Guard:
    """Refuses writes from other origins and bodies beyond reason; adds the security headers to every answer.

    A body is taken in whole before anything is done with it; from then on it is watched whether somebody still waits.
    """

    def __init__(self, app: ASGIApp, larger: Mapping[str, int] | None = None, patience: float = PATIENCE) -> None:
        self.app, self.larger, self.patience = app, larger or {}, patience

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] == "websocket":
            if _same_origin(Headers(scope=scope), scope):
                await self.app(scope, receive, send)
            else:
                await send({"type": "websocket.close", "code": 1008, "reason": OTHER_SITE})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers, guarded = Headers(scope=scope), _with_headers(send)
        most = self.larger.get(scope["path"], MOST_BODY)
        refusal: PlainTextResponse | None = None
        body = b""
        if scope["method"] not in SAFE_METHODS and not _same_origin(headers, scope):
            refusal = PlainTextResponse(f"{OTHER_SITE}\n", 403)
        else:
            try:
                async with asyncio.timeout(self.patience):
                    body = await _whole(receive, headers, most)
            except BodyTooLargeError:
                refusal = PlainTextResponse(f"{too_large(most)}\n", 413)
            except TimeoutError:
                refusal = PlainTextResponse(f"{TOO_SLOW}\n", 408, {"connection": "close"})
        if refusal:
            await refusal(scope, receive, guarded)
            return
        await self._served(scope, receive, guarded, body)

    async def _served(self, scope: Scope, receive: Receive, send: Send, body: bytes) -> None:
        gone, given = asyncio.Event(), False

        async def watch() -> None:
            while (await receive())["type"] != "http.disconnect":
                pass
            gone.set()

        async def replayed() -> Message:
            nonlocal given
            if not given:
                given = True
                return {"type": "http.request", "body": body, "more_body": False}
            await gone.wait()
            return {"type": "http.disconnect"}

        watching = asyncio.create_task(watch())
        token = waited_for.set(lambda: not gone.is_set())
        try:
            await self.app(scope, replayed, send)
        except NobodyWaitsError:
            return
        finally:
            waited_for.reset(token)
            watching.cancel()


class InTurn:
    """Answers one request after another, as long as each is quick: side by side all would be done last.

    One that takes longer gives up its turn and goes on beside the others.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app
        self._turn = asyncio.Semaphore(1)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        await self._turn.acquire()
        over = False

        def give_up() -> None:
            nonlocal over
            if not over:
                over = True
                self._turn.release()

        late = asyncio.get_running_loop().call_later(LONG, give_up)
        try:
            await self.app(scope, receive, send)
        finally:
            late.cancel()
            give_up()


class Packed(GZipMiddleware):
    """Packs what is sent, but for parts of a page that go to this very machine: packing would take longest of all."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        client = (scope.get("client") or ("",))[0]
        parts = scope["type"] == "http" and Headers(scope=scope).get("hx-request") == "true"
        if parts and client in ("127.0.0.1", "::1"):
            await self.app(scope, receive, send)
        else:
            await super().__call__(scope, receive, send)


async def _whole(receive: Receive, headers: Headers, most: int) -> bytes:
    """Return the whole body.

    Raises:
        BodyTooLargeError: as soon as that is known.
    """
    length = headers.get("content-length", "0")
    if not length.isdecimal() or len(length) > len(str(most)) or int(length) > most:
        raise BodyTooLargeError
    parts, taken, more = [], 0, True
    while more:
        message = await receive()
        parts.append(message.get("body", b""))
        taken += len(parts[-1])
        if taken > most:
            raise BodyTooLargeError
        more = message.get("more_body", False)
    return b"".join(parts)


def _same_origin(headers: Headers, scope: Scope) -> bool:
    """Return whether a write comes from our own pages, or from no page at all (a program).

    Behind a proxy that speaks https for us, and says so, our own pages are those of https.
    """
    site = headers.get("sec-fetch-site")
    if site is not None and site not in ("same-origin", "none"):
        return False
    origin = headers.get("origin")
    if origin is None:
        return True
    try:
        told = urlsplit(origin)
    except ValueError:
        return False
    ours = {"ws": "http", "wss": "https"}.get(scope["scheme"], scope["scheme"])
    return (told.scheme, told.netloc) == (ours, headers.get("host"))


def _with_headers(send: Send) -> Send:
    async def sent(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            headers.setdefault("content-security-policy", POLICY)
            headers.setdefault("x-content-type-options", "nosniff")
            headers.setdefault("referrer-policy", "same-origin")
            headers.setdefault("cross-origin-opener-policy", "same-origin")
            headers.setdefault("cache-control", "no-store")
        await send(message)

    return sent
