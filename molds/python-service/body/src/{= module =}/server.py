"""HTTP and JSON around the routes."""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit

logger = logging.getLogger(__name__)

LARGEST_BODY = 1024 * 1024


class BadRequest(Exception):
    """Something about a request that its sender can mend."""


@dataclass(frozen=True)
class Request:
    method: str
    path: str
    query: dict[str, list] = field(default_factory=dict)
    parameters: dict[str, str] = field(default_factory=dict)
    body: bytes = b""

    def json(self) -> Any:
        try:
            return json.loads(self.body)
        except ValueError as error:
            raise BadRequest(f"the body is not JSON: {error}") from None


# Method, path, and the function that answers: see routes.py.
Routes = list[tuple[str, str, Callable[[Request], tuple[int, Any]]]]


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


def answer(routes: Routes, method: str, target: str, body: bytes) -> tuple[int, Any]:
    """Status and content for a request: the routes' answer, or why there is none."""
    url = urlsplit(target)
    allowed = []
    for route_method, pattern, handler in routes:
        parameters = match(pattern, url.path)
        if parameters is None:
            continue
        if route_method == method:
            return handler(Request(method, url.path, parse_qs(url.query), parameters, body))
        allowed.append(route_method)
    if allowed:
        return 405, {"error": f"{method} is not allowed here", "allowed": allowed}
    return 404, {"error": f"nothing is at {url.path}"}


class Handler(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    timeout = 30

    def handle_any(self) -> None:
        started = time.perf_counter()
        try:
            status, content = answer(self.server.routes, self.command, self.path, self.read_body())
        except BadRequest as error:
            status, content = 400, {"error": str(error)}
        except Exception:
            logger.exception("the handler failed")
            status, content = 500, {"error": "something went wrong here"}
        data = json.dumps(content, ensure_ascii=False).encode() + b"\n"
        self.send_response(status)
        self.send_header("Content-Type", "application/json; charset=utf-8")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)
        milliseconds = round((time.perf_counter() - started) * 1000, 1)
        facts = {"method": self.command, "path": self.path, "status": status, "milliseconds": milliseconds}
        logger.info("%s %s %d", self.command, self.path, status, extra=facts)

    do_GET = do_POST = do_PUT = do_PATCH = do_DELETE = handle_any

    def read_body(self) -> bytes:
        length = self.headers.get("Content-Length", "0")
        if not length.isdecimal():
            self.close_connection = True
            raise BadRequest("Content-Length is not a number")
        if int(length) > LARGEST_BODY:
            self.close_connection = True
            raise BadRequest(f"the body has more than {LARGEST_BODY} bytes")
        return self.rfile.read(int(length))

    def log_message(self, format: str, *args: Any) -> None:
        # handle_any logs what http.server would; this is left for its complaints about broken requests.
        logger.debug(format, *args)


class Server(ThreadingHTTPServer):
    daemon_threads = True

    def __init__(self, host: str, port: int, routes: Routes) -> None:
        self.routes = routes
        super().__init__((host, port), Handler)
