"""What happens to every request: a line in the log, and the headers that browsers obey."""

import logging
import time
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from .. import log

POLICY = "; ".join(
    [
        "default-src 'self'",
        "img-src 'self' data:",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
        "object-src 'none'",
    ]
)

logger = logging.getLogger(__name__)

Answering = Callable[[HttpRequest], HttpResponse]


def log_request(get_response: Answering) -> Answering:
    def answer(request: HttpRequest) -> HttpResponse:
        started = time.perf_counter()
        request_id = log.begin_request(request.headers.get("X-Request-ID"))
        response = get_response(request)
        facts = {
            "method": request.method,
            "path": request.path,
            "status": response.status_code,
            "milliseconds": round((time.perf_counter() - started) * 1000, 1),
        }
        logger.info("%(method)s %(path)s %(status)d", facts, extra=facts)
        response.headers["X-Request-ID"] = request_id
        return response

    return answer


def add_policy(get_response: Answering) -> Answering:
    """Allows nothing but files of the site itself; Django's own page of an error needs more."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        if not settings.DEBUG:
            response.headers.setdefault("Content-Security-Policy", POLICY)
        return response

    return answer
