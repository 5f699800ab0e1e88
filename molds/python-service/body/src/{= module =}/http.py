"""Requests, responses and routes on top of WSGI (PEP 3333)."""

import json
import logging
import re
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qs
from wsgiref.types import StartResponse, WSGIEnvironment

from . import log

logger = logging.getLogger(__name__)


class HttpError(Exception):
    """Why a request has no other answer than a status and a sentence."""

    def __init__(self, status: int, reason: str, headers: dict[str, str] | None = None) -> None:
        super().__init__(reason)
        self.status = status
        self.headers = headers or {}


@dataclass(frozen=True)
class Request:
    environ: WSGIEnvironment
    parameters: dict[str, str]

    def json(self) -> Any:
        """The body, which must be JSON and say so."""
        kind = self.environ.get("CONTENT_TYPE", "").partition(";")[0].strip().lower()
        if kind != "application/json":
            raise HttpError(415, "the body must be of the type application/json")
        body = self.environ["wsgi.input"].read(int(self.environ.get("CONTENT_LENGTH") or 0))
        try:
            return json.loads(body)
        except (ValueError, RecursionError):
            raise HttpError(400, "the body is not JSON") from None

    def number(self, name: str, default: int, least: int, most: int) -> int:
        """A number in the query."""
        query = parse_qs(self.environ.get("QUERY_STRING", ""), keep_blank_values=True)
        given = query.get(name, [str(default)])[0]
        if not re.fullmatch("[0-9]{1,10}", given) or not least <= int(given) <= most:
            raise HttpError(422, f"{name} is a number from {least} to {most}")
        return int(given)


@dataclass(frozen=True)
class Response:
    """A status, what becomes the JSON of the body, and further headers."""

    status: int
    content: Any
    headers: dict[str, str] = field(default_factory=dict)


Handler = Callable[[Request], Response]


class Application:
    """Answers requests by its routes: a method, a pattern such as `/notes/{id:[0-9]+}`, a handler."""

    def __init__(self, routes: Iterable[tuple[str, str, Handler]]) -> None:
        self._routes = [
            (method, _compiled(pattern), handler) for method, pattern, handler in routes
        ]

    def __call__(self, environ: WSGIEnvironment, start_response: StartResponse) -> list[bytes]:
        started = time.perf_counter()
        request_id = log.begin_request(environ.get("HTTP_X_REQUEST_ID"))
        try:
            response = self._answer(environ)
        except HttpError as error:
            response = Response(error.status, {"error": str(error)}, error.headers)
        except Exception:
            logger.exception("the handler failed")
            response = Response(500, {"error": "something went wrong here"})
        body = json.dumps(response.content).encode() + b"\n"
        status = HTTPStatus(response.status)
        headers = {
            "Content-Type": "application/json",
            "Content-Length": str(len(body)),
            "X-Request-ID": request_id,
            **response.headers,
        }
        start_response(f"{status.value} {status.phrase}", list(headers.items()))
        facts = {
            "method": environ["REQUEST_METHOD"],
            "path": environ["PATH_INFO"],
            "status": status.value,
            "milliseconds": round((time.perf_counter() - started) * 1000, 1),
        }
        logger.info("%(method)s %(path)s %(status)d", facts, extra=facts)
        return [] if environ["REQUEST_METHOD"] == "HEAD" else [body]

    def _answer(self, environ: WSGIEnvironment) -> Response:
        path, method = environ["PATH_INFO"], environ["REQUEST_METHOD"]
        allowed = set()
        for name, pattern, handler in self._routes:
            if found := pattern.fullmatch(path):
                if name == method or (name, method) == ("GET", "HEAD"):
                    return handler(Request(environ, found.groupdict()))
                allowed |= {name, "HEAD"} if name == "GET" else {name}
        if allowed:
            methods = ", ".join(sorted(allowed))
            raise HttpError(405, f"this takes {methods}", {"Allow": methods})
        raise HttpError(404, "there is nothing here")


def _compiled(pattern: str) -> re.Pattern[str]:
    """Turns `{name:expression}` into named groups."""
    parts = re.split(r"\{(\w+):([^}]+)\}", pattern)
    texts = [re.escape(text) for text in parts[::3]]
    groups = [f"(?P<{name}>{inner})" for name, inner in zip(parts[1::3], parts[2::3], strict=True)]
    pairs = zip(texts, [*groups, ""], strict=True)
    return re.compile("".join(text + group for text, group in pairs))
