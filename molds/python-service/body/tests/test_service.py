"""The whole service, asked over HTTP on a free port of this machine."""

import json
import logging
import threading
import unittest
from http.client import HTTPConnection

from {= module =}.config import Config, ConfigError
from {= module =}.log import JsonFormatter
from {= module =}.routes import ROUTES
from {= module =}.server import Server, match


class ServiceTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        logging.disable(logging.CRITICAL)
        cls.server = Server("127.0.0.1", 0, ROUTES)
        cls.thread = threading.Thread(target=cls.server.serve_forever, kwargs={"poll_interval": 0.05})
        cls.thread.start()

    @classmethod
    def tearDownClass(cls):
        cls.server.shutdown()
        cls.thread.join()
        cls.server.server_close()
        logging.disable(logging.NOTSET)

    def ask(self, method, path, body=None):
        connection = HTTPConnection(*self.server.server_address[:2], timeout=5)
        try:
            connection.request(method, path, body)
            response = connection.getresponse()
            return response.status, json.loads(response.read())
        finally:
            connection.close()

    def test_it_is_healthy(self):
        self.assertEqual(self.ask("GET", "/health"), (200, {"status": "ok"}))

    def test_a_note_is_made_and_shown(self):
        status, made = self.ask("POST", "/notes", json.dumps({"text": "Buy \"paint\"\n"}))
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
            with self.subTest(f"{method} {path} {body}"):
                status, content = self.ask(method, path, body)
                self.assertEqual(status, expected)
                self.assertIn("error", content)


class PiecesTest(unittest.TestCase):
    def test_settings_come_from_the_environment(self):
        config = Config.from_environment({"PORT": "0", "LOG_LEVEL": "debug"})
        self.assertEqual((config.port, config.log_level), (0, "DEBUG"))
        for wrong in ({"PORT": "99999"}, {"PORT": "x"}, {"LOG_FORMAT": "loud"}, {"LOG_LEVEL": "x"}):
            with self.subTest(wrong), self.assertRaises(ConfigError):
                Config.from_environment(wrong)

    def test_a_pattern_gives_parameters(self):
        self.assertEqual(match("/notes/{number}", "/notes/7"), {"number": "7"})
        self.assertIsNone(match("/notes/{number}", "/notes/"))
        self.assertIsNone(match("/notes", "/notes/7"))

    def test_the_log_is_json(self):
        record = logging.makeLogRecord({"msg": "kept %s", "args": ("a note",), "levelname": "INFO", "pages": 2})
        event = json.loads(JsonFormatter().format(record))
        self.assertEqual((event["message"], event["pages"]), ("kept a note", 2))


if __name__ == "__main__":
    unittest.main()
