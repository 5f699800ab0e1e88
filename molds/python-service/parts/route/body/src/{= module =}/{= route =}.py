# {= does =}
{= match web =}
{= case "stdlib" =}

# {= if pages =}
from {= module =}.pages import page
# {= end =}
from {= module =}.server import Answer, Request


def show_all(request: Request) -> Answer:
    """All of them: the start of what it is to answer."""
    # {= if pages =}
    return Answer(200, page("{= route =}.html", {= route =}=[]))
    # {= else =}
    return Answer(200, [])
    # {= end =}
{= case "flask" =}

from flask import Blueprint{= if pages =}, render_template{= end =}

routes = Blueprint("{= route =}", __name__)


@routes.get("/{= path =}")
def show_all():
    """All of them: the start of what it is to answer."""
    # {= if pages =}
    return render_template("{= route =}.html", {= route =}=[])
    # {= else =}
    return []
    # {= end =}
{= case "fastapi" =}

# {= if pages =}
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates

templates = Jinja2Templates(Path(__file__).parent / "templates")
routes = APIRouter()


@routes.get("/{= path =}")
def show_all(request: Request) -> HTMLResponse:
    """All of them: the start of what it is to answer."""
    return templates.TemplateResponse(request, "{= route =}.html", {"{= route =}": []})
# {= else =}
from typing import Any

from fastapi import APIRouter

routes = APIRouter()


@routes.get("/{= path =}")
def show_all() -> list[Any]:
    """All of them: the start of what it is to answer."""
    return []
# {= end =}
{= end =}
