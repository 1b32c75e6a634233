"""The application, put together."""

import gc
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.responses import Response

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store.copies import copy_beside
from pebble_wheel.store.database import opened, prepare
from pebble_wheel.store.designs import Kept, NotKeptError
from pebble_wheel.store.designs import shelf as shelf_of
from pebble_wheel.store.pictures import Pictures
from pebble_wheel.store.pool import Connections
from pebble_wheel.store.rows import DamagedError
from pebble_wheel.store.shelved import NotThereError
from pebble_wheel.web import api, strands
from pebble_wheel.web.guard import Guard, InTurn, Packed
from pebble_wheel.web.pairing import Paired
from pebble_wheel.web.screens.again import routes as again
from pebble_wheel.web.screens.aim import routes as aim
from pebble_wheel.web.screens.card import routes as card
from pebble_wheel.web.screens.colour import routes as colour
from pebble_wheel.web.screens.compare import routes as compare
from pebble_wheel.web.screens.construct import routes as construct
from pebble_wheel.web.screens.devices import routes as devices
from pebble_wheel.web.screens.fibre import routes as fibre
from pebble_wheel.web.screens.finish import routes as finish
from pebble_wheel.web.screens.hands import routes as hands
from pebble_wheel.web.screens.log import routes as log
from pebble_wheel.web.screens.notebook import routes as notebook
from pebble_wheel.web.screens.photo import routes as photo
from pebble_wheel.web.screens.plan import routes as plan
from pebble_wheel.web.screens.practice import routes as practice
from pebble_wheel.web.screens.project import routes as project
from pebble_wheel.web.screens.sample import routes as sample
from pebble_wheel.web.screens.settings import routes as settings
from pebble_wheel.web.screens.shelf import routes as shelf
from pebble_wheel.web.screens.texture import routes as texture
from pebble_wheel.web.screens.tools import routes as tools
from pebble_wheel.web.screens.versions import routes as versions
from pebble_wheel.web.screens.wheel import routes as wheel
from pebble_wheel.web.shared.assets import ASSETS
from pebble_wheel.web.shared.base import STORE_FAULTS, render, templates
from pebble_wheel.web.shared.learned import Learning
from pebble_wheel.web.shared.small import kept_small
from pebble_wheel.web.shared.yarn import view_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.messages import (
    NOT_ON_THE_SHELF,
    NOT_UNDERSTOOD,
    NOTHING_HERE,
    TAKES_TOO_LONG,
    UNEXPECTED,
    Message,
    damaged,
    refused,
    said_of_fault,
)
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.starts import FIRST, STARTS, start
from pebble_wheel.workshop.turns import TooLongError

IN_AN_ANSWER = 10_000
"""Objects that an answer makes, about."""

LOCAL_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
MODULES = (
    construct,
    strands,
    finish,
    aim,
    texture,
    colour,
    wheel,
    shelf,
    compare,
    versions,
    fibre,
    tools,
    project,
    sample,
    photo,
    plan,
    log,
    again,
    card,
    hands,
    practice,
    notebook,
    devices,
    settings,
    api,
)
"""What answers: first what is asked at every move, since they are asked in turn whether an address is theirs."""


def create_app(database: Path, hosts: list[str] | None = None, demo: bool = False, paired_at: str = "") -> FastAPI:
    """Return the application on a database file, made or brought forward if need be.

    Args:
        database: the file.
        hosts: names that it is served under beyond those of this machine.
        demo: whether to put the invented yarn room into it.
        paired_at: address under which other devices come here, each of which must be paired; empty where none can.

    Raises:
        DatabaseError: where the file cannot be used.
    """
    prepare(database, before=lambda old, _: copy_beside(old))
    evaluator = Evaluator()
    if demo:
        with opened(database) as connection:
            fill(connection)
            for each in shelf_of(connection):
                if isinstance(each, Kept):
                    kept_small(Pictures(database), each.design, evaluator)
    app = FastAPI(title="Pebble Wheel", openapi_url=None, docs_url=None, redoc_url=None)
    app.state.connections = Connections(database)
    app.state.evaluator = evaluator
    app.state.learning = Learning()
    app.state.paired_at = paired_at
    app.add_api_route("/static/{mark}/{name}", ASSETS.give, methods=["GET", "HEAD"])
    for module in MODULES:
        app.include_router(module.router)
    app.add_exception_handler(NotKeptError, _not_kept)
    app.add_exception_handler(NotThereError, _not_kept)
    app.add_exception_handler(DamagedError, _damaged)
    for fault in STORE_FAULTS:
        app.add_exception_handler(fault, _store_fault)
    app.add_exception_handler(TooLongError, _too_long)
    app.add_exception_handler(Exception, _unexpected)
    app.add_exception_handler(HTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _bad_request)
    app.add_exception_handler(InputError, _bad_request)
    app.add_middleware(InTurn)
    app.add_middleware(Packed, minimum_size=2000, compresslevel=1)
    if paired_at:
        app.add_middleware(Paired, connections=app.state.connections)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=[*LOCAL_HOSTS, *(hosts or [])], www_redirect=False)
    app.add_middleware(Guard, larger=notebook.LARGER | photo.LARGER)
    return app


def warm(evaluator: Evaluator) -> None:
    """Evaluate a yarn of every start and read every page's template, so that all is ready before the first visitor.

    What stands then, stands for good: the collector of garbage need not look through it again and again, and need not
    look through what one answer makes a dozen times before it is done.
    """
    str(view_of(evaluator, design_of(start(FIRST), Settings()), Display()).picture)
    for name in STARTS:
        evaluator.read(design_of(start(name), Settings()))
    for page in templates.env.list_templates(["html"]):
        templates.env.get_template(page)
    gc.collect()
    gc.freeze()
    gc.set_threshold(IN_AN_ANSWER)


def _not_kept(request: Request, error: Exception) -> Response:
    return _say(request, NOT_ON_THE_SHELF, 404)


def _damaged(request: Request, error: Exception) -> Response:
    return _say(request, damaged(str(error)), 410)


def _too_long(request: Request, error: Exception) -> Response:
    return _say(request, TAKES_TOO_LONG, 503)


def _unexpected(request: Request, error: Exception) -> Response:
    return _say(request, UNEXPECTED, 500)


def _store_fault(request: Request, error: Exception) -> Response:
    said = said_of_fault(error)
    return _say(request, said or UNEXPECTED, 503 if said else 500)


def _bad_request(request: Request, error: Exception) -> Response:
    return _say(request, NOT_UNDERSTOOD, 422)


def _http_error(request: Request, error: Exception) -> Response:
    if not isinstance(error, HTTPException):
        raise error
    return _say(request, NOTHING_HERE if error.status_code == 404 else refused(str(error.detail)), error.status_code)


def _say(request: Request, message: Message, status: int) -> Response:
    return render(request, "shared/message.html", message, status)
