{= match web =}
{= case "fastapi" =}
"""Whether the service runs, and whether it can answer."""

# {= if stored =}
import logging

from fastapi import APIRouter, HTTPException, status
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from .database import DatabaseSession

logger = logging.getLogger(__name__)
# {= else =}
from fastapi import APIRouter

# {= end =}
router = APIRouter(tags=["health"])


@router.get("/health")
def health() -> dict[str, str]:
    """Whether the service runs."""
    return {"status": "running"}


@router.get("/ready")
# {= if stored =}
def ready(session: DatabaseSession) -> dict[str, str]:
    """Whether the service can answer: it asks the database."""
    try:
        session.execute(text("SELECT 1 FROM note LIMIT 1"))
    except SQLAlchemyError as error:
        logger.error("the database does not answer: %s", error)
        raise HTTPException(
            status.HTTP_503_SERVICE_UNAVAILABLE, "the database does not answer"
        ) from None
    return {"status": "ready"}
# {= else =}
def ready() -> dict[str, str]:
    """Whether the service can answer."""
    return {"status": "ready"}
# {= end =}
{= case "flask" =}
"""Whether the service runs, and whether it can answer."""

# {= if stored =}
import logging

from flask import Blueprint, abort
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from .database import session

logger = logging.getLogger(__name__)
# {= else =}
from flask import Blueprint

# {= end =}
blueprint = Blueprint("health", __name__)


@blueprint.get("/health")
def health() -> dict[str, str]:
    """Whether the service runs."""
    return {"status": "running"}


@blueprint.get("/ready")
def ready() -> dict[str, str]:
    # {= if stored =}
    """Whether the service can answer: it asks the database."""
    try:
        session().execute(text("SELECT 1 FROM note LIMIT 1"))
    except SQLAlchemyError as error:
        logger.error("the database does not answer: %s", error)
        abort(503, "the database does not answer")
    # {= else =}
    """Whether the service can answer."""
    # {= end =}
    return {"status": "ready"}
{= case "stdlib" =}
"""Whether the service runs, and whether it can answer."""

from .http import Request, Response


def health(request: Request) -> Response:
    """Whether the service runs."""
    return Response(200, {"status": "running"})


def ready(request: Request) -> Response:
    """Whether the service can answer: ask here what it needs for that."""
    return Response(200, {"status": "ready"})
{= end =}
