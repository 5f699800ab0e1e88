"""The log: one line an event, on standard error."""

import json
import logging
import re
import sys
from contextvars import ContextVar
from datetime import UTC, datetime
from uuid import uuid4

from . import NAME

request_id: ContextVar[str] = ContextVar("request_id", default="-")

# What a record has of its own; anything else was passed as extra={...}.
_OWN = frozenset(vars(logging.makeLogRecord({}))) | {"message", "asctime"{= if web == "fastapi" =}, "color_message"{= end =}}
_GIVEN_ID = re.compile(r"[A-Za-z0-9._-]{1,64}")


def begin_request(given: str | None) -> str:
    """Takes the id that a proxy gave the request, or makes one; every line of the log then has it."""
    chosen = given if given and _GIVEN_ID.fullmatch(given) else uuid4().hex
    request_id.set(chosen)
    return chosen


class JsonFormatter(logging.Formatter):
    """An object a line: time, level, service, request, message and whatever was passed as extra."""

    def format(self, record: logging.LogRecord) -> str:
        event: dict[str, object] = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "service": NAME,
            "logger": record.name,
            "request": request_id.get(),
            "message": record.getMessage(),
        }
        event.update((key, value) for key, value in vars(record).items() if key not in _OWN)
        if record.exc_info:
            event["error"] = self.formatException(record.exc_info)
        return json.dumps(event, ensure_ascii=False, default=str)


class TextFormatter(logging.Formatter):
    """A sentence a line, which stays one line whatever a request brings; a trace follows it."""

    def formatMessage(self, record: logging.LogRecord) -> str:
        record.message = "".join(c if c.isprintable() else "?" for c in record.message)
        return f"{record.asctime} {record.levelname:7} {request_id.get()[:8]:8} {record.message}"

    def usesTime(self) -> bool:
        return True


def set_up(log_format: str, log_level: str) -> None:
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(JsonFormatter() if log_format == "json" else TextFormatter())
    logging.basicConfig(level=log_level, handlers=[handler], force=True)
