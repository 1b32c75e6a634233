"""Beyond this machine only paired devices are served: a link pairs one, and without that nothing at all is given."""

import base64
import hashlib
import time
from collections import OrderedDict, deque
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qs

from markupsafe import Markup
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from pebble_wheel.store import devices
from pebble_wheel.store.pool import Connections
from pebble_wheel.web.shared.base import STORE_FAULTS, templates
from pebble_wheel.wording.messages import NO_SUCH_LINK, NOT_PAIRED, TOO_MANY_TRIES, said_of_fault

COOKIE, PATH = "pebble-wheel-device", "/pair/"
A_YEAR = 365 * 24 * 3600
MOST_TRIES, WITHIN, MOST_REMEMBERED = 10, 60.0, 1000
"""Wrong links of one address within so many seconds, and addresses of which that is remembered."""

_STYLE = (
    "body{font:1.15rem/1.5 system-ui,sans-serif;max-width:34rem;margin:12vh auto;padding:0 1.2rem;"
    "color:#1d2522;background:#dfe5e2}input,button{font:inherit;padding:.6rem .9rem;border-radius:.5rem;"
    "border:1.5px solid #5c6b66}button{background:#2b6a45;color:#fff;border:0}"
)
_POLICY = (
    "default-src 'none'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'; style-src 'sha256-"
    + base64.b64encode(hashlib.sha256(_STYLE.encode()).digest()).decode()
    + "'"
)


class Paired:
    """Lets paired devices through, and to others gives nothing but the page that pairs them."""

    def __init__(self, app: ASGIApp, connections: Connections) -> None:
        self.app, self._connections = app, connections
        self._tries: OrderedDict[str, deque[float]] = OrderedDict()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        try:
            if await run_in_threadpool(self._is_paired, _secret(Headers(scope=scope))):
                await self.app(scope, receive, send)
                return
            answer = await self._answer(scope, receive)
        except STORE_FAULTS as fault:
            said = said_of_fault(fault)
            answer = PlainTextResponse(said.words if said else "", 503)
        if scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008})
        else:
            await answer(scope, receive, send)

    def _is_paired(self, secret: str) -> bool:
        if not secret:
            return False
        with self._connections.lent() as connection:
            return devices.is_paired(connection, secret)

    async def _answer(self, scope: Scope, receive: Receive) -> Response:
        if scope["type"] != "http" or not scope["path"].startswith(PATH):
            return _page(NOT_PAIRED, 401)
        code, client = scope["path"].removeprefix(PATH), str((scope.get("client") or ("",))[0])
        if self._tried_too_often(client):
            return _page(TOO_MANY_TRIES, 429)
        if not await run_in_threadpool(self._is_link, code):
            self._tries.setdefault(client, deque(maxlen=MOST_TRIES)).append(time.monotonic())
            return _page(NO_SUCH_LINK, 404)
        if scope["method"] != "POST":
            return _page("", 200, code)
        name = parse_qs((await Request(scope, receive).body()).decode("utf-8", "replace")).get("name", [""])[0]
        try:
            secret = await run_in_threadpool(self._pair, code, name)
        except devices.NoSuchLinkError:  # another was quicker
            return _page(NO_SUCH_LINK, 404)
        answer = RedirectResponse("/", 303)
        secure = scope["scheme"] == "https"
        answer.set_cookie(COOKIE, secret, max_age=A_YEAR, httponly=True, samesite="lax", secure=secure)
        return answer

    def _tried_too_often(self, client: str) -> bool:
        while len(self._tries) > MOST_REMEMBERED:
            self._tries.popitem(last=False)
        tries = self._tries.get(client, deque())
        return len(tries) == MOST_TRIES and time.monotonic() - tries[0] < WITHIN

    def _is_link(self, code: str) -> bool:
        with self._connections.lent() as connection:
            return devices.is_link(connection, code)

    def _pair(self, code: str, name: str) -> str:
        with self._connections.lent() as connection:
            return devices.pair(connection, code, name)


def _secret(headers: Headers) -> str:
    try:
        found = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
    except CookieError:
        return ""
    return found.value if found else ""


def _page(said: str, status: int, code: str = "") -> Response:
    address = f"{PATH}{code}" if code else ""
    page = templates.get_template("shared/pair.html")
    told = page.render(said=said, address=address, most=devices.MOST_NAME, style=Markup(_STYLE))
    return HTMLResponse(told, status, {"content-security-policy": _POLICY})
