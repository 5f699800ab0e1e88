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

    def test_departures_are_listed_by_time(self):
        status, departures = self.ask("GET", "/departures")
        self.assertEqual(status, 200)
        times = [departure["leaves"] for departure in departures]
        self.assertEqual(times, sorted(times))

    def test_a_departure_is_made_and_shown(self):
        wanted = {"from": "Gull Point", "to": "Tern Quay", "leaves": "09:30"}
        status, made = self.ask("POST", "/departures", json.dumps(wanted))
        self.assertEqual(status, 201)
        self.assertEqual(made, {"number": made["number"], **wanted})
        self.assertEqual(self.ask("GET", f"/departures/{made['number']}"), (200, made))

    def test_bad_requests_are_refused(self):
        cases = [
            ("GET", "/nowhere", None, 404),
            ("GET", "/departures/99999", None, 404),
            ("GET", "/departures/one", None, 404),
            ("DELETE", "/health", None, 405),
            ("POST", "/departures", "{", 400),
            ("POST", "/departures", "[]", 400),
            ("POST", "/departures", '{"from": "Gull Point"}', 400),
            ("POST", "/departures", '{"from": "a", "to": "b", "leaves": "25:00"}', 400),
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
        self.assertEqual(match("/departures/{number}", "/departures/7"), {"number": "7"})
        self.assertIsNone(match("/departures/{number}", "/departures/"))
        self.assertIsNone(match("/departures", "/departures/7"))

    def test_the_log_is_json(self):
        record = logging.makeLogRecord({"msg": "left %s", "args": ("Gull Point",), "levelname": "INFO", "tide": 2})
        event = json.loads(JsonFormatter().format(record))
        self.assertEqual((event["message"], event["tide"]), ("left Gull Point", 2))


if __name__ == "__main__":
    unittest.main()
