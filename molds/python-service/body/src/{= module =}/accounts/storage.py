"""Accounts and tokens in the database; only digests of passwords and tokens are kept."""

import hashlib
import re
import secrets
import time
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from sqlalchemy import BigInteger, ForeignKey, String, delete, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Mapped, Session, mapped_column, relationship

from ..database import Base

NAMES = re.compile(r"[a-z0-9][a-z0-9._-]{0,63}")
SHORTEST_PASSWORD = 12
LONGEST_PASSWORD = 1000
TOKEN_SECONDS = 12 * 3600
# So many wrong passwords for a name from an address, in so many seconds.
MOST_ATTEMPTS = 5
ATTEMPT_SECONDS = 600

_hasher = PasswordHasher()
# A digest takes 64 MiB while it is made.
_turns = BoundedSemaphore(4)
# What an unknown name is compared with, so that it takes as long as a known one.
_NOBODY = _hasher.hash(secrets.token_hex())


class AccountError(Exception):
    """What the rules of accounts refuse."""


class TooManyAttemptsError(AccountError):
    """Too many wrong passwords."""


class Account(Base):
    __tablename__ = "account"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(64), unique=True)
    password_hash: Mapped[str] = mapped_column(String(200))


class Token(Base):
    __tablename__ = "token"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    expires: Mapped[int] = mapped_column(BigInteger, index=True)
    account: Mapped[Account] = relationship()


class Attempt(Base):
    __tablename__ = "attempt"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(64))
    address: Mapped[str] = mapped_column(String(64))
    time: Mapped[int] = mapped_column(BigInteger, index=True)


def make_account(session: Session, name: str, password: str) -> Account:
    """Makes an account; raises AccountError where its name or password cannot be one."""
    if not NAMES.fullmatch(name):
        raise AccountError("a name has small letters, digits, dots and hyphens, at most 64")
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise AccountError(f"a password has at least {SHORTEST_PASSWORD} characters")
    account = Account(name=name, password_hash=_hasher.hash(password))
    session.add(account)
    try:
        session.commit()
    except IntegrityError:
        session.rollback()
        raise AccountError(f"there is an account {name} already") from None
    return account


def sign_in(session: Session, name: str, password: str, address: str) -> str | None:
    """Gives a new token, or None where the password is wrong.

    Raises TooManyAttemptsError. The attempt is counted before the password is looked at, so that
    attempts at the same time count, too.
    """
    now = int(time.time())
    if not NAMES.fullmatch(name) or len(password) > LONGEST_PASSWORD:
        return None
    session.execute(delete(Attempt).where(Attempt.time < now - ATTEMPT_SECONDS))
    session.execute(delete(Token).where(Token.expires < now))
    session.add(Attempt(name=name, address=address[:64], time=now))
    session.commit()
    ours = (Attempt.name == name, Attempt.address == address[:64])
    if (session.scalar(select(func.count()).where(*ours)) or 0) > MOST_ATTEMPTS:
        raise TooManyAttemptsError("too many wrong passwords; try again in ten minutes")
    account = session.scalar(select(Account).where(Account.name == name))
    # No connection is held while the digest is made.
    session.rollback()
    with _turns:
        try:
            _hasher.verify(account.password_hash if account else _NOBODY, password)
        except VerifyMismatchError:
            return None
    if not account:
        return None
    token = secrets.token_urlsafe(32)
    session.execute(delete(Attempt).where(*ours))
    session.add(Token(digest=_digest(token), account_id=account.id, expires=now + TOKEN_SECONDS))
    session.commit()
    return token


def account_of(session: Session, token: str) -> Account | None:
    """Whose token it is; None where it is nobody's or too old."""
    is_it = (Token.digest == _digest(token), Token.expires >= int(time.time()))
    return session.scalar(select(Account).join(Token.account.of_type(Account)).where(*is_it))


def sign_out(session: Session, token: str) -> None:
    session.execute(delete(Token).where(Token.digest == _digest(token)))
    session.commit()


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode(errors="replace")).hexdigest()
