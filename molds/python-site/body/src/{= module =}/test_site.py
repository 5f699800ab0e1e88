"""The site as a whole: its health, headers, refusals and errors, and how it stops."""

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
from unittest import mock

import pytest
from django.core.management import call_command
from django.db import OperationalError
from django.test import Client
from pytest_django import Settings

from .log import JsonFormatter
from .notices import pages


@pytest.mark.django_db
def test_it_says_how_it_is(visitor: Client) -> None:
    assert visitor.get("/health").json() == {"status": "running"}
    assert visitor.get("/ready").status_code == 200
    assert visitor.head("/health").status_code == 200


def test_it_is_not_ready_without_its_database(visitor: Client) -> None:
    broken = mock.Mock(cursor=mock.Mock(side_effect=OperationalError("no such server")))
    with mock.patch("{= module =}.frame.health.connection", broken):
        assert visitor.get("/ready").status_code == 503
        assert visitor.get("/health").status_code == 200


@pytest.mark.django_db
def test_what_is_not_there(visitor: Client) -> None:
    assert visitor.get("/nothing").status_code == 404
    refused = visitor.delete("/")
    assert refused.status_code == 405
    assert set(refused.headers["Allow"].split(", ")) == {"GET", "HEAD"}


@pytest.mark.django_db
def test_every_page_tells_browsers_to_be_careful(visitor: Client) -> None:
    headers = visitor.get("/", headers={"x-request-id": "from-a-proxy"}).headers
    assert "default-src 'self'" in headers["Content-Security-Policy"]
    assert headers["X-Frame-Options"] == "DENY"
    assert headers["X-Content-Type-Options"] == "nosniff"
    assert headers["Referrer-Policy"] == "same-origin"
    assert headers["X-Request-ID"] == "from-a-proxy"


@pytest.mark.django_db
def test_a_failing_page_tells_nothing(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    monkeypatch.setattr(pages, "Paginator", mock.Mock(side_effect=RuntimeError("a secret")))
    visitor = Client(raise_request_exception=False)
    with caplog.at_level(logging.ERROR):
        answer = visitor.get("/")
    assert answer.status_code == 500
    assert b"secret" not in answer.content
    assert "a secret" in caplog.text


@pytest.mark.django_db
def test_the_migrations_make_the_tables_of_the_code() -> None:
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)


def test_a_deployment_is_sound(settings: Settings) -> None:
    settings.SECRET_KEY = "0123456789" * 5 + "abcdefgh"
    settings.SECURE_HSTS_SECONDS = 60
    settings.SECURE_SSL_REDIRECT = True
    settings.SESSION_COOKIE_SECURE = settings.CSRF_COOKIE_SECURE = True
    # Whether its other names are only served by HTTPS, and browsers may keep that in a list.
    settings.SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
    call_command("check", deploy=True, fail_level="WARNING")


{= place "python-log-test" =}


@pytest.mark.skipif(os.name == "nt", reason="Windows ends a process without asking it")
# {= if database == "postgres" =}
@pytest.mark.django_db
# {= end =}
def test_a_stop_cuts_half_sent_requests(tmp_path: Path) -> None:
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "{= module =}.settings",
        # {= if database == "sqlite" =}
        "DATABASE_URL": f"sqlite:///{tmp_path / 'process.sqlite3'}",
        # {= end =}
        "STATIC_ROOT": str(tmp_path),
    }
    with subprocess.Popen(
        [sys.executable, "-m", __package__ or ""],
        stderr=subprocess.PIPE,
        text=True,
        env=environment,
        cwd=tmp_path,
    ) as process:
        assert process.stderr
        lines = iter(process.stderr.readline, "")
        found = next(filter(None, (re.search(r"http://[0-9.]+:(\d+)", line) for line in lines)))
        with socket.create_connection(("127.0.0.1", int(found[1])), timeout=10) as half_sent:
            half_sent.sendall(b"POST /sign-in/ HTTP/1.1\r\nHost: ")
            process.send_signal(signal.SIGTERM)
            with suppress(ConnectionResetError):
                assert half_sent.recv(1) == b""
        assert process.wait(20) == 0


@pytest.mark.parametrize(
    ("variable", "value"),
    [("PORT", "abc"), ("PORT", "70000"), ("HTTPS", "perhaps"), ("LOG_FORMAT", "x")],
)
def test_wrong_settings_are_told(tmp_path: Path, variable: str, value: str) -> None:
    wrong = {"DJANGO_SETTINGS_MODULE": "{= module =}.settings", variable: value}
    command = [sys.executable, "-m", __package__ or "", "check"]
    done = subprocess.run(
        command, env={**os.environ, **wrong}, cwd=tmp_path, capture_output=True, text=True
    )
    assert done.returncode == 2
    assert done.stderr.startswith(f"{variable} is '{value}'")
