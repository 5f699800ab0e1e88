"""The log: one line an event, on standard error."""

import json
import logging
import sys
from datetime import {= if web == "fastapi" =}UTC, datetime{= else =}datetime, timezone{= end =}

from {= module =} import NAME

# What a record has of its own; anything else was passed as extra={...}.
_OWN = frozenset(vars(logging.makeLogRecord({}))) | {"message"{= if web == "fastapi" =}, "color_message"{= end =}}


class JsonFormatter(logging.Formatter):
    """An object a line: time, level, service, logger, message and whatever was passed as extra."""

    def format(self, record: logging.LogRecord) -> str:
        event = {
            "time": datetime.fromtimestamp(record.created, {= if web == "fastapi" =}UTC{= else =}timezone.utc{= end =}).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "service": NAME,
            "logger": record.name,
            "message": record.getMessage(),
        }
        event.update((key, value) for key, value in vars(record).items() if key not in _OWN)
        if record.exc_info:
            event["error"] = self.formatException(record.exc_info)
        return json.dumps(event, ensure_ascii=False, default=str)


class TextFormatter(logging.Formatter):
    """A sentence a line, which stays one line whatever a request brings; a traceback follows on lines of its own."""

    def formatMessage(self, record: logging.LogRecord) -> str:
        record.message = "".join(c if c.isprintable() else "?" for c in record.message)
        return super().formatMessage(record)


def set_up(log_format: str, log_level: str) -> None:
    handler = logging.StreamHandler(sys.stderr)
    if log_format == "json":
        handler.setFormatter(JsonFormatter())
    else:
        handler.setFormatter(TextFormatter(f"%(asctime)s %(levelname)-7s {NAME} %(message)s"))
    logging.basicConfig(level=log_level, handlers=[handler], force=True)
