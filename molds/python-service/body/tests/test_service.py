"""The whole service, asked over HTTP on a free port of this machine."""

import json
import logging
import unittest
# {= if pages =}
from urllib.parse import urlencode
# {= end =}

from asking import WRITER, ServiceCase{= if stored =}, new_database{= end =}

from {= module =}.config import Config, ConfigError
# {= if stored =}
from {= module =}.database import migrate
# {= end =}
from {= module =}.log import JsonFormatter, TextFormatter
# {= if web == "stdlib" =}
from {= module =}.server import match
# {= end =}


class ServiceTest(ServiceCase):
    def test_it_is_healthy(self):
        self.assertEqual(self.ask("GET", "/health"), (200, {"status": "ok"}))

    # {= if pages =}
    def post(self, text, headers=WRITER):
        form = {"Content-Type": "application/x-www-form-urlencoded", **headers}
        return self.ask("POST", "/notes", urlencode({"text": text}), form)

    def test_a_note_is_made_and_shown(self):
        self.assertEqual(self.post("<b>Buy \"paint\"</b>")[0], 303)
        status, page = self.ask("GET", "/")
        self.assertEqual(status, 200)
        self.assertIn("The first note", page)
        self.assertIn("&lt;b&gt;Buy", page)
        self.assertNotIn("<b>Buy", page)

    def test_bad_requests_are_refused(self):
        self.assertEqual(self.post(" ")[0], 400)
        self.assertIn("1 to 1000 characters", self.post("x" * 1001)[1])
        self.assertEqual(self.post("mine", {**WRITER, "Sec-Fetch-Site": "cross-site"})[0], 403)
        self.assertEqual(self.ask("GET", "/nowhere")[0], 404)
        self.assertEqual(self.ask("DELETE", "/health")[0], 405)
    # {= if stored =}

    def test_only_accounts_write(self):
        self.assertEqual(self.post("mine", {})[0], 401)
        self.assertEqual(self.post("mine", {"Authorization": "Basic cGF0Ondyb25n"})[0], 401)
    # {= end =}
    # {= else =}
    def test_a_note_is_made_and_shown(self):
        status, made = self.ask("POST", "/notes", json.dumps({"text": "Buy \"paint\"\n"}), WRITER)
        self.assertEqual(status, 201)
        self.assertEqual(made, {"number": made["number"], "text": "Buy \"paint\"\n"})
        self.assertEqual(self.ask("GET", f"/notes/{made['number']}"), (200, made))
        self.assertGreater(len(self.ask("GET", "/notes")[1]), 1)

    def test_bad_requests_are_refused(self):
        cases = [
            ("GET", "/nowhere", None, 404),
            ("GET", "/notes/99999", None, 404),
            ("GET", "/notes/one", None, 404),
            ("DELETE", "/health", None, 405),
            ("POST", "/notes", "{", 400),
            ("POST", "/notes", "[]", 400),
            ("POST", "/notes", '{"text": 1}', 400),
            ("POST", "/notes", '{"text": " "}', 400),
        ]
        for method, path, body, expected in cases:
            with self.subTest(f"{method} {path} {(body or '')[:20]}"):
                status, content = self.ask(method, path, body, WRITER)
                self.assertEqual(status, expected)
                self.assertIn("error", content)

    def test_too_much_is_refused(self):
        # {= if web == "flask" =}
        status, _ = self.ask("POST", "/notes", json.dumps({"text": "x" * 2_000_000}), WRITER)
        # {= else =}
        # It is refused by its length, before any of it is read.
        status, _ = self.ask("POST", "/notes", None, {**WRITER, "Content-Length": "2000000"})
        # {= end =}
        self.assertEqual(status, 413)
    # {= if stored =}

    def test_only_accounts_write(self):
        for headers in ({}, {"Authorization": "Basic cGF0Ondyb25n"}, {"Authorization": "Bearer x"}):
            status, _ = self.ask("POST", "/notes", '{"text": "mine"}', headers)
            self.assertEqual(status, 401, headers)
    # {= end =}
    # {= end =}


class PiecesTest(unittest.TestCase):
    def test_settings_come_from_the_environment(self):
        # {= if stored =}
        config = Config.from_environment({"PORT": "0", "LOG_LEVEL": "debug", "{= database_variable =}": "x"})
        # {= else =}
        config = Config.from_environment({"PORT": "0", "LOG_LEVEL": "debug"})
        # {= end =}
        self.assertEqual((config.port, config.log_level), (0, "DEBUG"))
        for wrong in ({"PORT": "99999"}, {"PORT": "x"}, {"LOG_FORMAT": "loud"}, {"LOG_LEVEL": "x"}):
            with self.subTest(wrong), self.assertRaises(ConfigError):
                Config.from_environment(wrong)

    # {= if stored =}
    def test_a_step_runs_once(self):
        database = new_database(type(self))
        self.assertEqual(migrate(database), ["0001_start.sql"])
        self.assertEqual(migrate(database), [])

    # {= end =}
    # {= if web == "stdlib" =}
    def test_a_pattern_gives_parameters(self):
        self.assertEqual(match("/notes/{number}", "/notes/7"), {"number": "7"})
        self.assertIsNone(match("/notes/{number}", "/notes/"))
        self.assertIsNone(match("/notes", "/notes/7"))

    # {= end =}
    def test_the_log_is_json(self):
        record = logging.makeLogRecord({"msg": "kept %s", "args": ("a note",), "levelname": "INFO", "pages": 2})
        event = json.loads(JsonFormatter().format(record))
        self.assertEqual((event["message"], event["pages"]), ("kept a note", 2))

    def test_a_line_of_the_log_stays_one(self):
        record = logging.makeLogRecord({"msg": "GET %s", "args": ("/a\n\x1bb",)})
        self.assertEqual(TextFormatter("%(message)s").format(record), "GET /a??b")


if __name__ == "__main__":
    unittest.main()
