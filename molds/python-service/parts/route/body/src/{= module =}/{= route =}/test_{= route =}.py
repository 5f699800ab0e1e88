"""The route /{= path =}, asked over HTTP."""
{= match web =}
{= case "stdlib" =}

import unittest

from ..testing import ask


class {= route.pascal =}Test(unittest.TestCase):
    def test_it_answers(self) -> None:
        answer = ask("GET", "/{= path =}")
        self.assertEqual((answer.status, answer.content), (200, []))
        self.assertEqual(ask("DELETE", "/{= path =}").status, 405)
{= case "fastapi" =}

from fastapi.testclient import TestClient


def test_it_answers(client: TestClient) -> None:
    answer = client.get("/{= path =}")
    assert answer.status_code == 200
    assert answer.json() == []
    assert client.delete("/{= path =}").status_code == 405
{= case "flask" =}

from flask.testing import FlaskClient


def test_it_answers(client: FlaskClient) -> None:
    answer = client.get("/{= path =}")
    assert answer.status_code == 200
    assert answer.get_json() == []
    assert client.delete("/{= path =}").status_code == 405
{= end =}
