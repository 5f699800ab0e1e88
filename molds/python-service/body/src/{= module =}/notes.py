"""Notes: the first resource. They are kept in memory; put a store of your own behind these functions."""

import threading
from typing import Any

from {= module =}.server import Request

LONGEST = 1000

_lock = threading.Lock()
_notes: dict[int, dict[str, Any]] = {1: {"number": 1, "text": "The first note"}}


def list_all(request: Request) -> tuple[int, Any]:
    with _lock:
        return 200, list(_notes.values())


def show(request: Request) -> tuple[int, Any]:
    number = request.parameters["number"]
    with _lock:
        note = _notes.get(int(number)) if number.isascii() and number.isdecimal() else None
    if note is None:
        return 404, {"error": f"there is no note {number}"}
    return 200, note


def create(request: Request) -> tuple[int, Any]:
    body = request.json()
    text = body.get("text") if isinstance(body, dict) else None
    if not isinstance(text, str) or not text.strip() or len(text) > LONGEST:
        return 400, {"error": f"a note has a text of 1 to {LONGEST} characters"}
    with _lock:
        number = max(_notes, default=0) + 1
        _notes[number] = {"number": number, "text": text}
        return 201, _notes[number]
