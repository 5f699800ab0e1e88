"""Asks the application without a network."""

import io
import json
from dataclasses import dataclass
from typing import Any
from wsgiref.util import setup_testing_defaults
from wsgiref.validate import validator

from .service import create_app


@dataclass(frozen=True)
class Answer:
    status: int
    content: Any
    headers: dict[str, str]


def ask(
    method: str,
    target: str,
    content: Any = None,
    *,
    body: bytes | None = None,
    kind: str = "application/json",
    app: Any = None,
) -> Answer:
    """Gives the answer to a request whose body is `content` as JSON, or `body`."""
    if body is None:
        body = b"" if content is None else json.dumps(content).encode()
    path, _, query = target.partition("?")
    environ: dict[str, Any] = {
        "REQUEST_METHOD": method,
        "SCRIPT_NAME": "",
        "PATH_INFO": path,
        "QUERY_STRING": query,
        "CONTENT_TYPE": kind,
        "CONTENT_LENGTH": str(len(body)),
        "wsgi.input": io.BytesIO(body),
    }
    setup_testing_defaults(environ)
    heads: list[Any] = []

    def start_response(status: str, headers: list[tuple[str, str]], exc_info: Any = None) -> Any:
        heads.append((int(status.split()[0]), dict(headers)))

    answered: Any = validator(app or create_app())(environ, start_response)
    try:
        text = b"".join(answered)
    finally:
        answered.close()
    status, headers = heads[0]
    return Answer(status, json.loads(text) if text else None, headers)
