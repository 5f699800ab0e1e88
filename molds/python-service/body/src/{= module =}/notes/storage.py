{= if stored =}
"""Notes in the database."""

from sqlalchemy import ForeignKey, String, select
from sqlalchemy.orm import Mapped, Session, mapped_column, relationship

from ..accounts.storage import Account
from ..database import Base

LONGEST = 1000
HIGHEST_ID = 2**31 - 1


class Note(Base):
    __tablename__ = "note"

    id: Mapped[int] = mapped_column(primary_key=True)
    text: Mapped[str] = mapped_column(String(LONGEST))
    author_id: Mapped[int] = mapped_column(ForeignKey("account.id"))
    author: Mapped[Account] = relationship(lazy="joined")


def add_note(session: Session, author: Account, text: str) -> Note:
    note = Note(text=text, author=author)
    session.add(note)
    session.commit()
    return note


def notes_after(session: Session, after: int, limit: int) -> list[Note]:
    """At most `limit` notes, the oldest first, that are newer than the note `after`."""
    query = select(Note).where(Note.id > after).order_by(Note.id).limit(limit)
    return list(session.scalars(query))


def note_of(session: Session, note_id: int) -> Note | None:
    return session.get(Note, note_id)
{= else =}
"""Notes in memory: they last as long as the service."""

from dataclasses import dataclass
from threading import Lock

LONGEST = 1000
HIGHEST_ID = 2**31 - 1


@dataclass(frozen=True)
class Note:
    id: int
    text: str


class Notes:
    """Notes that several threads may add to; the newest thousand are kept."""

    MOST = 1000

    def __init__(self) -> None:
        self._lock = Lock()
        self._notes: dict[int, Note] = {}
        self._newest = 0

    def add(self, text: str) -> Note:
        with self._lock:
            self._newest += 1
            note = self._notes[self._newest] = Note(self._newest, text)
            self._notes.pop(self._newest - self.MOST, None)
            return note

    def after(self, after: int, limit: int) -> list[Note]:
        """At most `limit` notes, the oldest first, that are newer than the note `after`."""
        with self._lock:
            return [note for note in self._notes.values() if note.id > after][:limit]

    def get(self, note_id: int) -> Note | None:
        with self._lock:
            return self._notes.get(note_id)
{= end =}


def clean_text(text: str) -> str:
    """The text without white space around it; raises ValueError where it cannot be a note."""
    text = text.strip()
    if not 0 < len(text) <= LONGEST:
        raise ValueError(f"a note has from 1 to {LONGEST} characters")
    if not all(c.isprintable() or c in "\n\t" for c in text):
        raise ValueError("a note has no control characters")
    return text
