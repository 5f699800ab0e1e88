"""The database, and the steps of migrations/ that bring it up to date: python -m {= module =}.database"""

from __future__ import annotations

import contextlib
# {= if database == "sqlite" =}
import sqlite3
# {= end =}
import sys
from collections.abc import Iterator
from importlib.resources import files
from typing import Any

# {= if database == "postgres" =}
import psycopg
from psycopg.rows import dict_row

# {= end =}
from {= module =}.config import Config, ConfigError

# {= if database == "sqlite" =}
DatabaseError = sqlite3.Error


@contextlib.contextmanager
def connect(database: str) -> Iterator[Any]:
    """A connection to the file. What is done with it is kept at the end, and undone where something fails."""
    connection = sqlite3.connect(database, timeout=10, isolation_level=None)
    connection.row_factory = sqlite3.Row
    try:
        connection.execute("PRAGMA foreign_keys = on")
        connection.execute("BEGIN IMMEDIATE")
        yield connection
        connection.execute("COMMIT")
    finally:
        # What was not kept is undone by closing.
        connection.close()
# {= else =}
DatabaseError = psycopg.Error


@contextlib.contextmanager
def connect(database: str) -> Iterator[Any]:
    """A connection to the server. What is done with it is kept at the end, and undone where something fails."""
    with psycopg.connect(database, row_factory=dict_row, connect_timeout=10) as connection:
        yield connection
# {= end =}


def migrate(database: str) -> list[str]:
    """Runs the steps that have not run, in the order of their names; gives these names."""
    steps = (step for step in files("{= module =}").joinpath("migrations").iterdir() if step.name.endswith(".sql"))
    steps = sorted(steps, key=lambda step: step.name)
    with connect(database) as connection:
        # {= if database == "postgres" =}
        # One at a time, however many services start at once.
        connection.execute("SELECT pg_advisory_xact_lock(1)")
        # {= end =}
        connection.execute("CREATE TABLE IF NOT EXISTS migrations (name text PRIMARY KEY)")
        done = {row["name"] for row in connection.execute("SELECT name FROM migrations")}
        new = [step for step in steps if step.name not in done]
        for step in new:
            for statement in step.read_text(encoding="utf-8").split(";\n"):
                if statement.strip():
                    connection.execute(statement)
            connection.execute("INSERT INTO migrations (name) VALUES ({= mark =})", (step.name,))
    return [step.name for step in new]


def main() -> int:
    try:
        new = migrate(Config.from_environment().database)
    except (ConfigError, DatabaseError) as error:
        print(f"error: {error}", file=sys.stderr)
        return 1
    print("\n".join(f"ran {name}" for name in new) or "the database is up to date")
    return 0


if __name__ == "__main__":
    sys.exit(main())
