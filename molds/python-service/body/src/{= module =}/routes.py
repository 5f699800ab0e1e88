{= match web =}
{= case "stdlib" =}
"""Which function answers which request. Add routes here.

A handler takes a Request and gives an Answer. A part of the path in braces is handed over in request.parameters.
"""

from __future__ import annotations

# {= if stored =}
from {= module =}.accounts import may_write
# {= end =}
from {= module =}.config import Config
from {= module =}.notes import NoteError, Notes
# {= if pages =}
from {= module =}.pages import page
# {= end =}
from {= module =}.server import Answer, BadRequest, Request, Routes

# joint: imports (tinmold)


def routes(config: Config) -> Routes:
    notes = Notes({= if stored =}config.database{= end =})

    def health(request: Request) -> Answer:
        return Answer(200, {"status": "ok"})

    # {= if pages =}
    def home(request: Request) -> Answer:
        return Answer(200, page("notes.html", notes=notes.all(), error=""))

    def add(request: Request) -> Answer:
        own_page_only(request)
        # {= if stored =}
        if not may_write(config.database, request.headers.get("Authorization")):
            refused = page("notes.html", notes=notes.all(), error="Only accounts may write.")
            return Answer(401, refused, {"WWW-Authenticate": "Basic"})
        # {= end =}
        try:
            notes.add(request.form().get("text"))
        except NoteError as error:
            return Answer(400, page("notes.html", notes=notes.all(), error=str(error)))
        return Answer(303, "", {"Location": "/"})
    # {= else =}
    def show_all(request: Request) -> Answer:
        return Answer(200, notes.all())

    def show(request: Request) -> Answer:
        note = notes.find(request.parameters["number"])
        if note is None:
            raise BadRequest(f"there is no note {request.parameters['number']}", 404)
        return Answer(200, note)

    def add(request: Request) -> Answer:
        # {= if stored =}
        if not may_write(config.database, request.headers.get("Authorization")):
            return Answer(401, {"error": "only accounts may write"}, {"WWW-Authenticate": "Basic"})
        # {= end =}
        body = request.json()
        try:
            return Answer(201, notes.add(body.get("text") if isinstance(body, dict) else None))
        except NoteError as error:
            raise BadRequest(str(error)) from None
    # {= end =}

    return [
        ("GET", "/health", health),
        # {= if pages =}
        ("GET", "/", home),
        ("POST", "/notes", add),
        # {= else =}
        ("GET", "/notes", show_all),
        ("POST", "/notes", add),
        ("GET", "/notes/{number}", show),
        # {= end =}
        # joint: routes (tinmold)
    ]
# {= if pages =}


def own_page_only(request: Request) -> None:
    """Browsers say where a form was sent from; pages of others may not write here."""
    if request.headers.get("Sec-Fetch-Site", "none") not in ("same-origin", "none"):
        raise BadRequest("this form was sent from another site", 403)
# {= end =}
{= case "flask" =}
"""Which function answers which request. Add routes here, or blueprints of your own."""

from __future__ import annotations

from flask import Blueprint, {= if pages =}redirect, render_template, request{= else =}request{= end =}
from werkzeug.exceptions import {= if pages =}Forbidden{= else =}NotFound{= end =}

# {= if stored =}
from {= module =}.accounts import may_write
# {= end =}
from {= module =}.config import Config
from {= module =}.notes import {= if pages =}NoteError, {= end =}Notes

# joint: imports (tinmold)


