"""Accounts, asked over HTTP."""

# {= if web == "fastapi" =}
from fastapi.testclient import TestClient
# {= else =}
from flask.testing import FlaskClient
# {= end =}

from ..conftest import NAME, PASSWORD


def test_a_token_ends_with_signing_out(client: {= client =}, writer: dict[str, str]) -> None:
    assert client.post("/notes", json={"text": "a"}, headers=writer).status_code == 201
    assert client.delete("/session", headers=writer).status_code == 204
    assert client.post("/notes", json={"text": "a"}, headers=writer).status_code == 401


def test_guesses_are_few(client: {= client =}) -> None:
    wrong = {"name": NAME, "password": "one boat and no buoy"}
    for status in [403, 403, 403, 403, 403, 429]:
        assert client.post("/session", json=wrong).status_code == status
    right = {"name": NAME, "password": PASSWORD}
    assert client.post("/session", json=right).status_code == 429


def test_who_is_unknown_learns_no_more(client: {= client =}) -> None:
    for name in ["nobody", "", "\0", "x" * 1000]:
        answer = client.post("/session", json={"name": name, "password": PASSWORD})
        assert answer.status_code in (403, 422)


def test_tokens_that_are_none(client: {= client =}) -> None:
    for given in ["Bearer x", "Bearer", "Basic cGF0OnBhdA==", "x"]:
        answer = client.delete("/session", headers={"Authorization": given})
        assert answer.status_code == 401
