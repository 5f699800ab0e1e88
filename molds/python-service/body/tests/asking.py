"""Starts the service on a free port of this machine, and asks it."""

from __future__ import annotations

# {= if stored =}
import base64
# {= end =}
import json
import logging
# {= if database == "sqlite" =}
import tempfile
# {= else if database == "postgres" =}
import os
# {= end =}
import threading
import unittest
from http.client import HTTPConnection
# {= if database == "sqlite" =}
from pathlib import Path
# {= end =}
from typing import Any

# {= if stored =}
from {= module =} import accounts
# {= end =}
from {= module =}.config import Config
# {= if stored =}
from {= module =}.database import {= if database == "postgres" =}connect, {= end =}migrate
# {= end =}
from {= module =}.server import Service

# {= if stored =}
NAME, PASSWORD = "pat", "nine plus one"
WRITER = {"Authorization": "Basic " + base64.b64encode(f"{NAME}:{PASSWORD}".encode()).decode()}


# {= else =}
WRITER: dict[str, str] = {}


# {= end =}
class ServiceCase(unittest.TestCase):
    """Tests that ask a service, which is started once for all of them."""

    @classmethod
    def setUpClass(cls) -> None:
        logging.disable(logging.CRITICAL)
        cls.addClassCleanup(logging.disable, logging.NOTSET)
        # {= if stored =}
        database = new_database(cls)
        migrate(database)
        accounts.make(database, NAME, PASSWORD)
        cls.service = Service(Config(port=0, database=database))
        # {= else =}
        cls.service = Service(Config(port=0))
        # {= end =}
        thread = threading.Thread(target=cls.service.serve)
        thread.start()
        cls.addClassCleanup(thread.join)
        cls.addClassCleanup(cls.service.stop)

    def ask(self, method: str, path: str, body: str | None = None, headers: dict[str, str] | None = None) -> tuple[int, Any]:
        """Gives the status, and the JSON or the text of the answer."""
        connection = HTTPConnection(*self.service.address, timeout=10)
        try:
            connection.request(method, path, body, {"Content-Type": "application/json", **(headers or {})})
            response = connection.getresponse()
            text = response.read().decode()
            is_json = (response.headers["Content-Type"] or "").startswith("application/json")
            return response.status, json.loads(text) if is_json else text
        finally:
            connection.close()
# {= if database == "sqlite" =}


def new_database(case: type[unittest.TestCase]) -> str:
    folder = tempfile.TemporaryDirectory()
    case.addClassCleanup(folder.cleanup)
    return str(Path(folder.name) / "tests.sqlite3")
# {= else if database == "postgres" =}


def new_database(case: type[unittest.TestCase]) -> str:
    """A schema of its own in the database of TEST_DATABASE_URL."""
    server = os.environ.get("TEST_DATABASE_URL")
    if not server:
        raise unittest.SkipTest("TEST_DATABASE_URL names no database for the tests")
    schema = f"tests_{os.getpid()}_{case.__name__.lower()}"

    def remove() -> None:
        with connect(server) as connection:
            connection.execute(f"DROP SCHEMA IF EXISTS {schema} CASCADE")

    remove()
    with connect(server) as connection:
        connection.execute(f"CREATE SCHEMA {schema}")
    case.addClassCleanup(remove)
    return f"{server}{'&' if '?' in server else '?'}options=-csearch_path%3D{schema}"
# {= end =}
