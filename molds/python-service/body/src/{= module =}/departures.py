"""Departures: the first resource. They are kept in memory; put a store of your own behind these functions."""

import re
import threading
from typing import Any

from {= module =}.server import Request

_lock = threading.Lock()
_departures: dict[int, dict[str, Any]] = {
    1: {"number": 1, "from": "Gull Point", "to": "Osier Island", "leaves": "07:40"},
    2: {"number": 2, "from": "Netley Stairs", "to": "Tern Quay", "leaves": "08:15"},
}


def list_all(request: Request) -> tuple[int, Any]:
    with _lock:
        return 200, sorted(_departures.values(), key=lambda departure: departure["leaves"])


def show(request: Request) -> tuple[int, Any]:
    number = request.parameters["number"]
    with _lock:
        departure = _departures.get(int(number)) if number.isascii() and number.isdecimal() else None
    if departure is None:
        return 404, {"error": f"there is no departure {number}"}
    return 200, departure


def create(request: Request) -> tuple[int, Any]:
    body = request.json()
    if not isinstance(body, dict):
        return 400, {"error": "an object is wanted"}
    wrong = [key for key in ("from", "to", "leaves") if not isinstance(body.get(key), str) or not body[key].strip()]
    if wrong:
        return 400, {"error": f"missing or empty: {', '.join(wrong)}"}
    if not re.fullmatch(r"([01]\d|2[0-3]):[0-5]\d", body["leaves"]):
        return 400, {"error": "leaves is a time such as 09:30"}
    with _lock:
        number = max(_departures, default=0) + 1
        _departures[number] = {"number": number, **{key: body[key] for key in ("from", "to", "leaves")}}
        return 201, _departures[number]
