{= if stored =}
"""Notes: the first resource. Copy it or replace it."""
{= else =}
"""Notes: the first resource, kept in memory. Put a store of your own behind it, or replace it."""
{= end =}

from __future__ import annotations

# {= if not stored =}
import threading
# {= end =}
from typing import Any
# {= if stored =}

from {= module =}.database import connect
# {= end =}

LONGEST = 1000


class NoteError(ValueError):
    """What cannot be a note; why, in a sentence."""


class Notes:
    # {= if stored =}
    """The notes of a database."""

    def __init__(self, database: str) -> None:
        self._database = database

    def all(self) -> list[dict[str, Any]]:
        with connect(self._database) as connection:
            return [dict(row) for row in connection.execute("SELECT number, text FROM notes ORDER BY number")]

    def find(self, number: str) -> dict[str, Any] | None:
        if not number.isascii() or not number.isdecimal() or len(number) > 9:
            return None
        with connect(self._database) as connection:
            found = connection.execute("SELECT number, text FROM notes WHERE number = {= mark =}", (int(number),))
            row = found.fetchone()
            return dict(row) if row else None

    def add(self, text: Any) -> dict[str, Any]:
        text = checked(text)
        with connect(self._database) as connection:
            made = connection.execute("INSERT INTO notes (text) VALUES ({= mark =}) RETURNING number, text", (text,))
            return dict(made.fetchone())
    # {= else =}
    """Notes, numbered from 1."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._notes: dict[int, dict[str, Any]] = {1: {"number": 1, "text": "The first note"}}

    def all(self) -> list[dict[str, Any]]:
        with self._lock:
            return list(self._notes.values())

    def find(self, number: str) -> dict[str, Any] | None:
        if not number.isascii() or not number.isdecimal() or len(number) > 9:
            return None
        with self._lock:
            return self._notes.get(int(number))

    def add(self, text: Any) -> dict[str, Any]:
        text = checked(text)
        with self._lock:
            number = max(self._notes, default=0) + 1
            self._notes[number] = {"number": number, "text": text}
            return self._notes[number]
    # {= end =}


def checked(text: Any) -> str:
    """The text of a note, if it can be one."""
    if not isinstance(text, str) or not text.strip() or len(text) > LONGEST{= if database == "postgres" =} or "\0" in text{= end =}:
        raise NoteError(f"a note has a text of 1 to {LONGEST} characters")
    return text
