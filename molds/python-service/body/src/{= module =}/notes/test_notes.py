"""The notes, asked over HTTP."""
{= match web =}
{= case "stdlib" =}

import unittest

from ..testing import ask


class NotesTest(unittest.TestCase):
    def test_a_note_is_added_and_found(self) -> None:
        added = ask("POST", "/notes", {"text": " Buy paint "})
        self.assertEqual((added.status, added.content["text"]), (201, "Buy paint"))
        self.assertEqual(ask("GET", added.headers["Location"]).content, added.content)
        before = added.content["id"] - 1
        self.assertEqual(ask("GET", f"/notes?after={before}&limit=1").content, [added.content])

    def test_what_is_refused(self) -> None:
        for content, status in [
            ({"text": " "}, 422),
            ({"text": "x" * 1001}, 422),
            ({"text": "a\0b"}, 422),
            ({"text": "\ud800"}, 422),
            ({}, 422),
            ([], 422),
        ]:
            with self.subTest(content=content):
                self.assertEqual(ask("POST", "/notes", content).status, status)
        self.assertEqual(ask("POST", "/notes", body=b"{", kind="application/json").status, 400)
        self.assertEqual(ask("POST", "/notes", body=b"text=a", kind="text/plain").status, 415)
        for path in ["/notes/0", "/notes/99999999999999999999"]:
            self.assertEqual(ask("GET", path).status, 404)
        for query in ["after=-1", "limit=0", "limit=101", "after=x", "after="]:
            self.assertEqual(ask("GET", f"/notes?{query}").status, 422)
{= else =}

import pytest
# {= if web == "fastapi" =}
from fastapi.testclient import TestClient
# {= else =}
from flask.testing import FlaskClient
# {= end =}


def test_a_note_is_added_and_found(client: {= client =}{= if stored =}, writer: dict[str, str]{= end =}) -> None:
    added = client.post("/notes", json={"text": " Buy paint "}{= if stored =}, headers=writer{= end =})
    note = added.{= json =}()
    assert added.status_code == 201
    assert note == {"id": 1, "text": "Buy paint"{= if stored =}, "author": "pat"{= end =}}
    assert client.get(added.headers["Location"]).{= json =}() == note
    assert client.get("/notes").{= json =}() == [note]
    assert client.get("/notes?after=1").{= json =}() == []
{= if stored =}


def test_only_accounts_write(client: {= client =}) -> None:
    refused = client.post("/notes", json={"text": "Buy paint"})
    assert refused.status_code == 401
    assert refused.headers["WWW-Authenticate"] == "Bearer"
    assert client.get("/notes").{= json =}() == []
{= end =}


@pytest.mark.parametrize(
    "content",
    [{"text": " "}, {"text": "x" * 1001}, {"text": "a\0b"}, {}, []],
)
# {= if stored =}
def test_what_is_no_note_is_refused(
    client: {= client =}, writer: dict[str, str], content: object
) -> None:
    # {= else =}
def test_what_is_no_note_is_refused(client: {= client =}, content: object) -> None:
    # {= end =}
    assert client.post("/notes", json=content{= if stored =}, headers=writer{= end =}).status_code == 422


def test_only_json_is_read(client: {= client =}{= if stored =}, writer: dict[str, str]{= end =}) -> None:
    for kind, status in [("text/plain", {= if web == "fastapi" =}422{= else =}415{= end =}), ("application/json", {= if web == "fastapi" =}422{= else =}400{= end =})]:
        headers = {"Content-Type": kind{= if stored =}, **writer{= end =}}
        {= if web == "fastapi" =}answer = client.post("/notes", content=b"{", headers=headers){= else =}answer = client.post("/notes", data=b"{", headers=headers){= end =}
        assert answer.status_code == status


@pytest.mark.parametrize("query", ["after=-1", "limit=0", "limit=101", "after=x", "after="])
def test_ranges_of_the_list(client: {= client =}, query: str) -> None:
    assert client.get(f"/notes?{query}").status_code == 422


@pytest.mark.parametrize("note_id", ["1", "0", "99999999999999999999"])
def test_notes_that_are_not_there(client: {= client =}, note_id: str) -> None:
    assert client.get(f"/notes/{note_id}").status_code in (404, 422)
{= end =}
