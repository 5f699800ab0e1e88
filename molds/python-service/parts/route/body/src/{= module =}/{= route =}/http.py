# {= does =}
{= match web =}
{= case "stdlib" =}

from ..http import Request, Response


def all_{= route =}(request: Request) -> Response:
    """All of them: the start of what it is to answer."""
    return Response(200, [])
{= case "fastapi" =}

from fastapi import APIRouter
from pydantic import BaseModel

router = APIRouter(prefix="/{= path =}", tags=["{= path =}"])


class {= route.pascal =}(BaseModel):
    """One of them, as the answer describes it."""

    id: int


@router.get("")
def all_{= route =}() -> list[{= route.pascal =}]:
    """All of them: the start of what it is to answer."""
    return []
{= case "flask" =}

from typing import Any

from flask import Blueprint

blueprint = Blueprint("{= route =}", __name__)


@blueprint.get("/{= path =}")
def all_{= route =}() -> list[dict[str, Any]]:
    """All of them: the start of what it is to answer."""
    return []
{= end =}
