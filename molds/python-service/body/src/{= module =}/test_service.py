"""The service as a whole: health, refusals, limits and stopping."""
{= if web == "stdlib" =}

import http.client
import os
import re
import signal
import socket
import subprocess
import sys
import unittest
from unittest import mock

from . import service
from .http import Application
from .testing import ask


class ServiceTest(unittest.TestCase):
    def test_it_says_how_it_is(self) -> None:
        self.assertEqual(ask("GET", "/health").content, {"status": "running"})
        self.assertEqual(ask("GET", "/ready").status, 200)
        self.assertEqual(ask("HEAD", "/health").content, None)

    def test_what_is_not_there(self) -> None:
        self.assertEqual(ask("GET", "/nothing").status, 404)
        refused = ask("DELETE", "/notes")
        self.assertEqual((refused.status, refused.headers["Allow"]), (405, "GET, HEAD, POST"))

    def test_a_failing_handler_tells_nothing(self) -> None:
        broken = Application([("GET", "/", mock.Mock(side_effect=RuntimeError("a secret")))])
        with self.assertLogs(level="ERROR") as logged:
            answer = ask("GET", "/", app=broken)
        self.assertEqual((answer.status, "secret" in str(answer.content)), (500, False))
        self.assertIn("a secret", logged.output[0])

    def test_each_route_has_a_function(self) -> None:
        self.assertTrue(all(callable(handler) for _, _, handler in service.ROUTES))


class ProcessTest(unittest.TestCase):
    """The real process, on a free port."""

    def setUp(self) -> None:
        command = [sys.executable, "-m", __package__ or ""]
        environment = {**os.environ, "PORT": "0", "LOG_FORMAT": "text", "LOG_LEVEL": "INFO"}
        environment["PYTHONPATH"] = os.pathsep.join(sys.path)
        self.process = subprocess.Popen(command, stderr=subprocess.PIPE, text=True, env=environment)
        self.addCleanup(self.process.communicate)
        self.addCleanup(self.process.kill)
        assert self.process.stderr
        line = self.process.stderr.readline()
        found = re.search(r"http://127\.0\.0\.1:(\d+)", line)
        assert found, line
        self.port = int(found[1])

    def test_bodies_have_limits(self) -> None:
        for headers, status in [
            ({"Content-Length": "99999999"}, 413),
            ({"Content-Length": "1, 2"}, 400),
            ({"Transfer-Encoding": "chunked"}, 411),
        ]:
            connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
            connection.putrequest("POST", "/notes")
            for name, value in headers.items():
                connection.putheader(name, value)
            connection.endheaders()
            self.assertEqual(connection.getresponse().status, status)
            connection.close()

    @unittest.skipIf(os.name == "nt", "Windows ends a process without asking it")
    def test_a_stop_cuts_half_sent_requests(self) -> None:
        with socket.create_connection(("127.0.0.1", self.port), timeout=10) as half_sent:
            half_sent.sendall(b"POST /notes HTTP/1.1\r\nContent-Length: 10\r\n\r\n")
            connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
            connection.request("GET", "/health")
            self.assertEqual(connection.getresponse().status, 200)
            connection.close()
            self.process.send_signal(signal.SIGTERM)
            self.assertEqual(half_sent.recv(1), b"")
        self.assertEqual(self.process.wait(10), 0)
{= else =}

import json
import logging
import os
import re
import signal
import socket
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import pytest
# {= if stored =}
from alembic import command
# {= end =}
# {= if web == "fastapi" =}
from fastapi import FastAPI
from fastapi.testclient import TestClient
# {= else =}
from flask import Flask
from flask.testing import FlaskClient
# {= end =}

# {= if stored =}
from .database import migrations
# {= end =}
from .log import JsonFormatter


def test_it_says_how_it_is(client: {= client =}) -> None:
    assert client.get("/health").{= json =}() == {"status": "running"}
    assert client.get("/ready").status_code == 200
    assert client.head("/health").status_code == 200


def test_what_is_not_there(client: {= client =}) -> None:
    assert client.get("/nothing").status_code == 404
    refused = client.delete("/notes")
    assert refused.status_code == 405
    assert set(refused.headers["Allow"].split(", ")) >= {"GET", "HEAD", "POST"}


def test_a_failing_handler_tells_nothing(
    client: {= client =}, caplog: pytest.LogCaptureFixture
) -> None:
    def fail() -> str:
        raise RuntimeError("a secret")

    # {= if web == "fastapi" =}
    assert isinstance(client.app, FastAPI)
    client.app.add_api_route("/failing", fail)
    # {= else =}
    app: Flask = client.application
    app.add_url_rule("/failing", view_func=fail)
    # {= end =}
    with caplog.at_level(logging.ERROR):
        answer = client.get("/failing")
    assert answer.status_code == 500
    assert "secret" not in answer.text
    assert "a secret" in caplog.text
# {= if stored =}


def test_the_migrations_make_the_tables_of_the_code(database_url: str) -> None:
    command.check(migrations(database_url))


def test_alembic_finds_the_migrations(database_url: str) -> None:
    subprocess.run(
        [sys.executable, "-m", "alembic", "check"],
        check=True,
        cwd=Path(__file__).parents[2],
        env={**os.environ, "DATABASE_URL": database_url},
    )
# {= end =}


{= place "python-log-test" =}


@pytest.mark.skipif(os.name == "nt", reason="Windows ends a process without asking it")
def test_a_stop_cuts_half_sent_requests({= if database == "postgres" =}database_url: str{= else =}tmp_path: Path{= end =}) -> None:
    environment = {**os.environ, "PORT": "0", "LOG_FORMAT": "text", "LOG_LEVEL": "INFO"}
    # {= if database == "sqlite" =}
    environment["DATABASE_URL"] = f"sqlite:///{tmp_path / 'process.sqlite3'}"
    # {= else if database == "postgres" =}
    environment["DATABASE_URL"] = database_url
    # {= end =}
    started = [sys.executable, "-m", __package__ or ""]
    # {= if database == "postgres" =}
    with subprocess.Popen(started, stderr=subprocess.PIPE, text=True, env=environment) as process:
        # {= else =}
    with subprocess.Popen(
        started, stderr=subprocess.PIPE, text=True, env=environment, cwd=tmp_path
    ) as process:
        # {= end =}
        assert process.stderr
        lines = iter(process.stderr.readline, "")
        found = next(filter(None, (re.search(r"http://[0-9.]+:(\d+)", line) for line in lines)))
        with socket.create_connection(("127.0.0.1", int(found[1])), timeout=10) as half_sent:
            half_sent.sendall(b"POST /notes HTTP/1.1\r\nHost: ")
            process.send_signal(signal.SIGTERM)
            with suppress(ConnectionResetError):
                assert half_sent.recv(1) == b""
        assert process.wait(20) == 0
{= end =}
