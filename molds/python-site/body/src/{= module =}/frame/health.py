"""Whether the site runs, and whether it can answer."""

import logging

from django.db import DatabaseError, connection
from django.http import HttpRequest, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

logger = logging.getLogger(__name__)


@require_safe
@never_cache
def health(request: HttpRequest) -> JsonResponse:
    """Whether the site runs."""
    return JsonResponse({"status": "running"})


@require_safe
@never_cache
def ready(request: HttpRequest) -> JsonResponse:
    """Whether the site can answer: it asks the database."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1 FROM django_migrations LIMIT 1")
    except DatabaseError as error:
        logger.error("the database does not answer: %s", error)
        return JsonResponse({"status": "the database does not answer"}, status=503)
    return JsonResponse({"status": "ready"})
