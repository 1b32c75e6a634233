"""What stands in front of every screen: security headers, same-origin writes, and a limit on what is sent."""

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pebble_wheel.wording.messages import OTHER_SITE, too_large

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
MOST_BODY = 1_000_000


class BodyTooLargeError(Exception):
    """More was sent than any request needs."""


class Guard:
    """Refuses writes from other origins and bodies beyond reason; adds the security headers to every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        guarded = _with_headers(send)
        if scope["method"] not in SAFE_METHODS and not _same_origin(headers):
            refusal = PlainTextResponse(f"{OTHER_SITE}\n", 403)
            await refusal(scope, receive, guarded)
            return
        length = headers.get("content-length", "0")
        if not length.isdigit() or int(length) > MOST_BODY:
            await _too_large()(scope, receive, guarded)
            return
        try:
            await self.app(scope, _limited(receive), guarded)
        except BodyTooLargeError:
            await _too_large()(scope, receive, guarded)


def _same_origin(headers: Headers) -> bool:
    """Return whether a write comes from our own pages, or from no page at all (a program)."""
    site = headers.get("sec-fetch-site")
    if site is not None:
        return site in ("same-origin", "none")
    origin = headers.get("origin")
    return origin is None or urlsplit(origin).netloc == headers.get("host")


def _too_large() -> PlainTextResponse:
    return PlainTextResponse(f"{too_large(MOST_BODY)}\n", 413)


def _limited(receive: Receive) -> Receive:
    taken = 0

    async def counted() -> Message:
        nonlocal taken
        message = await receive()
        taken += len(message.get("body", b""))
        if taken > MOST_BODY:
            raise BodyTooLargeError
        return message

    return counted


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
