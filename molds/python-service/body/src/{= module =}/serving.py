{= match web =}
{= case "fastapi" =}
"""The server: uvicorn, which is not kept waiting, and stops cleanly."""

import asyncio
import signal

import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from .service import create_app
from .settings import Settings

HEADER_SECONDS = 10
STOP_SECONDS = 10


class Protocol(H11Protocol):
    """Cuts a connection whose next request does not begin in time."""

    _cutting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._watch()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        self._watch()

    def connection_lost(self, exc: Exception | None) -> None:
        super().connection_lost(exc)
        if self._cutting:
            self._cutting.cancel()

    def shutdown(self) -> None:
        """Ends the connection once its request is answered; at once if it is half-sent."""
        if self.conn.their_state is h11.SEND_BODY:
            self.transport.close()
        else:
            super().shutdown()

    def _is_waiting(self) -> bool:
        return self.cycle is None or self.cycle.response_complete

    def _watch(self) -> None:
        if not self._is_waiting():
            if self._cutting:
                self._cutting.cancel()
            self._cutting = None
        elif self._cutting is None:
            self._cutting = self.loop.call_later(HEADER_SECONDS, self._cut)

    def _cut(self) -> None:
        self._cutting = None
        if self._is_waiting():
            self.transport.close()


def serve(settings: Settings) -> int:
    """Answers until a signal stops it: requests that run are finished, half-sent ones are cut."""
    # uvicorn raises the signal again when it has stopped.
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda signum, frame: None)
    uvicorn.run(
        create_app(settings),
        host=settings.host,
        port=settings.port,
        http=Protocol,
        log_config=None,
        access_log=False,
        server_header=False,
        timeout_graceful_shutdown=STOP_SECONDS,
    )
    return 0
{= case "flask" =}
{= place "python-waitress" =}
{= case "stdlib" =}
"""The server: wsgiref, one request a connection, which is not kept waiting and stops cleanly."""

import io
import logging
import signal
import socket
import threading
import time
from contextlib import suppress
from socketserver import ThreadingMixIn
from types import FrameType
from typing import IO, Any
from wsgiref.handlers import SimpleHandler
from wsgiref.simple_server import ServerHandler, WSGIRequestHandler, WSGIServer

from .service import create_app
from .settings import Settings

LARGEST_BODY = 1024 * 1024
MOST_CONNECTIONS = 100
REQUEST_SECONDS = 20
ANSWER_SECONDS = 30
STOP_SECONDS = 10

logger = logging.getLogger(__name__)


class Answer(ServerHandler):
    """Says nothing of itself; the application writes the log."""

    server_software = ""

    def close(self) -> None:
        SimpleHandler.close(self)


class Connection(WSGIRequestHandler):
    """Reads one request, within a time and a size, and answers it."""

    error_content_type = "application/json"
    error_message_format = '{"error": "this request is refused: status %(code)d"}\n'
    server: "Server"
    wfile: IO[bytes]  # type: ignore[assignment]

    def setup(self) -> None:
        super().setup()
        self.cut = threading.Timer(REQUEST_SECONDS, self.server.cut, [self.connection])
        self.cut.daemon = True
        self.cut.start()

    def finish(self) -> None:
        self.cut.cancel()
        super().finish()

    def handle(self) -> None:
        self.raw_requestline = self.rfile.readline(65537)
        if len(self.raw_requestline) > 65536:
            self.refuse(414)
        elif self.raw_requestline and self.parse_request():
            body = self.read_body()
            if body is not None and self.server.begin(self.connection):
                self.cut.cancel()
                self.connection.settimeout(ANSWER_SECONDS)
                environ = self.get_environ()
                handler = Answer(io.BytesIO(body), self.wfile, self.get_stderr(), environ)
                handler.run(self.server.app)

    def read_body(self) -> bytes | None:
        """The body; None where it is refused or cut off."""
        lengths = set(self.headers.get_all("Content-Length", ["0"]))
        length = lengths.pop()
        if "Transfer-Encoding" in self.headers:
            self.refuse(411)
        elif lengths or not (length.isascii() and length.isdecimal()):
            self.refuse(400)
        elif len(length) > 10 or int(length) > LARGEST_BODY:
            self.refuse(413)
        else:
            body = self.rfile.read(int(length))
            return body if len(body) == int(length) else None
        return None

    def refuse(self, status: int) -> None:
        """Answers, and reads a little of what still comes, so that the answer is not lost."""
        self.send_error(status)
        self.connection.settimeout(1)
        with suppress(OSError):
            for _ in range(64):
                if not self.rfile.read(65536):
                    break

    def log_message(self, format: str, *args: Any) -> None:
        # The application writes the log; this is left for broken requests.
        logger.debug(format, *args)


class Server(ThreadingMixIn, WSGIServer):
    daemon_threads = True
    block_on_close = False
    request_queue_size = 128

    def __init__(self, host: str, port: int) -> None:
        self.free = threading.BoundedSemaphore(MOST_CONNECTIONS)
        self.lock = threading.Lock()
        self.reading: set[socket.socket] = set()
        self.answering: set[socket.socket] = set()
        self.is_stopping = False
        super().__init__((host, port), Connection)
        self.app = create_app()

    def process_request(self, request: Any, client_address: Any) -> None:
        if not self.free.acquire(blocking=False):
            self.close_request(request)
            return
        with self.lock:
            self.reading.add(request)
        super().process_request(request, client_address)

    def shutdown_request(self, request: Any) -> None:
        super().shutdown_request(request)
        with self.lock:
            self.reading.discard(request)
            self.answering.discard(request)
        self.free.release()

    def begin(self, request: socket.socket) -> bool:
        """Whether a request that was read may be answered: not once the server stops."""
        with self.lock:
            self.reading.discard(request)
            if not self.is_stopping:
                self.answering.add(request)
            return not self.is_stopping

    def cut(self, request: socket.socket) -> None:
        """Ends a connection whose request is not there in time."""
        with self.lock:
            if request in self.reading:
                request.shutdown(socket.SHUT_RDWR)

    def stop(self) -> None:
        """Finishes the requests that run, within a time, and cuts off half-sent ones."""
        self.server_close()
        with self.lock:
            self.is_stopping = True
            for request in self.reading:
                request.shutdown(socket.SHUT_RDWR)
        deadline = time.monotonic() + STOP_SECONDS
        while self.answering and time.monotonic() < deadline:
            time.sleep(0.05)

    def handle_error(self, request: Any, client_address: Any) -> None:
        logger.debug("a connection broke", exc_info=True)


def serve(settings: Settings) -> int:
    """Answers until a signal stops it."""
    try:
        server = Server(settings.host, settings.port)
    except OSError as error:
        logger.error("cannot listen on %s:%d: %s", settings.host, settings.port, error)
        return 1

    def end(signum: int, frame: FrameType | None) -> None:
        # It waits for the loop that this handler interrupts.
        threading.Thread(target=server.shutdown).start()

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
    logger.info("listening on http://%s:%d", settings.host, server.server_port)
    server.serve_forever(poll_interval=0.1)
    server.stop()
    logger.info("stopped")
    return 0
{= end =}
