{= match web =}
{= case "stdlib" =}
"""HTTP around the routes."""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit

from {= module =}.config import Config

logger = logging.getLogger(__name__)

LARGEST_BODY = 1024 * 1024


class BadRequest(Exception):
    """Something about a request that its sender can mend; the message and the status of the answer."""

    def __init__(self, message: str, status: int = 400) -> None:
        super().__init__(message)
        self.status = status


@dataclass(frozen=True)
class Request:
    method: str
    path: str
    query: dict[str, list] = field(default_factory=dict)
    parameters: dict[str, str] = field(default_factory=dict)
    headers: Any = field(default_factory=dict)
    body: bytes = b""

    def json(self) -> Any:
        try:
            return json.loads(self.body)
        except ValueError as error:
            raise BadRequest(f"the body is not JSON: {error}") from None
    # {= if pages =}

    def form(self) -> dict[str, str]:
        fields = parse_qs(self.body.decode(errors="replace"), keep_blank_values=True)
        return {name: values[0] for name, values in fields.items()}
    # {= end =}


@dataclass(frozen=True)
class Answer:
    """A status, what becomes {= if pages =}the page (a text) or the JSON{= else =}the JSON{= end =} of the answer, and further headers."""

    status: int
    content: Any
    headers: dict[str, str] = field(default_factory=dict)


# Method, path, and the function that answers: see routes.py.
Routes = list[tuple[str, str, Callable[[Request], Answer]]]


def match(pattern: str, path: str) -> dict[str, str] | None:
    """The parameters that a path has under a pattern; None where they do not match."""
    wanted, given = pattern.split("/"), path.split("/")
    if len(wanted) != len(given):
        return None
    parameters = {}
    for want, part in zip(wanted, given):
        if want.startswith("{") and want.endswith("}") and part:
            parameters[want[1:-1]] = unquote(part)
        elif want != part:
            return None
    return parameters


def answer(routes: Routes, method: str, target: str, headers: Any, body: bytes) -> Answer:
    """The routes' answer to a request, or why there is none."""
    url = urlsplit(target)
    allowed = []
    for route_method, pattern, handler in routes:
        parameters = match(pattern, url.path)
        if parameters is None:
            continue
        if route_method == method:
            return handler(Request(method, url.path, parse_qs(url.query), parameters, headers, body))
        allowed.append(route_method)
    if allowed:
        raise BadRequest(f"{method} is not allowed here", 405)
    raise BadRequest(f"nothing is at {url.path}", 404)


