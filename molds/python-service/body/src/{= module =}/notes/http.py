"""Notes over HTTP."""
{= match web =}
{= case "fastapi" =}

from typing import Annotated{= if not stored =}, Any{= end =}

# {= if stored =}
from fastapi import APIRouter, HTTPException, Path, Query, Response, status
from pydantic import AfterValidator, BaseModel

from ..accounts.http import Writer
from ..database import DatabaseSession
from . import storage
# {= else =}
from fastapi import APIRouter, Depends, HTTPException, Path, Query, Request, Response, status
from pydantic import AfterValidator, BaseModel

from . import storage
# {= end =}

router = APIRouter(prefix="/notes", tags=["notes"])
NoteId = Annotated[int, Path(ge=1, le=storage.HIGHEST_ID)]


class NewNote(BaseModel):
    text: Annotated[str, AfterValidator(storage.clean_text)]


class Note(BaseModel):
    id: int
    text: str
    # {= if stored =}
    author: str

    @classmethod
    def of(cls, note: storage.Note) -> "Note":
        return cls(id=note.id, text=note.text, author=note.author.name)
    # {= else =}

    @classmethod
    def of(cls, note: storage.Note) -> "Note":
        return cls(id=note.id, text=note.text)
    # {= end =}
# {= if not stored =}


def kept_notes(request: Request) -> Any:
    """The notes of this application."""
    return request.app.state.notes


Notes = Annotated[storage.Notes, Depends(kept_notes)]
# {= end =}


@router.get("")
def all_notes(
    {= if stored =}session: DatabaseSession{= else =}notes: Notes{= end =},
    after: Annotated[int, Query(ge=0, le=storage.HIGHEST_ID)] = 0,
    limit: Annotated[int, Query(ge=1, le=100)] = 50,
) -> list[Note]:
    """Notes, the oldest first; ask for the next ones after the last id."""
    # {= if stored =}
    return [Note.of(note) for note in storage.notes_after(session, after, limit)]
    # {= else =}
    return [Note.of(note) for note in notes.after(after, limit)]
    # {= end =}


@router.post("", status_code=status.HTTP_201_CREATED)
# {= if stored =}
def add_note(session: DatabaseSession, writer: Writer, new: NewNote, response: Response) -> Note:
    """Add a note."""
    note = storage.add_note(session, writer, new.text)
    # {= else =}
def add_note(notes: Notes, new: NewNote, response: Response) -> Note:
    """Add a note."""
    note = notes.add(new.text)
    # {= end =}
    response.headers["Location"] = f"/notes/{note.id}"
    return Note.of(note)


@router.get("/{note_id}")
# {= if stored =}
def one_note(session: DatabaseSession, note_id: NoteId) -> Note:
    """The note with this id."""
    note = storage.note_of(session, note_id)
    # {= else =}
def one_note(notes: Notes, note_id: NoteId) -> Note:
    """The note with this id."""
    note = notes.get(note_id)
    # {= end =}
    if not note:
        raise HTTPException(status.HTTP_404_NOT_FOUND, f"there is no note {note_id}")
    return Note.of(note)
{= case "flask" =}

import re
from typing import Any

from flask import Blueprint, abort, {= if not stored =}current_app, {= end =}request

# {= if stored =}
from ..accounts.http import writer
from ..database import session
# {= end =}
from . import storage

blueprint = Blueprint("notes", __name__, url_prefix="/notes")


def as_json(note: storage.Note) -> dict[str, Any]:
    # {= if stored =}
    return {"id": note.id, "text": note.text, "author": note.author.name}
    # {= else =}
    return {"id": note.id, "text": note.text}
    # {= end =}


def number(name: str, default: int, least: int, most: int) -> int:
    """A number in the query of the request."""
    given = request.args.get(name, str(default))
    is_number = re.fullmatch("[0-9]{1,10}", given)
    if not is_number or not least <= int(given) <= most:
        abort(422, f"{name} is a number from {least} to {most}")
    return int(given)
# {= if not stored =}


def notes() -> storage.Notes:
    """The notes of this application."""
    kept: storage.Notes = current_app.extensions["notes"]
    return kept
# {= end =}


@blueprint.get("")
def all_notes() -> list[dict[str, Any]]:
    """Notes, the oldest first; ask for the next ones after the last id."""
    after = number("after", 0, 0, storage.HIGHEST_ID)
    limit = number("limit", 50, 1, 100)
    # {= if stored =}
    return [as_json(note) for note in storage.notes_after(session(), after, limit)]
    # {= else =}
    return [as_json(note) for note in notes().after(after, limit)]
    # {= end =}


@blueprint.post("")
def add_note() -> tuple[dict[str, Any], int, dict[str, str]]:
    # {= if stored =}
    author = writer()
    # {= end =}
    given = request.get_json()
    text = given.get("text") if isinstance(given, dict) else None
    if not isinstance(text, str):
        abort(422, "an object with a text is wanted")
    try:
        text = storage.clean_text(text)
    except ValueError as error:
        abort(422, str(error))
    note = {= if stored =}storage.add_note(session(), author, text){= else =}notes().add(text){= end =}
    return as_json(note), 201, {"Location": f"/notes/{note.id}"}


@blueprint.get(f"/<int(min=1, max={storage.HIGHEST_ID}):note_id>")
def one_note(note_id: int) -> dict[str, Any]:
    note = {= if stored =}storage.note_of(session(), note_id){= else =}notes().get(note_id){= end =}
    if not note:
        abort(404, f"there is no note {note_id}")
    return as_json(note)
{= case "stdlib" =}

from dataclasses import asdict

from ..http import HttpError, Request, Response
from . import storage

notes = storage.Notes()


def all_notes(request: Request) -> Response:
    """Notes, the oldest first; ask for the next ones after the last id."""
    after = request.number("after", 0, 0, storage.HIGHEST_ID)
    limit = request.number("limit", 50, 1, 100)
    return Response(200, [asdict(note) for note in notes.after(after, limit)])


def add_note(request: Request) -> Response:
    given = request.json()
    text = given.get("text") if isinstance(given, dict) else None
    if not isinstance(text, str):
        raise HttpError(422, "an object with a text is wanted")
    try:
        note = notes.add(storage.clean_text(text))
    except ValueError as error:
        raise HttpError(422, str(error)) from None
    return Response(201, asdict(note), {"Location": f"/notes/{note.id}"})


def one_note(request: Request) -> Response:
    digits = request.parameters["note_id"]
    note = notes.get(int(digits)) if len(digits) <= 10 else None
    if not note:
        raise HttpError(404, f"there is no note {digits[:20]}")
    return Response(200, asdict(note))
{= end =}
