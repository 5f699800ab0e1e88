"""Who may write: python -m {= module =}.accounts NAME makes an account, or gives it a new password."""

from __future__ import annotations

import base64
import getpass
import hashlib
import hmac
import secrets
import sys

from {= module =}.config import Config, ConfigError
from {= module =}.database import DatabaseError, connect, migrate

SHORTEST = 10


def make(database: str, name: str, password: str) -> None:
    """Makes an account, or gives it a new password."""
    if not name or ":" in name or len(password) < SHORTEST:
        raise ValueError(f"an account has a name without a colon, and a password of {SHORTEST} characters or more")
    salt = secrets.token_bytes(16)
    with connect(database) as connection:
        connection.execute("DELETE FROM accounts WHERE name = {= mark =}", (name,))
        values = (name, salt, hashed(password, salt))
        connection.execute("INSERT INTO accounts (name, salt, hash) VALUES ({= mark =}, {= mark =}, {= mark =})", values)


def may_write(database: str, authorization: str | None) -> bool:
    """Whether the header Authorization (RFC 7617) holds the name and password of an account."""
    kind, _, encoded = (authorization or "").partition(" ")
    if kind.lower() != "basic":
        return False
    try:
        name, _, password = base64.b64decode(encoded, validate=True).decode().partition(":")
    except ValueError:
        return False
    # {= if database == "postgres" =}
    if "\0" in name:
        return False
    # {= end =}
    with connect(database) as connection:
        row = connection.execute("SELECT salt, hash FROM accounts WHERE name = {= mark =}", (name,)).fetchone()
    # An unknown name takes as long as a wrong password.
    salt, expected = (bytes(row["salt"]), bytes(row["hash"])) if row else (b"", b"")
    return hmac.compare_digest(hashed(password, salt), expected) and row is not None


def hashed(password: str, salt: bytes) -> bytes:
    return hashlib.scrypt(password.encode(), salt=salt, n=2**14, r=8, p=1)


def main(arguments: list[str]) -> int:
    if len(arguments) != 1:
        print("usage: python -m {= module =}.accounts NAME", file=sys.stderr)
        return 2
    password = getpass.getpass(f"Password for {arguments[0]}: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    try:
        database = Config.from_environment().database
        migrate(database)
        make(database, arguments[0], password)
    except (ConfigError, DatabaseError, ValueError) as error:
        print(f"error: {error}", file=sys.stderr)
        return 1
    print(f"{arguments[0]} may write")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