def routes(config: Config) -> Blueprint:
    routes = Blueprint("notes", __name__)
    notes = Notes({= if stored =}config.database{= end =})

    @routes.get("/health")
    def health():
        return {"status": "ok"}

    # {= if pages =}
    @routes.get("/")
    def home():
        return render_template("notes.html", notes=notes.all(), error="")

    @routes.post("/notes")
    def add():
        own_page_only()
        # {= if stored =}
        if not may_write(config.database, request.headers.get("Authorization")):
            refused = render_template("notes.html", notes=notes.all(), error="Only accounts may write.")
            return refused, 401, {"WWW-Authenticate": "Basic"}
        # {= end =}
        try:
            notes.add(request.form.get("text"))
        except NoteError as error:
            return render_template("notes.html", notes=notes.all(), error=str(error)), 400
        return redirect("/", 303)
    # {= else =}
    @routes.get("/notes")
    def show_all():
        return notes.all()

    @routes.get("/notes/<number>")
    def show(number: str):
        note = notes.find(number)
        if note is None:
            raise NotFound(f"there is no note {number}")
        return note

    @routes.post("/notes")
    def add():
        # {= if stored =}
        if not may_write(config.database, request.headers.get("Authorization")):
            return {"error": "only accounts may write"}, 401, {"WWW-Authenticate": "Basic"}
        # {= end =}
        body = request.get_json(force=True)
        return notes.add(body.get("text") if isinstance(body, dict) else None), 201
    # {= end =}

    # joint: routes (tinmold)
    return routes
# {= if pages =}


def own_page_only() -> None:
    """Browsers say where a form was sent from; pages of others may not write here."""
    if request.headers.get("Sec-Fetch-Site", "none") not in ("same-origin", "none"):
        raise Forbidden("this form was sent from another site")
# {= end =}
{= case "fastapi" =}
"""Which function answers which request. Add routes here, or routers of your own."""

{= if pages =}
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from fastapi.templating import Jinja2Templates
{= else =}
from typing import Annotated, Any

from fastapi import APIRouter, Body, HTTPException{= if stored =}, Request{= end =}
{= end =}

# {= if stored =}
from {= module =}.accounts import may_write
# {= end =}
from {= module =}.config import Config
from {= module =}.notes import {= if pages =}NoteError, {= end =}Notes

# joint: imports (tinmold)
# {= if pages =}

templates = Jinja2Templates(Path(__file__).parent / "templates")
# {= end =}


def routes(config: Config) -> APIRouter:
    routes = APIRouter()
    notes = Notes({= if stored =}config.database{= end =})

    @routes.get("/health")
    def health() -> dict[str, str]:
        return {"status": "ok"}

    # {= if pages =}
    def notes_page(request: Request, error: str = "", status: int = 200) -> HTMLResponse:
        shown = {"notes": notes.all(), "error": error}
        return templates.TemplateResponse(request, "notes.html", shown, status)

    @routes.get("/")
    def home(request: Request) -> HTMLResponse:
        return notes_page(request)

    @routes.post("/notes")
    def add(request: Request, text: Annotated[str, Form()] = "") -> Response:
        own_page_only(request)
        # {= if stored =}
        if not may_write(config.database, request.headers.get("Authorization")):
            refused = notes_page(request, "Only accounts may write.", 401)
            refused.headers["WWW-Authenticate"] = "Basic"
            return refused
        # {= end =}
        try:
            notes.add(text)
        except NoteError as error:
            return notes_page(request, str(error), 400)
        return RedirectResponse("/", 303)
    # {= else =}
    @routes.get("/notes")
    def show_all() -> list[dict[str, Any]]:
        return notes.all()

    @routes.get("/notes/{number}")
    def show(number: str) -> dict[str, Any]:
        note = notes.find(number)
        if note is None:
            raise HTTPException(404, f"there is no note {number}")
        return note

    @routes.post("/notes", status_code=201)
    def add({= if stored =}request: Request, {= end =}body: Annotated[Any, Body()]) -> dict[str, Any]:
        # {= if stored =}
        if not may_write(config.database, request.headers.get("Authorization")):
            raise HTTPException(401, "only accounts may write", {"WWW-Authenticate": "Basic"})
        # {= end =}
        return notes.add(body.get("text") if isinstance(body, dict) else None)
    # {= end =}

    # joint: routes (tinmold)
    return routes
# {= if pages =}


def own_page_only(request: Request) -> None:
    """Browsers say where a form was sent from; pages of others may not write here."""
    if request.headers.get("Sec-Fetch-Site", "none") not in ("same-origin", "none"):
        raise HTTPException(403, "this form was sent from another site")
# {= end =}
{= end =}
