"""The application, put together."""

import gc
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.responses import Response
from starlette.types import Scope

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.database import opened, prepare
from pebble_wheel.store.designs import NotKeptError
from pebble_wheel.web import api
from pebble_wheel.web.guard import Guard
from pebble_wheel.web.screens.aim import routes as aim
from pebble_wheel.web.screens.construct import routes as construct
from pebble_wheel.web.screens.files import routes as files
from pebble_wheel.web.screens.finish import routes as finish
from pebble_wheel.web.screens.settings import routes as settings_screen
from pebble_wheel.web.screens.shelf import routes as shelf
from pebble_wheel.web.shared.base import STATIC, render
from pebble_wheel.web.shared.yarn import look_at
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.starts import FIRST, start

LOCAL_HOSTS = ["127.0.0.1", "localhost", "[::1]"]


class CachedFiles(StaticFiles):
    """Static files, whose addresses carry a mark of their content."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """Return a file that the browser may keep."""
        response = await super().get_response(path, scope)
        response.headers["cache-control"] = "public, max-age=31536000, immutable"
        return response


def create_app(database: Path, hosts: list[str] | None = None, demo: bool = False) -> FastAPI:
    """Return the application on a database file, made or brought forward if need be.

    Raises:
        DatabaseError: where the file cannot be used.
    """
    prepare(database)
    if demo:
        with opened(database) as connection:
            fill(connection)
    app = FastAPI(title="Pebble Wheel", openapi_url=None, docs_url=None, redoc_url=None)
    app.state.database = database
    app.mount("/static", CachedFiles(directory=STATIC), name="static")
    for module in (shelf, aim, construct, finish, files, settings_screen, api):
        app.include_router(module.router)
    app.add_exception_handler(NotKeptError, _not_kept)
    app.add_exception_handler(HTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _bad_request)
    app.add_exception_handler(InputError, _bad_request)
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=1)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=[*LOCAL_HOSTS, *(hosts or [])], www_redirect=False)
    app.add_middleware(Guard)
    return app


def warm() -> None:
    """Evaluate one yarn, so that tables and units are ready before the first visitor.

    What stands then, stands for good: the collector of garbage need not look through it again and again.
    """
    str(look_at(design_of(start(FIRST), Settings()), Display()).picture)
    gc.collect()
    gc.freeze()


def _not_kept(request: Request, error: Exception) -> Response:
    message = "That design is not on the shelf. It may have been put away; look under “Put away”."
    return render(request, "shared/message.html", 404, heading="Not on the shelf", message=message)


def _bad_request(request: Request, error: Exception) -> Response:
    message = "This address or form has a part that cannot be read. Nothing was changed."
    return render(request, "shared/message.html", 422, heading="Not understood", message=message)


def _http_error(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    message = "There is no such page." if error.status_code == 404 else str(error.detail)
    return render(request, "shared/message.html", error.status_code, heading="Nothing here", message=message)