class Handler(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    timeout = 30

    def handle_any(self) -> None:
        started = time.perf_counter()
        try:
            done = answer(self.server.routes, self.command, self.path, self.headers, self.read_body())
        except BadRequest as error:
            done = Answer(error.status, {"error": str(error)})
        except Exception:
            logger.exception("the handler failed")
            done = Answer(500, {"error": "something went wrong here"})
        # {= if pages =}
        is_page = isinstance(done.content, str)
        data = done.content.encode() if is_page else json.dumps(done.content, ensure_ascii=False).encode() + b"\n"
        self.send_response(done.status)
        self.send_header("Content-Type", f"{'text/html' if is_page else 'application/json'}; charset=utf-8")
        # {= else =}
        data = json.dumps(done.content, ensure_ascii=False).encode() + b"\n"
        self.send_response(done.status)
        self.send_header("Content-Type", "application/json; charset=utf-8")
        # {= end =}
        self.send_header("Content-Length", str(len(data)))
        for name, value in done.headers.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(data)
        milliseconds = round((time.perf_counter() - started) * 1000, 1)
        facts = {"method": self.command, "path": self.path, "status": done.status, "milliseconds": milliseconds}
        logger.info("%s %s %d", self.command, self.path, done.status, extra=facts)

    do_GET = do_POST = do_PUT = do_PATCH = do_DELETE = handle_any

    def read_body(self) -> bytes:
        length = self.headers.get("Content-Length", "0")
        if not length.isdecimal():
            self.close_connection = True
            raise BadRequest("Content-Length is not a number")
        if int(length) > LARGEST_BODY:
            self.close_connection = True
            raise BadRequest(f"the body has more than {LARGEST_BODY} bytes", 413)
        return self.rfile.read(int(length))

    def log_message(self, format: str, *args: Any) -> None:
        # handle_any logs what http.server would; this is left for its complaints about broken requests.
        logger.debug(format, *args)


class Server(ThreadingHTTPServer):
    daemon_threads = True

    def __init__(self, host: str, port: int, routes: Routes) -> None:
        self.routes = routes
        super().__init__((host, port), Handler)


class Service:
    """A service that listens from the start; `address` is its host and port."""

    def __init__(self, config: Config) -> None:
        from {= module =}.routes import routes

        self._server = Server(config.host, config.port, routes(config))
        self.address = self._server.server_address[:2]

    def serve(self) -> None:
        """Answers until it is stopped."""
        try:
            self._server.serve_forever(poll_interval=0.2)
        finally:
            self._server.server_close()

    def stop(self) -> None:
        """Stops it from another thread."""
        self._server.shutdown()
{= case "flask" =}
"""The application around the routes, and the server that runs it."""

from __future__ import annotations

import logging
import time

from flask import Flask, g, request
from waitress import create_server
from werkzeug.exceptions import HTTPException

from {= module =}.config import Config
from {= module =}.notes import NoteError
from {= module =}.routes import routes

logger = logging.getLogger(__name__)

LARGEST_BODY = 1024 * 1024


def application(config: Config) -> Flask:
    """The application, for any server that takes one (WSGI, PEP 3333)."""
    app = Flask("{= module =}")
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_BODY
    app.json.ensure_ascii = False
    app.register_blueprint(routes(config))

    @app.errorhandler(HTTPException)
    def refused(error: HTTPException):
        return {"error": error.description}, error.code

    @app.errorhandler(NoteError)
    def no_note(error: NoteError):
        return {"error": str(error)}, 400

    @app.errorhandler(Exception)
    def failed(error: Exception):
        logger.error("the handler failed", exc_info=error)
        return {"error": "something went wrong here"}, 500

    @app.before_request
    def begin() -> None:
        g.started = time.perf_counter()

    @app.after_request
    def logged(response):
        milliseconds = round((time.perf_counter() - g.started) * 1000, 1)
        facts = {
            "method": request.method,
            "path": request.path,
            "status": response.status_code,
            "milliseconds": milliseconds,
        }
        logger.info("%s %s %d", request.method, request.path, response.status_code, extra=facts)
        return response

    return app


class Service:
    """A service that listens from the start; `address` is its host and port."""

    def __init__(self, config: Config) -> None:
        self._server = create_server(application(config), host=config.host, port=config.port, threads=8)
        self.address = (config.host, int(self._server.effective_port))

    def serve(self) -> None:
        """Answers until it is stopped."""
        self._server.run()

    def stop(self) -> None:
        """Stops it from another thread."""
        self._server.trigger.pull_trigger(self._close)

    def _close(self) -> None:
        for channel in list(self._server.active_channels.values()):
            channel.handle_close()
        self._server.task_dispatcher.shutdown(cancel_pending=False)
        self._server.close()
{= case "fastapi" =}
"""The application around the routes, and the server that runs it."""

from __future__ import annotations

import logging
import socket
import time

import uvicorn
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from {= module =} import NAME, SUMMARY
from {= module =}.config import Config
from {= module =}.notes import NoteError
from {= module =}.routes import routes

logger = logging.getLogger(__name__)

LARGEST_BODY = 1024 * 1024


def application(config: Config) -> FastAPI:
    """The application, for any server that takes one (ASGI)."""
    app = FastAPI(title=NAME, description=SUMMARY)
    app.include_router(routes(config))

    @app.exception_handler(HTTPException)
    async def refused(request: Request, error: HTTPException) -> JSONResponse:
        return JSONResponse({"error": error.detail}, error.status_code, error.headers)

    @app.exception_handler(RequestValidationError)
    async def malformed(request: Request, error: RequestValidationError) -> JSONResponse:
        reasons = [f"{'.'.join(str(part) for part in one['loc'])}: {one['msg']}" for one in error.errors()]
        return JSONResponse({"error": "; ".join(reasons)}, 400)

    @app.exception_handler(NoteError)
    async def no_note(request: Request, error: NoteError) -> JSONResponse:
        return JSONResponse({"error": str(error)}, 400)

    @app.middleware("http")
    async def logged(request: Request, answer):
        started = time.perf_counter()
        length = request.headers.get("content-length", "0")
        if length.isdecimal() and int(length) > LARGEST_BODY:
            response = JSONResponse({"error": f"the body has more than {LARGEST_BODY} bytes"}, 413)
        else:
            try:
                response = await answer(request)
            except Exception:
                logger.exception("the handler failed")
                response = JSONResponse({"error": "something went wrong here"}, 500)
        milliseconds = round((time.perf_counter() - started) * 1000, 1)
        facts = {
            "method": request.method,
            "path": request.url.path,
            "status": response.status_code,
            "milliseconds": milliseconds,
        }
        logger.info("%s %s %d", request.method, request.url.path, response.status_code, extra=facts)
        return response

    return app


class Service:
    """A service that listens from the start; `address` is its host and port."""

    def __init__(self, config: Config) -> None:
        self._socket = socket.create_server((config.host, config.port))
        self.address = self._socket.getsockname()[:2]
        app = application(config)
        self._server = uvicorn.Server(
            uvicorn.Config(app, log_config=None, access_log=False, timeout_graceful_shutdown=5)
        )

    def serve(self) -> None:
        """Answers until it is stopped."""
        self._server.run(sockets=[self._socket])

    def stop(self) -> None:
        """Stops it from another thread."""
        self._server.should_exit = True
{= end =}
