"""The application: its resources, and what stands around them."""
{= match web =}
{= case "fastapi" =}

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib.metadata import metadata

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.exception_handlers import http_exception_handler
from starlette.routing import Match

# {= if stored =}
from . import NAME, database, health
from .accounts.http import router as session_router
# {= else =}
from . import NAME, health
# {= end =}
from .middleware import HeadAsGet, Limits, RequestLog
from .notes.http import router as notes_router
# {= if not stored =}
from .notes.storage import Notes
# {= end =}
from .settings import Settings

# joint: imports (tinmold)

LARGEST_BODY = 1024 * 1024
METHODS = ("DELETE", "GET", "OPTIONS", "PATCH", "POST", "PUT")


def create_app(settings: Settings) -> FastAPI:
    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        # {= if stored =}
        engine = database.engine_of(settings.database_url)
        app.state.sessions = database.sessions_of(engine)
        yield
        engine.dispose()
        # {= else =}
        app.state.notes = Notes()
        yield
        # {= end =}

    about = metadata(NAME)
    app = FastAPI(
        title=NAME,
        summary=about["Summary"],
        version=about["Version"],
        lifespan=lifespan,
        max_body_size=LARGEST_BODY,
    )
    app.include_router(health.router)
    # {= if stored =}
    app.include_router(session_router)
    # {= end =}
    app.include_router(notes_router)
    # joint: routes (tinmold)

    @app.exception_handler(405)
    async def not_allowed(request: Request, error: HTTPException) -> Response:
        """Name the methods of all routes of the path."""
        scopes = {method: {**request.scope, "method": method} for method in METHODS}
        allowed = {
            method
            for method, scope in scopes.items()
            if any(route.matches(scope)[0] == Match.FULL for route in app.routes)
        }
        allowed |= {"HEAD"} if "GET" in allowed else set()
        error.headers = {"Allow": ", ".join(sorted(allowed))}
        return await http_exception_handler(request, error)

    app.add_middleware(HeadAsGet)
    app.add_middleware(Limits)
    app.add_middleware(RequestLog)
    return app
{= case "flask" =}

import json
import logging
import time
from typing import cast

from flask import Flask, Response, g, request
from flask.typing import ResponseReturnValue
from werkzeug.exceptions import HTTPException

# {= if stored =}
from . import database, health, log
from .accounts.http import blueprint as session_blueprint
# {= else =}
from . import health, log
# {= end =}
from .notes.http import blueprint as notes_blueprint
# {= if not stored =}
from .notes.storage import Notes
# {= end =}
from .serving import LARGEST_BODY
from .settings import Settings

# joint: imports (tinmold)

logger = logging.getLogger(__name__)


def create_app(settings: Settings) -> Flask:
    app = Flask(__name__)
    app.config.update(MAX_CONTENT_LENGTH=LARGEST_BODY)
    # {= if stored =}
    database.connect(app, settings.database_url)
    # {= else =}
    app.extensions["notes"] = Notes()
    # {= end =}
    app.register_blueprint(health.blueprint)
    # {= if stored =}
    app.register_blueprint(session_blueprint)
    # {= end =}
    app.register_blueprint(notes_blueprint)
    # joint: routes (tinmold)
    app.register_error_handler(HTTPException, error_as_json)
    app.before_request(begin)
    app.after_request(end)
    return app


def error_as_json(error: HTTPException) -> ResponseReturnValue:
    """The answer of an error, with its code, its name and its description as JSON."""
    response = cast(Response, error.get_response())
    response.data = json.dumps(
        {"code": error.code, "name": error.name, "description": error.description}
    )
    response.content_type = "application/json"
    return response


def begin() -> None:
    g.started = time.perf_counter()
    g.request_id = log.begin_request(request.headers.get("X-Request-ID"))


def end(response: Response) -> Response:
    facts = {
        "method": request.method,
        "path": request.path,
        "status": response.status_code,
        "milliseconds": round((time.perf_counter() - g.started) * 1000, 1),
    }
    logger.info("%(method)s %(path)s %(status)d", facts, extra=facts)
    response.headers["X-Request-ID"] = g.request_id
    return response
{= case "stdlib" =}

from . import health
from .http import Application, Handler
from .notes.http import add_note, all_notes, one_note

# joint: imports (tinmold)

# Method, path, and the function that answers.
ROUTES: list[tuple[str, str, Handler]] = [
    ("GET", "/health", health.health),
    ("GET", "/ready", health.ready),
    ("GET", "/notes", all_notes),
    ("POST", "/notes", add_note),
    ("GET", "/notes/{note_id:[0-9]+}", one_note),
    # joint: routes (tinmold)
]


def create_app() -> Application:
    return Application(ROUTES)
{= end =}
