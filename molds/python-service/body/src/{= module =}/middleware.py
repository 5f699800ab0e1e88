"""What stands around every request: the log, limits, and HEAD (ASGI)."""

import asyncio
import logging
import time

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import ClientDisconnect
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from . import log

REQUEST_SECONDS = 30

logger = logging.getLogger(__name__)


class RequestLog:
    """Gives each request an id and a line in the log; a handler that fails is answered with 500."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        started = time.perf_counter()
        request_id = log.begin_request(Headers(scope=scope).get("X-Request-ID"))
        status = 0

        async def send_with_id(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)["X-Request-ID"] = request_id
            await send(message)

        try:
            await self.app(scope, receive, send_with_id)
        except ClientDisconnect:
            logger.info("the client went away")
        except Exception:
            logger.exception("the handler failed")
            if not status:
                response = JSONResponse({"detail": "something went wrong here"}, 500)
                await response(scope, receive, send_with_id)
        facts = {
            "method": scope["method"],
            "path": scope["path"],
            "status": status,
            "milliseconds": round((time.perf_counter() - started) * 1000, 1),
        }
        logger.info("%(method)s %(path)s %(status)d", facts, extra=facts)


class Limits:
    """Refuses a request with two lengths, and one whose body and answer take too long."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if "Content-Length" in headers and "Transfer-Encoding" in headers:
            await self._refuse(400, "a request has one length", scope, receive, send)
            return
        is_started = False

        async def send_started(message: Message) -> None:
            nonlocal is_started
            is_started = True
            await send(message)

        try:
            async with asyncio.timeout(REQUEST_SECONDS):
                await self.app(scope, receive, send_started)
        except TimeoutError:
            logger.error("the request took more than %d s", REQUEST_SECONDS)
            if not is_started:
                await self._refuse(503, "the request took too long", scope, receive, send)

    async def _refuse(
        self, status: int, reason: str, scope: Scope, receive: Receive, send: Send
    ) -> None:
        """Answers, and closes the connection: what still comes is not read."""
        response = JSONResponse({"detail": reason}, status, {"Connection": "close"})
        await response(scope, receive, send)


class HeadAsGet:
    """Answers HEAD as GET; the server leaves the body out."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["method"] == "HEAD":
            scope = {**scope, "method": "GET"}
        await self.app(scope, receive, send)
